"""A surface set not to bounce that bounces all the same, because the pairing rule lifts it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from yapa.case.model import Case
from yapa.case.scene import Pair
from yapa.engine.compile.pair_materials import effective_values
from yapa.findings.base import Finding, Mend
from yapa.findings.registry import case_check
from yapa.motion.info import Severity


@case_check
def check(case: Case) -> Iterator[Finding]:
    """Its restitution is 0, and the rule makes more of it with the other side's."""
    dead = {name for name, surface in case.surfaces.items() if surface.restitution == 0}
    named = {frozenset(pair.surfaces) for pair in case.pairs if pair.restitution is not None}
    for effective in effective_values(case) if dead else ():
        both = effective.surfaces
        if effective.quantity == "restitution" and effective.value > 0 and dead & set(both) and frozenset(both) not in named:
            yield Finding(
                "restitution lifted",
                "+".join(both),
                "it bounces though one side is set to 0",
                f"restitution is the {effective.source}: {effective.value:.3g}",
                Severity.NOTE,
                Mend(f"name the pair {'+'.join(both)} and give it 0", _dead(both)),
            )


def _dead(both: tuple[str, str]) -> Callable[[Case], Case]:
    def edit(case: Case) -> Case:
        pairs = tuple(p.model_copy(update={"restitution": 0.0}) if set(p.surfaces) == set(both) else p for p in case.pairs)
        if pairs == case.pairs:
            pairs = (*pairs, Pair(surfaces=both, restitution=0.0))
        return case.model_copy(update={"pairs": pairs})

    return edit
