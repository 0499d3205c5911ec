"""What the session offers as data: findings, outcomes, solutions, new cases, demo cases, files, values."""

from __future__ import annotations

import pytest

from tests.session.conftest import E, bouncing
from yapa.case import Target
from yapa.engine import simulate
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


def test_a_new_case_is_made_of_what_is_wanted_or_of_a_track():
    case = new_case.from_outcomes("bounce", 0.038, None, 0.2, 1.4, [0.7, 0.4], 2.1, 0.01)
    assert [t.outcome for t in case.targets] == ["apex", "apex", "rest time"]
    samples = bouncing().tracks[0].samples
    made = new_case.prepare(samples, new_case.Setup(radius=0.038, unknown=dict.fromkeys(new_case.FINDABLE)))
    for name in new_case.FINDABLE:
        assert any(name in u.path for u in made.case.unknowns), name


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
        desk.export(exporter, path)
        ear.until(path.exists)
        assert path.read_text() == exporter.write(exporting.Exported(desk.case))
        path.unlink()


def test_what_cannot_be_written_is_said(desk, ear, tmp_path):
    desk.export(exporting.exporters()[0], tmp_path / "no folder" / "out.csv")
    ear.until(lambda: desk.troubles)
    assert "no folder" in desk.troubles[0]


def test_the_values_are_handed_over_as_text_with_the_conditions(desk):
    text = desk.values_text()
    assert "restitution · rind on pad" in text
    assert "gravity" in text
