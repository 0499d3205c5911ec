"""Any table file as rows of cells: delimited text of any dialect, Parquet, spreadsheets.

Text: the encoding by its byte-order mark, else UTF-8, else Latin-1. Lines that begin with #, % or // are comments. The
delimiter is the one that splits most lines into the same number of cells, more than one. What a file unpacks to is
looked up before it is unpacked, and capped.
"""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

from yapa.errors import InputError, bad_input
from yapa.formats.opening import opened

MOST_BYTES = 512_000_000
"""Of what a file unpacks to."""
MOST_ROWS, MOST_COLUMNS = 2_000_000, 2_000
DELIMITERS = (";", "\t", "|", ",")
WORDS = {";": "semicolons", "\t": "tabs", "|": "bars", ",": "commas", " ": "spaces"}


@dataclass
class Table:
    """Rows of cells as text, with what was found out about the file.

    ``lines`` are the numbers of the rows in the file, from 1, for messages.
    """

    rows: list[list[str]]
    lines: list[int]
    comments: list[str] = field(default_factory=list)
    said: list[str] = field(default_factory=list)
    delimiter: str | None = None
    sheet: str | None = None


def read_table(path: Path, sheet: str | None = None, delimiter: str | None = None) -> Table:
    """Read a table.

    Raises
    ------
    InputError
        Not a file, too large, or nothing that can be read as a table.
    """
    with opened(path, MOST_BYTES, "a file of measurements", "rows of numbers") as head:
        if head[:4] == b"PAR1":
            return _parquet(path)
        if head[:4] in (b"PK\x03\x04", b"\xd0\xcf\x11\xe0"):
            return _spreadsheet(path, sheet)
        return _text(path, head, delimiter)
    raise AssertionError("opened always answers")


def _text(path: Path, head: bytes, delimiter: str | None) -> Table:
    where = str(path)
    encoding, said = _encoding(head, where)
    raw = path.read_bytes()
    try:
        text = raw.decode(encoding)
    except UnicodeDecodeError:
        text, said = raw.decode("latin-1"), "Latin-1 text"
    del raw
    if "\0" in text:
        raise bad_input(where, "binary data", "text, a Parquet file or a spreadsheet")
    comments, lines, numbers = [], [], []
    for number, line in enumerate(text.splitlines(), start=1):
        if re.match(r"\s*(#|%|//)", line):
            comments.append(line.strip(" #%/\t"))
        elif line.strip():
            lines.append(line)
            numbers.append(number)
        if len(lines) > MOST_ROWS:
            raise bad_input(where, f"more than {MOST_ROWS} rows", f"at most {MOST_ROWS}; thin it first")
    del text
    if not lines:
        raise bad_input(where, "only comments", "rows of numbers")
    mark = delimiter or _delimiter(lines)
    if mark == " ":
        rows = [line.split() for line in lines]
    else:
        rows = [[cell.strip() for cell in _split(line, mark)] for line in lines]
    if any(len(row) > MOST_COLUMNS for row in rows):
        raise bad_input(where, "a row of too many cells", f"at most {MOST_COLUMNS} columns")
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
    import pyarrow
    import pyarrow.parquet as pq

    try:
        file = pq.ParquetFile(path, memory_map=True)
        meta = file.metadata
        unpacked = sum(meta.row_group(i).total_byte_size for i in range(meta.num_row_groups))
        if unpacked > MOST_BYTES or meta.num_rows > MOST_ROWS or meta.num_columns > MOST_COLUMNS:
            raise bad_input(
                where, f"{meta.num_rows} rows, {unpacked / 1e6:.0f} MB", f"at most {MOST_ROWS} rows, {MOST_BYTES / 1e6:.0f} MB"
            )
        names = [str(name) for name in file.schema_arrow.names]
        columns = [["" if v is None else _cell(v) for v in column.to_pylist()] for column in file.read(use_threads=False).columns]
    except InputError:
        raise
    except (pyarrow.ArrowException, OSError, ValueError, OverflowError) as error:
        raise bad_input(where, f"a broken Parquet file ({str(error).splitlines()[0][:80]})", "a whole Parquet file") from None
    rows = [names, *([c[i] for c in columns] for i in range(len(columns[0]) if columns else 0))]
    return Table(rows, list(range(len(rows))), [], ["Parquet"])


def _cell(value: object) -> str:
    return repr(value) if isinstance(value, float) else str(value)


def _spreadsheet(path: Path, sheet: str | None) -> Table:
    where = str(path)
    import python_calamine as calamine

    try:
        if zipfile.is_zipfile(path):
            with zipfile.ZipFile(path) as packed:
                unpacked = sum(info.file_size for info in packed.infolist())
            if unpacked > MOST_BYTES // 4:
                raise bad_input(where, f"{unpacked / 1e6:.0f} MB unpacked", f"at most {MOST_BYTES / 4e6:.0f} MB")
        book = calamine.CalamineWorkbook.from_path(str(path))
        name = sheet or next((s for s in book.sheet_names), None)
        if name is None or name not in book.sheet_names:
            raise bad_input(where, f"no sheet {sheet!r}", f"one of {', '.join(book.sheet_names) or 'no sheets'}")
        found = book.get_sheet_by_name(name).to_python(skip_empty_area=True)
    except InputError:
        raise
    except Exception as error:
        raise bad_input(where, f"a broken spreadsheet ({str(error).splitlines()[0][:80]})", "a whole spreadsheet") from None
    rows, lines = [], []
    for number, row in enumerate(found[:MOST_ROWS], start=1):
        cells = ["" if v is None else _cell(v) for v in row[:MOST_COLUMNS]]
        if any(cell.strip() for cell in cells) and not re.match(r"\s*(#|%|//)", cells[0]):
            rows.append(cells)
            lines.append(number)
    if not rows:
        raise bad_input(where, f"an empty sheet {name!r}", "rows of numbers")
    return Table(rows, lines, [], [f"sheet {name!r} of a spreadsheet"], None, name)
