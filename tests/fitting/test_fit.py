"""Fits: the demo tracks give back what they were made from, and what cannot be told is not told."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.case import Samples, Target, Track, Unknown
from yapa.case.unknowns import from_unit_box, to_unit_box
from yapa.demo import DATA
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import Cancel, Setup, fit, parse_unknown, prepare
from yapa.fitting.setup.from_targets import from_outcomes
from yapa.formats.tracks.plain_csv import read_track

TELLABLE = {
    "orange-drop": {"pairs.rind+pad.restitution": "restitution", "bodies.orange.drag_coefficient": "drag_coefficient",
                    "bodies.orange.position.z": "height"},
    "orange-throw": {"pairs.rind+rubber.restitution": "restitution", "pairs.rind+rubber.friction": "friction",
                     "bodies.orange.drag_coefficient": "drag_coefficient", "bodies.orange.velocity.x": "vx0",
                     "bodies.orange.velocity.z": "vz0", "bodies.orange.angular_velocity.y": "spin0",
                     "bodies.orange.position.z": "z0"},
    "crate-chute": {"pairs.wood+steel.friction": "friction", "bodies.crate.speed": "speed"},
    "grapefruit-lane": {"pairs.peel+lane felt.friction": "friction",
                        "pairs.peel+lane felt.rolling_resistance": "rolling_resistance",
                        "bodies.grapefruit.velocity.x": "vx0"},
    "lemons-nudge": {"pairs.lemon peel+lemon peel.restitution": "restitution", "pairs.lemon peel+belt.friction": "friction",
                     "bodies.lemon a.mass": "mass_a", "bodies.lemon a.velocity.x": "v0"},
}


@pytest.mark.parametrize("name", TELLABLE)
def test_a_demo_track_gives_back_its_truth(name, demo, truth):
    result = fit(demo(name))
    assert result.stopped == "converged"
    assert 0.9 < result.misfit < 1.1
    for path, key in TELLABLE[name].items():
        e = result.estimates[path]
        assert e.determined, path
        assert abs(e.value - truth[name][key]) < 3.2 * e.std, path
        assert e.low < e.value < e.high


def test_two_wanted_outcomes_are_met_by_the_nearest_change(demo):
    case = demo("orange-wanted")
    result = fit(case)
    assert result.stopped == "converged"
    assert all(t.met for t in result.targets)
    assert result.estimates["pairs.rind+pad.friction"].value == pytest.approx(0.4, abs=0.02)  # nothing asked it to move


def test_a_bounce_and_a_rest_time_asked_for_from_nothing():
    case = from_outcomes("wanted", 0.04, None, 0.2, 1.0, [
        Target(outcome="apex", index=1, value=0.45, tolerance=0.01), Target(outcome="apex", index=2, value=0.2, tolerance=0.01),
        Target(outcome="rest time", value=2.26, tolerance=0.1)])
    result = fit(case)
    assert all(t.met for t in result.targets), result.findings


def test_a_bounce_that_does_not_exist_yet_is_found():
    case = scene({"b": ball(position=(0, 0, 1.05)), "f": floor()}, restitution=0.2, duration=3.0)
    case = case.model_copy(update={
        "targets": (Target(outcome="apex", index=4, value=0.1, tolerance=0.005),),
        "unknowns": (Unknown(path="surfaces.both.restitution", low=0.05, high=0.98),)})
    result = fit(case)
    assert result.targets[0].met
    assert result.values["surfaces.both.restitution"] == pytest.approx(0.1 ** (1 / 8), abs=2e-3)


def test_a_count_of_bounces_can_be_asked_for():
    case = scene({"b": ball(position=(0, 0, 1.05)), "f": floor()}, restitution=0.4, duration=4.0)
    case = case.model_copy(update={
        "targets": (Target(outcome="bounces", value=6, tolerance=0.4),),
        "unknowns": (Unknown(path="surfaces.both.restitution", low=0.05, high=0.98),)})
    result = fit(case)
    assert result.targets[0].now == 6


def test_a_target_out_of_reach_is_called_missed():
    case = scene({"b": ball(position=(0, 0, 1.05)), "f": floor()}, restitution=0.4)
    case = case.model_copy(update={
        "targets": (Target(outcome="apex", index=1, value=2.0, tolerance=0.01),),
        "unknowns": (Unknown(path="surfaces.both.restitution", low=0.05, high=0.9),)})
    result = fit(case)
    assert result.stopped == "not converged"
    assert not result.targets[0].met
    assert any("is missed by" in f for f in result.findings)


def gripping_throw(seed=3, noise=0.001):
    """Every contact grips: friction is 0.4, and nothing can tell."""
    b = ball(0.038, mass=0.14, position=(0, 0, 0.9), velocity=(1.2, 0, 1.5), angular_velocity=(0, 24.0, 0))
    motion = simulate(scene({"b": b, "f": floor()}, duration=1.9, restitution=0.7, friction=0.4), times=np.arange(0, 1.9, 1 / 240))
    rng = np.random.default_rng(seed)
    t = motion.times
    return Samples(
        t=tuple(t.tolist()), x=tuple((motion.states[:, 0, 0] + rng.normal(0, noise, t.shape)).tolist()),
        z=tuple((motion.states[:, 0, 2] + rng.normal(0, noise, t.shape)).tolist()),
        angle=tuple((motion.states[:, 0, 14] + rng.normal(0, 0.02, t.shape)).tolist()))


@pytest.mark.parametrize("seed", range(4))
def test_friction_beyond_grip_is_undetermined_with_a_lower_bound(seed):
    unknown = {name: None for name in ("restitution", "friction", "velocity", "spin")}
    done = prepare(gripping_throw(seed), Setup(radius=0.038, mass=0.14, unknown=unknown, sigma=0.001, sigma_angle=0.02))
    e = fit(done.case).estimates["pairs.body+support.friction"]
    assert not e.determined
    assert e.std is None
    assert e.high is None
    assert 0 < e.low <= 0.4
    assert "grips" in e.reason


def test_mass_of_a_lone_body_cannot_be_told():
    read = read_track(DATA / "orange-drop.csv")
    done = prepare(read.samples, Setup(radius=0.037, unknown={"restitution": None, "mass": None}, sigma=0.001))
    e = fit(done.case).estimates["bodies.body.mass"]
    assert not e.determined
    assert "mass" in e.reason


def test_mass_and_drag_are_told_only_together():
    read = read_track(DATA / "orange-drop.csv")
    unknown = {"restitution": None, "mass": None, "drag_coefficient": None}
    told = fit(prepare(read.samples, Setup(radius=0.037, mass=0.18, unknown=unknown, sigma=0.001)).case).estimates
    assert not told["bodies.body.mass"].determined
    assert told["bodies.body.mass"].reason.startswith("only mass/drag coefficient is known")
    assert "collision" in told["bodies.body.drag_coefficient"].reason


def test_outliers_are_counted_and_left_out(truth):
    samples = read_track(DATA / "orange-drop.csv").samples
    rng = np.random.default_rng(8)
    bad = rng.choice(len(samples.t), 8, replace=False)
    z = [v + (0.08 if k in bad else 0.0) for k, v in enumerate(samples.z)]
    done = prepare(samples.model_copy(update={"z": tuple(z)}),
                   Setup(radius=0.037, mass=0.182, unknown={"restitution": None, "drag_coefficient": None}, sigma=0.001))
    result = fit(done.case)
    e = result.estimates["pairs.body+support.restitution"]
    assert 7 <= result.outliers <= 10
    assert abs(e.value - truth["orange-drop"]["restitution"]) < 4 * e.std
    assert 0.85 < result.misfit < 1.15


def test_the_same_fit_gives_the_same_bits(demo):
    assert fit(demo("orange-throw")).values == fit(demo("orange-throw")).values


def test_a_stopped_fit_keeps_its_best(demo):
    cancel = Cancel()
    seen = []

    def progress(p):
        seen.append(p)
        if p.misfit is not None and p.misfit < 50:
            cancel.set()

    result = fit(demo("orange-throw"), progress, cancel)
    assert result.stopped == "cancelled"
    assert result.misfit < 50
    assert all(not e.determined and e.std is None for e in result.estimates.values())
    assert seen[-1].simulations > 0


def test_a_track_and_a_target_are_fitted_together(demo):
    case = demo("orange-drop")
    case = case.model_copy(update={"targets": (Target(outcome="apex", index=1, value=0.75, tolerance=0.005),)})
    result = fit(case)
    assert result.targets[0].met
    assert result.misfit < 1.1


def test_a_case_with_nothing_free_is_refused(demo):
    case = demo("orange-drop")
    locked = tuple(u.model_copy(update={"fixed": True}) for u in case.unknowns)
    with pytest.raises(InputError, match="no free number"):
        fit(case.model_copy(update={"unknowns": locked}))


def test_calibrate_takes_a_newcomer_from_a_file_to_numbers(truth):
    setup = Setup(radius=0.037, mass=0.182, unknown={"restitution": None, "drag_coefficient": None})
    done = api.calibrate(DATA / "orange-drop.csv", setup)
    assert set(done.estimates) == {"restitution", "drag_coefficient", "velocity.x", "velocity.z", "position.x", "position.z"}
    assert done.assumed["friction"] == 0.5
    assert done.assumed["sigma"] == pytest.approx(0.001, rel=0.2)
    assert done.case.trials[-1].source == "fit"
    data = done.as_dict()
    assert data["values"]["restitution"]["determined"] is True
    assert abs(data["values"]["restitution"]["value"] - truth["orange-drop"]["restitution"]) < 0.001


def test_a_slope_fits_the_start_and_reports_world_components(truth):
    setup = Setup(size=(0.4, 0.3, 0.2), mass=3.2, slope=19.5, unknown={"friction": None, "velocity": None}, sigma=0.001)
    told = api.calibrate(DATA / "crate-chute.csv", setup).estimates
    p = truth["crate-chute"]
    assert abs(told["velocity"].value - p["speed"]) < 3.5 * told["velocity"].std
    assert told["velocity.x"].value == pytest.approx(told["velocity"].value * np.cos(np.radians(19.5)))
    assert abs(told["friction"].value - p["friction"]) < 3.5 * told["friction"].std


def test_what_is_fixed_stays_and_is_not_reported_as_found():
    setup = Setup(radius=0.037, unknown={"restitution": None}, fixed={"velocity.x": 0.0, "gravity": 9.81}, sigma=0.001)
    done = prepare(read_track(DATA / "orange-drop.csv").samples, setup)
    assert "velocity.x" not in done.short.values()
    assert done.case.fields.gravity == 9.81
    assert "gravity" not in done.assumed


@pytest.mark.parametrize("setup", [
    Setup(), Setup(radius=0.1, size=(1, 1, 1)), Setup(radius=-1.0), Setup(radius=0.1, unknown={"bounce": None}),
    Setup(radius=0.1, unknown={"friction": (1.0, 0.5)}), Setup(radius=0.1, slope=95.0, floor=None),
    Setup(radius=0.1, unknown={"friction": None}, fixed={"friction": 0.2}), Setup(radius=0.1, fixed={"wobble": 1.0}),
    Setup(radius=0.1, mass=0.0), Setup(radius=0.1, sigma=-0.001), Setup(radius=0.1, unknown={"velocity": (0.0, 1.0)}),
])
def test_a_setup_that_makes_no_sense_is_refused(setup):
    with pytest.raises(InputError):
        prepare(read_track(DATA / "orange-drop.csv").samples, setup)


def test_ranges_are_read_from_words():
    assert parse_unknown("friction") == ("friction", None)
    assert parse_unknown("friction=0.1..0.6") == ("friction", (0.1, 0.6))
    assert parse_unknown("velocity.x=-2..3e0") == ("velocity.x", (-2.0, 3.0))
    with pytest.raises(InputError):
        parse_unknown("friction=0.1-0.6")


def test_the_unit_box_holds_linear_and_logarithmic_unknowns():
    for u in (Unknown(path="gravity", low=1, high=5), Unknown(path="gravity", low=1, high=1000, transform="log")):
        for share in (0.0, 0.3, 1.0):
            assert to_unit_box(u, from_unit_box(u, share)) == pytest.approx(share)


def test_gravity_itself_may_be_found(demo):
    case = demo("orange-drop")
    unknown = Unknown(path="gravity", low=8.0, high=12.0)
    case = case.model_copy(update={"unknowns": (*case.unknowns[:3], unknown)})
    e = fit(case).estimates["gravity"]
    assert abs(e.value - 9.80665) < 4 * e.std


def test_two_tracks_of_one_case_must_name_their_bodies(demo):
    case = demo("lemons-nudge")
    twin = Track(name="again", body="lemon a", samples=case.tracks[0].samples, sigma=0.001)
    result = fit(case.model_copy(update={"tracks": (*case.tracks, twin)}))
    assert 0.9 < result.misfit < 1.1
