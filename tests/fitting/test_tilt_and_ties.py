"""A slope may be unknown, and one number may stand for several."""

from math import cos, radians, sin

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.case import Body, Box, Case, Plane, Samples, Sphere, Surface, Track, Unknown, get_number, with_numbers
from yapa.case.validation import validate_as
from yapa.engine import simulate
from yapa.errors import InputError

TILT, MU = "bodies.f.tilt.y", "surfaces.both.friction"


def lane(degrees):
    """A block at rest on a lane that is turned about y with it."""
    a = radians(degrees)
    turned = (cos(a / 2), 0.0, sin(a / 2), 0.0)
    block = Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.1), surface="both"),), mass=1.0, orientation=turned,
                 position=(0.05 * sin(a), 0.0, 0.05 * cos(a)))
    return scene({"b": block, "f": floor(orientation=turned)}, duration=1.0, friction=0.2)


def test_a_tilt_is_a_number_like_any_other():
    case = lane(0.0)
    assert get_number(case, TILT) == 0.0
    turned = with_numbers(case, {TILT: 0.3, "bodies.b.tilt.y": 0.3})
    assert get_number(turned, TILT) == pytest.approx(0.3)
    w, _, y, _ = turned.bodies["f"].orientation
    assert (w, y) == pytest.approx((cos(0.15), sin(0.15)))
    assert api.simulate(case, {"bodies.f.tilt.y": 0.0}).status == "complete"


def test_a_run_with_a_tilt_is_that_of_the_case_with_it():
    roller = scene({"b": ball(0.05, position=(0, 0, 0.06)), "f": floor()}, duration=1.0, friction=0.5)
    by_value = simulate(roller, {TILT: 0.1}).trajectory("b").position(np.array([1.0]))
    in_case = simulate(with_numbers(roller, {TILT: 0.1})).trajectory("b").position(np.array([1.0]))
    assert by_value == pytest.approx(in_case, abs=1e-9)
    assert by_value[0, 0] > 0.1  # down the slope, along x


def test_the_slope_of_a_lane_is_found_with_its_friction():
    truth = 0.12
    roller = scene({"b": ball(0.05, position=(0, 0, 0.0501), velocity=(1.5, 0, 0)), "f": floor()}, duration=1.4, friction=0.15,
                   restitution=0.0)
    motion = simulate(roller, {TILT: truth})
    t = motion.times[::2]
    x = motion.trajectory("b").position(t) + np.random.default_rng(2).normal(size=(len(t), 3)) * 1e-3
    track = Track(name="camera", body="b", sigma=1e-3,
                  samples=Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()), z=tuple(x[:, 2].tolist())))
    case = roller.model_copy(update={"tracks": (track,), "unknowns": (
        Unknown(path=TILT, low=-0.3, high=0.3), Unknown(path=MU, low=0.0, high=0.6))})
    result = api.fit(with_numbers(case, {MU: 0.3}))
    assert result.misfit < 1.2
    assert result.values[TILT] == pytest.approx(truth, abs=4 * result.estimates[TILT].std + 1e-5)
    assert result.values[MU] == pytest.approx(0.15, abs=4 * result.estimates[MU].std + 1e-5)


def two_oranges():
    """Two oranges of two surfaces, dropped side by side."""
    bodies = {n: Body(shapes=(Sphere(kind="sphere", radius=0.04, surface=n),), mass=0.2, position=(x, 0, 1.04))
              for n, x in (("a", 0.0), ("b", 0.5))}
    bodies["plate"] = Body(motion="static", shapes=(Plane(kind="plane", surface="plate"),))
    surfaces = {n: Surface(restitution=0.5, friction=0.3) for n in ("a", "b", "plate")}
    return Case(surfaces=surfaces, bodies=bodies, duration=1.5)


def test_a_tied_number_follows_its_unknown_in_a_fit_and_under_the_hand():
    base = two_oranges()
    ea, eb = "surfaces.a.restitution", "surfaces.b.restitution"
    motion = simulate(with_numbers(base, {ea: 0.8, eb: 0.8}))
    tracks = []
    for k, name in enumerate("ab"):
        t = motion.times[::4]
        x = motion.trajectory(name).position(t) + np.random.default_rng(k).normal(size=(len(t), 3)) * 1e-3
        tracks.append(Track(name=name, body=name, sigma=1e-3,
                            samples=Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()), z=tuple(x[:, 2].tolist()))))
    case = base.model_copy(update={"tracks": tuple(tracks), "unknowns": (Unknown(path=ea, low=0.1, high=1.0, linked=(eb,)),)})
    result = api.fit(case)
    assert result.misfit < 1.2
    assert result.values[ea] == pytest.approx(0.8, abs=0.01)
    kept = api.with_result(case, result)
    assert get_number(kept, eb) == get_number(kept, ea) == result.values[ea]
    assert get_number(with_numbers(case, {ea: 0.3}), eb) == 0.3


@pytest.mark.parametrize(("tied", "words"), [(("surfaces.none.restitution",), "no number"), (("surfaces.a.restitution",), "twice")])
def test_a_tie_to_what_is_not_there_or_to_itself_is_refused(tied, words):
    tree = two_oranges().model_dump(mode="json")
    tree["unknowns"] = [{"path": "surfaces.a.restitution", "low": 0.0, "high": 1.0, "linked": list(tied)}]
    with pytest.raises(InputError, match=words):
        validate_as(Case, tree, "case")
