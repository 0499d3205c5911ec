"""What the session offers as data: findings, outcomes, solutions, new cases, demo cases, files, values."""

from __future__ import annotations

import pytest

from tests.session.conftest import E, bouncing
from yapa.case import Target
from yapa.engine import simulate
from yapa.errors import InputError
from yapa.fitting.problem.cancel import Cancel, Cancelled
from yapa.outcomes import read
from yapa.session import demo_cases, engine_ready, exporting, findings, importing, new_case, outcomes, solutions


def test_findings_of_a_case_are_told_and_a_stop_is_heard():
    case = bouncing().model_copy(update={"fields": bouncing().fields.model_copy(update={"gravity": 0.0})})
    assert any(isinstance(f, findings.Finding) and f.symptom for f in findings.check(case))
    stopped = Cancel()
    stopped.set()
    with pytest.raises(Cancelled):
        findings.check(case, cancel=stopped)


def test_the_table_of_outcomes_has_both_sides_unit_and_meaning(desk):
    motion = desk.preview.comparison.motion
    seen = desk.preview.builder.measured["orange"]
    table = outcomes.outcome_table(motion, "orange", seen.motion)
    rows = {row.name: row for row in table.rows}
    assert rows["apex 1"].unit == "m"
    assert rows["apex 1"].simulated.value == read(motion, "apex", "orange", 1).value
    assert rows["apex 1"].measured.value == read(seen.motion, "apex", "orange", 1).value
    assert rows["apex 1"].meaning
    assert table.ending
    alone = outcomes.outcome_table(motion, "orange")
    assert all(row.measured is None for row in alone.rows)


def test_solutions_of_what_is_wanted_are_searched(desk):
    case = desk.case.model_copy(update={"tracks": (), "targets": (Target(outcome="apex", index=1, value=0.5, tolerance=0.01),)})
    found = solutions.solve(case)
    assert found.found
    assert set(found.found[0].values) == {E}


def test_an_empty_scene_is_filled_with_what_is_wanted_in_one_step(desk, ear):
    wanted = [Target(outcome="apex", index=k, value=v, tolerance=0.01) for k, v in ((1, 0.7), (2, 0.4))]
    desk.open_case(new_case.empty_scene())
    assert desk.fill(new_case.dropped_scene(wanted, 1.4, 0.2, radius=0.038))
    assert [(t.outcome, t.body) for t in desk.case.targets] == [("apex", new_case.BODY)] * 2
    assert desk.case.bodies[new_case.BODY].position[2] == pytest.approx(1.438)
    ear.until(lambda: bool(desk.case.trials))  # how it came
    desk.undo()
    assert desk.case.bodies == {}
    assert desk.case.title == "New scene"
    late = new_case.dropped_scene([Target(outcome="rest time", value=4.0, tolerance=0.1)], 1.4, 0.2, radius=0.038)
    assert late.change(new_case.empty_scene()).duration == pytest.approx(6.0)  # what is wanted at 4 s can come to be
    with pytest.raises(InputError, match=r"apex 2: found 0.9 m; expected less than the 0.7 m"):
        new_case.dropped_scene([wanted[0], wanted[1].model_copy(update={"value": 0.9})], 1.4, 0.2, radius=0.038)
    with pytest.raises(InputError, match="nothing wanted"):
        new_case.dropped_scene([], 1.4, 0.2, size=new_case.edges_of("0.3 x 0,2 × 0.1"))
    with pytest.raises(InputError, match="three lengths"):
        new_case.edges_of("0.3")


def test_an_empty_scene_is_filled_with_a_thing_for_every_track():
    track = bouncing().tracks[0]
    samples = track.samples
    setup = new_case.Setup(radius=0.038, unknown=dict.fromkeys(new_case.FINDABLE))
    tracks = [track.model_copy(update={"body": name, "name": f"film {name}", "time_offset": 0.0, "translation": (0.0, 0.0, lift)})
              for name, lift in (("a", 0.0), ("b", 0.25))]
    made = new_case.filmed_scene(tracks, setup).change(new_case.empty_scene())
    assert made.dynamic_bodies() == ["a", "b"]
    assert [(t.name, t.body) for t in made.tracks] == [("film a", "a"), ("film b", "b")]
    assert made.tracks[1].samples.z[0] == pytest.approx(samples.z[0] + 0.25)
    for name in new_case.FINDABLE:
        assert any(name in u.path for u in made.unknowns), name
    assert len({u.path for u in made.unknowns}) == len(made.unknowns)
    assert simulate(made).trajectory("b").position([0.0])[0, 2] == pytest.approx(made.bodies["b"].position[2])
    with pytest.raises(InputError, match="left out"):
        new_case.filmed_scene([], setup)


def test_every_demo_case_is_offered_and_its_copy_needs_no_file(tmp_path):
    offered = demo_cases.demo_cases()
    assert len(offered) >= 7
    for demo in offered:
        copy = demo_cases.demo_copy(demo.path)
        assert copy.title == demo.case.title
        assert all(track.file is None and track.samples is not None for track in copy.tracks)
    assert len(demo_cases.curve_of(bouncing())) > 10


def test_whether_the_engine_is_compiled_is_known():
    simulate(bouncing())
    assert engine_ready.is_warm()
    assert engine_ready.compiled_share() == 1.0


def test_the_file_dialog_offers_what_can_be_read():
    for suffix in (".csv", ".tsv", ".parquet", ".xlsx", ".ods"):
        assert f"*{suffix}" in importing.track_files()


def test_every_exporter_is_offered_and_writes_a_file(desk, ear, tmp_path):
    assert {e.name for e in exporting.exporters()} >= {"values", "motion", "contacts"}
    for exporter in exporting.exporters():
        path = tmp_path / f"out{exporter.suffix}"
        desk.saver.export(exporter, path)
        ear.until(path.exists)
        assert path.read_text() == exporter.write(exporting.Exported(desk.case))
        path.unlink()


def test_what_cannot_be_written_is_said(desk, ear, tmp_path):
    desk.saver.export(exporting.exporters()[0], tmp_path / "no folder" / "out.csv")
    ear.until(lambda: desk.troubles)
    assert "no folder" in desk.troubles[0]


def test_the_values_are_handed_over_as_text_with_the_conditions(desk):
    text = desk.values_text()
    assert "restitution · rind on pad" in text
    assert "gravity" in text
