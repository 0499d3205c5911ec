"""Pulling: outcomes follow the hand, the numbers change as little as they can, and the way back ends where it began."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.case import Target, Unknown, get_number
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import Cancel
from yapa.fitting.targets.drag import MAX_RUNS, Pull
from yapa.fitting.targets.held import HeldTargets, held_step
from yapa.formats.target_text import parse_target
from yapa.outcomes import read

Z = "bodies.b.position.z"
E, MU, VX, VZ = "surfaces.both.restitution", "surfaces.both.friction", "bodies.b.velocity.x", "bodies.b.velocity.z"


def thrown(free=(E, VX, VZ)):
    case = scene({"b": ball(0.04, mass=0.2, position=(0, 0, 1.04), velocity=(1.2, 0, 0.5), drag_coefficient=0.4), "f": floor()},
                 duration=2.5, restitution=0.7, friction=0.2)
    ranges = {E: (0.2, 0.95), MU: (0.0, 0.8), VX: (-3.0, 3.0), VZ: (-3.0, 3.0), Z: (0.5, 2.0)}
    return case.model_copy(update={"unknowns": tuple(Unknown(path=p, low=ranges[p][0], high=ranges[p][1]) for p in free)})


def dragged(pull, curve):
    return [pull.to(y) for y in curve]


@pytest.mark.parametrize("text", ["apex 2", "landing 3", "z at 0.3 s", "bounce time 2", "x at 1.5 s"])
def test_a_pulled_outcome_follows_within_a_millimetre(text):
    target = parse_target(f"{text} happens").model_copy(update={"tolerance": 0.005})
    pull = Pull(thrown(), [target])
    start = pull.start[0]
    frames = dragged(pull, start * (1 + 0.12 * np.sin(np.linspace(0, 2 * np.pi, 60))))
    assert np.mean([abs(f.gap[0]) < 1e-3 for f in frames]) > 0.99
    assert max(f.simulations for f in frames) <= MAX_RUNS
    assert np.mean([f.simulations for f in frames]) < 6


def test_a_loop_ends_where_it_began_and_the_start_is_exact():
    case = thrown()
    pull = Pull(case, [Target(outcome="apex", index=2, tolerance=0.005)])
    start = pull.start[0]
    away = dragged(pull, np.linspace(start, 1.3 * start, 30))[-1]
    assert away.values[E] > get_number(case, E)
    near = dragged(pull, np.linspace(1.3 * start, start * (1 + 1e-7), 30))[-1]
    drift = [abs(near.values[u.path] - get_number(case, u.path)) / (u.high - u.low) for u in case.unknowns]
    assert max(drift) < 1e-3
    exact = pull.to(start)
    assert exact.values == {u.path: get_number(case, u.path) for u in case.unknowns} == pull.back().values
    assert exact.simulations == 0


def test_the_change_is_the_smallest_there_is():
    free = (Unknown(path=E, low=0.1, high=0.95), Unknown(path="bodies.b.position.z", low=0.5, high=2.0))
    case = scene({"b": ball(0.04, position=(0, 0, 1.04)), "f": floor()}, duration=2.0, restitution=0.6)
    case = case.model_copy(update={"unknowns": free})
    pull = Pull(case, [Target(outcome="apex", index=1, tolerance=0.002)])
    found = dragged(pull, np.linspace(0.36, 0.5, 20))[-1].values
    e = np.linspace(0.1, 0.95, 100001)
    u = np.column_stack([(e - 0.6) / 0.85, (0.5 / e**2 + 0.04 - 1.04) / 1.5])
    nearest = e[int(np.argmin((u**2).sum(axis=1)))]
    assert found[E] == pytest.approx(nearest, abs=0.01)


def test_what_cannot_be_reached_shows_its_gap_and_comes_back():
    pull = Pull(thrown(free=(E,)), [Target(outcome="apex", index=1, tolerance=0.005)])
    start = pull.start[0]
    frames = dragged(pull, np.linspace(start, 4.0, 20))
    assert not frames[-1].reached
    assert frames[-1].values[E] == pytest.approx(0.95, abs=1e-6)
    assert frames[-1].gap[0] < -1.0
    assert dragged(pull, [1.1 * start] * 4)[-1].reached


def test_two_outcomes_are_pulled_together():
    pull = Pull(thrown(), [Target(outcome="apex", index=1, tolerance=0.005), Target(outcome="landing", index=2, tolerance=0.005)])
    a, b = pull.start
    for k in range(1, 11):
        frame = pull.to(a * (1 + 0.01 * k), b * (1 - 0.01 * k))
    assert frame.reached
    assert np.abs(frame.gap).max() < 1e-3


def test_more_unknowns_than_a_frame_has_simulations_are_measured_over_several():
    case = thrown().model_copy(update={"unknowns": tuple(
        Unknown(path=f"bodies.b.{p}", low=a, high=b) for p, a, b in [
            *((f"velocity.{x}", -3.0, 3.0) for x in "xyz"), *((f"angular_velocity.{x}", -40.0, 40.0) for x in "xyz"),
            *((f"position.{x}", -1.0, 2.0) for x in "xyz"), ("drag_coefficient", 0.0, 1.5), ("linear_damping", 0.0, 1.0),
            ("angular_damping", 0.0, 1.0), ("gravity_multiplier", 0.5, 1.5), ("mass", 0.05, 1.0), ("radius", 0.02, 0.1)])
        + (Unknown(path=E, low=0.2, high=0.95), Unknown(path=MU, low=0.0, high=0.8),
           Unknown(path="air.density", low=0.5, high=2.0))})
    pull = Pull(case, [Target(outcome="apex", index=1, tolerance=0.005)])
    frames = [pull.to(1.1 * pull.start[0]) for _ in range(5)]
    assert max(f.simulations for f in frames) <= MAX_RUNS
    assert frames[-1].reached


def test_a_cancelled_frame_gives_what_it_has():
    cancel = Cancel()
    pull = Pull(thrown(), [Target(outcome="apex", index=1, tolerance=0.005)], cancel)
    cancel.set()
    frame = pull.to(1.2 * pull.start[0])
    assert set(frame.values) == {E, VX, VZ}
    assert not frame.reached


def test_an_outcome_that_does_not_happen_cannot_be_pulled():
    with pytest.raises(InputError, match="does not happen"):
        Pull(thrown(), [Target(outcome="apex", index=40, tolerance=0.005)])
    with pytest.raises(InputError):
        Pull(thrown().model_copy(update={"unknowns": ()}), [Target(outcome="apex", index=1)])
    assert api.Pull is Pull


def wanted(outcome, index, value, **more):
    return Target(outcome=outcome, index=index, body="b", value=value, **{"tolerance": 0.01, **more})


def outcomes(case, values, *names):
    motion = simulate(case, values)
    return [read(motion, name, "b", index).value for name, index in names]


def test_what_is_met_stays_met_while_another_outcome_is_pulled():
    case = thrown(free=(E, MU, VX, VZ, Z))
    start = outcomes(case, {}, ("apex", 1), ("landing", 2))
    held = [wanted("apex", 1, start[0] + 0.004), wanted("landing", 2, start[1], condition="at least")]
    free, kept = (Pull(case, [wanted("apex", 2, 0.0, tolerance=0.005)], hold=hold) for hold in ((), held))
    for pull in (free, kept):
        frame = dragged(pull, pull.start[0] + np.linspace(0.0, 0.05, 25))[-1]
        assert frame.reached
        now = outcomes(case, frame.values, ("apex", 2), ("apex", 1), ("landing", 2))
        assert now[0] == pytest.approx(pull.start[0] + 0.05, abs=2e-3)
        if pull is kept:
            assert abs(now[1] - held[0].value) < 0.01
            assert now[2] > start[1] - 1e-3
        else:
            assert abs(now[1] - held[0].value) > 0.01


def test_what_leaves_no_room_is_named_and_the_pulled_outcome_gives_way():
    case = thrown(free=(E,))
    (apex,) = outcomes(case, {}, ("apex", 1))
    pull = Pull(case, [wanted("apex", 2, 0.0, tolerance=0.005)], hold=[wanted("apex", 1, apex)])
    frame = dragged(pull, pull.start[0] + np.linspace(0.0, 0.2, 20))[-1]
    assert not frame.reached
    assert frame.held_by == ("b apex 1",)
    assert frame.now[0] > pull.start[0] + 0.003  # as far as its tolerance lets it
    assert abs(outcomes(case, frame.values, ("apex", 1))[0] - apex) < 0.01
    alone = Pull(case, [wanted("apex", 1, 0.0)])
    assert dragged(alone, [3.0] * 6)[-1].at_ends == (E,)
    back = pull.to(pull.start[0])
    assert back.values == {E: get_number(case, E)}


def test_what_is_not_met_at_the_start_is_not_held():
    case = thrown(free=(E,))
    pull = Pull(case, [wanted("apex", 2, 0.0)], hold=[wanted("apex", 1, 5.0)])
    assert len(pull.held.targets) == 0


def test_a_step_under_limits_is_the_smallest_that_keeps_them():
    held = HeldTargets((), np.array([-0.1]), np.array([0.1]), np.array([0]))
    u = np.array([0.5, 0.5])
    step = held_step(u, u, np.array([-0.2]), np.array([[1.0, 1.0]]), np.array([0.0]), np.array([[1.0, 0.0]]), held)
    assert step - u == pytest.approx([0.1, 0.1], abs=1e-4)
    step = held_step(u, u, np.array([-0.3]), np.array([[1.0, 1.0]]), np.array([0.0]), np.array([[1.0, 0.0]]), held)
    assert step - u == pytest.approx([0.1, 0.2], abs=1e-4)
    impossible = HeldTargets((), np.array([2.0]), np.array([3.0]), np.array([0]))
    assert held_step(u, u, np.array([0.0]), np.array([[1.0, 1.0]]), np.array([0.0]), np.array([[1.0, 0.0]]), impossible) is None
