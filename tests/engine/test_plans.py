"""Values put into a compiled case do what the same numbers in the case itself do, to the last bit."""

from __future__ import annotations

import numpy as np
import pytest
from benchmarks.scenes import ball, crate_on_slope, floor, scene

from yapa.case import Body, Box, Capsule, Direction, NaturalRoll, Sphere, with_numbers
from yapa.case.parameters import numbers
from yapa.engine import simulate
from yapa.engine.compile.updates import update_plan_of
from yapa.engine.runner import Program


def thrown():
    orange = ball(0.04, mass=0.2, position=(0, 0, 0.5), velocity=(1.0, 0.2, 0.5), angular_velocity=(1.0, 8.0, 0.0),
                  drag_coefficient=0.4)
    return scene({"orange": orange, "plate": floor()}, duration=0.6, restitution=0.6, friction=0.2, rolling_resistance=0.01)


def rolled():
    lemon = ball(0.03, mass=0.1, position=(0, 0, 0.03), velocity=Direction(direction=(1.0, 0.0, 0.0), speed=0.8),
                 angular_velocity=NaturalRoll(rolling_on="plate"))
    return scene({"lemon": lemon, "plate": floor()}, duration=0.4, friction=0.3, rolling_resistance=0.02)


def two_parts():
    """A body whose centre of mass lies off its own origin, with a locked axis."""
    dumbbell = Body(shapes=(Sphere(kind="sphere", radius=0.05, position=(0.1, 0.0, 0.0), surface="both"),
                            Capsule(kind="capsule", radius=0.03, length=0.1, surface="both")),
                    mass=0.6, position=(0.0, 0.0, 0.4), velocity=(0.3, 0.1, 0.0), angular_velocity=(0.5, 2.0, 0.0),
                    locked_axes=("rotation_z", "y"))
    return scene({"dumbbell": dumbbell, "plate": floor()}, duration=0.3, restitution=0.3, friction=0.4)


CASES = {"thrown": thrown, "rolled": rolled, "crate": lambda: crate_on_slope(20, 0.5, 0.3, friction=0.3), "two parts": two_parts}


def other(value):
    """A number near another that is allowed wherever that was."""
    return value * 0.93 if value else 0.07


@pytest.mark.parametrize("name", CASES)
def test_every_number_of_a_case_may_be_a_value(name):
    case = CASES[name]()
    program = Program(case)
    times = np.linspace(0, case.duration, 40)
    for path, value in numbers(case).items():
        values = {path: other(value)}
        changed = with_numbers(case, values)
        one = program.run(values, times, case.duration)
        two = Program(changed).run(None, times, case.duration)
        assert np.array_equal(one.states, two.states), path
        assert one.gravity == two.gravity
        again = program.run(None, times, case.duration)
        assert np.array_equal(again.states, Program(case).run(None, times, case.duration).states), f"{path} left something behind"


def test_values_together_do_what_they_do_in_the_case():
    case = thrown()
    values = {"bodies.orange.velocity.x": 1.4, "bodies.orange.mass": 0.3, "surfaces.both.dynamic_friction": 0.1,
              "surfaces.both.friction": 0.25, "gravity": 9.0, "bodies.orange.position.z": 0.6,
              "bodies.orange.angular_velocity.y": -3.0}
    values = {path: v for path, v in values.items() if path in numbers(case)}
    times = np.linspace(0, case.duration, 40)
    assert len(values) >= 6
    one, two = Program(case).run(values, times, 0.6), Program(with_numbers(case, values)).run(None, times, 0.6)
    assert np.array_equal(one.states, two.states)


def test_a_component_of_a_launch_is_a_single_entry_and_a_size_is_not():
    program = Program(thrown())
    assert update_plan_of(program, ("bodies.orange.velocity.x", "bodies.orange.angular_velocity.y",
                                    "bodies.orange.position.z")).simple
    plan = update_plan_of(program, ("bodies.orange.radius", "bodies.orange.velocity.x"))
    assert plan.bodies == [0]
    assert plan.changes_geometry
    assert not plan.scalar_entries
    assert update_plan_of(program, ("surfaces.both.restitution",)).material_entries
    assert not update_plan_of(program, ("surfaces.both.restitution",)).bodies


def test_a_law_writes_no_more_than_what_changes():
    program = Program(thrown())
    assert len(program.materials.entries_affected_by(["surfaces.both.restitution"])) == 1
    both = program.materials.entries_affected_by(["surfaces.both.friction"])
    assert len(both) == 2  # static and dynamic: the one bounds the other


def test_the_motion_knows_the_gravity_that_it_ran_with():
    assert simulate(thrown(), {"gravity": 3.7}).gravity.tolist() == [0.0, 0.0, -3.7]


def test_a_posed_shape_keeps_its_program_apart_from_the_next_run():
    """A size as a value changes copies of the shapes only."""
    case = scene({"crate": Body(shapes=(Box(kind="box", size=(0.1, 0.1, 0.1), surface="both"),), mass=1.0,
                                position=(0, 0, 0.3)), "plate": floor()}, duration=0.4)
    program, times = Program(case), np.linspace(0, 0.4, 20)
    before = program.run(None, times, 0.4).states.copy()
    program.run({"bodies.crate.size.z": 0.05}, times, 0.4)
    assert np.array_equal(program.run(None, times, 0.4).states, before)
