"""What a camera sees of whole bodies, and what took the energy that a body lost; each against its closed form."""

from __future__ import annotations

from math import hypot

import pytest
from benchmarks.scenes import ball, floor, scene

from tests.outcomes.test_order_and_zones import box, value
from yapa.case.scene import Camera
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.formats.case_json import case_text, parse_case
from yapa.formats.motion_npz import load_motion, save_motion
from yapa.formats.target_text import parse_target
from yapa.outcomes import read_target
from yapa.outcomes.kinds.loss_share import AIR, loss_shares, stopped_by


def seen(**camera):
    """A ball of 5 cm that hangs two metres in front of a camera which looks along +y."""
    case = scene({"ball": ball(0.05, position=(0.3, 2.0, 1.0))}, duration=0.0, gravity=0.0)
    told = {"position": (0.0, 0.0, 1.0), "aim": (0.0, 5.0, 1.0), "focal_length": 0.036, "frame": (0.036, 0.024), **camera}
    return case.model_copy(update={"cameras": {"gate": Camera(**told)}})


def test_a_ball_is_in_the_picture_by_its_distance_to_the_nearest_face():
    # half the width of the picture is half the distance: the face goes through (1, 2, 1), its normal is (-2, 1, 0) / √5
    right = (2.0 * 0.5 - 0.3) * 2 / hypot(2, 1) - 0.05
    assert value(seen(), "wholly inside camera gate").value == pytest.approx(right, abs=1e-12)
    low = (2.0 / 3) * 3 / hypot(3, 1)
    assert value(seen(aim=(0.3 * 2.5, 5.0, 1.0)), "stays wholly inside camera gate").value == pytest.approx(
        low * hypot(0.3, 2.0) / 2.0 - 0.05, abs=1e-12)
    assert value(seen(focal_length=0.2), "wholly inside camera gate").value < -0.05
    assert value(seen(aim=(0.0, -5.0, 1.0)), "wholly inside camera gate").value < -2.0


@pytest.mark.parametrize("aim", [(0.0, 0.0, 5.0), (0.0, 0.0, -5.0)])
def test_a_camera_aimed_straight_up_or_down_has_its_width_along_x(aim):
    ahead = 1.0 if aim[2] > 0 else -1.0
    case = seen(position=(0.0, 0.0, 1.0), aim=aim)
    crate = box((0.1, 0.1, 0.1), position=(0.9, 0.0, 1.0 + 2.0 * ahead), mass=1.0)
    wide = case.model_copy(update={"bodies": {"crate": crate}})
    assert value(wide, "wholly inside camera gate").value < 0.1
    long = case.model_copy(update={"bodies": {"crate": crate.model_copy(update={"position": (0.0, 0.9, 1.0 + 2.0 * ahead)})}})
    assert value(long, "wholly inside camera gate").value < -0.1


def test_a_case_keeps_its_cameras_and_a_target_names_one_of_them(tmp_path):
    case = seen()
    again = parse_case(case_text(case), "again")
    assert again.cameras == case.cameras
    assert "cameras" not in case_text(scene({"ball": ball()}))
    target = parse_target("ball stays wholly inside camera gate at least 0")
    assert target.label == "ball stays wholly inside camera gate"
    with pytest.raises(InputError, match="no camera named 'door'"):
        case.with_(targets=[parse_target("ball wholly inside camera door at least 0")])
    with pytest.raises(InputError, match="region or a camera"):
        parse_target("ball wholly inside at least 0")
    with pytest.raises(InputError, match="another point"):
        Camera(position=(0, 0, 1), aim=(0, 0, 1))
    save_motion(simulate(case), tmp_path / "motion.npz")
    assert read_target(load_motion(tmp_path / "motion.npz"), "ball", target) == read_target(simulate(case), "ball", target)


def test_what_stopped_it_is_shared_by_the_energy_that_each_took():
    # slides 0.5 m at μ = 0.2, then hits a wall that gives half the speed back: ½ v² loses μ g s, then ¾ of what is left
    wall = box((0.1, 2.0, 2.0), motion="static", position=(0.55 + 0.1, 0, 1.0))
    crate = box((0.2, 0.2, 0.2), position=(0.0, 0, 0.1), mass=1.0, velocity=(3.0, 0, 0), locked_axes=("rotation_y",))
    case = scene({"crate": crate, "wall": wall, "ground": floor()}, duration=3.0, friction=0.2, restitution=0.5)
    motion = simulate(case)
    shares = loss_shares(motion, "crate")
    hit = motion.contacts_of("crate")
    first = next(c for c in hit if c.partner == "wall")
    after = float(motion.trajectory("crate").velocity(motion.times[motion.times > first.time][:1])[0][0])
    assert first.approach**2 == pytest.approx(9.0 - 2 * 0.2 * 9.80665 * 0.5, rel=1e-3)
    by_wall = (first.approach**2 - after**2) / 9.0
    assert shares["wall"] == pytest.approx(by_wall, abs=0.02)
    assert sum(shares.values()) == pytest.approx(1.0)
    assert value(case, "loss share with wall", "crate").value == shares["wall"]
    assert stopped_by(motion, "crate").startswith("its energy went to wall")


def test_what_flies_in_air_loses_to_the_air_and_what_loses_nothing_says_so():
    flying = scene({"ball": ball(0.05, position=(0, 0, 2), velocity=(8, 0, 0), drag_coefficient=0.5, mass=0.05)}, duration=0.5)
    assert loss_shares(simulate(flying), "ball") == {AIR: 1.0}
    free = scene({"ball": ball(0.05, velocity=(1, 0, 0)), "ground": floor(position=(0, 0, -5.0))}, duration=0.2, gravity=0.0)
    assert loss_shares(simulate(free), "ball") == {}
    assert value(free, "loss share with ground").value is None
