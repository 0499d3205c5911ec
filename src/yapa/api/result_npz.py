"""What a fit found in a NumPy archive: numbers as arrays, everything else as JSON text, no objects, so that nothing is ever run.

Arrays: ``paths`` (text), ``values``, ``std``, ``low``, ``high`` of the shared unknowns, NaN where nothing is told; ``about`` is the
JSON text of the whole result.
"""

from __future__ import annotations

import json
import zipfile
from dataclasses import fields
from functools import lru_cache
from pathlib import Path
from typing import Any, NoReturn

import numpy as np
from pydantic import TypeAdapter, ValidationError

from yapa.case.model import Case
from yapa.case.unknowns import Estimate
from yapa.errors import bad_input
from yapa.files import unreadable
from yapa.fitting.confidence.model_errors import Explanation
from yapa.fitting.problem.left_over import ColumnResiduals
from yapa.fitting.problem.result import Answer, FitResult, TargetReport
from yapa.fitting.tables.report import TableReport

FORMAT = "yapa fit result"
VERSION = 1
KINDS: dict[str, Any] = {
    "estimates": dict[str, Estimate], "own": dict[str, dict[str, Estimate]], "targets": list[TargetReport], "also": list[Answer],
    "table": TableReport | None, "residuals": list[ColumnResiduals], "correlations": list[tuple[str, str, float]]}
"""parts of a result that are more than numbers, text and lists of them"""
EXPLAINED = ("kind", "path", "value", "std", "gain", "words")


def save_result(result: FitResult, path: str | Path) -> None:
    """Save what a fit found as a NumPy archive without objects.

    Parameters
    ----------
    result : the end of a fit
    path : the file, by custom with the ending .npz

    Returns
    -------
    None
        What stands in the file is whole once it returns.

    Raises
    ------
    InputError
        If the file cannot be written.

    Notes
    -----
    The edits that ``explained`` would make are not kept: they belong to the case.

    Examples
    --------
    >>> from yapa.api import fit
    >>> from yapa.demo import DATA
    >>> result = fit(load(DATA / "orange-drop.yapa"))
    >>> save_result(result, "fit.npz")
    >>> load_result("fit.npz").values == result.values
    True
    """
    about: dict[str, Any] = {"format": FORMAT, "version": VERSION}
    for field in fields(result):
        value = getattr(result, field.name)
        if field.name == "explained":
            about["explained"] = [{name: getattr(e, name) for name in EXPLAINED} for e in value]
        else:
            about[field.name] = _adapter(field.name).dump_python(value, mode="json") if field.name in KINDS else value
    every = list(result.estimates.values())
    arrays: dict[str, Any] = {name: np.array([np.nan if getattr(e, name) is None else getattr(e, name) for e in every], dtype=float)
              for name in ("std", "low", "high")}
    try:
        with Path(path).open("wb") as file:
            np.savez_compressed(file, about=np.array(json.dumps(about)), paths=np.array(list(result.estimates)),
                                values=np.array([e.value for e in every], dtype=float), **arrays)
    except OSError as error:
        raise bad_input(str(path), error.strerror or str(error), "a file that can be written") from None


def load_result(path: str | Path) -> FitResult:
    """Return the result in a file that :func:`save_result` wrote.

    Parameters
    ----------
    path : the file

    Returns
    -------
    FitResult
        As it was saved.

    Raises
    ------
    InputError
        If there is no such file, or it is none of these.

    Notes
    -----
    Nothing in the file is ever run.

    Examples
    --------
    >>> from yapa.api import fit
    >>> from yapa.demo import DATA
    >>> save_result(fit(load(DATA / "orange-drop.yapa")), "fit.npz")
    >>> load_result("fit.npz").stopped
    'converged'
    """
    try:
        with np.load(Path(path), allow_pickle=False) as file:
            about = json.loads(str(file["about"]))
        if about.pop("format") != FORMAT or about.pop("version") != VERSION:
            raise ValueError
        about["explained"] = [Explanation(**e, edit=_no_case) for e in about["explained"]]
        return FitResult(**{name: _adapter(name).validate_json(json.dumps(value)) if name in KINDS else value
                            for name, value in about.items()})
    except OSError as error:
        raise unreadable(Path(path), error, "result") from None
    except (ValueError, KeyError, TypeError, AttributeError, ValidationError, zipfile.BadZipFile, EOFError):
        raise bad_input(str(path), "no result of a fit", f"a file of version {VERSION} that save_result wrote") from None


@lru_cache(maxsize=16)
def _adapter(name: str) -> TypeAdapter[Any]:
    return TypeAdapter(KINDS[name])


def _no_case(_: Case) -> NoReturn:
    raise bad_input("the explanation", "read from a file", "one of a fit that was just made: its edit is not kept")
