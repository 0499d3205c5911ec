"""The play head."""

from __future__ import annotations

import pytest

from yapa.session.playback import MAX_FRAME_RATE


def test_the_play_head_stays_within_the_clip_and_tells_where_it_is(desk):
    told = []
    desk.playhead_moved.connect(told.append)
    for t, at in ((0.5, 0.5), (-1.0, 0.0), (99.0, desk.case.duration)):
        desk.playback.go_to(t)
        assert desk.playback.time == at
    assert told == [0.5, 0.0, desk.case.duration]


def test_steps_go_by_frames_of_the_case(desk):
    desk.playback.go_to(0.5)
    desk.playback.step(3)
    assert desk.playback.time == pytest.approx(0.5 + 3 / min(desk.case.output_rate, MAX_FRAME_RATE))
    desk.playback.step(-3)
    assert desk.playback.time == pytest.approx(0.5)
