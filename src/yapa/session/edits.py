"""Edits of a case that a hand makes: each a function that gives its text for undo and how it changes the case.

``desk.make(lock(path, True))`` makes one; a new edit is one function here.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from yapa.case import Case, Take, Target, Track, Unknown, check_values, get_number, has_number, label_of, quantity_of, with_numbers
from yapa.case.kept_scenes import with_scene, without_idle_scenes
from yapa.case.parameter_path import parse_path
from yapa.case.validation import check_change, in_words
from yapa.errors import bad_input
from yapa.session.building.taking_out import without

START = ("position", "velocity", "angular_velocity", "speed", "elevation", "azimuth")
"""quantities of a body that each take has for itself"""


@dataclass(frozen=True)
class Edit:
    """How a case is changed, and what undo calls it. ``change`` raises an InputError where it cannot be done."""

    text: str
    change: Callable[[Case], Case]

    def applied(self, case: Case) -> Case:
        """Return the case with this change, held to the rules of a case file.

        Parameters
        ----------
        case : the case, which is valid

        Raises
        ------
        InputError
            If it cannot be done, or no file could hold what it makes.
        """
        try:
            with in_words("this edit"):
                after = self.change(case)
        except (KeyError, IndexError) as error:  # of a card or a mark that outlived the part it is of
            raise bad_input(self.text, f"no {error.args[0] if error.args else 'such part'} in the case any more",
                            "a part that is still there") from error
        check_change(after, case)
        return after


def set_number(path: str, value: float) -> Edit:
    """Return another value of a number, and of those tied to it.

    Parameters
    ----------
    path : path of the number
    value : its value
    """
    return Edit(f"set {label_of(path)}", lambda case: with_numbers(case, {path: value}))


def free(path: str) -> Edit:
    """Return a number of the case as an unknown, within its usual range; a value at an end of it or beyond has room on both sides.

    Parameters
    ----------
    path : path of the number
    """

    def change(case: Case) -> Case:
        if any(u.path == path for u in case.unknowns):
            return _with_unknown(case, path, fixed=False)
        q, value = quantity_of(path), get_number(case, path)
        low = q.low if value > q.low else min(q.low, value - abs(value))
        high = q.high if value < q.high else max(q.high, value + abs(value))
        if parse_path(path).quantity == "position":
            low, high = value - 0.2, value + 0.2
        if q.scale == "log" and value > 0:
            low, high = value / 20, value * 20
        low, high = max(low, q.least), min(high, q.most)
        fresh = Unknown(path=path, low=low, high=high, transform="log" if q.scale == "log" else "linear")
        return case.model_copy(update={"unknowns": (*case.unknowns, fresh)})

    return Edit(f"free {label_of(path)}", change)


def lock(path: str, locked: bool) -> Edit:
    """Return an unknown locked at its value, or given back to the fit.

    Parameters
    ----------
    path : path of the number
    locked : whether the fit leaves it
    """
    return Edit(f"{'lock' if locked else 'free'} {label_of(path)}", lambda case: _with_unknown(case, path, fixed=locked))


def set_range(path: str, low: float, high: float) -> Edit:
    """Return another range of an unknown; what else it is stays.

    Parameters
    ----------
    path : path of the number
    low : lower end
    high : upper end
    """

    def change(case: Case) -> Case:
        old = next((u for u in case.unknowns if u.path == path), None)
        if old is None:
            raise bad_input(label_of(path), "no unknown any more", "a number that the fit may change; free it first")
        if not low < high:
            raise bad_input(label_of(path), f"{low:g} .. {high:g}", "a range that rises")
        check_values(case, {path: low})
        check_values(case, {path: high})
        return _with_unknown(case, path, low=low, high=high, transform=old.transform if low > 0 else "linear")

    return Edit(f"range of {label_of(path)}", change)


def remove_unknown(path: str) -> Edit:
    """Return no unknown any more; the number keeps its value.

    Parameters
    ----------
    path : path of the number
    """
    return Edit(f"remove {label_of(path)}",
                lambda case: case.model_copy(update={"unknowns": tuple(u for u in case.unknowns if u.path != path)}))


def add_target(target: Target) -> Edit:
    """Return one more outcome that is wanted.

    Parameters
    ----------
    target : the wanted outcome
    """
    return Edit(f"want {target.label}", lambda case: case.model_copy(update={"targets": (*case.targets, target)}))


def replace_target(index: int, target: Target | None) -> Edit:
    """Return another target in the place of one, or none.

    Parameters
    ----------
    index : which target of the case, from 0
    target : the wanted outcome
    """

    def change(case: Case) -> Case:
        rows = list(case.targets)
        rows[index : index + 1] = [] if target is None else [target]
        return case.model_copy(update={"targets": tuple(rows)})

    return Edit("remove target" if target is None else f"want {target.label}", change)


def bring_tracks(tracks: Sequence[Track], as_take: bool = False) -> Edit:
    """Return the edit that adds tracks; their names are made free, the clip as long as the longest.

    Parameters
    ----------
    tracks : what was read
    as_take : whether they are another take of what is there: then the launch of its bodies is its own
    """

    def change(case: Case) -> Case:
        taken = {t.name for t in case.tracks}
        added: list[Track] = []
        for track in tracks:
            name = next(n for n in [track.name, *(f"{track.name} {k}" for k in range(2, 99))] if n not in taken)
            taken.add(name)
            added.append(track.model_copy(update={"name": name}))
        last = max((float(t.samples.t[-1]) + t.time_offset for t in added if t.samples is not None), default=0.0)
        after = case.model_copy(update={"tracks": (*case.tracks, *added), "duration": max(case.duration, last)})
        return with_take(after, [t.name for t in added]) if as_take else after

    return Edit(f"bring {tracks[0].name}" if tracks else "bring nothing", change)


def with_take(case: Case, names: Sequence[str]) -> Case:
    """Return the case with some of its tracks as a take of their own, the others in another; launches are found for each.

    Parameters
    ----------
    case : the case
    names : of tracks that belong together
    """
    of_its_own = tuple(u.path for u in case.unknowns if not u.fixed and parse_path(u.path).section == "bodies"
                       and parse_path(u.path).quantity in START)
    takes = list(case.takes)
    in_takes = {name for take in takes for name in take.tracks}
    rest = tuple(t.name for t in case.tracks if t.name not in in_takes and t.name not in names)
    if rest:
        takes.append(Take(name=_free("take", [t.name for t in takes]), tracks=rest, free_per_take=of_its_own))
    takes.append(Take(name=_free("take", [t.name for t in takes]), tracks=tuple(names), free_per_take=of_its_own))
    return case.model_copy(update={"takes": tuple(takes)})


def _free(word: str, taken: Sequence[str]) -> str:
    return next(name for k in range(1, 999) if (name := f"{word} {k}") not in taken)


def remove_track(name: str) -> Edit:
    """Return the case without a track.

    Parameters
    ----------
    name : its name
    """
    def change(case: Case) -> Case:
        takes = [t.model_copy(update={"tracks": tuple(n for n in t.tracks if n != name)}) for t in case.takes]
        unknowns = tuple(u for u in case.unknowns if not u.path.startswith(f"tracks.{name}."))
        return case.model_copy(update={
            "tracks": tuple(t for t in case.tracks if t.name != name), "unknowns": unknowns,
            "takes": tuple(t for t in takes if t.tracks or t.targets or t.rows)})

    return Edit(f"remove {name}", change)


def restore_trial(case: Case, index: int, *, scene: bool = False) -> Edit:
    """Return the values of a trial, of numbers that are still unknowns, or its scene and its values.

    Parameters
    ----------
    case : the case
    index : which trial of the ledger, from 0
    scene : whether the scene that the trial was made in comes back too; what refers to bodies that were not in it is taken out
    """
    trial = case.trials[index]

    def change(case: Case) -> Case:
        kept = case.scenes.get(trial.scene or "") if scene else None
        if kept is not None:
            whole = with_scene(without(case, [name for name in case.bodies if name not in kept.bodies]), kept)
            unknowns = tuple(u for u in whole.unknowns if has_number(whole, u.path))
            whole = whole.model_copy(update={"unknowns": unknowns, "trials": case.trials, "scenes": case.scenes})
            return with_numbers(whole, {p: v for p, v in trial.values.items() if has_number(whole, p)})
        return with_numbers(case, {p: v for p, v in trial.values.items() if any(u.path == p for u in case.unknowns)})

    return Edit(f"restore {trial.name}", change)


def change_trial(index: int, **changes: Any) -> Edit:
    """Return a trial renamed or pinned.

    Parameters
    ----------
    changes : fields of the body and their new values
    index : which trial of the ledger, from 0
    """

    def change(case: Case) -> Case:
        rows = list(case.trials)
        rows[index] = rows[index].model_copy(update=changes)
        return case.model_copy(update={"trials": tuple(rows)})

    return Edit("change trial", change)


def remove_trial(index: int) -> Edit:
    """Return the ledger without a trial.

    Parameters
    ----------
    index : which trial of the ledger, from 0
    """
    return Edit("remove trial", lambda case: without_idle_scenes(
        case.model_copy(update={"trials": (*case.trials[:index], *case.trials[index + 1 :])})))


def dismiss(key: str, kind: str) -> Edit:
    """Return the edit that dismisses a finding, so that it is not told again.

    Parameters
    ----------
    key : what it is kept under
    kind : kind of the finding, as shown
    """
    return Edit(f"never mind {kind}", lambda case: case.model_copy(update={"ignored_findings": (*case.ignored_findings, key)}))


def restore_findings() -> Edit:
    """Return every finding told again."""
    return Edit("tell all findings again", lambda case: case.model_copy(update={"ignored_findings": ()}))


def use_values(values: dict[str, float], text: str) -> Edit:
    """Return values that a search found.

    Parameters
    ----------
    values : path → value, SI units
    text : the text
    """
    return Edit(text, lambda case: with_numbers(case, values))


def _with_unknown(case: Case, path: str, **changes: Any) -> Case:
    rows = tuple(u.model_copy(update=changes) if u.path == path else u for u in case.unknowns)
    return case.model_copy(update={"unknowns": rows})
