"""From when on chance decides: a motion beside two others, every start moved by a tenth of a millimetre.

A path can be trusted while the three agree within the body's radius; of a body in a crowd it is never trusted, since there contacts
are soft and bounces rough.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from yapa.case import Case
from yapa.case.changed_numbers import with_numbers
from yapa.engine import simulate
from yapa.fitting.problem.cancel import Cancel
from yapa.motion import Motion
from yapa.session.building.placing import moved_to, place_of, with_body

DISTURBANCE = 1e-4
"""m by which every start is moved"""
RUNS = 2
"""disturbed ones"""


def disturbed(case: Case, seed: int) -> Case:
    """Return the case with every body that moves by forces started a tenth of a millimetre away, never lower than it was.

    Parameters
    ----------
    case : the case
    seed : of the directions
    """
    random = np.random.default_rng([case.seed, seed])
    for name in case.dynamic_bodies():
        way = random.normal(size=3)
        way[2] = abs(way[2])
        body = case.bodies[name]
        place = np.array(place_of(body)) + DISTURBANCE * way / np.linalg.norm(way)
        case = with_body(case, name, moved_to(body, place))
    return case


def parting(motion: Motion, others: list[Motion]) -> dict[str, float]:
    """Return from when on motions of the same bodies differ by more than a body's radius, body → time [s].

    Parameters
    ----------
    motion : the motion that is judged
    others : disturbed ones
    """
    out: dict[str, float] = {}
    for name in motion.dynamic_bodies():
        k, radius = motion.names.index(name), motion.body(name).bounding_radius
        for other in others:
            rows = min(len(motion.times), len(other.times))
            away = np.linalg.norm(motion.states[:rows, k, :3] - other.states[:rows, k, :3], axis=1)
            apart = np.flatnonzero(~(away <= radius))
            if len(apart):
                out[name] = min(out.get(name, np.inf), float(motion.times[apart[0]]))
    return out


def chance_from(case: Case, values: Mapping[str, float], motion: Motion, cancel: Cancel) -> dict[str, float]:
    """Return from when on chance decides where bodies are, body → time [s]; of those where it does.

    Parameters
    ----------
    case : the case
    values : path → number that is under the hand
    motion : its motion at them
    cancel : stops the runs where it is set

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    case = with_numbers(case, values) if values else case
    others = []
    for seed in range(RUNS):
        others.append(simulate(disturbed(case, seed), times=motion.times, cancel=cancel.flag))
        cancel.raise_if_cancelled()
    found = parting(motion, others)
    for name, at in motion.crowd_from.items():
        found[name] = min(found.get(name, np.inf), at)
    return found
