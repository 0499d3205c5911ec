"""The builder: what the pointer is over, and what is put in and asked for. What is done to what is selected is in ``arranger``.

A window shows it; nothing here knows a screen. What the hand holds is in ``hand``.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from yapa.case import Body, Case, Target
from yapa.case.bounds import MAX_DURATION
from yapa.errors import YapaError
from yapa.motion import Array
from yapa.session.building import asking, grip_numbers, scene_edits
from yapa.session.building.aim import throw_at
from yapa.session.building.arranger import Arranger
from yapa.session.building.grips import Grip
from yapa.session.building.hand import Hand
from yapa.session.building.picking import Hit, hits_in
from yapa.session.building.placing import place_of, reach_towards
from yapa.session.building.rays import Ray, on_grid
from yapa.session.building.stock import is_endless, thing_named
from yapa.session.edits import Edit, use_values

OUT_OF_REACH = 1e-3
"""m by which an aim may miss"""

if TYPE_CHECKING:
    from yapa.session.desk import Desk


class Builder(Arranger):
    """Selection and gestures of one desk."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.hand = Hand(desk, self)

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
        return [hit for hit in hits_in(motion, row, ray.origin, ray.direction, without) if hit.body not in self.hidden]

    def ground_under(self, ray: Ray) -> tuple[Array, Array]:
        """Return place and normal of what the pointer is over: a face, else what is below that place, else the level ground.

        In a level view nothing may be under the pointer: the place is then below it, in the plane through the origin.

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
            met = None if met is None else met * (1.0, 1.0, 0.0)
        return np.zeros(3) if met is None else met, up

    # -- putting in -----------------------------------------------------------

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
        return [] if point is None else asking.asks(case, name, point, hits[0] if hits else None, pixel, self._desk.playback.time)

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

    def lengthen(self) -> bool:
        """Make the clip twice as long, as one step.

        Returns
        -------
        Whether it was done; it is not where a clip may not be so long.
        """
        case = self.case
        if case is None:
            return False
        longer = min(float(f"{2 * case.duration:.2g}"), MAX_DURATION)
        edit = Edit(f"lengthen the clip to {longer:g} s", lambda c: c.model_copy(update={"duration": longer}))
        return self._desk.make_by_hand(edit)

    # -- grips -------------------------------------------------------------------------------------

    def number_of(self, name: str, grip: Grip | None) -> tuple[str, str]:
        """Return what the number of a grip is called, and its text; without a grip the place of the body.

        Parameters
        ----------
        name : name of the body
        grip : the grip
        """
        return ("", "") if self.case is None else grip_numbers.number_of(self.case, name, grip)

    def words_of(self, name: str, grip: Grip) -> str:
        """Return a grip in words, with the number under the hand.

        Parameters
        ----------
        name : name of the body
        grip : the grip
        """
        case = self._desk.preview.draft or self.case
        return "" if case is None or name not in case.bodies else grip_numbers.words_of(case, name, grip)

    def velocity_of(self, name: str) -> Array:
        """Return the start velocity of a body under the hand, (3,) [m/s].

        Parameters
        ----------
        name : name of the body
        """
        case = self._desk.preview.draft or self.case
        return np.zeros(3) if case is None or name not in case.bodies else scene_edits.start_velocity(case.bodies[name])

    def type_number(self, name: str, grip: Grip | None, text: str) -> bool:
        """Set the number of a grip, or the place of a body, from what was typed.

        Parameters
        ----------
        name : name of the body
        grip : the grip; None: the place
        text : what was typed

        Returns
        -------
        Whether it was done.
        """
        try:
            return self.case is not None and self._desk.make_by_hand(grip_numbers.typed(self.case, name, grip, text))
        except YapaError as error:
            self._desk.show_error(error)
            return False

    def aim(self, ray: Ray, *, high: bool = False) -> None:
        """Throw the selected body so that its centre passes what the pointer is over; what is out of reach is said.

        Parameters
        ----------
        ray : where the pointer looks
        high : whether over the higher arc
        """
        name, case = self.body, self.case
        if name is None or case is None or case.bodies[name].motion != "dynamic":
            self._desk.error.emit("aim: found no moving body selected; expected one")
            return
        hits = self.under(ray, name)
        point = hits[0].point if hits else ray.at_plane(np.array(place_of(case.bodies[name])), ray.direction)
        if point is None:
            return

        def use(found: tuple[Edit, float]) -> None:
            if self.case is case and self._desk.make_by_hand(found[0]):
                near = found[1] < OUT_OF_REACH
                self._desk.message.emit(f"{name} passes there" if near else
                                        f"out of reach at this speed: {name} passes {found[1]:.2g} m away at the nearest")

        self._desk.work(f"aiming {name}", lambda: throw_at(case, name, point, high=high), use)

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
