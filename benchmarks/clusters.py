"""Scenes drawn at random: rooms with thin walls, clusters that fly together, and how well those keep their momentum."""

from __future__ import annotations

import numpy as np

from benchmarks.scenes import scene
from yapa.case import Body, Box, Capsule, Case, Cylinder, Fields, Hull, Plane, Sphere, Surface
from yapa.engine.compile.mass_properties import rotation_matrix

SHAPES = {
    "ball": Sphere(kind="sphere", radius=0.08, surface="both"),
    "box": Box(kind="box", size=(0.1, 0.14, 0.12), surface="both"),
    "can": Cylinder(kind="cylinder", radius=0.06, length=0.12, surface="both"),
}


def cluster(seed, shape, boost=0.0, **values):
    """Six bodies that fly together without gravity."""
    rng = np.random.default_rng(seed)
    bodies = {}
    for k in range(6):
        away = rng.normal(size=3)
        place = away / np.linalg.norm(away) * rng.uniform(0.2, 0.6)
        velocity = -2.0 * place + 0.2 * rng.normal(size=3) + np.array([boost, 0.0, 0.0])
        bodies[f"body {k}"] = Body(
            shapes=(SHAPES[shape],), mass=float(10 ** rng.uniform(-1, 1)), position=tuple(place.tolist()),
            velocity=tuple(velocity.tolist()), angular_velocity=tuple((3 * rng.normal(size=3)).tolist()),
            orientation=tuple(rng.normal(size=4).tolist()))
    return scene(bodies, duration=1.0, gravity=0.0, **values)


def drifts(motion):
    """The largest change of the momentum over Σ m |v|, and of the angular momentum about the mass centre over what there is."""
    states = motion.states
    mass = np.array([body.mass for body in motion.bodies])[None, :, None]
    momentum = (mass * states[:, :, 7:10]).sum(axis=1)
    size = (mass[:, :, 0] * np.linalg.norm(states[:, :, 7:10], axis=2)).sum(axis=1).max()
    arms = states[:, :, :3] - (mass * states[:, :, :3]).sum(axis=1, keepdims=True) / mass.sum()
    speeds = states[:, :, 7:10] - momentum[:, None] / mass.sum()
    turning = mass * np.cross(arms, speeds)
    for i, body in enumerate(motion.bodies):
        axes = np.array([rotation_matrix(q) for q in states[:, i, 3:7]]) @ rotation_matrix(body.axes)
        own = np.einsum("tji,tj->ti", axes, states[:, i, 10:13]) * np.array(body.inertia)
        turning[:, i] += np.einsum("tij,tj->ti", axes, own)
    total = turning.sum(axis=1)
    return (np.abs(momentum - momentum[0]).max() / size,
            np.abs(total - total[0]).max() / np.linalg.norm(turning[0], axis=1).sum())


def some_shape(rng, size):
    """A shape of about a size, and how far it reaches."""
    def edge():
        return float(np.clip(size * 10 ** rng.uniform(-0.5, 0.5), 1e-3, 10))

    kind = rng.integers(5)
    if kind == 0:
        r = edge() / 2
        return Sphere(kind="sphere", radius=r, surface="s"), r
    if kind == 1:
        edges = (edge(), edge(), edge())
        return Box(kind="box", size=edges, surface="s"), float(np.linalg.norm(edges)) / 2
    if kind == 2:
        r, length = edge() / 4, edge()
        return Capsule(kind="capsule", radius=r, length=length, surface="s"), r + length / 2
    if kind == 3:
        r, length = edge() / 2, edge()
        return Cylinder(kind="cylinder", radius=r, length=length, surface="s"), float(np.hypot(r, length / 2))
    d = edge() / 2
    points = rng.normal(size=(int(rng.integers(5, 12)), 3)) * d
    return Hull(kind="hull", points=tuple(map(tuple, points.tolist())), surface="s"), 3 * d


def some_surface(rng):
    """A surface that bounces and rubs somehow."""
    return Surface(restitution=float(rng.uniform(0, 1)), friction=float(rng.uniform(0, 1.2)),
                   rolling_resistance=float(rng.choice([0, 0.02])))


def random_scene(seed):
    """A room with thin walls and up to six bodies thrown about in it; its half width and how high it is closed."""
    rng = np.random.default_rng(seed)
    size, count = 10 ** rng.uniform(-3, 1), int(rng.integers(1, 7))
    bodies = {}
    for k in range(count):
        shape, reach = some_shape(rng, size)
        speed = 10 ** rng.uniform(-1, 2)
        v = rng.normal(size=3)
        place = [*(rng.uniform(-2, 2, 2) * size * count**0.5).tolist(), size * (2 + 4 * k) + reach]
        bodies[f"b{k}"] = Body(
            shapes=(shape,), mass=float(10 ** rng.uniform(-3, 4)), position=tuple(place),
            orientation=tuple(rng.normal(size=4).tolist()), velocity=tuple((v * speed / np.linalg.norm(v)).tolist()),
            angular_velocity=tuple((rng.normal(size=3) * min(50, speed / size)).tolist()))
    bodies["floor"] = Body(motion="static", shapes=(Plane(kind="plane", surface="s"),))
    half, thin = 6 * size * count**0.5, max(1e-3, 0.05 * size)
    for axis in range(2):
        for side in (1, -1):
            edges, at = [2 * half, 2 * half, 40 * size], [0.0, 0.0, 20 * size]
            edges[axis], at[axis] = thin, side * half
            bodies[f"wall {axis} {side}"] = Body(motion="static", position=tuple(at),
                                                 shapes=(Box(kind="box", size=tuple(edges), surface="s"),))
    surface = some_surface(rng)
    duration = float(np.clip(6 * np.sqrt(size / 9.81), 0.05, 1.0))
    return Case(surfaces={"s": surface}, bodies=bodies, duration=duration, output_rate=240.0), half, 30 * size


def random_cluster(seed):
    """Up to six bodies of any shape that fly together, with nothing fixed and no gravity."""
    rng = np.random.default_rng(seed)
    size, count = 10 ** rng.uniform(-2, 0.5), int(rng.integers(2, 7))
    bodies = {}
    for k in range(count):
        shape, reach = some_shape(rng, size)
        away = rng.normal(size=3)
        place = away / np.linalg.norm(away) * (2 * size * count**0.5 + 2 * reach)
        speed = 10 ** rng.uniform(-1, 1.3)
        spin = rng.normal(size=3) * min(30, speed / size)
        bodies[f"b{k}"] = Body(
            shapes=(shape,), mass=float(10 ** rng.uniform(-3, 3)), position=tuple(place.tolist()),
            orientation=tuple(rng.normal(size=4).tolist()), velocity=tuple((-place * speed / np.linalg.norm(place)).tolist()),
            angular_velocity=tuple(spin.tolist()))
    surface = some_surface(rng)
    return Case(surfaces={"s": surface}, bodies=bodies, duration=0.5, output_rate=240.0, fields=Fields(gravity=0.0))
