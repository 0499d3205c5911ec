"""The end of a fit, merged into what its document has become meanwhile.

A fit works on the case as it was at its start. At its end

- an unchanged case takes the values and the trial, as one step;
- an edited one takes the trial; the values are set only if neither these numbers, nor the evidence, nor the unknowns were changed
  meanwhile, since they would undo that change, or would not hold for it.

A document that is gone is no matter of this module: its fit ends unheard.
"""

from __future__ import annotations

from dataclasses import dataclass

from yapa.case import Case, Trial, get_number, has_number, label_of, with_numbers
from yapa.fitting import FitResult
from yapa.fitting.tracks.takes import with_takes
from yapa.session.ledger import add_trial, fit_name, keep_scene


@dataclass(frozen=True)
class FitEnd:
    """A fit that has ended: the case it began with, what it found, and the trial it leaves."""

    start: Case
    result: FitResult
    trial: Trial


@dataclass(frozen=True)
class Merged:
    """The case after a fit, and a sentence where its values were not set."""

    case: Case
    sentence: str = ""


def merge(now: Case, end: FitEnd) -> Merged:
    """Return what a case becomes by a fit that began with another state of it.

    Parameters
    ----------
    now : the case as it is now
    end : what the fit found, and the case it began with
    """
    trial = end.trial.model_copy(update={"name": fit_name(now)})
    if now is end.start or (reason := changed_meanwhile(now, end)) is None:
        return Merged(keep_scene(add_trial(with_takes(with_numbers(now, end.result.values), end.result), trial), trial, end.start))
    sentence = f"the fit has ended, but {reason} meanwhile, so its values were not set; they stand in the trial {trial.name!r}"
    return Merged(keep_scene(add_trial(now, trial), trial, end.start), sentence)


def changed_meanwhile(now: Case, end: FitEnd) -> str | None:
    """Return what was changed since a fit began that its values depend on, None where nothing was.

    Parameters
    ----------
    now : the case as it is now
    end : what the fit found, and the case it began with
    """
    start = end.start
    moved = [path for path in end.result.values if not has_number(now, path) or get_number(now, path) != get_number(start, path)]
    if moved:
        return f"{label_of(moved[0])} was changed"
    if [t.model_copy(update={"file": None}) for t in now.tracks] != [t.model_copy(update={"file": None}) for t in start.tracks]:
        return "a track was changed"
    for part, words in (("targets", "what is wanted"), ("takes", "a take"), ("unknowns", "an unknown")):
        if getattr(now, part) != getattr(start, part):
            return f"{words} was changed"
    return None
