"""What is selected while a scene is built, what is hidden or kept in its place, and which grip the keys have."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from yapa.case import Case
from yapa.motion import Array
from yapa.session.building.grips import Grip, grips_of
from yapa.session.building.placing import place_of

if TYPE_CHECKING:
    from yapa.session.desk import Desk


class Selection:
    """Bodies of the case that is open.

    Attributes
    ----------
    selected : names of bodies
    hidden : bodies that are left out of the picture; the scene is the same
    held_fast : bodies that no drag and no arrow key moves
    grip : name of the grip that the keys move; None: they move the body
    """

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self.selected: list[str] = []
        self.hidden: set[str] = set()
        self.held_fast: set[str] = set()
        self.grip: str | None = None

    @property
    def case(self) -> Case | None:
        """The case that is open."""
        return self._desk.case

    @property
    def body(self) -> str | None:
        """The one body that is selected; None where none is, or several."""
        return self.selected[0] if len(self.selected) == 1 else None

    def select(self, names: Sequence[str]) -> None:
        """Select these bodies, in place of those that were.

        Parameters
        ----------
        names : names of bodies
        """
        found = [name for name in names if self.case is not None and name in self.case.bodies]
        if found != self.selected:
            self.selected, self.grip = found, None
            self._desk.selection_changed.emit()

    def toggle(self, name: str) -> None:
        """Add a body to the selection, or take it away.

        Parameters
        ----------
        name : name of the body
        """
        self.select([n for n in self.selected if n != name] if name in self.selected else [*self.selected, name])

    def select_next(self, step: int = 1) -> None:
        """Walk on to the next body.

        Parameters
        ----------
        step : 1 on, -1 back
        """
        names = list(self.case.bodies) if self.case is not None else []
        if names:
            k = names.index(self.selected[-1]) + step if self.selected else (0 if step > 0 else -1)
            self.select([names[k % len(names)]])

    def keep_up(self) -> None:
        """The case is another one: what is gone is no longer selected."""
        names = set(self.case.bodies) if self.case is not None else set()
        self.hidden &= names
        self.held_fast &= names
        self.select(self.selected)

    def may_move(self, name: str) -> bool:
        """Return whether the hand may move a body: it is not kept in its place, nor stood on another by the case.

        Parameters
        ----------
        name : name of the body
        """
        case = self.case
        return case is not None and name not in self.held_fast and case.bodies[name].placed_under is None

    def hide(self, on: bool) -> None:
        """Leave the selected bodies out of the picture, or show all again.

        Parameters
        ----------
        on : whether to hide the selected ones; False shows all
        """
        self.hidden = self.hidden | set(self.selected) if on else set()
        if on:
            self.select([])
        self._desk.selection_changed.emit()

    def keep_in_place(self, on: bool) -> None:
        """Keep the selected bodies from being moved by the hand, or let them be moved again.

        Parameters
        ----------
        on : whether they are kept
        """
        self.held_fast = self.held_fast | set(self.selected) if on else self.held_fast - set(self.selected)
        self._desk.selection_changed.emit()

    def keep_or_free(self) -> None:
        """Keep the selected bodies in their place; where all are kept, let them be moved again."""
        if self.selected:
            self.keep_in_place(not set(self.selected) <= self.held_fast)

    def grips(self, right: Array, eye: Array, pixel: float) -> list[Grip]:
        """Return the grips of the one body that is selected; none where there is not one.

        Parameters
        ----------
        right, eye : (3,) of the picture, and towards the eye
        pixel : of how many metres a pixel is
        """
        name, case = self.body, self.case
        if name is None or case is None or case.bodies[name].placed_under is not None:
            return []
        found = grips_of(case.bodies[name], right, eye, pixel)
        return [grip for grip in found if grip.gesture == "launch"] if name in self.held_fast else found

    def walk(self, step: int, grips: Sequence[Grip]) -> None:
        """Walk on: through the grips of the selected body, then to the next body.

        Parameters
        ----------
        step : 1 on, -1 back
        grips : of the selected body
        """
        names: list[str | None] = [None, *(grip.name for grip in grips)] if self.body is not None else [None]
        k = (names.index(self.grip) if self.grip in names else 0) + step
        if 0 <= k < len(names):
            self.grip = names[k]
            self._desk.selection_changed.emit()
        else:
            self.select_next(step)

    def place_now(self, name: str) -> Array:
        """Return where a body is at the play head [m], (3,).

        Parameters
        ----------
        name : name of the body
        """
        comparison, case = self._desk.preview.comparison, self.case
        if comparison is not None and name in comparison.motion.trajectories:
            return np.asarray(comparison.motion.trajectory(name).position(np.array([self._desk.playback.time]))[0])
        assert case is not None
        return np.array(place_of(case.bodies[name]))
