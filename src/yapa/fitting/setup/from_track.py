"""A case from one track and a few words: what `yapa calibrate` and *New from a track* make.

The start place and velocity are always fitted along unless fixed; spin where it is named or an
angle is given. Whatever is neither unknown nor fixed is assumed and listed.
"""

from __future__ import annotations

from itertools import combinations
from math import cos, radians, sin

import numpy as np

from yapa.case.base import Vec3
from yapa.case.evidence import Samples, Track
from yapa.case.model import Case
from yapa.case.quantities import QUANTITIES, quantity_of
from yapa.case.scene import (
    STANDARD_AIR_DENSITY,
    STANDARD_GRAVITY,
    Air,
    Body,
    Box,
    Direction,
    Fields,
    Pair,
    Plane,
    Sphere,
    Surface,
)
from yapa.case.unknowns import Unknown
from yapa.case.validation import checked, in_words
from yapa.errors import InputError, InputIssue, bad_input
from yapa.fitting.setup.track_setup import (
    DEFAULTS,
    FIELD_NAMES,
    PAIR_NAMES,
    SCALAR_NAMES,
    SUPPORT,
    VECTOR_NAMES,
    Prepared,
    Setup,
    known_names,
)
from yapa.motion import Array
from yapa.tracking.track_data import TrackData, track_data

WIDE = 2000.0
"""times how far a thing reaches down: a track that spans more is hardly in metres"""


def _check(setup: Setup) -> None:
    problems = []
    if (setup.radius is None) == (setup.size is None):
        problems.append(InputIssue("shape", "both" if setup.radius else "none", "either a sphere's radius or a box's edges"))
    for what, value in (("radius", setup.radius), ("mass", setup.mass), ("sigma", setup.sigma),
                        ("sigma of the angle", setup.sigma_angle), *(("edge", e) for e in setup.size or ())):
        if value is not None and not (value > 0 and np.isfinite(value)):
            problems.append(InputIssue(what, f"{value:g}", "a number above zero"))
    if setup.slope is not None and not -80 < setup.slope < 80:
        problems.append(InputIssue("slope", f"{setup.slope:g}°", "an angle between -80 and 80 degrees"))
    names = known_names()
    for name, bounds in setup.unknown.items():
        if name not in names:
            problems.append(InputIssue(f"unknown {name!r}", "an unknown name", f"one of {', '.join(names[:10])}, velocity.x …"))
        elif bounds is not None and not bounds[0] < bounds[1]:
            problems.append(InputIssue(f"unknown {name!r}", f"{bounds[0]:g}..{bounds[1]:g}", "a range that rises"))
        elif bounds is not None and name in VECTOR_NAMES:
            problems.append(InputIssue(f"unknown {name!r}", "a range", f"a range for one component, such as {name}.x=LO..HI"))
    for name in setup.fixed:
        if name not in names + list(FIELD_NAMES) or name in VECTOR_NAMES:
            problems.append(InputIssue(f"fixed {name!r}", "an unknown name",
                                    f"one of {', '.join([*PAIR_NAMES, *SCALAR_NAMES, *FIELD_NAMES])}, velocity.x …"))
        if name in setup.unknown:
            problems.append(InputIssue(name, "both fixed and unknown", "one of the two"))
        if not np.isfinite(setup.fixed[name]):
            problems.append(InputIssue(f"fixed {name!r}", str(setup.fixed[name]), "a finite number"))
    if problems:
        raise InputError(problems)


def _starts_on_support(data: TrackData, reach: float, floor: float) -> bool:
    """Whether the track lies on a level support: what starts there never leaves it, so all of it does, within the noise.

    A noise that nobody told may hang together, and is then up to three times what the track's roughness tells.
    """
    z = data.x[np.isfinite(data.x[:, 2]), 2]
    if not data.shown[2]:
        return bool(abs(z[0] - floor - reach) < 1e-3 * max(1.0, reach))
    noise = data.sigma if data.sigma_given else 3 * data.sigma
    off = np.abs(z - floor - reach)
    few = off[: max(5, len(z) // 20)]
    return bool(np.median(few) < 2 * noise and np.percentile(off, 90) < 4 * noise)


def _first_place(data: TrackData) -> Array:
    """Where the track begins: its first frame, or, where that stands off the line and bend of those after it, what they say.

    Two of those may be off as well: they are left out where that leaves a third of what the others stand off, or less.
    """
    at = np.flatnonzero(np.isfinite(data.x).all(axis=1))
    if not len(at):
        return np.asarray(np.nanmean(data.x, axis=0))
    first, after = at[0], at[1:9]
    if len(after) < 5:
        return np.asarray(data.x[first])
    t = data.t[after] - data.t[first]
    A = np.column_stack([np.ones(len(t)), t, t**2])
    kept, (place, off) = np.arange(len(t)), _bend(A, data.x[after])
    for away in range(1, min(3, len(t) - 4)):
        tried = [np.array(rows) for rows in combinations(range(len(t)), len(t) - away)]
        fits = [_bend(A[rows], data.x[after][rows]) for rows in tried]
        best = int(np.argmin([f[1] for f in fits]))
        if fits[best][1] < off / 3:
            kept, (place, off) = tried[best], fits[best]
    spread = np.sqrt(1 + np.linalg.inv(A[kept].T @ A[kept])[0, 0])
    apart = np.abs(data.x[first] - place).max()
    return place if apart > max(8 * data.sigma * spread, 3 * off * spread, 0.01) else data.x[first]


def _bend(A: Array, x: Array) -> tuple[Array, float]:
    """Where a line with a bend begins, and how far the farthest frame stands off it."""
    f = np.linalg.lstsq(A, x, rcond=None)[0]
    return np.asarray(f[0]), float(np.abs(x - A @ f).max())


def prepare(samples: Samples, setup: Setup) -> Prepared:
    """Return the case that a track and a set-up make, ready to fit.

    Parameters
    ----------
    samples : of the track, SI units
    setup : what is said of it

    Returns
    -------
    Prepared
        The case, short names of its unknowns, and what was assumed.

    Raises
    ------
    InputError
        With everything wrong with the set-up, or a track that does not fit it.

    Notes
    -----
    Default ranges stand in ``docs/calibrate.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> samples = load(DATA / "orange-drop.yapa").tracks[0].samples
    >>> prepared = prepare(samples, Setup(radius=0.037, unknown={"restitution": None}))
    >>> prepared.short["pairs.body+support.restitution"]
    'restitution'
    """
    _check(setup)
    with in_words("this set-up"):
        prepared = _prepare(samples, setup)
    checked(prepared.case, "this set-up")
    return prepared


def _prepare(samples: Samples, setup: Setup) -> Prepared:
    t0 = samples.t[0] if setup.start_at is None else setup.start_at
    before = sum(t < t0 - 1e-12 for t in samples.t)
    if before > len(samples.t) - 5:
        raise bad_input("start", f"{t0:g} s, with {len(samples.t) - before} rows from there on",
                        "a time with at least 5 rows after it")
    if t0 != 0.0 or before:
        samples = _from(samples, before, t0)
    track = Track(name="track", body=setup.body_name, samples=samples, sigma=setup.sigma, sigma_angle=setup.sigma_angle)
    data = track_data(track)
    if setup.body_name == SUPPORT:
        raise bad_input("name", repr(SUPPORT), "another name for the body; the support has this one")
    first = _first_place(data)
    reach = setup.reach
    on_support = setup.slope is not None or _starts_on_support(data, reach, setup.floor or 0.0)
    angle = radians(setup.slope) if setup.slope is not None else 0.0
    given = {**DEFAULTS, **({"mass": setup.mass} if setup.mass is not None else {}), **setup.fixed}
    body = _body(setup, data, first, reach, angle, on_support, given)
    sloped = setup.slope is not None
    support = Body(
        motion="static", placed_under=setup.body_name if sloped else None,
        position=(0.0, 0.0, float(setup.floor or 0.0)) if not sloped else (0.0, 0.0, 0.0),
        shapes=(Plane(kind="plane", normal=(-sin(angle), 0.0, cos(angle)), surface="support"),),
    )
    pair = Pair(surfaces=("body", "support"), **{name: given[name] for name in PAIR_NAMES})
    case = Case(
        title=setup.title, surfaces={"body": Surface(), "support": Surface()}, pairs=(pair,),
        fields=Fields(gravity=setup.fixed.get("gravity", STANDARD_GRAVITY),
                      air=Air(density=setup.fixed.get("air_density", STANDARD_AIR_DENSITY))),
        bodies={setup.body_name: body, SUPPORT: support}, tracks=(track,),
        duration=max(float(samples.t[-1]), 1e-3), output_rate=min(1000.0, max(60.0, data.rate)),
    )
    free = _free_numbers(setup, data, on_support, body)
    unknowns, short = [], {}
    for name, bounds in free.items():
        path = _path(name, setup)
        low, high, scale = _range(name, bounds, data, setup, given, first)
        if bounds is None:
            low, high = max(low, quantity_of(path).least), min(high, quantity_of(path).most)
        unknowns.append(Unknown(path=path, low=low, high=high, transform=scale))
        short[path] = name
    assumed: dict[str, float | str] = {
        name: given[name] for name in DEFAULTS
        if name not in free and name not in setup.fixed and not (name == "mass" and setup.mass is not None)
    }
    if not any(n.startswith("angular_velocity") for n in free) and not any(n.startswith("angular_velocity") for n in setup.fixed):
        assumed["angular_velocity"] = 0.0
    assumed["launch"] = f"at t = {t0:g} s" + (", the first row" if setup.start_at is None else
                                              f"; {before} rows before it left out" if before else "")
    span = float(np.nanmax(np.ptp(data.x[np.isfinite(data.x).all(axis=1)], axis=0), initial=0.0))
    if span > WIDE * reach:
        assumed["places"] = f"in metres, though they span {span:.3g} m; if they are pixels or millimetres, say so"
    if on_support:
        assumed["start"] = "on its support, so no velocity along its normal"
    if setup.sigma is None:
        assumed["sigma"] = data.sigma
        if data.angle is not None:
            assumed["sigma_angle"] = data.sigma_angle
    for name, default in (("gravity", STANDARD_GRAVITY), ("air_density", STANDARD_AIR_DENSITY)):
        if name not in setup.fixed:
            assumed[name] = default
    return Prepared(case.model_copy(update={"unknowns": tuple(unknowns)}), short, assumed)


def _from(samples: Samples, row: int, t0: float) -> Samples:
    """Samples from a row on, their times counted from ``t0``."""
    columns = {name: column[row:] for name in ("x", "y", "z", "angle") if (column := getattr(samples, name)) is not None}
    return samples.model_copy(update={"t": tuple(t - t0 for t in samples.t[row:]), **columns})


def _body(
    setup: Setup, data: TrackData, first: Array, reach: float, angle: float, on_support: bool, given: dict[str, float]
) -> Body:
    position = [float(c) if np.isfinite(c) else 0.0 for c in first]
    if on_support and setup.slope is None:
        position[2] = float(setup.floor or 0.0) + reach
    for i, axis in enumerate("xyz"):
        position[i] = setup.fixed.get(f"position.{axis}", position[i])
    shape: Sphere | Box
    if setup.radius is not None:
        shape = Sphere(kind="sphere", radius=setup.radius, surface="body")
    else:
        assert setup.size is not None
        shape = Box(kind="box", size=setup.size, surface="body")
    velocity: Vec3 | Direction = (
        setup.fixed.get("velocity.x", 0.0), setup.fixed.get("velocity.y", 0.0), setup.fixed.get("velocity.z", 0.0))
    if setup.slope is not None:
        speed = setup.fixed.get("velocity.x", 0.0) / cos(angle)
        velocity = Direction(direction=(cos(angle), 0.0, sin(angle)), speed=speed)
    return Body(
        shapes=(shape,), mass=given["mass"], position=(position[0], position[1], position[2]),
        orientation=(cos(angle / 2), 0.0, -sin(angle / 2), 0.0) if angle else (1.0, 0.0, 0.0, 0.0), velocity=velocity,
        angular_velocity=(setup.fixed.get("angular_velocity.x", 0.0), setup.fixed.get("angular_velocity.y", 0.0),
                          setup.fixed.get("angular_velocity.z", 0.0)),
        linear_damping=given["linear_damping"], angular_damping=given["angular_damping"],
        drag_coefficient=given["drag_coefficient"],
    )


def _free_numbers(setup: Setup, data: TrackData, on_support: bool, body: Body) -> dict[str, tuple[float, float] | None]:
    """Name → range for everything that is fitted; components for vectors."""
    free: dict[str, tuple[float, float] | None] = {}
    for name, bounds in setup.unknown.items():
        if name not in VECTOR_NAMES and name.split(".")[0] not in VECTOR_NAMES:
            free[name] = bounds
    level = on_support and setup.slope is None
    shown = [a for i, a in enumerate("xyz") if data.shown[i]]
    spins = ["y"] if data.angle is not None else []
    if "angular_velocity" in setup.unknown and not spins:
        spins = [s for s, along in (("y", "x"), ("x", "y")) if along in shown]
    if isinstance(body.velocity, Direction):
        if "velocity.x" not in setup.fixed and "velocity.z" not in setup.fixed:
            free["speed"] = setup.unknown.get("velocity.x")
    else:
        for a in shown:
            if not (level and a == "z"):
                free[f"velocity.{a}"] = setup.unknown.get(f"velocity.{a}")
    for a in shown:
        if not (level and a == "z"):
            free[f"position.{a}"] = setup.unknown.get(f"position.{a}")
    for a in spins:
        free[f"angular_velocity.{a}"] = setup.unknown.get(f"angular_velocity.{a}")
    for name, bounds in setup.unknown.items():
        if "." in name and not isinstance(body.velocity, Direction):
            free[name] = bounds
    return {name: bounds for name, bounds in free.items() if name not in setup.fixed}


def _path(name: str, setup: Setup) -> str:
    if name in PAIR_NAMES:
        return f"pairs.body+support.{name}"
    return f"bodies.{setup.body_name}.{name}"


def _range(
    name: str, bounds: tuple[float, float] | None, data: TrackData, setup: Setup, given: dict[str, float], first: Array
) -> tuple[float, float, str]:
    """Range and scale of an unknown; the defaults of docs/calibrate.md."""
    kind = name.split(".")[0]
    quantity = QUANTITIES[kind]
    if bounds is not None:
        log = quantity.scale == "log" and bounds[0] > 0
        return bounds[0], bounds[1], "log" if log else "linear"
    if kind in ("velocity", "speed"):
        good = np.isfinite(data.x).all(axis=1)
        steps = np.linalg.norm(np.diff(data.x[good][::3], axis=0), axis=1) / np.maximum(np.diff(data.t[good][::3]), 1e-9)
        top = float(np.ceil(2 * np.percentile(steps, 98) + 2)) if len(steps) else 20.0
        return -top, top, "linear"
    if kind == "angular_velocity":
        top = 50.0
        if data.angle is not None:
            seen = np.isfinite(data.angle)
            rates = np.abs(np.diff(data.angle[seen])) / np.diff(data.t[seen])
            top = max(top, float(np.ceil(1.5 * np.percentile(rates, 98))))
        else:
            top = 300.0
        return -top, top, "linear"
    if kind == "position":
        i = "xyz".index(name[-1])
        reach = 0.05 + 30 * data.sigma
        if data.t[0] > 0:  # the launch was before the first row
            fastest = float(np.nanmax(np.abs(np.diff(data.x[:8, i]) / np.diff(data.t[:8])), initial=0.0))
            reach += float(data.t[0]) * fastest + 5.0 * float(data.t[0]) ** 2
        return float(first[i]) - reach, float(first[i]) + reach, "linear"
    if kind == "mass":
        return given["mass"] / 1000, given["mass"] * 1000, "log"
    return quantity.low, quantity.high, quantity.scale


