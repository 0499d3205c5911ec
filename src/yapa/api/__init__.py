"""The public API: the same calls the window and the command line make.

A name is imported from where it stands when it is first used, so that ``yapa.load`` does not load the compiler.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from yapa.lazily import importer

if TYPE_CHECKING:
    from yapa.api.calibration import Calibration, calibrate
    from yapa.api.files import load, save
    from yapa.api.fits import corrected, fit, solve, trust
    from yapa.api.motions import measure_motion, measured_motions, predict
    from yapa.case import with_numbers
    from yapa.engine.simulate import simulate
    from yapa.fitting import Cancel, FitResult, Setup, prepare
    from yapa.fitting.targets.drag import Pull
    from yapa.fitting.targets.step_correction import compare
    from yapa.formats.importing import Said
    from yapa.outcomes.energies import ending
    from yapa.session.findings import check
    from yapa.session.manual_evidence import note

__all__ = [
    "Calibration", "Cancel", "FitResult", "Pull", "Said", "Setup", "calibrate", "check", "compare", "corrected", "ending", "fit",
    "load", "measure_motion", "measured_motions", "note", "predict", "prepare", "save", "simulate", "solve", "trust",
    "with_numbers",
]
_WHERE = {
    "yapa.api.calibration": "Calibration calibrate",
    "yapa.api.files": "load save",
    "yapa.api.fits": "corrected fit solve trust with_result",
    "yapa.api.motions": "contact_rows measure_motion measured_motions predict reading_dict",
    "yapa.case": "case_text schema_text label_of with_numbers",
    "yapa.case.outcome_specs": "OUTCOME_SPECS spec_of",
    "yapa.case.estimate_text": "digits",
    "yapa.case.importing": "Role",
    "yapa.case.profiles": "PRESETS Precise",
    "yapa.case.target_text": "parse_target",
    "yapa.engine": "simulate",
    "yapa.engine.cache": "is_warm private_cache",
    "yapa.engine.compiled": "entries",
    "yapa.engine.warm": "compile_all=warm",
    "yapa.fitting": "Cancel FitResult Progress Setup parse_unknown prepare",
    "yapa.fitting.targets.step_correction": "compare",
    "yapa.fitting.problem.cancel": "Cancelled",
    "yapa.fitting.targets.drag": "Pull",
    "yapa.fitting.confidence.robustness": "Stepping",
    "yapa.fitting.targets.solutions": "Solutions",
    "yapa.fitting.explore.sweep": "axis_of sweep",
    "yapa.formats.any_track": "read_any",
    "yapa.formats.case_file": "read_case_file=load read_case_text=load_text write_case_file=save",
    "yapa.formats.exports.motion_csv": "contacts_csv motion_csv samples_csv",
    "yapa.formats.importing": "Said inspect_file track_of",
    "yapa.formats.roles": "KINDS",
    "yapa.formats.units": "UNITS find_unit symbols",
    "yapa.interrupt": "stoppable",
    "yapa.outcomes.book": "contact_book flight_book",
    "yapa.outcomes.energies": "ending",
    "yapa.session.findings": "check",
    "yapa.session.manual_evidence": "note",
}
__getattr__ = importer(__name__, _WHERE)


def __dir__() -> list[str]:
    return sorted({*globals(), *__all__})
