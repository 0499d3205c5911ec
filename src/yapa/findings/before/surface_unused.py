"""A surface that no shape has."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from yapa.case.model import Case
from yapa.case.parameter_path import parse_path
from yapa.findings.base import Finding, Mend
from yapa.findings.registry import case_check
from yapa.motion.info import Severity


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Turning its numbers changes nothing."""
    used = {shape.surface for body in case.bodies.values() for shape in body.shapes}
    for name in case.surfaces:
        if name not in used and name != "default":
            in_pairs = any(name in pair.surfaces for pair in case.pairs)
            mend = None if in_pairs else Mend(f"remove {name}", _without(name))
            yield Finding("surface unused", name, "its numbers change nothing", "no shape is covered with it", Severity.NOTE, mend)


def _without(name: str) -> Callable[[Case], Case]:
    def edit(case: Case) -> Case:
        surfaces = {k: v for k, v in case.surfaces.items() if k != name}
        unknowns = tuple(u for u in case.unknowns if parse_path(u.path)[:2] != ("surfaces", name))
        return case.model_copy(update={"surfaces": surfaces, "unknowns": unknowns})

    return edit
