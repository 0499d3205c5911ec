"""Bounces: contacts whose rebound rises at least 5 mm (on a track at least 5σ), counted from 1."""

from __future__ import annotations

from dataclasses import dataclass
from math import log, sqrt
from typing import cast

import numpy as np

from yapa.case.evidence import Target
from yapa.motion import Array, Contact, Motion
from yapa.motion.definitions import MIN_BOUNCE_RISE, MIN_BOUNCE_SLOPE
from yapa.outcomes.apex_search import apex_after_contacts
from yapa.outcomes.query import OutcomeQuery
from yapa.outcomes.registry import outcome
from yapa.outcomes.target_form import SHORTFALL_TOLERANCE, SLACK, ReadTarget, ScalarForm, wanted_range
from yapa.outcomes.value import OutcomeValue, missing_event


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
        return self.steep > MIN_BOUNCE_SLOPE


def up_of(motion: Motion) -> Array:
    """Return the direction against gravity.

    Parameters
    ----------
    motion : simulated or measured motion
    """
    key = ("up", "")
    if key not in motion.cache:
        size = float(np.linalg.norm(motion.gravity))
        motion.cache[key] = -motion.gravity / size if size > 0 else np.array([0.0, 0.0, 1.0])
    return cast("Array", motion.cache[key])


def threshold(motion: Motion) -> float:
    """Return the least rise of a bounce on this motion [m].

    Parameters
    ----------
    motion : simulated or measured motion
    """
    return max(MIN_BOUNCE_RISE, 5 * motion.noise)


def rebounds(motion: Motion, body: str) -> list[Bounce]:
    """Return every contact of a body with the rise that follows it; ``counted`` marks the bounces.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    key = ("rebounds", body)
    if key not in motion.cache:
        motion.cache[key] = _rebounds(motion, body)
    return cast("list[Bounce]", motion.cache[key])


def _rebounds(motion: Motion, body: str) -> list[Bounce]:
    up = up_of(motion)
    contacts = motion.contacts_of(body)
    path = motion.trajectory(body)
    least = threshold(motion)
    out: list[Bounce] = []
    if not contacts:
        return out
    seen = [c.seen_from(body) for c in contacts]
    upward = np.array(seen) @ up
    curve = np.column_stack([path.t, path.x @ up, path.velocity_before @ up, path.velocity_after @ up])
    bare = np.column_stack([[c.time for c in contacts], upward, [c.rebound for c in contacts]])
    steeps = upward[:, 1].tolist()
    for contact, (place, _), steep, (rise, when, speed) in zip(contacts, seen, steeps, apex_after_contacts(curve, bare, motion.end),
                                                               strict=True):
        out.append(Bounce(contact, rise, when, speed, rise >= least and steep > MIN_BOUNCE_SLOPE, place, steep))
    return out


def bounces(motion: Motion, body: str) -> list[Bounce]:
    """Return the bounces of a body in order; number k is element k-1.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    return [b for b in rebounds(motion, body) if b.counted]


def shortfall(motion: Motion, speed: float) -> float:
    """Return how far a rebound speed is from counting: max(0, ln(1.02 v_threshold / v)).

    Parameters
    ----------
    motion : simulated or measured motion
    speed : [m/s]
    """
    g = float(np.linalg.norm(motion.gravity)) or 1.0
    return max(0.0, log(1.02 * sqrt(2 * g * threshold(motion)) / max(speed, 1e-6)))


def excess(motion: Motion, speed: float) -> float:
    """Return how far a rebound speed is above not counting: max(0, ln(1.02 v / v_threshold)).

    Parameters
    ----------
    motion : simulated or measured motion
    speed : [m/s]
    """
    g = float(np.linalg.norm(motion.gravity)) or 1.0
    return max(0.0, log(1.02 * max(speed, 1e-6) / sqrt(2 * g * threshold(motion))))


def count_bounces(motion: Motion, body: str) -> int:
    """Return how many bounces there were.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    return len(bounces(motion, body))


@outcome("apex", "m", "how high it rises after bounce k, above its place at that bounce",
         required=("index",), count=count_bounces, first_look=True)
def apex(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Apex k [m]: rise of the centre, against gravity, above its place at bounce k, before bounce k+1."""
    k = query.k
    counted = bounces(motion, body)
    if len(counted) >= k:
        b = counted[k - 1]
        after = [c.time for c in motion.contacts_of(body) if c.time > b.contact.time]
        if b.top_time >= motion.end - 1e-9 and not after:
            return missing_event(f"the motion ends while bounce {k} still rises", b.rise, 0.0)
        std = 0.0
        if motion.measured:
            g = float(np.linalg.norm(motion.gravity)) or 1.0
            std = float(np.hypot(b.contact.speed_std * b.speed / g, motion.noise / 3))
        return OutcomeValue(b.rise, std)
    return missing_event(f"there is no bounce {k}; there are {len(counted)}", *_virtual(motion, body, k))


@dataclass(frozen=True)
class Rebound:
    """A rebound that was, or that would come if the series went on: speed [m/s], time [s], and where the centre is."""

    speed: float
    time: float
    place: Array


def rebound_at(motion: Motion, body: str, k: int) -> Rebound | None:
    """Return the k-th contact that sends the body up, by itself or by the ratio and the flights of the last one; None without any.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    k : number of the rebound, from 1
    """
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
    v = motion.trajectory(body).velocity(np.array([last.contact.time]))[0]
    return Rebound(last.speed * ratio**missing, last.contact.time + flown, last.place + (v - (v @ up) * up) * flown)


def short_of(motion: Motion, body: str, k: int) -> float:
    """Return how far bounce k is from happening: short of speed (in its logarithm), or later than the clip (in its length).

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    k : number of the bounce, from 1
    """
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
    """Return the contacts that a body comes down on: the first, every bounce, and what ends the flight of a bounce without being
    one.

    Parameters
    ----------
    motion : simulated or measured motion
    body : name of the body
    """
    hits = [b for b in rebounds(motion, body) if b.rises]
    return [b for i, b in enumerate(hits) if i == 0 or b.counted or hits[i - 1].counted]


@outcome("apex ratio", "", "rise after bounce k over that after the bounce before it", required=("index",), count=count_bounces)
def apex_ratio(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Rise after bounce k over that after bounce k - 1; after bounce 1, over the height fallen."""
    k = query.k
    high = apex(motion, body, OutcomeQuery(k))
    if k > 1:
        low = apex(motion, body, OutcomeQuery(k - 1))
        base, std = low.value, low.std
    else:
        first = rebounds(motion, body)
        base, std = (_fallen(motion, body, first[0]), motion.noise) if first else (None, None)
    if high.value is None or not base:
        return missing_event(high.missing or f"there is no bounce {max(k - 1, 1)}", 0.0, high.shortfall or 1.0)
    ratio = high.value / base
    return OutcomeValue(ratio, float(np.hypot(high.std or 0.0, ratio * (std or 0.0)) / base))


def _fallen(motion: Motion, body: str, first: Bounce) -> float:
    up = up_of(motion)
    top, _ = motion.trajectory(body).maximum_along(up, float(motion.times[0]), first.contact.time)
    return top - float(first.place @ up)


class BounceCount(ScalarForm):
    """Two hinges: the last bounce wanted is to count, one more is not to."""

    def residuals(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> Array:
        """See :class:`TargetForm`."""
        low, high = wanted_range(target)
        below = above = 0.0
        if np.isfinite(low) and low > 0:
            below = short_of(motion, body, int(np.ceil(low - 1e-9)))
        if np.isfinite(high):
            more = rebound_at(motion, body, int(np.floor(high + 1e-9)) + 1)
            above = 0.0 if more is None or more.time > motion.end else excess(motion, more.speed)
        return np.array([below, above]) / SHORTFALL_TOLERANCE

    def slack(self, motion: Motion, target: Target, body: str, read: ReadTarget) -> tuple[Array, Array]:
        """See :class:`TargetForm`."""
        return np.zeros(0), SLACK - np.abs(self.residuals(motion, target, body, read))

    def acceptance(self, target: Target) -> Array:
        """See :class:`TargetForm`."""
        return np.full(2, 0.5)


@outcome("bounces", "", "how many contacts send it up by at least 5 mm",
         integer=True, first_look=True, forms=dict.fromkeys(("equal", "within", "at least", "at most"), BounceCount()))
def number_of_bounces(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """How many bounces there were."""
    return OutcomeValue(float(len(bounces(motion, body))), 0.0)


@outcome("bounce time", "s", "when bounce k happens", required=("index",), count=count_bounces)
def bounce_time(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Time of bounce k [s]."""
    k, counted = query.k, bounces(motion, body)
    if len(counted) >= k:
        return OutcomeValue(counted[k - 1].contact.time, counted[k - 1].contact.time_std)
    would = rebound_at(motion, body, k)
    when = motion.end if would is None else would.time
    return missing_event(f"there is no bounce {k}; there are {len(counted)}", when, short_of(motion, body, k))


@outcome("landing", "m", "how far from its start landing k is, horizontally",
         required=("index",), count=count_bounces, first_look=True)
def landing(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Landing k [m]: horizontal distance from the start to where the body comes down for the k-th time."""
    k = query.k
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
        return missing_event(f"there is no landing {k}; there are {len(counted)}", away(would.place), short_of(motion, body, k))
    end = motion.trajectory(body).position(np.array([motion.end]))[0]
    return missing_event("it never lands", away(end), 1.0)


def _landing_along(axis: int, motion: Motion, body: str, k: int) -> OutcomeValue:
    """Place of landing k along an axis [m]."""
    far, counted = landing(motion, body, OutcomeQuery(k)), landings(motion, body)
    if len(counted) >= k:
        return OutcomeValue(float(counted[k - 1].place[axis]), far.std)
    would = rebound_at(motion, body, k)
    place = would.place if would is not None else motion.trajectory(body).position(np.array([motion.end]))[0]
    return missing_event(far.missing or "", float(place[axis]), far.shortfall)


@outcome("landing x", "m", "where along x landing k is", required=("index",), count=count_bounces)
def landing_x(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Where along x landing k is [m]."""
    return _landing_along(0, motion, body, query.k)


@outcome("landing y", "m", "where along y landing k is", required=("index",), count=count_bounces)
def landing_y(motion: Motion, body: str, query: OutcomeQuery) -> OutcomeValue:
    """Where along y landing k is [m]."""
    return _landing_along(1, motion, body, query.k)
