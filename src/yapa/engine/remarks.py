"""What a run could not do well, in words: groups handed over to soft contacts, overlaps, and bodies that went through a face.

Only crowds are soft: a run without one has nothing to remark.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from yapa.case.shapes.registry import KINDS
from yapa.engine.compile.mass_properties import rotation_matrix
from yapa.engine.kernels import layout as L
from yapa.engine.runner import Crowds, Program, RawRun
from yapa.motion import Array, Remark
from yapa.motion.info import Severity

OFF = 1e-3
"""Share of an island's kinetic energy: where impacts bounced in a crowd, more than this is a trouble."""
MAX_NAMED = 4
"""bodies named in a remark"""


def remarks_of(program: Program, raw: RawRun) -> list[Remark]:
    """Return the remarks on a run.

    Parameters
    ----------
    program : the compiled case
    raw : what the kernel left
    """
    if raw.crowds is None:
        return []
    return [*_handed_over(program, raw, raw.crowds), *_overlap(program, raw.crowds), *_crossed(program, raw)]


def _listed(names: list[str]) -> str:
    if len(names) > MAX_NAMED:
        return f"{', '.join(names[: MAX_NAMED - 1])} and {len(names) - MAX_NAMED + 1} more"
    return ", ".join(names)


def _handed_over(program: Program, raw: RawRun, crowds: Crowds) -> Iterator[Remark]:
    """Nothing is said of what only settles."""
    if crowds.at < 0 or crowds.energy == 0:
        return
    changed = crowds.change - crowds.work
    energy_change = changed / max(crowds.energy, abs(changed))
    off = crowds.bounced and abs(energy_change) > OFF
    worked = "" if crowds.work == 0 else f", beside {crowds.work:+.3g} J of work by wind, belts or driven bodies"
    times = "once" if raw.regime_switches == 1 else f"{raw.regime_switches} times"
    yield Remark(
        "handed over", _listed([program.names[i] for i in crowds.bodies]),
        f"handed over to soft contacts {times}, first at {crowds.at:.4g} s; their energy changed by {changed:+.3g} J there "
        f"({energy_change:+.2%} of what they had){worked}",
        "bounces there are rough: what comes after may lie beside the exact motion" if off else
        "too many contacts at once for the exact way; friction and hits that do not bounce take energy there as they should",
        Severity.TROUBLE if off else Severity.NOTE)


def _overlap(program: Program, crowds: Crowds) -> Iterator[Remark]:
    if crowds.depth > 0:
        one, other = (program.names[i] for i in crowds.deep)
        yield Remark("overlap", _listed([one, other]), f"they overlap by {1e3 * crowds.depth:.3g} mm at {crowds.depth_at:.4g} s",
                     "what presses is too heavy for what it presses on, hits too hard, or is driven; what comes after is rough")


def _crossed(program: Program, raw: RawRun) -> Iterator[Remark]:
    """A body whose centre goes through a face of something that stands."""
    for i in program.force_driven:
        places = raw.states[:, i, :3]
        for wall in range(len(program.names)):
            if program.props[wall, L.body.MOTION] != L.motion_kind.STATIC or not program.meets(i, wall):
                continue
            found = [_first_crossing(program, raw.states[0, wall], shape, places) for shape in program.geometry.shapes_of[wall]]
            at = min((k for k in found if k >= 0), default=-1)
            if at >= 0:
                deep = f"its centre passes a face of {program.names[wall]} at {raw.times[at]:.4g} s"
                yield Remark("went through", program.names[i], deep, "it is pressed or thrown harder than soft contacts hold")
                break


def _first_crossing(program: Program, state: Array, shape: int, places: Array) -> int:
    """The first sample at which a centre is on the wrong side of a standing shape, or -1; rounded shapes are not looked at."""
    geometry, turned = program.geometry, rotation_matrix(state[3:7])
    kind = KINDS[geometry.GI[shape, L.shape_int.KIND]]
    if kind.is_endless:
        normal = turned @ geometry.GF[shape, L.shape.B : L.shape.B + 3]
        level = places @ normal - float(normal @ (state[:3] + turned @ geometry.GF[shape, L.shape.A : L.shape.A + 3]))
        side = 1.0 if level[0] >= 0 else -1.0
        if side < 0 and geometry.GI[shape, L.shape_int.SIDES] != L.plane_sides.TWO_SIDED:
            return -1
        wrong = level * side < 0
        return int(np.argmax(wrong)) if wrong.any() else -1
    if not kind.has_corners:
        return -1
    first, count = geometry.GI[shape, L.shape_int.F0], geometry.GI[shape, L.shape_int.NF]
    faces = geometry.FC[first : first + count]
    local = (places - state[:3]) @ turned
    first, count = geometry.GI[shape, L.shape_int.V0], geometry.GI[shape, L.shape_int.NV]
    corners = geometry.VT[first : first + count]
    if (local.max(axis=0) < corners.min(axis=0)).any() or (local.min(axis=0) > corners.max(axis=0)).any():
        return -1
    beyond = local @ faces[:, :3].T - faces[:, 3]
    if (beyond[0] < 0).all():  # it began inside
        return -1
    # a way between two samples passes where it is past all the faces it enters by before it leaves by any
    rate = np.diff(beyond, axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        when = -beyond[:-1] / rate
    enters = np.where(rate < 0, when, np.where((rate == 0) & (beyond[:-1] > 0), np.inf, -np.inf)).max(axis=1)
    leaves = np.where(rate > 0, when, np.inf).min(axis=1)
    passes = np.maximum(enters, 0.0) < np.minimum(leaves, 1.0)
    return int(np.argmax(passes)) + 1 if passes.any() else -1

