"""Reading case files: one UTF-8 JSON document, upgraded to the present format and checked whole."""

from __future__ import annotations

import json
import re
from pathlib import Path
from typing import Any, NamedTuple

from yapa.case.model import FORMAT_VERSION, Case
from yapa.case.validation import shown, validate_as
from yapa.errors import InputError, InputIssue, bad_input
from yapa.files import FileStamp, read_regular
from yapa.formats.case_json.version_1 import upgrade
from yapa.outcomes import kinds as _kinds  # noqa: F401  (registers the outcomes that targets name)

MAX_CASE_BYTES = 256 * 1024 * 1024
"""of a case file"""


class StampedCase(NamedTuple):
    """A case read from a file, the stamp of what was read, and the version of the format that stood in it."""

    case: Case
    stamp: FileStamp
    version: int


def _no_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    out: dict[str, Any] = {}
    for key, value in pairs:
        if key in out:
            raise bad_input(key, "this key twice in one object", "each key once; remove or rename one")
        out[key] = value
    return out


def parse_case(text: str, subject: str) -> Case:
    """Return the case in a JSON text of any version of the format.

    Parameters
    ----------
    text : the text
    subject : what is checked, for messages

    Raises
    ------
    InputError
        Not JSON, not a Yapa case, a version from the future, or invalid content.
    """
    return parse_versioned(text, subject)[0]


def parse_versioned(text: str, subject: str) -> tuple[Case, int]:
    """Return the case in a JSON text, and the version of the format that stood in it.

    Parameters
    ----------
    text : the text
    subject : what is checked, for messages

    Raises
    ------
    InputError
        Not JSON, not a Yapa case, a version from the future, or invalid content.
    """
    _check_text(text, subject)
    try:
        tree = json.loads(text, object_pairs_hook=_no_twins)
    except json.JSONDecodeError as error:
        raise InputError(
            [InputIssue(f"line {error.lineno}, column {error.colno}", error.msg.lower(), "well-formed JSON")], subject
        ) from None
    except InputError as error:
        raise InputError(error.problems, subject) from None
    if not isinstance(tree, dict) or tree.get("format") != "yapa":
        raise InputError(
            [InputIssue("format", shown(tree.get("format") if isinstance(tree, dict) else tree),
                     '"yapa"; is this really a Yapa case?')],
            subject,
        )
    version = tree.get("version")
    if isinstance(version, int) and not isinstance(version, bool) and version > FORMAT_VERSION:
        raise InputError(
            [InputIssue("version", str(version), f"{FORMAT_VERSION} or older; open it with a newer Yapa")], subject
        )
    if version not in (None, 1):
        return validate_as(Case, tree, subject), FORMAT_VERSION
    upgraded = upgrade(tree)
    return validate_as(Case, upgraded, subject if version is None else f"{subject}, read as format {FORMAT_VERSION}"), 1


MAX_DEPTH = 100
"""of brackets in brackets; a case needs twelve"""
_TOKENS = re.compile(r'"(?:[^"\\]|\\.)*"|[\[\]{}]|\d{400,}', re.DOTALL)
_ESCAPES = re.compile(r"(?i:\\u d[89ab][0-9a-f]{2} \\u d[c-f][0-9a-f]{2}) | (?i:\\u (d[89a-f][0-9a-f]{2})) | \\.",
                      re.DOTALL | re.VERBOSE)
"""a whole pair of surrogates, half of one, or another escape"""


def _check_text(text: str, subject: str) -> None:
    """Refuse, with its place, what a JSON parser refuses without one: deep nesting, endless numbers, halves of surrogate pairs."""
    depth = 0
    for token in _TOKENS.finditer(text):
        word = token[0]
        if word in "[{":
            depth += 1
            if depth > MAX_DEPTH:
                _refuse_at(text, token.start(), subject, f"{depth} brackets inside each other", "a case, which nests a dozen deep")
        elif word in "]}":
            depth -= 1
        elif word[0] != '"':
            _refuse_at(text, token.start(), subject, f"a number of {len(word):,} digits", "numbers of at most 17 digits")
        elif "\\u" in word:
            for escape in _ESCAPES.finditer(word):
                if escape[1] is not None:
                    _refuse_at(text, token.start() + escape.start(), subject, f"half of a surrogate pair ({escape[0]})",
                               "letters of Unicode")


def _refuse_at(text: str, at: int, subject: str, found: str, expected: str) -> None:
    line, column = text.count("\n", 0, at) + 1, at - text.rfind("\n", 0, at)
    raise InputError([InputIssue(f"line {line}, column {column}", found, expected)], subject)


def decode(data: bytes, where: str, kind: str) -> str:
    """Return UTF-8 text from the bytes of a file, refused where it is empty, binary or in another encoding.

    Parameters
    ----------
    data : the content of the file
    where : what the text or file is called in messages
    kind : what the file is called in the message

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
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
    """Return the case in a file. Tracks that name a file are left without samples here.

    Parameters
    ----------
    path : the file
    """
    return read_stamped(path).case


def read_stamped(path: Path) -> StampedCase:
    """Return the case in a file and what is known of the file. Tracks that name a file are left without samples here.

    Parameters
    ----------
    path : the file
    """
    data = read_regular(path, MAX_CASE_BYTES, "case file")
    case, version = parse_versioned(decode(data, str(path), "case"), str(path))
    return StampedCase(case, FileStamp.of(data), version)
