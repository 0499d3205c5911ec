"""Compiling a case to arrays, and running it: ``Program`` is made once and run many times.

A fit calls :meth:`Program.run` with values for its unknowns thousands of times; only the rows of
bodies and pairs that a value touches are written again.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from math import pi, sqrt

import numpy as np

from yapa.case.model import Case
from yapa.case.paths import BODY_SCALARS, SURFACE_QUANTITIES, combine, find_pair, get_number, numbers
from yapa.case.scene import Body, Box, Direction, NaturalRoll, Plane, Rule, Shape, Sphere, Surface
from yapa.engine.kernels import layout as L
from yapa.errors import Unsupported
from yapa.motion import Array, BodyAccount

MAX_LOG_ROWS = 400_000
KINDS = {"sphere": L.SPHERE, "box": L.BOX, "plane": L.PLANE}
STATUS = {
    L.OK: "complete",
    L.CANCELLED: "cancelled",
    L.LOG_FULL: "too many contacts to log",
    L.STUCK: "no headway: time stopped advancing",
    L.TOO_LONG: "too many steps",
}


@dataclass(frozen=True)
class RawRun:
    """What the kernel left: sampled states and logs."""

    times: Array
    states: Array
    contacts: Array
    phases: Array
    code: int
    steps: int
    overlap: float
    pair_ints: np.ndarray
    accounts: Callable[[], tuple[BodyAccount, ...]]


@dataclass
class Workspace:
    """Scratch arrays of one thread."""

    bodies: int
    pairs: int
    log_rows: int = 256
    arrays: tuple[np.ndarray, ...] = field(init=False)
    _samples: Array | None = None
    clog: Array = field(init=False)
    plog: Array = field(init=False)

    def __post_init__(self) -> None:
        n, slots = self.bodies, 8 * max(self.pairs, 1)
        real = lambda *shape: np.zeros(shape)  # noqa: E731
        self.arrays = (
            real(n, L.D_COLUMNS), real(n, 16), real(n, 16), real(2 * n, 16), real(n, 2), real(slots + 2, 8),
            real(slots, 6), np.zeros((slots + 2, L.CI_COLUMNS), np.int64), real(slots + 2, L.CF_COLUMNS),
            np.zeros(max(self.pairs, 1), np.int64), np.zeros(max(self.pairs, 1), np.int64), np.zeros(slots, np.int64),
            real(3, 72, 72), np.zeros(24, np.int64),
        )
        self.grow(self.log_rows)

    def grow(self, rows: int) -> None:
        """Make room for more contacts."""
        self.log_rows = rows
        self.clog = np.zeros((rows, L.LOG_COLUMNS))
        self.plog = np.zeros((rows, L.PH_COLUMNS))

    def samples(self, count: int) -> Array:
        """Room for samples, the same again for as long as it is large enough."""
        if self._samples is None or len(self._samples) < count:
            self._samples = np.empty((count, self.bodies, 16))
        return self._samples[:count]

    def clear(self) -> None:
        """What the kernel expects to be zero: held forces, modes, and which features are held."""
        self.arrays[6][:] = 0.0
        self.arrays[9][:] = 0
        self.arrays[11][:] = 0


def _unit(v: tuple[float, float, float]) -> tuple[float, float, float]:
    n = sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])
    return v[0] / n, v[1] / n, v[2] / n


def _rotate(q: tuple[float, ...], v: tuple[float, float, float]) -> tuple[float, float, float]:
    w, x, y, z = q
    tx, ty, tz = 2 * (y * v[2] - z * v[1]), 2 * (z * v[0] - x * v[2]), 2 * (x * v[1] - y * v[0])
    return (v[0] + w * tx + y * tz - z * ty, v[1] + w * ty + z * tx - x * tz, v[2] + w * tz + x * ty - y * tx)


class Program:
    """A compiled case.

    Raises
    ------
    Unsupported
        If the case asks for a meeting of shapes this engine cannot do.
    """

    def __init__(self, case: Case) -> None:
        self.case = case
        self.names = list(case.bodies)
        self.bodies = list(case.bodies.values())
        self.base = numbers(case)
        self._keys = [_keys_of(name) for name in self.names]
        self._resting = [i for i, body in enumerate(self.bodies) if body.motion == "static"]
        n = len(self.names)
        for name, body in case.bodies.items():
            if len(body.shapes) > 1:
                raise Unsupported(f"bodies.{name}: found {len(body.shapes)} shapes; this engine takes one shape a body")
        self.state = np.zeros((n, 16))
        self.props = np.zeros((n, L.P_COLUMNS))
        self._pair_surfaces: list[tuple[str, str]] = []
        rows = self._find_pairs()
        self.pair_ints = np.array(rows or [(0, 0, 0, 0)], dtype=np.int64).reshape(-1, 4)[: len(rows)]
        self.pair_reals = np.zeros((len(rows), 5))
        self.cfg = np.zeros(L.CFG_COLUMNS)
        profile = case.profile
        self.cfg[L.CFG_STEP], self.cfg[L.CFG_CUTOFF] = profile.step, profile.cutoff_speed
        self.cfg[L.CFG_CURVED_STEP] = min(profile.step, 1 / 240)
        self._touched: dict[str, tuple[list[int], list[int]]] = {}
        self._local = threading.local()
        self._pair_rows = rows
        self._plans = [self._plan_pair(k) for k in range(len(rows))]
        self._fill(self.base, range(n), range(len(rows)), self.state, self.props, self.pair_reals, self.cfg)

    def _find_pairs(self) -> list[tuple[int, int, int, int]]:
        rows = []
        for i, one in enumerate(self.bodies):
            for j in range(i + 1, len(self.bodies)):
                two = self.bodies[j]
                if one.motion == "static" and two.motion == "static":
                    continue
                a, b = (i, j) if one.motion == "dynamic" else (j, i)
                if self.bodies[a].shapes[0].kind == "box" and self.bodies[b].shapes[0].kind == "sphere" and (
                    self.bodies[b].motion == "dynamic"
                ):
                    a, b = b, a
                rows.append((a, b, *self._meeting(a, b)))
                self._pair_surfaces.append((self.bodies[a].shapes[0].surface, self.bodies[b].shapes[0].surface))
        return rows

    def _meeting(self, a: int, b: int) -> tuple[int, int]:
        one, two = self.bodies[a], self.bodies[b]
        kinds = one.shapes[0].kind, two.shapes[0].kind
        known = {("sphere", "plane"): (L.SPHERE_PLANE, 1), ("sphere", "sphere"): (L.SPHERE_SPHERE, 1),
                 ("box", "plane"): (L.BOX_PLANE, 8)}
        if kinds == ("sphere", "box") and two.motion == "static":
            return L.SPHERE_BOX, 1
        if kinds in known:
            return known[kinds]
        raise Unsupported(
            f"bodies.{self.names[a]} and bodies.{self.names[b]}: a moving {kinds[0]} cannot meet a "
            f"{'moving ' if two.motion == 'dynamic' else ''}{kinds[1]} yet; this engine takes spheres against planes, "
            "static boxes and spheres, and a moving box against planes. Use a plane, or make one of them a sphere"
        )

    # -- numbers to arrays -------------------------------------------------------------------

    def _touches(self, path: str) -> tuple[list[int], list[int]]:
        """Rows of bodies and pairs that a path's value enters."""
        if path in self._touched:
            return self._touched[path]
        get_number(self.case, path)
        everybody = list(range(len(self.bodies)))
        bodies: list[int] = []
        pairs: list[int] = []
        parts = path.split(".")
        if parts[0] == "bodies":
            i = self.names.index(parts[1])
            bodies = [i] + [j for j, body in enumerate(self.bodies) if body.under == parts[1]]
            if parts[2] in ("radius", "size"):
                pairs = [k for k, row in enumerate(self.pair_ints) if i in row[:2]]
        elif parts[0] == "surfaces":
            pairs = [k for k, two in enumerate(self._pair_surfaces) if parts[1] in two]
        elif parts[0] == "pairs":
            wanted = set(parts[1].split("+"))
            pairs = [k for k, two in enumerate(self._pair_surfaces) if set(two) == wanted]
        elif parts[0] == "air":
            bodies = everybody
        self._touched[path] = (bodies, pairs)
        return bodies, pairs

    def _fill(
        self, num: Mapping[str, float], bodies: Iterable[int], pairs: Iterable[int], S: Array, P: Array, R: Array, cfg: Array
    ) -> None:
        cfg[L.CFG_GX + 2] = -num["gravity"]
        for c, axis in enumerate("xyz"):
            cfg[L.CFG_WX + c] = num[f"air.wind.{axis}"]
        late = []
        for i in bodies:
            if self.bodies[i].under is not None:
                late.append(i)
            else:
                self._fill_body(i, num, S, P)
        for i in late:
            self._fill_body(i, num, S, P)
            self._lay_under(i, S, P)
        for k in pairs:
            self._fill_pair(k, num, P, R)

    def _fill_body(self, i: int, num: Mapping[str, float], S: Array, P: Array) -> None:
        body, base = self.bodies[i], f"bodies.{self.names[i]}"
        shape = body.shapes[0]
        row = [0.0] * L.P_COLUMNS
        row[L.KIND] = KINDS[shape.kind]
        keys = self._keys[i]
        ext, area = _extent(shape, base, num)
        row[L.EXTENT : L.EXTENT + 3] = ext
        row[L.REACH] = ext[0] if shape.kind == "sphere" else sqrt(ext[0] ** 2 + ext[1] ** 2 + ext[2] ** 2)
        q = body.orientation
        n = sqrt(sum(c * c for c in q))
        state = [0.0] * 16
        state[3:7] = [c / n for c in q]
        if body.under is None:
            state[0:3] = [num[key] for key in keys["position"]]
        row[L.INERTIA : L.INERTIA + 3] = [1.0, 1.0, 1.0]
        if body.motion == "dynamic":
            mass = num[keys["mass"]]
            row[L.INV_MASS] = 1.0 / mass
            row[L.INERTIA : L.INERTIA + 3] = _inertia(shape, ext, mass, body.shell)
            row[L.LIN_DAMP], row[L.ANG_DAMP] = num[keys["linear_damping"]], num[keys["angular_damping"]]
            row[L.DRAG] = 0.5 * num["air.density"] * num[keys["drag_coefficient"]] * area
            row[L.GRAVITY] = num[keys["gravity_multiplier"]]
            state[7:10] = self._velocity(body, base, keys, num)
            state[10:13] = self._spin(i, body, base, num, state)
        P[i], S[i] = row, state

    def _only_launches(self, path: str) -> bool:
        """Whether a path is a start velocity or spin of a body and touches nothing else."""
        return ".velocity." in path or ".spin." in path or path.endswith(".speed")

    def _launch(self, i: int, num: Mapping[str, float], S: Array) -> None:
        body, base = self.bodies[i], f"bodies.{self.names[i]}"
        velocity = self._velocity(body, base, self._keys[i], num)
        S[i, 7:10] = velocity
        S[i, 10:13] = self._spin(i, body, base, num, [0.0] * 7 + velocity)

    def _velocity(self, body: Body, base: str, keys: dict, num: Mapping[str, float]) -> list[float]:
        if isinstance(body.velocity, Direction):
            return [num[f"{base}.speed"] * c for c in _unit(body.velocity.direction)]
        return [num[key] for key in keys["velocity"]]

    def _spin(self, i: int, body: Body, base: str, num: Mapping[str, float], state: list[float]) -> list[float]:
        if not isinstance(body.spin, NaturalRoll):
            return [num[key] for key in self._keys[i]["spin"]]
        support = self.case.bodies[body.spin.rolls_on].shapes[0]
        if not isinstance(support, Plane) or not isinstance(body.shapes[0], Sphere):
            raise Unsupported(f"{base}.spin: natural roll needs a sphere on a plane")
        n, v, r = _unit(support.normal), state[7:10], num[f"{base}.radius"]
        return [(n[1] * v[2] - n[2] * v[1]) / r, (n[2] * v[0] - n[0] * v[2]) / r, (n[0] * v[1] - n[1] * v[0]) / r]

    def _lay_under(self, i: int, S: Array, P: Array) -> None:
        """Place a plane under the start of a body, touching it."""
        j = self.names.index(self.bodies[i].under or "")
        n = P[i, L.EXTENT : L.EXTENT + 3]
        if P[j, L.KIND] == L.SPHERE:
            reach = P[j, L.EXTENT]
        else:
            q = tuple(S[j, 3:7])
            axes = [_rotate(q, e) for e in ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))]
            reach = sum(abs(float(np.dot(n, a))) * P[j, L.EXTENT + c] for c, a in enumerate(axes))
        S[i, :3] = S[j, :3] - reach * n

    def _plan_pair(self, k: int) -> list[tuple[str | None, Rule, str, str, float, float]]:
        """Where each quantity of a pair comes from: its own path, or two surfaces' paths with their defaults."""
        one, two = self._pair_surfaces[k]
        named = find_pair(self.case, one, two)
        rule, default = self.case.pairing, Surface()
        plan: list[tuple[str | None, Rule, str, str, float, float]] = []
        for quantity in SURFACE_QUANTITIES:
            own = f"pairs.{named.key}.{quantity}" if named is not None and getattr(named, quantity) is not None else None
            if quantity == "dynamic_friction":
                # falls back on static friction: the pair's own, or surface by surface
                if own is None and named is not None and named.friction is not None:
                    own = f"pairs.{named.key}.friction"
                paths = [f"surfaces.{n}.{quantity}" if f"surfaces.{n}.{quantity}" in self.base else f"surfaces.{n}.friction"
                         for n in (one, two)]
                plan.append((own, rule.friction, paths[0], paths[1], default.friction, default.friction))
                continue
            value = getattr(default, quantity)
            plan.append((own, getattr(rule, quantity), f"surfaces.{one}.{quantity}", f"surfaces.{two}.{quantity}", value, value))
        return plan

    def _fill_pair(self, k: int, num: Mapping[str, float], P: Array, R: Array) -> None:
        e, static, dynamic, rolling = (
            num[own] if own is not None else combine(rule, num.get(a, da), num.get(b, db))
            for own, rule, a, b, da, db in self._plans[k]
        )
        ia, ib, kind, _ = self._pair_rows[k]
        reach = P[ia, L.EXTENT]
        if kind == L.SPHERE_SPHERE:
            reach = 1.0 / (1.0 / reach + 1.0 / P[ib, L.EXTENT])
        R[k] = (e, static, min(dynamic, static), rolling, reach)

    # -- running -----------------------------------------------------------------------------

    def _workspace(self) -> Workspace:
        space = getattr(self._local, "space", None)
        if space is None:
            space = self._local.space = Workspace(len(self.names), len(self.pair_ints))
        return space

    def run(
        self, values: Mapping[str, float] | None, times: Array, end: float, cancel: np.ndarray | None = None,
        keep: bool = True,
    ) -> RawRun:
        """Run with these values in place of the case's own.

        Parameters
        ----------
        values : path → number
        times : (T,) rising sample times [s]
        end : when the run ends [s]
        cancel : (1,) int64; set its element to stop the run
        keep : with False the sampled states are only good until this thread's next run (a fit reads
            them at once, and touching fresh memory costs as much as the motion itself), and spheres
            have their spin and turn, but not their orientation
        """
        from yapa.engine.kernels.run import run

        S, P, R, cfg = self.state.copy(), self.props, self.pair_reals, self.cfg.copy()
        if values:
            num = {**self.base, **values}
            bodies: set[int] = set()
            pairs: set[int] = set()
            launched: set[int] = set()
            for path in values:
                touched = self._touches(path)
                if self._only_launches(path):
                    launched.add(touched[0][0])
                    continue
                bodies.update(touched[0])
                pairs.update(touched[1])
            P, R = P.copy(), R.copy()
            self._fill(num, sorted(bodies), sorted(pairs), S, P, R, cfg)
            for i in launched - bodies:
                self._launch(i, num, S)
        cfg[L.CFG_END] = end
        cfg[L.CFG_LEAN] = 0.0 if keep else 1.0
        start = S.copy()
        space = self._workspace()
        stop = cancel if cancel is not None else np.zeros(1, np.int64)
        out = np.empty((len(times), len(self.names), 16)) if keep else space.samples(len(times))
        for i in self._resting:
            out[:, i] = start[i]
        while True:
            status = np.zeros(L.ST_COLUMNS, np.int64)
            space.clear()
            run(S, P, self.pair_ints, R, times, out, space.clog, space.plog, cfg, status, stop, *space.arrays)
            if status[L.ST_CODE] != L.LOG_FULL or space.log_rows >= MAX_LOG_ROWS:
                break
            space.grow(4 * space.log_rows)
            S[:] = start
        done = int(status[L.ST_SAMPLES])
        return RawRun(
            times[:done], out[:done], space.clog[: status[L.ST_CONTACTS]].copy(),
            space.plog[: status[L.ST_PHASES]].copy(), int(status[L.ST_CODE]), int(status[L.ST_STEPS]),
            float(cfg[L.CFG_OVERLAP]), self.pair_ints, lambda: self.accounts(start, P),
        )

    def accounts(self, S: Array, P: Array) -> tuple[BodyAccount, ...]:
        """What a motion knows of its bodies, from states and properties."""
        rows = []
        for i, body in enumerate(self.bodies):
            moves = body.motion == "dynamic"
            rows.append(BodyAccount(
                self.names[i], moves, body.shapes[0].kind, tuple(P[i, L.EXTENT : L.EXTENT + 3].tolist()),
                float(P[i, L.REACH]), 1.0 / float(P[i, L.INV_MASS]) if moves else None,
                tuple(S[i, :3].tolist()), tuple(S[i, 3:7].tolist()),
            ))
        return tuple(rows)


def _keys_of(name: str) -> dict:
    """The paths of a body's numbers, made once."""
    base = f"bodies.{name}"
    keys: dict = {key: f"{base}.{key}" for key in BODY_SCALARS}
    keys.update({key: [f"{base}.{key}.{axis}" for axis in "xyz"] for key in ("position", "velocity", "spin")})
    return keys


def _extent(shape: Shape, base: str, num: Mapping[str, float]) -> tuple[tuple[float, float, float], float]:
    """Radius, half edges or normal; and the drag area: πr², or a quarter of a box's surface."""
    if isinstance(shape, Sphere):
        r = num[f"{base}.radius"]
        return (r, r, r), pi * r * r
    if isinstance(shape, Box):
        a, b, c = (num[f"{base}.size.{axis}"] for axis in "xyz")
        return (a / 2, b / 2, c / 2), (a * b + b * c + c * a) / 2
    return _unit(shape.normal), 0.0


def _inertia(shape: Shape, ext: tuple[float, float, float], mass: float, shell: bool) -> list[float]:
    """Principal moments [kg m²]: solid or thin shell."""
    if shape.kind == "sphere":
        i = (2 / 3 if shell else 0.4) * mass * ext[0] ** 2
        return [i, i, i]
    a, b, c = ext
    if not shell:
        return [mass / 3 * (b * b + c * c), mass / 3 * (a * a + c * c), mass / 3 * (a * a + b * b)]
    faces = [(b * c, a, b, c), (a * c, b, a, c), (a * b, c, a, b)]
    total = sum(area for area, *_ in faces)
    second = [0.0, 0.0, 0.0]  # ∫x² dm, ∫y² dm, ∫z² dm over the shell
    half = [a, b, c]
    for axis, (area, *_rest) in enumerate(faces):
        share = mass * area / total
        for k in range(3):
            second[k] += share * (half[k] ** 2 if k == axis else half[k] ** 2 / 3)
    return [second[1] + second[2], second[0] + second[2], second[0] + second[1]]
