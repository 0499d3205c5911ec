"""Where the stage is seen from: places to pixels, turns, shifts, and a view that holds a whole scene."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yapa.desktop.bench.stage.camera import View, nice_length, spread_in_depth, whole_scene
from yapa.desktop.bench.timeline.axis import LEFT, RIGHT, to_pixel, to_time

angles = st.floats(-3.0, 3.0)
tilts = st.floats(-1.5, 1.5)


@given(angles, tilts)
def test_the_axes_of_a_view_are_a_right_handed_frame(azimuth, elevation):
    frame = np.array(View((0, 0, 0), 1.0, azimuth, elevation).axes())
    assert frame @ frame.T == pytest.approx(np.eye(3), abs=1e-12)
    assert np.linalg.det(frame) == pytest.approx(1.0)


def test_from_the_side_x_goes_right_and_z_goes_up():
    view = View((0.0, 0.0, 0.0), 1.0)
    middle, right, up, deep = view.project(np.array([[0, 0, 0], [1, 0, 0], [0, 0, 1], [0, 1, 0.0]]), 800, 400)
    assert middle.tolist() == [400, 200]
    assert right.tolist() == [600, 200]
    assert up.tolist() == [400, 0]
    assert deep == pytest.approx(middle)


@given(angles, tilts, st.floats(-200, 200), st.floats(-200, 200))
def test_a_drag_moves_the_scene_with_the_mouse(azimuth, elevation, dx, dy):
    view, place = View((0.3, -0.2, 0.5), 1.3, azimuth, elevation), np.array([[0.1, 0.4, 0.7]])
    before, after = view.project(place, 900, 500), view.moved(dx, dy, 500).project(place, 900, 500)
    assert after - before == pytest.approx(np.array([[dx, dy]]), abs=1e-6)


@given(st.floats(0.01, 100.0))
def test_zooming_in_and_out_again_is_where_it_was(factor):
    view = View((0, 0, 0), 1.0)
    assert view.zoomed(factor).zoomed(1 / factor).half_height == pytest.approx(1.0)
    assert view.zoomed(1e-9).half_height >= 1e-4
    assert view.zoomed(1e9).half_height <= 1e4


@given(angles, st.floats(-1000, 1000))
def test_no_turn_goes_over_the_top(azimuth, dy):
    assert abs(View((0, 0, 0), 1.0, azimuth).orbited(0.0, dy).elevation) <= 1.5


@given(st.integers(0, 2**31), angles, tilts, st.integers(200, 2000), st.integers(200, 1200))
def test_a_whole_scene_is_inside_the_picture(seed, azimuth, elevation, width, height):
    points = np.random.default_rng(seed).normal(size=(12, 3)) * 2
    view = whole_scene(points, 0.1, width, height, View((9, 9, 9), 1.0, azimuth, elevation))
    assert (view.azimuth, view.elevation) == (azimuth, elevation)
    pixels = view.project(points, width, height)
    assert (pixels > 0).all()
    assert (pixels < [width, height]).all()


def test_depth_is_told_from_length():
    line = np.column_stack([np.linspace(0, 1, 5), np.zeros(5), np.zeros(5)])
    assert not spread_in_depth(line)
    assert spread_in_depth(line[:, [1, 0, 2]])


@given(st.floats(1e-3, 1e3))
def test_a_scale_bar_is_a_round_length_that_fits(half_height):
    length = nice_length(half_height)
    digits = f"{length:.0e}"[0]
    assert digits in "125"
    assert 0.05 * half_height < length < half_height


@given(st.floats(0.0, 3.0), st.integers(300, 2000))
def test_a_time_and_its_pixel_undo_each_other(t, width):
    assert to_time(to_pixel(t, (0.0, 3.0), width), (0.0, 3.0), width) == pytest.approx(t, abs=1e-9)
    assert to_pixel(0.0, (0.0, 3.0), width) == LEFT
    assert to_pixel(3.0, (0.0, 3.0), width) == width - RIGHT
    assert to_time(-50.0, (0.0, 3.0), width) == 0.0
    assert to_time(width + 50.0, (0.0, 3.0), width) == 3.0
