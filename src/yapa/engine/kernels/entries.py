"""The kernels that Python calls, with addresses in place of arrays: all of them together are the engine."""

from yapa.engine.kernels.geometry.broad_phase import find_pairs
from yapa.engine.kernels.geometry.narrow_phase import watch_side
from yapa.engine.kernels.jit import WHOLE, entry
from yapa.engine.kernels.layout import (
    body,
    call_table,
    config,
    head,
    job_subject,
    job_table,
    knots_table,
    limits,
    run_code,
    run_status,
    scene_table,
)
from yapa.engine.kernels.layout.views import reals, states, table_at, wholes
from yapa.engine.kernels.regimes.islands import measure_gaps
from yapa.engine.kernels.regimes.run import run
from yapa.engine.kernels.summary.event_summary import summarise_run
from yapa.engine.kernels.summary.knots import write_knots

CALL_COUNT = limits.ENTRY * call_table.COUNT


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
    table = table_at(at, limits.ENTRY * knots_table.COUNT)
    return write_knots(body, reals(table, knots_table.TIMES)[0], states(table, knots_table.STATES),
                     reals(table, knots_table.CONTACT_LOG), reals(table, knots_table.PHASE_LOG),
                     wholes(table, knots_table.EVENTS), reals(table, knots_table.KNOTS))


@entry(WHOLE, WHOLE, WHOLE)
def gaps_at(at, surfaces, into):
    """Pairs of shapes within 1e6 s of travel, and how far apart each starts, into column 0. Returns how many."""
    call = table_at(at, CALL_COUNT)
    S, scene = reals(call, call_table.STATES), wholes(call, call_table.SCENE)[0]
    n = find_pairs(1e6, surfaces, call, wholes(call, call_table.WHOLE_RUN)[0])
    for p in range(n):
        watch_side(p, S, scene, wholes(scene, scene_table.PAIRS))
    if n > 0:
        measure_gaps(n, S, scene, wholes(call, call_table.WORKSPACE)[0], reals(table_at(into, limits.ENTRY), 0))
    return n


@entry(WHOLE, WHOLE)
def tell_rows(at, count):
    """Run and tell ``count`` rows of a job, each with its own start states, properties and laws. Returns how many were begun."""
    job = table_at(at, limits.ENTRY * job_table.COUNT)
    call, scene, status = wholes(job, job_table.CALL)[0], wholes(job, job_table.SCENE)[0], wholes(job, job_table.STATUS)[0]
    starts, props, laws = limits.ENTRY * job_table.STATES, limits.ENTRY * job_table.BODIES, limits.ENTRY * job_table.MATERIALS
    what, heads = wholes(job, job_table.WHAT), reals(job, job_table.HEADS)
    one, surfaces, sweeping = what[0, job_subject.BODY], what[0, job_subject.SURFACES], what[0, job_subject.SWEEPING] != 0
    for k in range(count):
        call[limits.ENTRY * call_table.STATES] = job[starts] + 8 * k * job[starts + 2]
        call[limits.ENTRY * call_table.BODIES] = job[props] + 8 * (k * job[props + 2] if job[props + 1] > 1 else 0)
        scene[limits.ENTRY * scene_table.MATERIALS] = job[laws] + 8 * (k * job[laws + 2] if job[laws + 1] > 1 else 0)
        for c in range(status.shape[0]):
            status[c] = 0
        run(call, surfaces, sweeping)
        heads[k, head.CODE] = status[run_status.CODE]
        if status[run_status.CODE] == run_code.CANCELLED:
            return k + 1
        if status[run_status.CODE] != run_code.OK or status[run_status.SAMPLES] < 2:
            heads[k, head.HITS] = -1.0
            continue
        pull = reals(call, call_table.CONFIG)[0, config.GRAVITY + 2]
        reach = reals(call, call_table.BODIES)[one, body.REACH]
        summarise_run(k, one, pull, reach, status[run_status.CONTACTS], status[run_status.PHASES], job)
    return count
