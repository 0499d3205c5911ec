"""What a hand can do to one body on the stage, a file a gesture; ``GESTURES`` lists them by name."""

from __future__ import annotations

from collections.abc import Callable

from yapa.session.building.gestures import key, launch, lift, move, size, turn, waypoint
from yapa.session.building.gestures.base import Held, Snapping
from yapa.session.building.rays import Ray
from yapa.session.edits import Edit

Gesture = Callable[[Held, Ray, Snapping], Edit | None]
GESTURES: dict[str, Gesture] = {
    "move": move.follow,
    "lift": lift.follow,
    "turn": turn.follow,
    "size": size.follow,
    "launch": launch.follow,
    "pass here": waypoint.follow,
    "key": key.follow,
}
"""name → what the case becomes while the pointer is somewhere; None: nothing can be done there"""

__all__ = ["GESTURES", "Gesture", "Held", "Snapping"]
