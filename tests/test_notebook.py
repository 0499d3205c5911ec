"""Data frames, labelled arrays and plots of motions and results, results in files, and a bar of progress."""

from __future__ import annotations

import builtins

import numpy as np
import pytest

from yapa import api
from yapa.demo import DATA
from yapa.errors import InputError


@pytest.fixture(scope="module")
def drop():
    """A case, its motion and its fit."""
    case = api.load(DATA / "orange-drop.yapa")
    return case, api.simulate(case), api.fit(case)


@pytest.fixture(scope="module")
def table():
    """A fit to a table of trials."""
    case = api.load(DATA / "orange-wanted.yapa")
    case = case.with_(targets=[], unknowns=case.unknowns[:1])
    return api.fit(api.table_in_words(case, DATA / "orange-heights.csv", ["bodies.orange.position.z=height + 3.7 cm"],
                                      ["apex 1=rebound"])[0])


def test_a_frame_holds_the_motion(drop):
    _, motion, _ = drop
    frame = api.motion_frame(motion)
    assert frame.index.names == ["body", "time"]
    assert np.array_equal(frame.loc["orange"][["x", "y", "z"]].to_numpy(), motion.states[:, motion.names.index("orange"), :3])
    assert frame.attrs["units"]["vz"] == "m/s"
    hits = api.contact_frame(motion)
    assert hits.approach.tolist() == [c.approach for c in motion.contacts]
    assert (hits.nz.round(6) == 1.0).all()


def test_a_frame_holds_outcomes_and_results(drop, table):
    _, motion, result = drop
    outcomes = api.measure_motion(motion)
    frame = api.outcome_frame(outcomes)
    assert frame.loc[("orange", "apex 1"), "value"] == outcomes["orange"]["apex 1"].value
    numbers = api.result_frame(result)
    assert numbers.value.to_dict() == {("", path): value for path, value in result.values.items()}
    levels = api.level_frame(table)
    assert levels.measured.tolist() == [level.measured for level in table.table.by_level]
    with pytest.raises(InputError, match="no table"):
        api.level_frame(result)


def test_an_array_has_named_axes_and_units(drop):
    _, motion, _ = drop
    dataset = api.motion_dataset(motion)
    assert dataset.velocity.dims == ("time", "body", "axis")
    assert np.array_equal(dataset.position.sel(body="orange").values, motion.states[:, motion.names.index("orange"), :3])
    assert dataset.angular_velocity.attrs["units"] == "rad/s"


def test_plots_show_what_was_measured_and_simulated(drop, table, tmp_path):
    case, motion, result = drop
    assert len(api.plot_motion(motion).axes) == 3
    figure = api.plot_fit(case, result)
    places, left_over = figure.axes[-2:]
    measured, simulated = (line.get_ydata() for line in places.lines)
    assert np.nanmax(np.abs(measured - simulated)) < 0.01
    assert 0.8 < np.sqrt(np.nanmean(left_over.lines[0].get_ydata() ** 2)) < 1.2
    shown = api.plot_table(table).axes[0]
    assert shown.lines[0].get_ydata().tolist() == [level.measured for level in table.table.by_level]
    figure.savefig(tmp_path / "fit.png")
    assert (tmp_path / "fit.png").stat().st_size > 5000
    for wrong in (lambda: api.plot_motion(motion, ["apple"]), lambda: api.plot_table(result),
                  lambda: api.plot_fit(case.with_(tracks=[], unknowns=[]), result)):
        with pytest.raises(InputError):
            wrong()


def test_a_package_that_is_not_there_is_named_with_how_to_install_it(drop, monkeypatch):
    whole = builtins.__import__

    def without(name, *args, **kwargs):
        if name == "pandas":
            raise ImportError(name)
        return whole(name, *args, **kwargs)

    monkeypatch.setattr("yapa.notebook.extras.import_module", lambda name: without(name))
    with pytest.raises(InputError, match=r"pip install 'yapa\[notebook\]'"):
        api.motion_frame(drop[1])


def test_a_result_is_the_same_after_it_was_saved(drop, table, tmp_path):
    for result in (drop[2], table, api.fit(api.load(DATA / "lemons-nudge.yapa")), api.fit(api.load(DATA / "orange-wanted.yapa"))):
        api.save_result(result, tmp_path / "fit.npz")
        again = api.load_result(tmp_path / "fit.npz")
        assert again == result
        assert again.summary() == result.summary()
        with np.load(tmp_path / "fit.npz", allow_pickle=False) as file:
            assert all(file[name].dtype != object for name in file.files)
            assert dict(zip(file["paths"].tolist(), file["values"].tolist(), strict=True)) == result.values


def test_what_is_no_result_is_refused(drop, tmp_path):
    api.save_motion(drop[1], tmp_path / "motion.npz")
    (tmp_path / "text.npz").write_text("nothing")
    for name in ("motion", "text"):
        with pytest.raises(InputError, match="no result of a fit"):
            api.load_result(tmp_path / f"{name}.npz")
    with pytest.raises(InputError, match="no such file"):
        api.load_result(tmp_path / "gone.npz")
    with pytest.raises(InputError, match="can be written"):
        api.save_result(drop[2], tmp_path / "no" / "fit.npz")


def test_a_summary_tells_what_is_left_over(drop):
    case, _, result = drop
    assert result.dof == 2 * 288 - 4
    assert {(c.track, c.column) for c in result.residuals} == {(case.tracks[0].name, "x"), (case.tracks[0].name, "z")}
    assert all(0.9 < c.rms < 1.1 and abs(c.worst) >= c.rms for c in result.residuals)
    strongest = result.correlations[0]
    assert abs(strongest[2]) == max(abs(c) for *_, c in result.correlations) <= 1.0
    text = result.summary()
    assert "572 degrees of freedom" in text
    assert "go together (correlation" in text
    assert result.as_dict()["dof"] == 572


def test_a_bar_of_progress_follows_a_fit_and_goes(drop, capfd):
    seen = []
    with api.progress_bar("fitting") as progress:
        api.fit(drop[0], lambda p: (progress(p), seen.append(p.fraction)))
    assert seen
    assert 0.0 <= min(seen) <= max(seen) <= 1.0
    assert "fitting" not in capfd.readouterr().out
