"""What can be asked where the pointer is: each ask is a sentence and the targets it writes, in the grammar of outcomes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from yapa.case import Case, Target
from yapa.motion import Array
from yapa.session.building.picking import Hit
from yapa.session.edits import Edit

RELATIVE_TOLERANCE = 0.01
"""of a wanted value: the least default tolerance"""
PIXELS = 4
"""of the picture: the least default tolerance"""


@dataclass(frozen=True)
class Ask:
    """A sentence for a menu, and the outcomes it wants."""

    text: str
    targets: tuple[Target, ...]


def tolerance_for(value: float, pixel: float) -> float:
    """Return a default tolerance: 1% of what is wanted or four pixels, the larger, rounded to 1, 2 or 5.

    Parameters
    ----------
    value : the wanted value [m]
    pixel : of how many metres a pixel is here
    """
    least = max(RELATIVE_TOLERANCE * abs(value), PIXELS * pixel, 1e-6)
    power = 10.0 ** np.floor(np.log10(least))
    return float(min(m * power for m in (1.0, 2.0, 5.0, 10.0) if m * power >= least * (1 - 1e-9)))


def asks(case: Case, name: str, point: Array, hit: Hit | None, pixel: float, time: float = 0.0) -> list[Ask]:
    """Return what can be asked of a body at a place.

    Parameters
    ----------
    case : the case
    name : name of the body
    point : (3,) the place [m]
    hit : the face that is there; None in the air
    pixel : of how many metres a pixel is here
    time : of the play head [s]; later than the start, a passage can be asked for at it
    """
    start = np.array(case.bodies[name].position)
    far = float(np.linalg.norm(point - start))
    r = tolerance_for(far, pixel)
    at = tuple(round(float(c), 6) for c in point)
    x, y = (Target(outcome=f"landing {axis}", index=1, body=name, value=v, tolerance=r) for axis, v in zip("xy", at, strict=False))
    passed = Target(outcome="miss", body=name, point=at, condition="at most", value=r, tolerance=r)
    out = [Ask(f"pass here, within {r:g} m", (passed,))]
    if time > 0:
        then = tuple(Target(outcome=axis, body=name, time=round(time, 6), value=v, tolerance=r)
                     for axis, v in zip("xyz", at, strict=True))
        out.append(Ask(f"pass here at {time:.4g} s, within {r:g} m", then))
    if hit is not None:
        out.append(Ask(f"land here, within {r:g} m", (x, y)))
        rests = tuple(Target(outcome=axis, body=name, value=v, tolerance=r) for axis, v in zip("xy", at, strict=False))
        soon = max(0.02 * case.duration, 1e-3)
        still = Target(outcome="rest time", body=name, condition="at most", value=case.duration, tolerance=soon)
        out.append(Ask(f"rest here, within {r:g} m", (*rests, still)))
        out.append(Ask(f"hit {hit.body}", (Target(outcome="hit", body=name, partner=hit.body, condition="happens"),)))
        out.append(Ask(f"never touch {hit.body}", (Target(outcome="hit", body=name, partner=hit.body, condition="never"),)))
    height = round(float(point[2]), 6)
    high = Target(outcome="peak height", body=name, condition="at least", value=height, tolerance=r)
    out.append(Ask(f"rise to {height:g} m", (high,)))
    for camera in case.cameras:
        seen = Target(outcome="stays wholly inside", body=name, camera=camera, condition="at least", value=0.0, tolerance=r)
        out.append(Ask(f"stay in the picture of {camera} throughout", (seen,)))
    out.append(Ask("topple", (Target(outcome="topple", body=name, condition="at least", value=0.3, tolerance=0.05),)))
    return out


def want(targets: Sequence[Target]) -> Edit:
    """Return the edit that adds wanted outcomes, as one step.

    Parameters
    ----------
    targets : the wanted outcomes
    """
    text = f"want {targets[0].label}" + (f" and {len(targets) - 1} more" if len(targets) > 1 else "")
    return Edit(text, lambda case: case.model_copy(update={"targets": (*case.targets, *targets)}))
