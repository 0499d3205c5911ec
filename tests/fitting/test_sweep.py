"""Sweeping numbers: a response in one, a map in two, Sobol points; stopped, it keeps what is there."""

import json
import sys

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene
from click.testing import CliRunner

from yapa.case import Unknown
from yapa.cli import cli
from yapa.demo import DATA
from yapa.errors import InputError
from yapa.fitting import Cancel
from yapa.fitting.explore.sweep import axis_of, points, sweep
from yapa.formats.target_text import parse_target

E, MU = "surfaces.both.restitution", "surfaces.both.friction"
APEX, HIGH = parse_target("apex 1 happens"), parse_target("peak height happens")


def dropped():
    case = scene({"orange": ball(position=(0, 0, 1.05)), "plate": floor()}, duration=2.0, restitution=0.5, friction=0.3)
    return case.model_copy(update={"unknowns": (Unknown(path=E, low=0.2, high=0.8),)})


def test_the_apex_follows_the_square_of_restitution():
    response = sweep(dropped(), [axis_of(dropped(), E)], [APEX, parse_target("bounces happens")], 13)
    e = response.values[:, 0]
    assert (e[0], e[-1]) == (0.2, 0.8)
    assert np.abs(response.outcomes[:, 0] - e**2).max() < 1e-6
    assert (np.diff(response.outcomes[:8, 1]) >= 0).all()  # later the clip ends before they are done


def test_two_numbers_make_a_map_and_missing_events_are_told_apart():
    case = dropped()
    response = sweep(case, [axis_of(case, E, 0.0, 0.9), axis_of(case, MU, 0.1, 0.5)], [APEX], 5)
    assert response.values.shape == (25, 2)
    assert np.isnan(response.outcomes[:5, 0]).all()  # no bounce at e = 0
    assert np.ptp(response.outcomes[20:, 0]) == 0.0  # friction does nothing


def test_sobol_points_fill_the_ranges_and_come_again():
    case = dropped()
    axes = [axis_of(case, E), axis_of(case, "bodies.orange.mass", 0.01, 100.0)]
    one, two = points(axes, 64, True, 3), points(axes, 64, True, 3)
    assert (one == two).all()
    assert 0.2 <= one[:, 0].min() < 0.25 < 0.75 < one[:, 0].max() <= 0.8
    assert np.median(one[:, 1]) == pytest.approx(1.0, rel=0.2)  # logarithmic


def test_any_number_of_threads_gives_the_same_bits():
    case = dropped()
    got = [sweep(case, [axis_of(case, E)], [APEX], 40, threads=n).outcomes.tobytes() for n in (1, 2)]
    assert got[0] == got[1]


def test_what_is_read_in_python_is_swept_in_one_thread_and_what_is_told_in_all(monkeypatch):
    """What is light is told by the share of compiled code, which alone runs beside other threads."""
    case = dropped()
    axes = [axis_of(case, E)]
    module = sys.modules["yapa.fitting.explore.sweep"]
    monkeypatch.setattr("os.cpu_count", lambda: 3)
    monkeypatch.setattr(module, "MIN_COMPILED_FRACTION", 1.1)
    light = sweep(case, axes, [HIGH], 300)
    monkeypatch.setattr(module, "MIN_COMPILED_FRACTION", 0.0)
    heavy = sweep(case, axes, [HIGH], 300)
    assert (light.threads, heavy.threads) == (1, 3)
    assert light.outcomes.tobytes() == heavy.outcomes.tobytes()
    assert sweep(case, axes, [HIGH], 300, threads=2).threads == 2
    monkeypatch.setattr(module, "MIN_COMPILED_FRACTION", 1.1)
    assert sweep(case, axes, [APEX], 300).threads == 3  # told by compiled code


def test_a_stopped_sweep_keeps_what_is_there():
    case, cancel = dropped(), Cancel()
    response = sweep(case, [axis_of(case, E)], [APEX], 5000, cancel=cancel, progress=lambda done, _all: cancel.set())
    assert response.stopped
    assert 0 < len(response.outcomes) < 5000


@pytest.mark.parametrize(("path", "low", "high", "said"), [
    (E, 0.9, 0.1, "a range that rises"), ("bodies.orange.mass", -1.0, 1.0, "1e-09 to 1e+09"),
    ("bodies.orange.colour", None, None, "a number"),
])
def test_a_range_that_cannot_be_swept_is_refused(path, low, high, said):
    with pytest.raises(InputError) as caught:
        axis_of(dropped(), path, low, high)
    assert said in str(caught.value)


def test_the_command_writes_a_table(tmp_path):
    out = tmp_path / "map.json"
    done = CliRunner().invoke(cli, ["sweep", str(DATA / "orange-drop.yapa"), "--over", "pairs.rind+pad.restitution=0.4..0.8",
                                    "--outcome", "apex 2", "--outcome", "rest time", "--count", "5", "--json", str(out)])
    assert done.exit_code == 0, done.output
    assert "5 runs" in done.output
    found = json.loads(out.read_text())
    assert [row[0] for row in found["values"]] == pytest.approx([0.4, 0.5, 0.6, 0.7, 0.8])
    apexes = [row[0] for row in found["found"]]
    assert all(a is not None and b > a for a, b in zip(apexes, apexes[1:], strict=False))


def test_what_is_tied_to_a_swept_number_follows_it():
    case = scene({"a": ball(position=(0, 0, 0.5)), "b": ball(position=(1, 0, 0.5)), "plate": floor()}, duration=0.2)
    path, other = "bodies.a.velocity.x", "bodies.b.velocity.x"
    tied = case.model_copy(update={"unknowns": (Unknown(path=path, low=-1, high=1, linked=(other,)),)})
    found = sweep(tied, [axis_of(tied, path, 0.1, 0.9)], [parse_target("b travel happens")], 5)
    assert np.allclose(found.outcomes[:, 0], 0.2 * found.values[:, 0], atol=1e-6)


@pytest.mark.parametrize("outcome", ["overlap", "tilt", "apex 4"])
def test_any_outcome_is_swept_and_one_that_does_not_occur_says_why(outcome):
    case = scene({"a": ball(position=(0, 0, 0.5)), "plate": floor()}, duration=0.9, restitution=0.5)
    found = sweep(case, [axis_of(case, "bodies.a.mass", 0.1, 0.9)], [parse_target(f"{outcome} happens")], 4)
    missing = np.isnan(found.outcomes[:, 0])
    assert missing.all() == (outcome == "apex 4")
    assert bool(found.missing) == bool(missing.any())
    assert all(len(words) > 5 for words in found.missing.values())
