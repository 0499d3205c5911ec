"""It never comes to rest within the clip, and when it would."""

from __future__ import annotations

from collections.abc import Iterator

from yapa.case.model import Case
from yapa.findings.base import Finding, Mend, set_duration
from yapa.findings.registry import motion_check
from yapa.motion import Motion
from yapa.motion.info import Severity
from yapa.outcomes import read


@motion_check
def check(case: Case, motion: Motion) -> Iterator[Finding]:
    """Asked for only where a rest time is wanted; otherwise a note."""
    wanted = {t.body for t in case.targets if t.outcome == "rest time"}
    for body in motion.dynamic_bodies():
        rest = read(motion, "rest time", body)
        if rest.value is not None:
            continue
        when = rest.surrogate or 0.0
        # a motion that does not slow is told to go on for four clips
        later = motion.end < when < 3.9 * motion.end or "would" in (rest.missing or "")
        mend = Mend(f"make the clip {1.1 * when:.3g} s long", set_duration(1.1 * when)) if later else None
        yield Finding(
            "never rests",
            body,
            "it does not come to rest before the clip ends",
            f"{rest.missing}"
            + (f"; at this rate it would at {when:.3g} s" if later and "would" not in (rest.missing or "") else ""),
            Severity.TROUBLE if wanted & {body, None} else Severity.NOTE,
            mend,
        )
