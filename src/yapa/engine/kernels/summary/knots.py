"""The knots of a body's curve: its samples, its contacts and the ends of its phases, one a time.

A contact carries the velocities before and after it, so it wins over what else stands at its time; several contacts at one time
are one knot, from before the first to after the last.
"""

from yapa.engine.kernels.jit import REALS1, REALS2, REALS3, WHOLE, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import contact_log, event, hit_state, knot, phase_log, phase_state, state

SAME = 1e-12
"""s: knots nearer than this are one."""


@kernel
def _event(k, order, contacts, phases, row):
    """Write the knot of an event: a row of a log and the column at which the body's state stands in it."""
    what, at, o = order[k, event.COLUMN], order[k, event.ROW], order[k, event.STATE]
    if what < 0:
        row[knot.TIME], row[knot.RANK] = contacts[at, contact_log.TIME], 0.0
        for c in range(hit_state.COUNT):
            row[knot.POSITION + c] = contacts[at, o + c]
        return
    row[knot.TIME], row[knot.RANK] = phases[at, what], 2.0
    for c in range(3):
        row[knot.POSITION + c] = phases[at, o + phase_state.POSITION + c]
        row[knot.ROTATION + c] = phases[at, o + phase_state.ROTATION + c]
        row[knot.VELOCITY_BEFORE + c] = row[knot.VELOCITY_AFTER + c] = phases[at, o + phase_state.VELOCITY + c]
        row[knot.OMEGA_BEFORE + c] = row[knot.OMEGA_AFTER + c] = phases[at, o + phase_state.OMEGA + c]


@kernel
def _when(k, order, contacts, phases):
    what = order[k, event.COLUMN]
    return contacts[order[k, event.ROW], contact_log.TIME] if what < 0 else phases[order[k, event.ROW], what]


@part
def _events_of(i, contacts, phases, order):
    """List the impacts of body ``i``, and the beginnings and ends of its lasting contacts; how many there are."""
    count = 0
    for c in range(contacts.shape[0]):
        for side in range(2):
            if int(contacts[c, contact_log.BODY_A if side == 0 else contact_log.BODY_B]) == i:
                order[count, event.COLUMN], order[count, event.ROW] = -1, c
                order[count, event.STATE] = contact_log.STATE_A if side == 0 else contact_log.STATE_B
                count += 1
    for side in range(2):
        for late in range(2):
            for c in range(phases.shape[0]):
                if int(phases[c, phase_log.BODY_A if side == 0 else phase_log.BODY_B]) == i:
                    order[count, event.COLUMN], order[count, event.ROW] = (phase_log.BEGIN if late == 0 else phase_log.END), c
                    if late == 0:
                        order[count, event.STATE] = phase_log.BEGIN_A if side == 0 else phase_log.BEGIN_B
                    else:
                        order[count, event.STATE] = phase_log.END_A if side == 0 else phase_log.END_B
                    count += 1
    return count


@part
def _sort_events(count, contacts, phases, order):
    """By time; impacts first within a time, else as they came."""
    spare = order.shape[0] - 1
    for k in range(1, count):
        for c in range(3):
            order[spare, c] = order[k, c]
        t = _when(k, order, contacts, phases)
        hit = order[k, event.COLUMN] < 0
        j = k
        while j > 0:
            before = _when(j - 1, order, contacts, phases)
            if before < t or (before == t and (order[j - 1, event.COLUMN] < 0 or not hit)):
                break
            for c in range(3):
                order[j, c] = order[j - 1, c]
            j -= 1
        for c in range(3):
            order[j, c] = order[spare, c]


@part
def _sample_knot(t, s, into):
    """A knot at a sample of the run."""
    into[knot.TIME], into[knot.RANK] = t, 1.0
    for c in range(3):
        into[knot.POSITION + c], into[knot.ROTATION + c] = s[state.POSITION + c], s[state.ROTATION + c]
        into[knot.VELOCITY_BEFORE + c] = into[knot.VELOCITY_AFTER + c] = s[state.VELOCITY + c]
        into[knot.OMEGA_BEFORE + c] = into[knot.OMEGA_AFTER + c] = s[state.OMEGA + c]


@far(WHOLE, WHOLE, REALS1, REALS3, REALS2, REALS2, WHOLES2, REALS2)
def write_knots(i, times, states, contacts, phases, order, out):
    """Knots of body ``i`` into ``out``; ``order`` (events + 1, 3) is scratch, its last row too. Returns how many."""
    count = _events_of(i, contacts, phases, order)
    _sort_events(count, contacts, phases, order)
    n, k, e, last, has_hit = 0, 0, 0, -1e300, False
    first, end = times[0], times[times.shape[0] - 1]
    while k < times.shape[0] or e < count:
        t = _when(e, order, contacts, phases) if e < count else 1e300
        take = e < count and (k >= times.shape[0] or t < times[k] or (t == times[k] and order[e, event.COLUMN] < 0))
        if take:
            hit = order[e, event.COLUMN] < 0
            e += 1
            if not first <= t <= end:
                continue
        else:
            hit, t = False, times[k]
            k += 1
        apart = t - last >= SAME
        last = t
        if not apart and (not hit or has_hit):
            if hit:
                _event(e - 1, order, contacts, phases, out[n])  # the row after the last is free for this
                for c in range(3):
                    out[n - 1, knot.VELOCITY_AFTER + c] = out[n, knot.VELOCITY_AFTER + c]
                    out[n - 1, knot.OMEGA_AFTER + c] = out[n, knot.OMEGA_AFTER + c]
            continue
        at = n if apart else n - 1
        has_hit = hit
        if take:
            _event(e - 1, order, contacts, phases, out[at])
        else:
            _sample_knot(t, states[k - 1, i], out[at])
        n = at + 1
    return n
