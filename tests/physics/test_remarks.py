"""What the engine could not do well is said; what it did well is not remarked on."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, pile, scene

from yapa import api
from yapa.case import Body, Box, Keyframe
from yapa.engine import simulate

EDGE = 0.2


def crate(z, mass, x=0.0, **body):
    return Body(shapes=(Box(kind="box", size=(EDGE, EDGE, EDGE), surface="both"),), position=(x, 0, z), mass=mass, **body)


def stack(count, mass, top):
    return {f"crate {k}": crate(EDGE * (k + 0.5), top if k == count - 1 else mass) for k in range(count)}


def kinds(motion):
    return {remark.kind: remark for remark in motion.remarks}


def test_nothing_is_said_of_a_stack_that_stands():
    motion = simulate(scene({**stack(10, 1.0, 1.0), "f": floor()}, duration=3.0, friction=0.5))
    assert motion.regime_switches > 0
    assert not motion.remarks


def test_a_poured_pile_that_bounced_in_a_crowd_is_a_trouble_with_its_bodies_time_and_energy():
    case = pile(20, np.random.default_rng(1))
    case = case.model_copy(update={"duration": 1.0})
    remark = kinds(simulate(case))["handed over"]
    assert remark.severity == "trouble"
    assert "more" in remark.about
    assert " s; " in remark.symptom
    assert " J " in remark.symptom
    assert "%" in remark.symptom
    assert "handed over" in {finding.kind for finding in api.check(case)}


def test_a_row_of_crates_that_slides_on_in_a_crowd_is_a_note():
    bodies = {f"crate {k}": crate(EDGE / 2 + EDGE * (k % 3), 1.0, x=EDGE * (k // 3), velocity=(1.0, 0, 0)) for k in range(9)}
    remark = kinds(simulate(scene({**bodies, "f": floor()}, duration=0.5, friction=0.3)))["handed over"]
    assert remark.severity == "note"


def light_under_heavy():
    """Light crates under a heavy one, which soft contacts do not keep apart."""
    return scene({**stack(8, 0.0017, 29.0), "f": floor()}, duration=1.0, friction=0.5)


def test_light_crates_under_a_heavy_one_are_said_to_overlap():
    motion = simulate(light_under_heavy())
    remark = kinds(motion)["overlap"]
    assert remark.severity == "trouble"
    assert "mm at" in remark.symptom


def test_a_body_that_is_crushed_through_a_wall_is_said_to_have_gone_through():
    press = (Keyframe(time=0.0, position=(-0.5, 0, 0.1)), Keyframe(time=0.5, position=(0.5, 0, 0.1)))
    bodies = {
        "press": Body(motion="kinematic", keyframes=press, shapes=(Box(kind="box", size=(0.2, 0.4, 0.2), surface="both"),)),
        "crate": crate(0.1, 1.0),
        "wall": Body(motion="static", position=(0.3, 0, 0.5), shapes=(Box(kind="box", size=(0.01, 2.0, 1.0), surface="both"),)),
        "f": floor()}
    said = kinds(simulate(scene(bodies, duration=0.6, friction=0.3)))
    assert "overlap" in said
    assert "went through" in said
    assert said["went through"].about == "crate"
    assert "wall" in said["went through"].symptom


def test_balls_that_break_a_rack_stay_exact_and_nothing_is_said():
    bodies = {"cue": ball(0.03, mass=0.1, position=(-0.3, 0, 0.03), velocity=(2.0, 0, 0))}
    for row in range(3):
        for k in range(row + 1):
            bodies[f"ball {row} {k}"] = ball(0.03, mass=0.1, position=(row * 0.052, (k - row / 2) * 0.0605, 0.03))
    motion = simulate(scene({**bodies, "f": floor()}, duration=2.0, restitution=0.9, friction=0.2, rolling_resistance=0.02))
    assert motion.regime_switches == 0
    assert not motion.remarks


def test_remarks_are_pickled_with_their_motion():
    import pickle

    motion = simulate(scene({**stack(8, 0.0017, 29.0), "f": floor()}, duration=0.5, friction=0.5))
    again = pickle.loads(pickle.dumps(motion))
    assert list(again.remarks) == list(motion.remarks)
    assert len(again.contacts) == len(motion.contacts)


@pytest.mark.parametrize("way", ["simulate", "fit"])
def test_commands_and_fits_say_it_too(way, tmp_path):
    from click.testing import CliRunner

    from yapa.case import Target, Unknown
    from yapa.cli.app import cli
    from yapa.formats.case_json import case_text

    case = scene({**stack(8, 0.0017, 29.0), "f": floor()}, duration=0.5, friction=0.5)
    if way == "fit":
        target = Target(outcome="travel", body="crate 7", value=0.0, tolerance=0.1)
        case = case.model_copy(update={"targets": (target,), "unknowns": (
            Unknown(path="surfaces.both.friction", low=0.3, high=0.7),)})
        assert any("overlap" in line for line in api.fit(case).findings)
        return
    path = tmp_path / "stack.yapa"
    path.write_text(case_text(case))
    done = CliRunner().invoke(cli, ["simulate", str(path)])
    assert done.exit_code == 0, done.output
    assert "trouble: " in done.output
    assert "overlap" in done.output
