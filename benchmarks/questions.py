"""Fourteen questions of the packing house, each one call, with its true answer beside it (closed form, or brute force).

    python -m benchmarks.questions
"""

from __future__ import annotations

from collections.abc import Callable
from math import atan, cos, degrees, radians, sin, sqrt, tan
from time import perf_counter

import numpy as np

from benchmarks.scenes import G, ball, crate_on_slope, floor, scene
from benchmarks.tables import TABLES
from yapa import api
from yapa.case import Body, Box, LaunchAngles, NaturalRoll, Stepped, Unknown
from yapa.case.curves import Curve
from yapa.case.model import Case
from yapa.case.scene import Keyframe

MU = "surfaces.both.friction"


def box(size: tuple[float, float, float], **body: object) -> Body:
    """A box of one surface."""
    return Body(shapes=(Box(kind="box", size=size, surface="both"),), **body)


def free(case: Case, *unknowns: Unknown, targets: tuple[str, ...] = ()) -> Case:
    """The case with these unknowns and targets."""
    return case.model_copy(update={"unknowns": unknowns, "targets": tuple(api.parse_target(t) for t in targets)})


def heaviest() -> tuple[str, str]:
    """Heaviest two stacked crates that a bar of 30 N still moves by a centimetre in 2 s."""
    keys = (Keyframe(time=0.0, position=(-0.2, 0, 0.15)), Keyframe(time=2.0, position=(0.3, 0, 0.15)))
    case = scene({"low": box((0.3, 0.3, 0.3), position=(0.0, 0, 0.15), mass=2.0),
                  "high": box((0.3, 0.3, 0.3), position=(0, 0, 0.45), mass=2.0),
                  "bar": box((0.1, 0.3, 0.1), motion="kinematic", mass=1.0, keyframes=keys, max_force=30.0), "floor": floor()},
                 duration=2.0, friction=0.4)
    case = free(case, Unknown(path="bodies.low.mass", low=1.0, high=8.0, linked=("bodies.high.mass",)))
    found = api.threshold(case, "bodies.low.mass", ["low travel at least 1 cm"])
    masses = np.linspace(3.6, 4.1, 101)
    brute = max(m for m in masses if api.judged(free(case, targets=("low travel at least 1 cm",)), api.simulate(
        case, {"bodies.low.mass": float(m), "bodies.high.mass": float(m)}))[0].met)
    return f"{found.value:.3f} kg each", f"{brute:.3f} kg of 101; {30 / (0.8 * G):.3f} kg by statics, the bar's start adds a little"


def topples() -> tuple[str, str]:
    """Largest tall crate that a hit at 6 m/s topples: its density is the question."""
    case = scene({"ball": ball(0.05, position=(-0.5, 0, 0.75), velocity=(6.0, 0, 0), mass=1.0, gravity_multiplier=0.0),
                  "tall": box((0.2, 0.2, 0.8), position=(0, 0, 0.4), mass=5.0), "floor": floor()}, duration=1.5, friction=0.9,
                 restitution=0.3)
    case = free(case, Unknown(path="bodies.tall.mass", low=2.0, high=60.0, transform="log"))
    found = api.threshold(case, "bodies.tall.mass", ["tall tilt at least 45 deg"])
    brute = max(m for m in np.geomspace(2, 60, 129) if api.judged(
        free(case, targets=("tall tilt at least 45 deg",)), api.simulate(case, {"bodies.tall.mass": float(m)}))[0].met)
    return f"{found.value:.3f} kg", f"{brute:.3f} kg, the largest of 129 that topple"


def sticks() -> tuple[str, str]:
    """Friction to stick at 25°."""
    found = api.threshold(crate_on_slope(25.0, 0.0, 1.0, friction=0.3), MU, ["travel at most 1 mm"], 0.05, 1.0, largest=False)
    return f"{found.value:.4f}", f"{tan(radians(25)):.4f} = tan 25°"


def contacts() -> tuple[str, str]:
    """Largest step at which a stepped profile counts 314 contacts of two blocks and a wall, masses 1 : 10⁴."""
    bodies = {"big": box((0.2, 0.2, 0.2), position=(1.0, 0, 0), velocity=(-0.5, 0, 0), mass=1e4),
              "small": box((0.1, 0.1, 0.1), position=(0.5, 0, 0), mass=1.0),
              "wall": box((0.1, 1.0, 1.0), motion="static", position=(0, 0, 0))}
    case = scene(bodies, duration=8.0, rate=60.0, gravity=0.0, restitution=1.0,
                 profile=Stepped(step=1e-3, restitution_threshold=0.0, overlap_correction=None))
    wanted, low, high = ["small contacts = 314 ± 0.5"], 1e-4, 3e-3
    found = api.threshold(case, "profile.step", wanted, low, high)
    finer = api.threshold(case, "profile.step", wanted, low, high, points=129)
    grid = np.geomspace(low, high, 33)
    counted = [api.variants(case, {"it": {"profile.step": float(h)}},
                            ["small contacts"]).outcomes["small contacts"][1].value for h in grid]
    brute = max((h for h, n in zip(grid, counted, strict=True) if n == 314), default=0.0)
    value, fine = ("none" if f.value is None else f"{1e6 * f.value:.1f} µs" for f in (found, finer))
    answer = f"{value}, {len(found.changes)} changes (129 points: {fine})"
    return answer, f"{1e6 * brute:.1f} µs is the largest of the same 33 points"


def which_matters() -> tuple[str, str]:
    """Which of five numbers matters for how far a crate slides."""
    case = free(crate_on_slope(0.0, 2.0, 2.0, friction=0.3), *(Unknown(path=p, low=a, high=b) for p, a, b in (
        ("bodies.crate.speed", 1.0, 2.5), (MU, 0.25, 0.35), ("bodies.crate.mass", 1.0, 4.0),
        ("surfaces.both.restitution", 0.0, 0.5),
        ("bodies.crate.size.y", 0.1, 0.3))))
    found = api.what_matters(case, "slide distance")
    return ", ".join(one.path.split(".")[-1] for one in found.ranking[:2]), "speed, then friction; the others never"


def shot() -> Case:
    """A ball thrown at a bin 20 cm wide."""
    return free(scene({"ball": ball(0.02, position=(0, 0, 1.0), velocity=(1.5, 0, 0), mass=0.1)}, duration=0.4),
                Unknown(path="bodies.ball.velocity.x", low=0.5, high=3.0), targets=("x within 0.7 to 0.9 m",))


def in_most_starts() -> tuple[str, str]:
    """A bin hit in 90% of jittered starts: speed scatters by 0.1 m/s."""
    found = api.robust(shot(), {"bodies.ball.velocity.x": 0.1})
    return f"{found.values['bodies.ball.velocity.x']:.2f} m/s, {found.share:.1%}, {found.verdict}", "2.00 m/s, 98.8%"


def in_order() -> tuple[str, str]:
    """Ground, then wall, then post."""
    case = scene({"ball": ball(0.05, position=(0, 0, 0.55), velocity=(1.0, 0, 0), mass=0.2), "ground": floor(),
                  "wall": box((0.1, 1.0, 3.0), motion="static", position=(1.1, 0, 1.5)),
                  "post": box((0.1, 1.0, 3.0), motion="static", position=(-0.6, 0, 1.5))}, duration=1.5, restitution=0.8)
    case = free(case, Unknown(path="bodies.ball.velocity.x", low=0.5, high=6.0),
                targets=("contact order through ground, wall, post at least 0.05 s",))
    found = api.solve(case, most=1)
    fall = sqrt(2 * 0.5 / G)
    met = found.nearest is not None and found.nearest.met
    v = found.nearest.values["bodies.ball.velocity.x"] if found.nearest is not None else float("nan")
    answer = f"{v:.2f} m/s ({'met' if met else 'missed'})"
    return answer, f"below {1.0 / (fall + 0.05):.2f} m/s the ground comes first, fast enough to be back in time"


def nine_of_twelve() -> tuple[str, str]:
    """At least 9 of 12 in the bin: the speed of a row of throws."""
    balls = {f"b{k}": ball(0.02, position=(0, 0.3 * k, 1.0 + 0.02 * k), velocity=(1.0, 0, 0), mass=0.1) for k in range(12)}
    case = scene(balls, duration=0.4).model_copy(update={"groups": {"row": tuple(balls)}})
    first, *rest = (f"bodies.b{k}.velocity.x" for k in range(12))
    case = free(case, Unknown(path=first, low=0.5, high=3.0, linked=tuple(rest)),
                targets=("at least 9 of row wholly inside (0.7, -1, -5) to (0.9, 9, 5) at least 0",))
    found = api.solve(case, most=1)
    assert found.nearest is not None
    answer = f"{found.nearest.values[first]:.3f} m/s ({'met' if found.nearest.met else 'missed'})"
    return answer, f"{(0.7 + 0.02) / 0.4:.3f} to {(0.9 - 0.02) / 0.4:.3f} m/s"


def either_bin() -> tuple[str, str]:
    """Either of two bins."""
    case = shot().model_copy(update={"targets": ()})
    found = api.either(case, [["x within 0.7 to 0.9 m"], ["x within 0.2 to 0.4 m"]])
    return f"the {'far' if found.kept == 0 else 'near'} one", "the far one: 0.7 / 0.4 is nearer to 1.5 m/s than 0.4 / 0.4"


def farthest() -> tuple[str, str]:
    """Elevation for the farthest landing from 1 m at 4 m/s."""
    case = free(scene({"ball": ball(0.05, position=(0, 0, 1.05), velocity=LaunchAngles(speed=4.0, elevation=0.2), mass=0.2),
                       "floor": floor()}, duration=2.0), Unknown(path="bodies.ball.elevation", low=-0.5, high=1.4))
    found = api.best(case, "landing 1")
    return f"{degrees(found.values['bodies.ball.elevation']):.2f}°", f"{degrees(atan(4 / sqrt(16 + 2 * G))):.2f}°"


def speed_profile() -> tuple[str, str]:
    """A speed profile of four times."""
    curve = Curve(name="wanted", body="crate", quantity="speed", t=(0.0, 0.25, 0.5, 0.75), y=(2.0, 1.4, 0.8, 0.2), sigma=0.01)
    case = crate_on_slope(0.0, 1.0, 1.0, friction=0.1).model_copy(update={"curves": (curve,)})
    case = case.model_copy(update={"unknowns": (Unknown(path=MU, low=0.05, high=1.0),
                                                Unknown(path="bodies.crate.speed", low=1.0, high=3.0))})
    found = api.fit(case)
    return f"friction {found.values[MU]:.4f}, {found.values['bodies.crate.speed']:.3f} m/s", f"friction {2.4 / G:.4f}, 2.000 m/s"


def tied_spin() -> tuple[str, str]:
    """A spin tied to the speed, on a tilted lane."""
    rolling = ball(0.05, position=(0, 0, 1.0), velocity=(1.0, 0, 0), mass=0.2, angular_velocity=NaturalRoll(rolling_on="lane"))
    case = scene({"ball": rolling, "lane": floor()}, duration=0.1, gravity=0.0)
    w = api.simulate(case, {"bodies.lane.tilt.y": 0.2, "bodies.ball.velocity.x": 2.0}).states[0, 0, 10:13]
    true = np.cross((sin(0.2), 0.0, cos(0.2)), (2.0, 0.0, 0.0)) / 0.05
    return f"{np.round(w, 3).tolist()} rad/s", f"{np.round(true, 3).tolist()} rad/s"


def side_by_side() -> tuple[str, str]:
    """Three variants side by side."""
    found = api.variants(shot(), {"slow": {"bodies.ball.velocity.x": 0.5}, "fast": {"bodies.ball.velocity.x": 2.0}}, ["x"])
    return ", ".join(f"{v.value:.2f}" for v in found.outcomes["x"]) + " m", "0.60, 0.20, 0.80 m"


def more_takes() -> tuple[str, str]:
    """How many more rows halve an interval."""
    case, _ = TABLES["run-out"](np.random.default_rng(0))
    (found,) = api.how_much_more(case, api.fit(case))
    return f"{found.to_halve} more of {found.present}", "60: four times the rows, σ given"


QUESTIONS: tuple[Callable[[], tuple[str, str]], ...] = (
    heaviest, topples, sticks, contacts, which_matters, in_most_starts, in_order, nine_of_twelve, either_bin, farthest,
    speed_profile,
    tied_spin, side_by_side, more_takes)


def main() -> None:
    """Print every question with its answer and the truth."""
    for question in QUESTIONS:
        begun = perf_counter()
        answer, truth = question()
        print(f"{(question.__doc__ or '').strip()}\n    {answer}   |   truth: {truth}   ({perf_counter() - begun:.1f} s)",
              flush=True)


if __name__ == "__main__":
    main()
