"""Every outcome by name: its specification, the function that reads it from a motion, and how a fit follows a target of it.

An outcome is a function with the decorator :func:`outcome`, in a file that ``kinds/__init__.py`` imports, or in a program of one's
own.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from yapa.case.evidence import Condition
from yapa.case.outcome_specs import OUTCOME_SPECS, OutcomeSpec
from yapa.motion import Motion
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.target_form import TargetForm
from yapa.outcomes.value import OutcomeValue

Read = Callable[[Motion, str, OutcomeQuery], OutcomeValue]
Count = Callable[[Motion, str], int]


@dataclass(frozen=True)
class Outcome:
    """A registered outcome.

    Attributes
    ----------
    spec : name, unit, meaning and arguments
    read : returns the outcome of one body of a motion for a query
    count : of a numbered outcome, how many of them a body's motion has
    at_time : it is read at a time, by default at the end
    whole_motion : it needs the whole motion, so that a track with an unresolved interval has none
    first_look : it is shown where only a few outcomes are
    forms : condition → how a target of it is followed, where the usual form is not smooth enough
    """

    spec: OutcomeSpec
    read: Read
    count: Count | None = None
    at_time: bool = False
    whole_motion: bool = False
    first_look: bool = False
    forms: Mapping[Condition, TargetForm] = field(default_factory=dict)

    @property
    def name(self) -> str:
        """Its name."""
        return self.spec.name

    @property
    def unit(self) -> str:
        """Its SI unit."""
        return self.spec.unit

    @property
    def meaning(self) -> str:
        """What it means, in a line."""
        return self.spec.meaning

    @property
    def indexed(self) -> bool:
        """Whether it is one of several."""
        return "index" in self.spec.required

    @property
    def needs_no_argument(self) -> bool:
        """Whether it needs no argument but a number."""
        return not (set(self.spec.required) - {"index"} or self.spec.one_of)


CATALOGUE: dict[str, Outcome] = {}
"""Every registered outcome by name, in the order of registration."""


def outcome(
    name: str, unit: str, meaning: str, *, required: tuple[str, ...] = (), optional: tuple[str, ...] = (),
    one_of: tuple[str, ...] = (), integer: bool = False, count: Count | None = None, at_time: bool = False,
    whole_motion: bool = False, first_look: bool = False, forms: Mapping[Condition, TargetForm] | None = None,
) -> Callable[[Read], Read]:
    """Register a function as an outcome.

    Parameters
    ----------
    name : as people type it, such as ``rest time``; without digits at its end
    unit : SI unit, empty for a number without one
    meaning : a line that follows "the outcome is"
    required, optional : names of its arguments (``index``, ``partner``, ``time``, ``point`` …)
    one_of : arguments of which exactly one is given
    integer : it is a count
    count, at_time, whole_motion, first_look, forms : see :class:`Outcome`

    Returns
    -------
    A decorator that returns the function unchanged.

    Raises
    ------
    ValueError
        If there is an outcome of that name, or it ends with a digit.
    """
    def register(read: Read) -> Read:
        if name in CATALOGUE or name[-1:].isdigit() or name != name.strip():
            raise ValueError(f"an outcome named {name!r}: names are new, without blanks around them or digits at their end")
        spec = OutcomeSpec(name, unit, meaning, required, (*optional, *one_of), one_of, integer)
        OUTCOME_SPECS[name] = spec
        CATALOGUE[name] = Outcome(spec, read, count, at_time, whole_motion, first_look, forms or {})
        return read

    return register
