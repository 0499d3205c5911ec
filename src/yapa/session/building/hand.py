"""What the hand holds: a body, or a grip of it. A gesture begins, follows the pointer, and ends in one edit.

While it lasts the whole future follows (``Preview``). What each gesture does is in ``gestures``.
"""

from __future__ import annotations

import time
from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from yapa.case import Case
from yapa.errors import YapaError
from yapa.motion import Array
from yapa.session.building import scene_edits
from yapa.session.building.gestures import GESTURES, Held, Snapping
from yapa.session.building.gestures.launch import ARROW_SECONDS, launched
from yapa.session.building.gestures.turn import turned
from yapa.session.building.grips import Grip
from yapa.session.building.picking import Hit, hits_in
from yapa.session.building.placing import place_of, reach_towards
from yapa.session.building.rays import Ray
from yapa.session.building.scene_edits import start_velocity
from yapa.session.building.stock import is_endless
from yapa.session.edits import Edit

if TYPE_CHECKING:
    from yapa.session.building.builder import Builder
    from yapa.session.desk import Desk

MAX_CONTACT_GAP = 1e-3
"""m: a body nearer to a face stands on it"""
MERGED_WITHIN = 1.0
"""s: steps by keys that follow each other so soon are one"""


class Hand:
    """The gestures of one desk."""

    def __init__(self, desk: Desk, builder: Builder) -> None:
        self._desk, self._builder = desk, builder
        self._gesture = ""
        self._held: Held | None = None
        self._edit: Edit | None = None
        self._last_nudge: tuple[float, tuple[str, ...]] = (-np.inf, ())

    @property
    def holding(self) -> bool:
        """Whether the hand holds something."""
        return self._held is not None

    @property
    def words(self) -> str:
        """What the hand is doing, as undo would call it; empty while it does nothing."""
        return self._edit.text if self._edit is not None else ""

    def take(self, name: str, ray: Ray) -> bool:
        """Take a body: at the start to move it; later to say where it passes then, or where its path leads.

        Parameters
        ----------
        name : name of the body
        ray : where the pointer looks

        Returns
        -------
        Whether it can be moved.
        """
        case, at = self._desk.case, self._desk.playback.time
        if case is None or name not in case.bodies or not self._builder.may_move(name):
            return False
        body = case.bodies[name]
        later = at > 0 and body.motion != "static"
        centre = self._builder.place_now(name) if later else np.array(place_of(body))
        if later:
            return self._begin("pass here" if body.motion == "dynamic" else "key", Held(case, name, centre, time=at))
        grabbed = ray.at_plane(centre, ray.direction)
        return self._begin("move", Held(case, name, centre if grabbed is None else grabbed, self._face_below(case, name)))

    def take_grip(self, name: str, grip: Grip) -> bool:
        """Take a grip of a body; it is of the start, whatever the play head's time.

        Parameters
        ----------
        name : name of the body
        grip : the grip

        Returns
        -------
        Whether it can be moved.
        """
        case = self._desk.case
        if case is None or name not in case.bodies or (grip.gesture != "launch" and not self._builder.may_move(name)):
            return False
        grabbed = np.array(place_of(case.bodies[name])) if grip.gesture == "launch" else grip.place
        return self._begin(grip.gesture, Held(case, name, grabbed, self._face_below(case, name), grip.axis, grip.part))

    def _begin(self, gesture: str, held: Held) -> bool:
        self._gesture, self._edit = gesture, None
        self._held = Held(held.case, held.name, held.grabbed, held.face, held.axis, held.part, held.time,
                          partial(self._builder.under, without=held.name))
        return True

    def _face_below(self, case: Case, name: str) -> Hit | None:
        """The face that a body stands on at the start; None where it hangs in the air."""
        body, comparison = case.bodies[name], self._desk.preview.comparison
        if comparison is None or is_endless(body):
            return None
        centre, down = np.array(place_of(body)), np.array([0.0, 0.0, -1.0])
        for hit in hits_in(comparison.motion, 0, centre, down, name):
            gap = float((centre - hit.point) @ hit.normal) - reach_towards(body, -hit.normal)
            if abs(gap) < MAX_CONTACT_GAP:
                return hit
        return None

    def follow(self, ray: Ray, snapping: Snapping | None = None) -> None:
        """The pointer has moved on.

        Parameters
        ----------
        ray : where the pointer looks
        snapping : what places and angles are rounded to; None: nothing
        """
        if self._held is None:
            return
        edit = GESTURES[self._gesture](self._held, ray, snapping or Snapping())
        if edit is None:
            return
        try:
            draft = edit.applied(self._held.case)
        except YapaError:  # such as a size of nothing: the last that could be stays
            return
        self._edit = edit
        self._desk.preview.try_case(draft)

    def let_go(self) -> None:
        """Keep what the hand did: one edit."""
        edit, held, self._edit, self._held = self._edit, self._held, None, None
        if edit is None or held is None:
            return
        if not self._desk.make_by_hand(edit):
            self._desk.preview.try_case(None)

    def put_back(self) -> None:
        """Give up what the hand did."""
        if self._held is not None:
            self._held, self._edit = None, None
            self._desk.preview.try_case(None)

    def nudge(self, by: Array) -> None:
        """Move the selected bodies by an amount; steps that follow within a second are one.

        Parameters
        ----------
        by : (3,) [m]
        """
        names = tuple(name for name in self._builder.selected if self._builder.may_move(name))

        def change(case: Case) -> Case:
            for name in names:
                case = scene_edits.move_body(name, np.array(place_of(case.bodies[name])) + by).change(case)
            return case

        if names:
            self._step(Edit(f"move {', '.join(names)}", change), names)

    def nudge_grip(self, name: str, grip: Grip, by: float, angle: float) -> None:
        """Move a grip by a step of keys; steps that follow within a second are one.

        Parameters
        ----------
        name : name of the body
        grip : the grip
        by : how far along its way [m]
        angle : how far it turns, where it turns [rad]
        """
        case = self._desk.case
        if case is None or name not in case.bodies:
            return
        held = Held(case, name, grip.place, self._face_below(case, name), grip.axis, grip.part)
        if grip.gesture == "turn":
            edit: Edit | None = turned(held, angle)
        elif grip.gesture == "launch":
            edit = launched(held, start_velocity(held.body) + by / ARROW_SECONDS * grip.axis)
        else:  # a pointer that looks across the way of the grip
            across = np.cross(grip.axis, [0.0, 0.0, 1.0] if abs(grip.axis[2]) < 0.9 else [1.0, 0.0, 0.0])
            across = across / np.linalg.norm(across)
            edit = GESTURES[grip.gesture](held, Ray(grip.place + by * grip.axis - across, across), Snapping())
        if edit is not None:
            self._step(edit, (name, grip.name))

    def _step(self, edit: Edit, of: tuple[str, ...]) -> None:
        now = time.monotonic()
        again = self._last_nudge[1] == of and now - self._last_nudge[0] < MERGED_WITHIN
        if self._desk.make_by_hand(edit, merge=again):
            self._last_nudge = now, of
