"""Notes of one kind about several bodies as one, with every body listed, so that a large scene is still read. Trouble is never
merged."""

from __future__ import annotations

from collections.abc import Callable

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend
from yapa.motion.info import Severity

ALIKE = 2
"""notes of one kind from which on they are one"""


def merged(findings: list[Finding]) -> list[Finding]:
    """Return findings with notes of one kind made one, in the place of the first.

    Parameters
    ----------
    findings : what was found
    """
    groups: dict[str, list[Finding]] = {}
    for finding in findings:
        if finding.severity == Severity.NOTE:
            groups.setdefault(finding.kind, []).append(finding)
    out: list[Finding] = []
    for finding in findings:
        alike = groups.get(finding.kind, []) if finding.severity == Severity.NOTE else []
        if len(alike) < ALIKE:
            out.append(finding)
        elif alike[0] is finding:
            out.append(_one_of(alike))
    return out


def _one_of(alike: list[Finding]) -> Finding:
    names = [finding.about for finding in alike]
    about = f"{', '.join(names[:-1])} and {names[-1]}"
    causes = list(dict.fromkeys(finding.cause for finding in alike))
    cause = causes[0] if len(causes) == 1 else f"{alike[0].about_in_words}: {causes[0]}; the others alike"
    symptoms = list(dict.fromkeys(finding.symptom for finding in alike))
    symptom = symptoms[0] if len(symptoms) == 1 else f"{symptoms[0]} (the others alike)"
    mends = [finding.mend for finding in alike if finding.mend is not None]
    mend = None if len(mends) < len(alike) else Mend(_label(mends), _all(mends))
    return Finding(alike[0].kind, about, symptom, cause, Severity.NOTE, mend)


def _label(mends: list[Mend]) -> str:
    labels = list(dict.fromkeys(mend.label for mend in mends))
    return labels[0] if len(labels) == 1 else f"{labels[0]}, and the others alike"


def _all(mends: list[Mend]) -> Callable[[Case], Case]:
    """Every mend in turn; a clip is made as long as the longest of them wants."""
    def apply(case: Case) -> Case:
        longest = max(mend.apply(case).duration for mend in mends)
        for mend in mends:
            case = mend.apply(case)
        return case.model_copy(update={"duration": max(case.duration, longest)})

    return apply
