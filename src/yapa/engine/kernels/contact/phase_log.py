"""The phase log: which pair stayed together, sliding or gripping, from when to when.

``PS[p]`` keeps, for every pair of the present list, its mode and the row of the log that is open.
"""

from yapa.engine.kernels.handles import bodies_of, phase_log_of, phases_of, scene_of, states_of, status_of
from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import (
    body,
    contact,
    contact_int,
    contact_mode,
    limits,
    open_phase,
    pair,
    phase_log,
    phase_state,
    run_code,
    run_status,
    scene_table,
    state,
)
from yapa.engine.kernels.layout.views import wholes
from yapa.engine.kernels.math.vectors import dot, put, vector

NO_PRESS = 1e-9
"""m/s²: what two bodies that only go along together push each other with, by rounding."""


@kernel
def _write_state(row, offset, q, S, log):
    for c in range(3):
        log[row, offset + phase_state.POSITION + c] = S[q, state.POSITION + c]
        log[row, offset + phase_state.ROTATION + c] = S[q, state.ROTATION + c]
        log[row, offset + phase_state.VELOCITY + c] = S[q, state.VELOCITY + c]
        log[row, offset + phase_state.OMEGA + c] = S[q, state.OMEGA + c]


@kernel
def close_phase(t, p, a, b, S, PS, plog):
    """End the open row of a pair, if there is one."""
    if PS[p, open_phase.MODE] != contact_mode.NONE:
        row = PS[p, open_phase.ROW]
        plog[row, phase_log.END] = t
        _write_state(row, phase_log.END_A, a, S, plog)
        _write_state(row, phase_log.END_B, b, S, plog)
        PS[p, open_phase.MODE] = contact_mode.NONE


@kernel
def change_mode(t, p, mode, n, run, Q):
    """Open and close rows of the phase log where the mode of a pair changes."""
    S, PS, plog, status = states_of(run), phases_of(run), phase_log_of(run), status_of(run)
    if mode == PS[p, open_phase.MODE]:
        return
    a, b = Q[p, pair.BODY_A], Q[p, pair.BODY_B]
    close_phase(t, p, a, b, S, PS, plog)
    if mode != contact_mode.NONE:
        row = status[run_status.PHASES]
        if row >= plog.shape[0]:
            status[run_status.CODE] = run_code.LOG_FULL
            return
        PS[p, open_phase.MODE], PS[p, open_phase.ROW] = mode, row
        status[run_status.PHASES] = row + 1
        plog[row, phase_log.BEGIN], plog[row, phase_log.END], plog[row, phase_log.BODY_A] = t, t, a
        plog[row, phase_log.BODY_B], plog[row, phase_log.MODE] = b, mode
        put(plog, row, phase_log.NORMAL, n)
        _write_state(row, phase_log.BEGIN_A, a, S, plog)
        _write_state(row, phase_log.BEGIN_B, b, S, plog)


@kernel
def _presses(i, span, P, CI, CF):
    """Whether a contact's force is more than rounding: it speeds one of its bodies up by more than NO_PRESS."""
    jn = dot(vector(CF, i, contact.J), vector(CF, i, contact.NORMAL))
    return jn * (P[CI[i, contact_int.BODY_A], body.INV_MASS] + P[CI[i, contact_int.BODY_B], body.INV_MASS]) > NO_PRESS * span


@kernel
def follow_modes(t, span, m, island, run, CI, CF):
    """The modes of the pairs of an island, from its contact rows over a substep of length ``span``."""
    P, scene = bodies_of(run), scene_of(run)
    PL = island.PL
    count = PL.shape[0]
    for k in range(count):
        p = PL[k]
        mode, at = contact_mode.NONE, 0
        for i in range(m):
            if CI[i, contact_int.PAIR] != p or CI[i, contact_int.MODE] == contact_mode.NONE or not _presses(i, span, P, CI, CF):
                continue
            slips = (CI[i, contact_int.MODE] == contact_mode.SLIP
                     and max(CF[i, contact.SLIP0], CF[i, contact.SLIP1]) > limits.NO_SLIP)
            if slips or mode == contact_mode.NONE:
                mode, at = (contact_mode.SLIP if slips else contact_mode.GRIP), i
        change_mode(t, p, mode, vector(CF, at, contact.NORMAL), run, wholes(scene, scene_table.PAIRS))
