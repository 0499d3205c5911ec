"""Motions and results as pandas data frames. Values are in SI units; ``frame.attrs["units"]`` names them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from yapa.case.outcome_specs import unit_of
from yapa.case.quantities import label_of, quantity_of
from yapa.fitting import FitResult
from yapa.motion import Motion
from yapa.notebook.extras import needed
from yapa.outcomes import OutcomeValue

COLUMNS = ("x", "y", "z", "qw", "qx", "qy", "qz", "vx", "vy", "vz", "wx", "wy", "wz")
UNITS = {**dict.fromkeys("xyz", "m"), **dict.fromkeys(("vx", "vy", "vz"), "m/s"), **dict.fromkeys(("wx", "wy", "wz"), "rad/s")}


def motion_frame(motion: Motion) -> Any:
    """Return the samples of a motion as a data frame, a row a body and sample.

    Parameters
    ----------
    motion : simulated or measured motion

    Returns
    -------
    pandas.DataFrame
        Index body, time [s]; columns x … z [m], qw … qz, vx … vz [m/s], wx … wz [rad/s], world axes.

    Raises
    ------
    InputError
        If pandas is not installed.

    Notes
    -----
    Taken from ``motion.states``; world axes, right-handed, z up.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> frame = motion_frame(simulate(load(DATA / "orange-drop.yapa")))
    >>> float(frame.loc["orange"].z.max().round(2))
    1.42
    """
    pd = needed("pandas")
    index = pd.MultiIndex.from_product([motion.names, motion.times], names=["body", "time"])
    states = np.swapaxes(motion.states[:, :, : len(COLUMNS)], 0, 1).reshape(-1, len(COLUMNS))
    return _with_units(pd.DataFrame(states, index=index, columns=list(COLUMNS)), {"time": "s", **UNITS})


def contact_frame(motion: Motion) -> Any:
    """Return the contacts of a motion as a data frame, a row a contact.

    Parameters
    ----------
    motion : simulated or measured motion

    Returns
    -------
    pandas.DataFrame
        Columns time [s], body, partner, approach, rebound, slip_before, slip_after [m/s], normal_impulse, friction_impulse [N·s],
        x, y, z of the point [m], nx, ny, nz of the normal.

    Raises
    ------
    InputError
        If pandas is not installed.

    Notes
    -----
    Impulses are None on a measured motion; the normal points from partner to body.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> contact_frame(simulate(load(DATA / "orange-drop.yapa"))).partner.iloc[0]
    'padded plate'
    """
    pd = needed("pandas")
    plain = ("time", "body", "partner", "approach", "rebound", "slip_before", "slip_after", "normal_impulse", "friction_impulse")
    rows = [[*(getattr(c, name) for name in plain), *c.point, *c.normal] for c in motion.contacts]
    frame = pd.DataFrame(rows, columns=[*plain, "x", "y", "z", "nx", "ny", "nz"])
    speeds = dict.fromkeys(("approach", "rebound", "slip_before", "slip_after"), "m/s")
    impulses = dict.fromkeys(("normal_impulse", "friction_impulse"), "N·s")
    return _with_units(frame, {"time": "s", **speeds, **impulses, **dict.fromkeys("xyz", "m")})


def outcome_frame(outcomes: Mapping[str, Mapping[str, OutcomeValue]]) -> Any:
    """Return outcomes as a data frame, a row a body and outcome.

    Parameters
    ----------
    outcomes : body → name → outcome, as ``measure_motion`` returns them

    Returns
    -------
    pandas.DataFrame
        Index body, outcome; columns value, std, unit, missing (why there is no value).

    Raises
    ------
    InputError
        If pandas is not installed.

    Notes
    -----
    Outcomes and their definitions are those of ``docs/outcomes.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> from yapa.api import measure_motion
    >>> frame = outcome_frame(measure_motion(simulate(load(DATA / "orange-drop.yapa"))))
    >>> frame.loc[("orange", "apex 1"), "unit"]
    'm'
    """
    pd = needed("pandas")
    rows = {(body, name): [v.value, v.std, unit_of(name.rstrip("0123456789 ")), v.missing]
            for body, own in outcomes.items() for name, v in own.items()}
    index = pd.MultiIndex.from_tuples(list(rows), names=["body", "outcome"])
    return pd.DataFrame(list(rows.values()), index=index, columns=["value", "std", "unit", "missing"])


def result_frame(result: FitResult) -> Any:
    """Return what a fit found as a data frame, a row an unknown.

    Parameters
    ----------
    result : the end of a fit

    Returns
    -------
    pandas.DataFrame
        Index owner ("" or a take or row whose own it is), path; columns label, value, std, low, high, unit, determined, reason.

    Raises
    ------
    InputError
        If pandas is not installed.

    Notes
    -----
    ``low`` and ``high`` are ends of the 95% interval, or one-sided bounds where the number is not determined.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> from yapa.api import fit
    >>> frame = result_frame(fit(load(DATA / "orange-drop.yapa")))
    >>> bool(frame.determined.all())
    True
    """
    pd = needed("pandas")
    rows = {(owner, path): [label_of(path), e.value, e.std, e.low, e.high, quantity_of(path).unit, e.determined, e.reason]
            for owner, own in (("", result.estimates), *result.own.items()) for path, e in own.items()}
    index = pd.MultiIndex.from_tuples(list(rows), names=["owner", "path"])
    return pd.DataFrame(list(rows.values()), index=index,
                        columns=["label", "value", "std", "low", "high", "unit", "determined", "reason"])


def level_frame(result: FitResult) -> Any:
    """Return the levels of a table of trials as a data frame, a row a level and outcome.

    Parameters
    ----------
    result : the end of a fit to a table

    Returns
    -------
    pandas.DataFrame
        A column for every setting, then outcome, unit, rows (how many), measured, predicted, residual, left_out [SI units].

    Raises
    ------
    InputError
        If pandas is not installed, or the fit had no table.

    Notes
    -----
    A level is all rows with the same settings; see ``docs/evidence.md``.

    Examples
    --------
    >>> from yapa.api import fit, table_in_words
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa").with_(targets=[], unknowns=load(DATA / "orange-wanted.yapa").unknowns[:1])
    >>> case, _ = table_in_words(case, DATA / "orange-heights.csv", ["bodies.orange.position.z=height + 3.7 cm"],
    ...                          ["apex 1=rebound"])
    >>> len(level_frame(fit(case))) > 1
    True
    """
    from yapa.errors import bad_input

    pd = needed("pandas")
    if result.table is None:
        raise bad_input("the result", "no table of trials", "the result of a fit to a case with one")
    return pd.DataFrame([{**level.settings, "outcome": level.outcome, "unit": level.unit, "rows": len(level.rows),
                          "measured": level.measured, "predicted": level.predicted, "residual": level.residual,
                          "left_out": level.left_out} for level in result.table.by_level])


def _with_units(frame: Any, units: Mapping[str, str]) -> Any:
    frame.attrs["units"] = dict(units)
    return frame
