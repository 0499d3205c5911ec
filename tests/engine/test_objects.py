"""The engine linked from object files: the same bits as numba's own, at once, without numba; and what happens when it cannot be."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path
from types import SimpleNamespace

import llvmlite.binding as llvm
import pytest

from yapa.engine.jit import object_cache as objects
from yapa.engine.jit import runtime as compiled
from yapa.engine.jit.cache_key import KERNELS
from yapa.engine.jit.object_cache import ORDER, Linker, linker, objects_folder
from yapa.engine.jit.runtime import ARGUMENTS, entries

RUN = """
import sys
from benchmarks.scenes import ball, floor, scene
from yapa.engine import simulate
{before}
b = ball(0.05, position=(0, 0, 0.8), velocity=(0.7, 0.2, 0), angular_velocity=(0, 5.0, 1.0), drag_coefficient=0.5)
motion = simulate(scene({{"b": b, "f": floor()}}, duration=1.6, restitution=0.6, friction=0.3))
print(motion.states.tobytes().hex()[:4000], len(motion.contacts), "numba" in sys.modules)
"""


def ran(before: str = "") -> list[str]:
    """What a new process says of a drop: its bits, its contacts, and whether numba was imported."""
    out = subprocess.run([sys.executable, "-c", RUN.format(before=before)], capture_output=True, text=True, check=True)
    return out.stdout.split()


def machine_code(name: str = "twice") -> bytes:
    """An object file with one function: n → 2 n."""
    entries()  # sets the compiler up
    module = llvm.parse_assembly(f"define i64 @{name}(i64 %n) {{\n  %m = mul i64 %n, 2\n  ret i64 %m\n}}")
    machine = llvm.Target.from_default_triple().create_target_machine(codemodel="jitdefault", jit=True)
    return machine.emit_object(module)


def test_the_linked_engine_runs_without_numba_and_gives_the_bits_of_numbas_own():
    assert (objects_folder() / ORDER).exists()  # set-up has made it
    linked = ran()
    assert linked[-1] == "False"
    never = "lambda self, *symbol: None"
    own = ran(f"from yapa.engine.jit.object_cache import Linker\nLinker.link_listed = {never}\nLinker.link = {never}")
    assert own[-1] == "True"
    assert linked[:-1] == own[:-1]


def test_what_is_listed_is_every_far_kernel():
    """A kernel that no entry leads to would be compiled and never linked."""
    listed = (objects_folder() / ORDER).read_text().split()
    sources = "".join(path.read_text() for path in KERNELS.rglob("*.py"))
    assert len(listed) == len(set(listed)) == sources.count("\n@far(") + sources.count("\n@entry(")
    for name in ARGUMENTS:
        assert any(symbol.endswith(f".{name}") for symbol in listed)


def test_a_kept_kernel_is_linked_and_called(tmp_path):
    one = Linker(tmp_path)
    library = SimpleNamespace(_get_compiled_object=machine_code)
    made = SimpleNamespace(library=library, fndesc=SimpleNamespace(llvm_func_name="twice"))
    one.store("tests.twice", made, "twice")
    two = Linker(tmp_path)
    assert two.link("tests.twice")
    assert two.function("tests.twice", 1)(21) == 42
    assert two.link("tests.twice") == two.found["tests.twice"][0]  # once is enough


def test_what_numba_does_not_give_is_not_kept(tmp_path):
    def refuses():
        raise RuntimeError("no compiled object yet")

    one = Linker(tmp_path)
    for library in (SimpleNamespace(), SimpleNamespace(_get_compiled_object=refuses)):
        one.store("tests.none", SimpleNamespace(library=library, fndesc=SimpleNamespace(llvm_func_name="none")), "")
    assert not list(tmp_path.glob("*.o"))
    assert one.link("tests.none") is None


@pytest.mark.parametrize("content", [b"", b"one\nline", b"no good digest\n", b"in out e3b0c4\nsome code"])
def test_a_file_that_is_not_whole_is_as_none(tmp_path, content):
    (tmp_path / "tests.broken.o").write_bytes(content)
    assert Linker(tmp_path).link("tests.broken") is None


def test_an_engine_is_listed_only_if_all_of_it_is_kept(tmp_path):
    one = Linker(tmp_path)
    one.found = {"tests.a": (1, 0), "tests.b": (2, 0)}
    (tmp_path / "tests.a.o").write_bytes(b"x")
    assert not one.write_manifest()
    assert not (tmp_path / ORDER).exists()
    assert not one.load_manifest()


def test_a_list_that_a_new_process_cannot_link_is_taken_back(tmp_path, monkeypatch):
    one = Linker(tmp_path)
    one.found = {"tests.a": (1, 0)}
    (tmp_path / "tests.a.o").write_bytes(b"x")
    tried = []
    monkeypatch.setattr(objects.subprocess, "run", lambda *a, **k: tried.append(a) or SimpleNamespace(returncode=-6))
    assert not one.write_manifest()
    assert tried
    assert not (tmp_path / ORDER).exists()
    monkeypatch.setattr(objects.subprocess, "run", lambda *a, **k: SimpleNamespace(returncode=0))
    assert one.write_manifest()
    assert (tmp_path / ORDER).read_text() == "tests.a"


def test_a_list_with_a_missing_kernel_is_not_linked(tmp_path):
    (tmp_path / ORDER).write_text("tests.gone")
    assert not Linker(tmp_path).load_manifest()


def test_a_disk_that_takes_nothing_costs_time_and_no_more(tmp_path, monkeypatch):
    def full(*_):
        raise OSError("no space left on device")

    one = Linker(tmp_path)
    library = SimpleNamespace(_get_compiled_object=machine_code)
    monkeypatch.setattr(objects.os, "replace", full)
    one.store("tests.twice", SimpleNamespace(library=library, fndesc=SimpleNamespace(llvm_func_name="twice")), "")
    assert one.link("tests.twice") is None
    assert not list(tmp_path.iterdir())  # nor is anything half written left


def test_kernels_of_other_folders_are_never_kept():
    """The cache's name is made of the engine's own sources: it would not change with theirs."""
    import tests.engine.test_far as others  # noqa: F401  (compiles a few)

    assert not [path for path in objects_folder().glob("*.o") if not path.name.startswith("yapa.engine.kernels.")]


def test_the_folder_is_of_this_processor(monkeypatch):
    mine = objects_folder()
    monkeypatch.setattr(llvm, "get_host_cpu_name", lambda: "another")
    assert objects_folder() != mine
    assert objects_folder().parent == mine.parent


def test_the_engine_is_loaded_once(monkeypatch):
    first = entries()
    monkeypatch.setattr(compiled, "_load", lambda: pytest.fail("loaded again"))
    assert entries() is first
    assert linker() is linker()
    assert Path(linker().folder).is_dir()
