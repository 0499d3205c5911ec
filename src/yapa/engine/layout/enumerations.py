"""The lists of arrays and the enumerations that host and kernels share, as ``schema`` holds the tables."""

from __future__ import annotations

from yapa.engine.layout.declare import Choice, choice

LISTS: tuple[Choice, ...] = (
    choice("scene_table", "Arrays of a scene.",
           "SHAPES SHAPES_INT VERTICES FACES LOOPS LOOP_VERTICES EDGES DIRECTIONS PAIRS MATERIALS KEYS"),
    choice("workspace_table", "Scratch arrays of a substep.",
           "DENSE END MIDDLE BEFORE SCALES CONTACTS_INT CONTACTS MATRIX FACTORS VECTORS ROWS_INT ROWS ARMS MOBILITY POLYGONS "
           "MANIFOLD PROGRESS"),
    choice("soft_table", "Arrays of contact points.", "POINTS POINTS_INT INVERSE_INERTIAS PAIR_CACHES POINT_CACHES"),
    choice("run_table", "Arrays that last for a run.",
           "NEW_DUOS OLD_PAIRS PHASES OLD_PHASES OLD_PAIR_CACHES OLD_POINT_CACHES BOXES SWEEP FOUND_DUOS ISLAND_BODIES ISLAND_ENDS "
           "ISLAND_PAIRS NEAR CALM BEFORE"),
    choice("call_table", "What a run is called with: one table of addresses.",
           "STATES BODIES SCENE WORKSPACE SOFT WHOLE_RUN TIMES OUT CONTACT_LOG PHASE_LOG CONFIG STATUS CANCEL"),
    choice("job_table", "What many runs are called with.",
           "CALL SCENE STATES BODIES MATERIALS STATUS CONTACT_LOG PHASE_LOG KNOTS EVENTS CLIMB BARE_HITS HITS RISES HEADS "
           "QUERY_TIMES QUERY_STATES WHAT"),
    choice("knots_table", "What a body's knots are laid out with.", "TIMES STATES CONTACT_LOG PHASE_LOG EVENTS KNOTS"),
    choice("unknowns", "Rows of the contact solver's list of vectors.",
           "FREE NOW STEP HELD SPEED BEST INNER START SAVED ACTIVE SIZE BOUND TOWARD SCALE FULL_RANK INV_SCALE INV_SWEEP REST"),
)
"""Which array stands where behind one table of addresses, or which vector in which row."""

CHOICES: tuple[Choice, ...] = (
    choice("motion_kind", "How a body moves.", "STATIC DYNAMIC KINEMATIC PUSHED"),
    choice("plane_sides", "Which sides a plane has.", "SOLID_BELOW ONE_SIDED TWO_SIDED"),
    Choice("plane_side", "Which side of a plane acts in a pair.", (("SOLID", 0), ("UPPER", 1), ("LOWER", -1), ("NONE", 2))),
    choice("slip_state", "What a contact may do: grip or slip; slip over the whole substep; an impact.", "FREE SLIPS HITS"),
    choice("contact_mode", "What a contact does.", "NONE SLIP GRIP"),
    choice("frame_kind", "How a contact of a pair without features moves with its bodies (`geometry/round_frames`).",
           "A_FACE B_FACE STATION RIM UNDER_END EDGE_SIDE EDGE_RIM"),
    choice("row_kind", "What a row of the contact solver is.", "NORMAL FRICTION ROLLING SPINNING MORE BOUNDED"),
    choice("integrator", "How velocities and places are stepped.", "EXPLICIT SEMI_IMPLICIT MIDPOINT VERLET"),
    choice("damping_form", "What damping multiplies a velocity with over h.", "EXPONENTIAL LINEAR POWER RECIPROCAL FACTOR"),
    choice("run_code", "How a run ended.", "OK CANCELLED LOG_FULL PAIRS_FULL NOT_FINITE NO_END"),
)
"""Every enumeration."""
