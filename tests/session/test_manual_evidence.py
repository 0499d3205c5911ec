"""Evidence made by hand is ordinary evidence: a fit finds the numbers from it."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa import api
from yapa.case import Trial, Unknown
from yapa.errors import InputError
from yapa.session.manual_evidence import (
    apex_heights,
    apex_ratios,
    drawn_path,
    formula_track,
    mark,
    stopwatch,
    theory_curve,
    trial_track,
)

E = "surfaces.both.restitution"


def dropped(**evidence):
    case = scene({"orange": ball(position=(0, 0, 1.05)), "plate": floor()}, duration=3.0, restitution=0.3)
    return case.model_copy(update={"unknowns": (Unknown(path=E, low=0.1, high=0.95),), **evidence})


@pytest.mark.parametrize("targets", [
    apex_heights([0.49, 0.24], 0.005), apex_ratios([0.49, 0.49], 0.01), [stopwatch(0.45155 * 1.7 / 0.3, 0.02)],
    mark(0.8, (0.0, float("nan"), 0.05 + 0.7 * 4.4287 * 0.34845 - 4.903325 * 0.34845**2), 0.005),
], ids=["apex heights", "ratios", "stopwatch", "a mark"])
def test_restitution_is_found_from_what_was_noted_by_hand(targets):
    result = api.fit(dropped(targets=tuple(targets)))
    assert all(t.met for t in result.targets)
    assert result.values[E] == pytest.approx(0.7, abs=0.02)


def fallen(t):
    """Drop from 1 m and one bounce at e = 0.7."""
    hit, v = 0.451601, 0.7 * 4.428690
    z = 1.0 - 4.903325 * t * t if t < hit else v * (t - hit) - 4.903325 * (t - hit) ** 2
    return 0.0, 0.0, 0.05 + max(z, 0.0)


@pytest.mark.parametrize("track", [
    theory_curve("theory", "orange", fallen, 1.0, 1e-3),
    drawn_path("drawn", "orange", np.linspace(0, 1, 61), [fallen(t) for t in np.linspace(0, 1, 61)], 5e-3),
], ids=["theory", "drawn"])
def test_a_curve_made_by_hand_is_fitted_as_a_track(track):
    assert api.fit(dropped(tracks=(track,))).values[E] == pytest.approx(0.7, abs=0.02)


def test_an_earlier_trial_is_evidence_for_another():
    case = dropped()
    kept = Trial(name="Trial 1", source="by hand", values={E: 0.62}, targets_met=0, targets=0)
    track = trial_track(case, kept, "orange")
    assert api.fit(dropped(tracks=(track,))).values[E] == pytest.approx(0.62, abs=1e-3)


def test_what_cannot_be_evidence_is_refused():
    for make in (lambda: apex_heights([], 0.1), lambda: apex_ratios([], 0.1),
                 lambda: drawn_path("p", "orange", [0.0, 0.0], [(0, 0, 0), (1, 0, 0)], 0.01)):
        with pytest.raises(InputError):
            make()


def test_a_curve_of_theory_is_arithmetic_of_the_time():
    track = formula_track("theory", "orange", {"x": "", "z": "1.4 - g * t^2 / 2"}, 0.5, 9.8, 0.01)
    assert track.samples.x is None
    assert track.samples.z[-1] == pytest.approx(1.4 - 9.8 * 0.125)
    for text, told in (("1 / t", "a number at every time"), ("h - t", "arithmetic of t and g"), (" ", "no coordinate")):
        with pytest.raises(InputError, match=told):
            formula_track("theory", "orange", {"z": text}, 0.5, 9.8, 0.01)
