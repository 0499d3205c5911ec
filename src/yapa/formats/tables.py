"""Any table file as rows of cells: delimited text of any dialect, Parquet, spreadsheets.

Text: the encoding by its byte-order mark, else UTF-8, else Latin-1. Lines that begin with #, % or // are comments. The
delimiter is the one that splits most lines into the same number of cells, more than one. What a file holds is counted before it is
read, and capped. Spreadsheets are read in a process of their own (``sheet_reader``).
"""

from __future__ import annotations

import csv
import io
import json
import re
import subprocess
import sys
import zipfile
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from yapa.errors import InputError, bad_input
from yapa.files import read_regular
from yapa.formats import sheet_reader
from yapa.formats.opening import opened

MOST_BYTES = 100_000_000
"""Of text, and of what a spreadsheet or a Parquet file unpacks to."""
MOST_ROWS = 1_050_000
MOST_CELLS = 5_000_000
MOST_COLUMNS = 2_000
LONGEST_LINE = 1_000_000
WAIT = 60.0
"""s a spreadsheet's reader may take on a busy machine; its processor time is bounded by itself"""
DELIMITERS = (";", "\t", "|", ",")
WORDS = {";": "semicolons", "\t": "tabs", "|": "bars", ",": "commas", " ": "spaces"}


@dataclass
class Table:
    """Rows of cells as text, with what was found out about the file.

    ``lines`` are the numbers of the rows in the file, from 1, for messages; ``where`` is its name.
    """

    rows: list[list[str]]
    lines: list[int]
    comments: list[str] = field(default_factory=list)
    said: list[str] = field(default_factory=list)
    delimiter: str | None = None
    sheet: str | None = None
    sheets: tuple[str, ...] = ()
    where: str = "the table"


def read_table(path: Path, sheet: str | None = None, delimiter: str | None = None) -> Table:
    """Read a table.

    Raises
    ------
    InputError
        Not a file, too large, or nothing that can be read as a table.
    """
    with opened(path, MOST_BYTES, "a file of measurements", "rows of numbers") as head:
        if head[:4] == b"PAR1":
            table = _parquet(path)
        elif head[:4] in (b"PK\x03\x04", b"\xd0\xcf\x11\xe0"):
            table = _spreadsheet(path, sheet)
        else:
            table = _text(path, head, delimiter)
        table.where = str(path)
        return table
    raise AssertionError("opened always answers")


def refuse_many(where: str, rows: int, columns: int = 1) -> None:
    """Refuse a table of more rows, columns or cells than are read.

    Raises
    ------
    InputError
        With both numbers.
    """
    if rows > MOST_ROWS:
        raise bad_input(where, f"{rows:,} rows", f"at most {MOST_ROWS:,}; thin it first, a fit gains nothing from more")
    if columns > MOST_COLUMNS:
        raise bad_input(where, f"a row of {columns:,} cells", f"at most {MOST_COLUMNS:,} columns")
    if rows * columns > MOST_CELLS:
        raise bad_input(where, f"{rows:,} rows of {columns:,} cells", f"at most {MOST_CELLS:,} cells; thin it first")


def _text(path: Path, head: bytes, delimiter: str | None) -> Table:
    where = str(path)
    encoding, said = _encoding(head, where)
    raw = read_regular(path, MOST_BYTES, "file of measurements")
    if (many := raw.count(b"\n")) > 2 * MOST_ROWS:
        refuse_many(where, many)
    try:
        text = raw.decode(encoding)
    except UnicodeDecodeError:
        if encoding != "utf-8":
            raise bad_input(where, f"broken {said}", "whole text") from None
        text, said = raw.decode("latin-1"), "Latin-1 text"
    del raw
    if "\0" in text:
        raise bad_input(where, "binary data", "text, a Parquet file or a spreadsheet")
    comments, lines, numbers = [], [], []
    for number, line in enumerate(text.splitlines(), start=1):
        if len(line) > LONGEST_LINE:
            raise bad_input(f"{where}, line {number}", f"a line of {len(line) / 1e6:.0f} million letters", "rows of a few cells")
        if re.match(r"\s*(#|%|//)", line):
            comments.append(line.strip(" #%/\t"))
        elif line.strip():
            lines.append(line)
            numbers.append(number)
    del text
    if not lines:
        raise bad_input(where, "only comments", "rows of numbers")
    refuse_many(where, len(lines))
    mark = delimiter or _delimiter(lines)
    if len(mark) != 1:
        raise bad_input("--delimiter", repr(mark), "one sign")
    widest = max(len(line.split() if mark == " " else line.split(mark)) for line in lines[:200])
    refuse_many(where, len(lines), widest)
    if mark == " ":
        rows = [line.split() for line in lines]
    else:
        rows = [[cell.strip() for cell in _split(line, mark)] for line in lines]
    refuse_many(where, 1, max(map(len, rows)))
    return Table(rows, numbers, comments, [f"{said}, cells parted by {WORDS.get(mark, repr(mark))}"], mark)


def _split(line: str, mark: str) -> list[str]:
    if '"' not in line:
        return line.split(mark)
    try:
        return next(csv.reader(io.StringIO(line), delimiter=mark), [])
    except csv.Error:
        return line.split(mark)


def _encoding(head: bytes, where: str) -> tuple[str, str]:
    for mark, name in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if head.startswith(mark):
            return name, f"{name.upper().replace('-SIG', '')} text"
    if b"\0" in head:
        raise bad_input(where, "binary data", "text, a Parquet file or a spreadsheet")
    return "utf-8", "UTF-8 text"


def _delimiter(lines: list[str]) -> str:
    """The mark that cuts most of the last lines alike; a comma that is a decimal mark cuts them too, so it comes last."""
    sample = lines[-60:] if len(lines) > 80 else lines[-(3 * len(lines) // 4 + 1) :]
    best, score = " ", 0.0
    for mark in (*DELIMITERS[:3], " ", ","):
        counts = Counter(len(line.split() if mark == " " else line.split(mark)) for line in sample)
        width, many = counts.most_common(1)[0]
        if width < 2:
            continue
        alike = many / len(sample)
        if mark == " " and any("," in line and re.search(r",\s", line) for line in sample):
            alike *= 0.5  # spaces after commas
        if alike > score + 1e-9:
            best, score = mark, alike
    return best


def _parquet(path: Path) -> Table:
    where = str(path)
    import pyarrow.parquet as pq

    try:
        file = pq.ParquetFile(path, memory_map=True)
        meta = file.metadata
        unpacked = sum(meta.row_group(i).total_byte_size for i in range(meta.num_row_groups))
        refuse_many(where, meta.num_rows, meta.num_columns)
        if unpacked > MOST_BYTES:
            raise bad_input(where, f"{unpacked / 1e6:.0f} MB unpacked", f"at most {MOST_BYTES / 1e6:.0f} MB")
        names = [str(name) for name in file.schema_arrow.names]
        columns = [["" if v is None else _cell(v) for v in column.to_pylist()] for column in file.read(use_threads=False).columns]
    except InputError:
        raise
    except Exception as error:  # what a broken file makes a reader raise is not listed anywhere
        raise bad_input(where, f"a broken Parquet file ({_first_line(error)})", "a whole Parquet file") from None
    rows = [names, *([c[i] for c in columns] for i in range(len(columns[0]) if columns else 0))]
    return Table(rows, list(range(len(rows))), [], ["Parquet"])


def _first_line(error: Exception) -> str:
    return next(iter(str(error).splitlines()), type(error).__name__)[:80]


def _cell(value: object) -> str:
    return repr(value) if isinstance(value, float) else str(value)


def _spreadsheet(path: Path, sheet: str | None) -> Table:
    where = str(path)
    try:
        if zipfile.is_zipfile(path):
            with zipfile.ZipFile(path) as packed:
                unpacked = sum(info.file_size for info in packed.infolist())
            if unpacked > MOST_BYTES:
                raise bad_input(where, f"{unpacked / 1e6:.0f} MB unpacked", f"at most {MOST_BYTES / 1e6:.0f} MB")
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as error:
        raise bad_input(where, f"a broken spreadsheet ({_first_line(error)})", "a whole spreadsheet") from None
    answer = _read_apart(path, sheet)
    names = tuple(answer.get("names", ()))
    if "fault" in answer:
        raise bad_input(where, f"a broken spreadsheet ({answer['fault']})", "a whole spreadsheet")
    if "sheet" not in answer:
        raise bad_input(where, f"no sheet {sheet!r}", f"one of {', '.join(names) or 'no sheets'}")
    if "rows" not in answer:
        raise bad_input(where, f"a sheet that spans {answer['cells']:,} cells",
                        f"at most {MOST_CELLS:,}; delete cells far from the table, or save the table as CSV")
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


def _read_apart(path: Path, sheet: str | None) -> dict:
    """What ``sheet_reader`` prints; a reader that was lost to its bounds says nothing."""
    too_large = bad_input(str(path), "a spreadsheet that needs more memory or time than a table of measurements does",
                          f"at most {MOST_CELLS:,} cells between its outermost ones; delete cells far from the table, or save the "
                          "table as CSV")
    command = [sys.executable, "-P", str(Path(sheet_reader.__file__)), str(path.absolute()), sheet or "", str(MOST_CELLS)]
    try:
        done = subprocess.run(command, stdin=subprocess.DEVNULL, capture_output=True, timeout=WAIT, check=False)
        if done.returncode != 0:
            raise too_large
        answer: dict = json.loads(done.stdout)
        return answer
    except subprocess.TimeoutExpired:
        raise too_large from None
    except ValueError:
        raise bad_input(str(path), "a spreadsheet that cannot be read", "a whole spreadsheet") from None
