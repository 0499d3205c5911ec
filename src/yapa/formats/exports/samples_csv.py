"""A track as plain CSV."""

from __future__ import annotations

from yapa.case.evidence import Samples


def samples_csv(samples: Samples) -> str:
    """Return a track as plain columns t, x, y, z, angle; gaps are empty.

    Parameters
    ----------
    samples : of the track, SI units
    """
    names = [name for name in ("x", "y", "z", "angle") if getattr(samples, name) is not None]
    lines = [",".join(["t", *names])]
    for k, t in enumerate(samples.t):
        cells = (getattr(samples, name)[k] for name in names)
        lines.append(",".join([repr(t), *("" if v is None else repr(v) for v in cells)]))
    return "\n".join(lines) + "\n"
