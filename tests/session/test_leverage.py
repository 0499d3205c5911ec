"""What the evidence says of each number, and what is looked for while nothing is to be done."""

from __future__ import annotations

import pytest

from tests.session.test_builder import finish, scene  # noqa: F401  (fixtures)
from yapa.case import Target, with_numbers
from yapa.demo import DATA
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.formats.case_file import load_case
from yapa.session import edits
from yapa.session.findings import check
from yapa.session.leverage import FULL, Leverage, greatest, leverage_of


@pytest.fixture(scope="module")
def drop():
    return load_case(DATA / "orange-drop.yapa")[0]


def test_a_track_says_much_of_restitution_and_little_of_a_mass_that_only_drag_knows(drop):
    case = edits.free("bodies.orange.mass").change(drop)
    found = leverage_of(case, Cancel())
    assert found.pieces == tuple(t.name for t in case.tracks)
    (strong,) = found.bars("pairs.rind+pad.restitution")
    assert strong[0] == case.tracks[0].name
    assert strong[1] > 0.4
    assert found.bars("bodies.orange.mass")[0][1] < 0.1


def test_bars_are_on_one_logarithmic_scale():
    found = Leverage(("a", "b", "c"), {"p": (FULL, 10.0, 1e-6)})
    assert found.bars("p") == [("a", 1.0), ("b", pytest.approx(0.5))]
    assert found.bars("q") == []


def test_a_target_is_a_piece_too_and_a_stop_is_heard(drop):
    target = Target(outcome="apex", index=2, body="orange", value=0.3, tolerance=0.01)
    case = drop.model_copy(update={"targets": (target,)})
    assert leverage_of(case, Cancel()).pieces[-1] == target.label
    stop = Cancel()
    stop.set()
    with pytest.raises(Cancelled):
        leverage_of(case, stop)


def test_the_numbers_that_move_an_outcome_most_come_first(drop):
    target = Target(outcome="apex", index=2, body="orange", value=0.3, tolerance=0.01)
    found = greatest(drop, target)
    assert len(found) == 3
    assert "pairs.rind+pad.restitution" in found
    assert found[0] not in greatest(drop, target, without=found[:1])
    assert "bodies.orange.mass" not in found


def test_the_desk_looks_once_a_state_and_gives_way_to_the_hand(scene, finish):  # noqa: F811
    heard = []
    scene.findings_changed.connect(lambda: heard.append("findings"))
    scene.leverage_changed.connect(lambda: heard.append("leverage"))
    scene.look_around()
    finish()
    assert sorted(heard) == ["findings", "leverage"]
    scene.look_around()
    assert scene.jobs.idle  # known already
    scene.edit(with_numbers(scene.case, {"gravity": 0.0}), "no gravity")
    finish()
    scene.preview.set({"gravity": 0.0})
    finish()
    scene.look_around()
    assert scene.jobs.idle  # a hand is at work
    scene.preview.set({})
    finish()
    scene.look_around()
    scene.findings.give_way()
    finish()
    assert scene.findings.found == []
    scene.look_around()
    finish()
    assert "no gravity" in {f.kind for f in scene.findings.found}
    assert check(scene.case)[0].kind == scene.findings.found[0].kind
