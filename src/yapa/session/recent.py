"""The case files that were opened or saved last, kept in the user's state."""

from __future__ import annotations

import contextlib
import json
from pathlib import Path

from yapa.errors import YapaError
from yapa.files import write_atomically

MOST = 8
"""files that are kept"""
FILE = "recent.json"


class RecentFiles:
    """The files of one user, the newest first. What cannot be kept is not: nothing depends on it.

    Parameters
    ----------
    folder : where the list is kept
    """

    def __init__(self, folder: Path) -> None:
        self._file = folder / FILE

    def present(self) -> list[Path]:
        """Return the files that are still there, the newest first."""
        return [path for path in self._kept() if path.is_file()][:MOST]

    def note(self, path: Path) -> None:
        """A file was opened or saved.

        Parameters
        ----------
        path : the file
        """
        here = path.absolute()
        kept = [here, *(other for other in self._kept() if other != here)][:MOST]
        with contextlib.suppress(OSError, YapaError):
            self._file.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(self._file, json.dumps([str(p) for p in kept], ensure_ascii=False, indent=1) + "\n")

    def _kept(self) -> list[Path]:
        try:
            found = json.loads(self._file.read_text(encoding="utf-8"))
        except (OSError, ValueError):
            return []
        return [Path(text) for text in found if isinstance(text, str)] if isinstance(found, list) else []
