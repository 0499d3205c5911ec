"""The values with their units, intervals, and the conditions they hold under, as plain text."""

from __future__ import annotations

from yapa.case.estimate_text import digits
from yapa.case.model import Case
from yapa.case.parameters import get_number
from yapa.case.profiles import Precise, Stepped
from yapa.case.quantities import label_of, quantity_of
from yapa.case.unknowns import Trial
from yapa.engine import ENGINE_VERSION
from yapa.formats.exports.registry import Exported, exporter


def values_text(case: Case, trial: Trial | None = None) -> str:
    """Return one line a value: label, value, unit, 95% interval; then the conditions.

    Parameters
    ----------
    case : the case
    trial : a set of values that was kept
    """
    lines = [case.title]
    for unknown in case.unknowns:
        estimate = trial.estimates.get(unknown.path) if trial is not None else None
        value = trial.values.get(unknown.path) if trial is not None else None
        value = get_number(case, unknown.path) if value is None else value
        unit = quantity_of(unknown.path).unit
        tail = f" {unit}" if unit else ""
        label = label_of(unknown.path)
        if unknown.fixed:
            lines.append(f"{label}\t{value:.6g}{tail}\tset by hand")
        elif estimate is None:
            lines.append(f"{label}\t{value:.6g}{tail}\tnot fitted")
        elif estimate.determined and estimate.std is not None:
            low, high = estimate.low, estimate.high
            interval = f"{low:.6g} – {high:.6g}" if low is not None and high is not None else "–"
            lines.append(f"{label}\t{digits(value, estimate.std)} ± {digits(estimate.std, estimate.std)}{tail}\t95%: {interval}")
        else:
            bounds = [f"at least {estimate.low:.3g}" if estimate.low is not None else "",
                      f"at most {estimate.high:.3g}" if estimate.high is not None else ""]
            lines.append(f"{label}\tundetermined{tail}\t{' '.join(b for b in bounds if b) or 'no bound'}; {estimate.reason}")
    profile, air = case.profile, case.fields.air
    rules = case.pairing
    lines += [
        "", "These hold with:",
        f"profile\t{_profile_text(profile)}",
        f"gravity\t{case.fields.gravity:.6g} m/s² along -z",
        f"air\t{air.density:.5g} kg/m³",
        f"pairing\trestitution {rules.restitution}, friction {rules.friction}, rolling resistance {rules.rolling_resistance}",
        f"engine\tversion {ENGINE_VERSION}",
    ]
    if trial is not None and trial.misfit is not None:
        lines.append(f"misfit\t{trial.misfit:.3f} σ")
    return "\n".join(lines) + "\n"


def _profile_text(profile: Precise | Stepped) -> str:
    """The solver's conventions, in a line."""
    if isinstance(profile, Precise):
        return f"precise, longest step {profile.step:.4g} s, restitution ends at {profile.restitution_threshold:.3g} m/s"
    repair, rest = profile.overlap_correction, profile.sleep
    lines_of = [
        f"stepped, {profile.label}", *profile.conventions,
        "warm start" if profile.warm_start else "no warm start", f"touching within {profile.contact_distance:.3g} m",
        "no repair of overlap" if repair is None else
        f"overlap repaired by {repair.factor:.3g} a substep beyond {repair.allowed_overlap:.3g} m, "
        f"at most {repair.max_speed:.3g} m/s",
        f"no bounce below {profile.restitution_threshold:.3g} m/s, {profile.restitution_threshold_mode}",
        "nothing put to rest" if rest is None else
        f"at rest below {rest.linear_speed:.3g} m/s and {rest.angular_speed:.3g} rad/s for {rest.delay:.3g} s",
    ]
    return "; ".join(lines_of)


@exporter("values", ".txt", "the values with units, 95% intervals and the conditions they hold under")
def _write(exported: Exported) -> str:
    return values_text(exported.case, exported.newest_fit)
