"""From a track to numbers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import cos, radians, sin
from pathlib import Path
from typing import Any

from yapa.api.fits import fit, with_result
from yapa.case.model import Case
from yapa.case.unknowns import Estimate
from yapa.errors import bad_input
from yapa.fitting import Cancel, FitResult, Prepared, Progress, Setup, prepare
from yapa.formats.tracks.any_file import read_any
from yapa.formats.tracks.importer import ImportOverrides


@dataclass(frozen=True)
class Calibration:
    """A finished calibration.

    Attributes
    ----------
    result : the fit, by paths
    case : the case with the values in it
    estimates : short name → estimate in SI units
    assumed : what was taken where nothing was said, SI units

    Notes
    -----
    Made by :func:`calibrate`.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> done = calibrate(DATA / "orange-drop.csv", Setup(radius=0.037, mass=0.182, unknown={"restitution": None}))
    >>> sorted(done.estimates)
    ['position.x', 'position.z', 'restitution', 'velocity.x', 'velocity.z']
    """

    result: FitResult
    case: Case
    estimates: dict[str, Estimate]
    assumed: dict[str, float | str]

    def as_dict(self) -> dict[str, Any]:
        """Return it JSON-ready, keyed by the short names."""
        out = replace(self.result, estimates=self.estimates).as_dict()
        return {**out, "assumed": self.assumed}


def _short_estimates(prepared: Prepared, setup: Setup, result: FitResult) -> dict[str, Estimate]:
    """Estimates by short name; a speed along a slope also as its world components."""
    out: dict[str, Estimate] = {}
    for path, e in result.estimates.items():
        name = prepared.short[path]
        if name != "speed":
            out[name] = e
            continue
        out["velocity"] = e
        angle = radians(setup.slope or 0.0)
        for axis, share in (("x", cos(angle)), ("z", sin(angle))):
            ends = [None if v is None else v * share for v in (e.low, e.high)]
            if share < 0:
                ends.reverse()
            out[f"velocity.{axis}"] = e.model_copy(update={
                "value": e.value * share, "std": None if e.std is None else e.std * abs(share), "low": ends[0],
                "high": ends[1]})
    return out


def calibrate(
    track: str | Path, setup: Setup, progress: Callable[[Progress], None] | None = None, cancel: Cancel | None = None,
    overrides: ImportOverrides | None = None, **options: Any,
) -> Calibration:
    """Return the numbers of a track: a case is made of it and of what is said of it, and fitted.

    Parameters
    ----------
    track : any table file: text, a spreadsheet, Parquet
    setup : shape [m], support [m, degrees], unknowns, fixed values in SI units, noise [m, rad]
    progress : called with a :class:`Progress` while it goes on, from another thread
    cancel : stops it where it is set; the best so far is the result
    overrides : what the file does not say of itself: columns, units, rate …
    options : of :func:`fit`

    Returns
    -------
    Calibration
        The result with short names, the case with the values in it, and what was assumed.

    Raises
    ------
    InputError
        If the file or the set-up cannot be used.
    Questions
        Where only a person can say what is meant in the file.

    Notes
    -----
    Default ranges stand in ``docs/calibrate.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> done = calibrate(DATA / "orange-drop.csv", Setup(radius=0.037, mass=0.182, unknown={"restitution": None}))
    >>> round(done.estimates["restitution"].value, 2)
    0.74
    """
    path = Path(track)
    if path.suffix.lower() == ".yapa":
        raise bad_input(str(path), "a case file", "a track; for a case use `yapa fit`")
    read = read_any(path, None, overrides)
    prepared = prepare(read.samples, replace(setup, title=path.stem) if setup.title == "calibration" else setup)
    result = fit(prepared.case, progress, cancel, **options)
    if read.notices:
        result = replace(result, findings=[*read.notices, *result.findings])
    return Calibration(result, with_result(prepared.case, result), _short_estimates(prepared, setup, result),
                       prepared.assumed)
