"""A trial knows the scene it was made in; in another its score is not of this one, and the scene can come back with it."""

from __future__ import annotations

import pytest

from yapa.case import Case, get_number
from yapa.case.kept_scenes import KeptScene, scene_key, scene_of, with_scene
from yapa.formats.case_json import case_text, read_case, write_case
from yapa.session import edits
from yapa.session.building.renaming import renamed
from yapa.session.ledger import keep_scene, made_elsewhere
from yapa.session.new_case import empty_scene

E = "pairs.rind+pad.restitution"
G = "gravity"


@pytest.fixture
def tried(desk, ear):
    """A desk whose case has the trial it came with."""
    ear.until(lambda: bool(desk.case.trials) and desk.jobs.idle)
    return desk


def test_a_trial_is_of_the_scene_until_something_but_its_values_changes(tried, ear):
    first = tried.case.trials[0]
    assert first.scene in tried.case.scenes
    assert isinstance(tried.case.scenes[first.scene], KeptScene)
    assert not made_elsewhere(tried.case)[0]
    tried.set_number(E, 0.61)  # an unknown: the trial has it itself
    ear.until(lambda: tried.jobs.idle)
    assert not made_elsewhere(tried.case)[0]
    assert len(tried.case.scenes) == 1
    g = get_number(tried.case, G)
    tried.set_number(G, g + 0.2)
    ear.until(lambda: tried.jobs.idle)
    assert made_elsewhere(tried.case)[0]
    tried.undo()
    assert not made_elsewhere(tried.case)[0]


def test_values_come_back_alone_or_with_their_scene(tried, ear):
    e, g = get_number(tried.case, E), get_number(tried.case, G)
    tried.set_number(G, g + 0.2)
    tried.set_number(E, 0.61)
    ear.until(lambda: tried.jobs.idle)
    assert len(tried.case.scenes) == 2
    tried.restore(0)
    assert get_number(tried.case, E) == e
    assert get_number(tried.case, G) == g + 0.2
    tried.undo()
    tried.restore(0, scene=True)
    assert (get_number(tried.case, E), get_number(tried.case, G)) == (e, g)
    assert not made_elsewhere(tried.case)[0]
    tried.undo()  # one step
    assert get_number(tried.case, G) == g + 0.2


def test_what_was_not_in_the_scene_goes_with_what_refers_to_it(tried, ear):
    tried.builder.select(["orange"])
    tried.builder.duplicate()
    new = tried.builder.body
    assert tried.make(edits.free(f"bodies.{new}.mass"))
    ear.until(lambda: tried.jobs.idle)
    tried.restore(0, scene=True)
    assert new not in tried.case.bodies
    assert not any(u.path.startswith(f"bodies.{new}.") for u in tried.case.unknowns)


def test_scenes_are_saved_shared_and_let_go(tried, ear, tmp_path):
    tried.set_number(G, 1.6)
    ear.until(lambda: tried.jobs.idle)
    write_case(tried.case, tmp_path / "two.yapa")
    again = read_case(tmp_path / "two.yapa")
    assert again.scenes.keys() == tried.case.scenes.keys()
    assert case_text(again) == (tmp_path / "two.yapa").read_text()
    assert made_elsewhere(again)[0]
    assert not made_elsewhere(again)[-1]
    left = keep_scene(again.model_copy(update={"trials": again.trials[-1:]}), again.trials[-1], again)
    assert len(left.scenes) == 1
    tried.make(edits.remove_trial(0))
    assert set(tried.case.scenes) == {tried.case.trials[0].scene}  # a trial takes its scene along
    assert '"scenes"' not in case_text(empty_scene())


def test_another_name_is_not_another_scene(tried):
    after = renamed(tried.case, "orange", "lemon")
    assert not made_elsewhere(after)[0]
    scene = after.scenes[after.trials[0].scene]
    assert "lemon" in scene.bodies
    assert scene_key(with_scene(after, scene), sorted(after.trials[0].values)) == after.trials[0].scene
    assert scene_of(after).bodies == after.bodies


def test_a_kept_scene_has_the_parts_of_a_case_as_they_are_in_it():
    for name, field in KeptScene.model_fields.items():
        own = Case.model_fields[name]
        assert field.default == own.default, name
        assert name == "duration" or str(field.annotation) == str(own.annotation), name
    evidence = {"tracks", "targets", "curves", "table", "takes", "unknowns", "trials", "scenes", "ignored_findings"}
    assert set(Case.model_fields) - set(KeptScene.model_fields) == evidence | {"format", "version", "title", "notes"}
