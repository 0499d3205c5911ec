"""A measured track becomes a Motion: contacts between the frames, flights fitted, the rest smoothed.

What stays on its support is smoothed by local straight lines whose window is wide enough to
bring the noise of speed under 1 mm/s where the track allows; slip needs an angle and a radius.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from yapa.motion import Array, BodyInfo, Contact, ContactInterval, Motion, Trajectory
from yapa.motion.contacts import SlipState
from yapa.tracking.ballistic import MIN_FRAMES, Arc, fit_arcs, jump_times, meeting_time
from yapa.tracking.change_points import go_on, pieces
from yapa.tracking.smoothing import local_polynomials
from yapa.tracking.track_data import TrackData

UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True)
class Support:
    """The plane a body meets: its normal, its name, and n·x of the centre when touching."""

    normal: Array
    height: float
    name: str = "support"


@np.errstate(over="ignore", invalid="ignore")  # flights drawn out beyond their frames may overflow; such contacts are dropped
def measured_motion(
    track: TrackData, account: BodyInfo, support: Support | None, gravity: Array,
    partners: dict[str, Array] | None = None, stop: Callable[[], None] = go_on,
) -> Motion:
    """Return turn a track into a motion.

    Parameters
    ----------
    track : the measured track
    account : what is known of the body
    support : the plane it meets; contacts away from it are hits on something unnamed
    gravity : (3,) m/s²
    stop : is called often, and raises to stop
    partners : other bodies' places (N, 3) at the track's own times, to name sideways hits
    """
    up = support.normal if support is not None else UP
    cuts = jump_times(track, up, support.height if support is not None else None, stop)
    for attempt in range(5):
        stop()
        held = _held(track, [float(track.t[0]), *cuts, float(track.t[-1])], support)
        arcs = fit_arcs(track, cuts, gravity, held)
        refined, contacts = _refine(track, cuts, arcs, held, support, up)
        settled = len(refined) == len(cuts) and np.allclose(refined, cuts, atol=0.02 / track.rate)
        cuts = refined
        if settled or attempt == 4:
            held = _held(track, [float(track.t[0]), *cuts, float(track.t[-1])], support)
            arcs = fit_arcs(track, cuts, gravity, held, strict=True)
            final, contacts = _refine(track, cuts, arcs, held, support, up)
            cuts = final if len(final) == len(cuts) else cuts
            break
    path = _path(track, cuts, arcs, held, stop)
    edges = [float(track.t[0]), *cuts, float(track.t[-1])]
    lost = [(edges[i], edges[i + 1]) for i, arc in enumerate(arcs) if arc is None and not held[i]]
    lost = sorted(lost + _hops(track, edges, held, support))
    if lost:  # nothing that comes after can be numbered
        contacts = [c for c in contacts if c.time <= lost[0][0] + 1e-9]
    contacts = [c for c in contacts if not c.approach <= 0]  # noise that parts from what it never met
    contacts = [c for c in contacts if np.isfinite([c.time, c.approach, c.slip_before, *c.position]).all()]
    named = [_named(c, track, account, support, partners) for c in contacts]
    states = np.zeros((len(track.t), 1, 16))
    states[:, 0, :3], states[:, 0, 7:10] = path.position(track.t), path.velocity(track.t)
    states[:, 0, 3] = 1.0
    states[:, 0, 13:16], states[:, 0, 10:13] = path.rotation(track.t), path.angular_velocity(track.t)
    phases = _phases(track, account, support, cuts, held, path)
    notes = tuple(
        f"the flight from {a:.3f} s has fewer than {MIN_FRAMES} frames and is not resolved"
        for a, arc, h in zip([float(track.t[0]), *cuts], arcs, held, strict=True)
        if arc is None and not h
    )
    return Motion(
        times=track.t, states=states, bodies=(account,), gravity=gravity, contacts=named, contact_intervals=phases,
        noise=track.sigma, noise_angle=track.sigma_angle, measured=True, trajectories={account.name: path}, notes=notes,
        unresolved_intervals=tuple(lost),
    )


def _held(track: TrackData, edges: list[float], support: Support | None) -> list[bool]:
    """Whether each piece of the track stays on the support."""
    out = []
    for a, b in zip(edges, edges[1:], strict=False):
        inside = (track.t >= a) & (track.t <= b) & np.isfinite(track.x).all(axis=1)
        if support is None or inside.sum() < 3:
            out.append(False)
            continue
        height = track.x[inside] @ support.normal - support.height
        out.append(bool(np.median(np.abs(height)) < 3 * track.sigma and np.percentile(height, 90) < 5 * track.sigma))
    return out


def _hops(track: TrackData, edges: list[float], held: list[bool], support: Support | None) -> list[tuple[float, float]]:
    """Where a piece that stays on its support begins with bounces too small and fast to be flights of their own."""
    out = []
    for i, stays in enumerate(held):
        inside = np.flatnonzero((track.t >= edges[i]) & (track.t <= edges[i + 1]) & np.isfinite(track.x).all(axis=1))
        if not stays or support is None or i == 0 or len(inside) < 3:
            continue
        high = (track.x[inside] @ support.normal - support.height)[1:] > 3.5 * track.sigma
        both = np.flatnonzero(high[1:] & high[:-1])
        if len(both):
            out.append((edges[i], float(track.t[inside[both[-1] + 2]])))
    return out


def _refine(
    track: TrackData, rough: list[float], arcs: list[Arc | None], held: list[bool], support: Support | None, up: Array
) -> tuple[list[float], list[Contact]]:
    cuts: list[float] = []
    contacts: list[Contact] = []
    frame = 1.0 / track.rate
    for i, guess in enumerate(rough):
        before, after = arcs[i], arcs[i + 1]
        if before is not None and after is not None:
            jump = after.at(guess)[1][0] - before.at(guess)[1][0]
            along = up if jump @ up > 0.5 * np.linalg.norm(jump) else jump / max(float(np.linalg.norm(jump)), 1e-12)
            met = meeting_time(before, after, along, guess, 6 * frame)
            if met is None:
                continue
            t, std = met
            xb, vb = before.at(t)
            xa, va = after.at(t)
            speed_std = max(before.std(t)[1], after.std(t)[1])
            contacts.append(_contact(t, std, 0.5 * (xa[0] + xb[0]), along, vb[0], va[0], speed_std))
        elif before is not None and support is not None:
            # the last flight before the track stays on its support, or goes on unresolved
            t, std = _touchdown(before, support, guess)
            xb, vb = before.at(t)
            stays = held[i + 1]
            va = vb[0] - (vb[0] @ support.normal) * support.normal if stays else vb[0] * np.nan
            contacts.append(_contact(t, std, xb[0], support.normal, vb[0], va, before.std(t)[1]))
        else:
            hit = _local_contact(track, guess, up)
            change = float(np.hypot(hit.approach + hit.rebound, hit.slip_after - hit.slip_before))
            least = 0.3 * float(np.hypot(hit.approach, hit.slip_before)) + 12.0 / track.rate
            if held[i] and held[i + 1] and min(change, _speed_jump(track, guess)) < least:
                continue  # friction or rolling changed, or it slides back: nothing was hit
            contacts.append(hit)
            t = guess
        if (cuts and t - cuts[-1] < frame) or t >= track.t[-1]:
            contacts.pop()
            continue
        cuts.append(t)
    return cuts, contacts


def _touchdown(arc: Arc, support: Support, guess: float) -> tuple[float, float]:
    t = guess
    for _ in range(20):
        x, v = arc.at(t)
        rate = float(v[0] @ support.normal)
        if abs(rate) < 1e-6:
            break
        t -= (float(x[0] @ support.normal) - support.height) / rate
    return t, arc.std(t)[0] / max(abs(rate), 1e-6)


def _contact(t: float, std: float, place: Array, n: Array, vb: Array, va: Array, speed_std: float) -> Contact:
    approach = -float(vb @ n)
    rebound = float(va @ n)
    return Contact(
        time=float(t), body="", partner="", point=place, normal=n, approach=approach, rebound=rebound,
        slip_before=float(np.linalg.norm(vb - (vb @ n) * n)),
        slip_after=float(np.linalg.norm(va - (va @ n) * n)) if np.isfinite(va).all() else 0.0,
        normal_impulse=None, friction_impulse=None, position=place, time_std=std, speed_std=speed_std,
    )


def _local_contact(track: TrackData, guess: float, up: Array) -> Contact:
    """A hit between pieces that stay on the support: straight lines through a few frames on each side."""
    good = np.isfinite(track.x).all(axis=1)
    sides = []
    for inside in (good & (track.t < guess) & (track.t > guess - 12 / track.rate),
                   good & (track.t > guess) & (track.t < guess + 12 / track.rate)):
        tau = track.t[inside] - guess
        c = np.polyfit(tau, track.x[inside], 1) if inside.sum() > 2 else np.zeros((2, 3))
        sides.append((c[1], c[0]))
    jump = sides[1][1] - sides[0][1]
    n = jump / max(float(np.linalg.norm(jump)), 1e-12)
    noise = track.sigma * track.rate * 0.1
    return _contact(guess, 0.5 / track.rate, 0.5 * (sides[0][0] + sides[1][0]), n, sides[0][1], sides[1][1], noise)


def _speed_jump(track: TrackData, guess: float) -> float:
    """How much the speed jumps at a time, by parabolas through a few frames on each side: what turns round under friction has
    another acceleration before and after, and no jump. Without enough frames it may be any."""
    good = np.isfinite(track.x).all(axis=1)
    speeds = []
    for inside in (good & (track.t < guess) & (track.t > guess - 12 / track.rate),
                   good & (track.t > guess) & (track.t < guess + 12 / track.rate)):
        if inside.sum() < 9:
            return np.inf
        speeds.append(np.polyfit(track.t[inside] - guess, track.x[inside], 2)[1])
    return float(np.linalg.norm(speeds[1] - speeds[0]))


def _named(
    c: Contact, track: TrackData, account: BodyInfo, support: Support | None, partners: dict[str, Array] | None
) -> Contact:
    partner = "unknown"
    if support is not None and abs(float(c.position @ support.normal) - support.height) < 0.02 + 20 * track.sigma and (
        float(c.normal @ support.normal) > 0.7
    ):
        partner = support.name
    elif partners:
        i = int(np.argmin(np.abs(track.t - c.time)))
        partner = min(partners, key=lambda name: float(np.linalg.norm(partners[name][i] - c.position)))
    reach = account.bounding_radius if account.kind == "sphere" else 0.0
    return replace(c, body=account.name, partner=partner, point=c.position - reach * c.normal)


def _window(track: TrackData, wanted: float = 0.001) -> int:
    """Frames of an odd window whose straight line has a slope known to ``wanted`` m/s, within reason."""
    w = 5
    n = len(track.t)
    while w < min(n // 6, 81) and track.sigma * track.rate * np.sqrt(12.0 / w**3) > wanted:
        w += 2
    return min(w | 1, n if n % 2 else n - 1)


def _smooth(t: Array, x: Array, w: int, order: int = 2) -> tuple[Array, Array]:
    """Values and slopes of local parabolas through w frames on an even grid of the same length."""
    even = np.linspace(t[0], t[-1], len(t))
    cols = np.column_stack([np.interp(even, t[np.isfinite(c)], c[np.isfinite(c)]) if np.isfinite(c).any() else np.zeros(len(t))
                            for c in x.T])  # a column that is gaps throughout says nothing
    w = min(w, len(t) if len(t) % 2 else len(t) - 1)
    if w < 3:
        return x.copy(), np.zeros_like(x)
    order = min(order, w - 1)
    flat = min(w, len(t) // 2)
    dt = float(even[1] - even[0])
    value, slope = local_polynomials(cols, w, order, dt)
    if flat > 4:  # at the very end a straight line is less noisy than a parabola's edge
        tail = np.polyfit(even[-flat:], cols[-flat:], 1)[0]
        slope[-(flat // 2):] = tail
    return (np.column_stack([np.interp(t, even, c) for c in value.T]),
            np.column_stack([np.interp(t, even, c) for c in slope.T]))


def _by_parabolas(track: TrackData, wide: NDArray[np.bool_], stop: Callable[[], None]) -> tuple[Array, Array]:
    """Places and velocities of a piece on its support, from the best division into parabolas; smoothed where they are short."""
    t, x = track.t[wide], track.x[wide]
    xs, vs = _smooth(t, x, 7)
    good = np.isfinite(x).all(axis=1)
    shown = np.flatnonzero(track.shown)
    starts = pieces(t[good], x[good][:, shown], track.sigma, stop)
    for a, b in zip(starts, [*starts[1:], int(good.sum())], strict=True):
        if b - a < 6:
            continue
        rows = np.flatnonzero(good)[a:b]
        span = np.arange(rows[0], rows[-1] + 1)
        tau = t - t[rows].mean()
        for c in range(3):
            curve = np.polyfit(tau[rows], x[rows, c], 2)
            xs[span, c], vs[span, c] = np.polyval(curve, tau[span]), np.polyval(np.polyder(curve), tau[span])
    return xs, vs


def _path(track: TrackData, cuts: list[float], arcs: list[Arc | None], held: list[bool], stop: Callable[[], None]) -> Trajectory:
    edges = [float(track.t[0]), *cuts, float(track.t[-1])]
    knots: list[tuple[Array, Array, Array]] = []
    for i, arc in enumerate(arcs):
        a, b = edges[i], edges[i + 1]
        inside = (track.t > a + 1e-9) & (track.t < b - 1e-9)
        times = np.concatenate([[a], track.t[inside], [b]])
        if arc is not None:
            x, v = arc.at(times)
        else:
            wide = (track.t >= a - 1e-9) & (track.t <= b + 1e-9)
            if wide.sum() >= 5:
                if held[i]:
                    xs, vs = _by_parabolas(track, wide, stop)
                else:
                    xs, vs = _smooth(track.t[wide], track.x[wide], 5)
                x = np.column_stack([np.interp(times, track.t[wide], c) for c in xs.T])
                v = np.column_stack([np.interp(times, track.t[wide], c) for c in vs.T])
            else:
                seen = [np.isfinite(c) for c in track.x.T]
                x = np.column_stack([np.interp(times, track.t[s], c[s]) for c, s in zip(track.x.T, seen, strict=True)])
                v = np.gradient(x, times, axis=0) if len(times) > 2 and np.diff(times).min() > 0 else np.zeros_like(x)
        knots.append((times, x, v))
    t = np.concatenate([k[0] if i == 0 else k[0][1:] for i, k in enumerate(knots)])
    x = np.concatenate([k[1] if i == 0 else k[1][1:] for i, k in enumerate(knots)])
    arriving = np.concatenate([k[2] if i == 0 else k[2][1:] for i, k in enumerate(knots)])
    leaving = arriving.copy()
    at = 0
    for i in range(len(knots) - 1):
        at += len(knots[i][0]) - 1
        leaving[at] = knots[i + 1][2][0]
    rotation, spin = np.zeros_like(x), np.zeros_like(x)
    if track.angle is not None:
        rotation[:, 1], spin[:, 1], after = _turning(track, edges, arcs, [len(k[0]) for k in knots], t, stop)
        spin_leaving = np.column_stack([np.zeros(len(t)), after, np.zeros(len(t))])
    else:
        spin_leaving = spin
    order = np.concatenate([[True], np.diff(t) > 0])
    return Trajectory(t[order], x[order], arriving[order], leaving[order], rotation[order], spin[order], spin_leaving[order])


def _turning(
    track: TrackData, edges: list[float], arcs: list[Arc | None], counts: list[int], t: Array, stop: Callable[[], None],
) -> tuple[Array, Array, Array]:
    """Turn since the start, and spin arriving and leaving at the knots: even in a flight, smoothed elsewhere."""
    assert track.angle is not None
    rotation, arriving, leaving = np.zeros(len(t)), np.zeros(len(t)), np.zeros(len(t))
    zero: float | None = None
    first = 0
    value: Array
    slope: Array
    for i, count in enumerate(counts):
        rows = slice(first, first + count)
        inside = (track.t >= edges[i] - 1e-9) & (track.t <= edges[i + 1] + 1e-9) & np.isfinite(track.angle)
        times, angles = track.t[inside], track.angle[inside]
        if inside.sum() < 3:
            value = np.interp(t[rows], track.t, track.angle)
            slope = np.full(count, leaving[first])
        elif arcs[i] is not None:
            line = np.polyfit(times - edges[i], angles, 1)
            value, slope = np.asarray(np.polyval(line, t[rows] - edges[i]), dtype=float), np.full(count, line[0])
        else:
            smooth, slopes = _smooth(times, angles[:, None], 7)
            starts = pieces(times, angles[:, None], track.sigma_angle, stop)
            for a, b in zip(starts, [*starts[1:], len(times)], strict=True):
                if b - a >= 6:
                    curve = np.polyfit(times[a:b] - times[a], angles[a:b], 2)
                    smooth[a:b, 0], slopes[a:b, 0] = (np.polyval(c, times[a:b] - times[a]) for c in (curve, np.polyder(curve)))
            value, slope = np.interp(t[rows], times, smooth[:, 0]), np.interp(t[rows], times, slopes[:, 0])
        zero = value[0] if zero is None else zero
        rotation[rows] = value - zero
        start = first if i == 0 else first + 1
        arriving[start : first + count], leaving[rows] = slope[start - first :], slope
        if i == 0:
            arriving[0] = slope[0]
        first += count - 1
    return rotation, arriving, leaving


def _without_short_runs(flags: NDArray[np.bool_], least: int) -> NDArray[np.bool_]:
    """Runs of true that are shorter than ``least`` are noise."""
    out = flags.copy()
    edges = np.flatnonzero(np.diff(np.concatenate([[0], flags.astype(int), [0]])))
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        if b - a < least:
            out[a:b] = False
    return out


def _phases(
    track: TrackData, account: BodyInfo, support: Support | None, cuts: list[float], held: list[bool], path: Trajectory
) -> list[ContactInterval]:
    """Sliding and gripping on the support: slip above 3 of its own σ slides, where an angle tells it."""
    if support is None:
        return []
    edges = [float(track.t[0]), *cuts, float(track.t[-1])]
    out: list[ContactInterval] = []
    for i, stays in enumerate(held):
        if not stays:
            continue
        a, b = edges[i], edges[i + 1]
        t = track.t[(track.t >= a) & (track.t <= b)]
        v = path.velocity(t)
        if account.kind == "sphere" and track.angle is not None:
            slip_v = v - account.bounding_radius * np.cross(path.angular_velocity(t), support.normal)
            noise = np.hypot(track.sigma, account.bounding_radius * track.sigma_angle) * track.rate * np.sqrt(12.0 / 7**3)
        else:
            slip_v = v
            noise = track.sigma * track.rate * np.sqrt(12.0 / _window(track) ** 3)
        slides = np.linalg.norm(slip_v, axis=1) > max(0.005, 3 * noise)
        if len(slides) >= 5:  # a running majority of five keeps noise from cutting phases apart
            padded = np.pad(slides.astype(int), 2, mode="edge")
            slides = np.convolve(padded, np.ones(5), mode="valid") >= 3
            slides = _without_short_runs(slides, 6)
        start = 0
        for k in range(1, len(t) + 1):
            if k == len(t) or slides[k] != slides[start]:
                end = float(t[k]) if k < len(t) else b
                out.append(ContactInterval(float(t[start]), end, account.name, support.name,
                                 SlipState.SLIP if slides[start] else SlipState.STICK, support.normal))
                start = k
    return out
