"""Values handed over: numbers with units, intervals, and the conditions they hold under."""

from __future__ import annotations

import re

from yapa import api
from yapa.case import Trial
from yapa.case.unknowns import Estimate
from yapa.fitting import fit
from yapa.formats.exports.values_text import values_text


def test_every_unknown_has_a_line_with_value_unit_and_interval(demo):
    case = api.with_result(demo("orange-throw"), fit(demo("orange-throw")))
    text = values_text(case, case.trials[-1])
    line = next(x for x in text.splitlines() if x.startswith("launch, along x"))
    name, value, interval = line.split("\t")
    assert re.fullmatch(r"2\.3\d+ ± 0\.000\d+ m/s", value)
    low, high = (float(x) for x in interval.removeprefix("95%: ").split(" – "))
    assert low < 2.3105 < high
    assert "gravity\t9.80665 m/s² along -z" in text
    assert "pairing\trestitution mean" in text
    assert "engine\tversion" in text
    assert re.search(r"misfit\t[01]\.\d+ σ", text)


def test_what_is_locked_or_not_fitted_says_so(demo):
    text = values_text(demo("orange-drop"))
    assert re.search(r"mass · orange\t0\.182 kg\tset by hand", text)
    assert re.search(r"restitution · rind on pad\t0\.66\tnot fitted", text)


def test_what_cannot_be_told_gets_its_bound_and_its_reason_never_a_number(demo):
    case = demo("orange-drop")
    path = "pairs.rind+pad.restitution"
    told = Estimate(value=0.9, low=0.4, determined=False, reason="every contact grips")
    trial = Trial(name="fit 1", source="fit", values={path: 0.9}, estimates={path: told})
    line = next(x for x in values_text(case, trial).splitlines() if x.startswith("restitution"))
    assert "undetermined" in line
    assert "at least 0.4" in line
    assert "every contact grips" in line
    assert "0.9" not in line
