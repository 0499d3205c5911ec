"""A surface's value that the pairing rule or a named pair hides."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.case.paths import SURFACE_QUANTITIES
from yapa.engine.simulate import program_for
from yapa.findings.base import Finding, Mend


def check(case: Case) -> Iterator[Finding]:
    """An unknown of a surface that enters no law: every pair it forms has its own value, or the rule takes the other side's."""
    program = program_for(case)
    for unknown in case.unknowns:
        parts = unknown.path.split(".")
        if parts[0] != "surfaces" or parts[2] not in SURFACE_QUANTITIES:
            continue
        partners = _partners(case, parts[1])
        if not partners:
            continue
        ends = [
            [program.law_with({unknown.path: end}, parts[1], other)[parts[2]] for other in sorted(partners)]
            for end in (unknown.low, unknown.high)
        ]
        if ends[0] == ends[1]:
            named = [pair.key for pair in case.pairs if parts[1] in pair.between and getattr(pair, parts[2], None) is not None]
            why = (
                f"the named pair {named[0]} has its own {parts[2]}"
                if named
                else f"the pairing rule takes the other side's {parts[2]}"
            )
            mend = (
                Mend(f"free pairs.{named[0]}.{parts[2]} instead", _swap(unknown.path, f"pairs.{named[0]}.{parts[2]}"))
                if named
                else None
            )
            yield Finding("value cancelled", unknown.path, "turning it changes nothing", why, mend=mend)


def _partners(case: Case, surface: str) -> set[str]:
    """Surfaces that this one can meet: those of other bodies."""
    mine = {name for name, b in case.bodies.items() if any(s.surface == surface for s in b.shapes)}
    return {s.surface for name, b in case.bodies.items() for s in b.shapes if mine - {name}}


def _swap(old: str, new: str):  # type: ignore[no-untyped-def]
    def edit(case: Case) -> Case:
        return case.model_copy(
            update={"unknowns": tuple(u.model_copy(update={"path": new}) if u.path == old else u for u in case.unknowns)}
        )

    return edit
