"""Reading and writing case files: one UTF-8 JSON document, checked whole, saved atomically.

A save writes a temporary file in the same folder, flushes it to the disk (fsync) and renames it
over the old one, so that a crash at any moment leaves either the old file or the new, whole.
"""

from __future__ import annotations

import contextlib
import difflib
import json
import os
import tempfile
from pathlib import Path
from typing import Any

from pydantic import BaseModel, ValidationError

from yapa.case.model import FORMAT_VERSION, Case
from yapa.errors import InputError, Problem, bad_input

MAX_CASE_BYTES = 256 * 1024 * 1024

_EXPECTED = {
    "missing": "this key to be present",
    "string_type": "text in quotes",
    "float_type": "a number",
    "int_type": "a whole number",
    "bool_type": "true or false",
    "finite_number": "a finite number",
    "dict_type": "an object in braces",
    "model_type": "an object in braces",
    "model_attributes_type": "an object in braces",
    "tuple_type": "a list in brackets",
}


def _shown(value: Any) -> str:
    text = json.dumps(value, default=str, ensure_ascii=False) if not isinstance(value, float) else repr(value)
    return text if len(text) <= 60 else text[:57] + "..."


_TAGS = {"sphere", "box", "plane", "capsule", "cylinder", "hull"}
_PROFILES = {"precise", "stepped"}


def _where(loc: tuple[Any, ...]) -> str:
    """The path as it stands in the file, without the names of union branches."""
    skip = {"Direction", "NaturalRoll", "float", "constrained-float"}
    parts = [str(p) for i, p in enumerate(loc)
             if not (str(p) in skip or str(p).startswith(("tuple[", "constrained"))
                     or (p in _TAGS and i >= 2 and loc[i - 2] == "shapes")
                     or (p in _PROFILES and i >= 1 and loc[i - 1] == "profile"))]
    return ".".join(parts) or "the case"


def _model_keys() -> set[str]:
    from yapa.case import evidence, model, profiles, scene, unknowns

    keys: set[str] = set()
    for module in (evidence, model, profiles, scene, unknowns):
        for thing in vars(module).values():
            if isinstance(thing, type) and issubclass(thing, BaseModel):
                keys |= set(thing.model_fields)
    return keys


def _problems(error: ValidationError) -> list[Problem]:
    problems: list[Problem] = []
    seen: set[str] = set()
    for item in error.errors(include_url=False):
        where, kind = _where(item["loc"]), item["type"]
        if kind == "extra_forbidden":
            key = str(item["loc"][-1])
            near = difflib.get_close_matches(key, _model_keys() - {key}, n=1)
            remedy = f"a known key; did you mean {near[0]!r}?" if near else "a known key; remove this one"
            problem = Problem(where, f"the unknown key {key!r}", remedy)
        elif kind == "missing":
            problem = Problem(where, "nothing", _EXPECTED[kind])
        elif kind == "value_error":
            lines = str(item["ctx"]["error"]).split("\n")
            problems += [Problem(where if len(lines) == 1 else "the case", line, "a consistent case")
                         for line in lines[:-1]]
            problem = Problem(where, lines[-1], "a consistent case")
        else:
            expected = _EXPECTED.get(kind, item["msg"].removeprefix("Input should be "))
            problem = Problem(where, _shown(item["input"]), expected)
        if str(problem) not in seen:
            seen.add(str(problem))
            problems.append(problem)
    return problems


def validate_tree(tree: Any, subject: str) -> Case:
    """A case from plain JSON data, with every problem at once.

    Raises
    ------
    InputError
        With one problem per thing wrong.
    """
    try:
        text = json.dumps(tree, allow_nan=True)
        return Case.model_validate_json(text)
    except ValidationError as error:
        raise InputError(_problems(error), subject) from None


def _no_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    out: dict[str, Any] = {}
    for key, value in pairs:
        if key in out:
            raise bad_input(key, "this key twice in one object", "each key once; remove or rename one")
        out[key] = value
    return out


def parse_case(text: str, subject: str) -> Case:
    """A case from JSON text.

    Raises
    ------
    InputError
        Not JSON, not a Yapa case, a version from the future, or invalid content.
    """
    try:
        tree = json.loads(text, object_pairs_hook=_no_twins)
    except json.JSONDecodeError as error:
        raise InputError(
            [Problem(f"line {error.lineno}, column {error.colno}", error.msg.lower(), "well-formed JSON")], subject
        ) from None
    except RecursionError:
        raise InputError([Problem("the file", "very deep nesting", "a Yapa case")], subject) from None
    except InputError as error:
        raise InputError(error.problems, subject) from None
    if not isinstance(tree, dict) or tree.get("format") != "yapa":
        raise InputError(
            [Problem("format", _shown(tree.get("format") if isinstance(tree, dict) else tree),
                     '"yapa"; is this really a Yapa case?')],
            subject,
        )
    version = tree.get("version")
    if isinstance(version, int) and not isinstance(version, bool) and version > FORMAT_VERSION:
        raise InputError(
            [Problem("version", str(version), f"{FORMAT_VERSION} or older; open it with a newer Yapa")], subject
        )
    return validate_tree(tree, subject)


def read_text(path: Path, limit: int, kind: str) -> str:
    """A whole text file, refused politely when missing, a folder, too large or not UTF-8."""
    where = str(path)
    try:
        if path.is_dir():
            raise bad_input(where, "a folder", f"a {kind} file")
        if path.stat().st_size > limit:
            raise bad_input(where, f"{path.stat().st_size / 1e6:.0f} MB", f"at most {limit / 1e6:.0f} MB")
        data = path.read_bytes()
    except FileNotFoundError:
        raise bad_input(where, "no such file", f"an existing {kind} file; check the name and the folder") from None
    except OSError as error:
        raise bad_input(where, error.strerror or "an unreadable file", "a file that can be read") from None
    if not data.strip():
        raise bad_input(where, "an empty file", f"a {kind} file with content")
    if b"\0" in data[:65536]:
        raise bad_input(where, "binary data", f"a {kind} file in UTF-8 text")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise bad_input(f"{where}, byte {error.start}", "bytes that are not UTF-8", "UTF-8 text; save it again as UTF-8"
                        ) from None


def read_case(path: Path) -> Case:
    """Read a case file. Tracks that name a file are left without samples here."""
    return parse_case(read_text(path, MAX_CASE_BYTES, "case"), str(path))


def case_text(case: Case) -> str:
    """The JSON text of a case; samples of tracks kept in files are left out."""
    tree = case.model_dump(mode="json", exclude_none=True)
    for track in tree.get("tracks", []):
        if "file" in track:
            track.pop("samples", None)
        elif (samples := track.get("samples")) is not None:
            own = next(t.samples for t in case.tracks if t.name == track["name"])
            track["samples"] = own.model_dump(mode="json", exclude_none=False) if own else samples
            track["samples"] = {k: v for k, v in track["samples"].items() if v is not None}
    return json.dumps(tree, indent=1, ensure_ascii=False, allow_nan=False) + "\n"


def write_atomically(path: Path, text: str) -> None:
    """Write text so that a crash leaves the old file or the new one, whole.

    Raises
    ------
    InputError
        If the folder does not exist or cannot be written.
    """
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
    except OSError as error:
        raise bad_input(str(path), error.strerror or "an unwritable folder", "a folder that can be written") from None
    try:
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        if path.exists():
            os.chmod(temporary, path.stat().st_mode & 0o777)
        else:
            os.chmod(temporary, 0o644)
        os.replace(temporary, path)
    except OSError as error:
        with contextlib.suppress(OSError):
            os.unlink(temporary)
        raise bad_input(str(path), error.strerror or "a failed write", "room and permission to write") from None
    with contextlib.suppress(OSError):
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)


def write_case(case: Case, path: Path) -> None:
    """Save a case atomically."""
    write_atomically(path, case_text(case))


def schema_text() -> str:
    """The JSON Schema of a case file."""
    return json.dumps(Case.model_json_schema(), indent=2, ensure_ascii=False) + "\n"
