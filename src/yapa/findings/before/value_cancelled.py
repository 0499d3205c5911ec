"""A surface's value that the pairing rule or a named pair hides."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from yapa.case.model import Case
from yapa.case.parameter_path import parse_path
from yapa.case.parameters import SURFACE_QUANTITIES
from yapa.case.scene import Surface
from yapa.findings.base import Finding, Mend
from yapa.findings.hidden import hiding_pair, is_hidden, is_hidden_here, why_hidden
from yapa.findings.registry import case_check
from yapa.motion.info import Severity


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Unknowns that enter no law over their range, and numbers that are given and enter none near where they stand."""
    for unknown in case.unknowns:
        if is_hidden(case, unknown.path, (unknown.low, unknown.high)):
            yield Finding("value cancelled", unknown.path, "turning it changes nothing", why_hidden(case, unknown.path),
                          mend=_mend(case, unknown.path))
    free = {unknown.path for unknown in case.unknowns}
    for path in _given(case):
        if path not in free and is_hidden_here(case, path):
            yield Finding("value hidden", path, "it changes nothing where it stands", why_hidden(case, path), Severity.NOTE)


def _given(case: Case) -> Iterator[str]:
    """Paths of the numbers of surfaces that are given, other than their defaults."""
    default = Surface()
    for name, surface in case.surfaces.items():
        for quantity in SURFACE_QUANTITIES:
            if getattr(surface, quantity) not in (None, getattr(default, quantity)):
                yield f"surfaces.{name}.{quantity}"


def _mend(case: Case, path: str) -> Mend | None:
    named, quantity = hiding_pair(case, path), parse_path(path).quantity
    return Mend(f"free pairs.{named}.{quantity} instead", _swap(path, f"pairs.{named}.{quantity}")) if named else None


def _swap(old: str, new: str) -> Callable[[Case], Case]:
    def edit(case: Case) -> Case:
        unknowns = tuple(u.model_copy(update={"path": new}) if u.path == old else u for u in case.unknowns)
        return case.model_copy(update={"unknowns": unknowns})

    return edit
