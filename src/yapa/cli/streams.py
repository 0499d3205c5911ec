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
"""bytes that are copied at once"""
MAX_STREAM = 100_000_000
"""Bytes that are read from a pipe."""
_DATA = "yapa.data on stdout"
_STAMPS = "yapa.stamps"
_SPOOL = "yapa.spool"
_VERSIONS = "yapa.versions"
_QUIET = "yapa.quiet"


def _meta() -> dict[str, Any]:
    return click.get_current_context().meta


def be_quiet() -> None:
    """Keep notices and progress of this command to itself."""
    _meta()[_QUIET] = True


def is_quiet() -> bool:
    """Return whether notices and progress are not wanted."""
    return bool(_meta().get(_QUIET))


def notice(text: str) -> None:
    """Print something worth knowing on the error stream, unless that is not wanted.

    Parameters
    ----------
    text : the text
    """
    if not is_quiet():
        click.echo(text, err=True)


def claim(inputs: list[Path], *outputs: Path | None) -> None:
    """Say what a command reads and what it will write.

    Parameters
    ----------
    outputs : files that are written
    inputs : files that are read

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
    """Return whether the standard output is taken by data."""
    return bool(_meta().get(_DATA)) if click.get_current_context(silent=True) is not None else False


def say(text: str) -> None:
    """Words for the person.

    Parameters
    ----------
    text : the text
    """
    click.echo(text, err=words_to_stderr())


def write_out(path: Path, text: str) -> None:
    """Write data to a file, a device, a pipe or (-) the standard output.

    Parameters
    ----------
    path : the file
    text : the text
    """
    if path == STREAM:
        sys.stdout.write(text)
        sys.stdout.flush()
    else:
        write_atomically(path, text, streams=True)


def write_json(path: Path, data: Any) -> None:
    """Write plain data as JSON.

    Parameters
    ----------
    path : the file
    data : what is written, as plain JSON data
    """
    write_out(path, json.dumps(data, indent=1, ensure_ascii=False, allow_nan=False) + "\n")


def save_to(path: Path, case: Case, source: Path | None, overwrite: bool, since: FileStamp | None = None) -> None:
    """Save a case; a file that changed since the command began is replaced only with ``overwrite``.

    Parameters
    ----------
    path : the file
    case : the case
    source : where the case was read from
    overwrite : whether a file that was changed meanwhile is replaced
    since : stamp of the file when it was last read
    """
    from yapa.api import FORMAT_VERSION, case_text, upgrade_notice
    from yapa.api import write_case_file as save
    from yapa.files import is_stream

    if path == STREAM or is_stream(path):
        write_out(path, case_text(case))
        return
    known = since or _meta().get(_STAMPS, {}).get(path)
    save(case, path, None if source == STREAM else source, known, overwrite)
    if upgraded := upgrade_notice(_meta().get(_VERSIONS, {}).pop(path, FORMAT_VERSION)):
        notice(f"saved {path.name}{upgraded}")


def note_version(path: Path, version: int) -> None:
    """Keep the version of the format in a file that was read, for when it is saved.

    Parameters
    ----------
    path : the file
    version : version of the format
    """
    _meta().setdefault(_VERSIONS, {})[path] = version


def source_of(path: Path) -> Path:
    """Return the regular file that an input names: the standard input (-) and pipes are spooled into one first.

    Parameters
    ----------
    path : the file
    """
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
        if total > MAX_STREAM:
            raise bad_input("the standard input", f"more than {MAX_STREAM / 1e6:.0f} MB", "less; give a file instead")
        write(block)
