"""Outcomes as data: which there are, and the table of a body's, simulated beside measured."""

from __future__ import annotations

from dataclasses import dataclass

from yapa.case.outcome_specs import outcome_and_index
from yapa.formats.target_text import parse_target, target_text
from yapa.motion import Motion
from yapa.outcomes import CATALOGUE, OutcomeValue, measure
from yapa.outcomes.kinds.energy import ending

__all__ = ["CATALOGUE", "OutcomeRow", "OutcomeTable", "OutcomeValue", "outcome_table", "parse_target", "target_text"]


@dataclass(frozen=True)
class OutcomeRow:
    """One outcome: its name with its number, unit, meaning, and what it is; None where that side does not know it."""

    name: str
    unit: str
    meaning: str
    simulated: OutcomeValue | None
    measured: OutcomeValue | None


@dataclass(frozen=True)
class OutcomeTable:
    """Every outcome of a body, and how its motion ends, in words."""

    rows: list[OutcomeRow]
    ending: str


def outcome_table(motion: Motion, body: str, measured: Motion | None = None) -> OutcomeTable:
    """Return every outcome of a body that needs to be told nothing but a number.

    Parameters
    ----------
    body : name of the body
    motion : simulated
    measured : the body's track as a motion, if it has one
    """
    here = measure(motion, body, None)
    there = measure(measured, body, None) if measured is not None else {}
    rows = []
    for name in dict.fromkeys([*here, *there]):
        kind = CATALOGUE[outcome_and_index(name)[0]]
        rows.append(OutcomeRow(name, kind.unit, kind.meaning, here.get(name), there.get(name)))
    return OutcomeTable(rows, ending(motion, body))
