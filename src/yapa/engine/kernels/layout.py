"""Columns of the arrays that host and kernels share.

State ``S[n, 16]``: centre of mass 0-2, orientation of the principal axes as a quaternion
(w, x, y, z) 3-6, velocity 7-9, angular velocity in world axes 10-12, turn (the time integral of
the angular velocity) 13-15.

Geometry, all in the frames of the bodies: shapes (floats ``GF`` and ints ``GI``), vertices ``VT``, face
planes ``FC``, face loops ``FI`` (start and count into ``LP``), distinct edge directions ``DR``. It stands
with pairs, laws and keys in the scene's table (see ``views``).

Dense output ``D[n, 24]``: quintics of the place along x, y, z, six coefficients each; then the
contact force and torque held over the substep.
"""

# properties of a body
INV_MASS, INERTIA, LIN_DAMP, ANG_DAMP, DRAG, GRAVITY, REACH, MOTION, LOCK, PUSH, BALL, IM, THIN = (
    0, 1, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 16)
KEY0, KEYS, EXTENT, KIND, GROUP, MEETS = 17, 18, 19, 22, 23, 24
P_COLUMNS = 26
STATIC_BODY, DYNAMIC_BODY, KINEMATIC_BODY, PUSHED_BODY = 0, 1, 2, 3
# keys of a kinematic body: time, place, orientation, velocity and angular velocity up to the next key
KEY_COLUMNS = 14

# shapes: floats
G_A, G_B, G_RADIUS, G_BOUND, G_CENTRE, G_THIN, G_CLEAR, G_HALF, G_POSE, G_BELT = 0, 3, 6, 7, 8, 11, 12, 13, 16, 20
GF_COLUMNS = 24
# shapes: ints
I_BODY, I_KIND, I_V0, I_NV, I_F0, I_NF, I_D0, I_ND, I_SURFACE, I_SIDES = 0, 1, 2, 3, 4, 5, 6, 7, 8, 9
GI_COLUMNS = 12
SPHERE, BOX, PLANE, CAPSULE, CYLINDER, HULL = 0, 1, 2, 3, 4, 5
SOLID_BELOW, ONE_SIDED, TWO_SIDED = 0, 1, 2
# which side of a plane acts in a pair: it is solid below, the upper, the lower, or none for now
SIDE_SOLID, SIDE_UPPER, SIDE_LOWER, SIDE_NONE = 0, 1, -1, 2

# dense output
FORCE, TORQUE = 18, 21
D_COLUMNS = 24

# pairs of shapes: ints. A feature is a point of ``a`` that may touch on its own; a pair of kind
# MANIFOLD has none and is known only as a whole
Q_A, Q_B, Q_KIND, Q_FEATURES, Q_LAW, Q_BA, Q_BB, Q_SIDE = 0, 1, 2, 3, 4, 5, 6, 7
Q_COLUMNS = 8
ROUND_PLANE, VERTEX_PLANE, RIM_PLANE, ROUND_ROUND, POINT_BOX, POINT_HULL, POINT_CYLINDER, MANIFOLD = 0, 1, 2, 3, 4, 5, 6, 7
# what a pair of surfaces does
RESTITUTION, STATIC, DYNAMIC, ROLLING, SPINNING, FALLOFF, REFERENCE = 0, 1, 2, 3, 4, 5, 6
LAW_COLUMNS = 8

# a contact row: ints. C_SOME is 1 where a face has more corners than are held
C_PAIR, C_FEATURE, C_A, C_B, C_SLIPPING, C_ROLLING, C_MODE, C_ROW, C_SOME = 0, 1, 2, 3, 4, 5, 6, 7, 8
CI_COLUMNS = 9
FREE, SLIPS, HITS = 0, 1, 2
"""Values of C_SLIPPING: may grip or slip; slips over the whole substep; an impact (dynamic friction only)."""
# a contact row: floats. NORMAL is that at the end, where the law is asked for; MIDDLE that along which impulses act. SLIP_DIR and
# ROLL_DIR are means over the substep of directions that were SLIP_FROM and ROLL_FROM at its start; from SLIP_WAS and ROLL_WAS on
# stands what was last tried for a mean, and how far it was off
NORMAL, ARM_A, ARM_B, END_A, END_B, J, K, SLIP_DIR, ROLL_DIR = 0, 3, 6, 9, 12, 15, 18, 21, 24
TARGET, SLIP0, ROLL0, RATE, SLIP1, ROLL1, REFF, GAP, BELT = 27, 28, 29, 30, 31, 32, 33, 34, 35
BASE_A, BASE_B, BASE_N, KEEPS, MIDDLE, SLIP_FROM, ROLL_FROM = 38, 41, 44, 47, 48, 51, 54
SLIP_WAS, ROLL_WAS, SLIP_ASIDE, ROLL_ASIDE = 57, 63, 69, 70
CF_COLUMNS = 71
MOST_CONTACTS = 16
"""An island with more contacts than this is a crowd."""
MOST_CORNERS = (MOST_CONTACTS, 5, 4)
"""Of each face where two meet: as many as leave no more contacts than that."""
FEW_CORNERS = 4
"""Held of each face as long as three of them press: then the others cannot dip."""

M_COLUMNS = 9
"""Of a manifold row (polytopes.py)."""

MOTOR = -1
"""Value of C_PAIR in a row that drives a pushed body along its path with limited force."""

# entries of the scene's table, and of the workspace's
SC_GF, SC_GI, SC_VT, SC_FC, SC_FI, SC_LP, SC_DR, SC_Q, SC_LAW, SC_KEYS = range(10)
(WS_D, WS_E, WS_X, WS_U, WS_G, WS_CI, WS_CF, WS_OI, WS_OF, WS_W, WS_A, WS_V, WS_RI, WS_RF, WS_JR, WS_MV, WS_WV, WS_M) = range(18)
# of the crowd's (CK: how many points of a pair are remembered, substeps in which all its corners are held), and of the run's
CW_RC, CW_RB, CW_IW, CW_CK, CW_CC = range(5)
POINT_COLUMNS = 81
SLOTS = 8
"""Points kept of a pair: feature number, force along the normal, along the contact (world), rolling torque, anchor, sticks."""
(BW_QO, BW_QL, BW_PS, BW_PL, BW_CL, BW_CD, BW_BX, BW_BI, BW_TI, BW_IB, BW_IE, BW_PB, BW_NEAR, BW_CROWD, BW_BEFORE) = range(15)
CROWD_ROWS = 5
"""Of a body: crowd steps before it may be exact again, steps at rest, the island it rested in, work, whether it was handed over."""

# the contact log
LOG_TIME, LOG_PAIR, LOG_A, LOG_B, LOG_POINT, LOG_NORMAL = 0, 1, 2, 3, 4, 7
LOG_APPROACH, LOG_REBOUND, LOG_SLIP0, LOG_SLIP1, LOG_JN, LOG_JT, LOG_STATE = 10, 11, 12, 13, 14, 15, 16
LOG_COLUMNS = 16 + 2 * 18

# the phase log: a pair held together in one mode from one time to another
PH_T0, PH_T1, PH_A, PH_MODE, PH_B, PH_NORMAL, PH_STATE = 0, 1, 2, 3, 4, 5, 8
PH_COLUMNS = 8 + 4 * 12
MODE_NONE, MODE_SLIP, MODE_GRIP = 0, 1, 2
# the knots of a curve
KNOT_COLUMNS = 20
"""Time, rank (0 contact, 1 sample, 2 end of a phase), place, turn, velocity before and after, spin before and after."""

# what a run is called with: one table of addresses
(CALL_STATE, CALL_PROPS, CALL_SCENE, CALL_WS, CALL_CW, CALL_BW, CALL_TIMES, CALL_OUT, CALL_CLOG, CALL_PLOG, CALL_CFG, CALL_STATUS,
 CALL_CANCEL) = range(13)
V_ROWS, RI_COLUMNS, RF_COLUMNS = 18, 6, 6
"""Workspace of the contact law (law.py); its matrix has four columns more than rows."""

# configuration and status
(CFG_STEP, CFG_CUTOFF, CFG_END, CFG_CURVED_STEP, CFG_GX, CFG_WX, CFG_OVERLAP, CFG_LEAN, CFG_OUTER, CFG_NOW, CFG_SUBSTEPS,
 CFG_ALLCROWD) = 0, 1, 2, 3, 4, 7, 10, 11, 12, 13, 14, 15
# the conventions of a stepped profile
(CFG_STEPPED, CFG_INTEGRATOR, CFG_DAMPING, CFG_DAMP_LATE, CFG_FIND_LATE, CFG_TIMED, CFG_ITERATIONS, CFG_WARM, CFG_TOUCH, CFG_REPAIR,
 CFG_ALLOWED, CFG_REPAIR_SPEED, CFG_ABRUPT, CFG_REST_SPEED, CFG_REST_SPIN, CFG_REST_STEPS) = range(16, 32)
# what a run tells of its crowds: when the first began; the most kinetic energy an island had in one, what they changed the energy
# by, and whether restitution acted; the greatest overlap [m], when, and of which bodies
(CFG_CROWD_AT, CFG_CROWD_ENERGY, CFG_CROWD_CHANGE, CFG_CROWD_BOUNCED, CFG_DEEP, CFG_DEEP_AT, CFG_DEEP_A, CFG_DEEP_B,
 CFG_CROWD_GIVEN) = range(37, 46)
# what counts as a contact, a bounce and rest (``yapa.motion.definitions``): speeds in m/s, a rise in m
CFG_MIN_IMPACT, CFG_MIN_CONTACT, CFG_MIN_RISE, CFG_MIN_SLOPE, CFG_REST = range(32, 37)
CFG_COLUMNS = 46
EXPLICIT, SEMI_IMPLICIT, MIDPOINT, VERLET = 0, 1, 2, 3
EXPONENTIAL, LINEAR, POWER, RECIPROCAL, FACTOR = 0, 1, 2, 3, 4
(ST_CODE, ST_STEPS, ST_CONTACTS, ST_PHASES, ST_IMPACTS, ST_SAMPLES, ST_CROWDED, ST_PAIRS, ST_UNSOLVED, ST_BODY,
 ST_HANDOVERS) = range(11)
ST_COLUMNS = 12
OK, CANCELLED, LOG_FULL, PAIRS_FULL, NOT_FINITE, NO_END = 0, 1, 2, 3, 4, 5

TOUCH = 1e-9
"""m: a gap below this is touching."""
STILL = 1e-7
"""m/s: a normal speed below this is held, not hit."""
NO_SLIP = 1e-7
"""m/s: slip below this counts as none."""
NO_CREEP, NO_SPEED = 1e-13, 1e-10
"""m and m/s: an island that changes by less in every one of several steps is at rest, and is left alone."""

# telling outcomes of many runs: a job's table, and what is told of a hit, and of a run
(JOB_CALL, JOB_SCENE, JOB_STATES, JOB_PROPS, JOB_LAWS, JOB_STATUS, JOB_CLOG, JOB_PLOG, JOB_KNOTS, JOB_ORDER, JOB_CURVE, JOB_BARE,
 JOB_HITS, JOB_RISES, JOB_HEADS, JOB_AT, JOB_SEEN, JOB_WHAT) = range(18)
JOB_COUNT = 18
WHAT_BODY, WHAT_SURFACES, WHAT_SWEEPING = range(3)
HIT_TIME, HIT_PARTNER, HIT_PLACE, HIT_APPROACH, HIT_REBOUND, HIT_SLIP, HIT_STEEP = 0, 1, 2, 5, 6, 7, 8
HIT_RISE, HIT_TOP, HIT_SPEED, HIT_COUNTED, HIT_PULL, HIT_NORMAL = 9, 10, 11, 12, 13, 14
HIT_COLUMNS = 17
MOST_HITS = 64
"""Told of a run; one that has more is told by its whole motion."""
HEAD_CODE, HEAD_HITS, HEAD_END, HEAD_STILL, HEAD_MOVES_ON, HEAD_SERIES, HEAD_LEFT, HEAD_PEAK_SPEED, HEAD_START = range(9)
HEAD_COLUMNS = 12
