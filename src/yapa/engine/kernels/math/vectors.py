"""Vectors and quaternions: tuples of three and of four, which the compiler splits into scalars.

A vector that is kept stands in three columns side by side; :func:`vector` reads it and :func:`put` writes it, by the first of
them. Sums are taken from left to right, as they are written here: results are the same to the bit wherever a function is used.
"""

from math import cos, sin, sqrt

from numba import types

from yapa.engine.kernels.jit import REAL, part

VECTOR, QUATERNION = types.UniTuple(REAL, 3), types.UniTuple(REAL, 4)
ZERO = (0.0, 0.0, 0.0)
UP = (0.0, 0.0, 1.0)


# -- columns of a table ------------------------------------------------------------------------


@part
def vector(table, row, column):
    """The vector that stands in a row from a column on."""
    return table[row, column], table[row, column + 1], table[row, column + 2]


@part
def put(table, row, column, a):
    """Write a vector into a row from a column on."""
    table[row, column], table[row, column + 1], table[row, column + 2] = a[0], a[1], a[2]


@part
def add(table, row, column, a):
    """Add a vector to the one that stands in a row from a column on."""
    table[row, column] += a[0]
    table[row, column + 1] += a[1]
    table[row, column + 2] += a[2]


@part
def quaternion(table, row, column):
    """The quaternion that stands in a row from a column on, its real part first."""
    return table[row, column], table[row, column + 1], table[row, column + 2], table[row, column + 3]


@part
def put_quaternion(table, row, column, q):
    """Write a quaternion into a row from a column on."""
    table[row, column], table[row, column + 1] = q[0], q[1]
    table[row, column + 2], table[row, column + 3] = q[2], q[3]


# -- vectors -----------------------------------------------------------------------------------


@part
def plus(a, b):
    """a + b"""
    return a[0] + b[0], a[1] + b[1], a[2] + b[2]


@part
def minus(a, b):
    """a - b"""
    return a[0] - b[0], a[1] - b[1], a[2] - b[2]


@part
def negative(a):
    """-a"""
    return -a[0], -a[1], -a[2]


@part
def times(s, a):
    """s a"""
    return s * a[0], s * a[1], s * a[2]


@part
def over(a, s):
    """a / s"""
    return a[0] / s, a[1] / s, a[2] / s


@part
def ahead(a, s, b):
    """a + s b"""
    return a[0] + s * b[0], a[1] + s * b[1], a[2] + s * b[2]


@part
def each(a, b):
    """The product of two vectors axis by axis."""
    return a[0] * b[0], a[1] * b[1], a[2] * b[2]


@part
def dot(a, b):
    """a · b"""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@part
def cross(a, b):
    """a × b"""
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


@part
def carried(v, w, r):
    """v + w × r, the velocity of a point at ``r``: each term added on its own"""
    return v[0] + w[1] * r[2] - w[2] * r[1], v[1] + w[2] * r[0] - w[0] * r[2], v[2] + w[0] * r[1] - w[1] * r[0]


@part
def length(a):
    """|a|"""
    return sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2])


@part
def aside(a, n):
    """a - (a · n) n, the part of a vector across a unit vector"""
    return ahead(a, -dot(a, n), n)


@part
def unit(a):
    """a / |a|, or the zero vector"""
    n = length(a)
    if n < 1e-300:
        return ZERO
    return over(a, n)


# -- quaternions -------------------------------------------------------------------------------


@part
def rotate(q, a):
    """A vector turned by a unit quaternion."""
    w, x, y, z = q
    tx, ty, tz = 2.0 * (y * a[2] - z * a[1]), 2.0 * (z * a[0] - x * a[2]), 2.0 * (x * a[1] - y * a[0])
    return a[0] + w * tx + y * tz - z * ty, a[1] + w * ty + z * tx - x * tz, a[2] + w * tz + x * ty - y * tx


@part
def rotate_back(q, a):
    """A vector turned by the inverse of a unit quaternion."""
    return rotate((q[0], -q[1], -q[2], -q[3]), a)


@part
def turned_on(turn, q):
    """The quaternion ``q`` and then ``turn``: their product, the turn first."""
    c, x, y, z = turn
    return (c * q[0] - x * q[1] - y * q[2] - z * q[3], c * q[1] + x * q[0] + y * q[3] - z * q[2],
            c * q[2] + y * q[0] + z * q[1] - x * q[3], c * q[3] + z * q[0] + x * q[2] - y * q[1])


@part
def quaternion_of(rate, s):
    """The quaternion of turning at a rate for a time: the exponential of their product."""
    angle = s * length(rate)
    c, f = (1.0, 0.5 * s) if angle < 1e-12 else (cos(0.5 * angle), s * sin(0.5 * angle) / angle)
    return c, f * rate[0], f * rate[1], f * rate[2]


@part
def quaternion_rate(spin, q):
    """½ ω q, the rate of an orientation"""
    x, y, z = spin
    return (0.5 * (-x * q[1] - y * q[2] - z * q[3]), 0.5 * (x * q[0] + y * q[3] - z * q[2]),
            0.5 * (y * q[0] + z * q[1] - x * q[3]), 0.5 * (z * q[0] + x * q[2] - y * q[1]))


@part
def further(p, s, q):
    """p + s q"""
    return p[0] + s * q[0], p[1] + s * q[1], p[2] + s * q[2], p[3] + s * q[3]


@part
def unit_quaternion(q):
    """q / |q|"""
    n = 1.0 / sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2] + q[3] * q[3])
    return q[0] * n, q[1] * n, q[2] * n, q[3] * n
