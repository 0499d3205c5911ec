"""Curves of what people log instead of places: speed, height, distance, angle, energy; and a wanted curve."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import G, ball, crate_on_slope, floor, scene

from yapa.case import Case, Unknown
from yapa.case.changed_numbers import with_numbers
from yapa.case.curves import Curve
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting import fit
from yapa.fitting.tables.curve_part import curve_of
from yapa.formats.case_json import case_text, parse_case

MU, E = "surfaces.both.friction", "surfaces.both.restitution"


def dropped() -> Case:
    return scene({"ball": ball(0.05, position=(0, 0, 1.05), velocity=(1.0, 0, 0), mass=0.2, angular_velocity=(0, -60.0, 0)),
                  "floor": floor()}, duration=1.2, restitution=0.7, friction=0.2)


def logged(case: Case, quantity: str, sigma: float, seed: int = 0, given: bool = True, **more) -> Curve:
    t = np.linspace(0.0, case.duration, 60)
    curve = Curve(name=quantity, body=case.dynamic_bodies()[0], quantity=quantity, t=tuple(t.tolist()), y=tuple([0.0] * 60), **more)
    y = curve_of(simulate(case), curve) + np.random.default_rng(seed).normal(size=60) * sigma
    return curve.model_copy(update={"y": tuple(y.tolist()), "sigma": sigma if given else None})


@pytest.mark.parametrize(("quantity", "sigma", "more"), [
    ("height", 2e-3, {}), ("speed", 0.02, {}), ("distance", 2e-3, {"point": (-1.0, 0.0, 0.5)}), ("energy", 2e-3, {}),
    ("z", 2e-3, {})])
@pytest.mark.parametrize("given", [True, False])
def test_restitution_is_found_from_what_is_logged(quantity, sigma, more, given):
    curve = logged(dropped(), quantity, sigma, given=given, **more)
    case = with_numbers(dropped(), {E: 0.5}).model_copy(update={
        "curves": (curve,), "unknowns": (Unknown(path=E, low=0.2, high=0.95),)})
    result = fit(case)
    e = result.estimates[E]
    assert result.stopped == "converged"
    assert abs(e.value - 0.7) < 4 * e.std
    assert result.misfit == pytest.approx(1.0, abs=0.25)


@pytest.mark.parametrize("quantity", ["spin", "angle"])
def test_friction_is_found_from_the_turning(quantity):
    curve = logged(with_numbers(dropped(), {MU: 0.05}), quantity, 0.05)
    case = with_numbers(dropped(), {MU: 0.1}).model_copy(update={
        "curves": (curve,), "unknowns": (Unknown(path=MU, low=0.02, high=0.3),)})
    e = fit(case).estimates[MU]
    assert abs(e.value - 0.05) < 4 * e.std


def test_a_wanted_curve_gives_its_closed_form():
    """Speed that is to fall evenly from 2 m/s to rest in 0.8 s: the friction is 2 / (0.8 g)."""
    t = (0.0, 0.2, 0.4, 0.6, 0.8)
    curve = Curve(name="wanted", body="crate", quantity="speed", t=t, y=(2.0, 1.5, 1.0, 0.5, 0.0), sigma=0.01)
    case = crate_on_slope(0.0, 2.0, 1.0, friction=0.1).model_copy(update={
        "curves": (curve,), "unknowns": (Unknown(path=MU, low=0.05, high=1.0),
                                         Unknown(path="bodies.crate.speed", low=1.0, high=3.0))})
    result = fit(case)
    assert result.values[MU] == pytest.approx(2.0 / (0.8 * G), abs=2e-3)
    assert result.values["bodies.crate.speed"] == pytest.approx(2.0, abs=5e-3)


def test_gaps_do_not_count_and_two_curves_share_their_numbers():
    one, two = logged(dropped(), "height", 2e-3), logged(dropped(), "speed", 0.02)
    holes = tuple(None if 20 < k < 30 else v for k, v in enumerate(one.y))
    case = dropped().model_copy(update={"curves": (one.model_copy(update={"y": holes}), two),
                                        "unknowns": (Unknown(path=E, low=0.2, high=0.95),)})
    both = fit(case)
    alone = fit(case.model_copy(update={"curves": case.curves[1:]}))
    assert both.estimates[E].std < alone.estimates[E].std
    assert parse_case(case_text(case), "case").curves == case.curves


@pytest.mark.parametrize(("changes", "words"), [
    ({"t": (0.0, 0.0, 1.0), "y": (1.0, 1.0, 1.0)}, "increase"), ({"y": (1.0,)}, "values beside"),
    ({"quantity": "distance"}, "point"),
    ({"quantity": "colour"}, "quantity"), ({"body": "nobody"}, "nobody"), ({"y": (None, None, 1.0)}, "at least 3"),
])
def test_a_curve_that_cannot_be_one_is_refused(changes, words):
    tree = {"name": "c", "body": "ball", "quantity": "speed", "t": (0.0, 0.5, 1.0), "y": (1.0, 1.0, 1.0)} | changes
    with pytest.raises((InputError, ValueError), match=words):
        Case.model_validate(dropped().model_dump() | {"curves": (tree,)})


def test_a_curve_is_read_from_a_file_with_its_units(tmp_path):
    from yapa.formats.table_options import with_curve

    curve = logged(dropped(), "speed", 0.0)
    rows = "".join(f"{1000 * t:.3f},{3.6 * v:.6f}\n" for t, v in zip(curve.t, curve.y, strict=True))
    (tmp_path / "log.csv").write_text("t (ms),v (km/h)\n" + rows)
    case = with_curve(dropped(), f"ball speed={tmp_path / 'log.csv'}: t, v ± 0.1 m/s")
    (found,) = case.curves
    assert (found.body, found.quantity, found.sigma) == ("ball", "speed", 0.1)
    assert found.t == pytest.approx(curve.t, abs=1e-6)
    assert found.y == pytest.approx(curve.y, abs=1e-5)
    far = with_curve(dropped(), f"ball distance of (0, 0, 1)={tmp_path / 'log.csv'}: t, v * 1 s")
    assert far.curves[0].point == (0.0, 0.0, 1.0)
    for wrong, words in ((f"ball speed={tmp_path / 'log.csv'}: t", "TIME, VALUE"),
                         (f"ball speed={tmp_path / 'log.csv'}: t, v s", "km/h"),
                         (f"ball colour={tmp_path / 'log.csv'}: t, v", "colour"),
                         (f"ball speed={tmp_path / 'log.csv'}: t, w", "'w'")):
        with pytest.raises(InputError, match=words):
            with_curve(dropped(), wrong)


def test_a_curve_from_before_the_start_is_refused():
    curve = Curve(name="c", body="ball", quantity="speed", t=(-0.5, 0.5, 1.0), y=(1.0, 1.0, 1.0))
    with pytest.raises(InputError, match="from the start"):
        fit(dropped().model_copy(update={"curves": (curve,), "unknowns": (Unknown(path=E, low=0.2, high=0.95),)}))
