"""What two surfaces make together, and that values over a case are the case with these values."""

import numpy as np
import pytest
from benchmarks.scenes import ball, floor, scene

from yapa.case import Body, Box, Pair, Pairing, Plane, Sphere, Surface, get_number, numbers, with_numbers
from yapa.case.model import Case
from yapa.case.profiles import OverlapCorrection, Precise, Sleep, Stepped
from yapa.engine.compile.pair_materials import PairMaterials
from yapa.engine.compile.solver_config import write_config
from yapa.engine.kernels import layout as L
from yapa.engine.runner import Program


def two(rule="mean", pairs=()):
    surfaces = {"rind": Surface(restitution=0.8, friction=0.9, dynamic_friction=0.5, rolling_resistance=0.02),
                "pad": Surface(restitution=0.2, friction=0.4)}
    orange = Sphere(kind="sphere", radius=0.05, surface="rind")
    bodies = {"orange": Body(shapes=(orange,), position=(0, 0, 0.4), velocity=(0.7, 0, 0)),
              "crate": Body(shapes=(Box(kind="box", size=(0.2, 0.2, 0.2), surface="pad"),), position=(0.6, 0, 0.1), mass=2.0),
              "plate": Body(motion="static", shapes=(Plane(kind="plane", surface="pad"),))}
    return Case(surfaces=surfaces, bodies=bodies, pairs=pairs, duration=0.8,
                pairing=Pairing(restitution=rule, friction=rule, rolling_resistance=rule))


@pytest.mark.parametrize(("rule", "restitution", "static", "dynamic", "rolling"), [
    ("mean", 0.5, 0.65, 0.45, 0.01), ("geometric mean", 0.4, 0.6, 0.2**0.5, 0.0), ("product", 0.16, 0.36, 0.2, 0.0),
    ("smaller", 0.2, 0.4, 0.4, 0.0), ("larger", 0.8, 0.9, 0.5, 0.02),
])
def test_a_pairing_rule_makes_one_number_of_two(rule, restitution, static, dynamic, rolling):
    law = Program(two(rule)).law_between("rind", "pad")
    assert law["restitution"] == pytest.approx(restitution)
    assert law["friction"] == pytest.approx(static)
    assert law["dynamic_friction"] == pytest.approx(dynamic)
    assert law["rolling_resistance"] == pytest.approx(rolling)
    assert law == Program(two(rule)).law_between("pad", "rind")


def test_a_named_pair_wins_quantity_by_quantity():
    law = Program(two(pairs=(Pair(surfaces=("pad", "rind"), friction=0.3),))).law_between("rind", "pad")
    assert law["friction"] == 0.3
    assert law["dynamic_friction"] == 0.3
    assert law["restitution"] == 0.5


def test_dynamic_friction_is_never_above_static():
    program = Program(two())
    assert program.law_with({"surfaces.rind.friction": 0.1, "surfaces.pad.friction": 0.1}, "rind", "pad")["dynamic_friction"] == 0.1


def test_only_the_numbers_that_a_path_enters_are_written_again():
    book = Program(two()).materials
    columns = {column for _, column, _ in book.entries_affected_by(["surfaces.rind.restitution"])}
    assert L.material.RESTITUTION in columns
    assert L.material.ROLLING not in columns
    pairs = {book.pairs[k] for k, _, _ in book.entries_affected_by(["surfaces.rind.restitution"])}
    assert pairs == {("rind", "rind"), ("rind", "pad"), ("pad", "rind")}


@pytest.mark.parametrize("path", list(numbers(two())))
def test_values_over_a_case_give_the_bits_of_the_case_with_these_values(path):
    case, times = two(), np.linspace(0, 0.8, 30)
    value = get_number(case, path) * 1.1 + (0.013 if "position" not in path else 0.003)
    over = Program(case).run({path: value}, times, 0.8)
    set_ = Program(with_numbers(case, {path: value})).run(None, times, 0.8)
    assert (over.states == set_.states).all()
    assert (over.contacts == set_.contacts).all()


def test_a_program_forgets_the_values_of_its_last_run():
    program, times = Program(two()), np.linspace(0, 0.8, 30)
    before = program.run(None, times, 0.8).states.copy()
    for path in numbers(two()):
        program.run({path: get_number(two(), path) * 1.05 + 0.01}, times, 0.8, keep=False)
    assert (program.run(None, times, 0.8).states == before).all()


def test_resting_bodies_stay_in_the_samples_of_lean_runs():
    case = scene({"b": ball(position=(0, 0, 0.3)), "f": floor(position=(0, 0, -0.1))}, duration=0.5)
    program, times = Program(case), np.linspace(0, 0.5, 20)
    for values in (None, {"bodies.f.position.z": -0.2}, None):
        want = -0.1 if values is None else -0.2
        assert (program.run(values, times, 0.5, keep=False).states[:, 1, 2] == want).all()


def test_a_profile_is_laid_out_as_the_kernels_read_it():
    cfg = np.zeros(L.config.COUNT)
    write_config(Stepped(step=1 / 50, substeps=4, integrator="Verlet", damping="power", damping_stage="before_forces",
                           contact_detection="after_move", collision="continuous", iterations=7, warm_start=False,
                           contact_distance=1e-3,
                           overlap_correction=OverlapCorrection(factor=0.4, allowed_overlap=0.002, max_speed=1.0),
                           restitution_threshold=0.3, restitution_threshold_mode="smooth",
                           sleep=Sleep(linear_speed=0.1, angular_speed=0.2, delay=0.5)), cfg)
    assert cfg[L.config.STEP] == cfg[L.config.OUTER] == 0.02
    assert [cfg[k] for k in (L.config.STEPPED, L.config.SUBSTEPS, L.config.INTEGRATOR, L.config.DAMPING)] == [
        1, 4, L.integrator.VERLET, L.damping_form.POWER]
    assert [cfg[k] for k in (L.config.DAMP_LATE, L.config.FIND_LATE, L.config.TIMED, L.config.ABRUPT, L.config.WARM)] == [0, 1, 1,
                                                                                                                          0, 0]
    assert [cfg[k] for k in (L.config.REPAIR, L.config.ALLOWED, L.config.REPAIR_SPEED)] == [0.4, 0.002, 1.0]
    assert cfg[L.config.REST_STEPS] == 100  # half a second of substeps of 5 ms
    precise = np.zeros(L.config.COUNT)
    write_config(Precise(step=0.01, soft_contact_substeps=12), precise)
    assert precise[L.config.STEPPED] == 0
    assert precise[L.config.SUBSTEPS] == 12


@pytest.mark.parametrize("rule", ["mean", "geometric mean", "product", "smaller", "larger"])
def test_rows_of_many_runs_are_those_of_each_to_the_bit(rule):
    """Numbers of two surfaces that meet by a rule, some the same in all runs."""
    case = two(rule)
    base = numbers(case)
    book, rng = PairMaterials(case, base), np.random.default_rng(3)
    paths = ["surfaces.rind.restitution", "surfaces.pad.friction", "surfaces.rind.dynamic_friction"]
    values = rng.uniform(0.05, 0.9, (7, 3))
    cells = book.entries_affected_by(paths)
    many = np.tile(book.rows, (7, 1, 1))
    book.write_batch(cells, {**base, **dict(zip(paths, values.T, strict=True))}, many)
    for row, got in zip(values.tolist(), many, strict=True):
        one = book.rows.copy()
        book.write(cells, {**base, **dict(zip(paths, row, strict=True))}, one)
        assert np.array_equal(one, got)
    assert (many[:, :, L.material.DYNAMIC] <= many[:, :, L.material.STATIC]).all()
