"""Orders of contacts, times until a level, whole bodies in zones, supports, sides; each against its closed form."""

from __future__ import annotations

from math import degrees, pi, radians, sqrt

import numpy as np
import pytest
from benchmarks.scenes import G, ball, crate_on_slope, floor, scene

from yapa.case import Body, Box, Unknown
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import fit
from yapa.formats.case_json import case_text, parse_case
from yapa.formats.target_text import parse_target
from yapa.outcomes import OutcomeValue, read_target
from yapa.outcomes.groups import over_group


def box(size, **body):
    return Body(shapes=(Box(kind="box", size=size, surface="both"),), **body)


def value(case, text, body=None):
    target = parse_target(f"{text} happens")
    movers = case.dynamic_bodies()
    return read_target(simulate(case), body or target.body or movers[0], target)


def thrown():
    """A ball that meets the floor, then a wall 1 m away."""
    return scene({"ball": ball(0.05, position=(0, 0, 0.55), velocity=(2.0, 0, 0), mass=0.2), "ground": floor(),
                  "wall": box((0.1, 1.0, 3.0), motion="static", position=(1.1, 0, 1.5))}, duration=1.0, restitution=0.8)


def test_contact_order_is_the_least_time_between():
    fall = sqrt(2 * 0.5 / G)
    at_wall = 1.0 / 2.0
    assert value(thrown(), "contact order through ground, wall").value == pytest.approx(at_wall - fall, abs=1e-6)
    assert value(thrown(), "contact order through wall, ground").value == pytest.approx(fall - at_wall, abs=1e-6)


def test_a_contact_that_is_missing_counts_by_its_closest_approach():
    far = thrown().model_copy(update={"duration": 0.4})
    near = thrown().model_copy(update={"duration": 0.45})
    one, two = (value(case, "contact order through ground, wall") for case in (far, near))
    assert one.value is None
    assert "wall" in one.missing
    assert one.shortfall > two.shortfall > 0


def test_lead_is_how_much_earlier_it_arrives():
    case = scene({"a": ball(0.05, position=(0, 0, 0.55), mass=0.2), "b": ball(0.05, position=(1, 0, 1.05), mass=0.2),
                  "ground": floor()},
                 duration=1.0)
    gap = sqrt(2 * 1.0 / G) - sqrt(2 * 0.5 / G)
    assert value(case, "a lead with ground").value == pytest.approx(gap, abs=1e-6)
    assert value(case, "b lead with ground").value == pytest.approx(-gap, abs=1e-6)


@pytest.mark.parametrize(("text", "time"), [
    ("when speed above 2 m/s", 2.0 / G), ("when height below 0.8 m", sqrt(2 * 0.25 / G)), ("when speed above 50 %", None),
    ("when z above 1 m", 0.0),
])
def test_time_until_a_level_is_passed(text, time):
    case = scene({"ball": ball(0.05, position=(0, 0, 1.05), mass=0.2), "ground": floor()}, duration=0.4)
    expected = 0.5 * 0.4 if time is None else time
    assert value(case, f"time until {text}").value == pytest.approx(expected, abs=2e-5)


def test_time_until_it_stays_below_a_share():
    """A crate that slides: speed falls evenly, so that 5% of it is left at 95% of the time."""
    case = crate_on_slope(0.0, 2.0, 1.5, friction=0.3)
    stop = 2.0 / (0.3 * G)
    assert value(case, "time until when speed stays below 5 %").value == pytest.approx(0.95 * stop, abs=1e-3)
    early = value(case.model_copy(update={"duration": 0.3}), "time until when speed stays below 5 %")
    assert early.value is None
    assert early.shortfall > 0


def test_energy_and_tilt_and_spin_have_a_history():
    case = scene({"ball": ball(0.05, position=(0, 0, 1.05), mass=0.2), "ground": floor()}, duration=1.5, restitution=0.5)
    first = value(case, "bounce time 1").value
    assert value(case, "time until when energy stays below 50 %").value == pytest.approx(first, abs=1e-3)
    case = scene({"crate": box((0.1, 0.1, 0.1), position=(0, 0, 2.0), mass=1.0, angular_velocity=(0, 2.0, 0))}, duration=0.5)
    assert value(case, "time until when tilt above 30 deg").value == pytest.approx(radians(30) / 2.0, abs=1e-3)
    assert value(case, "time until when spin above 1 rad/s").value == 0.0


@pytest.mark.parametrize("text", ["speed sideways 3", "speed above 3 kg", "weight above 3"])
def test_a_crossing_that_cannot_be_read_is_refused(text):
    with pytest.raises(InputError):
        parse_target(f"time until when {text} happens")


def test_whole_bodies_are_inside_by_their_outermost_point():
    a = radians(45)
    turned = box((0.2, 0.2, 0.2), position=(0.5, 0, 0.5), mass=1.0, orientation=(np.cos(a / 2), 0.0, float(np.sin(a / 2)), 0.0))
    case = scene({"crate": turned}, duration=0.0, gravity=0.0)
    zone = "(0, -1, 0) to (1, 1, 2)"
    assert value(case, f"inside {zone}").value == pytest.approx(0.5)
    assert value(case, f"wholly inside {zone}").value == pytest.approx(0.5 - 0.1 * sqrt(2), abs=1e-9)
    assert value(case, f"stays wholly inside {zone}").value == pytest.approx(0.5 - 0.1 * sqrt(2), abs=1e-9)
    assert value(case, "wholly inside (0.45, -1, 0) to (1, 1, 2)").value == pytest.approx(0.05 - 0.1 * sqrt(2), abs=1e-9)


@pytest.mark.parametrize(("x", "y", "overlap"), [(0.0, 0.0, 0.2), (0.3, 0.0, 0.2), (0.45, 0.1, 0.05), (0.6, 0.0, -0.1)])
def test_support_overlap_is_the_way_to_the_edge(x, y, overlap):
    table = box((1.0, 0.4, 0.1), motion="static", position=(0, 0, 0.05))
    case = scene({"ball": ball(0.05, position=(x, y, 0.15), mass=0.1), "table": table}, duration=0.0)
    assert value(case, "support overlap with table").value == pytest.approx(overlap, abs=1e-4)


@pytest.mark.parametrize(("side", "angle"), [("+z", 0.0), ("-z", pi), ("+x", pi / 2), ("-y", pi / 2)])
def test_the_angle_of_a_side_says_which_is_up(side, angle):
    case = scene({"crate": box((0.1, 0.1, 0.1), position=(0, 0, 0.05), mass=1.0), "ground": floor()}, duration=0.2)
    assert value(case, f"side angle side {side}").value == pytest.approx(angle, abs=1e-6)
    a = radians(90)
    tipped = case.model_copy(update={"bodies": {**case.bodies, "crate": case.bodies["crate"].model_copy(
        update={"orientation": (float(np.cos(a / 2)), 0.0, float(np.sin(a / 2)), 0.0)})}})
    assert degrees(value(tipped, "side angle side +x").value) == pytest.approx(180.0, abs=1e-3)
    assert degrees(value(tipped, "side angle side -x").value) == pytest.approx(0.0, abs=1e-3)


def test_height_swing_and_velocity_jump():
    case = scene({"ball": ball(0.05, position=(0, 0, 1.05), mass=0.2), "ground": floor()}, duration=8.0, restitution=0.5)
    assert value(case, "height swing over 2 s").value == pytest.approx(0.0, abs=1e-6)
    moving = scene({"ball": ball(0.05, position=(0, 0, 1.0), mass=0.2)}, duration=0.5)
    fallen = 0.5 * G * 0.25
    assert value(moving, "height swing over 0.5 s").value == pytest.approx(0.5 * fallen / (1 - fallen / 3), rel=2e-3)
    assert value(moving, "height swing over 2 s").value is None
    assert value(case, "velocity jump 1").value == pytest.approx(1.5 * sqrt(2 * G * 1.0), rel=1e-6)
    assert value(moving, "velocity jump 1").value is None


def test_a_body_that_never_moves_has_outcomes_too():
    case = thrown()
    assert value(case, "wall travel", "wall").value == 0.0
    assert value(case, "wall contacts", "wall").value == 1.0


MEMBERS = [OutcomeValue(1.0, 0.3), OutcomeValue(3.0, 0.4), OutcomeValue(2.0, 0.0)]
GONE = OutcomeValue(None, None, "it never came", 0.5, 0.7)


@pytest.mark.parametrize(("text", "found"), [
    ("sum of pile travel happens", 6.0), ("mean of pile travel happens", 2.0), ("largest of pile travel happens", 3.0),
    ("smallest of pile travel happens", 1.0), ("all of pile travel at least 2", 1.0), ("any of pile travel at least 2", 3.0),
    ("at least 2 of pile travel at least 2", 2.0), ("all of pile travel at most 2", 3.0), ("any of pile travel = 2 ± 0.5", 2.0),
    ("at least 3 of pile travel within 1.4 to 2.5", 3.0),
])
def test_a_group_is_decided_by_its_members(text, found):
    assert over_group(parse_target(text), MEMBERS).value == found


def test_a_member_that_does_not_do_it_decides_for_all_but_not_for_any():
    assert over_group(parse_target("all of pile travel at least 2"), [*MEMBERS, GONE]).missing == "it never came"
    assert over_group(parse_target("any of pile travel at least 2"), [*MEMBERS, GONE]).value == 3.0
    assert over_group(parse_target("sum of pile travel happens"), [*MEMBERS, GONE]).shortfall == 0.7
    assert over_group(parse_target("all of pile hit with crate never"), [GONE, GONE]).value is None
    assert over_group(parse_target("sum of pile travel happens"), MEMBERS).std == pytest.approx(0.5)


def slid(**changes):
    case = scene({f"c{k}": box((0.1, 0.1, 0.1), position=(0, k, 0.05), velocity=(1.0 + k, 0, 0), mass=1.0) for k in range(3)}
                 | {"ground": floor()}, duration=3.0, friction=0.5)
    return case.model_copy(update={"groups": {"pile": ("c0", "c1", "c2")}, **changes})


def test_a_fit_follows_a_group():
    case = slid(targets=(parse_target("at least 2 of pile travel at least 0.5 m"),),
                unknowns=(Unknown(path="surfaces.both.friction", low=0.1, high=1.0),))
    result = fit(case)
    assert result.targets[0].met
    assert result.values["surfaces.both.friction"] == pytest.approx(2.0**2 / (2 * G * 0.5), abs=0.01)


def test_a_group_is_kept_and_names_what_is_wrong_with_it():
    case = slid(targets=(parse_target("all of pile travel at least 0.1 m"),))
    assert parse_case(case_text(case), "case").targets[0].each == "all"
    for wrong, words in (("all of heap travel happens", "no group named 'heap'"), ("at least 4 of pile travel happens", "has 3"),
                         ("all of travel happens", "group"), ("pile travel happens", "no body named 'pile'")):
        with pytest.raises(InputError, match=words):
            parse_case(case_text(case.model_copy(update={"targets": (parse_target(wrong),)})), "case")
    for groups, words in (({"c0": ("c1",)}, "a body has that name"), ({"p": ("nobody",)}, "nobody"),
                          ({"p": ("c1", "c1")}, "each once")):
        with pytest.raises(InputError, match=words):
            parse_case(case_text(case.model_copy(update={"groups": groups, "targets": ()})), "case")
