"""Where the residuals of tracks stand."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from yapa.demo import DATA
from yapa.fitting.problem.problem import FitProblem
from yapa.fitting.problem.residual_layout import ResidualLayout
from yapa.formats.case_file import load_case


@given(st.lists(st.tuples(st.integers(1, 9), st.integers(0, 3), st.booleans()).filter(lambda t: t[1] or t[2]), max_size=5))
def test_columns_stand_one_after_the_other_and_leave_no_row_out(tracks):
    layout = ResidualLayout.of(tracks)
    rows = [row for place in layout.tracks for here in place.every for row in range(here.start, here.stop)]
    assert rows == list(range(layout.count))
    for (frames, columns, turned), place in zip(tracks, layout.tracks, strict=True):
        assert len(place.columns) == columns
        assert (place.angle is not None) == turned
        assert [h.stop - h.start for h in place.every] == [frames] * (columns + turned)
        assert place.places.stop - place.places.start == frames * columns
        assert place.whole.stop - place.whole.start == frames * (columns + turned)


def test_a_problem_lays_its_residuals_out_so():
    """One column of one track is moved, and nothing else of the vector changes."""
    case = load_case(DATA / "orange-throw.yapa")[0]
    problem = FitProblem(case)
    p = problem.vector()
    before = problem.residuals(p)
    assert problem.layout.count == problem.track_residuals == len(before)
    x = np.array(case.tracks[0].samples.z) + 0.01
    samples = case.tracks[0].samples.model_copy(update={"z": tuple(x.tolist())})
    moved = FitProblem(case.model_copy(update={"tracks": (case.tracks[0].model_copy(update={"samples": samples}),)}))
    changed = np.flatnonzero(moved.residuals(p) * moved.tracks[0].sigma != before * problem.tracks[0].sigma)
    place = problem.layout.tracks[0]
    here = place.columns[problem.evidence[0].columns.index(2)]
    assert here.start <= changed.min() <= changed.max() < here.stop
