"""Whether every shape of a scene can meet every other that it may come to: what would pass through is told, not simulated."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yapa.case.shapes.registry import KINDS
from yapa.engine.kernels import layout as L
from yapa.engine.kernels.geometry.pairs.meetings import meets
from yapa.errors import Unsupported
from yapa.motion import Array


def check_meetings(names: Sequence[str], shapes: np.ndarray, bodies: Array) -> None:
    """Refuse a scene in which something that moves would pass through a shape it has no contact with.

    Parameters
    ----------
    names : of the bodies
    shapes : table of their shapes
    bodies : table of the bodies

    Raises
    ------
    Unsupported
        With both bodies, and what they are made of.
    """
    kinds = {int(kind) for kind in shapes[:, L.shape_int.KIND]}
    apart = {(a, b) for a in kinds for b in kinds if not meets(a, b)}
    if not any(not (KINDS[a].is_endless and KINDS[b].is_endless) for a, b in apart):
        return
    moves = bodies[:, L.body.INV_MASS] > 0.0
    for i, a in zip(*shapes[:, [L.shape_int.BODY, L.shape_int.KIND]].T.tolist(), strict=True):
        for j, b in zip(*shapes[:, [L.shape_int.BODY, L.shape_int.KIND]].T.tolist(), strict=True):
            collide = int(bodies[i, L.body.MEETS]) >> int(bodies[j, L.body.GROUP]) & 1
            if i != j and moves[i] and collide and (a, b) in apart:
                raise Unsupported(f"bodies.{names[i]} and bodies.{names[j]}: a {KINDS[a].name} and a {KINDS[b].name} have no "
                                  "contact with each other; give one of them another shape, or groups that do not collide")
