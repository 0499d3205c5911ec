"""Spreadsheets, read in a process of their own (``sheet_reader``)."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import zipfile
from pathlib import Path
from typing import Any

from yapa.errors import bad_input
from yapa.formats.tracks import sheet_reader
from yapa.formats.tracks.registry import ReadOptions, track_reader
from yapa.formats.tracks.table import MAX_BYTES, MAX_CELLS, Table, first_line, refuse_many

WAIT = 60.0
"""s a spreadsheet's reader may take on a busy machine; its processor time is bounded by itself"""
MAGIC = (b"PK\x03\x04", b"\xd0\xcf\x11\xe0")
"""First bytes of packed and of binary spreadsheets."""


@track_reader("spreadsheet", (".xlsx", ".xls", ".ods"), lambda _path, head: head[:4] in MAGIC)
def read(path: Path, head: bytes, options: ReadOptions) -> Table:
    """Return the table in a sheet.

    Raises
    ------
    InputError
        A broken file, no such sheet, an empty one, or too many cells.
    """
    sheet = options.sheet
    where = str(path)
    try:
        if zipfile.is_zipfile(path):
            with zipfile.ZipFile(path) as packed:
                unpacked = sum(info.file_size for info in packed.infolist())
            if unpacked > MAX_BYTES:
                raise bad_input(where, f"{unpacked / 1e6:.0f} MB unpacked", f"at most {MAX_BYTES / 1e6:.0f} MB")
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
        raise bad_input(where, f"a broken spreadsheet ({first_line(error)})", "a whole spreadsheet") from None
    answer = _read_apart(path, sheet)
    names = tuple(answer.get("names", ()))
    if "fault" in answer:
        raise bad_input(where, f"a broken spreadsheet ({answer['fault']})", "a whole spreadsheet")
    if "sheet" not in answer:
        raise bad_input(where, f"no sheet {sheet!r}", f"one of {', '.join(names) or 'no sheets'}")
    if "rows" not in answer:
        raise bad_input(where, f"a sheet that spans {answer['cells']:,} cells",
                        f"at most {MAX_CELLS:,}; delete cells far from the table, or save the table as CSV")
    rows, lines = [], []
    for number, row in enumerate(answer["rows"], start=answer["start"] + 1):
        if any(cell.strip() for cell in row) and not re.match(r"\s*(#|%|//)", row[0]):
            rows.append(row)
            lines.append(number)
    if not rows:
        others = [name for name in names if name != answer["sheet"]]
        raise bad_input(where, f"an empty sheet {answer['sheet']!r}", "rows of numbers" + (
            f"; say another sheet with --sheet: {', '.join(others)}" if others else ""))
    refuse_many(where, len(rows), max(map(len, rows)))
    return Table(rows, lines, [], [f"sheet {answer['sheet']!r} of a spreadsheet"], None, answer["sheet"], names)


def _read_apart(path: Path, sheet: str | None) -> dict[str, Any]:
    """What ``sheet_reader`` prints; a reader that was lost to its bounds says nothing."""
    too_large = bad_input(str(path), "a spreadsheet that needs more memory or time than a table of measurements does",
                          f"at most {MAX_CELLS:,} cells between its outermost ones; delete cells far from the table, or save the "
                          "table as CSV")
    command = [sys.executable, "-P", str(Path(sheet_reader.__file__)), str(path.absolute()), sheet or "", str(MAX_CELLS)]
    try:
        done = subprocess.run(command, stdin=subprocess.DEVNULL, capture_output=True, timeout=WAIT, check=False)
        if done.returncode != 0:
            raise too_large
        answer: dict[str, Any] = json.loads(done.stdout)
        return answer
    except subprocess.TimeoutExpired:
        raise too_large from None
    except ValueError:
        raise bad_input(str(path), "a spreadsheet that cannot be read", "a whole spreadsheet") from None
