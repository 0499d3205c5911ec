"""The knots of a curve: samples, contacts and ends of phases, one a time, contacts first."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from yapa.engine.kernels import layout as L
from yapa.engine.kernels.summary.knots import write_knots


def by_sorting(times, contacts, phases, body):
    """Times and kinds of the knots, the slow way: sort, then one of every group within 1e-12 s."""
    events = [(t, 1, k) for k, t in enumerate(times)]
    events += [(row[L.contact_log.TIME], 0, k) for k, row in enumerate(contacts)
               if body in (row[L.contact_log.BODY_A], row[L.contact_log.BODY_B])]
    for column in (L.phase_log.BEGIN, L.phase_log.END):
        events += [(row[column], 2, k) for k, row in enumerate(phases)
                   if body in (row[L.phase_log.BODY_A], row[L.phase_log.BODY_B])]
    events = sorted(e for e in events if times[0] <= e[0] <= times[-1])
    out = []
    for k, (t, kind, _) in enumerate(events):
        if k and t - events[k - 1][0] < 1e-12:
            if kind == 0 and out[-1][1] != 0:
                out[-1] = (t, 0)
        else:
            out.append((t, kind))
    return out


def laid(times, contacts, phases, body):
    states = np.zeros((len(times), 2, 16))
    states[:, :, 0] = np.asarray(times)[:, None]
    events = 2 * len(contacts) + 4 * len(phases)
    order, out = np.zeros((events + 1, 3), np.int64), np.zeros((len(times) + events + 1, L.knot.COUNT))
    n = write_knots.host(body, np.asarray(times), states, contacts, phases, order, out)
    return out[:n]


def log_of(hits):
    log = np.zeros((len(hits), L.contact_log.COUNT))
    for row, (t, a, b, after) in zip(log, hits, strict=True):
        row[L.contact_log.TIME], row[L.contact_log.BODY_A], row[L.contact_log.BODY_B] = t, a, b
        row[L.contact_log.STATE_A : L.contact_log.STATE_A + 36] = t
        row[L.contact_log.STATE_A + 9 : L.contact_log.STATE_A + 12] = after
    return log


def phases_of(held):
    log = np.zeros((len(held), L.phase_log.COUNT))
    for row, (start, end, a, b) in zip(log, held, strict=True):
        row[L.phase_log.BEGIN], row[L.phase_log.END], row[L.phase_log.BODY_A], row[L.phase_log.BODY_B] = start, end, a, b
        row[L.phase_log.BEGIN_A : L.phase_log.BEGIN_A + 24], row[L.phase_log.BEGIN_A + 24 : L.phase_log.BEGIN_A + 48] = start, end
    return log


def test_a_contact_wins_over_a_sample_at_its_time_and_two_contacts_are_one_knot():
    knots = laid([0.0, 0.1, 0.2], log_of([(0.1, 0, 1, 5.0), (0.1, 0, 1, 7.0)]), phases_of([]), 0)
    assert knots[:, 0].tolist() == [0.0, 0.1, 0.2]
    assert knots[:, 1].tolist() == [1.0, 0.0, 1.0]
    assert knots[1, 8] == 0.1  # arriving: of the first
    assert knots[1, 11] == 7.0  # leaving: of the last


def test_the_other_body_of_a_contact_has_its_own_columns():
    log = log_of([(0.05, 1, 0, 5.0)])
    log[0, L.contact_log.STATE_A + 18 : L.contact_log.STATE_A + 36] = 9.0
    assert laid([0.0, 0.1], log, phases_of([]), 0)[1, 2] == 9.0
    assert laid([0.0, 0.1], log, phases_of([]), 1)[1, 2] == 0.05


def test_what_lies_outside_the_samples_is_left_out():
    knots = laid([0.1, 0.2], log_of([(0.05, 0, 1, 0.0), (0.25, 0, 1, 0.0)]), phases_of([(0.0, 0.15, 0, 1)]), 0)
    assert knots[:, 0].tolist() == pytest.approx([0.1, 0.15, 0.2])


instants = st.sampled_from([0.0, 0.05, 0.1, 0.1 + 4e-13, 0.13, 0.2, 0.3, 0.35])


@settings(max_examples=300, deadline=None)
@given(st.lists(st.tuples(instants, st.integers(0, 1)), max_size=6), st.lists(st.tuples(instants, instants), max_size=4))
def test_knots_are_what_sorting_gives(hits, held):
    times = [0.0, 0.1, 0.2, 0.3]
    contacts = log_of(sorted((t, a, 1 - a, 0.0) for t, a in hits))
    phases = phases_of([(min(p), max(p), 0, 1) for p in held])
    for body in (0, 1):
        knots = laid(times, contacts, phases, body)
        want = by_sorting(times, contacts, phases, body)
        assert knots[:, 0].tolist() == [t for t, _ in want]
        assert [kind == 0 for kind in knots[:, 1]] == [kind == 0 for _, kind in want]
