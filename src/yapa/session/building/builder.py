"""The builder: what is selected, what the pointer is over, and what is put in, copied, taken out and asked for.

A window shows it; nothing here knows a screen. What the hand holds is in ``hand``.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from yapa.case import Body, Case, Target
from yapa.errors import YapaError
from yapa.motion import Array
from yapa.session.building import arranging, asking, scene_edits
from yapa.session.building.hand import Hand
from yapa.session.building.picking import Hit, hits_in
from yapa.session.building.placing import place_of, reach_towards, with_body
from yapa.session.building.rays import Ray, on_grid
from yapa.session.building.stock import is_endless, thing_named
from yapa.session.building.taking_out import referring
from yapa.session.edits import Edit, use_values

if TYPE_CHECKING:
    from yapa.session.desk import Desk


class Builder:
    """Selection and gestures of one desk."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self.selected: list[str] = []
        self.hand = Hand(desk, self)

    # -- selection -------------------------------------------------------------------------------

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
            self.selected = found
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
        self.select(self.selected)

    # -- what the pointer meets --------------------------------------------------------------------

    def under(self, ray: Ray, without: str | None = None) -> list[Hit]:
        """Return what the pointer is over, at the play head, the nearest first.

        Parameters
        ----------
        ray : where the pointer looks
        without : a body that is left out
        """
        comparison = self._desk.preview.comparison
        if comparison is None or not len(comparison.motion.times):
            return []
        motion = comparison.motion
        row = int(np.clip(np.searchsorted(motion.times, self._desk.playback.time), 0, len(motion.times) - 1))
        return hits_in(motion, row, ray.origin, ray.direction, without)

    def ground_under(self, ray: Ray) -> tuple[Array, Array]:
        """Return place and normal of what the pointer is over: a face, else what is below that place, else the level ground.

        In a level view nothing may be under the pointer: the place is then that in the plane of the picture through the origin.

        Parameters
        ----------
        ray : where the pointer looks
        """
        up = np.array([0.0, 0.0, 1.0])
        hits = self.under(ray)
        if hits:
            return hits[0].point, hits[0].normal
        met = ray.at_plane(np.zeros(3), up) if abs(ray.direction[2]) > 0.05 else None
        if met is None:
            met = ray.at_plane(np.zeros(3), ray.direction)
            below = [] if met is None else self.under(Ray(met, -up))
            if below:
                return below[0].point, below[0].normal
        return np.zeros(3) if met is None else met, up

    # -- putting in, copying, taking out -----------------------------------------------------------

    def put_in(self, thing: str, ray: Ray | None = None, *, upright: bool = False, step: float = 0.0) -> bool:
        """Stand a thing of the stock on what the pointer is over, and select it; without a pointer beside what is there.

        Parameters
        ----------
        thing : its name in the stock
        ray : where the pointer looks
        upright : whether it keeps its orientation, in place of lying flush
        step : the grid its place is rounded to [m]; 0: none

        Returns
        -------
        Whether it was put in.
        """
        case = self.case
        if case is None:
            return False
        up = np.array([0.0, 0.0, 1.0])
        point, normal = (self._beside(case), up) if ray is None else self.ground_under(ray)
        name = scene_edits.free_name(case, thing)
        if is_endless(thing_named(thing).make()):
            point = np.array([0.0, 0.0, point[2] if ray is not None and self.under(ray) else 0.0])
        made = self._desk.make_by_hand(scene_edits.put_in(thing_named(thing), name, on_grid(point, normal, step), normal,
                                                          upright=upright))
        if made:
            self.select([name])
        return made

    def _beside(self, case: Case) -> Array:
        """A free place on the ground, to the right of what is there."""
        ends = [place_of(body)[0] + support_along_x(body) for body in case.bodies.values() if not is_endless(body)]
        floors = [place_of(body)[2] for body in case.bodies.values() if is_endless(body)]
        return np.array([max(ends) + 0.3 if ends else 0.0, 0.0, max(floors, default=0.0)])

    def duplicate(self, *, launch: bool = False) -> None:
        """Stand a copy of every selected body beside it, and select the copies.

        Parameters
        ----------
        launch : whether copies start as the bodies do
        """
        case, names = self.case, list(self.selected)
        if case is None or not names:
            return
        copies: list[str] = []
        taken = case
        for name in names:
            copies.append(scene_edits.free_name(taken, name))
            taken = with_body(taken, copies[-1], case.bodies[name])
        edits = [scene_edits.duplicate(name, copy, launch=launch) for name, copy in zip(names, copies, strict=True)]
        if self._desk.make_by_hand(scene_edits.together(f"duplicate {', '.join(names)}", edits)):
            self.select(copies)

    def take_out(self) -> None:
        """Take the selected bodies out, with what refers to them; that is said."""
        case, names = self.case, list(self.selected)
        if case is None or not names:
            return
        with_them = referring(case, names)
        if self._desk.make_by_hand(scene_edits.take_out(names)):
            self._desk.message.emit(f"took out {', '.join(names)}" + (f", and with it {', '.join(with_them)}" if with_them else ""))
            self.keep_up()

    def arrange(self, way: str, axis: str = "x") -> bool:
        """Arrange the selected bodies: "stack", "line up", "evenly" or "mirror".

        Parameters
        ----------
        way : how
        axis : along which, or across which

        Returns
        -------
        Whether anything was done.
        """
        names = list(self.selected)
        least = {"mirror": 1, "evenly": 3}.get(way, 2)
        if self.case is None:
            return False
        if len(names) < least:
            self._desk.error.emit(f"{way}: found {len(names)} bodies selected; expected {least} or more: Shift+click adds one")
            return False
        ways = {"stack": lambda: arranging.on_top(names), "line up": lambda: arranging.line_up(names, axis),
                "evenly": lambda: arranging.distribute(names, axis), "mirror": lambda: arranging.mirror(names, axis)}
        return self._desk.make_by_hand(ways[way]())

    def rename(self, new: str) -> bool:
        """Give the selected body another name, wherever it stands.

        Parameters
        ----------
        new : its new name

        Returns
        -------
        Whether it has it.
        """
        old = self.body
        if old is None or new.strip() in ("", old):
            return False
        if not self._desk.make(scene_edits.rename_body(old, new.strip())):
            return False
        self.select([new.strip()])
        return True

    def edit(self, edit: Edit) -> bool:
        """Make an edit of the scene by hand.

        Parameters
        ----------
        edit : the change

        Returns
        -------
        Whether it was made.
        """
        return self._desk.make_by_hand(edit)

    # -- asking ------------------------------------------------------------------------------------

    def asks_at(self, ray: Ray, pixel: float) -> list[asking.Ask]:
        """Return what can be asked of the selected body where the pointer is.

        Parameters
        ----------
        ray : where the pointer looks
        pixel : of how many metres a pixel is here
        """
        name, case = self.body, self.case
        if name is None or case is None or case.bodies[name].motion != "dynamic":
            return []
        hits = self.under(ray, name)
        centre = np.array(place_of(case.bodies[name]))
        point = hits[0].point if hits else ray.at_plane(centre, ray.direction)
        return [] if point is None else asking.asks(case, name, point, hits[0] if hits else None, pixel)

    def ask(self, targets: Sequence[Target]) -> bool:
        """Want outcomes, as one step.

        Parameters
        ----------
        targets : the wanted outcomes

        Returns
        -------
        Whether they are wanted now.
        """
        return self._desk.make(asking.want(targets))

    def set_values(self, values: dict[str, float], text: str) -> bool:
        """Set numbers by hand, as one step.

        Parameters
        ----------
        values : path → number [SI units]
        text : what undo calls it

        Returns
        -------
        Whether they are set.
        """
        try:
            return self._desk.make_by_hand(use_values(values, text)) if values else False
        except YapaError as error:
            self._desk.show_error(error)
            return False


def support_along_x(body: Body) -> float:
    """Return how far a body reaches along +x from its origin [m], as it is turned; 0 for an endless one.

    Parameters
    ----------
    body : the body
    """
    return 0.0 if is_endless(body) else reach_towards(body, np.array([1.0, 0.0, 0.0]))
