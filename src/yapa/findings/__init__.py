"""Why something does not happen: checks before a run and after it."""

from yapa.findings.base import Finding, Mend
from yapa.findings.catalogue import AFTER, BEFORE, check

__all__ = ["AFTER", "BEFORE", "Finding", "Mend", "check"]
