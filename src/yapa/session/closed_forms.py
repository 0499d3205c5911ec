"""Closed forms of simple motions, to be laid beside the run, a row each: a fall with its rebounds, a throw, a slide.

A form holds for one body, from the start of the clip until something happens that it does not know; it says nothing where drag or
damping would change it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from yapa.case import Body, Case
from yapa.engine.compile.pair_materials import effective_values
from yapa.motion import Array, Motion

MAX_REBOUNDS = 400
"""of a fall: after them nothing is told"""
STILL = 1e-9
"""m/s: slower is at rest"""


@dataclass(frozen=True)
class ClosedForm:
    """A form that holds for a body.

    Attributes
    ----------
    name : what it is
    formula : how it is written
    place : times (T,) [s] → places (T, 3) [m]; NaN where it says nothing
    """

    name: str
    formula: str
    place: Callable[[Array], Array]


def _undisturbed(case: Case, body: Body) -> bool:
    """Whether nothing but gravity acts in the air."""
    drag = body.drag_coefficient > 0 and case.fields.air.density > 0
    return body.motion == "dynamic" and not drag and body.linear_damping == 0 and not body.locked_axes


def may_hold(case: Case) -> bool:
    """Return whether a closed form may hold for any body of a case.

    Parameters
    ----------
    case : the case
    """
    return any(_undisturbed(case, body) for body in case.bodies.values())


def _effective(case: Case, body: str, partner: str, quantity: str) -> float | None:
    pair = {case.bodies[body].shapes[0].surface, case.bodies[partner].shapes[0].surface}
    found = [v.value for v in effective_values(case) if v.quantity == quantity and set(v.surfaces) == pair]
    return found[0] if found else None


def _start(motion: Motion, body: str) -> tuple[Array, Array, Array]:
    state = motion.states[0, motion.names.index(body)]
    return state[:3].copy(), state[7:10].copy(), np.asarray(motion.gravity) * motion.body(body).gravity_multiplier


def fall(case: Case, motion: Motion, name: str) -> ClosedForm | None:
    """Return the fall of a ball straight down, with every rebound: each rises with e times the speed it came with.

    Parameters
    ----------
    case : the case
    motion : its motion
    name : name of the body
    """
    body, first = case.bodies[name], next(iter(motion.contacts_of(name)), None)
    x, v, g = _start(motion, name)
    pull = float(np.linalg.norm(g))
    if first is None or body.shapes[0].kind != "sphere" or len(body.shapes) > 1 or pull == 0 or not _undisturbed(case, body):
        return None
    up = -g / pull
    partner = first.partner if first.body == name else first.body
    e, falloff = (_effective(case, name, partner, q) for q in ("restitution", "restitution_falloff"))
    straight = np.linalg.norm(v - (v @ up) * up) < STILL and abs(float(np.asarray(first.normal) @ up)) > 1 - 1e-9
    if e is None or falloff or not straight or case.bodies[partner].motion != "static" or case.profile.kind != "precise":
        return None
    height = float((x - first.position) @ up) if first.body == name else float((x - (first.partner_position if
                                                                        first.partner_position is not None else x)) @ up)
    rise = float(v @ up)

    def place(t: Array) -> Array:
        out, begun, h, speed = np.full(len(t), np.nan), 0.0, height, rise
        for _ in range(MAX_REBOUNDS):
            lasts = (speed + np.sqrt(speed**2 + 2 * pull * max(h, 0.0))) / pull
            here = (t >= begun) & (t <= begun + lasts)
            s = t[here] - begun
            out[here] = h + speed * s - 0.5 * pull * s**2
            begun, speed, h = begun + lasts, e * (pull * lasts - speed), 0.0
            if lasts < 1e-7 or begun > t[-1]:
                break
        out[t >= begun] = 0.0
        foot: Array = (x - height * up)[None] + out[:, None] * up
        return foot

    return ClosedForm("fall", "h − g t²/2, then e v t − g t²/2 from each rebound", place)


def throw(case: Case, motion: Motion, name: str) -> ClosedForm | None:
    """Return the parabola of a throw, until the first contact.

    Parameters
    ----------
    case : the case
    motion : its motion
    name : name of the body
    """
    if not _undisturbed(case, case.bodies[name]) or any(held.start < 1e-6 for held in motion.contact_intervals_of(name)):
        return None
    x, v, g = _start(motion, name)
    end = min((c.time for c in motion.contacts_of(name)), default=motion.end)

    def place(t: Array) -> Array:
        s = np.where(t <= end, t, np.nan)[:, None]
        out: Array = x + v * s + 0.5 * g * s**2
        return out

    return ClosedForm("throw", "x + v t + g t²/2", place)


def slide(case: Case, motion: Motion, name: str) -> ClosedForm | None:
    """Return the slide of a box that starts on a level face: v t − μ g t²/2 until it stops.

    Parameters
    ----------
    case : the case
    motion : its motion
    name : name of the body
    """
    body = case.bodies[name]
    x, v, g = _start(motion, name)
    held = [h for h in motion.contact_intervals_of(name) if h.start < 1e-6 and h.body == name]
    speed, pull = float(np.linalg.norm(v)), float(np.linalg.norm(g))
    if len(held) != 1 or body.shapes[0].kind != "box" or len(body.shapes) > 1 or not _undisturbed(case, body) or pull == 0:
        return None
    level = abs(float(np.asarray(held[0].normal) @ g) / pull) > 1 - 1e-9
    mu = _effective(case, name, held[0].partner, "dynamic_friction") or _effective(case, name, held[0].partner, "friction")
    others = [c for c in motion.contacts_of(name) if held[0].partner not in (c.body, c.partner)]
    if not level or not mu or speed < STILL or abs(float(v @ g)) > 1e-9 * speed * pull:
        return None
    stop = speed / (mu * pull)
    end = min((c.time for c in others), default=motion.end)

    def place(t: Array) -> Array:
        s = np.minimum(np.where(t <= end, t, np.nan), stop)[:, None]
        out: Array = x + v / speed * (speed * s - 0.5 * mu * pull * s**2)
        return out

    return ClosedForm("slide", "v t − μ g t²/2", place)


FORMS: tuple[Callable[[Case, Motion, str], ClosedForm | None], ...] = (fall, slide, throw)
"""Every form there is; the first that holds is shown."""


def closed_form(case: Case, motion: Motion, name: str) -> ClosedForm | None:
    """Return the closed form that holds for a body, None where there is none.

    Parameters
    ----------
    case : the case, with the values of the motion
    motion : its motion
    name : name of the body
    """
    return next((found for form in FORMS if (found := form(case, motion, name)) is not None), None)
