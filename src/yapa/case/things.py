"""Bodies by what they are, with units.

Lengths, masses, speeds and angles are numbers in SI units or text with a unit (``"3.7 cm"``, ``"180 g"``); places and vectors are
lists, tuples or arrays of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import product
from math import cos, sin
from typing import Any

import numpy as np

from yapa.case.quantity_text import number_with_unit
from yapa.case.scene import Body, Box, Plane, Sphere
from yapa.case.validation import in_words
from yapa.errors import bad_input

Number = float | int | str
"""in SI units, or text with a unit"""
Vector = Sequence[Number] | np.ndarray


def _number(value: Number, kind: str) -> float:
    return number_with_unit(f"bodies.it.{kind}", value) if isinstance(value, str) else float(value)


def _vector(values: Vector, kind: str) -> tuple[float, float, float]:
    if isinstance(values, str) or len(values) != 3:
        raise bad_input(kind, repr(values), "three numbers, such as (0, 0, '80 cm')")
    x, y, z = (_number(value if isinstance(value, str) else float(value), kind) for value in values)
    return x, y, z


def _edges(size: Number | Vector) -> tuple[float, float, float]:
    if isinstance(size, int | float | str):
        edge = _number(size, "length")
        return edge, edge, edge
    return _vector(size, "position")


def _body(shapes: tuple[Any, ...], at: Vector, mass: Number | None, density: Number | None, velocity: Vector, spin: Vector,
          more: dict[str, Any]
          ) -> Body:
    heavy: dict[str, Any] = {} if mass is None else {"mass": _number(mass, "mass")}
    heavy |= {} if density is None else {"density": _number(density, "density")}
    return Body(shapes=shapes, position=_vector(at, "position"), velocity=_vector(velocity, "velocity"),
                angular_velocity=_vector(spin, "angular_velocity"), **heavy, **more)


@in_words("a ball")
def ball(radius: Number, *, at: Vector = (0, 0, 0), mass: Number | None = None, density: Number | None = None,
         velocity: Vector = (0, 0, 0),
         spin: Vector = (0, 0, 0), surface: str = "default", **more: Any) -> Body:
    """Return a ball that moves.

    Parameters
    ----------
    radius : [m] or with a unit
    at : its centre [m]
    mass : [kg]; 1 kg if neither it nor the density is given
    density : [kg/m³], in place of the mass
    velocity : at the start [m/s]
    spin : at the start [rad/s]
    surface : name of its surface
    more : other fields of :class:`Body`

    Returns
    -------
    Body
        Dynamic, with one sphere.

    Raises
    ------
    InputError
        If a number or a unit cannot be read.

    Notes
    -----
    SI units, axes right-handed with z up.

    Examples
    --------
    >>> ball("3.7 cm", at=(0, 0, "1.42 m"), mass="182 g").mass
    0.182
    """
    shape = Sphere(kind="sphere", radius=_number(radius, "radius"), surface=surface)
    return _body((shape,), at, mass, density, velocity, spin, more)


@in_words("a crate")
def crate(size: Number | Vector, *, at: Vector = (0, 0, 0), mass: Number | None = None, density: Number | None = None,
          velocity: Vector = (0, 0, 0), spin: Vector = (0, 0, 0), surface: str = "default", **more: Any) -> Body:
    """Return a box that moves.

    Parameters
    ----------
    size : its edges [m], or one for a cube
    at : its centre [m]
    mass : [kg]; 1 kg if neither it nor the density is given
    density : [kg/m³], in place of the mass
    velocity : at the start [m/s]
    spin : at the start [rad/s]
    surface : name of its surface
    more : other fields of :class:`Body`

    Returns
    -------
    Body
        Dynamic, with one box.

    Raises
    ------
    InputError
        If a number or a unit cannot be read.

    Notes
    -----
    SI units, axes right-handed with z up.

    Examples
    --------
    >>> crate(("40 cm", 0.3, 0.2), density=120).shapes[0].size
    (0.4, 0.3, 0.2)
    """
    shape = Box(kind="box", size=_edges(size), surface=surface)
    return _body((shape,), at, mass, density, velocity, spin, more)


@in_words("a floor")
def floor(*, height: Number = 0.0, tilt: Number = 0.0, surface: str = "default") -> Body:
    """Return an endless floor.

    Parameters
    ----------
    height : of the floor below the origin of the axes [m]
    tilt : about y [rad]; above zero it falls along +x
    surface : name of its surface

    Returns
    -------
    Body
        Static, with one plane.

    Raises
    ------
    InputError
        If a number or a unit cannot be read.

    Notes
    -----
    Solid below.

    Examples
    --------
    >>> floor(height="80 cm").position
    (0.0, 0.0, 0.8)
    """
    half = 0.5 * _number(tilt, "tilt")
    return Body(motion="static", shapes=(Plane(kind="plane", normal=(0.0, 0.0, 1.0), surface=surface),),
                position=(0.0, 0.0, _number(height, "length")), orientation=(cos(half), 0.0, sin(half), 0.0))


@in_words("a wall")
def wall(size: Vector, *, at: Vector = (0, 0, 0), surface: str = "default") -> Body:
    """Return a wall: a box that never moves.

    Parameters
    ----------
    size : its edges [m]
    at : its centre [m]
    surface : name of its surface

    Returns
    -------
    Body
        Static, with one box.

    Raises
    ------
    InputError
        If a number or a unit cannot be read.

    Notes
    -----
    Solid on all sides.

    Examples
    --------
    >>> wall((0.1, 2, 2), at=(1, 0, 1)).motion
    'static'
    """
    return Body(motion="static", shapes=(Box(kind="box", size=_vector(size, "position"), surface=surface),),
                position=_vector(at, "position"))


@in_words("a bin")
def open_bin(inside: Vector, *, at: Vector = (0, 0, 0), thickness: Number = 0.02, surface: str = "default") -> Body:
    """Return a bin without a lid, of a bottom and four planks.

    Parameters
    ----------
    inside : its inner edges [m]
    at : the middle of its bottom's upper face [m]
    thickness : of the planks [m]
    surface : name of its surface

    Returns
    -------
    Body
        Static, with five boxes.

    Raises
    ------
    InputError
        If a number or a unit cannot be read.

    Notes
    -----
    The planks stand on the bottom's level and overlap at the corners.

    Examples
    --------
    >>> len(open_bin((0.6, 0.4, 0.3)).shapes)
    5
    """
    (x, y, z), t = _vector(inside, "position"), _number(thickness, "length")
    sides = [((x + 2 * t, y + 2 * t, t), (0.0, 0.0, -t / 2))]
    sides += [((t, y + 2 * t, z), (s * (x + t) / 2, 0.0, z / 2)) for s in (-1, 1)]
    sides += [((x + 2 * t, t, z), (0.0, s * (y + t) / 2, z / 2)) for s in (-1, 1)]
    return Body(motion="static", shapes=tuple(Box(kind="box", size=size, position=place, surface=surface) for size, place in sides),
                position=_vector(at, "position"))


@in_words("a lane")
def lane(length: Number, width: Number, *, rail: Number = 0.05, thickness: Number = 0.02, at: Vector = (0, 0, 0),
         tilt: Number = 0.0,
         surface: str = "default") -> Body:
    """Return a lane along x with a rail on either side.

    Parameters
    ----------
    length : along x [m]
    width : between the rails [m]
    rail : height of the rails [m]
    thickness : of the boards [m]
    at : the middle of its upper face [m]
    tilt : about y [rad]; above zero it falls along +x
    surface : name of its surface

    Returns
    -------
    Body
        Static, with three boxes.

    Raises
    ------
    InputError
        If a number or a unit cannot be read.

    Notes
    -----
    It turns about the middle of its upper face.

    Examples
    --------
    >>> len(lane("4 m", "30 cm", tilt="2 deg").shapes)
    3
    """
    long, wide, high, t = (_number(v, "length") for v in (length, width, rail, thickness))
    boards = [((long, wide + 2 * t, t), (0.0, 0.0, -t / 2)),
              *(((long, t, high), (0.0, s * (wide + t) / 2, high / 2)) for s in (-1, 1))]
    half = 0.5 * _number(tilt, "tilt")
    return Body(motion="static", shapes=tuple(Box(kind="box", size=size, position=place, surface=surface) for size,
                                              place in boards),
                position=_vector(at, "position"), orientation=(cos(half), 0.0, sin(half), 0.0))


def copies(name: str, body: Body, counts: Sequence[int], step: Vector) -> dict[str, Body]:
    """Return copies of a body in a row or a grid, each with a name of its own.

    Parameters
    ----------
    name : in front of the numbers: ``orange 1``, ``orange 2`` …
    body : the first; the others stand beside it along +x, +y, +z
    counts : how many along x, y and z
    step : from one to the next [m]

    Returns
    -------
    dict of str to Body
        By name, along x first.

    Raises
    ------
    InputError
        If a count is below one.

    Notes
    -----
    What the body starts with (velocity, spin) all copies start with.

    Examples
    --------
    >>> list(copies("orange", ball(0.04), (2, 1, 1), (0.1, 0, 0)))
    ['orange 1', 'orange 2']
    """
    if len(counts) != 3 or min(counts) < 1:
        raise bad_input("counts", repr(tuple(counts)), "three whole numbers from 1 on")
    d = np.array(_vector(step, "position"))
    places = [np.array(body.position) + d * np.array([i, j, k]) for k, j, i in product(*(range(n) for n in reversed(counts)))]
    return {f"{name} {n}": body.model_copy(update={"position": tuple(place.tolist())}) for n, place in enumerate(places, start=1)}
