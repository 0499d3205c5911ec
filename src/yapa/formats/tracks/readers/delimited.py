"""Delimited text of any dialect.

The encoding by its byte-order mark, else UTF-8, else Latin-1. Lines that begin with #, % or // are comments. The delimiter is the
one
that splits most lines into the same number of cells, more than one. What a file holds is counted before it is read, and capped.
"""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
from pathlib import Path

from yapa.errors import bad_input
from yapa.files import read_regular
from yapa.formats.tracks.registry import ReadOptions, track_reader
from yapa.formats.tracks.table import MAX_BYTES, MAX_LINE, MAX_ROWS, Table, refuse_many

DELIMITERS = (";", "\t", "|", ",")
WORDS = {";": "semicolons", "\t": "tabs", "|": "bars", ",": "commas", " ": "spaces"}


@track_reader("text", (".csv", ".txt", ".tsv", ".dat"), lambda _path, _head: True)
def read(path: Path, head: bytes, options: ReadOptions) -> Table:
    """Return the table in a delimited text.

    Raises
    ------
    InputError
        Binary data, broken text, only comments, or too many cells.
    """
    where = str(path)
    encoding, encoding_name = _encoding(head, where)
    raw = read_regular(path, MAX_BYTES, "file of measurements")
    if (many := raw.count(b"\n")) > 2 * MAX_ROWS:
        refuse_many(where, many)
    try:
        text = raw.decode(encoding)
    except UnicodeDecodeError:
        if encoding != "utf-8":
            raise bad_input(where, f"broken {encoding_name}", "whole text") from None
        text, encoding_name = raw.decode("latin-1"), "Latin-1 text"
    del raw
    if "\0" in text:
        raise bad_input(where, "binary data", "text, a Parquet file or a spreadsheet")
    comments, lines, numbers = [], [], []
    for number, line in enumerate(text.splitlines(), start=1):
        if len(line) > MAX_LINE:
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
    mark = options.delimiter or _delimiter(lines)
    if len(mark) != 1:
        raise bad_input("--delimiter", repr(mark), "one sign")
    widest = max(len(line.split() if mark == " " else line.split(mark)) for line in lines[:200])
    refuse_many(where, len(lines), widest)
    if mark == " ":
        rows = [line.split() for line in lines]
    else:
        rows = [[cell.strip() for cell in _split(line, mark)] for line in lines]
    refuse_many(where, 1, max(map(len, rows)))
    return Table(rows, numbers, comments, [f"{encoding_name}, cells parted by {WORDS.get(mark, repr(mark))}"], mark)


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
