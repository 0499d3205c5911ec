"""Trust: what is known only together, what would tell more, and how a result holds."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from tests.fitting.test_fit import gripping_throw
from yapa import api
from yapa.case import Samples, Take, Target, Track, Unknown, with_numbers
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import Setup, prepare
from yapa.fitting.confidence.robustness import halve_step, leave_one_out, perturb_starts
from yapa.outcomes import read

E = "surfaces.both.restitution"
MASS, DRAG = "bodies.b.mass", "bodies.b.drag_coefficient"


def dropped(**body):
    b = ball(0.04, **{"mass": 0.05, "position": (0, 0, 1.54), "drag_coefficient": 0.5, **body})
    return scene({"b": b, "f": floor()}, duration=1.8, restitution=0.7, friction=0.3)


def seen(case, seed=1, name="camera", sigma=1e-3):
    motion = simulate(case)
    t = motion.times[::2]
    x = motion.trajectory("b").position(t) + np.random.default_rng(seed).normal(size=(len(t), 3)) * sigma
    return Track(name=name, body="b", sigma=sigma,
                 samples=Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()), z=tuple(x[:, 2].tolist())))


def with_evidence(case, *unknowns):
    return case.model_copy(update={"tracks": (seen(case),), "unknowns": unknowns})


def test_mass_and_drag_are_known_only_as_a_ratio_and_a_scale_or_a_collision_would_tell():
    case = with_evidence(dropped(), Unknown(path=E, low=0.3, high=0.95), Unknown(path=MASS, low=0.005, high=0.5, transform="log"),
                         Unknown(path=DRAG, low=0.01, high=2.0))
    found = api.trust(case, count=12)
    assert [c.words for c in found.together] == [
        "only mass/drag coefficient is known: fix one of them, or add a collision with a body of known mass"]
    words = {s.path: s.words for s in found.suggestions}
    assert words[MASS] == "weigh it, or let it hit a body of known mass"
    assert found.result.estimates[E].determined


def test_friction_beyond_grip_asks_for_a_launch_that_slips_more():
    unknown = {name: None for name in ("restitution", "friction", "velocity", "spin")}
    case = prepare(gripping_throw(), Setup(radius=0.038, mass=0.14, unknown=unknown, sigma=0.001, sigma_angle=0.02)).case
    found = api.trust(case, count=8)
    assert any("slips" in s.words and s.path.endswith("friction") for s in found.suggestions)
    assert any(line.startswith("to tell friction") for line in found.sentences(False))


def test_a_profile_curve_is_a_parabola_where_the_fit_is_sharp_and_flat_where_it_saturates():
    case = with_evidence(dropped(velocity=(1.0, 0, 0)), Unknown(path=E, low=0.3, high=0.95),
                         Unknown(path="surfaces.both.friction", low=0.0, high=1.0))
    found = api.trust(case, count=8, curves=(E, "surfaces.both.friction"))
    sharp, flat = found.curves
    std, middle = found.result.estimates[E].std, found.result.estimates[E].value
    at = ((sharp.values - middle) / std) ** 2 / 2
    shares = sharp.rise[at > 0.5] / at[at > 0.5]
    assert np.ptp(shares) < 0.1  # a parabola
    assert 0.6 < shares.mean() < 1.6  # as wide as the standard deviation, which also knows how the residuals scatter
    assert flat.rise[flat.values > 0.4].max() < 0.01 < flat.rise[0]
    with pytest.raises(InputError, match="one of the free unknowns"):
        api.trust(case, count=2, curves=("gravity",))


def test_of_a_tight_wish_fewer_varied_starts_meet_it_than_of_a_loose_one():
    def share(tolerance):
        case = dropped(velocity=(1.0, 0, 0))
        wish = Target(outcome="landing", index=2, value=read(simulate(case), "landing", "b", 2).value, tolerance=tolerance)
        return perturb_starts(case.model_copy(update={"targets": (wish,)}), count=60, seed=2)

    loose, tight = share(0.2), share(0.002)
    assert loose.share == 1.0
    assert loose.low < 1.0
    assert tight.share < 0.5
    assert tight.low <= tight.share <= tight.high


def test_varied_starts_are_the_same_bits_at_any_number_of_threads():
    case = dropped(velocity=(1.0, 0, 0))
    assert perturb_starts(case, 10, 3, threads=1) == perturb_starts(case, 10, 3, threads=2)


def test_half_the_step_moves_nothing_in_precise():
    wish = Target(outcome="apex", index=2, value=0.3, tolerance=0.005)
    assert halve_step(dropped().model_copy(update={"targets": (wish,)})).moved < 1e-3


def test_a_take_from_another_surface_does_not_hold_when_left_out():
    base = dropped()
    tracks = [seen(base, 1, "one"), seen(base, 2, "two"), seen(with_numbers(base, {E: 0.6}), 3, "odd")]
    takes = tuple(Take(name=t.name, tracks=(t.name,)) for t in tracks)
    case = base.model_copy(update={"tracks": tuple(tracks), "takes": takes, "unknowns": (Unknown(path=E, low=0.3, high=0.95),)})
    told = {t.name: t for t in leave_one_out(case.model_copy(update={"tracks": tuple(tracks[:2]), "takes": takes[:2]}))}
    assert all(t.misfit < 1.2 for t in told.values())
    odd = next(t for t in leave_one_out(case) if t.name == "odd")
    assert odd.misfit > 5 > 1.2 > odd.alone


def test_a_report_of_trust_is_plain_data():
    import json

    case = with_evidence(dropped(), Unknown(path=E, low=0.3, high=0.95))
    found = api.trust(case, count=6, curves=(E,))
    told = json.loads(json.dumps(found.as_dict(False), allow_nan=False))
    assert set(told) == {"fit", "sentences", "together", "suggestions", "half_step", "varied_starts", "left_out", "curves",
                         "stopped"}
    assert told["varied_starts"]["count"] == 6
