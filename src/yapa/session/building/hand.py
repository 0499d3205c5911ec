"""What the hand holds: a body that is moved, or its launch arrow. A gesture begins, follows the pointer, and ends in one edit.

While it lasts the whole future follows (``Preview``).
"""

from __future__ import annotations

import time
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from yapa.case import Body, Case
from yapa.case.launch_angles import angles_of
from yapa.case.rotations import tilt_of
from yapa.case.scene import Direction, LaunchAngles
from yapa.motion import Array
from yapa.session.building import scene_edits
from yapa.session.building.picking import Hit, hits_in
from yapa.session.building.placing import flush, place_of, reach_towards, tidy
from yapa.session.building.rays import Ray, nice_step, on_grid
from yapa.session.building.stock import is_endless
from yapa.session.edits import Edit

if TYPE_CHECKING:
    from yapa.session.building.builder import Builder
    from yapa.session.desk import Desk

ARROW_SECONDS = 0.2
"""of flight that a launch arrow is long"""
MAX_CONTACT_GAP = 1e-3
"""m: a body nearer to a face stands on it"""
MERGED_WITHIN = 1.0
"""s: steps by keys that follow each other so soon are one"""


@dataclass(frozen=True)
class _Grip:
    """A body that is held: as it was, where the pointer took it, and the face it stands on."""

    name: str
    body: Body
    grabbed: Array
    face: Hit | None
    kind: str


class Hand:
    """The gestures of one desk."""

    def __init__(self, desk: Desk, builder: Builder) -> None:
        self._desk, self._builder = desk, builder
        self._grip: _Grip | None = None
        self._edit: Edit | None = None
        self._last_nudge: tuple[float, tuple[str, ...]] = (-np.inf, ())

    @property
    def holding(self) -> bool:
        """Whether the hand holds something."""
        return self._grip is not None

    def take(self, name: str, ray: Ray) -> bool:
        """Take a body to move it.

        Parameters
        ----------
        name : name of the body
        ray : where the pointer looks

        Returns
        -------
        Whether it can be moved.
        """
        case = self._desk.case
        if case is None or name not in case.bodies or case.bodies[name].placed_under is not None:
            return False
        body = case.bodies[name]
        centre = np.array(place_of(body))
        grabbed = ray.at_plane(centre, ray.direction)
        self._grip = _Grip(name, body, centre if grabbed is None else grabbed, self._face_below(case, name), "move")
        self._edit = None
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

    def take_launch(self, name: str) -> bool:
        """Take the launch arrow of a body.

        Parameters
        ----------
        name : name of the body

        Returns
        -------
        Whether it has one.
        """
        case = self._desk.case
        if case is None or name not in case.bodies or case.bodies[name].motion != "dynamic":
            return False
        self._grip = _Grip(name, case.bodies[name], np.array(place_of(case.bodies[name])), None, "launch")
        self._edit = None
        return True

    def follow(self, ray: Ray, *, in_picture: bool = False, step: float = 0.0) -> None:
        """The pointer has moved on.

        Parameters
        ----------
        ray : where the pointer looks
        in_picture : whether the body moves in the plane of the picture, whatever is under the pointer
        step : the grid that places are rounded to [m]; 0: none
        """
        grip = self._grip
        if grip is None:
            return
        if grip.kind == "launch":
            self._follow_launch(grip, ray, step)
            return
        body, orientation = grip.body, grip.body.orientation
        hits = [] if in_picture or grip.face is None else self._builder.under(ray, grip.name)
        if hits:
            face = hits[0]
            if float(face.normal @ (grip.face.normal if grip.face is not None else face.normal)) < 1 - 1e-6:
                orientation = flush(face.normal, orientation)
                body = body.model_copy(update={"orientation": orientation})
            foot = on_grid(face.point, face.normal, step)
            place = foot + reach_towards(body, -face.normal) * face.normal
        else:
            there = ray.at_plane(grip.grabbed, ray.direction)
            place = np.array(place_of(body)) + (0 if there is None else there - grip.grabbed)
            place = on_grid(place, ray.direction, step)
        at = np.array([tidy(c) for c in place])
        self._edit = scene_edits.move_body(grip.name, at, orientation if orientation != grip.body.orientation else None)
        values = {f"bodies.{grip.name}.position.{axis}": float(c) for axis, c in zip("xyz", at, strict=True)}
        if orientation != grip.body.orientation:
            values |= {f"bodies.{grip.name}.tilt.{axis}": c for axis, c in zip("xyz", tilt_of(orientation), strict=True)}
        self._show(values if not grip.body.keyframes else {})

    def _follow_launch(self, grip: _Grip, ray: Ray, step: float) -> None:
        tip = ray.at_plane(grip.grabbed, ray.direction)
        if tip is None:
            return
        v = (tip - grip.grabbed) / ARROW_SECONDS
        grid = nice_step(step / ARROW_SECONDS) if step else 0.0
        v = np.array([tidy(round(c / grid) * grid if grid else c) for c in v])
        base, present = f"bodies.{grip.name}", grip.body.velocity
        if isinstance(present, LaunchAngles | Direction):
            shown = dict(zip(("speed", "elevation", "azimuth"), angles_of(v.tolist()), strict=True))
            self._edit = scene_edits.launch(grip.name, LaunchAngles(**shown))
            self._show({f"{base}.{key}": value for key, value in shown.items()} if isinstance(present, LaunchAngles) else {})
        else:
            self._edit = scene_edits.launch(grip.name, (float(v[0]), float(v[1]), float(v[2])))
            self._show({f"{base}.velocity.{axis}": float(c) for axis, c in zip("xyz", v, strict=True)})

    def _show(self, values: dict[str, float]) -> None:
        self._desk.preview.set(values)

    def let_go(self) -> None:
        """Keep what the hand did: one edit."""
        edit, self._grip, self._edit = self._edit, None, None
        if edit is not None and not self._desk.make_by_hand(edit):
            self._desk.preview.set({})

    def put_back(self) -> None:
        """Give up what the hand did."""
        if self._grip is not None:
            self._grip, self._edit = None, None
            self._desk.preview.set({})

    def nudge(self, by: Array) -> None:
        """Move the selected bodies by an amount; steps that follow within a second are one.

        Parameters
        ----------
        by : (3,) [m]
        """
        case, names = self._desk.case, tuple(self._builder.selected)
        if case is None or not names:
            return
        def change(case: Case) -> Case:
            for name in names:
                case = scene_edits.move_body(name, np.array(place_of(case.bodies[name])) + by).change(case)
            return case

        now = time.monotonic()
        again = self._last_nudge[1] == names and now - self._last_nudge[0] < MERGED_WITHIN
        if self._desk.make_by_hand(Edit(f"move {', '.join(names)}", change), merge=again):
            self._last_nudge = now, names
