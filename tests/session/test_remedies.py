"""What would do it: single numbers that meet a missed target; cameras of a scene; asks at a time and of a camera."""

from __future__ import annotations

import numpy as np
import pytest

from tests.session.test_builder import finish, from_front, scene  # noqa: F401  (fixtures)
from yapa.case import Target
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.outcomes import read_target
from yapa.outcomes.judging import is_met
from yapa.session.building import scene_edits, whole_scene
from yapa.session.building.asking import asks, want
from yapa.session.remedies import MOST, Remedy, candidates, remedies_of


def throw(case):
    """The ball thrown at 2 m/s and 45° from a height, wanted to land 1.2 m away."""
    case = scene_edits.move_body("ball", np.array([0.0, 0.0, 0.5])).change(case)
    case = scene_edits.launch("ball", (1.4, 0.0, 1.4)).change(case)
    return want([Target(outcome="landing", index=1, body="ball", value=1.2, tolerance=0.005)]).change(case)


def test_each_answer_alone_meets_what_is_missed(scene):  # noqa: F811
    case = throw(scene.case)
    target = case.targets[0]
    assert not is_met(target, read_target(simulate(case), "ball", target))
    found = remedies_of(case, Cancel())
    assert 2 <= len(found) <= MOST
    assert {"bodies.ball.velocity.x", "bodies.ball.velocity.z"} <= {remedy.path for remedy in found}
    for remedy in found:
        assert is_met(target, read_target(simulate(case, {remedy.path: remedy.value}), "ball", target))
    assert "ball" in found[0].words
    met = want([target]).change(case).model_copy(update={"targets": ()})
    assert remedies_of(met, Cancel()) == []
    paths = [unknown.path for unknown in candidates(case, "ball")]
    assert len(paths) == len(set(paths))
    stop = Cancel()
    stop.set()
    with pytest.raises(Cancelled):
        remedies_of(case, stop)


def test_the_desk_looks_when_idle_shows_and_takes_an_answer(scene, finish):  # noqa: F811
    scene.edit(throw(scene.case), "throw")
    finish()
    heard = []
    scene.remedies_changed.connect(lambda: heard.append(len(scene.remedies.found)))
    scene.remedies.look()
    finish()
    remedy = scene.remedies.found[0]
    scene.remedies.look()  # known already
    assert scene.jobs.idle
    was = scene.case[remedy.path]
    scene.remedies.try_out(remedy)
    finish()
    assert scene.preview.values == {remedy.path: remedy.value}
    assert scene.preview.comparison.targets[0].met
    scene.remedies.try_out(None)
    finish()
    assert scene.case[remedy.path] == was
    assert scene.remedies.take(remedy)
    finish()
    assert scene.preview.comparison.targets[0].met
    assert scene.remedies.found == []
    assert heard[0] > 0 == heard[-1]
    scene.remedies.look()
    assert scene.jobs.idle  # nothing is missed
    assert isinstance(remedy, Remedy)


def test_a_camera_is_put_set_asked_for_and_taken_out(scene, finish):  # noqa: F811
    case = whole_scene.put_camera((0.0, -3.0, 1.0), (0.0, 0.0, 0.3)).change(scene.case)
    case = whole_scene.put_camera((0.0, -2.0, 1.0), (0.0, 0.0, 0.3)).change(case)
    assert list(case.cameras) == ["shot", "shot 2"]
    case = whole_scene.set_camera("shot", "focal_length", "50").change(case)
    case = whole_scene.set_camera("shot", "frame", "24, 16 mm").change(case)
    case = whole_scene.set_camera("shot", "position", "0, -250 cm, 1").change(case)
    shot = case.cameras["shot"]
    assert (shot.focal_length, shot.frame, shot.position) == (pytest.approx(0.05), pytest.approx((0.024, 0.016)), (0.0, -2.5, 1.0))
    with pytest.raises(InputError, match="3 lengths"):
        whole_scene.set_camera("shot", "aim", "1, 2").change(case)
    with pytest.raises(InputError, match="another point"):
        whole_scene.set_camera("shot", "aim", "0, -2.5, 1").change(case)
    texts = {ask.text: ask for ask in asks(case, "ball", np.array([0.5, 0, 0.3]), None, 1e-3, 0.4)}
    then = next(ask for text, ask in texts.items() if text.startswith("pass here at 0.4 s, within"))
    assert [t.time for t in then.targets] == [0.4] * 3
    stays = texts["stay in the picture of shot throughout"]
    asked = want(stays.targets).change(case)
    assert asked.targets[0].argument("camera") == "shot"
    gone = whole_scene.take_out_camera("shot").change(asked)
    assert (list(gone.cameras), gone.targets) == (["shot 2"], ())
    scene.builder.select(["ball"])
    scene.playback.go_to(0.3)
    assert any("at 0.3 s" in ask.text for ask in scene.builder.asks_at(from_front(0.5, 0.4), 1e-3))
