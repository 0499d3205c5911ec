"""What a block of runs tells without a motion being made: the same as its motions say, and climbs against a fine search."""

from __future__ import annotations

import json
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor

import numpy as np
import pytest
from benchmarks.scenes import G, ball, crate_on_slope, floor, scene
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.test_trajectory import some_curve
from yapa.case import Body, Plane, Sphere, Stepped, Surface, Target
from yapa.engine import simulate
from yapa.engine.batch_summary import summarise_batch, supports_batch
from yapa.engine.kernels import layout as L
from yapa.engine.kernels.summary.event_summary import climb_after_hits
from yapa.engine.runner import Program
from yapa.fitting import Cancel
from yapa.fitting.explore.sweep import Axis, sweep
from yapa.formats.target_text import parse_target
from yapa.motion.batch_summary import HIT, RUN
from yapa.outcomes import read_target
from yapa.outcomes.apex_search import apex_after_contacts
from yapa.outcomes.batch import BATCH_OUTCOMES, has_batch_form

E, MU, Z, VX = "surfaces.both.restitution", "surfaces.both.friction", "bodies.b.position.z", "bodies.b.velocity.x"


def climbed(path, hits, end=None, least=0.005):
    """Rise, time of the top, speed, counted, for hits of (time, steep, rebound) along a curve."""
    curve = np.column_stack([path.t, path.x[:, 2], path.velocity_before[:, 2], path.velocity_after[:, 2]])
    heights = path.position(np.array([h[0] for h in hits]))[:, 2]
    bare = np.array([[t, z, steep, rebound] for (t, steep, rebound), z in zip(hits, heights, strict=True)])
    out, until = np.zeros((len(hits), 4)), path.t[-1] if end is None else end
    climb_after_hits.host(len(curve), curve, len(bare), bare, until, least, 0.1, out)
    assert out[:, :3].tolist() == [list(row) for row in apex_after_contacts(curve, bare, until)]
    return out, heights


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 2**31))
@example(26121856)
def test_the_top_after_a_hit_is_the_highest_place_where_the_curve_turns_down(seed):
    path = some_curve(seed)
    rng = np.random.default_rng(seed + 1)
    times = np.sort(rng.uniform(path.t[0], path.t[-1], 4))
    told, heights = climbed(path, [(t, 1.0, 1.0) for t in times])
    for (rise, when, speed, counted), t, until, low in zip(told, times, [*times[1:], path.t[-1]], heights, strict=True):
        assert speed == 1.0
        assert counted == (rise >= 0.005)
        fine = np.linspace(t, until, 20001)
        z = path.position(fine)[:, 2]
        turns = (path.velocity_after[:-1, 2] > 0) & (path.velocity_before[1:, 2] < 0)
        cells = np.clip(np.searchsorted(path.t, fine, side="right") - 1, 0, len(turns) - 1)
        v = path.velocity(fine)[:, 2]
        crosses = np.append((v[:-1] > 0) & (v[1:] <= 0) & (cells[:-1] == cells[1:]), False)
        peak = turns[cells] & crosses
        if t < when < until:  # a top, not the hit itself nor the end of the clip
            assert path.velocity(np.array([when]))[0, 2] == pytest.approx(0.0, abs=1e-6)
            assert max(0.0, path.position(np.array([when]))[0, 2] - low) == pytest.approx(rise, abs=1e-9)
            assert rise >= z[peak].max(initial=-1e9) - low - 1e-5


def test_a_flight_of_a_second_under_ten_metres_a_second_squared_has_its_top_where_it_should():
    """Up at 3 m/s: the top is 0.45 m above, at 0.3 s; a contact without a separation speed has none."""
    curve = np.array([[0.0, 1.0, 3.0, 3.0], [1.0, -1.0, -7.0, -7.0]])
    assert apex_after_contacts(curve, np.array([[0.0, 1.0, 1.0, 3.0]]), 1.0)[0] == pytest.approx((0.45, 0.3, 3.0))
    assert apex_after_contacts(curve, np.array([[0.0, 1.0, 1.0, np.nan]]), 1.0) == [(0.0, 0.0, 0.0)]
    still_rising = np.array([[0.0, 1.0, 3.0, 3.0], [0.2, 1.4, 1.0, 1.0]])
    assert apex_after_contacts(still_rising, np.array([[0.0, 1.0, 0.5, 3.0]]), 0.2)[0] == pytest.approx((0.4, 0.2, 1.5))


def test_two_knots_at_one_time_are_no_top():
    curve = np.array([[0.0, 1.0, 0.0, 1.0], [0.5, 1.5, 1.0, 1.0], [0.5, 1.5, -1.0, -1.0], [1.0, 1.0, -1.0, -1.0]])
    assert apex_after_contacts(curve, np.array([[0.0, 1.0, 1.0, 1.0]]), 1.0) == [(0.0, 0.0, 1.0)]


def test_the_top_of_a_parabola_is_exact_and_the_next_hit_ends_the_climb():
    motion = simulate(scene({"b": ball(0.05, position=(0, 0, 1.05)), "f": floor()}, duration=1.6, restitution=0.8))
    path, hits = motion.trajectory("b"), motion.contacts
    told, _ = climbed(path, [(c.time, 1.0, c.rebound) for c in hits])
    for row, c in zip(told[:-1], hits[:-1], strict=True):
        assert row[0] == pytest.approx(c.rebound**2 / (2 * G), rel=1e-12)
        assert row[1] == pytest.approx(c.time + c.rebound / G, rel=1e-12)
    cut, _ = climbed(path, [(hits[0].time, 1.0, hits[0].rebound)], end=hits[0].time + 0.1)
    assert cut[0, 1] <= hits[0].time + 0.1


def test_a_hit_that_sends_nothing_up_or_is_not_resolved_has_no_rise():
    path = some_curve(3)
    t = float(path.t[4]) + 1e-3
    told, _ = climbed(path, [(t, 1.0, np.nan), (t + 0.01, -1.0, 2.0)])
    assert told[0].tolist() == [0.0, t, 0.0, 0.0]
    assert told[1, 2] == 0.0
    assert told[1, 3] == 0.0


def test_the_summary_names_the_columns_that_the_kernel_writes():
    hits = {"time": L.hit.TIME, "partner": L.hit.PARTNER, "position": L.hit.POSITION, "approach_speed": L.hit.APPROACH,
            "rebound_speed": L.hit.REBOUND, "slip_speed": L.hit.SLIP, "slope": L.hit.STEEP, "rise": L.hit.RISE,
            "apex_time": L.hit.TOP, "upward_speed": L.hit.SPEED, "is_bounce": L.hit.COUNTED, "gravity_slope": L.hit.PULL,
            "normal": L.hit.NORMAL}
    runs = {"status": L.head.CODE, "contacts": L.head.HITS, "end": L.head.END, "still_since": L.head.STILL,
            "moves_on": L.head.MOVES_ON, "series_end": L.head.SERIES, "residual_speed": L.head.LEFT,
            "peak_speed": L.head.PEAK_SPEED, "start": L.head.START}
    for dtype, columns, width in ((HIT, hits, L.hit.COUNT), (RUN, runs, L.head.COUNT)):
        assert {name: dtype.fields[name][1] // 8 for name in columns} == columns
        assert dtype.itemsize == 8 * width
        assert set(dtype.names) - set(columns) <= {"spare"}


# -- told is what the motions say ------------------------------------------------------------

TARGETS = [parse_target(f"{text} happens") for text in (
    "apex 1", "apex 2", "apex ratio 2", "bounces", "bounce time 1", "bounce time 3", "landing 1", "landing x 2", "landing y 1",
    "contacts", "contacts with f", "contact time 1", "contact time 2 with f", "impact speed 1", "rebound speed 2",
    "kept restitution 1", "impact energy 1", "contact slip 1", "flight time 1", "rest time", "peak speed", "travel", "x",
    "y at 0.3 s", "z at 0.6 s", "speed at 0.5 s", "spin", "turn at 0.4 s")]


def dropped(**more):
    return scene({"b": ball(0.05, position=(0, 0, 0.8), velocity=(0.7, 0.2, 0), angular_velocity=(0, 5.0, 1.0), **more),
                  "f": floor()},
                 duration=1.6, restitution=0.6, friction=0.3)


def rolling():
    return scene({"b": ball(0.05, position=(0, 0, 0.05), velocity=(0.8, 0, 0)), "f": floor()}, duration=1.6,
                 friction=0.3, rolling_resistance=0.04)


def two_and_a_wall():
    bodies = {"b": ball(0.04, position=(0, 0, 0.3), velocity=(1.5, 0, 0)), "c": ball(0.05, position=(0.5, 0.01, 0.05)),
              "f": floor(), "w": floor((-1.0, 0.0, 0.0), position=(0.9, 0, 0))}
    return scene(bodies, duration=1.6, restitution=0.55, friction=0.25)


def stepped():
    return dropped().model_copy(update={"profile": Stepped(step=1 / 240)})


def mixed_surfaces():
    """Numbers of two surfaces meet by every rule of pairing."""
    case = dropped()
    sphere = Sphere(kind="sphere", radius=0.05, surface="rind")
    plane = Body(motion="static", shapes=(Plane(kind="plane", surface="pad"),))
    rind, pad = Surface(restitution=0.8, friction=0.5, dynamic_friction=0.3), Surface(restitution=0.5, friction=0.2)
    return case.model_copy(update={
        "surfaces": {"rind": rind, "pad": pad},
        "bodies": {"b": case.bodies["b"].model_copy(update={"shapes": (sphere,)}), "f": plane}})


SCENES = {
    "drop": (dropped, {E: (0.1, 0.95), Z: (0.1, 1.2)}), "velocity": (dropped, {VX: (-2, 2), E: (0.2, 0.9), MU: (0, 0.8)}),
    "drag": (dropped, {"bodies.b.drag_coefficient": (0, 1.5), "bodies.b.linear_damping": (0, 1.0)}),
    "rolling": (rolling, {VX: (0.1, 1.0), MU: (0.0, 0.4), "surfaces.both.rolling_resistance": (0.0, 0.1)}),
    "crowded": (two_and_a_wall, {VX: (0.5, 3.0), E: (0.2, 0.9)}), "stepped": (stepped, {E: (0.1, 0.9), Z: (0.2, 1.0)}),
    "surfaces": (mixed_surfaces, {"surfaces.rind.restitution": (0.2, 0.9), "surfaces.pad.friction": (0.05, 0.9)}),
    "spinning": (dropped, {"bodies.b.angular_velocity.y": (-40, 40), "bodies.b.velocity.z": (-1, 3)}),
    "resting": (dropped, {E: (0.0, 0.3), "bodies.b.angular_velocity.x": (0, 0.1)}),
}


@pytest.mark.parametrize("name", SCENES)
def test_what_a_block_tells_is_what_its_motions_say(name):
    make, ranges = SCENES[name]
    case = make()
    targets = [t.model_copy(update={"body": "b"}) for t in TARGETS]
    assert all(has_batch_form(t) for t in targets)
    axes = [Axis(path, low, high) for path, (low, high) in ranges.items()]
    response = sweep(case, axes, targets, 32, sobol=True, seed=5)
    times = np.append(np.arange(0, 1.6 * 120) / 120, 1.6)
    seen = 0
    for values, outcomes in zip(response.values, response.outcomes, strict=True):
        motion = simulate(case, dict(zip([a.path for a in axes], values.tolist(), strict=True)), times=times)
        for target, value in zip(targets, outcomes.tolist(), strict=True):
            said = read_target(motion, "b", target).value
            seen += said is not None
            assert (said is None) == np.isnan(value), (target.label, said, value)
            assert said is None or value == pytest.approx(said, rel=1e-12, abs=1e-13), target.label
    assert seen > 200


def test_every_told_outcome_is_among_those_compared():
    assert {t.outcome for t in TARGETS} == set(BATCH_OUTCOMES)


def test_what_cannot_be_told_in_a_block_is_left_to_motions():
    program = Program(dropped())
    assert supports_batch(program, [E, VX, "bodies.b.drag_coefficient"])
    assert not supports_batch(program, ["bodies.b.radius"])
    assert not supports_batch(program, [E, "gravity"])
    assert not has_batch_form(Target(outcome="apex ratio", index=1))
    assert not has_batch_form(Target(outcome="energy kept"))
    crate = crate_on_slope(20, 0.0, 0.5, friction=0.1)
    got = sweep(crate, [Axis(MU, 0.0, 0.3)], [Target(outcome="slide distance", body="crate"), Target(outcome="x", body="crate")], 4)
    assert (np.diff(got.outcomes[:, 0]) < 0).all()  # more friction, less sliding


def test_runs_with_too_many_contacts_or_a_full_log_are_read_off_their_motions():
    case = scene({"b": ball(0.04, position=(0, 0, 0.05)), "f": floor()}, duration=8.0, restitution=0.99, restitution_threshold=1e-5)
    told = summarise_batch(Program(case), [E], np.array([[0.5], [0.99]]), np.linspace(0, 8, 200), 8.0, "b")
    assert told.is_whole.tolist() == [True, False]
    contacts = sweep(case, [Axis(E, 0.5, 0.99)], [Target(outcome="contacts", body="b")], 2).outcomes[:, 0]
    assert contacts[1] == len(simulate(case, {E: 0.99}).contacts) > L.limits.MAX_HITS
    program = Program(case)
    program.workspace().grow_logs(4)
    assert not summarise_batch(program, [E], np.array([[0.9]]), np.linspace(0, 3, 100), 3.0, "b").is_whole.any()


def test_a_stop_ends_a_block_where_it_is():
    cancel = Cancel()
    cancel.set()
    told = summarise_batch(Program(dropped()), [E], np.full((5, 1), 0.5), np.linspace(0, 1, 50), 1.0, "b", cancel=cancel.flag)
    assert not told.is_whole.any()
    response = sweep(dropped(), [Axis(E, 0.1, 0.9)], [Target(outcome="apex", index=1, body="b")], 500, cancel=cancel)
    assert response.stopped
    assert len(response.outcomes) == 0


def test_runs_of_one_thread_do_not_see_what_a_block_left():
    """A block points the run at its own rows; the next run must not."""
    case, program = dropped(), Program(dropped())
    times = np.linspace(0, 1.6, 200)
    before = program.run({E: 0.4}, times, 1.6).states.copy()
    summarise_batch(program, [E, "bodies.b.drag_coefficient"], np.array([[0.9, 1.0], [0.2, 2.0]]), times, 1.6, "b")
    assert np.array_equal(program.run({E: 0.4}, times, 1.6).states, before)
    assert np.array_equal(program.run(None, times, 1.6).states, Program(case).run(None, times, 1.6).states)


@pytest.mark.parametrize("outcome", [Target(outcome="apex", index=2, body="b"), Target(outcome="peak height", body="b")])
def test_any_executor_gives_the_same_bits(outcome):
    case = dropped()
    axes = [Axis(E, 0.2, 0.9), Axis(Z, 0.3, 1.0)]
    alone = sweep(case, axes, [outcome], 9).outcomes
    for make in (lambda: ThreadPoolExecutor(3), lambda: ProcessPoolExecutor(2)):
        with make() as executor:
            response = sweep(case, axes, [outcome], 9, executor=executor)
            assert response.threads == 0
            assert json.dumps(response.outcomes.tolist()) == json.dumps(alone.tolist())


def test_threads_that_read_outcomes_at_once_all_read_the_same():
    """What a compiled call is handed must live until it is done, whatever other threads allocate meanwhile."""
    case, target = dropped(), Target(outcome="apex", index=2, body="b")
    rows = np.linspace(0.3, 0.9, 40)
    def read(e):
        return [read_target(simulate(case, {E: e}), "b", target).value for _ in range(3)]

    alone = [read(e) for e in rows.tolist()]
    with ThreadPoolExecutor(4) as pool:
        for _ in range(3):
            assert list(pool.map(read, rows.tolist())) == alone
