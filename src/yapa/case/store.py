"""Reading and writing case files: one UTF-8 JSON document, checked whole, saved atomically (see ``files``)."""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from yapa.case.model import FORMAT_VERSION, Case
from yapa.errors import InputError, InputIssue, bad_input
from yapa.files import FileStamp, read_regular, write_atomically

Part = TypeVar("Part", bound=BaseModel)

MAX_CASE_BYTES = 256 * 1024 * 1024

_EXPECTED = {
    "missing": "this key to be present",
    "string_type": "text in quotes",
    "float_type": "a number",
    "float_parsing": "a number",
    "int_type": "a whole number",
    "int_from_float": "a whole number",
    "int_parsing_size": "a whole number of at most 18 digits",
    "bool_type": "true or false",
    "finite_number": "a finite number",
    "dict_type": "an object in braces",
    "model_type": "an object in braces",
    "model_attributes_type": "an object in braces",
    "tuple_type": "a list in brackets",
    "greater_than": "a number above {gt:g}",
    "greater_than_equal": "a number from {ge:g} on",
    "less_than": "a number below {lt:g}",
    "less_than_equal": "a number up to {le:g}",
    "literal_error": "{expected}",
    "too_long": "at most {max_length} entries",
    "too_short": "at least {min_length} entries",
    "string_too_long": "at most {max_length} letters",
    "string_too_short": "at least {min_length} letters",
    "string_pattern_mismatch": "a name without dots, plus signs, bars, tabs or line ends, and no blank at its start",
    "union_tag_invalid": "one of {expected_tags}",
    "union_tag_not_found": "an object with the key {discriminator} that says what it is",
    "string_unicode": "letters of Unicode",
    "json_invalid": "letters of Unicode, without halves of surrogate pairs",
}
"""What would be accepted, by the kind of error; the words of the validator itself are for its own readers."""


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


def _problems(error: ValidationError) -> list[InputIssue]:
    problems: list[InputIssue] = []
    seen: set[str] = set()
    for item in error.errors(include_url=False):
        where, kind = _where(item["loc"]), item["type"]
        if kind == "extra_forbidden":
            key = str(item["loc"][-1])
            near = difflib.get_close_matches(key, _model_keys() - {key}, n=1)
            remedy = f"a known key; did you mean {near[0]!r}?" if near else "a known key; remove this one"
            problem = InputIssue(where, f"the unknown key {key!r}", remedy)
        elif kind == "missing":
            problem = InputIssue(where, "nothing", _EXPECTED[kind])
        elif kind == "value_error":
            lines = str(item["ctx"]["error"]).split("\n")
            problems += [InputIssue(where if len(lines) == 1 else "the case", line, "a consistent case")
                         for line in lines[:-1]]
            problem = InputIssue(where, lines[-1], "a consistent case")
        else:
            expected = _EXPECTED.get(kind, "another kind of value; see docs/case-format.md").format(**item.get("ctx", {}))
            problem = InputIssue(where, "text with broken letters" if kind == "json_invalid" else _shown(item["input"]), expected)
        if str(problem) not in seen:
            seen.add(str(problem))
            problems.append(problem)
    return problems


def input_error(error: ValidationError, subject: str) -> InputError:
    """What a validator found, in words for the person."""
    return InputError(_problems(error), subject)


@contextmanager
def in_words(subject: str) -> Iterator[None]:
    """What a validator finds wrong with parts that are made here is said in words for the person.

    Raises
    ------
    InputError
        In place of the validator's own error.
    """
    try:
        yield
    except ValidationError as error:
        raise input_error(error, subject) from None


def validate_as(kind: type[Part], tree: Any, subject: str) -> Part:
    """A part of a case from plain JSON data, with every problem at once.

    Raises
    ------
    InputError
        With one problem per thing wrong.
    """
    try:
        return kind.model_validate_json(json.dumps(tree, allow_nan=True))
    except ValidationError as error:
        raise input_error(error, subject) from None


def validate_tree(tree: Any, subject: str) -> Case:
    """A case from plain JSON data, with every problem at once.

    Raises
    ------
    InputError
        With one problem per thing wrong.
    """
    return validate_as(Case, tree, subject)


def checked(case: Case, subject: str = "this edit") -> Case:
    """The same case, once more checked as a whole: what joins parts checked one by one is held to the same rules.

    Raises
    ------
    InputError
        With one problem per thing wrong.
    """
    try:
        Case.model_validate(dict(case))
    except ValidationError as error:
        raise input_error(error, subject) from None
    return case


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
            [InputIssue(f"line {error.lineno}, column {error.colno}", error.msg.lower(), "well-formed JSON")], subject
        ) from None
    except ValueError:  # the interpreter reads no number of more than 4,300 digits
        problem = InputIssue("the file", "a number of thousands of digits", "numbers of at most 17 digits")
        raise InputError([problem], subject) from None
    except RecursionError:
        raise InputError([InputIssue("the file", "very deep nesting", "a Yapa case")], subject) from None
    except InputError as error:
        raise InputError(error.problems, subject) from None
    if not isinstance(tree, dict) or tree.get("format") != "yapa":
        raise InputError(
            [InputIssue("format", _shown(tree.get("format") if isinstance(tree, dict) else tree),
                     '"yapa"; is this really a Yapa case?')],
            subject,
        )
    version = tree.get("version")
    if isinstance(version, int) and not isinstance(version, bool) and version > FORMAT_VERSION:
        raise InputError(
            [InputIssue("version", str(version), f"{FORMAT_VERSION} or older; open it with a newer Yapa")], subject
        )
    return validate_tree(tree, subject)


def decode(data: bytes, where: str, kind: str) -> str:
    """UTF-8 text from the bytes of a file, refused where it is empty, binary or in another encoding."""
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
    return read_stamped(path)[0]


def read_stamped(path: Path) -> tuple[Case, FileStamp]:
    """A case file and the stamp of what was read. Tracks that name a file are left without samples here."""
    data = read_regular(path, MAX_CASE_BYTES, "case file")
    return parse_case(decode(data, str(path), "case"), str(path)), FileStamp.of(data)


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


def write_case(case: Case, path: Path) -> FileStamp:
    """Save a case atomically; the stamp of what was written."""
    text = case_text(case)
    write_atomically(path, text)
    return FileStamp.of(text.encode())


def schema_text() -> str:
    """The JSON Schema of a case file."""
    return json.dumps(Case.model_json_schema(), indent=2, ensure_ascii=False) + "\n"
