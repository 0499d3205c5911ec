"""One round contact, in closed form: with no coupling but through the two centres,

    Δu = k_t J - k_x (n × K)        Δρ = -k_x J + k_r (n × K),   ρ = (ω_a - ω_b) × n
    k_t = 1/m_a + 1/m_b + r_a²/I_a + r_b²/I_b,  k_r = 1/I_a + 1/I_b,  k_x = r_a/I_a - r_b/I_b

whose four modes (stick or slip, roll held or not) are tried in turn; spinning about the normal is
apart from both (Johnson, Contact Mechanics, ch. 8).
"""

from yapa.engine.kernels.contact.contact_rows import slipping, turning
from yapa.engine.kernels.geometry.pairs.traits import is_round
from yapa.engine.kernels.jit import REALS1, REALS2, WHOLE, WHOLES2, far, kernel, part
from yapa.engine.kernels.layout import (
    body,
    contact,
    contact_int,
    contact_mode,
    limits,
    material,
    pair,
    scale,
    slip_state,
    state,
)
from yapa.engine.kernels.math.vectors import (
    VECTOR,
    ZERO,
    ahead,
    cross,
    dot,
    length,
    minus,
    negative,
    over,
    times,
    unit,
    vector,
)


@part
def _roll_is_free(u, r, k, limit, bound, given, free_slip):
    """J and n × K where rolling resistance is at its bound, against where it would roll if nothing resisted."""
    (kt, _, kx), (slips, slip, rolls, roll) = k, given
    if rolls:
        along = roll
    else:
        friction = times(limit, unit(u)) if free_slip else over(negative(u), kt)
        along = unit(ahead(r, -kx, friction))
    resisted = times(-bound, along)
    left = ahead(u, -kx, resisted)
    if free_slip:
        return times(limit, slip if slips else unit(left)), resisted
    return over(negative(left), kt), resisted


@part
def _roll_is_held(u, r, k, limit, given, free_slip):
    """J and n × K where rolling is held. Whether there is an answer, and it."""
    (kt, kr, kx), (slips, slip, _, _) = k, given
    if free_slip:
        friction = times(limit, slip if slips else unit(u))
        return True, friction, over(negative(ahead(r, -kx, friction)), kr)
    det = kt * kr - kx * kx
    if det <= 1e-14 * kt * kr:
        return False, ZERO, ZERO
    return (True, over(negative(ahead(times(kr, u), kx, r)), det), over(negative(ahead(times(kx, u), kt, r)), det))


@part
def _mobility_of(i, CI, CF, P, G):
    """What a unit impulse changes: k_n, and (k_t, k_r, k_x)."""
    a, b, n = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B], vector(CF, i, contact.NORMAL)
    ima, imb = P[a, body.INV_MASS], P[b, body.INV_MASS]
    ra = -dot(vector(CF, i, contact.ARM_A), n)
    rb = dot(vector(CF, i, contact.ARM_B), n) if imb > 0.0 else 0.0
    ia = G[a, scale.ANGULAR] / P[a, body.INERTIA] if ima > 0.0 else 0.0
    ib = G[b, scale.ANGULAR] / P[b, body.INERTIA] if imb > 0.0 else 0.0
    kn = G[a, scale.LINEAR] * ima + G[b, scale.LINEAR] * imb
    return kn, (kn + ra * ra * ia + rb * rb * ib, ia + ib, ra * ia - rb * ib)


@far((VECTOR, VECTOR), WHOLE, WHOLES2, REALS2, REALS2, REALS2, REALS1, REALS2)
def round_contact(i, CI, CF, X, P, law, G):
    """Impulse and angular impulse of one round contact, in closed form."""
    n = vector(CF, i, contact.NORMAL)
    kn, k = _mobility_of(i, CI, CF, P, G)
    un, u = slipping(i, CI, CF, X)
    jn = (CF[i, contact.TARGET] - un) / kn
    if jn <= 0.0:
        CI[i, contact_int.MODE] = contact_mode.NONE
        return ZERO, ZERO
    r = cross(turning(i, CI, CF, X), n)
    grip = law[material.DYNAMIC] if CI[i, contact_int.SLIPPING] == slip_state.HITS else law[material.STATIC]
    limit, bound = -law[material.DYNAMIC] * jn, law[material.ROLLING] * jn * CF[i, contact.REFF]
    slips, rolls = CI[i, contact_int.SLIPPING] == slip_state.SLIPS, CI[i, contact_int.ROLLING] == 1
    # the direction of rolling is kept as a rate; here as n × that
    given = slips, vector(CF, i, contact.SLIP_DIR), rolls, cross(vector(CF, i, contact.ROLL_DIR), n)
    j, q, mode = ZERO, ZERO, contact_mode.GRIP
    for attempt in range(4):
        free_slip = slips or attempt >= 2
        if rolls or attempt == 1 or attempt == 3 or bound == 0.0:
            j, q = _roll_is_free(u, r, k, limit, bound, given, free_slip)
            held = False
        else:
            held, one, other = _roll_is_held(u, r, k, limit, given, free_slip)
            if not held:
                continue
            j, q = one, other
        mode = contact_mode.SLIP if free_slip else contact_mode.GRIP
        if ((free_slip or length(j) <= grip * jn * (1.0 + 1e-13)) and (not held or length(q) <= bound * (1.0 + 1e-13))):
            break
    CI[i, contact_int.MODE] = mode
    turn = cross(n, q)
    if law[material.SPINNING] > 0.0:
        a, b = CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
        most = law[material.SPINNING] * jn * CF[i, contact.REFF]
        spin = dot(minus(vector(X, a, state.OMEGA), vector(X, b, state.OMEGA)), n) / k[1]
        turn = ahead(turn, -min(max(spin, -most), most), n)
    return ahead(j, jn, n), turn


@kernel
def has_closed_form(i, CI, CF, P, Q):
    """Whether the closed form of one round contact holds."""
    p, a, b = CI[i, contact_int.PAIR], CI[i, contact_int.BODY_A], CI[i, contact_int.BODY_B]
    if p == limits.MOTOR:
        return False
    if not is_round(Q[p, pair.KIND]):
        return False
    n = vector(CF, i, contact.NORMAL)
    if vector(CF, i, contact.MIDDLE) != n:
        return False
    for side in range(2):
        q, o = (a, contact.ARM_A) if side == 0 else (b, contact.ARM_B)
        if P[q, body.INV_MASS] == 0.0:
            continue
        if P[q, body.BALL] == 0.0 or P[q, body.LOCK] != 0.0:
            return False
        arm = vector(CF, i, o)
        d = dot(arm, n)
        off = ahead(arm, -d, n)
        if dot(off, off) > 1e-18 * d * d:
            return False
    return True
