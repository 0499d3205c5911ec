"""Work that is given to an island: what its energy may grow by, as the guards of all regimes read it.

    forces      ∫ m a · v dt of what has no potential: drag in a wind, and every further force
    contacts    J · v_s + K · ω_s, with v_s the velocity of the surface that pushes: a driven body's at the point, and a belt's

A contact law takes energy from the motion of a relative to b's surface, J · (v_a - v_b + belt) <= 0. So what bodies gain by it is
at most -J · belt, and J · v_b where b follows its path (or the opposite where a does). A further force cannot be forgotten: its
power is read from its acceleration. Drag that only takes energy counts as none.
"""

from yapa.engine.kernels.dynamics.flight import place_at
from yapa.engine.kernels.dynamics.forces import drag, more
from yapa.engine.kernels.handles import bodies_of, config_of, states_of, workspace_of
from yapa.engine.kernels.jit import kernel, part
from yapa.engine.kernels.layout import body, contact, contact_int, dense, limits, motion_kind, state, workspace_table
from yapa.engine.kernels.layout.views import reals, wholes
from yapa.engine.kernels.math.vectors import carried, dot, minus, vector


@kernel
def surface_velocity_work(i, arms, CI, CF, X, P):
    """What the impulses of contact row ``i`` give by surfaces that move on their own: belts, and bodies that follow their paths."""
    a, b, j, k = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B], vector(CF, i, contact.J), vector(CF, i, contact.K)
    given = -dot(j, vector(CF, i, contact.BELT))
    if P[b, body.MOTION] == motion_kind.KINEMATIC:
        spin = vector(X, b, state.OMEGA)
        given += dot(j, carried(vector(X, b, state.VELOCITY), spin, arms[1])) + dot(k, spin)
    if P[a, body.MOTION] == motion_kind.KINEMATIC:
        spin = vector(X, a, state.OMEGA)
        given -= dot(j, carried(vector(X, a, state.VELOCITY), spin, arms[0])) + dot(k, spin)
    return given


@kernel
def _power(b, X, P, cfg):
    """Power that drag gives a body that a wind carries along; 0 where it takes some."""
    return max(drag.power(b, X, P, cfg), 0.0)


@part
def _work_of_forces(h, island, run):
    """Of drag by Simpson's rule over the dense output, of further forces as they act: constant over the substep."""
    P, cfg, ws = bodies_of(run), config_of(run), workspace_of(run)
    D, X, given = reals(ws, workspace_table.DENSE), reals(ws, workspace_table.MIDDLE), 0.0
    for k in range(island.BL.shape[0]):
        b = island.BL[k]
        if P[b, body.INV_MASS] == 0.0:
            continue
        if drag.strength(b, P) > 0.0 and drag.is_windy(cfg):
            place_at(b, 0.0, D, X)
            first = _power(b, X, P, cfg)
            place_at(b, 0.5 * h, D, X)
            middle = _power(b, X, P, cfg)
            place_at(b, h, D, X)
            given += h * (first + 4.0 * middle + _power(b, X, P, cfg)) / 6.0
        if more.ANY:
            place_at(b, h, D, X)
            way = minus(vector(X, b, state.POSITION), _start_of(b, D))
            given += dot(vector(D, b, dense.EXTRA), way) / P[b, body.INV_MASS]
    return given


@kernel
def _start_of(b, D):
    """Where a body was at the start of the dense output."""
    return D[b, dense.QUINTIC], D[b, dense.QUINTIC + 6], D[b, dense.QUINTIC + 12]


@part
def work_given(m, h, span, island, run):
    """Work given to an island over a substep ``h`` of the event-driven regime, by forces and by ``m`` contact rows.

    ``span``: the time that their impulses act over. The states of its start stand in ``S``, or those of its end: it reads the dense
    output, and leaves the scratch states in the middle."""
    S, P, ws = states_of(run), bodies_of(run), workspace_of(run)
    CI, CF = wholes(ws, workspace_table.CONTACTS_INT), reals(ws, workspace_table.CONTACTS)
    D, X = reals(ws, workspace_table.DENSE), reals(ws, workspace_table.MIDDLE)
    given = _work_of_forces(h, island, run)
    for i in range(m):
        a = CI[i, contact_int.BODY_A]
        if CI[i, contact_int.PAIR] == limits.MOTOR:
            place_at(a, h, D, X)
            way = minus(vector(X, a, state.POSITION), _start_of(a, D))
            given += dot(vector(CF, i, contact.J), way) / span
        else:
            given += h / span * surface_velocity_work(i, (vector(CF, i, contact.ARM_A), vector(CF, i, contact.ARM_B)), CI, CF, S, P)
    return given
