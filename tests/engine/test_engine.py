"""The engine as a program: smooth, repeatable, cancellable, and honest about what it cannot do."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from benchmarks.scenes import G, ball, crate_on_slope, floor, scene
from hypothesis import example, given, settings
from hypothesis import strategies as st

from yapa.case import Pair, Surface
from yapa.engine import program_for, simulate
from yapa.engine.jit.cache_key import KERNELS, cache_key
from yapa.engine.kernels import jit
from yapa.engine.runner import Program
from yapa.engine.simulate import motion_of, sample_times


def throw(**values):
    b = ball(0.04, mass=0.15, position=(0, 0, 0.9), velocity=(1.8, 0, 1.0), angular_velocity=(0, -60.0, 0), drag_coefficient=0.5)
    return scene({"b": b, "f": floor()}, duration=1.6, **{"restitution": 0.65, "friction": 0.2, **values})


def test_the_same_case_gives_the_same_bits_in_any_thread():
    case = throw()
    program = program_for(case)
    times = np.linspace(0, 1.6, 200)
    runs = [{"surfaces.both.restitution": 0.5 + 0.01 * k} for k in range(24)]
    alone = [program.run(v, times, 1.6).states for v in runs]
    with ThreadPoolExecutor(2) as pool:
        together = list(pool.map(lambda v: program.run(v, times, 1.6).states, runs))
    assert all((a == b).all() for a, b in zip(alone, together, strict=True))


@pytest.mark.parametrize("count", [1, 7, 300])
@pytest.mark.parametrize("damping", [0.0, 0.8])
def test_a_run_that_keeps_nothing_samples_the_same_motion(count, damping):
    """What a fit reads is written another way than what is kept: all but the orientation of a sphere has the same bits."""
    bodies = {f"b{k}": ball(0.03, mass=0.1, position=(0.2 * k, 0.1, 0.3 + 0.2 * k), velocity=(1.0, 0.3 * k, 0.5),
                            angular_velocity=(3.0, -20.0, 5.0 * k), drag_coefficient=0.4 * k,
                            angular_damping=damping) for k in range(3)}
    program = program_for(scene(bodies | {"f": floor()}, duration=1.0, restitution=0.5))
    times = np.sort(np.random.default_rng(count).uniform(0, 1, count))
    kept = program.run(None, times, 1.0).states
    lean = program.run(None, times, 1.0, keep=False).states
    told = [*range(3), *range(7, 16)]
    assert lean.shape == kept.shape
    assert (lean[:, :3, told] == kept[:, :3, told]).all()
    assert (lean[:, 3] == kept[:, 3]).all()  # the floor


def test_an_outcome_is_smooth_in_restitution_and_friction():
    case = throw()
    for path, centre in (("surfaces.both.restitution", 0.65), ("surfaces.both.friction", 0.2)):
        x = centre + 1e-3 * np.linspace(-1, 1, 41)
        y = [simulate(case, {path: float(v)}, times=np.array([0.0, 1.2])).states[-1, 0, 0] for v in x]
        cubic = np.polynomial.Polynomial.fit(x, y, 3)
        assert np.abs(cubic(x) - y).max() < 1e-9


def test_finite_differences_agree_over_three_decades():
    case = throw()

    def place(e):
        return simulate(case, {"surfaces.both.restitution": e}, times=np.array([0.0, 1.2])).states[-1, 0, 2]

    slopes = [(place(0.65 * (1 + d)) - place(0.65 * (1 - d))) / (1.3 * d) for d in (1e-6, 1e-5, 1e-4)]
    assert max(slopes) - min(slopes) < 1e-4 * abs(slopes[1])


def test_a_run_can_be_cancelled_and_keeps_what_it_has():
    flag = np.ones(1, np.int64)
    motion = simulate(throw(), cancel=flag)
    assert motion.status.startswith("cancelled")
    assert len(motion.times) < 10


def test_samples_do_not_change_the_motion():
    case = throw()
    few = simulate(case, times=np.array([0.0, 1.6])).states[-1]
    many = simulate(case, times=np.linspace(0, 1.6, 1000)).states[-1]
    assert (few == many).all()


def test_pair_values_win_over_the_pairing_rule():
    case = throw()
    named = case.model_copy(update={"pairs": (Pair(surfaces=("both", "both"), restitution=0.3),)})
    assert simulate(named).contacts[0].rebound == pytest.approx(0.3 * simulate(named).contacts[0].approach)
    two = case.model_copy(update={"surfaces": {"both": Surface(restitution=0.9)}})
    assert simulate(two).contacts[0].rebound == pytest.approx(0.9 * simulate(two).contacts[0].approach)


def test_a_body_starting_inside_its_support_is_parted_and_told():
    motion = simulate(scene({"b": ball(0.05, position=(0, 0, 0.04)), "f": floor()}, duration=0.5))
    assert motion.initial_overlap == pytest.approx(0.01)
    assert motion.states[-1, 0, 2] == pytest.approx(0.05, abs=1e-9)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(0.0, 1.0), st.floats(0.0, 1.5), st.floats(0.0, 0.1), st.floats(-6, 6), st.floats(-3, 5), st.floats(-150, 150),
    st.floats(0.002, 0.3), st.floats(0.0, 1.5),
)
@example(0.0, 0.015625, 0.015625, 0.03125, 0.0, 0.0, 0.25, 0.0)  # its slip turns by more than a right angle near zero
def test_any_throw_is_finite_makes_no_energy_and_stays_above_the_floor(e, mu, crr, vx, vz, spin, r, cd):
    b = ball(r, mass=0.2, position=(0, 0, 1 + r), velocity=(vx, 0.3, vz), angular_velocity=(5.0, spin, 2.0), drag_coefficient=cd)
    motion = simulate(scene({"b": b, "f": floor()}, duration=2.0, restitution=e, friction=mu, rolling_resistance=crr))
    s = motion.states[:, 0]
    assert motion.status == "complete"
    assert np.isfinite(s).all()
    assert s[:, 2].min() > r - 1e-9
    inertia = 0.4 * 0.2 * r * r
    energy = 0.1 * (s[:, 7:10] ** 2).sum(1) + 0.5 * inertia * (s[:, 10:13] ** 2).sum(1) + 0.2 * G * s[:, 2]
    assert np.diff(energy).max() < 1e-9 * energy.max()


@settings(max_examples=25, deadline=None)
@given(st.floats(-40, 40), st.floats(0, 1.2), st.floats(0, 0.8), st.floats(-3, 3), st.floats(-2, 2))
@example(1e-6, 0.0, 0.0, 0.0, 0.0)  # as askew as an orientation can be without its w telling
@example(1e-6, 1.0, 1e-6, 0.0, -1.7476684392388009)  # a corner comes down with hardly any slip, which turns at once
def test_any_crate_on_a_slope_is_finite_and_never_sinks_in(angle, mu, e, speed, spin):
    case = crate_on_slope(angle, speed, 1.0, friction=mu, restitution=e)
    crate = case.bodies["crate"].model_copy(update={"angular_velocity": (spin, spin, 0.5 * spin)})
    case = case.model_copy(update={"bodies": {**case.bodies, "crate": crate}})
    motion = simulate(case)
    assert motion.status == "complete"
    s = motion.states[:, 0]
    assert np.isfinite(s).all()
    assert _lowest_corner(case, s) > -1e-6


def _lowest_corner(case, s):
    half = np.array(case.bodies["crate"].shapes[0].size) / 2
    plane = case.bodies["chute"].shapes[0].normal
    signs = np.array([[a, b, c] for a in (-1, 1) for b in (-1, 1) for c in (-1, 1)]) * half
    w, u = s[:, 3], s[:, 4:7]
    turned = np.array([v + 2 * np.cross(u, np.cross(u, v) + w[:, None] * v) for v in signs]) + s[None, :, :3]
    heights = turned @ np.array(plane)
    return (heights - heights[:, 0].min()).min()


def test_the_cache_key_changes_with_any_kernel_file(tmp_path):
    copy = tmp_path / "kernels"
    shutil.copytree(KERNELS, copy)
    before = cache_key(copy)
    assert before == cache_key(KERNELS)
    changed = copy / "geometry/narrow_phase.py"
    changed.write_text(changed.read_text() + "\n# changed\n")
    assert cache_key(copy) != before


_STALE = """
import sys
sys.path.insert(0, sys.argv[1])
import os
os.environ["NUMBA_CACHE_DIR"] = sys.argv[2]
import numba
import caller
print(caller.outer(1.0))
"""


def test_an_edited_callee_is_never_served_stale(tmp_path):
    """What numba alone would miss: the caller's file is untouched, its callee's changes."""
    (tmp_path / "caller.py").write_text(
        "import numba\nfrom callee import inner\n@numba.njit(cache=True)\ndef outer(x):\n    return inner(x)\n")

    def answer(value):
        (tmp_path / "callee.py").write_text(f"import numba\n@numba.njit(cache=True)\ndef inner(x):\n    return x + {value}\n")
        folder = tmp_path / "cache" / cache_key(tmp_path)
        env = {k: v for k, v in os.environ.items() if k != "NUMBA_CACHE_DIR"}
        out = subprocess.run([sys.executable, "-B", "-c", _STALE, str(tmp_path), str(folder)], capture_output=True,
                             text=True, check=True, env=env)
        return float(out.stdout)

    assert answer(1) == 2.0
    assert answer(1) == 2.0
    assert answer(41) == 42.0


def test_kernels_run_without_reference_counts_here():
    assert jit.without_reference_counts


def test_an_unknown_option_falls_back_with_a_warning():
    def refusing(*args, **options):
        if "_nrt" in options:
            raise KeyError("_nrt")
        return lambda f: f

    with pytest.warns(RuntimeWarning, match="_nrt"):
        decorator, off = jit.make_decorator(refusing)
    assert not off
    assert decorator(len) is len


def test_how_much_is_compiled_is_counted_and_old_caches_are_forgotten(tmp_path, monkeypatch):
    from yapa.engine.jit import cache_key as cache

    mine = tmp_path / "kernels" / "now"
    (mine / "sub").mkdir(parents=True)
    monkeypatch.setattr(cache, "cache_folder", lambda: mine)
    assert cache.compiled_share() == 0.0
    (mine / "sub" / "yapa.engine.kernels.contact.contact_solver.no_such_kernel.o").touch()
    assert cache.compiled_share() == 0.0
    (mine / "sub" / "yapa.engine.kernels.contact.contact_solver.solve_law.o").touch()
    assert 0.0 < cache.compiled_share() < 0.1
    for k in range(5):
        (tmp_path / "kernels" / f"old{k}").mkdir()
        os.utime(tmp_path / "kernels" / f"old{k}", (1000 + k, 1000 + k))
    cache.forget_old_caches(keep=2)
    assert sorted(f.name for f in (tmp_path / "kernels").iterdir()) == ["now", "old3", "old4"]


@pytest.mark.parametrize(("column", "value"), [(0, np.nan), (8, np.nan), (11, np.nan), (13, np.nan), (15, np.nan), (15, np.inf)])
def test_a_motion_that_holds_what_is_no_number_is_never_complete(column, value):
    """Places are looked at in every step; a turn that is no number would change no place, and is found at the end."""
    case = scene({"b": ball(0.04, position=(0, 0, 0.9)), "f": floor()}, duration=0.3)
    program = Program(case)
    program.state[0, column] = value
    motion = motion_of(program, program.run(None, sample_times(0.3, 240.0), 0.3))
    assert motion.status.startswith("a place or a speed (above 1e9 m/s) went out of all bounds, with b")
    assert simulate(case).status == "complete"
