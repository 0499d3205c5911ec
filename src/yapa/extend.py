"""Adding to Yapa from a program of one's own: findings, outcomes, arguments of outcomes, readers of tracks, exporters.

Each is a decorated function or class (see ``docs/extending.md``). A program registers them, then calls the library, the command
line
(``yapa.cli.main``) or the window in the same process. Worker processes of an executor do not know what was registered here.
"""

from yapa.case import Case
from yapa.case.arguments import Argument, argument
from yapa.case.arguments.registry import NUMBER, PLACE
from yapa.findings import Finding, Mend, case_check, motion_check
from yapa.formats import exports as _exports  # noqa: F401  (Yapa's own come first)
from yapa.formats.exports.registry import Exported, exporter
from yapa.formats.tracks import readers as _readers  # noqa: F401
from yapa.formats.tracks.registry import ReadOptions, track_reader
from yapa.formats.tracks.table import Table
from yapa.motion import Motion, Severity
from yapa.outcomes import OutcomeQuery, OutcomeValue, outcome
from yapa.outcomes.value import missing_event

__all__ = [
    "NUMBER", "PLACE", "Argument", "Case", "Exported", "Finding", "Mend", "Motion", "OutcomeQuery", "OutcomeValue", "ReadOptions",
    "Severity", "Table", "argument", "case_check", "exporter", "missing_event", "motion_check", "outcome", "track_reader",
]
