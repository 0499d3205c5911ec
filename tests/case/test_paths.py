"""Numbers by their path: what is listed can be read, written and run."""

import numpy as np
import pytest
from benchmarks.scenes import crate_on_slope

from yapa.case import get_number, label_of, numbers, quantity_of, with_numbers
from yapa.case.parameters import combine
from yapa.case.rotations import tilt_of
from yapa.demo import demo_paths
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.formats.case_file import load_case


@pytest.mark.parametrize("path", demo_paths(), ids=lambda p: p.stem)
def test_every_number_can_be_written_and_read_back(path):
    case = load_case(path)[0]
    for name, value in numbers(case).items():
        other = value * 1.01 + (0.001 if value >= 0 else -0.001)
        slack = 1e-11 if ".tilt." in name else 0  # goes by way of a quaternion
        assert get_number(with_numbers(case, {name: other}), name) == pytest.approx(other, abs=slack, rel=0)
        assert label_of(name)
        assert quantity_of(name).meaning


def test_a_value_given_to_a_run_is_the_same_as_one_written_into_the_case():
    case = crate_on_slope(20.0, 1.5, 0.5, friction=0.3)
    for path, value in {"surfaces.both.friction": 0.1, "bodies.crate.speed": 2.0, "bodies.crate.size.z": 0.3,
                        "bodies.crate.position.x": 0.2, "gravity": 5.0, "bodies.crate.mass": 7.0}.items():
        direct = simulate(case, {path: value}).states
        written = simulate(with_numbers(case, {path: value})).states
        assert (direct == written).all(), path


def test_a_misspelt_path_is_answered_with_near_ones():
    with pytest.raises(InputError, match=r"bodies\.crate\.mass"):
        get_number(crate_on_slope(20.0, 1.0, 1.0), "bodies.crate.mas")


def test_pairing_rules():
    assert combine("mean", 0.2, 0.8) == 0.5
    assert combine("geometric mean", 0.2, 0.8) == pytest.approx(0.4)
    assert combine("product", 0.2, 0.8) == pytest.approx(0.16)
    assert combine("smaller", 0.2, 0.8) == 0.2
    assert combine("larger", 0.2, 0.8) == 0.8


def test_a_tilt_is_the_rotation_vector_of_an_orientation():
    from scipy.spatial.transform import Rotation

    rng = np.random.default_rng(4)
    for k in range(300):
        vector = rng.normal(size=3) * 10.0 ** rng.uniform(-9, 0.4)
        turn = Rotation.from_rotvec(vector).as_quat(scalar_first=True) * (1 if k % 2 else -1)
        assert tilt_of(tuple(turn.tolist())) == pytest.approx(Rotation.from_rotvec(vector).as_rotvec().tolist(), abs=2e-12)
