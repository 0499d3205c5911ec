"""Evidence made by hand: marks, apex heights, ratios, a stopwatch, a drawn path, a curve of theory, an earlier trial.

All become ordinary evidence: targets with a tolerance, or tracks with a noise.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from yapa.case.evidence import Samples, Target, Track
from yapa.case.model import Case
from yapa.case.store import in_words
from yapa.case.unknowns import Trial
from yapa.engine import simulate
from yapa.errors import bad_input

Place = tuple[float, float, float]


def mark(time: float, place: Place, tolerance: float, body: str | None = None) -> list[Target]:
    """A body seen at a place [m] at a time [s]: three targets. A coordinate that is NaN was not seen."""
    return [Target(outcome=axis, at=time, value=value, tolerance=tolerance, body=body)
            for axis, value in zip("xyz", place, strict=True) if value == value]


def apex_heights(heights: Sequence[float], tolerance: float, body: str | None = None) -> list[Target]:
    """Heights of successive apexes [m], as they are typed."""
    if not heights:
        raise bad_input("apexes", "none", "at least one height in metres")
    return [Target(outcome="apex", index=k, value=h, tolerance=tolerance, body=body) for k, h in enumerate(heights, start=1)]


def apex_ratios(ratios: Sequence[float], tolerance: float, body: str | None = None) -> list[Target]:
    """Ratios of each apex to the one before, from the second on."""
    if not ratios:
        raise bad_input("ratios", "none", "at least one ratio")
    return [Target(outcome="apex ratio", index=k, value=r, tolerance=tolerance, body=body) for k, r in enumerate(ratios, start=2)]


def stopwatch(seconds: float, tolerance: float = 0.2, body: str | None = None) -> Target:
    """A rest time by hand; a person presses to about a fifth of a second."""
    return Target(outcome="rest time", value=seconds, tolerance=tolerance, body=body)


def drawn_path(name: str, body: str, times: Sequence[float], places: Sequence[Place], sigma: float) -> Track:
    """A path drawn through some places at some times, as a track at 60 a second between them, straight."""
    t, x = np.asarray(times, dtype=float), np.asarray(places, dtype=float)
    if len(t) < 2 or x.shape != (len(t), 3) or (np.diff(t) <= 0).any():
        raise bad_input("path", f"{len(t)} places", "at least two places at rising times, three coordinates each")
    grid = np.arange(t[0], t[-1] + 1e-9, 1 / 60)
    return _track(name, body, grid, np.column_stack([np.interp(grid, t, c) for c in x.T]), sigma)


def theory_curve(name: str, body: str, place: Callable[[float], Place], duration: float, sigma: float) -> Track:
    """A curve of theory, place [m] as a function of time [s], as a track at 120 a second."""
    grid = np.arange(0.0, duration + 1e-9, 1 / 120)
    return _track(name, body, grid, np.array([place(float(t)) for t in grid]), sigma)


def trial_track(case: Case, trial: Trial, body: str, sigma: float = 1e-3) -> Track:
    """The motion an earlier trial makes of a body, as evidence for another."""
    motion = simulate(case, trial.values)
    grid = np.arange(0.0, motion.end + 1e-9, 1 / 120)
    return _track(f"{trial.name} of {body}"[:60], body, grid, motion.path(body).place(grid), sigma)


def note(
    case: Case, body: str | None = None, *, apexes: str = "", ratios: str = "", rest: float | None = None,
    marks: Sequence[str] = (), path: str = "", trial: str = "", tolerance: float | None = None,
) -> tuple[Case, list[str]]:
    """The case with what was noted about a body, as it is typed, and a line for each piece of evidence.

    Parameters
    ----------
    apexes, ratios : numbers with commas between
    marks : each ``TIME:X,Y,Z``, with - for a coordinate that was not seen
    path : several of these with blanks between, drawn through as a track
    trial : the name of an earlier trial whose motion is evidence
    tolerance : metres, seconds or a ratio; what is usual for each kind if left out

    Raises
    ------
    InputError
        Saying what was found and how it is written.
    """
    with in_words("what was noted"):
        return _noted(case, body, apexes, ratios, rest, marks, path, trial, tolerance)


def _noted(
    case: Case, body: str | None, apexes: str, ratios: str, rest: float | None, marks: Sequence[str], path: str, trial: str,
    tolerance: float | None,
) -> tuple[Case, list[str]]:
    name = _the_body(case, body)
    told: list[Target] = []
    if apexes.strip():
        told += apex_heights(_numbers(apexes, "apexes"), tolerance or 0.01, name)
    if ratios.strip():
        told += apex_ratios(_numbers(ratios, "ratios"), tolerance or 0.02, name)
    if rest is not None:
        told.append(stopwatch(rest, tolerance or 0.2, name))
    for text in marks:
        time, place = _at(text, "mark")
        told += mark(time, place, tolerance or 0.01, name)
    tracks: list[Track] = []
    if path.strip():
        points = [_at(text, "path") for text in path.split()]
        times, places = [t for t, _ in points], [p for _, p in points]
        tracks.append(drawn_path(_free_name(case, "drawn"), name, times, places, tolerance or 0.01))
    if trial:
        chosen = next((t for t in case.trials if t.name == trial), None)
        if chosen is None:
            raise bad_input("trial", repr(trial), "one of: " + ("; ".join(t.name for t in case.trials) or "a case that has trials"))
        tracks.append(trial_track(case, chosen, name, tolerance or 1e-3))
    if not told and not tracks:
        raise bad_input("the note", "nothing", "apexes, ratios, a rest time, a mark, a path or a trial")
    after = case.model_copy(update={"targets": (*case.targets, *told), "tracks": (*case.tracks, *tracks)})
    lines = [f"{target.label} = {target.wanted}" for target in told]
    return after, lines + [f"track {track.name} of {track.body}, σ {track.sigma:g} m" for track in tracks]


def _the_body(case: Case, name: str | None) -> str:
    movers = case.movers()
    if name is None and len(movers) == 1:
        return movers[0]
    if name not in movers:
        raise bad_input("body", repr(name), f"one of {', '.join(movers)}")
    return name


def _numbers(text: str, where: str) -> list[float]:
    try:
        return [float(word) for word in text.replace(";", ",").split(",") if word.strip()]
    except ValueError:
        raise bad_input(where, repr(text), "numbers with commas between, such as 0.74,0.41") from None


def _at(text: str, where: str) -> tuple[float, Place]:
    """``0.53:0,-,0.04`` as a time and a place; what was not seen is NaN."""
    try:
        time, _, rest = text.partition(":")
        x, y, z = (float("nan") if word.strip() in ("-", "") else float(word) for word in rest.split(","))
        return float(time), (x, y, z)
    except ValueError:
        raise bad_input(where, repr(text), "a time and a place, such as 0.53:0,-,0.04") from None


def _free_name(case: Case, name: str) -> str:
    taken = {t.name for t in case.tracks}
    k = 1
    while (word := name if k == 1 else f"{name} {k}") in taken:
        k += 1
    return word


def _track(name: str, body: str, t: np.ndarray, x: np.ndarray, sigma: float) -> Track:
    columns = {axis: tuple(x[:, c].tolist()) for c, axis in enumerate("xyz")}
    return Track(name=name, body=body, sigma=sigma, samples=Samples(t=tuple((t - min(t[0], 0.0)).tolist()), **columns))
