"""A case whose evidence is a table of trials, on a desk: it opens, fits, keeps a trial and is saved."""

from __future__ import annotations

import numpy as np
from benchmarks.tables import TABLES, E

from yapa.fitting import fit
from yapa.formats.case_file import load_case
from yapa.session.desk import Desk
from yapa.session.recovery import Recovery


def test_a_table_is_fitted_saved_and_opened_again(ear, tmp_path):
    case, truth = TABLES["rebound height"](np.random.default_rng(2))
    desk = Desk(ear, Recovery(tmp_path / "state"), fit, pause=0.02)
    troubles = []
    desk.error.connect(troubles.append)
    desk.open_case(case)
    ear.until(lambda: desk.jobs.idle)
    assert desk.case.has_evidence
    desk.fits.start()
    ear.until(lambda: desk.jobs.idle)
    assert troubles == []
    assert abs(desk.case[E] - truth[E]) < 0.02
    assert abs(desk.case["constants.zero"] - truth["constants.zero"]) < 0.01
    assert desk.case.trials[-1].source == "fit"
    desk.saver.save(tmp_path / "one.yapa")
    ear.until(lambda: not desk.saver.busy)
    assert load_case(tmp_path / "one.yapa")[0].table == desk.case.table
