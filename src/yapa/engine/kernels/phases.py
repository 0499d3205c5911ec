"""The phase log: which pair stayed together, sliding or gripping, from when to when.

``PS[p]`` keeps, for every pair of the present list, its mode and the row of the log that is open.
"""

from yapa.engine.kernels.jit import kernel
from yapa.engine.kernels.layout import (
    C_A,
    C_B,
    C_MODE,
    C_PAIR,
    INV_MASS,
    LOG_FULL,
    MODE_GRIP,
    MODE_NONE,
    MODE_SLIP,
    NO_SLIP,
    NORMAL,
    PH_A,
    PH_B,
    PH_MODE,
    PH_NORMAL,
    PH_STATE,
    PH_T0,
    PH_T1,
    Q_BA,
    Q_BB,
    SC_Q,
    SLIP0,
    SLIP1,
    ST_CODE,
    ST_PHASES,
    J,
)
from yapa.engine.kernels.views import wholes

NO_PRESS = 1e-9
"""m/s²: what two bodies that only go along together push each other with, by rounding."""


@kernel
def _write_state(row, offset, q, S, log):
    for c in range(3):
        log[row, offset + c] = S[q, c]
        log[row, offset + 3 + c] = S[q, 13 + c]
        log[row, offset + 6 + c] = S[q, 7 + c]
        log[row, offset + 9 + c] = S[q, 10 + c]


@kernel
def close_phase(t, p, a, b, S, PS, plog):
    """End the open row of a pair, if there is one."""
    if PS[p, 0] != MODE_NONE:
        row = PS[p, 1]
        plog[row, PH_T1] = t
        _write_state(row, PH_STATE + 24, a, S, plog)
        _write_state(row, PH_STATE + 36, b, S, plog)
        PS[p, 0] = MODE_NONE


@kernel
def change_mode(t, p, mode, nx, ny, nz, S, Q, PS, plog, status):
    """Open and close rows of the phase log where the mode of a pair changes."""
    if mode == PS[p, 0]:
        return
    a, b = Q[p, Q_BA], Q[p, Q_BB]
    close_phase(t, p, a, b, S, PS, plog)
    if mode != MODE_NONE:
        row = status[ST_PHASES]
        if row >= plog.shape[0]:
            status[ST_CODE] = LOG_FULL
            return
        PS[p, 0], PS[p, 1] = mode, row
        status[ST_PHASES] = row + 1
        plog[row, PH_T0], plog[row, PH_T1], plog[row, PH_A], plog[row, PH_B], plog[row, PH_MODE] = t, t, a, b, mode
        plog[row, PH_NORMAL], plog[row, PH_NORMAL + 1], plog[row, PH_NORMAL + 2] = nx, ny, nz
        _write_state(row, PH_STATE, a, S, plog)
        _write_state(row, PH_STATE + 12, b, S, plog)


@kernel
def _presses(i, span, P, CI, CF):
    """Whether a contact's force is more than rounding: it speeds one of its bodies up by more than NO_PRESS."""
    jn = CF[i, J] * CF[i, NORMAL] + CF[i, J + 1] * CF[i, NORMAL + 1] + CF[i, J + 2] * CF[i, NORMAL + 2]
    return jn * (P[CI[i, C_A], INV_MASS] + P[CI[i, C_B], INV_MASS]) > NO_PRESS * span


@kernel
def follow_modes(t, span, m, count, PL, S, P, scene, CI, CF, PS, plog, status):
    """The modes of the pairs of an island, from its contact rows over a substep of length ``span``."""
    for k in range(count):
        p = PL[k]
        mode, at = MODE_NONE, 0
        for i in range(m):
            if CI[i, C_PAIR] != p or CI[i, C_MODE] == MODE_NONE or not _presses(i, span, P, CI, CF):
                continue
            slips = CI[i, C_MODE] == MODE_SLIP and max(CF[i, SLIP0], CF[i, SLIP1]) > NO_SLIP
            if slips or mode == MODE_NONE:
                mode, at = (MODE_SLIP if slips else MODE_GRIP), i
        change_mode(t, p, mode, CF[at, NORMAL], CF[at, NORMAL + 1], CF[at, NORMAL + 2], S, wholes(scene, SC_Q), PS, plog, status)
