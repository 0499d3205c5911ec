"""Evidence made by hand while one looks: marks at the play head, a stopwatch tapped along, a drawn path, heights noted.

All of it becomes ordinary targets and tracks, each one step of undo.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from yapa.case import Case, Target
from yapa.session.drag import with_wish
from yapa.session.edits import Edit, bring_tracks
from yapa.session.handles import Handle
from yapa.session.manual_evidence import Place, drawn_path, mark

if TYPE_CHECKING:
    from yapa.session.desk import Desk

REACTION = 0.05
"""s: a person who taps along an event that is seen coming is off by about this much, at full speed"""
REST_REACTION = 0.2
"""s: at the end of a motion, which is not seen coming"""
CONTACTS, RESTS = "contacts", "rest"
MIN_STEP = 0.015
"""s between two places of a drawn path"""


def mark_edit(body: str, time: float, place: Place, tolerance: float) -> Edit:
    """Return the edit that wants a body at a place at a time, and replaces a mark of the same time.

    Parameters
    ----------
    body : name of the body
    time : [s]
    place : (3,) [m]; NaN where it was not seen
    tolerance : [m]
    """
    marks = mark(round(time, 4), place, tolerance, body)

    def change(case: Case) -> Case:
        asked = {(t.outcome, t.time) for t in marks}
        kept = tuple(t for t in case.targets if t.body != body or (t.outcome, t.time) not in asked)
        return case.model_copy(update={"targets": (*kept, *marks)})

    return Edit(f"mark {body} at {time:.3g} s", change)


def tapped(taps: Sequence[float], kind: str, body: str, speed: float = 1.0) -> list[Target]:
    """Return targets for what was tapped: the times of contacts in their order, or of the rest at the last tap.

    Parameters
    ----------
    taps : times [s]
    kind : ``contacts`` or ``rest``
    body : name of the body
    speed : of playing; slower, one taps more exactly
    """
    if kind == RESTS:
        return [Target(outcome="rest time", body=body, value=round(taps[-1], 3), tolerance=REST_REACTION * speed)] if taps else []
    return [Target(outcome="bounce time", index=k, body=body, value=round(tap, 3), tolerance=REACTION * speed)
            for k, tap in enumerate(taps, start=1)]


@dataclass
class HandNotes:
    """What a person notes by hand on one desk.

    Attributes
    ----------
    desk : whose case it is
    taps : times that were tapped [s]
    path : places of the path that is being drawn, each with its time
    """

    desk: Desk
    taps: list[float] = field(default_factory=list)
    path: list[tuple[float, Place]] = field(default_factory=list)

    def whose(self) -> str | None:
        """Return the body that is meant: the one selected, else the first that moves by forces; None where nothing does."""
        case, chosen = self.desk.case, self.desk.builder.body
        movers = case.dynamic_bodies() if case is not None else []
        return chosen if chosen in movers else movers[0] if movers else None

    def mark(self, place: Place, tolerance: float) -> bool:
        """Want the body at a place at the play head's time.

        Parameters
        ----------
        place : (3,) [m]
        tolerance : [m]

        Returns
        -------
        Whether it was noted.
        """
        body = self.whose()
        return body is not None and self.desk.make_from(lambda: mark_edit(body, self.desk.playback.time, place, tolerance))

    def tap(self) -> None:
        """Note the play head's time."""
        if self.desk.case is not None and self.whose() is not None:
            self.taps.append(self.desk.playback.time)
            self.desk.notes_changed.emit()

    def discard(self) -> None:
        """Forget what was tapped."""
        self.taps.clear()
        self.desk.notes_changed.emit()

    def keep_taps(self, kind: str, speed: float = 1.0) -> bool:
        """Take what was tapped as evidence, as one step; what was asked of the same outcomes before gives way.

        Parameters
        ----------
        kind : ``contacts`` or ``rest``
        speed : of playing

        Returns
        -------
        Whether it was taken.
        """
        body = self.whose()

        def change(case: Case) -> Case:
            targets = tapped(sorted(self.taps), kind, body, speed) if body is not None else []
            asked = {(t.outcome, t.index) for t in targets}
            kept = tuple(t for t in case.targets if t.body != body or (t.outcome, t.index) not in asked)
            return case.model_copy(update={"targets": (*kept, *targets)})

        if body is None or not self.taps or not self.desk.make(Edit(f"note {kind} by stopwatch", change)):
            return False
        self.discard()
        return True

    def draw(self, time: float, place: Place) -> None:
        """One more place of a path that is drawn.

        Parameters
        ----------
        time : [s]; a place that follows too soon is left out
        place : (3,) [m]
        """
        if not self.path or time - self.path[-1][0] >= MIN_STEP:
            self.path.append((time, place))

    def end_path(self, sigma: float) -> bool:
        """Take what was drawn as a track, as one step.

        Parameters
        ----------
        sigma : how well it was drawn [m]

        Returns
        -------
        Whether it was taken: two places or more.
        """
        body, path, self.path = self.whose(), self.path, []
        if body is None or len(path) < 2:
            return False
        return self.desk.make_from(
            lambda: bring_tracks([drawn_path("drawn", body, [t for t, _ in path], [p for _, p in path], sigma)]))

    def height(self, handle: Handle, value: float) -> bool:
        """Note an outcome where the hand put it: its target is written, no number moves.

        Parameters
        ----------
        handle : the outcome
        value : what was seen [its unit]

        Returns
        -------
        Whether it was noted.
        """
        return self.desk.make(Edit(f"note {handle.name}", lambda case: case.model_copy(
            update={"targets": with_wish(case, handle.target, max(handle.least, value))})))
