"""A body that passes more than a thickness in a substep."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.case.profiles import Stepped
from yapa.engine.kernels import layout as L
from yapa.engine.simulate import program_for
from yapa.findings.base import Finding, Mend, movers, speed_of
from yapa.findings.registry import case_check


@case_check
def check(case: Case) -> Iterator[Finding]:
    """On the grid, a wall is missed when v h exceeds its thickness and the body's."""
    profile = case.profile
    if not isinstance(profile, Stepped) or profile.collision == "continuous":
        return
    program = program_for(case)
    thick = {name: 2 * float(program.props[i, L.body.THIN]) for i, name in enumerate(program.names)}
    walls = {name: d for name, d in thick.items() if d < 1e3}
    h = profile.step / profile.substeps
    for name, body in movers(case).items():
        thin = min((d for other, d in walls.items() if other != name), default=None)
        if thin is None:
            continue
        way = speed_of(body) * h
        if way > thin + thick[name]:
            need = int(2 * way / (thin + thick[name])) + 1  # beyond the middle of the wall it would be pushed out behind it
            yield Finding(
                "step too long",
                name,
                "it can pass through a wall between two steps",
                f"it goes {way:.3g} m a substep; the thinnest wall and it are {thin + thick[name]:.3g} m thick together",
                mend=Mend(f"use {profile.substeps * need} substeps", _finer(profile.substeps * need))
                if profile.substeps * need <= 64
                else Mend("time the impacts", _timed),
            )


def _finer(substeps: int):  # type: ignore[no-untyped-def]
    return lambda case: case.model_copy(update={"profile": case.profile.model_copy(update={"substeps": substeps})})


def _timed(case: Case) -> Case:
    return case.model_copy(update={"profile": case.profile.model_copy(update={"collision": "continuous"})})
