"""Either or: targets of which one group or another is to be met. Each is solved alone; both are shown, the nearer one kept."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.errors import bad_input
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.result import Progress
from yapa.fitting.targets.solutions import Solution, Solutions
from yapa.fitting.targets.solve import solve


@dataclass(frozen=True)
class Alternatives:
    """One search a branch, and which of them is kept: the one that is met with the smaller change.

    Attributes
    ----------
    names : of the branches, in words
    branches : what each search came to
    kept : index of the nearer branch; None where none is met
    """

    names: list[str]
    branches: list[Solutions]
    kept: int | None

    @property
    def solution(self) -> Solution | None:
        """The one that is kept."""
        return None if self.kept is None else self.branches[self.kept].nearest

    @property
    def words(self) -> str:
        """A sentence."""
        parts = []
        for name, branch in zip(self.names, self.branches, strict=True):
            how = f"met, changing by {branch.nearest.change:.3f} of the ranges" if branch.nearest else "not met"
            parts.append(f"{name}: {how}")
        kept = "none is met" if self.kept is None else f"kept: {self.names[self.kept]}"
        return "; ".join([*parts, kept])

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready."""
        branches = [{"name": name, **branch.as_dict()} for name, branch in zip(self.names, self.branches, strict=True)]
        return {"branches": branches, "kept": self.kept, "words": self.words}


def either(
    case: Case, branches: Sequence[Sequence[Target]], progress: Callable[[Progress], None] | None = None,
    cancel: Cancel | None = None, *, threads: int | None = None,
) -> Alternatives:
    """Return the nearer of several ways to meet a case's targets and one more group of them.

    Parameters
    ----------
    case : its own targets hold in every branch
    branches : targets of each branch
    progress : called while it goes on
    cancel : stops it where it is set
    threads : runs side by side

    Raises
    ------
    InputError
        If there are fewer than two branches.
    """
    if len(branches) < 2 or not all(branches):
        raise bad_input("branches", f"{len(branches)}", "two or more, with a target in each")
    found = [solve(case.model_copy(update={"targets": (*case.targets, *targets)}), progress, cancel, most=1, threads=threads)
             for targets in branches]
    changes = {k: nearest.change for k, branch in enumerate(found) if (nearest := branch.nearest) is not None}
    kept = min(changes, key=lambda k: changes[k], default=None)
    return Alternatives([", ".join(f"{t.label} {t.wanted}" for t in targets) for targets in branches], found, kept)
