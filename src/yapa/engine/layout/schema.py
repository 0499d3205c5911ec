"""The tables that host and kernels share: ``tools/layout.py`` writes ``kernels/layout`` and ``docs/engine-layout.md`` from them and
from ``enumerations``."""

from __future__ import annotations

from yapa.engine.layout.declare import Table, number, record, vector

STATE = Table("state", "A body at an instant, in world axes.", (
    vector("POSITION", "centre of mass", "m", "X Y Z"),
    vector("ORIENTATION", "of the principal axes, a unit quaternion", "", "QW QX QY QZ"),
    vector("VELOCITY", "of the centre of mass", "m/s", "VX VY VZ"),
    vector("OMEGA", "angular velocity", "rad/s", "WX WY WZ"),
    vector("ROTATION", "time integral of the angular velocity", "rad", "RX RY RZ"),
), called="S")

BODY = Table("body", "What a body is.", (
    number("INV_MASS", "inverse mass; 0 for what forces do not move", "1/kg"),
    vector("INERTIA", "principal moments of inertia", "kg m²"),
    number("LIN_DAMP", "linear damping", "1/s"),
    number("ANG_DAMP", "angular damping", "1/s"),
    number("DRAG", "½ ρ C_d A", "kg/m"),
    number("GRAVITY", "multiplier of gravity"),
    number("REACH", "radius of a sphere about the centre of mass that holds it", "m"),
    number("MOTION", "one of `motion_kind`"),
    number("LOCK", "bits: translation x, y, z and rotation x, y, z locked"),
    number("PUSH", "greatest force of what follows its path by force", "N"),
    number("BALL", "1 where any axis is a principal axis and the shape is one centred sphere"),
    vector("IM", "inverse mass along each world axis, 0 where that is locked", "1/kg"),
    number("THIN", "least half thickness", "m"),
    number("KEY0", "first row of its keys"),
    number("KEYS", "how many keys"),
    vector("EXTENT", "half extents of its first shape", "m"),
    number("GROUP", "bit of its collision group"),
    number("MEETS", "bits of the groups it collides with"),
    number("PATH_SPEED", "greatest speed of its keys", "m/s"),
    number("PATH_SPIN", "greatest angular speed of its keys", "rad/s"),
), called="P")

KEY = Table("key", "A keyframe of a driven body, with the velocities up to the next.", (
    number("TIME", "when", "s"),
    vector("POSITION", "centre of mass", "m"),
    vector("ORIENTATION", "unit quaternion", "", "QW QX QY QZ"),
    vector("VELOCITY", "up to the next key", "m/s"),
    vector("OMEGA", "up to the next key", "rad/s"),
), called="KT")

SHAPE = Table("shape", "A shape in the frame of its body: numbers.", (
    vector("A", "centre, lower end, or a point of a plane", "m"),
    vector("B", "upper end, or the normal of a plane", "m"),
    number("RADIUS", "of what is round", "m"),
    number("BOUND", "radius of a sphere about CENTRE that holds it", "m"),
    vector("CENTRE", "of its bounding sphere", "m"),
    number("THIN", "half thickness where it is thinnest", "m"),
    number("CLEAR", "contact margin", "m"),
    vector("HALF", "half edges of a box", "m"),
    vector("POSE", "orientation of a box in its body", "", width=4),
    vector("BELT", "velocity of its surface", "m/s"),
), called="GF")

SHAPE_INT = Table("shape_int", "A shape: its kind, and where its corners and faces stand.", (
    number("BODY", "its body"),
    number("KIND", "number in the registry of shapes"),
    number("V0", "first vertex"), number("NV", "how many vertices"),
    number("F0", "first face"), number("NF", "how many faces"),
    number("D0", "first direction of an edge"), number("ND", "how many directions"),
    number("E0", "first edge"), number("NE", "how many edges"),
    number("SURFACE", "its surface"),
    number("SIDES", "one of `plane_sides`"),
), whole=True, called="GI")

VERTEX = Table("vertex", "A vertex of a polytope, in the frame of its body.", (vector("POSITION", "where", "m", "X Y Z"),),
               called="VT")
FACE = Table("face_plane", "A plane of a face, in the frame of its body: n · x = OFFSET.", (
    vector("NORMAL", "outward", "", "X Y Z"), number("OFFSET", "along it", "m")), called="FC")
LOOP = Table("loop", "The vertices of a face, counter-clockwise from outside.", (
    number("START", "first entry in the list of vertices"), number("COUNT_OF", "how many")), whole=True, called="FI")
EDGE = Table("edge", "An edge of a polytope.", (
    number("FROM", "its vertices: the lower number"), number("TO", "and the higher, both from V0 on"),
    number("FACE_A", "the faces it lies between"), number("FACE_B", "and the other")), whole=True, called="EI")
DIRECTION = Table("direction", "A direction of edges of a polytope.", (vector("ALONG", "unit vector", "", "X Y Z"),), called="DR")

PAIR = Table("pair", "Two shapes that may meet.", (
    number("SHAPE_A", "the shape that the normal points to"),
    number("SHAPE_B", "the other; a plane where there is one"),
    number("KIND", "number in the registry of pairs"),
    number("FEATURES", "points of a that may touch on their own; none of a manifold"),
    number("MATERIAL", "row of the table of materials"),
    number("BODY_A", "body of a"), number("BODY_B", "body of b"),
    number("SIDE", "one of `plane_side`"),
), whole=True, called="Q")

MATERIAL = Table("material", "What two surfaces do.", (
    number("RESTITUTION", "coefficient of restitution"),
    number("STATIC", "coefficient of static friction"),
    number("DYNAMIC", "coefficient of dynamic friction"),
    number("ROLLING", "coefficient of rolling resistance"),
    number("SPINNING", "coefficient of spinning resistance"),
    number("FALLOFF", "exponent by which restitution falls above REFERENCE"),
    number("REFERENCE", "approach speed up to which restitution is constant", "m/s"),
), called="LW")

CONTACT_INT = Table("contact_int", "A contact row of the event-driven regime: whole numbers.", (
    number("PAIR", "its pair, or `limits.MOTOR` for what follows its path by force"),
    number("FEATURE", "which point of the pair"),
    number("BODY_A", "body of a"), number("BODY_B", "body of b"),
    number("SLIPPING", "one of `slip_state`"),
    number("ROLLING", "1 where it rolls over the whole substep"),
    number("MODE", "one of `contact_mode`: what the law found"),
    number("ROW", "its first row in the solver"),
    number("SOME", "1 where a face has more corners than are held"),
), whole=True, called="CI")

CONTACT = Table("contact", "A contact row of the event-driven regime: numbers, in world axes.", (
    vector("NORMAL", "from b to a, where the law is asked for (at the end of a substep)"),
    vector("ARM_A", "from a's centre of mass to where the impulse acts", "m"),
    vector("ARM_B", "from b's", "m"),
    vector("END_A", "arm where the law is asked for", "m"),
    vector("END_B", "arm where the law is asked for", "m"),
    vector("J", "impulse on a", "N s"),
    vector("K", "angular impulse on a", "N m s"),
    vector("SLIP_DIR", "mean direction of slip over the substep"),
    vector("ROLL_DIR", "mean direction of rolling over the substep"),
    number("TARGET", "normal speed wanted after an impact", "m/s"),
    number("SLIP0", "slip speed at the start", "m/s"),
    number("ROLL0", "relative angular speed along the contact at the start", "rad/s"),
    number("RATE", "rate of the gap", "m/s"),
    number("SLIP1", "slip speed at the end, along the direction at the start", "m/s"),
    number("ROLL1", "angular speed at the end, along the direction at the start", "rad/s"),
    number("REFF", "effective rolling radius", "m"),
    vector("BELT", "velocity of the surfaces, along the contact", "m/s"),
    vector("BASE_A", "arm on a when the row was made; of a round shape what `frame_kind` says", "m"),
    vector("BASE_B", "arm on b when the row was made; of a round shape a point of b in b's axes", "m"),
    vector("BASE_N", "normal when the row was made; of a round shape a direction in b's axes"),
    number("KEEPS", "one of `frame_kind`: how the row moves with its bodies"),
    vector("MIDDLE", "normal along which the impulse acts"),
    vector("SLIP_FROM", "direction of slip at the start"),
    vector("ROLL_FROM", "direction of rolling at the start"),
    vector("SLIP_WAS", "direction that was tried last, and how far it was off", width=6),
    vector("ROLL_WAS", "direction that was tried last, and how far it was off", width=6),
    number("SLIP_ASIDE", "slip speed at the end, across the direction at the start", "m/s"),
    number("ROLL_ASIDE", "angular speed at the end, across the direction at the start", "rad/s"),
), called="CF")

MANIFOLD = Table("manifold", "A point of a contact manifold, in world axes.", (
    number("GAP", "distance", "m"),
    vector("NORMAL", "from b to a"),
    vector("POINT", "on b", "m", "X Y Z"),
    number("FEATURE", "which point it is, the same from step to step"),
    number("SOME", "1 where its face has more corners than these"),
    number("KEEPS", "one of `frame_kind`"),
    vector("OWN_A", "of a round shape: what `frame_kind` says"),
    vector("OWN_B", "of a round shape: a point of b in b's axes", "m"),
    vector("OWN_N", "of a round shape: a direction in b's axes"),
), called="M")

POLYGON = Table("polygon", "A corner while faces are clipped, in world axes.", (
    vector("POSITION", "where", "m", "X Y Z"), number("LABEL", "which corner it is"), number("GAP", "distance", "m")), called="W")

PAIR_CACHE = Table("pair_cache", "What is remembered of a pair.", (
    number("POINTS", "how many points"),
    number("WHOLE_FOR", "substeps in which all its corners are held"),
), whole=True, called="CK")

POINT_CACHE = Table("point_cache", "A point that is remembered of a pair: forces, as a first guess.", (
    number("FEATURE", "which point"),
    number("NORMAL_FORCE", "along the normal", "N"),
    vector("TANGENT", "force along the contact", "N"),
    vector("TORQUE", "of rolling resistance", "N m"),
    vector("ANCHOR", "arm on b, in its frame", "m"),
    number("STICKS", "1 where it grips"),
    number("BY_FEATURE", "1 where it is found by its feature alone: of the event-driven regime"),
    number("SPAN", "the substep it comes from, where it is found by its feature alone", "s"),
), called="CC")

OPEN_PHASE = Table("open_phase", "The phase of a pair that goes on.", (
    number("MODE", "one of `contact_mode`"), number("ROW", "its row in the phase log")), whole=True, called="PS")

JACOBIAN = Table("jacobian", "A row of the contact system: its direction at both bodies, or what an impulse does to them.", (
    vector("LINE_A", "along, on a"), vector("TURN_A", "about, on a", "m"),
    vector("LINE_B", "along, on b"), vector("TURN_B", "about, on b", "m")), called="JR")

INVERSE_INERTIA = Table("inverse_inertia", "World inverse inertia of a body, a symmetric matrix.", tuple(
    number(name, f"entry {name.lower()}", "1/(kg m²)") for name in ("XX", "YY", "ZZ", "XY", "YZ", "XZ")), called="IW")

SCALE = Table("scale", "What damping leaves of an impulse on a body over a substep.", (
    number("LINEAR", "of a force"), number("ANGULAR", "of a torque")), called="G")

POINT_INT = Table("point_int", "A contact point of the soft and the fixed-step regime: whole numbers.", (
    number("BODY_A", "body of a"), number("BODY_B", "body of b"), number("PAIR", "its pair")), whole=True, called="RB")

POINT = Table("point", "A contact point of the soft and the fixed-step regime: numbers, in world axes.", (
    vector("N", "normal, from b to a"),
    vector("T", "first tangent"),
    vector("S", "second tangent"),
    vector("LOCAL_A", "arm on a, in its frame", "m"),
    vector("LOCAL_B", "arm on b, in its frame", "m"),
    number("MASS", "effective mass along the normal", "kg"),
    number("MASS_T", "effective mass along the tangents", "kg"),
    number("IMPULSE_N", "along the normal", "N s"),
    number("IMPULSE_T", "along the first tangent", "N s"),
    number("IMPULSE_S", "along the second tangent", "N s"),
    vector("IMPULSE_R", "rolling and spinning", "N m s"),
    number("APPROACH", "normal speed before", "m/s"),
    number("PEAK_IMPULSE", "greatest normal impulse of the piece", "N s"),
    number("STICK", "1 where it grips"),
    number("REFF", "effective rolling radius", "m"),
    vector("BELT", "speed of the surfaces along the three axes", "m/s"),
    vector("ARM_A", "from a's centre of mass", "m"),
    vector("ARM_B", "from b's", "m"),
    number("FEATURE", "which point of the pair"),
    number("TOTAL", "normal impulse over the piece", "N s"),
    number("MASS_R", "effective moment of inertia", "kg m²"),
    number("SEPARATION", "distance now", "m"),
    number("SLIP", "speed along the contact before", "m/s"),
    vector("CROSS_A", "r × u on a for the three axes u", "m", width=9),
    vector("CROSS_B", "r × u on b", "m", width=9),
    vector("TURN_A", "I⁻¹ (r × u) on a", "1/(kg m)", width=9),
    vector("TURN_B", "I⁻¹ (r × u) on b", "1/(kg m)", width=9),
    number("RUB", "friction impulse over the piece", "N s"),
    vector("ROUND_A", "of a: from what turns with it to the point, along which it is round", "m"),
    vector("ROUND_B", "of b", "m"),
    number("LEAVE", "speed to leave with", "m/s"),
), called="RC")

HIT_STATE = Table("hit_state", "A body in an impact.", (
    vector("POSITION", "centre of mass", "m"),
    vector("ROTATION", "time integral of the angular velocity", "rad"),
    vector("VELOCITY_BEFORE", "before", "m/s"), vector("VELOCITY_AFTER", "after", "m/s"),
    vector("OMEGA_BEFORE", "before", "rad/s"), vector("OMEGA_AFTER", "after", "rad/s"),
))

CONTACT_LOG = Table("contact_log", "An impact.", (
    number("TIME", "when", "s"),
    number("PAIR", "its pair"),
    number("BODY_A", "body of a"), number("BODY_B", "body of b"),
    vector("POINT", "where", "m"),
    vector("NORMAL", "from b to a"),
    number("APPROACH", "normal speed before", "m/s"),
    number("REBOUND", "normal speed after", "m/s"),
    number("SLIP_BEFORE", "speed along the contact before", "m/s"),
    number("SLIP_AFTER", "speed along the contact after", "m/s"),
    number("IMPULSE_N", "normal impulse", "N s"),
    number("IMPULSE_T", "friction impulse", "N s"),
    record("STATE_A", "of a", HIT_STATE),
    record("STATE_B", "of b", HIT_STATE),
), called="clog")

PHASE_STATE = Table("phase_state", "A body at an end of a phase.", (
    vector("POSITION", "centre of mass", "m"), vector("ROTATION", "time integral of the angular velocity", "rad"),
    vector("VELOCITY", "of the centre of mass", "m/s"), vector("OMEGA", "angular velocity", "rad/s"),
))

PHASE_LOG = Table("phase_log", "A pair held together in one mode from one time to another.", (
    number("BEGIN", "when it began", "s"), number("END", "when it ended", "s"),
    number("BODY_A", "body of a"),
    number("MODE", "one of `contact_mode`"),
    number("BODY_B", "body of b"),
    vector("NORMAL", "from b to a, at the begin"),
    record("BEGIN_A", "of a at the begin", PHASE_STATE), record("BEGIN_B", "of b", PHASE_STATE),
    record("END_A", "of a at the end", PHASE_STATE), record("END_B", "of b", PHASE_STATE),
), called="plog")

KNOT = Table("knot", "A knot of a body's curve.", (
    number("TIME", "when", "s"),
    number("RANK", "0 contact, 1 sample, 2 end of a phase"),
    vector("POSITION", "centre of mass", "m", "X Y Z"),
    vector("ROTATION", "time integral of the angular velocity", "rad"),
    vector("VELOCITY_BEFORE", "arriving", "m/s"), vector("VELOCITY_AFTER", "leaving", "m/s"),
    vector("OMEGA_BEFORE", "arriving", "rad/s"), vector("OMEGA_AFTER", "leaving", "rad/s"),
), called="knots")

EVENT = Table("event", "An event of a curve, while its knots are laid out.", (
    number("COLUMN", "of its time in the phase log; -1 for a contact"),
    number("ROW", "of its log"),
    number("STATE", "column at which the body's state stands in it"),
), whole=True, called="order")

SAMPLE = Table("sample", "A body at a time, read off its knots.", (
    vector("POSITION", "centre of mass", "m"), vector("VELOCITY", "of the centre of mass", "m/s"),
    vector("ROTATION", "time integral of the angular velocity", "rad"), vector("OMEGA", "angular velocity", "rad/s"),
), called="seen")

CLIMB = Table("climb", "A knot of a curve of heights.", (
    number("TIME", "when", "s"), number("HEIGHT", "against gravity", "m"),
    number("ARRIVING", "upward speed before", "m/s"), number("LEAVING", "upward speed after", "m/s")), called="curve")

BARE_HIT = Table("bare_hit", "What a climb needs of a hit.", (
    number("TIME", "when", "s"), number("HEIGHT", "against gravity", "m"),
    number("STEEP", "how far the normal points up"), number("REBOUND", "normal speed after", "m/s")), called="bare")

RISE = Table("rise", "What follows a hit.", (
    number("HEIGHT", "of the climb", "m"), number("TOP", "when it is over", "s"),
    number("SPEED", "upward speed after the hit", "m/s"), number("COUNTED", "1 where it is a bounce")), called="rises")

HIT = Table("hit", "A contact of one body, as it is told of many runs.", (
    number("TIME", "when", "s"), number("PARTNER", "the other body"),
    vector("POSITION", "centre of mass", "m"),
    number("APPROACH", "normal speed before", "m/s"), number("REBOUND", "normal speed after", "m/s"),
    number("SLIP", "speed along the contact before", "m/s"), number("STEEP", "how far the normal points up"),
    number("RISE", "of the climb after it", "m"), number("TOP", "when that is over", "s"),
    number("SPEED", "upward speed after it", "m/s"), number("COUNTED", "1 where it is a bounce"),
    number("PULL", "vertical component of the normal"),
    vector("NORMAL", "from b to a"),
), called="hits")

HEAD = Table("head", "What is told of one of many runs.", (
    number("CODE", "one of `run_code`"), number("HITS", "how many; -1 where it is told by its whole motion"),
    number("END", "when it ends", "s"), number("STILL", "when it is slower than rest", "s"),
    number("MOVES_ON", "1 where it is not still at the end"), number("SERIES", "when a bounce series would end", "s"),
    number("LEFT", "speed left then", "m/s"), number("PEAK_SPEED", "greatest speed", "m/s"),
    vector("START", "where it begins", "m"),
), called="heads")

CURVES = Table("dense", "The dense output of a body over a substep.", (
    vector("QUINTIC", "place along x, y, z: six coefficients each", "m, m/s …", width=18),
    vector("FORCE", "contact force", "N"),
    vector("TORQUE", "contact torque", "N m"),
    vector("EXTRA", "what of FORCE is that of further forces", "N"),
), called="D")

ROW = Table("row", "A row of the contact solver: numbers.", (
    number("DYNAMIC", "dynamic coefficient, or the bound of a block"), number("STATIC", "static coefficient"),
    vector("GIVEN", "direction of what slips over the whole substep", width=2),
    number("LET_GO", "dynamic coefficient of what grips so far and lets go only beyond its static one; else 0"),
), called="RF")

ROW_INT = Table("row_int", "A row of the contact solver: whole numbers.", (
    number("KIND", "one of `row_kind`"), number("NORMAL_ROW", "the normal row it hangs on"), number("SIZE", "rows in the block"),
    number("SLIPPING", "one of `slip_state`"), number("MODE", "one of `contact_mode`: what it does"),
    number("ACTIVE", "which row is the k-th unknown of a step"),
), whole=True, called="RI")

BOX = Table("box", "The bounding box of a shape, grown by what it may travel.", (
    vector("LOW", "least x, y, z", "m", "LOW_X LOW_Y LOW_Z"), vector("HIGH", "greatest", "m", "HIGH_X HIGH_Y HIGH_Z")), called="BX")

DUO = Table("duo", "Two shapes by their numbers.", (number("FIRST", "the smaller number"), number("SECOND", "the larger")),
            whole=True, called="QO")

ISLAND_END = Table("island_end", "Where the bodies and the pairs of an island end.", (
    number("BODIES", "end in the list of bodies"), number("PAIRS", "end in the list of pairs")), whole=True, called="IE")

SWEEP = Table("sweep", "Rows of the sweep's list of whole numbers.", tuple(number(name, meaning) for name, meaning in (
    ("ORDER", "shapes sorted along the axis"), ("TALLY", "pairs of each first shape"), ("AT", "where the next of them goes"),
    ("PARENT", "of a body in the union of islands"), ("ISLAND", "of a body"), ("BODY_START", "first body of an island"),
    ("PAIR_START", "first pair of an island"), ("MARK", "island that a driven body was last put into"))), whole=True, called="BI")

CALM = Table("calm", "Rows of what is remembered of every body from step to step.",
             tuple(number(name, meaning) for name, meaning in (
    ("SOFT_STEPS", "soft steps before it may be event-driven again"), ("REST_STEPS", "steps at rest"),
    ("ISLAND", "the island it rested in"), ("WORK", "done in it"), ("HANDED_OVER", "1 where it has been in a soft step"),
    ("SLOW_STEPS", "steps of a stepped profile in which it was slow"))),
    whole=True, called="CALM")

PROGRESS = Table("progress", "How an island fares that is carried event by event.", tuple(
    number(name, meaning, unit) for name, meaning, unit in (
    ("EVENTS", "impacts in this outer step", ""), ("LOSSY", "1 where something in it presses or takes energy", ""),
    ("WINDOW", "when this outer step ends", "s"), ("LAST_STEP", "the count of substeps at which it is stopped", ""),
    ("HELD", "substeps with contacts, since", ""), ("SINCE", "this time", "s"),
    ("IDLE", "substeps in a row that brought no time", ""),
    ("QUIET", "substeps in a row in which nothing moved", ""), ("WORK", "contacts squared, each time they were solved", ""),
    ("BENT", "1 where a slip or a rolling turns", ""), ("SPACING", "from one meeting to the next", "s"),
    ("NEAR", "1 where anything may touch: not after free flight that met nothing", ""), ("FRESH", "1 in the first substep", ""),
    ("BEFORE", "energy at the start of the substep", "J"))), called="PR")

CONFIG = Table("config", "Settings of a run, and what it notes of its soft contacts.", (
    number("STEP", "longest substep", "s"), number("CUTOFF", "approach speed below which nothing bounces", "m/s"),
    number("END", "when it ends", "s"), number("CURVED_STEP", "longest substep of what turns", "s"),
    vector("GRAVITY", "acceleration", "m/s²", "GX GY GZ"), vector("WIND", "velocity of the air", "m/s", "WIND_X WIND_Y WIND_Z"),
    number("OVERLAP", "deepest overlap at the start", "m"), number("LEAN", "1 where orientations of spheres are left out"),
    number("OUTER", "outer step", "s"), number("SUBSTEPS", "of a soft or a fixed step"),
    number("ALL_SOFT", "1 where every contact is soft"), number("NOW", "the time, for forces that depend on it", "s"),
    number("STEPPED", "1 in a stepped profile"), number("INTEGRATOR", "one of `integrator`"),
    number("DAMPING", "one of `damping_form`"), number("DAMP_LATE", "1 where damping comes after forces"),
    number("FIND_LATE", "1 where contacts are found after the move"), number("TIMED", "1 where impacts cut the move"),
    number("ITERATIONS", "sweeps"), number("WARM", "1 where impulses are guessed from the step before"),
    number("TOUCH", "distance at which contacts are found", "m"), number("REPAIR", "share of an overlap that is removed"),
    number("ALLOWED", "overlap that is left", "m"), number("REPAIR_SPEED", "greatest speed of removing it", "m/s"),
    number("ABRUPT", "1 where restitution ends at the cut-off at once"), number("REST_SPEED", "put to rest below", "m/s"),
    number("REST_SPIN", "put to rest below", "rad/s"), number("REST_STEPS", "after so many steps"),
    number("MIN_IMPACT", "approach speed of what is logged", "m/s"), number("MIN_CONTACT", "of a contact", "m/s"),
    number("MIN_RISE", "of a bounce", "m"), number("MIN_SLOPE", "of the normal of a bounce"),
    number("REST", "speed of rest", "m/s"),
    number("SOFT_AT", "when soft contact first began; -1 where it did not", "s"),
    number("SOFT_ENERGY", "most kinetic energy of an island in one", "J"),
    number("SOFT_CHANGE", "what they changed the energy by", "J"),
    number("SOFT_BOUNCED", "1 where restitution acted"), number("DEEP", "greatest overlap", "m"), number("DEEP_AT", "when", "s"),
    number("DEEP_A", "of which body"), number("DEEP_B", "and which"), number("SOFT_WORK", "work given to them", "J"),
), called="cfg")

STATUS = Table("run_status", "What a run reports.", tuple(number(name, meaning) for name, meaning in (
    ("CODE", "one of `run_code`"), ("STEPS", "substeps"), ("CONTACTS", "rows of the contact log"),
    ("PHASES", "rows of the phase log"),
    ("IMPACTS", "impacts solved"), ("SAMPLES", "samples written"), ("SOFT_STEPS", "soft steps"), ("PAIRS", "pairs at the end"),
    ("BODY", "the body that failed"), ("HANDOVERS", "changes to the soft regime"))), whole=True, called="status")

WHAT = Table("job_subject", "What a job of many runs tells of.", (
    number("BODY", "the body"), number("SURFACES", "how many surfaces"), number("SWEEPING", "1 where the broad phase is on")),
    whole=True,
    called="what")

TABLES: tuple[Table, ...] = (
    STATE, BODY, KEY, SHAPE, SHAPE_INT, VERTEX, FACE, LOOP, EDGE, DIRECTION, PAIR, MATERIAL, CONTACT_INT, CONTACT, MANIFOLD,
    POLYGON, PAIR_CACHE, POINT_CACHE, OPEN_PHASE, INVERSE_INERTIA, SCALE, POINT_INT, POINT, CONTACT_LOG, HIT_STATE, PHASE_LOG,
    PHASE_STATE, KNOT, SAMPLE, EVENT, CLIMB, BARE_HIT, RISE, HIT, HEAD, CURVES, ROW, ROW_INT, BOX, DUO, ISLAND_END, SWEEP, CALM,
    PROGRESS, JACOBIAN, CONFIG, STATUS, WHAT)
"""Every table, by what a row stands for."""
