"""The path of a number of a case, such as ``bodies.orange.velocity.x``, in its parts.

A path names a section, the owner in it, a quantity and, of a vector, an axis. ``gravity`` and the numbers of the ``air`` have no
owner.
Spellings of case format 1 (``bodies.orange.spin.y``, ``tracks.video.offset``) are accepted and read as those of the present format.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, NamedTuple

from pydantic import AfterValidator

AXES = ("x", "y", "z")
"""of vectors"""
OLD_QUANTITIES = {("bodies", "spin"): "angular_velocity", ("tracks", "offset"): "time_offset", ("tracks", "shift"): "translation"}
"""(section, quantity of format 1) → the quantity's name now."""
_OWNED = ("surfaces", "pairs", "bodies", "tracks", "constants")


class ParameterPath(NamedTuple):
    """A path in its parts; ``str`` joins them.

    Attributes
    ----------
    section : gravity, air, surfaces, pairs, bodies, tracks, constants or profile
    owner : name of the surface, pair, body, track or constant; empty for gravity and air
    quantity : last word of the path but for the axis
    axis : x, y, z, or empty for a scalar
    """

    section: str
    owner: str
    quantity: str
    axis: str = ""

    def __str__(self) -> str:
        return ".".join(part for part in (self.section, self.owner, self.quantity, self.axis) if part)

    @property
    def kind(self) -> str:
        """The kind of quantity, by which units and ranges are known."""
        if self.section == "profile":
            return f"profile.{self.quantity}"
        return "air density" if self.section == "air" and self.quantity == "density" else self.quantity or self.section


@lru_cache(maxsize=8192)
def parse_path(text: str) -> ParameterPath:
    """Return the parts of a path, whatever its spelling; whether a case has such a number is for the case to say.

    Parameters
    ----------
    text : the text
    """
    section, *rest = text.split(".")
    axis = rest.pop() if len(rest) > 1 and rest[-1] in AXES else ""
    owner = rest.pop(0) if section in _OWNED and rest else ""
    quantity = ".".join(rest)
    return ParameterPath(section, owner, OLD_QUANTITIES.get((section, quantity), quantity), axis)


def canonical_path(text: str) -> str:
    """Return a path in the spelling of the present format; text that is no path is returned as it is.

    Parameters
    ----------
    text : the text
    """
    path = str(parse_path(text))
    return path if len(path.split(".")) == len(text.split(".")) else text


PathText = Annotated[str, AfterValidator(canonical_path)]
"""A path in a case, in its present spelling whatever was written."""
