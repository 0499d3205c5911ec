"""Fits that run: progress, stopping, mixed evidence, and the same bits again."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Samples, Target, Track, Unknown, with_numbers
from yapa.engine import simulate
from yapa.fitting import Cancel, fit
from yapa.outcomes import read

E, VX, VZ = "surfaces.both.restitution", "bodies.b.velocity.x", "bodies.b.velocity.z"
TRUTH = {E: 0.7, VX: 1.4, VZ: 0.6}


def recorded(until=2.0, seed=1):
    base = scene({"b": ball(0.04, mass=0.2, position=(0, 0, 1.04)), "f": floor()}, duration=2.0, restitution=0.5, friction=0.3)
    motion = simulate(with_numbers(base, TRUTH))
    t = motion.times[motion.times <= until]
    x = motion.trajectory("b").position(t) + np.random.default_rng(seed).normal(size=(len(t), 3)) * 1e-3
    track = Track(name="camera", body="b", sigma=1e-3,
                  samples=Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()), z=tuple(x[:, 2].tolist())))
    free = tuple(Unknown(path=p, low=a, high=b) for p, a, b in ((E, 0.2, 0.95), (VX, -4.0, 4.0), (VZ, -4.0, 4.0)))
    return base.model_copy(update={"tracks": (track,), "unknowns": free}), motion


def test_progress_tells_phases_in_order_with_a_misfit_that_does_not_rise():
    case, _ = recorded()
    seen = []
    result = fit(case, seen.append)
    phases = list(dict.fromkeys(p.phase for p in seen))
    assert phases[0] == "reading the track"
    assert phases[-2:] == ["how sure", "what explains it"]
    assert phases.index("refining") < phases.index("outliers")
    counts = [p.simulations for p in seen]
    assert counts == sorted(counts)
    misfits = [p.misfit for p in seen if p.misfit is not None and p.phase == "refining"]
    assert all(b <= a + 1e-9 for a, b in zip(misfits, misfits[1:], strict=False))
    assert set(seen[-1].values) == set(TRUTH)
    assert result.simulations >= counts[-1]


@pytest.mark.parametrize("after", [1, 3, 6])
def test_a_stop_keeps_the_best_so_far_wherever_it_comes(after):
    case, _ = recorded()
    cancel = Cancel()
    best = []

    def progress(p):
        best.append(p)
        if p.simulations >= after:
            cancel.set()

    result = fit(case, progress, cancel)
    assert result.stopped == "cancelled"
    assert set(result.values) == set(TRUTH)
    told = [p for p in best if p.values]
    if told:
        assert result.values[E] == pytest.approx(told[-1].values[E], abs=0.05)


def test_a_short_track_and_a_stopwatch_are_fitted_together():
    """The track ends before the second bounce; the wish for a late landing tells the launch from it."""
    case, motion = recorded(until=0.75)
    late = read(motion, "landing", "b", 3).value
    alone = fit(case).estimates[E]
    wish = Target(outcome="landing", index=3, value=late, tolerance=0.002)
    both = fit(case.model_copy(update={"targets": (wish,)}))
    assert both.targets[0].met
    assert both.misfit < 1.2
    assert both.estimates[E].value == pytest.approx(0.7, abs=4 * both.estimates[E].std)
    assert both.estimates[E].std < alone.std


def test_evidence_at_odds_is_told_as_a_missed_target():
    case, motion = recorded()
    late = read(motion, "landing", "b", 3).value
    result = fit(case.model_copy(update={"targets": (Target(outcome="landing", index=3, value=late + 0.5, tolerance=0.05),)}))
    assert not result.targets[0].met
    assert any("is missed" in f for f in result.findings)


def test_the_same_bits_come_with_any_executor_of_threads():
    case, _ = recorded()
    with ThreadPoolExecutor(3) as pool:
        results = [fit(case), fit(case, threads=1), fit(case, executor=pool)]
    assert results[0].values == results[1].values == results[2].values
    assert len({r.simulations for r in results}) == 1


def test_a_stop_is_heard_while_the_track_is_read_and_inside_a_simulation():
    case, _ = recorded()
    cancel = Cancel()
    cancel.set()
    result = fit(case, None, cancel)  # before the first frame is looked at
    assert result.stopped == "cancelled"
    assert result.simulations == 0
    assert all(not e.determined for e in result.estimates.values())
    from yapa.tracking.change_points import pieces

    asked = []

    def stop():
        asked.append(1)
        if len(asked) > 20:
            raise KeyboardInterrupt

    t = np.arange(200) / 120
    with pytest.raises(KeyboardInterrupt):
        pieces(t, np.column_stack([t, t]), 1e-3, stop)
    assert len(asked) == 21
