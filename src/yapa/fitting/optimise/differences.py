"""Finite differences in the unit box, and Broyden's correction of a Jacobian: one column at a time, for every optimiser.

A forward difference goes backward where the box ends; a central one is one-sided there. Broyden's rank-one correction makes a
Jacobian
give the change that was seen along the step that was taken (Broyden, Mathematics of Computation 19, 1965).
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from yapa.motion import Array

Function = Callable[[Array], Array]


def forward(function: Function, p: Array, here: Array, j: int, size: float) -> Array:
    """Return the derivative of a function by one entry of a vector, (R,), from one further value.

    Parameters
    ----------
    function : takes a vector (P,) and returns values (R,)
    p : (P,) the vector
    here : (R,) values at the vector
    j : index of the entry
    size : of the step, in the unit box
    """
    step = size if p[j] + size <= 1.0 else -size
    q = p.copy()
    q[j] += step
    return np.asarray((function(q) - here) / step)


def central(function: Function, p: Array, j: int, size: float) -> Array:
    """Return the derivative of a function by one entry of a vector, (R,), from two further values.

    Parameters
    ----------
    function : takes a vector (P,) and returns values (R,)
    p : (P,) the vector
    j : index of the entry
    size : of the step to either side, in the unit box
    """
    up, down = p.copy(), p.copy()
    up[j], down[j] = min(p[j] + size, 1.0), max(p[j] - size, 0.0)
    return np.asarray((function(up) - function(down)) / (up[j] - down[j]))


def broyden(J: Array, step: Array, change: Array) -> Array:
    """Return a Jacobian corrected so that it gives a change along a step.

    Parameters
    ----------
    J : (R, P) the Jacobian
    step : (P,) the step that was taken
    change : (R,) how the values changed along it
    """
    return np.asarray(J + np.outer((change - J @ step) / float(step @ step), step))
