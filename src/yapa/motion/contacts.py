"""Contacts of a motion: impacts, and intervals of lasting contact."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from yapa.motion.arrays import Array


@dataclass(slots=True)
class Contact:
    """An impact of ``body`` on ``partner``. Speeds in m/s; the normal points from partner to body. Not to be changed.

    ``time_std`` and ``speed_std`` are zero on a simulated motion; impulses are None on a measured one.
    """

    time: float
    body: str
    partner: str
    point: Array
    normal: Array
    approach: float
    rebound: float
    slip_before: float
    slip_after: float
    normal_impulse: float | None
    friction_impulse: float | None
    position: Array
    partner_position: Array | None = None
    time_std: float = 0.0
    speed_std: float = 0.0

    def seen_from(self, name: str) -> tuple[Array, Array]:
        """Return centre of the named body at the contact, and the normal pointing towards it.

        Parameters
        ----------
        name : its name
        """
        if name == self.body or self.partner_position is None:
            return self.position, self.normal
        return self.partner_position, -self.normal


class SlipState(StrEnum):
    """Whether a lasting contact slips along its surface, or sticks (rolling or resting)."""

    SLIP = "slides"
    STICK = "grips"

    __repr__ = str.__repr__


@dataclass(frozen=True)
class ContactInterval:
    """A time in which ``body`` stayed on ``partner``, sliding or gripping (rolling or resting)."""

    start: float
    end: float
    body: str
    partner: str
    mode: SlipState
    normal: Array
