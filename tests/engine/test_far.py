"""Kernels called by their address, and many arrays behind one table."""

from __future__ import annotations

import numpy as np
import pytest

from yapa.engine.jit.pointers import pointer_table
from yapa.engine.kernels.dynamics.flight import lead
from yapa.engine.kernels.jit import FLAG, REAL, REALS2, WHOLE, WHOLES1, far, kernel
from yapa.engine.kernels.layout.views import reals, wholes


@far((REAL, WHOLE), REALS2, WHOLE, FLAG)
def twice_or_thrice(A, k, thrice):
    return A[k, 0] * (3.0 if thrice else 2.0), k + 1


@far(REAL, REALS2)
def through_another(A):
    total = 0.0
    for k in range(A.shape[0]):
        value, _ = twice_or_thrice(A, k, k == 1)
        total += value
    return total


@far(REAL, WHOLES1)
def sum_behind(table):
    A, B = reals(table, 0), wholes(table, 1)
    B[0, 0] += 1
    return A[0, 0] + A[A.shape[0] - 1, A.shape[1] - 1] + B[0, 1]


@kernel
def near_calls_far(A):
    value, after = twice_or_thrice(A, 0, False)
    return value + after


def test_a_far_kernel_is_called_from_far_and_near_kernels_and_from_python():
    A = np.array([[1.0, 0.0], [10.0, 0.0], [100.0, 0.0]])
    assert twice_or_thrice.host(A, 2, True) == (300.0, 3)
    assert through_another.host(A) == 2.0 + 30.0 + 200.0
    assert near_calls_far(A) == 3.0


def test_a_table_gives_views_of_the_arrays_themselves():
    A, B = np.arange(6.0).reshape(2, 3), np.array([[5, 7]])
    table = pointer_table((A, B))
    assert sum_behind.host(table) == 0.0 + 5.0 + 7
    assert B[0, 0] == 6  # written through
    assert table.tolist()[1:3] == [2, 3]


@pytest.mark.parametrize("bad", [np.zeros(3), np.zeros((4, 4))[:, ::2], np.zeros((2, 2), np.float32)])
def test_a_table_takes_only_what_a_kernel_can_read(bad):
    with pytest.raises(AssertionError):
        pointer_table((bad,))


def test_a_driven_body_goes_straight_and_turns_evenly_between_its_keys():
    keys = np.zeros((3, 14))
    keys[0, 0], keys[0, 1:4], keys[0, 4], keys[0, 8:11], keys[0, 13] = 1.0, (1.0, 2.0, 3.0), 1.0, (0.5, 0.0, 0.0), np.pi
    keys[1, 0], keys[1, 1:4], keys[1, 5] = 2.0, (1.5, 2.0, 3.0), 1.0
    keys[2, 0] = 1e300
    S, P = np.zeros((1, 16)), np.zeros((1, 24))
    P[0, 17], P[0, 18] = 0, 3
    assert lead.host(0, 1.5, S, P, keys) == 2.0  # the next key
    assert S[0, :3] == pytest.approx([1.25, 2.0, 3.0])
    assert S[0, 3:7] == pytest.approx([np.cos(np.pi / 4), 0, 0, np.sin(np.pi / 4)])
    assert S[0, 12] == pytest.approx(np.pi)
    lead.host(0, 0.2, S, P, keys)  # before the first key it waits there
    assert S[0, :3] == pytest.approx([1.0, 2.0, 3.0])
