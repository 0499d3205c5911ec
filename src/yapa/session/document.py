"""The document: one open case with its history, the file it came from, and which states show the same motion."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import count
from pathlib import Path

from yapa.case import Case
from yapa.files import FileStamp
from yapa.session.history import History

_NUMBERS = count(1)
_SHOWN = tuple(name for name in Case.model_fields if name not in ("trials", "dismissed", "title", "notes"))


@dataclass(eq=False)
class Document:
    """One open case, from its opening until another takes its place. Known by its identity."""

    history: History[Case]
    path: Path | None = None
    stamp: FileStamp | None = None
    number: int = field(default_factory=lambda: next(_NUMBERS))

    @property
    def case(self) -> Case:
        """The case as it is now."""
        return self.history.state

    def shows(self, case: Case) -> bool:
        """Whether a case is the present one, but for its ledger."""
        return same_but_ledger(self.case, case)


@dataclass(frozen=True)
class OutsideQuestion:
    """A case names files outside its folder: whether to read them. ``allow`` does."""

    path: Path
    files: list[Path]
    allow: Callable[[], None]


def same_but_ledger(a: Case, b: Case) -> bool:
    """Whether two cases show the same motion beside the same evidence: one was made of the other by its ledger alone."""
    return a is b or all(getattr(a, name) is getattr(b, name) for name in _SHOWN)
