"""Bounces: contacts whose rebound rises at least 5 mm (on a track at least 5σ), counted from 1."""

from __future__ import annotations

from dataclasses import dataclass
from math import log, sqrt
from typing import cast

import numpy as np

from yapa.engine.compiled import entries
from yapa.engine.kernels.layout import LEAST_RISE
from yapa.engine.tables import hand_over
from yapa.motion import Array, Contact, Motion
from yapa.outcomes.value import OutcomeValue, absent


@dataclass(slots=True)
class Bounce:
    """A contact with what came after it: rise of the centre [m], its time, and the rebound speed. Not to be changed.

    ``steep`` is how far its normal points up, from -1 to 1.
    """

    contact: Contact
    rise: float
    top_time: float
    speed: float
    counted: bool
    place: Array
    steep: float

    @property
    def rises(self) -> bool:
        """Whether the contact sends the body up."""
        return self.steep > 0.1


def up_of(motion: Motion) -> Array:
    """The direction against gravity."""
    key = ("up", "")
    if key not in motion.memo:
        size = float(np.linalg.norm(motion.gravity))
        motion.memo[key] = -motion.gravity / size if size > 0 else np.array([0.0, 0.0, 1.0])
    return cast("Array", motion.memo[key])


def threshold(motion: Motion) -> float:
    """The least rise of a bounce on this motion [m]."""
    return max(LEAST_RISE, 5 * motion.noise)


def rebounds(motion: Motion, body: str) -> list[Bounce]:
    """Every contact of a body with the rise that follows it; ``counted`` marks the bounces."""
    key = ("rebounds", body)
    if key not in motion.memo:
        motion.memo[key] = _rebounds(motion, body)
    return cast("list[Bounce]", motion.memo[key])


def _rebounds(motion: Motion, body: str) -> list[Bounce]:
    up = up_of(motion)
    contacts = motion.contacts_of(body)
    path = motion.path(body)
    least = threshold(motion)
    out: list[Bounce] = []
    if not contacts:
        return out
    seen = [c.seen_from(body) for c in contacts]
    upward = np.array(seen) @ up
    curve = np.column_stack([path.t, path.x @ up, path.arriving @ up, path.leaving @ up])
    bare = np.column_stack([[c.time for c in contacts], upward, [c.rebound for c in contacts]])
    told = np.zeros((len(contacts), 4))
    hand_over(entries().climb_at, (curve, bare, np.array([[motion.end, least]]), told))
    steeps = upward[:, 1].tolist()
    for contact, (place, _), steep, (rise, when, speed, counted) in zip(contacts, seen, steeps, told.tolist(), strict=True):
        out.append(Bounce(contact, rise, when, speed, counted == 1.0, place, steep))
    return out


def bounces(motion: Motion, body: str) -> list[Bounce]:
    """The bounces of a body in order; number k is element k-1."""
    return [b for b in rebounds(motion, body) if b.counted]


def shortfall(motion: Motion, speed: float) -> float:
    """How far a rebound speed is from counting: max(0, ln(1.02 v_threshold / v))."""
    g = float(np.linalg.norm(motion.gravity)) or 1.0
    return max(0.0, log(1.02 * sqrt(2 * g * threshold(motion)) / max(speed, 1e-6)))


def excess(motion: Motion, speed: float) -> float:
    """How far a rebound speed is above not counting: max(0, ln(1.02 v / v_threshold))."""
    g = float(np.linalg.norm(motion.gravity)) or 1.0
    return max(0.0, log(1.02 * max(speed, 1e-6) / sqrt(2 * g * threshold(motion))))


def number_of_bounces(motion: Motion, body: str, index: int | None = None) -> OutcomeValue:
    """How many bounces there were."""
    return OutcomeValue(float(len(bounces(motion, body))), 0.0)


def apex(motion: Motion, body: str, index: int | None) -> OutcomeValue:
    """Apex k [m]: rise of the centre, against gravity, above its place at bounce k, before bounce k+1."""
    k = index or 1
    counted = bounces(motion, body)
    if len(counted) >= k:
        b = counted[k - 1]
        after = [c.time for c in motion.contacts_of(body) if c.time > b.contact.time]
        if b.top_time >= motion.end - 1e-9 and not after:
            return absent(f"the motion ends while bounce {k} still rises", b.rise, 0.0)
        std = 0.0
        if motion.measured:
            g = float(np.linalg.norm(motion.gravity)) or 1.0
            std = float(np.hypot(b.contact.speed_std * b.speed / g, motion.noise / 3))
        return OutcomeValue(b.rise, std)
    return absent(f"there is no bounce {k}; there are {len(counted)}", *_virtual(motion, body, k))


@dataclass(frozen=True)
class Rebound:
    """A rebound that was, or that would come if the series went on: speed [m/s], time [s], and where the centre is."""

    speed: float
    time: float
    place: Array


def rebound_at(motion: Motion, body: str, k: int) -> Rebound | None:
    """The k-th contact that sends the body up, by itself or by the ratio and the flights of the last one; None without any."""
    up = up_of(motion)
    rising = [b for b in rebounds(motion, body) if b.rises]
    if len(rising) >= k:
        b = rising[k - 1]
        return Rebound(b.speed, b.contact.time, b.place)
    if not rising:
        return None
    last = rising[-1]
    kept = last.contact.rebound / max(last.contact.approach, 1e-9)
    ratio = 0.5 if np.isnan(kept) else min(0.95, max(0.05, kept))
    g = float(np.linalg.norm(motion.gravity)) or 1.0
    missing = k - len(rising)
    flown = 2 * last.speed / g * (1 - ratio**missing) / (1 - ratio)
    v = motion.path(body).velocity(np.array([last.contact.time]))[0]
    return Rebound(last.speed * ratio**missing, last.contact.time + flown, last.place + (v - (v @ up) * up) * flown)


def short_of(motion: Motion, body: str, k: int) -> float:
    """How far bounce k is from happening: short of speed (in its logarithm), or later than the clip (in its length)."""
    r = rebound_at(motion, body, k)
    if r is None:
        return shortfall(motion, 1e-3)
    return shortfall(motion, r.speed) + max(0.0, r.time / motion.end - 0.99 if r.time > motion.end else 0.0)


def _virtual(motion: Motion, body: str, k: int) -> tuple[float, float]:
    """Rise and shortfall of the k-th rebound below the counting threshold, by itself or by the series' ratio."""
    r = rebound_at(motion, body, k)
    g = float(np.linalg.norm(motion.gravity)) or 1.0
    return (0.0 if r is None else r.speed**2 / (2 * g)), short_of(motion, body, k)


def landings(motion: Motion, body: str) -> list[Bounce]:
    """The contacts that a body comes down on: the first, every bounce, and what ends the flight of a bounce without being one."""
    hits = [b for b in rebounds(motion, body) if b.rises]
    return [b for i, b in enumerate(hits) if i == 0 or b.counted or hits[i - 1].counted]


def landing(motion: Motion, body: str, index: int | None) -> OutcomeValue:
    """Landing k [m]: horizontal distance from the start to where the body comes down for the k-th time."""
    k = index or 1
    up = up_of(motion)
    start = motion.start_of(body)

    def away(place: Array) -> float:
        d = place - start
        return float(np.linalg.norm(d - (d @ up) * up))

    counted = landings(motion, body)
    if len(counted) >= k:
        b = counted[k - 1]
        std = motion.noise / 2 + 1.5 * b.contact.time_std * b.contact.slip_before if motion.measured else 0.0
        return OutcomeValue(away(b.place), std)
    if counted:
        would = rebound_at(motion, body, k)
        assert would is not None
        return absent(f"there is no landing {k}; there are {len(counted)}", away(would.place), short_of(motion, body, k))
    end = motion.path(body).place(np.array([motion.end]))[0]
    return absent("it never lands", away(end), 1.0)


def _landing_along(axis: int, motion: Motion, body: str, k: int) -> OutcomeValue:
    """Place of landing k along an axis [m]."""
    far, counted = landing(motion, body, k), landings(motion, body)
    if len(counted) >= k:
        return OutcomeValue(float(counted[k - 1].place[axis]), far.std)
    would = rebound_at(motion, body, k)
    place = would.place if would is not None else motion.path(body).place(np.array([motion.end]))[0]
    return absent(far.missing or "", float(place[axis]), far.shortfall)


def landing_x(motion: Motion, body: str, index: int | None) -> OutcomeValue:
    """Where along x landing k is [m]."""
    return _landing_along(0, motion, body, index or 1)


def landing_y(motion: Motion, body: str, index: int | None) -> OutcomeValue:
    """Where along y landing k is [m]."""
    return _landing_along(1, motion, body, index or 1)


def bounce_time(motion: Motion, body: str, index: int | None) -> OutcomeValue:
    """Time of bounce k [s]."""
    k, counted = index or 1, bounces(motion, body)
    if len(counted) >= k:
        return OutcomeValue(counted[k - 1].contact.time, counted[k - 1].contact.time_std)
    would = rebound_at(motion, body, k)
    when = motion.end if would is None else would.time
    return absent(f"there is no bounce {k}; there are {len(counted)}", when, short_of(motion, body, k))


def apex_ratio(motion: Motion, body: str, index: int | None) -> OutcomeValue:
    """Rise after bounce k over that after bounce k - 1; after bounce 1, over the height fallen."""
    k = index or 1
    high = apex(motion, body, k)
    if k > 1:
        low = apex(motion, body, k - 1)
        base, std = low.value, low.std
    else:
        first = rebounds(motion, body)
        base, std = (_fallen(motion, body, first[0]), motion.noise) if first else (None, None)
    if high.value is None or not base:
        return absent(high.missing or f"there is no bounce {max(k - 1, 1)}", 0.0, high.shortfall or 1.0)
    ratio = high.value / base
    return OutcomeValue(ratio, float(np.hypot(high.std or 0.0, ratio * (std or 0.0)) / base))


def _fallen(motion: Motion, body: str, first: Bounce) -> float:
    up = up_of(motion)
    top, _ = motion.path(body).highest(up, float(motion.times[0]), first.contact.time)
    return top - float(first.place @ up)
