"""The public API: the same calls the window and the command line make.

A name is imported from where it stands when it is first used, so that ``yapa.load`` does not load the compiler.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from yapa.lazily import importer

if TYPE_CHECKING:
    from yapa.api.build import new_case
    from yapa.api.calibration import Calibration, calibrate
    from yapa.api.files import load, save
    from yapa.api.fits import corrected, fit, solve, trust
    from yapa.api.motions import judged, measure_motion, measured_motions, predict
    from yapa.api.questions import best, either, how_much_more, robust, threshold, variants, what_matters
    from yapa.case import with_numbers
    from yapa.case.model import Case
    from yapa.case.things import ball, copies, crate, floor, lane, open_bin, wall
    from yapa.engine.simulate import simulate
    from yapa.fitting import Cancel, FitResult, Setup, prepare
    from yapa.fitting.targets.drag import Pull
    from yapa.fitting.targets.step_correction import compare
    from yapa.formats.motion_npz import load_motion, save_motion
    from yapa.formats.tracks.importer import ImportOverrides
    from yapa.outcomes.kinds.energy import ending
    from yapa.session.findings import check
    from yapa.session.manual_evidence import note

__all__ = [
    "Calibration",
    "Cancel",
    "Case",
    "FitResult",
    "ImportOverrides",
    "Pull",
    "Setup",
    "ball",
    "best",
    "calibrate",
    "check",
    "compare",
    "contact_frame",
    "copies",
    "corrected",
    "crate",
    "either",
    "ending",
    "fit",
    "floor",
    "how_much_more",
    "judged",
    "lane",
    "level_frame",
    "load",
    "load_motion",
    "load_result",
    "measure_motion",
    "measured_motions",
    "motion_dataset",
    "motion_frame",
    "new_case",
    "note",
    "open_bin",
    "outcome_frame",
    "plot_fit",
    "plot_motion",
    "plot_table",
    "predict",
    "prepare",
    "progress_bar",
    "result_frame",
    "robust",
    "save",
    "save_motion",
    "save_result",
    "simulate",
    "solve",
    "threshold",
    "trust",
    "variants",
    "wall",
    "what_matters",
    "with_numbers",
]
_WHERE = {
    "yapa.api.build": "new_case",
    "yapa.api.calibration": "Calibration calibrate",
    "yapa.api.files": "load save",
    "yapa.api.fits": "corrected fit solve trust with_result",
    "yapa.api.progress": "drawn_bar progress_bar words_of",
    "yapa.api.questions": "best either how_much_more robust threshold variants what_matters",
    "yapa.api.motions": "contact_rows judged measure_motion measured_motions predict reading_dict",
    "yapa.api.result_npz": "load_result save_result",
    "yapa.case": "label_of with_numbers",
    "yapa.case.parameters": "numbers",
    "yapa.case.quantities": "quantity_of",
    "yapa.case.model": "Case FORMAT_VERSION",
    "yapa.case.estimate_text": "digits",
    "yapa.case.importing": "Role",
    "yapa.case.quantity_text": "number_with_unit",
    "yapa.case.profiles": "PRESETS Precise",
    "yapa.case.things": "ball copies crate floor lane open_bin wall",
    "yapa.case.units": "amount_text as_shown",
    "yapa.engine": "simulate",
    "yapa.engine.compile.pair_materials": "effective_values",
    "yapa.engine.jit.cache_key": "is_warm private_cache",
    "yapa.engine.jit.runtime": "entries",
    "yapa.engine.jit.warmup": "compile_all=warm",
    "yapa.fitting": "Cancel FitResult Progress Setup parse_unknown prepare",
    "yapa.fitting.targets.step_correction": "compare",
    "yapa.fitting.problem.cancel": "Cancelled",
    "yapa.fitting.targets.drag": "Pull",
    "yapa.fitting.confidence.robustness": "StepSensitivity",
    "yapa.fitting.targets.solutions": "Solutions",
    "yapa.fitting.explore.sweep": "axis_of sweep unknown_over",
    "yapa.formats.tracks.any_file": "read_any",
    "yapa.formats.case_file": "read_case_file=load read_case_text=load_text write_case_file=save upgrade_notice",
    "yapa.formats.case_json": "case_text schema_text",
    "yapa.formats.exports.contacts_csv": "contacts_csv",
    "yapa.formats.exports.motion_csv": "motion_csv",
    "yapa.formats.exports.registry": "EXPORTERS Exported",
    "yapa.formats.exports.samples_csv": "samples_csv",
    "yapa.formats.tracks.importer": "ImportOverrides inspect_file track_of",
    "yapa.formats.tracks.columns": "KINDS",
    "yapa.formats.motion_npz": "load_motion save_motion",
    "yapa.formats.table_options": "curve_in_words=with_curve table_in_words=with_table",
    "yapa.formats.target_text": "parse_target",
    "yapa.formats.units": "UNITS find_unit symbols",
    "yapa.interrupt": "stoppable",
    "yapa.notebook.arrays": "motion_dataset",
    "yapa.notebook.frames": "contact_frame level_frame motion_frame outcome_frame result_frame",
    "yapa.notebook.plots": "plot_fit plot_motion plot_table",
    "yapa.outcomes": "OUTCOME_SPECS spec_of",
    "yapa.outcomes.balance": "contact_book flight_book",
    "yapa.outcomes.kinds.energy": "ending",
    "yapa.outcomes.kinds.loss_share": "stopped_by",
    "yapa.session.findings": "check",
    "yapa.session.manual_evidence": "note",
}
__getattr__ = importer(__name__, _WHERE)


def __dir__() -> list[str]:
    return sorted({*globals(), *__all__})
