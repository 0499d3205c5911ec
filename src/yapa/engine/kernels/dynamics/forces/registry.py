"""Forces beyond gravity, damping and drag: each declares an acceleration, and all regimes use their sum (``more``).

A module listed in NAMES has

    COLUMNS                                  how many numbers it keeps of every body
    parameters(case, name, numbers)          these numbers, in SI units; ``numbers`` are the case's, path → value
    acceleration(b, at, S, P, cfg)           along x, y, z; its numbers stand in ``P[b, at : at + COLUMNS]``. It is compiled

and, where the acceleration may grow within a step to more than twice what it is at its start, a ``bound`` with the arguments of
``acceleration``. Both may read the time, ``cfg[config.NOW]``. The event-driven regime takes a force at the middle of a substep
(second order), the others at its start. A force may give energy: the guards
read its power from its acceleration (``dynamics.work``).
Nothing here, and no module that is listed, imports numba: the host reads both.
"""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from types import ModuleType

from yapa.case.model import Case

NAMES: tuple[str, ...] = ()
"""Modules of this package that are further forces. A force is one entry here."""
FORCES: tuple[ModuleType, ...] = tuple(import_module(f"yapa.engine.kernels.dynamics.forces.{name}") for name in NAMES)
COLUMNS = sum(int(force.COLUMNS) for force in FORCES)


def parameters_of(case: Case, name: str, numbers: Mapping[str, float]) -> list[float]:
    """Return the numbers that all forces keep of a body, side by side.

    Parameters
    ----------
    case : the case
    name : name of the body
    numbers : path → value, SI units
    """
    return [float(value) for force in FORCES for value in force.parameters(case, name, numbers)]
