"""The stepped profile makes exactly the motion its conventions prescribe."""

import json
from itertools import product
from math import exp

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import PRESETS, Body, Box, OverlapCorrection, Precise, Sleep, Sphere, Stepped
from yapa.engine import simulate, simulate_many
from yapa.errors import InputError
from yapa.formats.case_json import case_text, parse_case

G, H, R, DAMPING, E = 9.80665, 1 / 60, 0.05, 0.7, 0.6
FACTORS = {
    "exponential": exp(-DAMPING * H), "linear": 1 - DAMPING * H, "power": (1 - DAMPING) ** H,
    "implicit": 1 / (1 + DAMPING * H), "per_step": 1 - DAMPING,
}


def dropped(profile, damping=0.0, **more):
    ball = Body(shapes=(Sphere(kind="sphere", radius=R, surface="both"),), position=(0, 0, 0.5), linear_damping=damping)
    return scene({"ball": ball, "floor": floor()}, duration=1.5, restitution=E, profile=profile, **more)


def kicked(v, h, form, acts, share):
    """One kick of a scalar fall; ``share`` is the damping's share of the step (Verlet halves it)."""
    factor = FACTORS[form] ** share
    if form == "linear":
        factor = 1 - DAMPING * H * share
    elif form == "implicit":
        factor = 1 / (1 + DAMPING * H * share)
    return (v * factor - G * h) if acts == "before_forces" else (v - G * h) * factor


def by_hand(integrator, found, form, acts, steps):
    """The height of a dropped ball, step by step, with contacts on the grid."""
    z, v, out = 0.5, 0.0, [0.5]

    def bounced(v):
        return max(v, -E * v if -v > 0.2 else 0.0) if v < 0 else v

    for _ in range(steps):
        touching, before = z - R < 1e-4, v
        if integrator == "Verlet":
            v = kicked(v, H / 2, form, acts, 0.5 if form != "per_step" else 1.0)
        else:
            v = kicked(v, H, form, acts, 1.0)
        if touching and found == "before_move":
            v = bounced(v)
        z += H * {"explicit": before, "semi-implicit": v, "midpoint": (before + v) / 2, "Verlet": v}[integrator]
        if integrator == "Verlet":
            v = kicked(v, H / 2, form, acts, 0.5) if form != "per_step" else v - G * H / 2
            if touching and found == "before_move":
                v = max(v, 0.0)
        if found == "after_move" and z - R < 1e-4:
            v = bounced(v)
        out.append(z)
    return np.array(out)


@pytest.mark.parametrize(("integrator", "found", "form", "acts"), list(product(
    ("explicit", "semi-implicit", "midpoint", "Verlet"), ("before_move", "after_move"), FACTORS,
    ("before_forces", "after_forces"))))
def test_every_convention_gives_the_heights_worked_out_by_hand(integrator, found, form, acts):
    profile = Stepped(step=H, integrator=integrator, contact_detection=found, damping=form, damping_stage=acts,
                      overlap_correction=None,
                      warm_start=False)
    motion = simulate(dropped(profile, DAMPING), times=np.arange(91) * H)
    assert np.abs(motion.states[:, 0, 2] - by_hand(integrator, found, form, acts, 90)).max() < 1e-12


def test_substeps_are_steps():
    one = simulate(dropped(Stepped(step=1 / 240)), times=np.arange(60) / 60)
    four = simulate(dropped(Stepped(step=1 / 60, substeps=4)), times=np.arange(60) / 60)
    assert np.abs(one.states[:, 0] - four.states[:, 0]).max() < 1e-12


def test_between_steps_places_go_straight():
    motion = simulate(dropped(Stepped(step=0.1)), times=np.array([0.0, 0.1, 0.125, 0.15, 0.2]))
    z = motion.states[:, 0, 2]
    assert z[2] == pytest.approx(0.75 * z[1] + 0.25 * z[4], abs=1e-15)
    assert z[3] == pytest.approx(0.5 * (z[1] + z[4]), abs=1e-15)


def test_a_timed_impact_stands_where_the_gap_closes():
    motion = simulate(dropped(Stepped(step=H, collision="continuous", overlap_correction=None)))
    z, v, t = 0.5, 0.0, 0.0
    while True:  # semi-implicit: straight on at the new velocity
        v -= G * H
        if z + H * v < R:
            break
        z, t = z + H * v, t + H
    assert motion.contacts[0].time == pytest.approx(t + (z - R) / -v, abs=1e-9)
    assert motion.contacts[0].rebound == pytest.approx(-E * v, rel=1e-12)


def test_on_the_grid_a_fast_ball_passes_a_thin_wall_and_timed_it_does_not():
    wall = Body(motion="static", shapes=(Box(kind="box", size=(0.005, 2, 2), surface="both"),))
    ball = Body(shapes=(Sphere(kind="sphere", radius=0.01, surface="both"),), position=(-1.03, 0, 0), velocity=(40.0, 0, 0))
    ends = {}
    for impacts in ("discrete", "continuous"):
        case = scene({"ball": ball, "wall": wall}, duration=0.2, gravity=0.0, restitution=0.5, profile=Stepped(collision=impacts))
        ends[impacts] = simulate(case).states[-1, 0, 0]
    assert ends["discrete"] > 5.0
    assert ends["continuous"] < -0.01


@pytest.mark.parametrize("found", ["before_move", "after_move"])
def test_a_sliding_block_loses_mu_g_h_a_step_and_stops(found):
    block = Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.1), surface="both"),), position=(0, 0, 0.05), velocity=(1.0, 0, 0))
    case = scene({"block": block, "floor": floor()}, duration=1.0, friction=0.4, restitution=0.0,
                 profile=Stepped(iterations=60, contact_detection=found))
    v = simulate(case, times=np.arange(60) / 60).states[:, 0, 7]
    lost = -np.diff(v[1:14])
    assert np.abs(lost - 0.4 * G / 60).max() < 0.02 * G / 60
    assert abs(v[-1]) < 1e-6


def test_repair_takes_its_share_of_the_overlap_every_step():
    ball = Body(shapes=(Sphere(kind="sphere", radius=R, surface="both"),), position=(0, 0, R - 0.01))
    case = scene({"ball": ball, "floor": floor()}, duration=1.0, gravity=0.0,
                 profile=Stepped(overlap_correction=OverlapCorrection(factor=0.3, allowed_overlap=0.002, max_speed=100.0)))
    z = simulate(case, times=np.arange(20) / 60).states[:, 0, 2]
    assert np.abs(R - z - (0.002 + 0.008 * 0.7 ** np.arange(20))).max() < 1e-12
    limited = simulate(case.model_copy(update={"profile": Stepped(overlap_correction=OverlapCorrection(factor=1.0,
                                                                                                       allowed_overlap=0.0,
                                                                                                       max_speed=0.06))}),
                       times=np.arange(5) / 60).states[:, 0, 2]
    assert np.abs(np.diff(limited) - 0.001).max() < 1e-12


def test_the_cut_off_is_abrupt_or_smooth():
    ball = Body(shapes=(Sphere(kind="sphere", radius=R, surface="both"),), position=(0, 0, R + 0.02), velocity=(0, 0, -0.3))
    rebounds = []
    for cutoff, speed in (("abrupt", 0.2), ("smooth", 0.2), ("abrupt", 0.31)):
        case = scene({"ball": ball, "floor": floor()}, duration=0.2, gravity=0.0, restitution=0.5,
                     profile=Stepped(restitution_threshold_mode=cutoff, restitution_threshold=speed, overlap_correction=None))
        rebounds.append(simulate(case).states[-1, 0, 9])
    assert rebounds == pytest.approx([0.15, 0.075, 0.0], abs=1e-12)  # half way between 0.2 and 0.4: half of it


def stack(profile, count=4):
    bodies = {f"c{k}": Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.2), surface="both"),), position=(0, 0, 0.1 + 0.2 * k))
              for k in range(count)}
    return scene({**bodies, "floor": floor()}, duration=5.0, friction=0.5, restitution=0.0, profile=profile)


def test_a_stack_stands_and_more_iterations_sink_less():
    depths = []
    for iterations in (10, 40):
        motion = simulate(stack(Stepped(iterations=iterations, overlap_correction=None)))
        assert np.abs(motion.states[-1, :4, :2]).max() < 3e-3
        depths.append(float(np.max(0.1 + 0.2 * np.arange(4) - motion.states[-1, :4, 2])))
    assert depths[1] < 0.2 * depths[0]


def test_slow_bodies_are_put_to_rest_and_woken_by_a_hit():
    bodies = dict(stack(Stepped()).bodies)
    bodies["ball"] = Body(shapes=(Sphere(kind="sphere", radius=R, surface="both"),), position=(-3.0, 0, 0.7), velocity=(1.0, 0, 0),
                          gravity_multiplier=0.0)
    case = scene(bodies, duration=4.0, friction=0.5, restitution=0.2, profile=Stepped(sleep=Sleep(delay=0.5)))
    motion = simulate(case, times=np.arange(241) / 60)
    stacked = motion.states[:, :4]
    assert np.all(stacked[130:160, :, 7:13] == 0.0)
    assert np.abs(stacked[-1, 3, :3] - stacked[150, 3, :3]).max() > 1e-3


def test_runs_are_the_same_bits_in_one_thread_and_two():
    case = dropped(Stepped())
    values = np.linspace(0.3, 0.8, 12)[:, None]
    ends = [[m.states[-1].tobytes() for m in simulate_many(case, ["surfaces.both.restitution"], values, threads=n)] for n in (1, 2)]
    assert ends[0] == ends[1]
    assert len(set(ends[0])) > 6


def test_smaller_steps_come_to_the_precise_motion():
    precise = simulate(dropped(Precise())).contacts[0].time
    off = [abs(simulate(dropped(Stepped(step=1 / rate))).contacts[0].time - precise) for rate in (30, 960)]
    assert off[1] < 0.1 * off[0]


def test_a_preset_is_named_by_what_it_is():
    assert PRESETS["60 Hz, 1 substep, 10 iterations"] == Stepped()
    assert all(profile.label == name for name, profile in PRESETS.items())
    assert parse_case(case_text(dropped(Stepped())), "case").profile == Stepped()


def test_a_file_may_name_a_preset_and_a_wrong_name_lists_them():
    tree = dropped(Precise()).model_dump(mode="json")
    tree["profile"] = "240 Hz, 1 substep, 20 iterations"
    assert parse_case(json.dumps(tree), "case").profile == Stepped(step=1 / 240, iterations=20)
    tree["profile"] = "61 Hz"
    with pytest.raises(InputError) as caught:
        parse_case(json.dumps(tree), "case")
    assert "60 Hz, 1 substep, 10 iterations" in str(caught.value)
    assert "profile" in str(caught.value)


@pytest.mark.parametrize("touch", [1e-3, 0.01, 0.05])
def test_contacts_are_solved_from_as_far_as_the_profile_says(touch):
    """With impacts taken at once where things are nearer than ``touch``, a ball that falls slowly turns back at that height."""
    profile = Stepped(step=1 / 240, contact_distance=touch)
    bodies = {"ball": ball(0.05, mass=1.0, position=(0, 0, 0.05 + 0.08), velocity=(0, 0, -0.4)), "f": floor()}
    motion = simulate(scene(bodies, duration=0.6, gravity=0.0, profile=profile, restitution=1.0))
    lowest = motion.states[:, 0, 2].min() - 0.05
    first = next((phase.start for phase in motion.contact_intervals),
                 None) or (motion.contacts[0].time if motion.contacts else None)
    assert first is not None
    height = 0.08 - 0.4 * first
    assert abs(height - touch) <= 2 * 0.4 / 240
    assert lowest > -0.003
