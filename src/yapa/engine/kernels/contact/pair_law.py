"""What the law of a pair reads off a contact: its tangents, and restitution at a speed."""

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import material
from yapa.engine.kernels.math.vectors import cross, length, times


@kernel
def tangents(n):
    """Two unit vectors that make a right-handed frame with the normal."""
    nx, ny, nz = n
    t = (1.0 - nx * nx, -nx * ny, -nx * nz) if abs(nx) < 0.6 else (-ny * nx, 1.0 - ny * ny, -ny * nz)
    t = times(1.0 / length(t), t)
    return t, cross(n, t)


@kernel
def effective_restitution(law, approach, cutoff):
    """e with its smooth end between twice the cut-off speed and the cut-off speed, and its falloff with speed."""
    e = law[material.RESTITUTION]
    if law[material.FALLOFF] > 0.0 and approach > law[material.REFERENCE]:
        e *= (approach / law[material.REFERENCE]) ** (-law[material.FALLOFF])
    if approach >= 2.0 * cutoff:
        return e
    if approach <= cutoff:
        return 0.0
    s = approach / cutoff - 1.0
    return e * s * s * (3.0 - 2.0 * s)


@kernel
def lossless(law, ratio):
    """Whether an impact with this restitution takes no energy."""
    return (ratio == 1.0 and law[material.STATIC] == 0.0 and law[material.DYNAMIC] == 0.0 and law[material.ROLLING] == 0.0
            and law[material.SPINNING] == 0.0)
