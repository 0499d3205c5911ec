"""One sheet of a spreadsheet as JSON, in a process of its own: ``python sheet_reader.py FILE [SHEET]``.

The reader lays a sheet out as a rectangle before anything of it can be asked, and ends the process where there is no room for it:
one cell far from the others is enough. A process with bounds of memory and time can be lost without harm. It imports nothing of
Yapa, so that it starts quickly.
"""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path

ROOM = 600_000_000
"""bytes of address space beyond what the interpreter has at its start"""
SECONDS = 15
"""of processor time"""


def main() -> None:
    """Print the sheet's name, the names of all, the number of its first row, and its rows."""
    import python_calamine as calamine

    size = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (size + ROOM, size + ROOM))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    path, wanted, most = sys.argv[1], sys.argv[2], int(sys.argv[3])
    try:
        book = calamine.CalamineWorkbook.from_path(path)
        name = wanted or next(iter(book.sheet_names), None)
        answer: dict[str, object] = {"names": book.sheet_names}
        if name is not None and name in book.sheet_names:
            sheet = book.get_sheet_by_name(name)
            answer |= {"sheet": name, "start": (sheet.start or (0, 0))[0], "cells": sheet.height * sheet.width}
            if sheet.height * sheet.width <= most:
                answer["rows"] = [[_cell(v) for v in row] for row in sheet.to_python(skip_empty_area=True)]
    except Exception as error:
        answer = {"fault": str(error).splitlines()[0][:200] if str(error) else type(error).__name__}
    json.dump(answer, sys.stdout)


def _cell(value: object) -> str:
    return "" if value is None else repr(value) if isinstance(value, float) else str(value)


if __name__ == "__main__":
    main()
