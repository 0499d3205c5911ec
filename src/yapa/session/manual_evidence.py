"""Evidence made by hand: marks, apex heights, ratios, a stopwatch, a drawn path, a curve of theory, an earlier trial.

All become ordinary evidence: targets with a tolerance, or tracks with a noise.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from yapa.case.evidence import Samples, Target, Track
from yapa.case.expressions import parse_expression
from yapa.case.model import Case
from yapa.case.quantity_text import plain_number
from yapa.case.unknowns import Trial
from yapa.case.validation import in_words
from yapa.engine import simulate
from yapa.errors import InputError, bad_input

Place = tuple[float, float, float]


def mark(time: float, place: Place, tolerance: float, body: str | None = None) -> list[Target]:
    """Return a body seen at a place [m] at a time [s]: three targets. A coordinate that is NaN was not seen.

    Parameters
    ----------
    time : [s]
    place : (3,) [m]; NaN where it was not seen
    tolerance : its tolerance
    body : name of the body
    """
    return [Target(outcome=axis, time=time, value=value, tolerance=tolerance, body=body)
            for axis, value in zip("xyz", place, strict=True) if value == value]


def apex_heights(heights: Sequence[float], tolerance: float, body: str | None = None) -> list[Target]:
    """Return heights of successive apexes [m], as they are typed.

    Parameters
    ----------
    heights : [m]
    tolerance : its tolerance
    body : name of the body

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    if not heights:
        raise bad_input("apexes", "none", "at least one height in metres")
    return [Target(outcome="apex", index=k, value=h, tolerance=tolerance, body=body) for k, h in enumerate(heights, start=1)]


def apex_ratios(ratios: Sequence[float], tolerance: float, body: str | None = None) -> list[Target]:
    """Return ratios of each apex to the one before, from the second on.

    Parameters
    ----------
    ratios : of each apex to the one before
    tolerance : its tolerance
    body : name of the body

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    if not ratios:
        raise bad_input("ratios", "none", "at least one ratio")
    return [Target(outcome="apex ratio", index=k, value=r, tolerance=tolerance, body=body) for k, r in enumerate(ratios, start=2)]


def stopwatch(seconds: float, tolerance: float = 0.2, body: str | None = None) -> Target:
    """Return a rest time by hand; a person presses to about a fifth of a second.

    Parameters
    ----------
    seconds : [s]
    tolerance : its tolerance
    body : name of the body
    """
    return Target(outcome="rest time", value=seconds, tolerance=tolerance, body=body)


def drawn_path(name: str, body: str, times: Sequence[float], places: Sequence[Place], sigma: float) -> Track:
    """Return a path drawn through some places at some times, as a track at 60 a second between them, straight.

    Parameters
    ----------
    name : its name
    body : name of the body
    times : (T,) times [s]
    places : (N, 3) [m]
    sigma : standard deviation of the noise

    Raises
    ------
    InputError
        If it cannot be used: what was found, and what is expected.
    """
    t, x = np.asarray(times, dtype=float), np.asarray(places, dtype=float)
    if len(t) < 2 or x.shape != (len(t), 3) or (np.diff(t) <= 0).any():
        raise bad_input("path", f"{len(t)} places", "at least two places at rising times, three coordinates each")
    grid = np.arange(t[0], t[-1] + 1e-9, 1 / 60)
    return _track(name, body, grid, np.column_stack([np.interp(grid, t, c) for c in x.T]), sigma)


def theory_curve(name: str, body: str, place: Callable[[float], Place], duration: float, sigma: float) -> Track:
    """Return a curve of theory, place [m] as a function of time [s], as a track at 120 a second.

    Parameters
    ----------
    name : its name
    body : name of the body
    place : returns a place [m] at a time [s]
    duration : length of the clip [s]
    sigma : standard deviation of the noise
    """
    grid = np.arange(0.0, duration + 1e-9, 1 / 120)
    return _track(name, body, grid, np.array([place(float(t)) for t in grid]), sigma)


def formula_track(name: str, body: str, formulas: Mapping[str, str], duration: float, gravity: float, sigma: float) -> Track:
    """Return a curve of theory as a track at 120 a second: each coordinate as arithmetic of the time.

    Parameters
    ----------
    name : its name
    body : name of the body
    formulas : axis → arithmetic of t [s] and g [m/s²], such as ``1.4 - g * t^2 / 2``; an axis without one was not measured
    duration : length of the clip [s]
    gravity : g [m/s²]
    sigma : standard deviation of the noise

    Raises
    ------
    InputError
        If one cannot be read, or is no number at some time.
    """
    grid = np.arange(0.0, duration + 1e-9, 1 / 120)
    columns = {}
    for axis, text in formulas.items():
        if not text.strip():
            continue
        expression = parse_expression(text)
        strange = [word for word in expression.names if word not in ("t", "g")]
        if strange:
            raise bad_input(f"{axis}(t)", repr(strange[0]), "arithmetic of t and g")
        y = np.broadcast_to(np.asarray(expression.value({"t": grid, "g": gravity}), dtype=float), len(grid))
        if not np.isfinite(y).all():
            raise bad_input(f"{axis}(t)", repr(text), f"a number at every time to {duration:g} s")
        columns[axis] = tuple(y.tolist())
    if not columns:
        raise bad_input("the curve", "no coordinate", "one at least, as arithmetic of t")
    return Track(name=name, body=body, sigma=sigma, samples=Samples(t=tuple(grid.tolist()), **columns))


def trial_track(case: Case, trial: Trial, body: str, sigma: float = 1e-3) -> Track:
    """Return the motion an earlier trial makes of a body, as evidence for another.

    Parameters
    ----------
    case : the case
    trial : a set of values that was kept
    body : name of the body
    sigma : standard deviation of the noise
    """
    motion = simulate(case, trial.values)
    grid = np.arange(0.0, motion.end + 1e-9, 1 / 120)
    return _track(f"{trial.name} of {body}"[:60], body, grid, motion.trajectory(body).position(grid), sigma)


def note(
    case: Case, body: str | None = None, *, apexes: str = "", ratios: str = "", rest: float | None = None,
    marks: Sequence[str] = (), path: str = "", trial: str = "", tolerance: float | None = None,
) -> tuple[Case, list[str]]:
    """Return the case with what was noted about a body, as it is typed, and a line for each piece of evidence.

    Parameters
    ----------
    case : the case
    body : whose evidence it is; may be left out where only one body moves
    apexes : rises after successive bounces [m], with commas between
    ratios : of each apex to the one before, from the second on, with commas between
    rest : a stopwatch's rest time [s]
    marks : each ``TIME:X,Y,Z`` [s, m], with - for a coordinate that was not seen
    path : several of these with blanks between, drawn through as a track
    trial : the name of an earlier trial whose motion is evidence
    tolerance : metres, seconds or a ratio; what is usual for each kind if left out

    Returns
    -------
    tuple of Case and list of str
        The new case, and a sentence on each piece of evidence in it.

    Raises
    ------
    InputError
        Saying what was found and how it is written.

    Notes
    -----
    A path is drawn through its places by a cubic spline with 60 samples a second.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case, lines = note(load(DATA / "orange-drop.yapa"), apexes="0.61, 0.26", rest=3.1)
    >>> len(lines), case.targets[-1].outcome
    (3, 'rest time')
    """
    with in_words("what was noted"):
        return _noted(case, body, apexes, ratios, rest, marks, path, trial, tolerance)


def _noted(
    case: Case, body: str | None, apexes: str, ratios: str, rest: float | None, marks: Sequence[str], path: str, trial: str,
    tolerance: float | None,
) -> tuple[Case, list[str]]:
    name = _the_body(case, body)
    targets: list[Target] = []
    if apexes.strip():
        targets += apex_heights(_numbers(apexes, "apexes"), tolerance or 0.01, name)
    if ratios.strip():
        targets += apex_ratios(_numbers(ratios, "ratios"), tolerance or 0.02, name)
    if rest is not None:
        targets.append(stopwatch(rest, tolerance or 0.2, name))
    for text in marks:
        time, place = _at(text, "mark")
        targets += mark(time, place, tolerance or 0.01, name)
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
    if not targets and not tracks:
        raise bad_input("the note", "nothing", "apexes, ratios, a rest time, a mark, a path or a trial")
    after = case.model_copy(update={"targets": (*case.targets, *targets), "tracks": (*case.tracks, *tracks)})
    lines = [f"{target.label} = {target.wanted}" for target in targets]
    return after, lines + [f"track {track.name} of {track.body}, σ {track.sigma:g} m" for track in tracks]


def _the_body(case: Case, name: str | None) -> str:
    movers = case.dynamic_bodies()
    if name is None and len(movers) == 1:
        return movers[0]
    if name not in movers:
        raise bad_input("body", repr(name), f"one of {', '.join(movers)}")
    return name


def _numbers(text: str, where: str) -> list[float]:
    try:
        return [plain_number(word, where) for word in text.replace(";", ",").split(",") if word.strip()]
    except InputError:
        raise bad_input(where, repr(text), "numbers with commas between, such as 0.74,0.41") from None


def _at(text: str, where: str) -> tuple[float, Place]:
    """``0.53:0,-,0.04`` as a time and a place; what was not seen is NaN."""
    try:
        time, _, rest = text.partition(":")
        x, y, z = (float("nan") if word.strip() in ("-", "") else plain_number(word, where) for word in rest.split(","))
        return plain_number(time, where), (x, y, z)
    except (ValueError, InputError):
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
