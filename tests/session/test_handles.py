"""What can be taken hold of: where it stands, which way it grows, and that pulling it does what the handle says."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Unknown
from yapa.engine import simulate
from yapa.fitting.targets.drag import Pull
from yapa.outcomes import read, read_target
from yapa.session.comparison import ComparisonBuilder
from yapa.session.handles import MAX_BOUNCES, handles_of, passage_handles


def thrown(duration=2.5, **body):
    b = ball(0.04, **{"mass": 0.2, "position": (0, 0, 1.04), "velocity": (1.2, 0, 0.5), **body})
    return scene({"b": b, "f": floor()}, duration=duration, restitution=0.7, friction=0.2)


def test_every_top_and_landing_has_a_handle_at_its_place():
    motion = simulate(thrown())
    handles = {h.name: h for h in handles_of(motion)}
    assert {"b apex 1", "b apex 2", "b landing 1", "b landing 2"} <= set(handles)
    assert sum(h.target.outcome == "apex" for h in handles.values()) <= MAX_BOUNCES
    first = handles["b apex 1"]
    assert first.place[2] - 0.04 == pytest.approx(read(motion, "apex", "b", 1).value, abs=1e-6)
    assert first.along == pytest.approx([0, 0, 1])
    landing = handles["b landing 2"]
    assert landing.place[0] == pytest.approx(read(motion, "landing", "b", 2).value, abs=1e-6)
    assert landing.place[2] == pytest.approx(0.0, abs=1e-9)
    assert landing.along == pytest.approx([1, 0, 0])


def test_a_handle_says_the_present_value_of_its_outcome():
    motion = simulate(thrown())
    for h in handles_of(motion):
        assert read_target(motion, "b", h.target).value == pytest.approx(h.target.value)
        assert h.in_time or np.linalg.norm(h.along) == pytest.approx(1.0)
        assert h.is_on_stage != h.in_time


def test_a_drop_has_no_landing_to_pull_and_a_roll_has_its_place_of_rest():
    drop = handles_of(simulate(thrown(velocity=(0, 0, 0))))
    assert {h.target.outcome for h in drop} == {"apex", "bounce time"}
    roller = ball(0.05, mass=0.2, position=(0, 0, 0.05), velocity=(0.6, 0, 0), angular_velocity=(0, 12.0, 0))
    motion = simulate(scene({"b": roller, "f": floor()}, duration=3.0, friction=0.5, rolling_resistance=0.06))
    rest = next(h for h in handles_of(motion) if h.target.outcome == "travel")
    assert rest.place[0] == pytest.approx(rest.target.value, abs=1e-9)


@pytest.mark.parametrize("name", ["b apex 1", "b landing 2"])
def test_pulling_a_handle_by_a_centimetre_moves_it_by_one(name):
    case = thrown().model_copy(update={"unknowns": (
        Unknown(path="surfaces.both.restitution", low=0.2, high=0.95), Unknown(path="bodies.b.velocity.x", low=-3, high=3))})
    handle = next(h for h in handles_of(simulate(case)) if h.name == name)
    pull = Pull(case, [handle.target])
    frame = pull.to(handle.target.value + 0.01)
    moved = next(h for h in handles_of(simulate(case, frame.values)) if h.name == name)
    assert (moved.place - handle.place) @ handle.along == pytest.approx(0.01, abs=1.5e-3)


def test_a_picture_carries_its_handles():
    picture = ComparisonBuilder(thrown()).at()
    assert [h.name for h in picture.handles] == [h.name for h in handles_of(picture.motion)]


def test_a_body_that_leans_is_pulled_by_its_top():
    from yapa.case import Body, Box

    block = Body(shapes=(Box(kind="box", size=(0.1, 0.1, 0.4), surface="both"),), position=(0, 0, 2.0), mass=1.0,
                 angular_velocity=(0, 1.6, 0))
    motion = simulate(scene({"b": block, "f": floor()}, duration=0.4, friction=0.9))
    (tilt,) = (h for h in handles_of(motion) if h.target.outcome == "tilt")
    state = motion.states[-1, motion.names.index("b")]
    assert tilt.place[0] > state[0]
    assert tilt.along[0] > 0
    assert tilt.along[2] < 0
    assert tilt.along @ (tilt.place - state[:3]) == pytest.approx(0.0, abs=1e-9)
    assert tilt.gain * np.linalg.norm(tilt.place - state[:3]) == pytest.approx(1.0)


def test_at_the_play_head_a_passage_can_be_pulled_both_ways():
    motion = simulate(thrown())
    assert passage_handles(motion, 0.0) == []
    up, across = passage_handles(motion, 0.25)
    place = motion.trajectory("b").position(np.array([0.25]))[0]
    assert (up.target.outcome, up.target.value) == ("z", pytest.approx(place[2]))
    assert (across.target.outcome, across.target.value) == ("x", pytest.approx(place[0]))
    assert up.target.time == across.target.time == 0.25
