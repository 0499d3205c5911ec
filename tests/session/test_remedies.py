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
from yapa.session import edits
from yapa.session.building import scene_edits, whole_scene
from yapa.session.building.arranging import scatter
from yapa.session.building.asking import asks, want
from yapa.session.building.target_marks import end_inside, rings_of, widen, zones_of
from yapa.session.remedies import MAX_REMEDIES, Remedy, candidates, remedies_of


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
    assert 2 <= len(found) <= MAX_REMEDIES
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


def test_places_that_are_wanted_have_rings_and_zones_have_boxes(scene):  # noqa: F811
    case = scene.case
    passage, time, landing, rest = (
        want(targets).change(case).targets for targets in (
            [Target(outcome="miss", body="ball", point=(0.5, 0, 0.3), condition="at most", value=0.02, tolerance=0.02)],
            [Target(outcome=axis, body="ball", time=0.4, value=value, tolerance=0.01)
             for axis, value in (("x", 0.5), ("y", 0.1), ("z", 0.2))],
            [Target(outcome=f"landing {axis}", index=1, body="ball", value=0.7, tolerance=0.03) for axis in "xy"],
            [Target(outcome="x", body="ball", value=1.0, tolerance=0.01)]))
    inside = end_inside("ball", np.array([1.0, 0, 0]), np.array([0.4, 0.5, 0.2]))
    case = want([*passage, *time, *landing, *rest, inside]).change(case)
    rings = rings_of(case)
    assert [(ring.radius, ring.part, ring.flat) for ring in rings] == [
        (0.02, "value", False), (0.01, "tolerance", False), (0.03, "tolerance", True)]
    assert rings[1].place == pytest.approx((0.5, 0.1, 0.2))
    assert rings[2].place == pytest.approx((0.7, 0.7, 0.0))
    wide = widen(rings[1], 0.05).change(case)
    assert [t.tolerance for t in wide.targets[1:4]] == [0.05] * 3
    assert widen(rings[0], 0.04).change(case).targets[0].value == 0.04
    (zone,) = zones_of(case)
    assert zone.low == pytest.approx((0.4, 0, 0))
    assert zone.high == pytest.approx((1.0, 0.5, 0.2))


def test_scattered_copies_may_have_random_sizes(scene):  # noqa: F811
    case = scatter("ball", 12, (-1, -1, 0.2), (1, 1, 1.5), 5, (0.5, 1.2)).change(scene.case)
    radii = [body.shapes[0].radius for name, body in case.bodies.items() if name.startswith("ball ")]
    assert min(radii) >= 0.025
    assert max(radii) <= 0.06
    assert len(set(radii)) == 12
    assert scatter("ball", 12, (-1, -1, 0.2), (1, 1, 1.5), 5, (0.5, 1.2)).change(scene.case) == case
    with pytest.raises(InputError, match="sizes"):
        scatter("ball", 1, (-1, -1, 0.2), (1, 1, 1.5), 5, (1.2, 0.5)).change(scene.case)


def test_the_nearest_change_of_several_free_numbers_is_an_answer_too(scene, finish):  # noqa: F811
    case = throw(scene.case)
    for axis in "xz":
        case = edits.free(f"bodies.ball.velocity.{axis}").change(case)
    target = case.targets[0]
    nearest = remedies_of(case, Cancel())[-1]
    assert set(nearest.values) == {"bodies.ball.velocity.x", "bodies.ball.velocity.z"}
    assert nearest.words.startswith("nearest: ")
    assert is_met(target, read_target(simulate(case, nearest.values), "ball", target))
    single = [r for r in remedies_of(case, Cancel()) if not r.others and r.path in nearest.values]
    moved = sum((nearest.values[p] - case[p]) ** 2 for p in nearest.values) ** 0.5
    assert all(moved <= abs(r.value - case[r.path]) + 1e-3 for r in single)
    scene.edit(case, "throw")
    finish()
    steps = scene.document.history.steps
    assert scene.remedies.take(nearest)
    assert scene.document.history.steps == steps + 1
    assert scene.case["bodies.ball.velocity.z"] == nearest.values["bodies.ball.velocity.z"]
