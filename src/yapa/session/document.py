"""The document: one open case with its history, the file it came from, and which states show the same motion."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from itertools import count
from pathlib import Path

from yapa.case import Case
from yapa.case.model import FORMAT_VERSION
from yapa.files import FileStamp
from yapa.session.history import History

_NUMBERS = count(1)
_SHOWN = tuple(name for name in Case.model_fields if name not in ("trials", "scenes", "ignored_findings", "title", "notes"))


@dataclass(eq=False)
class Document:
    """One open case, from its opening until another takes its place. Known by its identity."""

    history: History[Case]
    path: Path | None = None
    stamp: FileStamp | None = None
    format_version: int = FORMAT_VERSION
    """Of the file at ``path``, as it was last read or written."""
    number: int = field(default_factory=lambda: next(_NUMBERS))

    @property
    def case(self) -> Case:
        """The case as it is now."""
        return self.history.state

    def shows(self, case: Case) -> bool:
        """Return whether a case is the present one, but for its ledger.

        Parameters
        ----------
        case : the case
        """
        return same_but_ledger(self.case, case)


@dataclass(frozen=True)
class OutsideQuestion:
    """A case names files outside its folder: whether to read them. ``allow`` does."""

    path: Path
    files: list[Path]
    allow: Callable[[], None]


def same_but_ledger(a: Case, b: Case) -> bool:
    """Return whether two cases show the same motion beside the same evidence: one was made of the other by its ledger alone.

    Parameters
    ----------
    a : one case
    b : the other
    """
    return a is b or all(getattr(a, name) is getattr(b, name) for name in _SHOWN)
