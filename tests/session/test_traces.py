"""Curves over time: the registry, the usual choice, closed forms beside the run; a stretch of the clip."""

from __future__ import annotations

import numpy as np
import pytest

from tests.session.conftest import E, bouncing
from yapa.case import Body, Box, Case, Plane, Sphere, with_numbers
from yapa.engine import simulate
from yapa.outcomes import measure, read
from yapa.session.closed_forms import FORMS, closed_form, fall, may_hold, slide, throw
from yapa.session.comparison import ComparisonBuilder
from yapa.session.outcome_curves import SO_FAR, outcome_so_far, outcomes_over_time
from yapa.session.traces import KINDS, NAMED, so_far_kinds, traces_of, usual_traces
from yapa.session.trial_difference import ranges_of, trial_difference

FLOOR = Body(motion="static", shapes=(Plane(kind="plane", surface="pad"),))


def scene(duration=2.0, **body):
    ball = {"shapes": (Sphere(kind="sphere", radius=0.05, surface="rind"),), "position": (0.0, 0.0, 0.55)}
    return Case(title="one", bodies={"floor": FLOOR, "ball": Body(**{**ball, **body})}, duration=duration,
                surfaces={"rind": {"restitution": 0.7, "friction": 0.3}, "pad": {"restitution": 0.7, "friction": 0.3}})


def away_from_form(case):
    motion = simulate(case)
    form = closed_form(case, motion, "ball")
    return form, np.abs(form.place(motion.times) - motion.states[:, motion.names.index("ball"), :3])


@pytest.mark.parametrize("start", [0.0, 1.2])
def test_a_fall_is_its_closed_form_through_every_rebound(start):
    form, away = away_from_form(scene(velocity=(0.0, 0.0, start)))
    assert form.name == "fall"
    assert away.max() < 2e-6


def test_a_throw_is_a_parabola_until_it_touches():
    form, away = away_from_form(scene(velocity=(2.0, 0.5, 1.0)))
    assert form.name == "throw"
    assert np.nanmax(away) < 1e-9
    assert np.isnan(away[-1]).all()


def test_a_slide_ends_where_friction_stops_it():
    box = (Box(kind="box", size=(0.2, 0.2, 0.1), surface="rind"),)
    form, away = away_from_form(scene(shapes=box, position=(0.0, 0.0, 0.05), velocity=(1.5, 0.0, 0.0)))
    assert form.name == "slide"
    assert away.max() < 1e-5


def test_no_form_holds_in_air_or_with_damping():
    assert not may_hold(scene(linear_damping=0.1))
    case = scene(drag_coefficient=0.4)
    if case.fields.air.density > 0:
        assert closed_form(case, simulate(case), "ball") is None
    assert may_hold(scene())


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_every_quantity_is_known_at_every_sample(kind):
    motion = simulate(scene(velocity=(1.0, 0.2, 0.5), angular_velocity=(0.0, 3.0, 0.0)))
    y = kind.of(motion, "ball")
    assert y.shape == motion.times.shape
    assert np.isfinite(y).all()


def test_quantities_are_what_they_are_called():
    motion = simulate(scene())
    assert NAMED["energy kept"].of(motion, "ball")[0] == pytest.approx(1.0)
    assert NAMED["tilt"].of(motion, "ball").max() == pytest.approx(0.0, abs=1e-6)
    turned = simulate(scene(position=(0.0, 0.0, 30.0), angular_velocity=(np.pi / 2, 0.0, 0.0), duration=1.0))
    assert NAMED["tilt"].of(turned, "ball")[-1] == pytest.approx(np.pi / 2, abs=1e-3)
    assert NAMED["away from its start"].of(turned, "ball")[-1] == pytest.approx(9.80665 / 2, rel=1e-3)
    assert usual_traces(motion, {}) == [("ball", "height"), ("ball", "speed")]


@pytest.mark.parametrize("outcome", list(outcomes_over_time()), ids=lambda outcome: outcome.name)
def test_every_outcome_is_known_over_time_and_ends_as_it_is_read(outcome):
    motion = simulate(scene(velocity=(1.0, 0.2, 0.5), angular_velocity=(0.0, 3.0, 0.0), duration=4.0))
    y = so_far_kinds()[outcome.name + SO_FAR].of(motion, "ball")
    assert y.shape == motion.times.shape
    found = [v.value for v in measure(motion, "ball", (outcome.name,)).values() if v.value is not None]
    if found:
        assert y[-1] == pytest.approx(found[-1], rel=1e-9, abs=1e-12)
    else:
        assert np.isnan(y[-1])


def test_an_outcome_over_time_is_what_is_known_by_then():
    motion = simulate(scene(duration=4.0))
    contacts, apexes = (outcome_so_far(motion, "ball", name) for name in ("contacts", "apex"))
    times = [c.time for c in motion.contacts_of("ball")]
    between = np.searchsorted(motion.times, 0.5 * (times[0] + times[1]))
    assert contacts[between] == 1
    assert np.isnan(apexes[np.searchsorted(motion.times, times[0]) - 2])
    assert apexes[np.searchsorted(motion.times, times[1]) + 2] == pytest.approx(read(motion, "apex", "ball", 1).value)
    assert outcome_so_far(motion, "ball", "peak speed")[-1] == pytest.approx(read(motion, "peak speed", "ball").value)
    rest = outcome_so_far(motion, "ball", "rest time")
    assert np.isnan(rest[between])
    assert np.isfinite(rest[-1])
    half = motion.until(0.5 * motion.end)
    assert half.end <= 0.5 * motion.end
    at = [0.5 * motion.end]
    assert half.trajectory("ball").position(at) == pytest.approx(motion.trajectory("ball").position(at))
    assert motion.until(motion.end + 1.0) is motion


def test_chosen_curves_are_shown_in_their_order_and_the_usual_ones_again(desk, ear):
    desk.preview.choose_traces([("orange", "contacts so far"), ("orange", "height"), ("nobody", "height")])
    ear.until(lambda: desk.jobs.idle)
    assert [t.name for t in desk.preview.comparison.traces] == ["contacts so far", "height"]
    assert desk.preview.trace_choice[0] == ("orange", "contacts so far")
    desk.preview.choose_traces(None)
    ear.until(lambda: desk.jobs.idle)
    assert "speed" in [t.name for t in desk.preview.comparison.traces]


def test_what_differs_of_a_trial_is_told_with_its_outcomes():
    case = bouncing()
    builder = ComparisonBuilder(case)
    low, high = builder.at({E: 0.6}), builder.at({E: 0.7})
    found = trial_difference(low, high, ranges_of(case))
    assert found.numbers[0][1:3] == ("0.6", "0.7")
    assert found.words.startswith("restitution")
    assert any(name.startswith("apex") and by.startswith("+") for name, _, _, by in found.outcomes)
    assert trial_difference(low, low, {}).words == "the same numbers, the same outcomes"


def test_the_closed_form_follows_the_number_under_the_hand():
    case = scene()
    builder = ComparisonBuilder(case)
    for e in (0.5, 0.8):
        values = {"surfaces.rind.restitution": e, "surfaces.pad.restitution": e}
        height = builder.at(values).traces[0]
        assert np.nanmax(np.abs(height.theory - height.y)) < 2e-6
    assert with_numbers(case, {"surfaces.rind.restitution": 0.5}) != case


def test_the_time_axis_shows_a_stretch_within_the_clip(desk):
    heard = []
    desk.span_changed.connect(lambda: heard.append(desk.playback.span))
    end = desk.case.duration
    assert desk.playback.span == (0.0, end)
    desk.playback.zoom(0.5 * end, 0.5)
    assert desk.playback.span == pytest.approx((0.25 * end, 0.75 * end))
    desk.playback.shift(10.0)
    assert desk.playback.span == pytest.approx((0.5 * end, end))
    desk.playback.shift(-10.0)
    assert desk.playback.span == pytest.approx((0.0, 0.5 * end))
    desk.playback.zoom(0.0, 1e-9)
    assert desk.playback.span[1] == pytest.approx(0.01)
    desk.playback.zoom(0.0, 1e9)
    assert desk.playback.span == (0.0, end)
    desk.playback.zoom(0.0, 0.5)
    desk.playback.show_all()
    assert heard[-1] == (0.0, end)


def test_a_form_that_does_not_hold_says_nothing():
    case = scene(velocity=(2.0, 0.0, 1.0))
    motion = simulate(case)
    assert fall(case, motion, "ball") is None
    assert slide(case, motion, "ball") is None
    assert (fall, slide, throw) == FORMS


def test_a_trace_without_a_closed_form_has_none():
    builder = ComparisonBuilder(bouncing())
    motion = builder.at().motion
    (height,) = traces_of(None, motion, builder.measured_side, {}, [("orange", "height")])
    assert height.theory is None
    assert height.measured_y is not None
    assert height.residual is None
