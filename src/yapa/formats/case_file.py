"""Loading a case with the tracks it names, and saving it again."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from yapa.by_identity import once_for_each
from yapa.case.evidence import Track
from yapa.case.model import FORMAT_VERSION, Case
from yapa.case.trial_table import TrialTable
from yapa.case.validation import checked
from yapa.errors import InputError, InputIssue
from yapa.files import FileStamp, changed_since
from yapa.formats.case_json import write_case
from yapa.formats.case_json.reader import StampedCase, decode, parse_versioned, read_stamped
from yapa.formats.tracks.any_file import read_any
from yapa.formats.trials import TrialFile, read_trials


class OutsideError(InputError):
    """A case names files outside its own folder; they are read only once that is allowed."""

    def __init__(self, path: Path, files: list[Path]) -> None:
        super().__init__([InputIssue(str(file), "a file outside the folder of the case",
                                  "a file beside the case; allow it with --allow-outside if you know the case") for file in files],
                         str(path))
        self.files = files


class ChangedError(InputError):
    """A file holds something else than when it was read; it is replaced only once that is allowed."""

    def __init__(self, path: Path, since: FileStamp | None) -> None:
        found = "a file that was changed by someone else" if since is not None else "a file that was not there before"
        super().__init__([InputIssue(str(path), found, "another name, or --overwrite to replace it")])
        self.path = path


@dataclass(frozen=True)
class Loaded:
    """A case from a file, what the person should know of it, the stamp of the file, and the version of the format in it."""

    case: Case
    notices: list[str]
    stamp: FileStamp
    version: int = FORMAT_VERSION


def upgrade_notice(was_version: int) -> str:
    """Return what follows "saved": that the file held an older format before, or nothing.

    Parameters
    ----------
    was_version : version of the format in the file before
    """
    return "" if was_version == FORMAT_VERSION else (
        f"; it is in case format {FORMAT_VERSION} now, which versions of Yapa for format {was_version} cannot read")


def load(path: Path, allow_outside: bool = False) -> Loaded:
    """Return a case with every referenced track read.

    Parameters
    ----------
    path : the file
    allow_outside : whether tracks outside the case's folder may be read

    Raises
    ------
    OutsideError
        If a track's file lies outside the case's folder, unless that is allowed.
    InputError
        If the case or one of its tracks cannot be used.
    """
    return _with_tracks(read_stamped(path), path, path.parent, allow_outside)


def load_text(data: bytes, where: str, folder: Path, allow_outside: bool = False) -> Loaded:
    """Return a case from the bytes of a file that has no place of its own; its tracks are looked for in ``folder``.

    Parameters
    ----------
    data : the text of a case file
    where : what the text or file is called in messages
    folder : the folder
    allow_outside : whether tracks outside the case's folder may be read

    Raises
    ------
    As :func:`load`.
    """
    case, version = parse_versioned(decode(data, where, "case"), where)
    return _with_tracks(StampedCase(case, FileStamp.of(data), version), Path(where), folder, allow_outside)


def _with_tracks(read: StampedCase, path: Path, folder: Path, allow_outside: bool) -> Loaded:
    case, stamp, version = read
    wanted = [track for track in case.tracks if track.file is not None and track.samples is None]
    names = [track.file for track in wanted] + ([case.table.file] if case.table is not None and case.table.columns is None else [])
    outside = [file for name in names if (file := _outside(folder, name or "")) is not None]
    if outside and not allow_outside:
        raise OutsideError(path, outside)
    notices: list[str] = []
    read_in = {}
    for track in wanted:
        try:
            found = read_any(folder / (track.file or ""), track.import_settings)
        except InputError as error:
            raise InputError(error.problems, f"track {track.name!r} of {path}") from None
        notices += found.notices
        read_in[track.name] = track.model_copy(update={"samples": found.samples, "import_settings": found.how})
    table = case.table
    if table is not None and table.file is not None and table.columns is None:
        rows = _rows_of(folder / table.file, path)
        notices += rows.notices
        table = table.model_copy(update={"columns": rows.columns, "units": {**rows.units, **table.units}})
    if not read_in and table is case.table:
        return Loaded(case, notices, stamp, version)
    whole = case.model_copy(update={"tracks": tuple(read_in.get(t.name, t) for t in case.tracks), "table": table})
    return Loaded(checked(whole, str(path)), notices, stamp, version)


def _rows_of(file: Path, case: Path) -> TrialFile:
    try:
        return read_trials(file)
    except InputError as error:
        raise InputError(error.problems, f"the table of {case}") from None


def _outside(folder: Path, name: str) -> Path | None:
    """The file that a case names, if it lies outside the case's folder."""
    try:
        home = Path(os.path.realpath(folder))
        file = Path(os.path.realpath(folder / name))
    except (OSError, ValueError):
        return None  # reading it says what is wrong
    return None if file.is_relative_to(home) else file


def table_from(source: Path | None, path: Path, table: TrialTable | None) -> TrialTable | None:
    """Return how a table of trials refers to its file once the case moves; a file outside the new folder is embedded.

    Parameters
    ----------
    source : where the case was read from
    path : where it is written
    table : the table
    """
    if table is None or table.file is None or source is None:
        return table
    home, old = (Path(os.path.realpath(file.parent)) for file in (path, source))
    if home == old:
        return table
    absolute = Path(os.path.realpath(old / table.file))
    inside = absolute.is_relative_to(home) or table.columns is None
    return table.model_copy(update={"file": os.path.relpath(absolute, home) if inside else None})


def load_case(path: Path, allow_outside: bool = False) -> tuple[Case, list[str]]:
    """Return a case with every referenced track read, and notices for the person (see :func:`load`).

    Parameters
    ----------
    path : the file
    allow_outside : whether tracks outside the case's folder may be read
    """
    loaded = load(path, allow_outside)
    return loaded.case, loaded.notices


def save(case: Case, path: Path, source: Path | None = None, since: FileStamp | None = None, overwrite: bool = True
         ) -> tuple[Case, FileStamp]:
    """Save a case atomically. References to track files are kept valid from the new place; a track whose file would lie outside its
    folder is embedded, so that the case opens without a question.

    Parameters
    ----------
    case : the case
    path : the file
    source : where the case was loaded from, to resolve relative references
    since : the stamp of what stood at ``path`` when it was last read or written, None if nothing did
    overwrite : whether to replace a file that holds something else by now

    Returns
    -------
    The case as saved, and the stamp of the file.

    Raises
    ------
    ChangedError
        If something else stands at ``path`` and is not to be overwritten.
    InputError
        If it cannot be written.
    """
    if not overwrite and changed_since(path, since):
        raise ChangedError(path, since)
    tracks, table = tracks_from(source, path)(case.tracks), table_from(source, path, case.table)
    saved = case if tracks is case.tracks and table is case.table else case.model_copy(update={"tracks": tracks, "table": table})
    return saved, write_case(saved, path)


def tracks_from(source: Path | None, path: Path) -> Callable[[tuple[Track, ...]], tuple[Track, ...]]:
    """Return how tracks refer to their files once the case moves from one file to another; what stays as it is stays the same
    object.

    A file is named from the new place where it lies in its folder, else its samples are embedded.

    Parameters
    ----------
    source : where the case was read from
    path : the file
    """
    home = Path(os.path.realpath(path.parent))
    old = None if source is None else Path(os.path.realpath(source.parent))

    @once_for_each(10_000)
    def moved(track: Track) -> Track:
        if track.file is None or old is None or old == home:
            return track
        absolute = Path(os.path.realpath(old / track.file))
        inside = absolute.is_relative_to(home) or track.samples is None
        return track.model_copy(update={"file": os.path.relpath(absolute, home) if inside else None})

    @once_for_each(10_000)
    def all_moved(tracks: tuple[Track, ...]) -> tuple[Track, ...]:
        after = tuple(moved(track) for track in tracks)
        return tracks if all(a is b for a, b in zip(after, tracks, strict=True)) else after

    return all_moved


def save_case(case: Case, path: Path, source: Path | None = None) -> Case:
    """Save a case atomically, whatever stands there (see :func:`save`).

    Parameters
    ----------
    case : the case
    path : the file
    source : where the case was read from

    Returns
    -------
    The case as saved.
    """
    return save(case, path, source)[0]


