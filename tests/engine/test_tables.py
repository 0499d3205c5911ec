"""Tables of addresses, and handing arrays over to compiled code."""

from __future__ import annotations

import gc

import numpy as np
import pytest

from yapa.engine.jit.pointers import call_with_pointers, pointer_table


def test_a_table_holds_addresses_and_the_first_two_sizes():
    flat, whole, deep = np.zeros((2, 3)), np.zeros((4, 1), np.int64), np.zeros((5, 2, 16))
    table = pointer_table((flat, whole, deep))
    assert table.dtype == np.int64
    assert table.tolist() == [flat.ctypes.data, 2, 3, whole.ctypes.data, 4, 1, deep.ctypes.data, 5, 2]


@pytest.mark.parametrize("bad", [
    np.zeros(3), np.zeros((2, 2), np.float32), np.zeros((4, 4))[:, ::2], np.asfortranarray(np.zeros((3, 2))),
    np.zeros((1, 1, 1, 1)),
])
def test_what_a_kernel_cannot_read_is_refused(bad):
    with pytest.raises(AssertionError):
        pointer_table((bad,))


def test_what_is_handed_over_lives_until_the_call_is_done():
    """Arrays made in the call itself have no other owner."""
    def entry(at, number):
        gc.collect()
        rubbish = [np.full((1, 2), 7.0) for _ in range(200)]  # what would take the place of one that was freed
        assert rubbish
        import ctypes

        table = (ctypes.c_int64 * 3).from_address(at)
        values = (ctypes.c_double * 2).from_address(table[0])
        return int(values[0] + values[1]) + number

    assert call_with_pointers(entry, (np.array([[20.0, 21.0]]),), 1) == 42
