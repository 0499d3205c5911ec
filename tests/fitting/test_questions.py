"""Questions with known answers: closed forms, or brute force."""

from __future__ import annotations

from math import atan, cos, degrees, radians, sin, sqrt, tan

import numpy as np
import pytest
from benchmarks.scenes import G, ball, crate_on_slope, floor, scene

from yapa import api
from yapa.case import Body, Box, Stepped, Unknown
from yapa.case.scene import LaunchAngles
from yapa.case.unknowns import Tie
from yapa.errors import InputError
from yapa.fitting import Cancel, fit
from yapa.fitting.questions.more_evidence import how_much_more

MU, E = "surfaces.both.friction", "surfaces.both.restitution"


def box(size, **body):
    return Body(shapes=(Box(kind="box", size=size, surface="both"),), **body)


# -- threshold -----------------------------------------------------------------------------------


def test_the_friction_that_holds_a_crate_at_25_degrees():
    found = api.threshold(crate_on_slope(25.0, 0.0, 1.0, friction=0.3), MU, ["travel at most 1 mm"], 0.05, 1.0, largest=False)
    assert found.value == pytest.approx(tan(radians(25)), abs=1e-4)
    assert len(found.changes) == 1
    assert "33 points" in found.words


def test_every_change_is_listed_and_the_outermost_is_the_answer():
    """A ball thrown at a gate: low and high launches pass, and the middle ones hit."""
    case = scene({"ball": ball(0.02, position=(0, 0, 1.0), velocity=(2.0, 0, 0), mass=0.1)}, duration=0.4)
    wanted = ["travel within 0.4 to 0.8"]
    found = api.threshold(case, "bodies.ball.velocity.x", wanted, -3.0, 3.0)
    assert found.value == pytest.approx(0.8 / 0.4, abs=6e-4)
    assert [round(0.5 * (c.holds + c.fails), 2) for c in found.changes] == [-2.0, -1.0, 1.0, 2.0]
    least = api.threshold(case, "bodies.ball.velocity.x", wanted, -3.0, 3.0, largest=False)
    assert least.value == pytest.approx(-2.0, abs=6e-4)
    assert "they also change at" in found.words


def test_a_threshold_that_is_nowhere_or_at_the_end_says_so():
    case = crate_on_slope(25.0, 0.0, 1.0, friction=0.3)
    nowhere = api.threshold(case, MU, ["travel at least 50 m"], 0.05, 1.0)
    assert nowhere.value is None
    assert nowhere.nearest == 0.05
    assert "nowhere" in nowhere.words
    end = api.threshold(case, MU, ["travel at most 50 m"], 0.05, 1.0)
    assert (end.value, end.at_end) == (1.0, True)
    with pytest.raises(InputError, match="at least one target"):
        api.threshold(case, MU)


def test_the_heaviest_crates_that_a_bar_of_30_newtons_still_moves():
    """Statics: 2 m μ g = 30 N at 3.82 kg each; travelling a centimetre in 2 s costs a little of it."""
    def stack(mass):
        return {"low": box((0.3, 0.3, 0.3), position=(0.0, 0, 0.15), mass=mass),
                "high": box((0.3, 0.3, 0.3), position=(0, 0, 0.45), mass=mass)}

    keys = ({"time": 0.0, "position": (-0.2, 0, 0.15)}, {"time": 2.0, "position": (0.3, 0, 0.15)})
    bar = box((0.1, 0.3, 0.1), motion="kinematic", mass=1.0, keyframes=tuple(_key(**k) for k in keys), max_force=30.0)
    case = scene({**stack(2.0), "bar": bar, "floor": floor()}, duration=2.0, friction=0.4)
    case = case.model_copy(update={"unknowns": (Unknown(path="bodies.low.mass", low=1.0, high=8.0, linked=("bodies.high.mass",)),)})
    found = api.threshold(case, "bodies.low.mass", ["low travel at least 1 cm"], points=17)
    assert found.value == pytest.approx(30.0 / (2 * 0.4 * G), abs=0.12)


def _key(**values):
    from yapa.case.scene import Keyframe

    return Keyframe(**values)


def test_a_number_of_the_solver_has_a_threshold():
    """The largest step at which a stepped ball, checked where it is, does not pass a thin wall: thickness plus diameter over
    speed."""
    case = scene({"ball": ball(0.02, position=(0, 0, 0), velocity=(10.0, 0, 0), mass=0.1),
                  "wall": box((0.01, 1, 1), motion="static", position=(1.003, 0, 0))}, duration=0.3, gravity=0.0, restitution=0.5,
                 profile=Stepped(step=1 / 240))
    found = api.threshold(case, "profile.step", ["x at most 1.0"], 1e-4, 0.02)
    brute = [s for s in np.geomspace(1e-4, 0.02, 33) if api.variants(case, {"s": {"profile.step": float(s)}},
                                                                     ["x"]).outcomes["x"][1].value <= 1.0]
    assert found.value == pytest.approx(max(brute), rel=1e-9)
    assert len(brute) < 33  # some steps jump through the wall
    assert found.at_end
    assert all(c.fails != c.holds for c in found.changes)


def test_whole_numbers_are_bracketed_to_neighbours():
    case = crate_on_slope(25.0, 0.0, 0.2, friction=0.3).model_copy(update={"profile": Stepped()})
    found = api.threshold(case, "profile.iterations", ["travel at most 50 m"], 1, 30)
    assert (found.value, found.at_end) == (30.0, True)


# -- best ----------------------------------------------------------------------------------------


def test_the_elevation_for_the_farthest_landing_from_a_height():
    v, h = 4.0, 1.0
    thrown = ball(0.05, position=(0, 0, h + 0.05), velocity=LaunchAngles(speed=v, elevation=0.2), mass=0.2)
    case = scene({"ball": thrown, "floor": floor()}, duration=2.0).model_copy(
        update={"unknowns": (Unknown(path="bodies.ball.elevation", low=-0.5, high=1.4),)})
    found = api.best(case, "landing 1")
    assert found.values["bodies.ball.elevation"] == pytest.approx(atan(v / sqrt(v**2 + 2 * G * h)), abs=2e-3)
    assert found.value == pytest.approx(v / G * sqrt(v**2 + 2 * G * h), abs=1e-4)
    assert found.before < found.value
    low = api.best(case, "landing 1", largest=False)
    assert low.value < found.value
    assert "end of its range" in " ".join(low.notes)


def test_best_keeps_targets_and_a_stop_keeps_the_best():
    case = crate_on_slope(0.0, 2.0, 2.0, friction=0.3).model_copy(update={
        "unknowns": (Unknown(path="bodies.crate.speed", low=0.5, high=3.0),),
        "targets": (api.parse_target("travel at most 0.5 m"),)})
    found = api.best(case, "peak speed")
    assert found.value == pytest.approx(sqrt(2 * 0.3 * G * 0.5), abs=5e-3)
    stop = Cancel()
    stop.set()
    assert api.best(case, "peak speed", cancel=stop).stopped == "cancelled"
    with pytest.raises(InputError, match="no free number"):
        api.best(case.model_copy(update={"unknowns": ()}), "travel")


# -- what matters --------------------------------------------------------------------------------


def test_what_matters_is_ranked_and_what_does_not_is_named():
    case = crate_on_slope(0.0, 2.0, 1.5, friction=0.3).model_copy(update={"unknowns": (
        Unknown(path="bodies.crate.mass", low=0.1, high=10, transform="log"), Unknown(path=MU, low=0.25, high=0.35),
        Unknown(path="bodies.crate.speed", low=1.0, high=2.5))})
    found = api.what_matters(case, "slide distance")
    assert [one.path for one in found.ranking] == ["bodies.crate.speed", MU, "bodies.crate.mass"]
    speed, friction, mass = found.ranking
    assert speed.effect == pytest.approx((2.075**2 - 1.925**2) / (2 * 0.3 * G), rel=0.02)
    assert friction.effect < 0
    assert (mass.share, mass.effect) == pytest.approx((0.0, 0.0), abs=1e-9)
    assert "mass · crate does not matter" in found.words
    assert found.bars()[0].count("█") > 20
    none = api.what_matters(case, "slide distance", ["bodies.crate.mass"])
    assert "none of these numbers" in none.words


# -- robust, either, variants, more --------------------------------------------------------------


def bin_shot():
    """A ball thrown at a bin 20 cm wide; its speed scatters by 5 cm/s."""
    thrown = ball(0.02, position=(0, 0, 1.0), velocity=(1.5, 0, 0), mass=0.1)
    case = scene({"ball": thrown}, duration=0.4)
    return case.model_copy(update={"targets": (api.parse_target("x within 0.7 to 0.9 m"),),
                                   "unknowns": (Unknown(path="bodies.ball.velocity.x", low=0.5, high=3.0),)})


def test_a_robust_wish_aims_at_the_middle_and_is_judged_on_fresh_draws():
    found = api.robust(bin_shot(), {"bodies.ball.velocity.x": 0.1})
    assert found.values["bodies.ball.velocity.x"] == pytest.approx(0.8 / 0.4, abs=0.03)
    assert found.verdict == "surely"
    assert found.low < found.share <= found.high
    assert found.before < 0.2
    wide = api.robust(bin_shot(), {"bodies.ball.velocity.x": 0.4})
    assert wide.verdict == "missed"
    assert wide.share == pytest.approx(0.468, abs=0.08)  # of a normal within 0.25/0.4 deviations of the middle
    with pytest.raises(InputError, match="jitter"):
        api.robust(bin_shot(), {"bodies.ball.velocity.x": 0.0})


def test_either_or_keeps_the_nearer():
    case = bin_shot().model_copy(update={"targets": ()})
    found = api.either(case, [["x within 0.7 to 0.9 m"], ["x within 0.2 to 0.4 m"]])
    assert found.kept == 0
    assert 0.7 <= 0.4 * found.solution.values["bodies.ball.velocity.x"] <= 0.9
    assert all(branch.nearest is not None for branch in found.branches)
    far = api.either(case, [["x within 7 to 9 m"], ["x within 0.2 to 0.4 m"]])
    assert far.kept == 1
    assert "x within 7 to 9 m: not met" in far.words.replace("x 7", "x within 7").replace("  ", " ")
    with pytest.raises(InputError, match="two or more"):
        api.either(case, [["x within 7 to 9 m"]])


def test_variants_stand_side_by_side():
    case = bin_shot()
    found = api.variants(case, {"faster": {"bodies.ball.velocity.x": 2.0}, "slower": {"bodies.ball.velocity.x": 0.5}},
                         ["x", "travel"])
    assert [v.value for v in found.outcomes["x"]] == pytest.approx([0.6, 0.8, 0.2])
    assert [reports[0].met for reports in found.targets] == [False, True, False]
    assert set(api.variants(case, {}).outcomes) >= {"ball travel", "ball peak speed"}
    with pytest.raises(InputError, match="another name"):
        api.variants(case, {"as it is": {}})


def test_how_much_more_evidence_halves_an_interval():
    from benchmarks.tables import TABLES

    case, _ = TABLES["run-out"](np.random.default_rng(0))
    result = fit(case)
    (more,) = how_much_more(case, result)
    assert (more.kind, more.present, more.to_halve) == ("row", 20, 60)
    twice = case.table.model_copy(update={"columns": {name: cells * 4 for name, cells in case.table.columns.items()}})
    shown = fit(case.model_copy(update={"table": twice}))
    e = shown.estimates[MU]
    assert 0.5 * (e.high - e.low) == pytest.approx(more.half_width_after(60), rel=0.1)


# -- numbers -------------------------------------------------------------------------------------


@pytest.mark.parametrize(("axes", "expected"), [("world", (2 * cos(0.3) * cos(0.5), 2 * cos(0.3) * sin(0.5), 2 * sin(0.3))),
                                                ("body", None)])
def test_a_launch_by_angles(axes, expected):
    a = radians(90)
    thrown = ball(0.05, position=(0, 0, 1.0), velocity=LaunchAngles(speed=2.0, elevation=0.3, azimuth=0.5, axes=axes), mass=0.2,
                  orientation=(cos(a / 2), 0.0, 0.0, sin(a / 2)))
    case = scene({"ball": thrown}, duration=0.1, gravity=0.0)
    v = api.simulate(case).states[0, 0, 7:10]
    turned = (-2 * cos(0.3) * sin(0.5), 2 * cos(0.3) * cos(0.5), 2 * sin(0.3))
    assert v == pytest.approx(expected or turned, abs=1e-12)
    again = api.simulate(case, {"bodies.ball.elevation": 0.0, "bodies.ball.azimuth": 0.0, "bodies.ball.speed": 1.0}).states[0, 0,
                                                                                                                            7:10]
    assert again == pytest.approx((1.0, 0.0, 0.0) if axes == "world" else (0.0, 1.0, 0.0), abs=1e-12)


@pytest.mark.parametrize("tilt", [0.0, 0.2])
@pytest.mark.parametrize("support", ["plane", "box"])
def test_a_natural_roll_follows_the_velocity_on_any_face(tilt, support):
    from yapa.case.scene import NaturalRoll

    lane = floor() if support == "plane" else box((4.0, 1.0, 0.1), motion="static", position=(0, 0, -0.05))
    rolling = ball(0.05, position=(0, 0, 1.0), velocity=(1.0, 0.5, 0), mass=0.2, angular_velocity=NaturalRoll(rolling_on="lane"))
    case = scene({"ball": rolling, "lane": lane}, duration=0.1, gravity=0.0)
    n = np.array([sin(tilt), 0.0, cos(tilt)])
    for v in ((1.0, 0.5, 0.0), (2.0, 0.0, 0.0)):
        values = {"bodies.lane.tilt.y": tilt, "bodies.ball.velocity.x": v[0], "bodies.ball.velocity.y": v[1]}
        w = api.simulate(case, values).states[0, 0, 10:13]
        assert w == pytest.approx(np.cross(n, v) / 0.05, abs=1e-9)


def test_ties_have_a_factor_and_an_offset():
    case = crate_on_slope(0.0, 1.0, 0.5, friction=0.3)
    x, y, z = (f"bodies.crate.size.{a}" for a in "xyz")
    unknown = Unknown(path=x, low=0.1, high=0.6, linked=(Tie(path=y, factor=0.5), Tie(path=z, factor=2.0, offset=0.01)))
    case = case.model_copy(update={"unknowns": (unknown,)})
    grown = api.with_numbers(case, {x: 0.4})
    assert grown.bodies["crate"].shapes[0].size == pytest.approx((0.4, 0.2, 0.81))
    from yapa.formats.case_json import case_text, parse_case

    assert parse_case(case_text(case), "case").unknowns == case.unknowns
    with pytest.raises(InputError, match=r"size\.z, which lies"):
        parse_case(case_text(case.model_copy(update={"unknowns": (
            unknown.model_copy(update={"linked": (Tie(path=z, factor=1.0, offset=-0.5),)}),)})), "case")


def test_a_fit_refuses_numbers_of_the_solver():
    from yapa.formats.case_json import case_text, parse_case

    case = bin_shot().model_copy(update={"unknowns": (Unknown(path="profile.step", low=1e-3, high=1e-2),)})
    with pytest.raises(InputError, match="threshold"):
        parse_case(case_text(case), "case")


@pytest.mark.parametrize(("path", "text", "value"), [
    ("bodies.ball.position.z", "80 cm", 0.8), ("bodies.ball.tilt.y", "30 deg", radians(30)), ("bodies.ball.mass", "0.2", 0.2),
    ("bodies.ball.velocity.x", "36 km/h", 10.0), ("bodies.ball.density", "1 g/cm**3", 1000.0),
    ("surfaces.rind.friction", "40 %", 0.4),
])
def test_numbers_take_units(path, text, value):
    assert api.number_with_unit(path, text) == pytest.approx(value, rel=1e-12)
    assert degrees(api.number_with_unit("bodies.ball.tilt.y", "30 deg")) == pytest.approx(30)


@pytest.mark.parametrize(("path", "text"), [("bodies.ball.mass", "2 m"), ("bodies.ball.mass", "heavy"), ("gravity", "9.8 lemons")])
def test_units_of_something_else_are_refused(path, text):
    with pytest.raises(InputError):
        api.number_with_unit(path, text)
