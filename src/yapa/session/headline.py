"""The headline of a comparison: how well simulated and measured agree, and the worst piece in words."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yapa.fitting.problem.result import TargetReport
from yapa.motion import Motion
from yapa.outcomes.judging import deviation

if TYPE_CHECKING:
    from yapa.session.comparison import Gap


def amount(value: float, unit: str) -> str:
    """Return a length or a time in the unit people would say it in.

    Parameters
    ----------
    value : its value
    unit : its SI unit
    """
    size = abs(value)
    if unit == "m" and size < 1:
        return f"{size * 1000:.1f} mm" if size < 0.01 else f"{size * 100:.{1 if size < 0.0995 else 0}f} cm"
    if unit == "s" and size < 0.1:
        return f"{size * 1000:.1f} ms" if size < 0.01 else f"{size * 1000:.0f} ms"
    if unit in ("m", "s"):
        return f"{size:.2f} {unit}"
    return f"{size:.3g} {unit}".strip()


def _ordinal(name: str) -> str:
    kind, _, k = name.partition(" ")
    words = {"1": "first", "2": "second", "3": "third", "4": "fourth", "5": "fifth", "6": "sixth"}
    return f"{words.get(k, k + 'th')} {kind}" if kind in ("contact", "apex") else name


def _in_words(gap: Gap, many: bool) -> str:
    d = gap.gap or 0.0
    whose = f"{gap.body}: " if many else ""
    if gap.name.startswith("contact"):
        return f"{whose}{_ordinal(gap.name)} {amount(d, 's')} {'late' if d > 0 else 'early'}"
    if gap.name.startswith("apex"):
        return f"{whose}{_ordinal(gap.name)} {amount(d, 'm')} too {'high' if d > 0 else 'low'}"
    if gap.name == "rest time":
        return f"{whose}comes to rest {amount(d, 's')} {'late' if d > 0 else 'early'}"
    return f"{whose}travels {amount(d, 'm')} too {'far' if d > 0 else 'short'}"


def headline_of(misfit: float | None, gaps: list[Gap], targets: list[TargetReport], motion: Motion) -> tuple[str, str]:
    """Return headline and its worst piece.

    Parameters
    ----------
    misfit : root mean square of the residuals
    gaps : differences of simulated and measured outcomes
    targets : wanted outcomes
    motion : simulated or measured motion
    """
    if motion.status != "complete":
        return "the run stopped", motion.status
    many = len({g.body for g in gaps}) > 1
    missed = [t for t in targets if not t.met]
    parts = []
    if misfit is not None:
        worst = max((g for g in gaps if g.gap is not None), key=lambda g: g.grade, default=None)
        if misfit < 1.1:
            detail = "as good as the noise"
        elif worst is not None and worst.grade > 1:
            detail = _in_words(worst, many)
        else:
            detail = "no single contact stands out"
        parts.append(f"misfit {misfit:.2f}")
        if not missed:
            return " · ".join([*parts, *([f"{len(targets)} of {len(targets)} targets met"] if targets else [])]), detail
    if not targets:
        return (parts[0], detail) if parts else ("no evidence yet", "bring a track or say what should happen")
    parts.append(f"{len(targets) - len(missed)} of {len(targets)} targets met")
    if not missed:
        return " · ".join(parts), "everything asked for happens"
    worst_target = max(missed, key=lambda t: abs(t.miss) if t.miss is not None else 1e9)
    unit = worst_target.target.unit
    if worst_target.now is None:
        return " · ".join(parts), worst_target.missing or "it does not happen"
    if worst_target.miss is None:
        return " · ".join(parts), f"{worst_target.target.label} happens, and should not"
    d = deviation(worst_target.target, worst_target.now)
    return " · ".join(parts), f"{worst_target.target.label} {amount(d, unit)} too {'much' if d > 0 else 'little'}"
