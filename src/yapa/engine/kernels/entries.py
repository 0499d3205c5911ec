"""The kernels that Python calls, with addresses in place of arrays: all of them together are the engine."""

from yapa.engine.kernels.broad import find_pairs
from yapa.engine.kernels.islands import measure_gaps
from yapa.engine.kernels.jit import WHOLE, entry
from yapa.engine.kernels.knots import lay_knots
from yapa.engine.kernels.layout import (
    BW_BI,
    BW_BX,
    BW_QO,
    BW_TI,
    CALL_BW,
    CALL_CANCEL,
    CALL_CFG,
    CALL_PROPS,
    CALL_SCENE,
    CALL_STATE,
    CALL_WS,
    CANCELLED,
    CFG_GX,
    HEAD_CODE,
    HEAD_HITS,
    JOB_CALL,
    JOB_COUNT,
    JOB_HEADS,
    JOB_LAWS,
    JOB_PROPS,
    JOB_SCENE,
    JOB_STATES,
    JOB_STATUS,
    JOB_WHAT,
    OK,
    REACH,
    SC_LAW,
    SC_Q,
    ST_CODE,
    ST_CONTACTS,
    ST_PHASES,
    ST_SAMPLES,
    WHAT_BODY,
    WHAT_SURFACES,
    WHAT_SWEEPING,
)
from yapa.engine.kernels.run import run
from yapa.engine.kernels.shapes import watch_side
from yapa.engine.kernels.telling import tell
from yapa.engine.kernels.views import reals, states, table_at, wholes

CALL_COUNT = 3 * (CALL_CANCEL + 1)


@entry(WHOLE, WHOLE, WHOLE)
def run_at(at, surfaces, sweeping):
    """Run what the table of a call points at: handing over a dozen arrays one by one takes as long as a short run."""
    return run(table_at(at, CALL_COUNT), surfaces, sweeping != 0)


@entry(WHOLE, WHOLE, WHOLE, WHOLE)
def run_many_at(at, count, surfaces, sweeping):
    """Several runs, one after the other, without going back to the interpreter between them: other threads go on meanwhile."""
    for k in range(count):
        run(table_at(at + 8 * k * CALL_COUNT, CALL_COUNT), surfaces, sweeping != 0)
    return 0


@entry(WHOLE, WHOLE)
def knots_at(at, body):
    """Knots of a body's curve, by a table: times, states, contacts, phases, scratch, and where they go. Returns how many."""
    table = table_at(at, 18)
    contacts, phases, order, out = reals(table, 2), reals(table, 3), wholes(table, 4), reals(table, 5)
    return lay_knots(body, reals(table, 0)[0], states(table, 1), contacts, phases, order, out)


@entry(WHOLE, WHOLE, WHOLE)
def gaps_at(at, surfaces, into):
    """Pairs of shapes within 1e6 s of travel, and how far apart each starts, into column 0. Returns how many."""
    call = table_at(at, CALL_COUNT)
    S, scene, bw = reals(call, CALL_STATE), wholes(call, CALL_SCENE)[0], wholes(call, CALL_BW)[0]
    n = find_pairs(1e6, surfaces, S, reals(call, CALL_PROPS), scene, reals(call, CALL_CFG)[0], wholes(scene, SC_Q),
                   wholes(bw, BW_QO), reals(bw, BW_BX), wholes(bw, BW_BI), wholes(bw, BW_TI))
    for p in range(n):
        watch_side(p, S, scene, wholes(scene, SC_Q))
    if n > 0:
        measure_gaps(n, S, scene, wholes(call, CALL_WS)[0], reals(table_at(into, 3), 0))
    return n


@entry(WHOLE, WHOLE)
def tell_rows(at, count):
    """Run and tell ``count`` rows of a job, each with its own start states, properties and laws. Returns how many were begun."""
    job = table_at(at, 3 * JOB_COUNT)
    call, scene, status = wholes(job, JOB_CALL)[0], wholes(job, JOB_SCENE)[0], wholes(job, JOB_STATUS)[0]
    starts, props, laws = 3 * JOB_STATES, 3 * JOB_PROPS, 3 * JOB_LAWS
    what, heads = wholes(job, JOB_WHAT), reals(job, JOB_HEADS)
    body, surfaces, sweeping = what[0, WHAT_BODY], what[0, WHAT_SURFACES], what[0, WHAT_SWEEPING] != 0
    for k in range(count):
        call[3 * CALL_STATE] = job[starts] + 8 * k * job[starts + 2]
        call[3 * CALL_PROPS] = job[props] + 8 * (k * job[props + 2] if job[props + 1] > 1 else 0)
        scene[3 * SC_LAW] = job[laws] + 8 * (k * job[laws + 2] if job[laws + 1] > 1 else 0)
        for c in range(status.shape[0]):
            status[c] = 0
        run(call, surfaces, sweeping)
        heads[k, HEAD_CODE] = status[ST_CODE]
        if status[ST_CODE] == CANCELLED:
            return k + 1
        if status[ST_CODE] != OK or status[ST_SAMPLES] < 2:
            heads[k, HEAD_HITS] = -1.0
            continue
        pull = reals(call, CALL_CFG)[0, CFG_GX + 2]
        tell(k, body, pull, reals(call, CALL_PROPS)[body, REACH], status[ST_CONTACTS], status[ST_PHASES], job)
    return count
