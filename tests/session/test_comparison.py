"""One look at a case: traces, beats, gaps, targets, and the headline in words."""

from __future__ import annotations

import numpy as np
import pytest

from yapa.fitting import fit
from yapa.session.comparison import ComparisonBuilder
from yapa.session.ledger import misfits_of

RESTITUTION = "pairs.rind+pad.restitution"


@pytest.fixture(scope="module")
def builder():
    from yapa import api
    from yapa.demo import DATA

    return ComparisonBuilder(api.load(DATA / "orange-drop.yapa"))


def test_beats_are_matched_in_order(builder):
    comparison = builder.at()
    matched = [b for b in comparison.beats if b.measured is not None and b.simulated is not None]
    assert len(matched) >= 4
    assert sorted(b.number for b in comparison.beats) == list(range(1, len(comparison.beats) + 1))
    assert matched[0].measured == pytest.approx(matched[0].simulated, abs=2e-3)  # the first fall is right
    assert matched[1].simulated < matched[1].measured  # too little bounce: early


def test_a_gap_is_simulated_less_measured_and_the_worst_is_in_the_headline(builder):
    comparison = builder.at()
    apex = next(g for g in comparison.gaps if g.name == "apex 1")
    assert apex.gap == pytest.approx(apex.simulated - apex.measured)
    assert apex.gap < -0.1
    assert "misfit" in comparison.headline
    assert "contact" in comparison.detail
    assert "early" in comparison.detail


def test_turning_a_value_moves_the_line_and_not_the_points(builder):
    low, high = builder.at({RESTITUTION: 0.6}), builder.at({RESTITUTION: 0.8})
    a, b = low.traces[0], high.traces[0]
    assert np.abs(a.y - np.interp(a.t, b.t, b.y)).max() > 0.1
    assert a.measured_y is b.measured_y
    assert high.values[RESTITUTION] == 0.8


def test_residuals_are_in_sigma_and_those_of_a_fit_are_noise():
    from yapa import api
    from yapa.demo import DATA

    case = api.load(DATA / "crate-chute.yapa")
    comparison = ComparisonBuilder(case).at(fit(case).values)
    assert 0.85 < comparison.misfit < 1.15
    for trace in comparison.traces:
        if trace.residual is not None:
            assert np.nanstd(trace.residual) == pytest.approx(1.0, abs=0.25)
            assert abs(np.nanmean(trace.residual)) < 0.3
    assert comparison.detail == "as good as the noise"


def test_targets_without_tracks_make_the_headline():
    from yapa import api
    from yapa.demo import DATA

    case = api.load(DATA / "orange-wanted.yapa")
    builder = ComparisonBuilder(case)
    assert builder.at().headline.startswith("0 of 2")
    assert builder.at(fit(case).values).headline == "2 of 2 targets met"


def test_driven_bodies_are_shown_but_have_no_trace():
    from yapa import api
    from yapa.demo import DATA

    comparison = ComparisonBuilder(api.load(DATA / "sweeper-bar.yapa")).at()
    assert {t.body for t in comparison.traces} == {"crate", "can", "cut lemon"}
    assert "bar" in comparison.motion.trajectories


def test_the_headline_says_how_well_and_where_it_is_worst(builder):
    from yapa.session.headline import amount, headline_of

    comparison = builder.at({RESTITUTION: 0.6})
    said = headline_of(comparison.misfit, comparison.gaps, comparison.targets, comparison.motion)
    assert said == (comparison.headline, comparison.detail)
    assert said[0].startswith("misfit ")
    assert "apex" in said[1] or "contact" in said[1] or "rest" in said[1]
    told = [amount(value, unit) for value, unit in ((0.0042, "m"), (0.0961, "m"), (0.0997, "m"), (0.42, "m"), (0.05, "s"),
                                                       (2.0, "rad"))]
    assert told == ["4.2 mm", "9.6 cm", "10 cm", "42 cm", "50 ms", "2 rad"]


def test_the_misfit_of_each_track_goes_into_that_of_all(builder):
    comparison = builder.at()
    assert list(comparison.misfits) == [t.name for t in builder.case.tracks]
    assert comparison.misfits[builder.case.tracks[0].name] == pytest.approx(comparison.misfit)
    assert misfits_of([]) == {}
