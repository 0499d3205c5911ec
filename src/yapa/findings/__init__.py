"""Why something does not happen: checks before a run and after it."""

from yapa.findings import after as after
from yapa.findings import before as before
from yapa.findings.base import Finding, Mend
from yapa.findings.registry import AFTER, BEFORE, case_check, check, motion_check

__all__ = ["AFTER", "BEFORE", "Finding", "Mend", "case_check", "check", "motion_check"]
