"""How far apart two bodies start."""

from __future__ import annotations

from functools import lru_cache

from yapa.case.model import Case
from yapa.engine.simulate import program_for


def gap_between(case: Case, a: str, b: str) -> float | None:
    """Return least distance [m] between the shapes of two bodies at the start, negative where they overlap; None if they never
    meet.

    Parameters
    ----------
    case : the case
    a : one body
    b : the other
    """
    return _gaps(_Same(case)).get(frozenset((a, b)))


def gaps_at_start(case: Case) -> dict[tuple[str, str], float]:
    """Return the same of all pairs that can meet, in the order of the bodies.

    Parameters
    ----------
    case : the case
    """
    order = {name: k for k, name in enumerate(case.bodies)}
    both = {(a, b) if order[a] < order[b] else (b, a): gap for (a, b), gap in
            ((sorted(pair), gap) for pair, gap in _gaps(_Same(case)).items() if len(pair) == 2)}
    return dict(sorted(both.items(), key=lambda item: (order[item[0][0]], order[item[0][1]])))


class _Same:
    """Keys the cache by identity."""

    def __init__(self, case: Case) -> None:
        self.case = case

    def __hash__(self) -> int:
        return id(self.case)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.case is self.case


@lru_cache(maxsize=8)
def _gaps(same: _Same) -> dict[frozenset[str], float]:
    program = program_for(same.case)
    out: dict[frozenset[str], float] = {}
    for a, b, gap in program.start_gaps():
        key = frozenset((program.names[a], program.names[b]))
        out[key] = min(gap, out.get(key, gap))
    return out
