"""Several recordings of one set-up: shared numbers once, launches of their own."""

import json

import numpy as np
import pytest
from benchmarks.apart.families import record
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.case import Samples, Take, Track, Unknown, with_numbers
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import Setup, fit, prepare
from yapa.fitting.problem.cancel import Cancelled
from yapa.fitting.problem.result import Answer, Estimate, FitResult
from yapa.fitting.tracks import takes
from yapa.fitting.tracks.takes import NEAR, UNTOLD_VARIANCE, _alternatives_with_evidence, _End, _inverse_of_squares, _runners_up
from yapa.formats.case_json import case_text, parse_case
from yapa.session.edits import bring_tracks

E, DRAG = "surfaces.both.restitution", "bodies.orange.drag_coefficient"
VX, VZ = "bodies.orange.velocity.x", "bodies.orange.velocity.z"
LAUNCHES = {"first": (1.2, 0.4), "second": (2.0, -0.5), "third": (0.7, 1.5)}


def set_up():
    orange = ball(position=(0, 0, 1.05), velocity=(1.0, 0, 0), drag_coefficient=0.5, mass=0.05)
    return scene({"orange": orange, "plate": floor()}, duration=1.2, restitution=0.68, friction=0.3)


def recorded(name, launch, e=0.68, seed=1):
    rng = np.random.default_rng(seed)
    motion = simulate(with_numbers(set_up(), {VX: launch[0], VZ: launch[1], E: e}))
    t = np.arange(0, 1.2, 1 / 120)
    x = motion.trajectory("orange").position(t) + rng.normal(size=(len(t), 3)) * 1e-3
    samples = Samples(t=tuple(t.tolist()), x=tuple(x[:, 0].tolist()), z=tuple(x[:, 2].tolist()))
    return Track(name=name, body="orange", sigma=1e-3, samples=samples)


def with_three(**changes):
    tracks = tuple(recorded(name, launch, seed=k) for k, (name, launch) in enumerate(LAUNCHES.items()))
    takes = tuple(Take(name=name, tracks=(name,), free_per_take=(VX, VZ)) for name in LAUNCHES)
    unknowns = (Unknown(path=E, low=0.2, high=0.95), Unknown(path=DRAG, low=0.0, high=1.5), Unknown(path=VX, low=-4.0, high=4.0),
                Unknown(path=VZ, low=-4.0, high=4.0))
    start = with_numbers(set_up(), {E: 0.5, DRAG: 0.2})
    return start.model_copy(update={"tracks": tracks, "takes": takes, "unknowns": unknowns, **changes})


@pytest.fixture(scope="module")
def fitted():
    case = with_three()
    return case, api.fit(case)


def test_shared_numbers_are_found_once_and_launches_once_a_take(fitted):
    _, result = fitted
    assert result.stopped == "converged"
    assert set(result.estimates) == {E, DRAG}
    assert result.values[E] == pytest.approx(0.68, abs=3 * result.estimates[E].std)
    assert result.values[DRAG] == pytest.approx(0.5, abs=4 * result.estimates[DRAG].std)
    for name, launch in LAUNCHES.items():
        assert result.own[name][VX].value == pytest.approx(launch[0], abs=4e-3)
        assert result.own[name][VZ].value == pytest.approx(launch[1], abs=4e-3)
    assert 0.85 < result.misfit < 1.15


def test_three_takes_say_more_than_one(fitted):
    case, result = fitted
    alone = api.fit(case.for_take(case.takes[0]))
    assert result.estimates[DRAG].std < 0.8 * alone.estimates[DRAG].std


def test_the_result_is_written_into_the_case_and_its_takes(fitted):
    case, result = fitted
    after = api.with_result(case, result)
    assert after.takes[1].values[VX] == pytest.approx(2.0, abs=4e-3)
    assert after.trials[-1].estimates[E].value == result.values[E]
    assert parse_case(case_text(after), "case") == after
    told = result.as_dict()
    assert set(told["takes"]) == set(LAUNCHES)
    assert json.dumps(told)


def test_a_take_that_disagrees_is_answers_it_tells():
    case = with_three()
    odd = recorded("third", LAUNCHES["third"], e=0.60, seed=9)
    result = api.fit(case.model_copy(update={"tracks": (*case.tracks[:2], odd)}))
    assert any("take third alone says" in finding for finding in result.findings)


def test_every_take_is_measured_and_the_picture_shows_the_first(fitted):
    from yapa.session.comparison import ComparisonBuilder

    case, result = fitted
    assert set(api.measured_motions(case)) == set(LAUNCHES)
    after = api.with_result(case, result)
    assert ComparisonBuilder(after).at().misfit < 1.3


@pytest.mark.parametrize(("takes", "said"), [
    ((Take(name="a", tracks=("nowhere",)),), "there is no track named"),
    ((Take(name="a", tracks=("first",)), Take(name="b", tracks=("first", "second", "third"))), "in two takes"),
    ((Take(name="a", tracks=("first", "second")),), "is in no take"),
    ((Take(name="a", tracks=("first", "second", "third"), free_per_take=("gravity",)),), "is no unknown"),
    ((Take(name="a", tracks=("first", "second", "third"), values={"bodies.plum.mass": 1.0}),), "has no number"),
])
def test_takes_that_do_not_fit_the_case_are_refused(takes, said):
    tree = json.loads(case_text(with_three()))
    tree["takes"] = [json.loads(take.model_dump_json()) for take in takes]
    with pytest.raises(InputError) as caught:
        parse_case(json.dumps(tree), "case")
    assert said in str(caught.value)


def test_trust_over_takes_tells_each_takes_numbers_and_says_nothing_twice(fitted):
    """One take alone does not tell drag from the rest; the three together do."""
    case, result = fitted
    checked = api.trust(case, count=4)
    said = checked.sentences(False)
    assert len(said) == len(set(said))
    assert result.estimates[DRAG].determined
    assert checked.together == []
    for name in LAUNCHES:
        assert sum(line.startswith(f"take {name}: launch") for line in said) == 2
    assert not any("cannot be told" in line for line in said)


def test_a_wrong_scale_of_one_take_is_named_and_can_be_freed():
    case = with_three()
    wrong = case.tracks[1].model_copy(update={"scale": 1.02})
    case = case.model_copy(update={"tracks": (case.tracks[0], wrong, case.tracks[2])})
    result = api.fit(case)
    assert result.explained[0].path == "tracks.second.scale"
    freed = result.explained[0].edit(case)
    found = api.fit(freed)
    assert found.estimates["tracks.second.scale"].value == pytest.approx(1.0, abs=1e-3)
    assert found.misfit < 1.1
    assert found.estimates[E].value == pytest.approx(0.68, abs=2e-3)
    assert "tracks.second.scale" not in [u.path for u in freed.for_take(freed.takes[0]).unknowns]


def test_a_number_that_no_take_tells_is_not_determined():
    """A ball that falls straight down never slips: its friction moves nothing."""
    motion = simulate(with_numbers(set_up(), {VX: 0.0}))
    t = np.arange(0, 1.2, 1 / 120)
    rng = np.random.default_rng(4)
    tracks = tuple(Track(name=name, body="orange", sigma=1e-3, samples=Samples(t=tuple(t.tolist()), z=tuple(
        (motion.trajectory("orange").position(t)[:, 2] + rng.normal(size=len(t)) * 1e-3).tolist()))) for name in ("one", "two"))
    case = with_numbers(set_up(), {VX: 0.0}).model_copy(update={
        "tracks": tracks, "takes": tuple(Take(name=t.name, tracks=(t.name,)) for t in tracks),
        "unknowns": (Unknown(path=E, low=0.3, high=0.95), Unknown(path="surfaces.both.friction", low=0.0, high=1.0))})
    found = api.fit(case).estimates
    assert found[E].value == pytest.approx(0.68, abs=5e-3)
    assert not found["surfaces.both.friction"].determined


def test_fewer_residuals_than_numbers_leave_no_number_certain():
    cov = _inverse_of_squares(np.array([[2.0, 0.0, 0.0]]))
    assert cov[0, 0] == pytest.approx(0.25)
    assert np.diag(cov)[1:] == pytest.approx([UNTOLD_VARIANCE] * 2)


def test_another_answer_of_one_take_is_held_against_all_of_them():
    found = {E: Estimate(value=0.7, determined=True, std=0.01, low=0.68, high=0.72)}
    here = np.array([0.5])
    others = [(Answer(values, away), _End(here, cost, True)) for values, away, cost in (
        ({E: 0.71, DRAG: 0.1}, -8.0, 10.0), ({E: 0.5, DRAG: 0.1}, 2.0, 12.0), ({E: 0.52, DRAG: 0.4}, 2.0, 12.5),
        ({E: 0.3}, 0.1, 10.0 + 2 * NEAR))]
    untold = Estimate(value=0.9, determined=False, reason="does not change anything that was measured")
    alone = FitResult({E: found[E], DRAG: untold}, 1.0, 10, 0.1, "converged", also=[Answer({E: 0.5, DRAG: 0.1, VX: 1.0}, 2.0)])
    # of drag that take tells nothing
    assert [a.values for a in _alternatives_with_evidence(alone, [E, DRAG])] == [{E: 0.5, VX: 1.0}]
    told = _runners_up([E], _End(here, 10.0, True), others, 1.0, found)
    assert [(a.values, a.away) for a in told] == [({E: 0.5}, 2.0)]  # no other number, none too far off, none twice


def test_a_number_of_two_takes_is_no_more_certain_than_what_nothing_tells_from_it():
    """A block that slides up a chute and stops: it stays, or creeps back; at the edge of both the misfit has a cliff."""
    chute = record("chute", 4792, {"rate": 30.0, "sigma": 2e-3, "noise": "white", "flaw": "none", "told": True})
    x, z = chute.places["block"].T
    samples = Samples(t=tuple(chute.t), x=tuple(x), z=tuple(z))
    setup = Setup(size=(0.3, 0.2, 0.15), floor=None, slope=chute.scene["slope"], unknown={"friction": None}, sigma=2e-3)
    case = prepare(samples, setup).case
    case = bring_tracks([case.tracks[0].model_copy(update={"name": "again"})], True).change(case)
    friction = fit(case).estimates["pairs.body+support.friction"]
    assert not friction.determined
    assert friction.low < chute.truth["friction"] < friction.high


@pytest.mark.parametrize("after", [0, 1])
def test_a_stop_in_the_joint_fit_keeps_the_best_so_far(monkeypatch, after):
    seen, solved = [], takes._solved

    def stopping(*how):
        if len(seen) >= after:
            raise Cancelled
        seen.append(solved(*how))
        return seen[-1]

    def stopped(*_):
        raise Cancelled

    monkeypatch.setattr(takes, "_solved", stopping)
    monkeypatch.setattr(takes, "_finished", stopped)
    result = api.fit(with_three())
    assert result.stopped == "cancelled"
    assert result.values[E] == pytest.approx(0.68, abs=0.02)  # what the takes alone had found, or all together
    assert not result.estimates[E].determined
