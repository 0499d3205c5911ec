"""Work that a crash would lose: the case, written beside the user's state a moment after every edit."""

from __future__ import annotations

import contextlib
import json
from pathlib import Path

import platformdirs

from yapa.case import Case, case_text, parse_case
from yapa.case.store import write_atomically
from yapa.errors import YapaError


def state_folder() -> Path:
    """Where the program keeps its state."""
    return Path(platformdirs.user_state_dir("yapa"))


class Recovery:
    """One recovery file a running window; those left by windows that are gone are offered."""

    def __init__(self, folder: Path | None = None, name: str | None = None) -> None:
        import os

        self.folder = folder or state_folder()
        self.file = self.folder / f"recovery-{name or os.getpid()}.json"

    def write(self, case: Case, path: Path | None) -> None:
        """Keep the case; tracks that stand in files are embedded."""
        with contextlib.suppress(OSError, YapaError):
            self.folder.mkdir(parents=True, exist_ok=True)
            whole = case.model_copy(update={"tracks": tuple(t.model_copy(update={"file": None}) for t in case.tracks)})
            write_atomically(self.file, json.dumps({"path": str(path) if path else None, "case": case_text(whole)}))

    def forget(self) -> None:
        """The work is safe elsewhere."""
        with contextlib.suppress(OSError):
            self.file.unlink(missing_ok=True)

    def found(self) -> list[Path]:
        """Recovery files of windows that no longer run."""
        out = []
        for file in sorted(self.folder.glob("recovery-*.json")) if self.folder.exists() else []:
            pid = file.stem.removeprefix("recovery-")
            if file != self.file and not (pid.isdigit() and Path(f"/proc/{pid}").exists()):
                out.append(file)
        return out

    @staticmethod
    def read(file: Path) -> tuple[Case, Path | None]:
        """The kept case and where it was saved.

        Raises
        ------
        InputError
            If the file is not whole.
        """
        from yapa.errors import bad_input

        try:
            kept = json.loads(file.read_text(encoding="utf-8"))
            text, path = kept["case"], kept["path"]
        except (OSError, ValueError, KeyError, TypeError):
            raise bad_input(str(file), "a broken recovery file", "a whole one; it can be deleted") from None
        return parse_case(text, file.name), Path(path) if path else None
