"""Writing case files: JSON of the present format, saved atomically (see ``files``)."""

from __future__ import annotations

import json
from pathlib import Path

from yapa.case.model import Case
from yapa.files import FileStamp, write_atomically


def case_text(case: Case) -> str:
    """Return the JSON text of a case; samples of tracks kept in files are left out.

    Parameters
    ----------
    case : the case
    """
    tree = case.model_dump(mode="json", exclude_none=True)
    for key in ("groups", "cameras", "constants", "curves", "scenes"):
        if not tree[key]:
            del tree[key]
    for take in tree["takes"]:
        for key in ("tracks", "targets", "rows"):
            if not take[key]:
                del take[key]
    for curve, measured in zip(tree.get("curves", []), case.curves, strict=False):  # gaps stay
        curve["y"] = list(measured.y)
    table = tree.get("table")
    if table is not None:
        if "file" in table:
            table.pop("columns", None)
        elif case.table is not None:  # empty cells stay
            table["columns"] = case.table.model_dump(mode="json", include={"columns"})["columns"]
        for key in ("units", "free_per"):
            if not table[key]:
                del table[key]
    for track in tree.get("tracks", []):
        if "file" in track:
            track.pop("samples", None)
        elif (samples := track.get("samples")) is not None:
            own = next(t.samples for t in case.tracks if t.name == track["name"])
            track["samples"] = own.model_dump(mode="json", exclude_none=False) if own else samples
            track["samples"] = {k: v for k, v in track["samples"].items() if v is not None}
    return json.dumps(tree, indent=1, ensure_ascii=False, allow_nan=False) + "\n"


def write_case(case: Case, path: Path) -> FileStamp:
    """Save a case atomically; the stamp of what was written.

    Parameters
    ----------
    case : the case
    path : the file

    Returns
    -------
    Stamp of the file.
    """
    text = case_text(case)
    write_atomically(path, text)
    return FileStamp.of(text.encode())


def schema_text() -> str:
    """Return the JSON Schema of a case file."""
    return json.dumps(Case.model_json_schema(), indent=2, ensure_ascii=False) + "\n"
