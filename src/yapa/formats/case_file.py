"""Loading a case with the tracks it names, and saving it again."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from yapa.by_identity import once_for_each
from yapa.case.evidence import Track
from yapa.case.model import Case
from yapa.case.store import checked, decode, parse_case, read_stamped, write_case
from yapa.errors import InputError, InputIssue
from yapa.files import FileStamp, changed_since
from yapa.formats.any_track import read_any


class OutsideError(InputError):
    """A case names files outside its own folder; they are read only once that is allowed."""

    def __init__(self, path: Path, files: list[Path]) -> None:
        super().__init__([InputIssue(str(file), "a track's file outside the folder of the case",
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
    """A case from a file, what the person should know of it, and the stamp of the file."""

    case: Case
    notices: list[str]
    stamp: FileStamp


def load(path: Path, allow_outside: bool = False) -> Loaded:
    """A case with every referenced track read.

    Raises
    ------
    OutsideError
        If a track's file lies outside the case's folder, unless that is allowed.
    InputError
        If the case or one of its tracks cannot be used.
    """
    case, stamp = read_stamped(path)
    return _with_tracks(case, stamp, path, path.parent, allow_outside)


def load_text(data: bytes, where: str, folder: Path, allow_outside: bool = False) -> Loaded:
    """A case from the bytes of a file that has no place of its own; its tracks are looked for in ``folder``.

    Raises
    ------
    As :func:`load`.
    """
    case = parse_case(decode(data, where, "case"), where)
    return _with_tracks(case, FileStamp.of(data), Path(where), folder, allow_outside)


def _with_tracks(case: Case, stamp: FileStamp, path: Path, folder: Path, allow_outside: bool) -> Loaded:
    wanted = [track for track in case.tracks if track.file is not None and track.samples is None]
    outside = [file for track in wanted if (file := _outside(folder, track.file or "")) is not None]
    if outside and not allow_outside:
        raise OutsideError(path, outside)
    notices: list[str] = []
    read_in = {}
    for track in wanted:
        try:
            read = read_any(folder / (track.file or ""), track.reading)
        except InputError as error:
            raise InputError(error.problems, f"track {track.name!r} of {path}") from None
        notices += read.notices
        read_in[track.name] = track.model_copy(update={"samples": read.samples, "reading": read.how})
    if not read_in:
        return Loaded(case, notices, stamp)
    whole = case.model_copy(update={"tracks": tuple(read_in.get(t.name, t) for t in case.tracks)})
    return Loaded(checked(whole, str(path)), notices, stamp)


def _outside(folder: Path, name: str) -> Path | None:
    """The file that a case names, if it lies outside the case's folder."""
    try:
        home = Path(os.path.realpath(folder))
        file = Path(os.path.realpath(folder / name))
    except (OSError, ValueError):
        return None  # reading it says what is wrong
    return None if file.is_relative_to(home) else file


def load_case(path: Path, allow_outside: bool = False) -> tuple[Case, list[str]]:
    """A case with every referenced track read, and notices for the person (see :func:`load`)."""
    loaded = load(path, allow_outside)
    return loaded.case, loaded.notices


def save(case: Case, path: Path, source: Path | None = None, since: FileStamp | None = None, overwrite: bool = True
         ) -> tuple[Case, FileStamp]:
    """Save a case atomically. References to track files are kept valid from the new place; a track whose file would lie outside its
    folder is embedded, so that the case opens without a question.

    Parameters
    ----------
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
    tracks = tracks_from(source, path)(case.tracks)
    saved = case if tracks is case.tracks else case.model_copy(update={"tracks": tracks})
    return saved, write_case(saved, path)


def tracks_from(source: Path | None, path: Path) -> Callable[[tuple[Track, ...]], tuple[Track, ...]]:
    """How tracks refer to their files once the case moves from one file to another; what stays as it is stays the same object.

    A file is named from the new place where it lies in its folder, else its samples are embedded.
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
    """Save a case atomically, whatever stands there (see :func:`save`)."""
    return save(case, path, source)[0]


