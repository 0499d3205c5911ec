"""Where a command reads and writes: files, the standard streams, and what was there before.

Outputs are looked at before anything long begins: a place that cannot be written, that is an input of the same command, or that two
outputs share is refused at once. Where data go to the standard output, words go to the error stream.
"""

from __future__ import annotations

import json
import stat
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from yapa.errors import bad_input
from yapa.files import FileStamp, check_outputs, stamp_of, write_atomically

if TYPE_CHECKING:
    from yapa.case import Case

STREAM = Path("-")
BLOCK = 1 << 20
MOST_STREAM = 100_000_000
"""Bytes that are read from a pipe."""
_DATA, _STAMPS, _SPOOL = "yapa.data on stdout", "yapa.stamps", "yapa.spool"


def _meta() -> dict[str, Any]:
    return click.get_current_context().meta


def claim(inputs: list[Path], *outputs: Path | None) -> None:
    """Say what a command reads and what it will write.

    Raises
    ------
    InputError
        If an output cannot be written, is an input, or is named twice.
    """
    wanted = [path for path in outputs if path is not None]
    check_outputs(inputs, wanted)
    _meta()[_DATA] = STREAM in wanted
    _meta()[_STAMPS] = {path: stamp_of(path) for path in wanted if path != STREAM}


def words_to_stderr() -> bool:
    """Whether the standard output is taken by data."""
    return bool(_meta().get(_DATA)) if click.get_current_context(silent=True) is not None else False


def say(text: str) -> None:
    """Words for the person."""
    click.echo(text, err=words_to_stderr())


def write_out(path: Path, text: str) -> None:
    """Write data to a file, a device, a pipe or (-) the standard output."""
    if path == STREAM:
        sys.stdout.write(text)
        sys.stdout.flush()
    else:
        write_atomically(path, text, streams=True)


def write_json(path: Path, data: Any) -> None:
    """Write plain data as JSON."""
    write_out(path, json.dumps(data, indent=1, ensure_ascii=False, allow_nan=False) + "\n")


def save_to(path: Path, case: Case, source: Path | None, overwrite: bool, since: FileStamp | None = None) -> None:
    """Save a case; a file that changed since the command began is replaced only with ``overwrite``."""
    from yapa.api import case_text
    from yapa.api import write_case_file as save
    from yapa.files import is_stream

    if path == STREAM or is_stream(path):
        write_out(path, case_text(case))
        return
    known = since or _meta().get(_STAMPS, {}).get(path)
    save(case, path, None if source == STREAM else source, known, overwrite)


def source_of(path: Path) -> Path:
    """The regular file that an input names: the standard input (-) and pipes are spooled into one first."""
    if path != STREAM:
        try:
            mode = path.stat().st_mode
        except (OSError, ValueError):
            return path  # reading it says what is wrong
        if not stat.S_ISFIFO(mode):
            return path
    folder = tempfile.TemporaryDirectory(prefix="yapa-")
    click.get_current_context().call_on_close(folder.cleanup)
    spool = Path(folder.name) / ("standard input" if path == STREAM else path.name)
    with spool.open("wb") as out:
        if path == STREAM:
            _copy(sys.stdin.buffer.read, out.write)
        else:
            with path.open("rb") as pipe:
                _copy(pipe.read, out.write)
    return spool


def _copy(read: Callable[[int], bytes], write: Callable[[bytes], int]) -> None:
    total = 0
    while block := read(BLOCK):
        total += len(block)
        if total > MOST_STREAM:
            raise bad_input("the standard input", f"more than {MOST_STREAM / 1e6:.0f} MB", "less; give a file instead")
        write(block)
