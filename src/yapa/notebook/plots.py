"""Plots for notebooks and reports, as matplotlib figures; no window is opened."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from yapa.case import Case
from yapa.case.changed_numbers import with_numbers
from yapa.case.quantities import label_of, quantity_of
from yapa.engine import simulate
from yapa.errors import bad_input
from yapa.fitting import FitResult
from yapa.motion import Motion
from yapa.notebook.extras import needed
from yapa.tracking.track_data import track_data

WIDTH, HEIGHT = 8.0, 2.4
"""inches, of a figure and of one of its rows"""
MEASURED, SIMULATED = "#2f4858", "#d1603d"


def plot_motion(motion: Motion, bodies: Sequence[str] | None = None) -> Any:
    """Return a figure of the places of bodies against time.

    Parameters
    ----------
    motion : simulated or measured motion
    bodies : their names; by default those that move by forces

    Returns
    -------
    matplotlib.figure.Figure
        A row an axis, a line a body.

    Raises
    ------
    InputError
        If matplotlib is not installed, or there is no such body.

    Notes
    -----
    Saved with ``figure.savefig``; a notebook shows it as it is.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> len(plot_motion(simulate(load(DATA / "orange-drop.yapa"))).axes)
    3
    """
    names = list(bodies or motion.dynamic_bodies())
    for name in names:
        if name not in motion.names:
            raise bad_input("body", repr(name), f"one of {', '.join(motion.names)}")
    figure, rows = _figure(3)
    for axis, row in enumerate(rows):
        for name in names:
            row.plot(motion.times, motion.states[:, motion.names.index(name), axis], label=name)
        row.set_ylabel(f"{'xyz'[axis]} [m]")
    rows[0].legend()
    rows[-1].set_xlabel("time [s]")
    return figure


def plot_fit(case: Case, result: FitResult) -> Any:
    """Return a figure of every track beside the simulation with the fitted numbers, and what is left over in σ.

    Parameters
    ----------
    case : the case, with tracks
    result : what its fit found

    Returns
    -------
    matplotlib.figure.Figure
        Two rows a track and coordinate: the places, and the residuals.

    Raises
    ------
    InputError
        If matplotlib is not installed, or the case has no tracks of its own.

    Notes
    -----
    The band is ±2σ, in which 95% of the residuals of white noise lie.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> from yapa.api import fit
    >>> case = load(DATA / "orange-drop.yapa")
    >>> len(plot_fit(case, fit(case)).axes) % 2
    0
    """
    if not case.tracks:
        raise bad_input("case", "no tracks", "a case with tracks; plot_table shows a table of trials")
    tracks = [track_data(track) for track in with_numbers(case, result.values).tracks]
    shown = [(track, axis) for track in tracks for axis in range(3) if track.shown[axis]]
    figure, rows = _figure(2 * len(shown))
    for k, (track, axis) in enumerate(shown):
        motion = simulate(case, result.values, times=track.t)
        model = motion.states[:, motion.names.index(track.body), axis]
        measured = track.x[: len(model), axis]
        times = track.t[: len(model)]
        rows[2 * k].plot(times, measured, ".", ms=3, color=MEASURED, label=track.name)
        rows[2 * k].plot(times, model, color=SIMULATED, label="simulated")
        rows[2 * k].set_ylabel(f"{'xyz'[axis]} [m]")
        rows[2 * k].legend()
        rows[2 * k + 1].plot(times, (measured - model) / track.sigma, ".", ms=3, color=MEASURED)
        rows[2 * k + 1].axhspan(-2, 2, color=SIMULATED, alpha=0.12, lw=0)
        rows[2 * k + 1].set_ylabel("residual [σ]")
    rows[-1].set_xlabel("time [s]")
    return figure


def plot_table(result: FitResult) -> Any:
    """Return a figure of the levels of a table of trials: measured, predicted, and predicted with the level left out.

    Parameters
    ----------
    result : the end of a fit to a table

    Returns
    -------
    matplotlib.figure.Figure
        A row an outcome, against the first setting that varies.

    Raises
    ------
    InputError
        If matplotlib is not installed, or the fit had no table.

    Notes
    -----
    Lines join predictions; crosses are those of the fit without the level.

    Examples
    --------
    >>> from yapa.api import fit, table_in_words
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa").with_(targets=[], unknowns=load(DATA / "orange-wanted.yapa").unknowns[:1])
    >>> case, _ = table_in_words(case, DATA / "orange-heights.csv", ["bodies.orange.position.z=height + 3.7 cm"],
    ...                          ["apex 1=rebound"])
    >>> len(plot_table(fit(case)).axes)
    1
    """
    if result.table is None:
        raise bad_input("the result", "no table of trials", "the result of a fit to a case with one")
    outcomes = list(dict.fromkeys(level.outcome for level in result.table.by_level))
    figure, rows = _figure(len(outcomes), 1.5 * HEIGHT)
    for row, outcome in zip(rows, outcomes, strict=True):
        levels = [level for level in result.table.by_level if level.outcome == outcome]
        paths = list(levels[0].settings)
        path = next((p for p in paths if len({level.settings[p] for level in levels}) > 1), paths[0])
        at = np.array([level.settings[path] for level in levels])
        order = np.argsort(at)
        row.plot(at, [level.measured for level in levels], "o", color=MEASURED, label="measured")
        row.plot(at[order], np.array([level.predicted for level in levels])[order], color=SIMULATED, label="predicted")
        row.plot(at, [level.left_out for level in levels], "x", color=SIMULATED, label="predicted without it")
        row.set_ylabel(f"{outcome} [{levels[0].unit or '–'}]")
        row.set_xlabel(f"{label_of(path)} [{quantity_of(path).unit or '–'}]")
        row.legend()
    return figure


def _figure(count: int, height: float = HEIGHT) -> tuple[Any, list[Any]]:
    """A figure with so many rows, and their axes."""
    figure = needed("matplotlib.figure").Figure(figsize=(WIDTH, max(height * count, 3.0)), layout="constrained")
    return figure, [figure.add_subplot(count, 1, k + 1) for k in range(count)]
