"""Makes the demo cases around the demo tracks. Their numbers are set up as guesses, not as the truth."""

from __future__ import annotations

from math import cos, radians, sin

from make_demo_tracks import DATA
from yapa.case import (
    Body,
    Box,
    Case,
    Cylinder,
    Direction,
    Hull,
    Keyframe,
    NaturalRoll,
    Pair,
    Plane,
    Sphere,
    Surface,
    Target,
    Track,
    Unknown,
)
from yapa.formats.case_json import write_case


def sphere(radius: float, surface: str, **body) -> Body:
    return Body(shapes=(Sphere(kind="sphere", radius=radius, surface=surface),), **body)


def plane(surface: str, **body) -> Body:
    return Body(motion="static", shapes=(Plane(kind="plane", surface=surface, normal=body.pop("normal", (0.0, 0.0, 1.0))),),
                **body)


def unknown(path: str, low: float, high: float, fixed: bool = False, transform: str = "linear") -> Unknown:
    return Unknown(path=path, low=low, high=high, fixed=fixed, transform=transform)


def track(name: str, body: str, angle: bool = False) -> Track:
    return Track(name=f"track of {body}", body=body, file=f"{name}.csv", sigma=0.001,
                 sigma_angle=0.02 if angle else None)


CASES = {
    "orange-drop": Case(
        title="Orange drop", duration=2.4, output_rate=240.0,
        notes="An orange dropped from the lane's end onto the padded plate, filmed at 120 frames a second.",
        surfaces={"rind": Surface(restitution=0.7, friction=0.4), "pad": Surface(restitution=0.7, friction=0.4)},
        pairs=(Pair(surfaces=("rind", "pad"), restitution=0.66, friction=0.4),),
        bodies={"orange": sphere(0.037, "rind", mass=0.182, position=(0.0, 0.0, 1.42), drag_coefficient=0.3),
                "padded plate": plane("pad")},
        tracks=(track("orange-drop", "orange"),),
        unknowns=(
            unknown("pairs.rind+pad.restitution", 0.3, 0.95), unknown("bodies.orange.drag_coefficient", 0.0, 1.2),
            unknown("bodies.orange.position.z", 1.3, 1.5), unknown("bodies.orange.velocity.z", -1.0, 1.0),
            unknown("pairs.rind+pad.friction", 0.0, 1.0, fixed=True),
            unknown("bodies.orange.mass", 0.05, 0.5, fixed=True, transform="log"),
        ),
    ),
    "orange-throw": Case(
        title="Orange throw with backspin", duration=1.9, output_rate=240.0,
        notes="Thrown with backspin onto a rubber mat. The first contacts slide, later ones grip, so friction can be told.",
        surfaces={"rind": Surface(), "rubber": Surface()},
        pairs=(Pair(surfaces=("rind", "rubber"), restitution=0.7, friction=0.35),),
        bodies={"orange": sphere(0.0365, "rind", mass=0.176, position=(0.0, 0.0, 0.95), velocity=(2.0, 0.0, 0.8),
                                 angular_velocity=(0.0, -80.0, 0.0), drag_coefficient=0.4),
                "rubber mat": plane("rubber")},
        tracks=(track("orange-throw", "orange", True),),
        unknowns=(
            unknown("pairs.rind+rubber.restitution", 0.3, 0.95), unknown("pairs.rind+rubber.friction", 0.0, 1.0),
            unknown("bodies.orange.drag_coefficient", 0.0, 1.2), unknown("bodies.orange.velocity.x", 0.0, 5.0),
            unknown("bodies.orange.velocity.z", -2.0, 3.0), unknown("bodies.orange.angular_velocity.y", -200.0, 50.0),
            unknown("bodies.orange.position.x", -0.1, 0.1), unknown("bodies.orange.position.z", 0.85, 1.05),
        ),
    ),
    "crate-chute": Case(
        title="Crate on the chute", duration=1.8, output_rate=240.0,
        notes="A crate pushed up the steel chute; it slows, turns and slides back.",
        surfaces={"wood": Surface(), "steel": Surface()},
        pairs=(Pair(surfaces=("wood", "steel"), restitution=0.2, friction=0.25),),
        bodies={
            "crate": Body(
                shapes=(Box(kind="box", size=(0.4, 0.3, 0.2), surface="wood"),), mass=3.2,
                orientation=(cos(radians(19.5) / 2), 0.0, -sin(radians(19.5) / 2), 0.0),
                velocity=Direction(direction=(cos(radians(19.5)), 0.0, sin(radians(19.5))), speed=2.0)),
            "chute": plane("steel", normal=(-sin(radians(19.5)), 0.0, cos(radians(19.5))), placed_under="crate"),
        },
        tracks=(track("crate-chute", "crate"),),
        unknowns=(
            unknown("pairs.wood+steel.friction", 0.0, 0.6), unknown("bodies.crate.speed", 0.5, 4.0),
            unknown("bodies.crate.position.x", -0.1, 0.1), unknown("bodies.crate.position.z", -0.1, 0.1),
            unknown("bodies.crate.mass", 0.5, 20.0, fixed=True, transform="log"),
        ),
    ),
    "grapefruit-lane": Case(
        title="Grapefruit on the lane", duration=10.0, output_rate=120.0,
        notes="Launched along the grading lane without spin: it slides, rolls, and comes to rest.",
        surfaces={"peel": Surface(), "lane felt": Surface()},
        pairs=(Pair(surfaces=("peel", "lane felt"), restitution=0.3, friction=0.35, rolling_resistance=0.03),),
        bodies={"grapefruit": sphere(0.058, "peel", mass=0.41, position=(0.0, 0.0, 0.058), velocity=(1.5, 0.0, 0.0)),
                "lane": plane("lane felt")},
        tracks=(track("grapefruit-lane", "grapefruit", True),),
        unknowns=(
            unknown("pairs.peel+lane felt.friction", 0.0, 1.0), unknown("pairs.peel+lane felt.rolling_resistance", 0.0, 0.1),
            unknown("bodies.grapefruit.velocity.x", 0.5, 3.0), unknown("bodies.grapefruit.position.x", -0.1, 0.1),
            unknown("bodies.grapefruit.angular_velocity.y", -20.0, 20.0, fixed=True),
        ),
    ),
    "lemons-nudge": Case(
        title="Two lemons in the queue", duration=1.5, output_rate=240.0,
        notes="A rolling lemon nudges one at rest; both slip on the belt, then roll. Nothing rubs between them.",
        surfaces={"lemon peel": Surface(), "belt": Surface()},
        pairs=(Pair(surfaces=("lemon peel", "lemon peel"), restitution=0.6, friction=0.0),
               Pair(surfaces=("lemon peel", "belt"), restitution=0.3, friction=0.25)),
        bodies={
            "lemon a": sphere(0.034, "lemon peel", mass=0.125, position=(0.0, 0.0, 0.034), velocity=(1.0, 0.0, 0.0),
                              angular_velocity=NaturalRoll(rolling_on="queue belt")),
            "lemon b": sphere(0.034, "lemon peel", mass=0.125, position=(0.418, 0.0, 0.034)),
            "queue belt": plane("belt"),
        },
        tracks=(track("lemon-a", "lemon a"), track("lemon-b", "lemon b")),
        unknowns=(
            unknown("pairs.lemon peel+lemon peel.restitution", 0.0, 1.0), unknown("pairs.lemon peel+belt.friction", 0.0, 0.6),
            unknown("bodies.lemon a.mass", 0.03, 0.5, transform="log"), unknown("bodies.lemon a.velocity.x", 0.3, 3.0),
            unknown("bodies.lemon a.position.x", -0.05, 0.05), unknown("bodies.lemon b.position.x", 0.37, 0.47),
        ),
    ),
    "orange-wanted": Case(
        title="The bounce we want", duration=2.4, output_rate=240.0,
        notes="No recording: only what should happen. A softer plate and a gentler push, as near to the present as can be.",
        surfaces={"rind": Surface(), "pad": Surface()},
        pairs=(Pair(surfaces=("rind", "pad"), restitution=0.8, friction=0.4),),
        bodies={"orange": sphere(0.037, "rind", mass=0.182, position=(0.0, 0.0, 1.037), velocity=(0.6, 0.0, 0.0),
                                 drag_coefficient=0.47),
                "padded plate": plane("pad")},
        targets=(Target(outcome="apex", index=2, value=0.24, tolerance=0.01),
                 Target(outcome="landing", index=3, value=1.05, tolerance=0.02)),
        unknowns=(
            unknown("pairs.rind+pad.restitution", 0.3, 0.95), unknown("bodies.orange.velocity.x", 0.0, 2.0),
            unknown("pairs.rind+pad.friction", 0.0, 1.0), unknown("bodies.orange.position.z", 0.5, 1.5, fixed=True),
        ),
    ),
    "sweeper-bar": Case(
        title="The sweeper bar", duration=1.6, output_rate=240.0,
        notes="A driven bar sweeps a crate, a can and a cut lemon off its lane. How rough must the board be for the "
              "crate to stop where it should?",
        surfaces={"wood": Surface(), "board": Surface(friction=0.3, rolling_resistance=0.01), "steel": Surface(friction=0.1),
                  "tin": Surface(friction=0.3, rolling_resistance=0.01), "peel": Surface(friction=0.5)},
        pairs=(Pair(surfaces=("wood", "board"), restitution=0.1, friction=0.45),
               Pair(surfaces=("steel", "wood"), restitution=0.05, friction=0.1)),
        bodies={
            "bar": Body(motion="kinematic",
                        shapes=(Box(kind="box", size=(0.04, 0.56, 0.08), surface="steel"),),
                        keyframes=(Keyframe(time=0.0, position=(-0.2, 0.0, 0.045)),
                                   Keyframe(time=0.3, position=(0.1, 0.0, 0.045)))),
            "crate": Body(shapes=(Box(kind="box", size=(0.14, 0.14, 0.1), surface="wood"),), mass=0.9, position=(0.0, -0.18, 0.05)),
            "can": Body(shapes=(Cylinder(kind="cylinder", radius=0.033, length=0.12, surface="tin",
                                         orientation=(cos(radians(45)), sin(radians(45)), 0.0, 0.0)),), mass=0.35,
                        position=(-0.02, 0.02, 0.033)),
            "cut lemon": Body(shapes=(Hull(kind="hull", surface="peel", points=tuple(
                (round(r * cos(radians(a)), 4), round(r * sin(radians(a)), 4), z)
                for r, z, n in ((0.034, 0.0, 10), (0.028, 0.018, 8), (0.012, 0.031, 6)) for a in range(0, 360, 360 // n))),),
                mass=0.06, position=(-0.02, 0.2, 0.0)),
            "sorting board": plane("board"),
        },
        targets=(Target(outcome="travel", body="crate", value=0.4, tolerance=0.01),),
        unknowns=(unknown("pairs.wood+board.friction", 0.05, 1.0), unknown("bodies.crate.position.x", -0.05, 0.1, fixed=True)),
    ),
}


def main() -> None:
    for name, case in CASES.items():
        write_case(case, DATA / f"{name}.yapa")


if __name__ == "__main__":
    main()
