"""What a fit taught, in one sentence: what is known, what cannot be, and what would tell it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from yapa.case import Case, Estimate, label_of, quantity_of
from yapa.case.estimate_text import bounds_text, value_text
from yapa.case.ledger import newest_fit
from yapa.case.units import as_shown
from yapa.fitting.problem.cancel import Cancel
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.result import Answer, FitResult
from yapa.fitting.tracks.takes import shown
from yapa.session.idle_look import IdleLook

if TYPE_CHECKING:
    from yapa.session.desk import Desk

TOLD = 3
"""numbers that are known, in the sentence; the others are counted"""
NOTICEABLE = 1e-3
"""of a value that has no deviation: a change that is told"""
Advice = Mapping[str, str]
"""path → what would tell it"""


def _short(path: str, others: Sequence[str]) -> str:
    """The name of a number, with whose it is only where another has the same."""
    name = label_of(path).partition(" · ")[0]
    return label_of(path) if [label_of(p).partition(" · ")[0] for p in others].count(name) > 1 else name


def _joined(parts: list[str]) -> str:
    return parts[0] if len(parts) == 1 else ", ".join(parts[:-1]) + " and " + parts[-1]


def learned(estimates: Mapping[str, Estimate], advice: Advice | None = None) -> str:
    """Return one sentence for what is known, and one for each number that is not: its bound, why, and what would tell it.

    Parameters
    ----------
    estimates : path → estimate of a fit
    advice : what would tell a number, where that was found
    """
    paths = list(estimates)
    known = [f"{_short(p, paths)} {value_text(p, e)}" for p, e in estimates.items() if e.determined]
    out = []
    if known:
        more = f", and {len(known) - TOLD} more" if len(known) > TOLD else ""
        told = ", ".join(known[:TOLD]) + more if more else _joined(known)
        out.append(f"{told} {'is' if len(known) == 1 else 'are'} known")
    for path, e in estimates.items():
        if not e.determined:
            told = bounds_text(path, e)
            bound = f"is {told}" if told else "cannot be told"
            why = f": {e.reason}" if e.reason else ""
            what = f"; to tell it: {advice[path]}" if advice and path in advice else ""
            out.append(f"{_short(path, paths)} {bound}{why}{what}")
    return ". ".join(s[:1].upper() + s[1:] for s in out) + ("." if out else "")


def runner_up_words(answer: Answer, result: FitResult) -> str:
    """Return in words how the nearest other answer differs, and how much worse it fits.

    Parameters
    ----------
    answer : of those the evidence does not tell from the one given
    result : the fit that found both
    """
    paths = list(result.estimates)
    apart = sorted(((abs(answer.values[p] - e.value) / max(e.std or NOTICEABLE * abs(e.value), 1e-12), p) for p, e in
                    result.estimates.items() if p in answer.values), reverse=True)
    moved = [f"{_short(p, paths)} {as_shown(answer.values[p], quantity_of(p).unit)[0]:.4g} in place of "
             f"{as_shown(result.estimates[p].value, quantity_of(p).unit)[0]:.4g}" for size, p in apart[:2] if size > 1]
    return f"runner-up: {_joined(moved) if moved else 'much the same numbers'}; half the squared misfit is {answer.away:+.3g}"


def advice_on(case: Case, cancel: Cancel) -> Advice:
    """Return what would tell each number that the last fit of a case could not.

    Parameters
    ----------
    case : the case
    cancel : stops it where it is set

    Raises
    ------
    Cancelled
        If stopping was asked for.
    """
    from yapa.fitting.confidence.experiment_suggestions import suggest_experiments

    trial = newest_fit(case)
    if trial is None:
        return {}
    free = {u.path for u in case.unknowns if not u.fixed}
    estimates = {p: e for p, e in trial.estimates.items() if p in free}
    return {found.path: found.words for found in suggest_experiments(FitProblem(shown(case), cancel), estimates)}


class AdviceLook(IdleLook[Advice]):
    """What would tell the numbers that the last fit could not."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk, "looking what would tell more", advice_on, {}, desk.advice_changed.emit)

    def has_something_to_find(self, case: Case) -> bool:
        """Return whether the case stands at a fit that left a number open.

        Parameters
        ----------
        case : the case that is open
        """
        trial = newest_fit(case)
        return trial is not None and any(not e.determined for e in trial.estimates.values())
