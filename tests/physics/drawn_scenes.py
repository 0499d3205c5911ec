"""Scenes drawn at random, each with the truth beside it: shapes × supports × motions × forces × regimes.

One body on one support, which may be turned about the vertical, shifted, scaled in length and in mass: the truth turns, shifts
and scales with it. Along the way x of the support, with N the normal force and k = I/(m R²),

    slide   a = (F(v) - μ N sign(v - belt)) / m
    roll    a = (F(v) - c_rr N sign(ω)) / (m (1 + k))
    rest    nothing moves while |F| stays under the static limit
    spin    ω' = -c_sp N R / I
    tip     β'' = m g r sin β / (I + m r²), about the edge or the point of the rim that it stands on
    bounce  t₁ = √(2h/g), then 2 e √(2h/g) from contact to contact

F(v) is gravity along the slope, drag in the wind and damping. A driven support adds its own velocity; one whose first key lies
later stands until then.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product
from math import cos, pi, sin, sqrt
from typing import Any

import numpy as np
from benchmarks.scenes import G
from scipy.integrate import solve_ivp

from yapa.case import Body, Box, Capsule, Case, Cylinder, Fields, Hull, Keyframe, Plane, Precise, Sphere, Stepped, Surface
from yapa.case.scene import Air
from yapa.engine.kernels import layout as L
from yapa.engine.runner import Program

SHAPES = ("ball", "box", "hull", "lying can", "standing can", "capsule")
SUPPORTS = ("plane", "box", "hull", "plane slope", "box slope", "driven", "driven later")
MOTIONS = ("rest", "slide", "roll", "spin", "tip", "bounce")
FORCES = ("none", "wind", "drag", "damping", "belt", "locked axes")
REGIMES = ("event-driven", "soft contact", "fixed step")
ROUND = ("ball", "lying can", "capsule")
EDGES = ("box", "hull", "standing can")
SPIN = 40.0
"""rad/s"""
TOLERANCE = {"event-driven": 3e-6, "soft contact": 0.03, "fixed step": 0.08}
"""Of the way, or of the size of what does not move."""


@dataclass(frozen=True)
class Drawn:
    """A scene, and where its body should be at its end (None: what ``missed`` reads is something else)."""

    cell: tuple[str, str, str, str, str]
    case: Case
    end: np.ndarray | None
    scale: float
    times: tuple[float, ...] = ()
    spin: float | None = None
    second_order: float = 0.0
    """What sustained contact may miss by where bodies tip, or roll while they are damped: of second order in its step."""


def _quaternion_product(p: Any, q: Any) -> tuple[float, ...]:
    return (p[0] * q[0] - p[1] * q[1] - p[2] * q[2] - p[3] * q[3], p[0] * q[1] + p[1] * q[0] + p[2] * q[3] - p[3] * q[2],
            p[0] * q[2] - p[1] * q[3] + p[2] * q[0] + p[3] * q[1], p[0] * q[3] + p[1] * q[2] - p[2] * q[1] + p[3] * q[0])


def _about(axis: str, angle: float) -> tuple[float, ...]:
    return (cos(angle / 2), *(sin(angle / 2) if axis == name else 0.0 for name in "xyz"))


def _turned(q: Any, v: Any) -> np.ndarray:
    w, r = q[0], np.array(q[1:])
    v = np.array(v)
    return v + 2 * np.cross(r, np.cross(r, v) + w * v)


def _corners(size: tuple[float, float, float]) -> tuple[tuple[float, ...], ...]:
    return tuple((x * size[0] / 2, y * size[1] / 2, z * size[2] / 2) for x in (-1, 1) for y in (-1, 1) for z in (-1, 1))


@dataclass(frozen=True)
class Thing:
    """A shape as it lies on its support: how high its centre is, how far it reaches along x, moments about y and its own axis."""

    shape: Any
    high: float
    half: float
    about_y: float
    k: float
    area: float
    own: tuple[float, ...] = (1.0, 0.0, 0.0, 0.0)


def _thing(name: str, rng: np.random.Generator, s: float) -> Thing:
    r, length = s * rng.uniform(0.03, 0.08), s * rng.uniform(0.06, 0.2)
    if name == "ball":
        return Thing(Sphere(kind="sphere", radius=r, surface="both"), r, r, 0.4 * r * r, 0.4, pi * r * r)
    if name in ("box", "hull"):
        x, y = (s * rng.uniform(0.05, 0.2) for _ in range(2))
        z = x * rng.uniform(0.3, 0.9)  # too low to tip by friction
        shape = (Box(kind="box", size=(x, y, z), surface="both") if name == "box"
                 else Hull(kind="hull", points=_corners((x, y, z)), surface="both"))
        return Thing(shape, z / 2, x / 2, (x * x + z * z) / 12, 0.0, (x * y + y * z + x * z) / 2)
    if name == "standing can":
        length = r * rng.uniform(0.6, 1.8)
    can = Cylinder(kind="cylinder", radius=r, length=length, surface="both")
    area = (2 * pi * r * r + 2 * pi * r * length) / 4
    if name == "standing can":
        return Thing(can, length / 2, r, (3 * r * r + length * length) / 12, 0.0, area)
    if name == "lying can":
        return Thing(can, r, r, r * r / 2, 0.5, area, _about("x", pi / 2))
    round_part, ends = pi * r * r * length, 4 / 3 * pi * r**3
    k = (0.5 * round_part + 0.4 * ends) / (round_part + ends)
    return Thing(Capsule(kind="capsule", radius=r, length=length, surface="both"), r, r, k * r * r, k,
                 (4 * pi * r * r + 2 * pi * r * length) / 4, _about("x", pi / 2))


def fits(shape: str, support: str, motion: str, force: str, regime: str) -> bool:
    """Whether the truth of a cell is known."""
    slope = support.endswith("slope")
    if (motion == "roll" and shape not in ROUND) or (motion in ("slide", "tip") and shape not in EDGES):
        return False
    if (motion == "rest" and (slope or force in ("wind", "belt")) and shape not in EDGES) or (motion == "rest" and force == "belt"):
        return False
    if motion == "rest" and support == "driven" and force in ("damping", "drag") and shape not in EDGES:
        return False
    if motion == "spin" and (shape != "ball" or slope or force not in ("none", "locked axes")):
        return False
    if motion in ("tip", "bounce") and (slope or support == "driven" or force not in ("none", "locked axes")):
        return False
    if (motion == "bounce" and regime != "event-driven") or (motion == "tip" and regime == "fixed step"):
        return False
    return not (force == "belt" and (support.startswith("driven") or motion not in ("slide", "roll")))


CELLS = [cell for cell in product(SHAPES, SUPPORTS, MOTIONS, FORCES, REGIMES) if fits(*cell)]


def _support(name: str, belt: float, angle: float, s: float, speed: float, thickness: float) -> Body:
    """The body that lies under the way x, its top through the origin, before it is turned and shifted."""
    runs = {"surface": "both", "surface_velocity": (belt, 0.0, 0.0)}
    q = _about("y", -angle)
    if name.startswith("plane"):
        return Body(motion="static", shapes=(Plane(kind="plane", **runs),), orientation=q)
    size = (200.0 * s, 4.0 * s, thickness)
    shape = Hull(kind="hull", points=_corners(size), **runs) if name == "hull" else Box(kind="box", size=size, **runs)
    low = tuple(_turned(q, (0.0, 0.0, -thickness / 2)))
    if name.startswith("driven"):
        first = 0.0 if name == "driven" else 50.0
        keys = tuple(Keyframe(time=first + t, position=(low[0] + speed * t, low[1], low[2])) for t in (0.0, 10.0))
        return Body(motion="kinematic", shapes=(shape,), keyframes=keys)
    return Body(motion="static", shapes=(shape,), orientation=q, position=low)


def _moved(body: Body, yaw: float, shift: np.ndarray) -> Body:
    """A body, turned about the vertical and shifted."""
    turn = _about("z", yaw)
    if body.keyframes:
        keys = tuple(Keyframe(time=key.time, position=tuple((_turned(turn, key.position) + shift).tolist()), orientation=turn)
                     for key in body.keyframes)
        return body.model_copy(update={"keyframes": keys})
    return body.model_copy(update={"position": tuple((_turned(turn, body.position) + shift).tolist()),
                                   "orientation": _quaternion_product(turn, body.orientation)})


@dataclass
class Plan:
    """What is drawn of a scene before it is turned and shifted, and the truth of its motion along x."""

    cell: tuple[str, str, str, str, str]
    thing: Thing
    s: float
    mass: float
    angle: float
    boost: float
    belt: float
    duration: float
    dynamic: float
    static: float
    rolling: float
    spinning: float
    e: float
    damping: float
    gust: float
    drag: float
    place: np.ndarray
    own: tuple[float, ...]
    v0: float = 0.0
    spin: float = 0.0
    end: np.ndarray | None = None
    times: tuple[float, ...] = ()
    late: float | None = None
    second_order: float = 0.0

    @property
    def carried(self) -> float:
        """Velocity of the support: what is driven from the start carries the scene along."""
        return self.boost if self.cell[1] == "driven" else 0.0

    @property
    def normal(self) -> float:
        """Normal force over mass."""
        return G * cos(self.angle)

    def pull(self, v: float) -> float:
        """Acceleration along the way but by the support, at a velocity over it: the air moves along with it, damping does not."""
        u = v - self.gust
        return -G * sin(self.angle) - self.drag * abs(u) * u - self.damping * (v + self.carried)

    def loss(self, speed: float) -> float:
        """A bound on what all that may slow it takes of its speed, up to a speed."""
        air = self.drag * (abs(self.gust) + speed) ** 2
        return (G * sin(self.angle) + air + self.damping * speed) * self.duration

    def go(self, resisted: float, share: float) -> bool:
        """Follow the way with a resistance against the motion over the belt. Whether it never stopped there."""
        side = 1.0 if self.v0 > self.belt else -1.0
        found = solve_ivp(lambda t, y: [y[1], (self.pull(y[1]) - side * resisted) / share], (0, self.duration), [0, self.v0],
                          rtol=1e-11, atol=1e-13)
        self.end = self.place + (found.y[0, -1], 0.0, 0.0)
        return bool(((found.y[1] - self.belt) * side > 0).all())


def _rest(plan: Plan, rng: np.random.Generator) -> bool:
    if plan.gust:  # it leans against 20 to 90% of what holds it
        plan.drag = rng.uniform(0.2, 0.9) * (plan.static * plan.normal - G * sin(plan.angle)) / plan.gust**2
    plan.end = plan.place
    return True


def _slide(plan: Plan, rng: np.random.Generator) -> bool:
    side = rng.choice([-1.0, 1.0])
    plan.v0 = plan.belt + side * (1.2 * (plan.dynamic * plan.normal * plan.duration + plan.loss(6 * plan.s)) + 0.1 * plan.s)
    return plan.go(plan.dynamic * plan.normal, 1.0)


def _roll(plan: Plan, rng: np.random.Generator) -> bool:
    plan.dynamic = plan.static = 5.0
    side, speed = rng.choice([-1.0, 1.0]), plan.s * rng.uniform(1.0, 3.0)
    plan.v0 = plan.belt + side * (speed + plan.loss(6 * plan.s) + plan.rolling * plan.normal * plan.duration)
    plan.spin = (plan.v0 - plan.belt) / plan.thing.high
    plan.second_order = 1e-5 if plan.damping else 0.0
    return plan.go(plan.rolling * plan.normal, 1 + plan.thing.k)


def _spin(plan: Plan, rng: np.random.Generator) -> bool:
    plan.late = SPIN - plan.spinning * plan.normal * plan.thing.high / plan.thing.about_y * plan.duration
    plan.end = plan.place
    return plan.late > 1.0


def _tip(plan: Plan, rng: np.random.Generator) -> bool:
    plan.dynamic = plan.static = 3.0
    half, high = plan.thing.half, plan.thing.high
    reach, lean = sqrt(half**2 + high**2), np.arctan2(half, high)
    room = min(lean, pi / 2 - lean)
    first = rng.choice([-1.0, 1.0]) * rng.uniform(0.05, 0.3) * room  # of the line to the centre, from upright
    rate = G * reach / (plan.thing.about_y + reach**2)
    plan.duration = min(plan.duration, float(np.arccosh(0.6 * room / abs(first)) / sqrt(rate)))
    found = solve_ivp(lambda t, y: [y[1], rate * np.sin(y[0])], (0, plan.duration), [first, 0.0], rtol=1e-12, atol=1e-14)
    last = found.y[0, -1]
    plan.place, plan.end = (np.array([reach * np.sin(angle), 0.0, reach * np.cos(angle)]) for angle in (first, last))
    plan.own = _quaternion_product(_about("y", lean + first), plan.own)
    plan.second_order = 0.05 * rate / 240.0**2
    return True


def _bounce(plan: Plan, rng: np.random.Generator) -> bool:
    h = plan.s * rng.uniform(0.05, 0.3)
    plan.place = plan.place + (0.0, 0.0, h)
    first = sqrt(2 * h / G)
    plan.times = (first, first * (1 + 2 * plan.e))
    plan.duration = plan.times[1] + 0.3 * first * plan.e
    return True


PLANS = {"rest": _rest, "slide": _slide, "roll": _roll, "spin": _spin, "tip": _tip, "bounce": _bounce}


def _plan(cell: tuple[str, str, str, str, str], rng: np.random.Generator) -> Plan | None:
    shape, support, motion, force, _ = cell
    s, mass = 10.0 ** rng.uniform(-0.5, 0.5), 10.0 ** rng.uniform(-1, 1)
    thing, angle = _thing(shape, rng, s), rng.uniform(0.05, 0.3) if support.endswith("slope") else 0.0
    dynamic, static = rng.uniform(0.1, 0.4), rng.uniform(0.45, 0.7)
    gust = rng.choice([-1.0, 1.0]) * s * rng.uniform(2.0, 10.0) if force == "wind" else 0.0
    drag = 0.0
    if force in ("wind", "drag"):
        drag = rng.uniform(0.05, 0.3) * (dynamic if motion == "slide" else 0.03) * G / max(gust * gust, s * s)
    plan = Plan(
        cell, thing, s, mass, angle, s * rng.uniform(-1.0, 1.0) if support.startswith("driven") else 0.0,
        s * rng.uniform(-1.0, 1.0) if force == "belt" else 0.0, 0.5 * sqrt(s), dynamic, static,
        rng.uniform(0.0, 0.02) if motion == "roll" and rng.random() < 0.5 else 0.0,
        rng.uniform(0.005, 0.05) if motion == "spin" else 0.0, rng.uniform(0.3, 0.9) if motion == "bounce" else 0.0,
        rng.uniform(0.1, 1.0) if force == "damping" else 0.0, gust, drag, np.array([0.0, 0.0, thing.high]), thing.own)
    return plan if PLANS[motion](plan, rng) else None


def drawn(seed: int) -> Drawn:
    """The scene of a seed."""
    rng = np.random.default_rng(seed)
    motion = MOTIONS[int(rng.integers(len(MOTIONS)))]
    cells = [cell for cell in CELLS if cell[2] == motion]
    cell = cells[int(rng.integers(len(cells)))]
    plan = None
    while plan is None:
        plan = _plan(cell, rng)
    return _laid_out(plan, rng)


def _laid_out(plan: Plan, rng: np.random.Generator) -> Drawn:
    """The case of a plan, turned about the vertical and shifted; with locked axes, which are the world's, only shifted."""
    _, support, motion, force, regime = plan.cell
    s, thing = plan.s, plan.thing
    yaw, shift = rng.uniform(-pi, pi), np.array([*(s * rng.uniform(-1, 1, 2)), s * rng.uniform(-1, 1)])
    locked: dict[str, Any] = {}
    if force == "locked axes":
        yaw, locked = 0.0, {"locked_axes": ("y", "rotation_x", *(() if motion == "spin" else ("rotation_z",)))}
    lies = _quaternion_product(_about("z", yaw), _about("y", -plan.angle))

    def out(v: Any) -> tuple[float, ...]:
        return tuple(_turned(lies, v).tolist())

    body = Body(
        shapes=(thing.shape,), mass=plan.mass, position=tuple((_turned(lies, plan.place) + shift).tolist()),
        orientation=_quaternion_product(lies, plan.own), velocity=out((plan.v0 + plan.carried, 0.0, 0.0)),
        angular_velocity=out((0.0, plan.spin, SPIN if motion == "spin" else 0.0)), linear_damping=plan.damping,
        drag_coefficient=1.0 if plan.drag else 0.0, **locked)
    under = _support(support, plan.belt, plan.angle, s, plan.boost, s * rng.uniform(0.5, 2.0))
    law = Surface(restitution=plan.e, friction=plan.static, dynamic_friction=plan.dynamic, rolling_resistance=plan.rolling,
                  spinning_resistance=plan.spinning)
    density = 2.0 * plan.drag * plan.mass / thing.area if plan.drag else 1.2
    air = Air(density=density, wind=out((plan.gust + plan.carried, 0.0, 0.0)))
    case = Case(surfaces={"both": law}, bodies={"body": body, "under": _moved(under, yaw, shift)}, duration=plan.duration,
                fields=Fields(gravity=G, air=air),
                profile=Stepped(step=1 / 960, iterations=60, damping="exponential") if regime == "fixed step" else Precise())
    end = None if plan.end is None else _turned(lies, plan.end + (plan.carried * plan.duration, 0.0, 0.0)) + shift
    way = 0.0 if plan.end is None else float(np.linalg.norm(plan.end - plan.place))
    scale = max(way, thing.half, 0.3 * abs(plan.v0) * plan.duration)
    return Drawn(plan.cell, case, end, scale, plan.times, plan.late, plan.second_order)


def missed(scene: Drawn) -> float:
    """How far a run is from the truth, as a share of what its regime may miss by."""
    program, regime = Program(scene.case), scene.cell[4]
    tolerance = max(TOLERANCE[regime], scene.second_order)
    program.cfg[L.config.ALL_SOFT] = float(regime == "soft contact")
    T = scene.case.duration
    raw = program.run(None, np.array([0.0, T]), T)
    at = program.names.index("body")
    if raw.code != L.run_code.OK:
        return float("inf")
    if scene.times:
        log = raw.contacts[:, L.contact_log.TIME]
        return float("inf") if len(log) < 2 else float(np.abs(log[:2] - scene.times).max() / T / tolerance)
    off = 0.0 if scene.end is None else float(np.linalg.norm(raw.states[-1, at, :3] - scene.end)) / scene.scale / tolerance
    if scene.spin is not None:
        off = max(off, abs(raw.states[-1, at, L.state.WZ] - scene.spin) / SPIN / tolerance)
    return off
