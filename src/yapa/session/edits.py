"""Edits of a case that a hand makes: each a function that gives its text for undo and how it changes the case.

``desk.make(lock(path, True))`` makes one; a new edit is one function here.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from yapa.case import Case, Target, Track, Unknown, check_values, get_number, label_of, quantity_of, with_numbers
from yapa.errors import bad_input
from yapa.formats.csv_track import TrackFile


@dataclass(frozen=True)
class Edit:
    """How a case is changed, and what undo calls it. ``change`` raises an InputError where it cannot be done."""

    text: str
    change: Callable[[Case], Case]


def set_number(path: str, value: float) -> Edit:
    """Another value of a number, and of those tied to it."""
    return Edit(f"set {label_of(path)}", lambda case: with_numbers(case, {path: value}))


def free(path: str) -> Edit:
    """A number of the case as an unknown, within its usual range widened to hold it."""

    def change(case: Case) -> Case:
        if any(u.path == path for u in case.unknowns):
            return _with_unknown(case, path, locked=False)
        q, value = quantity_of(path), get_number(case, path)
        low, high = min(q.low, value), max(q.high, value)
        if path.split(".")[-2:-1] == ["position"]:
            low, high = value - 0.2, value + 0.2
        if q.scale == "log" and value > 0:
            low, high = value / 20, value * 20
        low, high = max(low, q.least), min(high, q.most)
        fresh = Unknown(path=path, low=low, high=high, scale="log" if q.scale == "log" else "linear")
        return case.model_copy(update={"unknowns": (*case.unknowns, fresh)})

    return Edit(f"free {label_of(path)}", change)


def lock(path: str, locked: bool) -> Edit:
    """An unknown locked at its value, or given back to the fit."""
    return Edit(f"{'lock' if locked else 'free'} {label_of(path)}", lambda case: _with_unknown(case, path, locked=locked))


def set_range(path: str, low: float, high: float) -> Edit:
    """Another range of an unknown; what else it is stays."""

    def change(case: Case) -> Case:
        old = next(u for u in case.unknowns if u.path == path)
        if not low < high:
            raise bad_input(label_of(path), f"{low:g} .. {high:g}", "a range that rises")
        check_values(case, {path: low})
        check_values(case, {path: high})
        return _with_unknown(case, path, low=low, high=high, scale=old.scale if low > 0 else "linear")

    return Edit(f"range of {label_of(path)}", change)


def remove_unknown(path: str) -> Edit:
    """No unknown any more; the number keeps its value."""
    return Edit(f"remove {label_of(path)}",
                lambda case: case.model_copy(update={"unknowns": tuple(u for u in case.unknowns if u.path != path)}))


def add_target(target: Target) -> Edit:
    """One more outcome that is wanted."""
    return Edit(f"want {target.label}", lambda case: case.model_copy(update={"targets": (*case.targets, target)}))


def replace_target(index: int, target: Target | None) -> Edit:
    """Another target in the place of one, or none."""

    def change(case: Case) -> Case:
        rows = list(case.targets)
        rows[index : index + 1] = [] if target is None else [target]
        return case.model_copy(update={"targets": tuple(rows)})

    return Edit("remove target" if target is None else f"want {target.label}", change)


def add_track(name: str, body: str, read: TrackFile) -> Edit:
    """What was read of a file as a track of a body, under a name that is free; the clip lasts as long as the track."""

    def change(case: Case) -> Case:
        taken = {t.name for t in case.tracks}
        free_name = next(n for n in [name, *(f"{name} {k}" for k in range(2, 99))] if n not in taken)
        track = Track(name=free_name, body=body, samples=read.samples, reading=read.how)
        last = float(read.samples.t[-1])
        return case.model_copy(update={"tracks": (*case.tracks, track), "duration": max(case.duration, last)})

    return Edit(f"bring {name}", change)


def remove_track(name: str) -> Edit:
    """The case without a track."""
    return Edit(f"remove {name}",
                lambda case: case.model_copy(update={"tracks": tuple(t for t in case.tracks if t.name != name)}))


def restore_trial(case: Case, index: int) -> Edit:
    """The values of a trial, of numbers that are still unknowns."""
    trial = case.trials[index]

    def change(case: Case) -> Case:
        return with_numbers(case, {p: v for p, v in trial.values.items() if any(u.path == p for u in case.unknowns)})

    return Edit(f"restore {trial.name}", change)


def change_trial(index: int, **changes: Any) -> Edit:
    """A trial renamed or pinned."""

    def change(case: Case) -> Case:
        rows = list(case.trials)
        rows[index] = rows[index].model_copy(update=changes)
        return case.model_copy(update={"trials": tuple(rows)})

    return Edit("change trial", change)


def remove_trial(index: int) -> Edit:
    """The ledger without a trial."""
    return Edit("remove trial", lambda case: case.model_copy(update={"trials": (*case.trials[:index], *case.trials[index + 1 :])}))


def dismiss(key: str, kind: str) -> Edit:
    """A finding that is not to be told again."""
    return Edit(f"never mind {kind}", lambda case: case.model_copy(update={"dismissed": (*case.dismissed, key)}))


def tell_again() -> Edit:
    """Every finding told again."""
    return Edit("tell all findings again", lambda case: case.model_copy(update={"dismissed": ()}))


def use_values(values: dict[str, float], text: str) -> Edit:
    """Values that a search found."""
    return Edit(text, lambda case: with_numbers(case, values))


def _with_unknown(case: Case, path: str, **changes: Any) -> Case:
    rows = tuple(u.model_copy(update=changes) if u.path == path else u for u in case.unknowns)
    return case.model_copy(update={"unknowns": rows})
