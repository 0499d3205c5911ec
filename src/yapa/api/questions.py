"""Questions: how far, which number, how sure, which way, side by side, how much more. Ctrl+C stops each; a search keeps its
best."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from yapa.api.fits import kept
from yapa.case.evidence import Target
from yapa.case.model import Case
from yapa.case.outcome_text import parse_reference
from yapa.fitting import Cancel
from yapa.fitting.questions.alternatives import Alternatives
from yapa.fitting.questions.alternatives import either as _either
from yapa.fitting.questions.best import Best
from yapa.fitting.questions.best import best as _best
from yapa.fitting.questions.matters import Matters
from yapa.fitting.questions.matters import what_matters as _what_matters
from yapa.fitting.questions.more_evidence import MoreEvidence
from yapa.fitting.questions.more_evidence import how_much_more as _how_much_more
from yapa.fitting.questions.robust import Robust
from yapa.fitting.questions.robust import robust as _robust
from yapa.fitting.questions.threshold import Threshold
from yapa.fitting.questions.threshold import threshold as _threshold
from yapa.fitting.questions.variants import Variants
from yapa.fitting.questions.variants import variants as _variants
from yapa.formats.target_text import parse_target


def _target(text: str | Target) -> Target:
    return parse_target(text) if isinstance(text, str) else text


def _outcome(text: str | Target) -> Target:
    return parse_reference(text) if isinstance(text, str) else text


def best(case: Case, outcome: str | Target, *, largest: bool = True, cancel: Cancel | None = None, **options: Any) -> Best:
    """Return the numbers that make an outcome largest or smallest within the ranges of the unknowns.

    Parameters
    ----------
    case : with at least one free unknown; its targets are kept as well as can be
    outcome : in words, such as ``landing 1``, or arithmetic of outcomes
    largest : whether the largest is asked for, else the smallest
    cancel : stops it where it is set; the best so far is the answer
    options : ``threads``, runs side by side

    Returns
    -------
    The numbers, the outcome there and before, and notes.

    Raises
    ------
    InputError
        If nothing is free, or the outcome cannot be read.

    Notes
    -----
    Sobol points, then the simplex of Nelder & Mead (Computer Journal 7, 1965). See ``docs/questions.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa")
    >>> best(case.model_copy(update={"targets": ()}), "landing 1").value > 0.5
    True
    """
    return kept(_best, cancel, case, _outcome(outcome), largest=largest, **options)


def threshold(case: Case, path: str, targets: Sequence[str | Target] | None = None, low: float | None = None,
              high: float | None = None,
              *, largest: bool = True, cancel: Cancel | None = None, **options: Any) -> Threshold:
    """Return the largest or smallest number for which targets hold.

    Parameters
    ----------
    case : the case
    path : path of the number; one of the solver profile too, such as ``profile.step``
    targets : in words; by default those of the case
    low, high : range [SI units]; by default that of the unknown, or the usual one
    largest : whether the largest is asked for, else the smallest
    cancel : stops it where it is set
    options : ``points`` looked at over the range, ``threads``

    Returns
    -------
    The number, every change that was found, and a sentence.

    Raises
    ------
    InputError
        If there is no such number, its range does not rise, or nothing is wanted.
    Cancelled
        If it was stopped.

    Notes
    -----
    33 points over the range, every sign change bracketed to 1e-4 of it. See ``docs/questions.md``.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa")
    >>> found = threshold(case, "bodies.orange.position.z", ["apex 1 at most 0.3 m"], 0.2, 1.5, points=9)
    >>> round(found.value, 2)
    0.51
    """
    wanted = None if targets is None else [_target(t) for t in targets]
    return kept(_threshold, cancel, case, path, wanted, low, high, largest=largest, **options)


def what_matters(case: Case, outcome: str | Target, paths: list[str] | None = None, *, cancel: Cancel | None = None, **options: Any
                 ) -> Matters:
    """Return how numbers matter for an outcome, near where they stand and over their ranges.

    Parameters
    ----------
    case : the case
    outcome : in words
    paths : of the numbers; by default the unknowns
    cancel : stops it where it is set
    options : ``samples`` of the global ranking, ``threads``

    Returns
    -------
    The numbers, the most important over the ranges first.

    Raises
    ------
    InputError
        If there is no such number or outcome.
    Cancelled
        If it was stopped.

    Notes
    -----
    Total indices of Sobol' (Mathematics and Computers in Simulation 55, 2001), as SciPy estimates them.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa")
    >>> what_matters(case, "landing 2", samples=32).ranking[0].path
    'bodies.orange.velocity.x'
    """
    return kept(_what_matters, cancel, case, _outcome(outcome), paths, **options)


def robust(case: Case, jitter: Mapping[str, float], *, cancel: Cancel | None = None, **options: Any) -> Robust:
    """Return the numbers for which the targets hold in most of slightly varied starts.

    Parameters
    ----------
    case : with a free unknown and a target
    jitter : path → standard deviation from run to run [SI units]
    cancel : stops it where it is set; the best so far is judged
    options : ``threads``, runs side by side

    Returns
    -------
    The numbers, how often the targets hold on fresh draws, and a verdict.

    Raises
    ------
    InputError
        If nothing is free, nothing wanted, or nothing varies.

    Notes
    -----
    The 10% quantile of the margin over fixed draws; Wilson's interval (Journal of the American Statistical Association 22, 1927).

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa")
    >>> found = robust(case, {"bodies.orange.velocity.x": 0.002})
    >>> found.count
    400
    """
    return kept(_robust, cancel, case, jitter, **options)


def either(case: Case, branches: Sequence[Sequence[str | Target]], *, cancel: Cancel | None = None, **options: Any) -> Alternatives:
    """Return the nearer of several ways to meet a case's targets and one more group of them.

    Parameters
    ----------
    case : its own targets hold in every branch
    branches : targets of each branch, in words
    cancel : stops it where it is set
    options : ``progress``, ``threads``

    Returns
    -------
    Every branch, and which is kept.

    Raises
    ------
    InputError
        If there are fewer than two branches.

    Notes
    -----
    Each branch is a search of its own, see :func:`solve`.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa").model_copy(update={"targets": ()})
    >>> either(case, [["apex 1 = 0.3 ± 0.01 m"], ["apex 1 = 9 ± 0.01 m"]]).kept
    0
    """
    return kept(_either, cancel, case, [[_target(t) for t in branch] for branch in branches], **options)


def variants(case: Case, changes: Mapping[str, Mapping[str, float]], outcomes: Sequence[str | Target] = (), *,
             cancel: Cancel | None = None) -> Variants:
    """Return outcomes of a case as it is and under named changes.

    Parameters
    ----------
    case : the case
    changes : name → path → value [SI units]
    outcomes : in words; by default those of a first look
    cancel : stops it where it is set

    Returns
    -------
    The outcomes and targets of the case as it is, and of every variant.

    Raises
    ------
    InputError
        If a number is not there, or a variant has the name of the case as it is.
    Cancelled
        If it was stopped.

    Notes
    -----
    Each is one run.

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-wanted.yapa")
    >>> table = variants(case, {"soft pad": {"pairs.rind+pad.restitution": 0.4}}, ["apex 1"])
    >>> [round(v.value, 2) for v in table.outcomes["apex 1"]]
    [0.63, 0.16]
    """
    return kept(_variants, cancel, case, changes, [_outcome(text) for text in outcomes])


def how_much_more(case: Case, result: Any) -> list[MoreEvidence]:
    """Return how many more takes or rows of the same kind would halve every interval.

    Parameters
    ----------
    case : the case that was fitted
    result : what the fit found

    Returns
    -------
    One of every determined number: how wide its interval is, and how many more of the same kind halve it.

    Raises
    ------
    InputError
        Never; what is not determined is left out.

    Notes
    -----
    Information adds: with m alike there already, n more narrow a deviation by √(m / (m + n)).

    Examples
    --------
    >>> from yapa.demo import DATA
    >>> case = load(DATA / "orange-drop.yapa")
    >>> how_much_more(case, fit(case))[0].to_halve
    3
    """
    return _how_much_more(case, result)
