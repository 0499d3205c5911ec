"""What is wrong with a recording, not with the motion: a late clock and a wrong scale are fitted along."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.case import Samples, Track, Unknown, get_number, with_numbers
from yapa.engine import simulate
from yapa.errors import InputError

E = "surfaces.both.restitution"


def thrown():
    orange = ball(position=(0, 0, 1.05), velocity=(1.2, 0, 0.4))
    return scene({"orange": orange, "plate": floor()}, duration=1.8, restitution=0.7, friction=0.3)


def recorded(late, size, seed=3):
    """The throw as a camera sees it that starts early and takes a metre for more than it is."""
    rng = np.random.default_rng(seed)
    motion = simulate(thrown())
    t = np.arange(0, 1.8, 1 / 120)
    x = motion.trajectory("orange").position(np.maximum(t - late, 0.0)) / size + rng.normal(size=(len(t), 3)) * 1e-3
    samples = Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()), z=tuple(x[:, 2].tolist()))
    track = Track(name="camera", body="orange", sigma=1e-3, samples=samples)
    start = with_numbers(thrown(), {E: 0.5})
    return start.model_copy(update={"tracks": (track,)})


def free(case, *paths):
    ranges = {E: (0.1, 0.95), "tracks.camera.time_offset": (-0.2, 0.2), "tracks.camera.scale": (0.8, 1.25), "gravity": (5.0, 15.0)}
    return case.model_copy(update={"unknowns": tuple(
        Unknown(path=p, low=ranges.get(p, (-3.0, 3.0))[0], high=ranges.get(p, (-3.0, 3.0))[1]) for p in paths)})


def test_a_late_clock_is_found_with_the_restitution():
    result = api.fit(free(recorded(0.03, 1.0), E, "tracks.camera.time_offset"))
    assert result.values["tracks.camera.time_offset"] == pytest.approx(-0.03, abs=5e-4)
    assert result.values[E] == pytest.approx(0.7, abs=2e-3)
    assert result.misfit < 1.2


def test_a_wrong_scale_is_found_with_the_restitution():
    result = api.fit(free(recorded(0.0, 1.04), E, "tracks.camera.scale"))
    assert result.values["tracks.camera.scale"] == pytest.approx(1.04, abs=2e-3)
    assert result.values[E] == pytest.approx(0.7, abs=3e-3)


def test_numbers_of_a_track_are_written_and_read_like_any_other():
    case = with_numbers(recorded(0.0, 1.0), {"tracks.camera.time_offset": 0.1})
    assert get_number(case, "tracks.camera.time_offset") == 0.1
    assert case.tracks[0].samples is not None


@pytest.mark.parametrize(("paths", "said"), [
    (("tracks.camera.time_offset", "bodies.orange.position.z", "bodies.orange.velocity.z"), "a later start from another place"),
    (("tracks.camera.scale", "gravity"), "falls faster in the same way"),
])
def test_what_another_unknown_undoes_exactly_is_refused_with_the_reason(paths, said):
    with pytest.raises(InputError) as caught:
        api.fit(free(recorded(0.0, 1.0), *paths))
    assert said in str(caught.value)


def test_the_noise_of_a_track_is_found_though_the_case_says_another():
    case = free(recorded(0.0, 1.0), E)
    wrong = case.tracks[0].model_copy(update={"sigma": 4e-3})
    noise = Unknown(path="tracks.camera.sigma", low=1e-5, high=0.1, transform="log")
    result = api.fit(case.model_copy(update={"tracks": (wrong,), "unknowns": (*case.unknowns, noise)}))
    found = result.estimates["tracks.camera.sigma"]
    assert found.value == pytest.approx(1e-3, rel=0.12)
    assert abs(found.value - 1e-3) < 3.5 * found.std
    assert result.misfit == pytest.approx(1.0, abs=0.02)
    assert any("scatters" in f for f in result.findings)
    assert result.estimates[E].std == pytest.approx(api.fit(case).estimates[E].std, rel=0.2)
    kept = api.with_result(case.model_copy(update={"tracks": (wrong,), "unknowns": (*case.unknowns, noise)}), result)
    assert kept.tracks[0].sigma == pytest.approx(found.value)


def test_a_picture_that_stands_too_high_is_found_with_the_restitution():
    case = recorded(0.0, 1.0)
    up = case.tracks[0].model_copy(update={"samples": case.tracks[0].samples.model_copy(
        update={"z": tuple(z + 0.02 for z in case.tracks[0].samples.z)})})
    moved = free(case.model_copy(update={"tracks": (up,)}), E)
    shift = Unknown(path="tracks.camera.translation.z", low=-0.1, high=0.1)
    result = api.fit(moved.model_copy(update={"unknowns": (*moved.unknowns, shift)}))
    assert result.values["tracks.camera.translation.z"] == pytest.approx(-0.02, abs=5e-4)
    assert result.values[E] == pytest.approx(0.7, abs=2e-3)
    assert result.misfit < 1.2


def test_a_shift_beside_a_free_start_is_refused_only_where_nothing_tells_them_apart():
    case = free(recorded(0.0, 1.0), E, "tracks.camera.translation.x", "bodies.orange.position.x")
    with pytest.raises(InputError, match="everything else in the scene is the same there"):
        api.fit(case)
    upright = free(recorded(0.0, 1.0), E, "tracks.camera.translation.z", "bodies.orange.position.z")
    assert api.fit(upright).values["tracks.camera.translation.z"] == pytest.approx(0.0, abs=1e-3)
