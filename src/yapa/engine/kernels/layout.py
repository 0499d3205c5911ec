"""Columns of the arrays that host and kernels share.

State ``S[n, 16]``: place 0-2, orientation quaternion (w, x, y, z) 3-6, velocity 7-9, angular
velocity in world axes 10-12, turn (the time integral of the angular velocity) 13-15.

Properties ``P[n, 16]``, dense output ``D[n, 24]`` (quintics of the place along x, y, z, six
coefficients each; then the contact force and torque held over the substep).
"""

# properties of a body
INV_MASS, INERTIA, LIN_DAMP, ANG_DAMP, DRAG, GRAVITY, EXTENT, KIND, REACH = 0, 1, 4, 5, 6, 7, 8, 11, 12
P_COLUMNS = 16
# kinds of shape
SPHERE, BOX, PLANE = 0, 1, 2

# dense output
FORCE, TORQUE = 18, 21
D_COLUMNS = 24

# pairs: ints (a, b, kind, features) and floats
SPHERE_PLANE, SPHERE_SPHERE, SPHERE_BOX, BOX_PLANE = 0, 1, 2, 3
RESTITUTION, STATIC, DYNAMIC, ROLLING, REFF = 0, 1, 2, 3, 4

# a contact row: ints
C_PAIR, C_FEATURE, C_A, C_B, C_SLIPPING, C_ROLLING, C_MODE = 0, 1, 2, 3, 4, 5, 6
CI_COLUMNS = 8
# a contact row: floats
NORMAL, ARM_A, ARM_B, END_A, END_B, J, K, SLIP_DIR, ROLL_DIR = 0, 3, 6, 9, 12, 15, 18, 21, 24
TARGET, SLIP0, ROLL0, RATE, SLIP1, ROLL1 = 27, 28, 29, 30, 31, 32
CF_COLUMNS = 40

# the contact log
LOG_TIME, LOG_PAIR, LOG_A, LOG_B, LOG_POINT, LOG_NORMAL = 0, 1, 2, 3, 4, 7
LOG_APPROACH, LOG_REBOUND, LOG_SLIP0, LOG_SLIP1, LOG_JN, LOG_JT, LOG_STATE = 10, 11, 12, 13, 14, 15, 16
LOG_COLUMNS = 16 + 2 * 18

# the phase log: a pair held together in one mode from one time to another
PH_T0, PH_T1, PH_PAIR, PH_MODE, PH_STATE = 0, 1, 2, 3, 4
PH_COLUMNS = 4 + 4 * 12
MODE_NONE, MODE_SLIP, MODE_GRIP = 0, 1, 2

# configuration and status
CFG_STEP, CFG_CUTOFF, CFG_END, CFG_CURVED_STEP, CFG_GX, CFG_WX, CFG_OVERLAP, CFG_LEAN, CFG_COLUMNS = 0, 1, 2, 3, 4, 7, 10, 11, 12
ST_CODE, ST_STEPS, ST_CONTACTS, ST_PHASES, ST_IMPACTS, ST_SAMPLES, ST_COLUMNS = 0, 1, 2, 3, 4, 5, 8
OK, CANCELLED, LOG_FULL, STUCK, TOO_LONG = 0, 1, 2, 3, 4

TOUCH = 1e-9
"""m: a gap below this is touching."""
STILL = 1e-7
"""m/s: a normal speed below this is held, not hit."""
NO_SLIP = 1e-9
"""m/s: slip below this counts as none."""
