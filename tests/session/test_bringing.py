"""Bringing tracks in: pixels with a scale from two places, a floor, several bodies, another take."""

from __future__ import annotations

import numpy as np
import pytest

from tests.session.conftest import bouncing
from yapa.case import Capsule, get_number
from yapa.errors import InputError
from yapa.session import edits
from yapa.session.importing import Brought, ImportForm, dots_of, issue_in_words, touching_height


def pixels(path, rate=60.0, scale=0.002, ground=900.0):
    """A ball that falls by 1 m, filmed: frames and pixels that grow downwards; it touches at pixel row ``ground``."""
    t = np.arange(30) / rate
    z = np.maximum(1.0 - 0.5 * 9.80665 * t**2, 0.0)
    path.write_text("\n".join(["frame,x [px],y [px]", *(f"{k},{400 + k},{ground - h / scale:.3f}" for k, h in enumerate(z))]))
    return path


def test_a_pixel_track_is_scaled_by_two_places_and_laid_on_the_floor(tmp_path):
    form = ImportForm.of_file(pixels(tmp_path / "filmed.csv"))
    assert form.in_pixels
    assert form.bodies() == [""]
    assert form.open() == ["give the frames a second", "give the metres a pixel"]
    form.whose = {"": "orange"}
    form.rate = 60.0
    (raw,) = form.preview()
    assert raw.x[0, 2] - raw.x[-1, 2] == pytest.approx(500.0, abs=1.0)  # pixels count as metres while no scale is known
    form.set_scale((0.0, 0.0), (0.0, 37.0), 0.074)  # the ball from edge to edge
    assert form.scale == pytest.approx(0.002)
    form.set_scale((0.0, 0.0), (0.0, 0.074), 0.074)  # again, now in metres
    assert form.scale == pytest.approx(0.002)
    (dots,) = dots_of(form.preview())
    form.set_floor(float(dots[1][:, 1].min()), 0.037)
    (track,) = form.tracks()
    assert track.body == "orange"
    brought = form.brought()
    assert isinstance(brought[0], Brought)
    assert form.preview()[0].x[:, 2].min() == pytest.approx(0.037, abs=1e-6)
    with pytest.raises(InputError, match="two places apart"):
        form.set_scale((0.0, 0.0), (0.0, 0.0), 1.0)


def test_what_is_not_clear_is_told_without_options_of_the_command_line(tmp_path):
    path = tmp_path / "lane.txt"
    path.write_text("\n".join(["time;along;height [furlong]", *(f"{k / 100};{k};{900 - k}" for k in range(30))]))
    form = ImportForm.of_file(path)
    assert any("furlong" in words for words in form.open_questions)
    assert not any("--" in words for words in [*form.open_questions, *form.open()])
    with pytest.raises(InputError):
        form.preview()
    assert callable(issue_in_words)


def test_bodies_of_a_file_are_given_to_bodies_of_the_case_and_others_left_out(tmp_path):
    path = tmp_path / "two.csv"
    rows = [f"{k / 50},{name},{0.1 * k},{1 - 0.01 * k}" for name in ("a", "b") for k in range(20)]
    path.write_text("\n".join(["time,body,x,z", *rows]))
    form = ImportForm.of_file(path)
    assert form.bodies() == ["a", "b"]
    form.whose = {"a": "", "b": ""}
    assert form.open() == ["choose whose track it is"]
    form.whose = {"a": "", "b": "orange"}
    form.sigma, form.time_offset = 0.002, 0.1
    (track,) = form.tracks()
    assert (track.name, track.sigma, track.time_offset) == ("two b", 0.002, 0.1)
    assert len(form.preview()) == 2


def test_another_take_has_a_launch_of_its_own_and_goes_with_its_track(desk):
    case = desk.case
    track = case.tracks[0]
    desk.make(edits.free("bodies.orange.position.z"))
    assert desk.make(edits.bring_tracks([track], as_take=True))
    assert [take.tracks for take in desk.case.takes] == [(track.name,), (f"{track.name} 2",)]
    assert "bodies.orange.position.z" in desk.case.takes[1].free_per_take
    assert desk.make(edits.remove_track(f"{track.name} 2"))
    assert len(desk.case.takes) == 1
    desk.undo()
    desk.undo()
    assert desk.case.takes == ()
    assert edits.with_take(case, [track.name]).takes[0].tracks == (track.name,)


def test_where_a_body_touches_the_floor(desk, ear, tmp_path):
    case = bouncing()
    body = case.dynamic_bodies()[0]
    assert touching_height(case, body) == pytest.approx(get_number(case, f"bodies.{body}.radius"))
    seen = []
    desk.tracks.look_into(pixels(tmp_path / "filmed.csv"), seen.append)
    ear.until(lambda: bool(seen))
    assert seen[0].path.name == "filmed.csv"
    (tmp_path / "bad.bin").write_bytes(bytes(range(256)))
    desk.tracks.look_into(tmp_path / "bad.bin", seen.append)
    ear.until(lambda: bool(desk.troubles))
    assert len(seen) == 1


def test_what_would_be_brought_in_is_shown_and_a_table_is_told_from_a_track(desk, tmp_path):
    heard = []
    desk.import_previewed.connect(lambda: heard.append(len(desk.tracks.shown)))
    form = ImportForm.of_file(pixels(tmp_path / "filmed.csv"))
    assert form.has_clock
    desk.tracks.show(form.preview())
    desk.tracks.show([])
    assert heard == [1, 0]
    trials = tmp_path / "trials.csv"
    trials.write_text("drop height (cm),rebound (cm)\n40,15\n60,22\n80,30\n")
    assert not ImportForm.of_file(trials).has_clock


def test_a_form_is_read_off_the_thread_and_only_the_last_of_several_askings_is_answered(desk, ear, tmp_path):
    form = ImportForm.of_file(pixels(tmp_path / "filmed.csv"))
    form.whose, form.rate = {"": "orange"}, 60.0
    asked = form.snapshot()
    seen = []
    for scale in (0.001, 0.002, 0.004):
        form.scale = scale
        desk.tracks.look_through(form, lambda tracks, wrong, scale=scale: seen.append((scale, tracks)))
    assert asked.scale is None  # what is said later does not reach it
    ear.until(lambda: desk.jobs.idle)
    assert [scale for scale, tracks in seen if tracks] in ([0.004], [0.001, 0.004])  # the first may have been read by then
    assert seen[-1][1][0].x[0, 2] - seen[-1][1][0].x[-1, 2] == pytest.approx(2.0, abs=0.01)
    form.rate = None
    form.columns[0].role = None
    desk.tracks.look_through(form, lambda tracks, wrong: seen.append((wrong, tracks)))
    ear.until(lambda: desk.jobs.idle)
    assert seen[-1][1] == []
    assert "column of times" in seen[-1][0]
    told = []
    desk.tracks.read(form, lambda tracks: told.append(tracks), lambda error: told.append(str(error)))
    form.give(0, "frame")
    form.rate = 60.0
    desk.tracks.read(form, lambda tracks: told.append(tracks), lambda error: told.append(str(error)))
    ear.until(lambda: desk.jobs.idle)
    assert "column of times" in told[0]
    assert told[1][0].body == "orange"


def test_anything_is_laid_on_the_floor_by_how_far_it_reaches_down(tmp_path):
    case = bouncing()
    assert touching_height(case, "orange") == pytest.approx(case.bodies["orange"].shapes[0].radius)
    lying = case.bodies["orange"].model_copy(update={"shapes": (Capsule(kind="capsule", radius=0.03, length=0.1, surface="rind"),)})
    case = case.model_copy(update={"bodies": {**case.bodies, "orange": lying}})
    assert touching_height(case, "orange") == pytest.approx(0.08)
