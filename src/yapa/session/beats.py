"""Contacts as events in time: which of them are shown and heard, measured and simulated matched, how loud each is."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from yapa.fitting.initial.seen import ObservedTrack
from yapa.motion import Contact, Motion

BEAT_SPEED = 0.08
"""m/s of approach: softer contacts are logged, but no beat at first"""
APART = 0.03
"""s: contacts of a pair that follow each other faster are one click"""
QUIETEST = 0.08
"""loudness of the softest contact that is heard; the hardest of the clip has 1"""

Pair = frozenset[str]


@dataclass(frozen=True)
class Beat:
    """A contact seen as an event: measured and simulated, matched in order. Speeds of approach in m/s."""

    body: str
    number: int
    measured: float | None
    simulated: float | None
    measured_speed: float
    simulated_speed: float
    partner: str = ""

    @property
    def words(self) -> str:
        """What it is, when, how hard: for a tip."""
        lines = [f"contact {self.number} of {self.body}" + (f" with {self.partner}" if self.partner else "")]
        for side, time, speed in (("measured", self.measured, self.measured_speed),
                                  ("simulated", self.simulated, self.simulated_speed)):
            if time is not None:
                lines.append(f"{side} at {time:.3f} s, {speed:.2f} m/s")
        if self.measured is not None and self.simulated is not None:
            lines.append(f"{1e3 * (self.simulated - self.measured):+.0f} ms")
        return "\n".join(lines)


@dataclass(frozen=True)
class ContactChoice:
    """Which contacts are shown on the time axis and heard.

    Attributes
    ----------
    least : m/s of approach; softer ones are left out
    left_out : pairs of bodies whose contacts are left out
    """

    least: float = BEAT_SPEED
    left_out: frozenset[Pair] = frozenset()

    def takes(self, contact: Contact) -> bool:
        """Return whether a contact is shown.

        Parameters
        ----------
        contact : measured or simulated
        """
        return contact.approach > self.least and frozenset((contact.body, contact.partner)) not in self.left_out


def pairs_of(motion: Motion) -> list[tuple[str, str]]:
    """Return the pairs that meet in a motion, by name, in the order in which they first do.

    Parameters
    ----------
    motion : simulated or measured motion
    """
    return list({frozenset((c.body, c.partner)): (c.body, c.partner) for c in reversed(motion.contacts)}.values())[::-1]


def beats_of(motion: Motion, seen: Mapping[str, ObservedTrack], choice: ContactChoice = ContactChoice()) -> list[Beat]:
    """Return the contacts of every body that moves by forces, measured and simulated ones matched in their order.

    Parameters
    ----------
    motion : simulated motion
    seen : body → its track as a motion
    choice : which contacts are taken
    """
    out = []
    for body in motion.dynamic_bodies():
        mine = [c for c in motion.contacts_of(body) if choice.takes(c)]
        track = seen.get(body)
        theirs = [c for c in track.motion.contacts if choice.takes(c)] if track is not None else []
        end = track.motion.end if track is not None else 0.0
        for k in range(max(len(mine), len(theirs))):
            a = theirs[k] if k < len(theirs) else None
            b = mine[k] if k < len(mine) else None
            if a is None and track is not None and b is not None and b.time > end:
                continue
            named = b or a
            partner = "" if named is None else named.partner if named.body == body else named.body
            out.append(Beat(body, k + 1, a.time if a else None, b.time if b else None, a.approach if a else 0.0,
                            b.approach if b else 0.0, partner))
    return sorted(out, key=lambda x: x.measured if x.measured is not None else x.simulated or 0.0)


def no_hits(motion: Motion) -> str:
    """Return the words for a motion without a hit: what lies, slides or rolls touches all the same.

    Parameters
    ----------
    motion : the motion
    """
    return "nothing hits in this clip: what touches stays" if motion.contact_intervals else "nothing touches in this clip"


def nearest_beat(beats: Iterable[Beat], time: float, within: float) -> tuple[Beat, float] | None:
    """Return the beat beside a time and the moment of it that is nearer, measured or simulated; None where none is near.

    Parameters
    ----------
    beats : of the clip
    time : [s]
    within : how far away it may be [s]
    """
    moments = [(abs(at - time), beat, at) for beat in beats for at in (beat.measured, beat.simulated) if at is not None]
    away, beat, at = min(moments, key=lambda m: m[0], default=(math.inf, None, 0.0))
    return None if beat is None or away > within else (beat, at)


def clicks(motion: Motion, start: float, end: float, choice: ContactChoice) -> list[float]:
    """Return how loud the contacts of a stretch of the clip are, 0 to 1: the larger the impulse the louder, each touch once.

    Parameters
    ----------
    motion : simulated motion
    start, end : the stretch, without its start [s]
    choice : which contacts are heard
    """
    top = max((c.normal_impulse or 0.0 for c in motion.contacts if choice.takes(c)), default=0.0)
    last: dict[Pair, float] = {}
    out = []
    for c in motion.contacts:
        if not choice.takes(c):
            continue
        pair = frozenset((c.body, c.partner))
        fresh = c.time - last.get(pair, -math.inf) > APART
        last[pair] = c.time
        if fresh and start < c.time <= end and top > 0:
            out.append(max(QUIETEST, math.sqrt((c.normal_impulse or 0.0) / top)))
    return out
