"""The processes that compile the engine: what they remember, what they leave to each other."""

from __future__ import annotations

import os
import subprocess
import sys

import pytest

from yapa.engine.jit.build import PLAIN_ERRORS, SHARES, environment, no_code_of_parts, remember_call_types
from yapa.engine.jit.cache_key import KERNELS, cache_key
from yapa.engine.jit.object_cache import UNRESOLVED, Linker


class OutcomeQuery:
    """Stands for a function type of numba: adds its arguments, and cannot add texts."""

    def __init__(self) -> None:
        self.count = 0

    def get_call_type(self, context, args, kws):
        self.count += 1
        if any(isinstance(a, str) for a in args):
            raise TypeError("no such call")
        return sum(args) + sum(kws.values())


def test_an_answer_is_asked_for_once_and_is_that_of_numba():
    class Kind(OutcomeQuery):
        pass

    assert remember_call_types(Kind)
    one, other = Kind(), Kind()
    assert [one.get_call_type(None, (1, 2), {}) for _ in range(3)] == [3, 3, 3]
    assert one.get_call_type(None, (1, 2), {"k": 4}) == 7
    assert one.count == 2
    assert other.get_call_type(None, (1, 2), {}) == 3
    assert other.count == 1


def test_arguments_of_alike_types_are_asked_for_together():
    class Kind(OutcomeQuery):
        pass

    remember_call_types(Kind, lambda number: number // 10 * 10)
    kind = Kind()
    assert [kind.get_call_type(None, (a, 20), {}) for a in (10, 11, 12)] == [30, 30, 30]
    assert kind.count == 1


def test_what_does_not_fit_is_refused_each_time():
    class Kind(OutcomeQuery):
        pass

    remember_call_types(Kind)
    kind = Kind()
    for _ in range(2):
        with pytest.raises(TypeError):
            kind.get_call_type(None, ("a",), {})
    assert kind.count == 2


def test_a_numba_without_call_types_is_left_as_it_is():
    assert not remember_call_types(object)
    assert not remember_call_types(None)


def test_every_module_of_far_kernels_is_compiled_by_one_process():
    shared = [name for share in SHARES for name in share]
    far = {".".join(path.relative_to(KERNELS).with_suffix("").parts) for path in KERNELS.rglob("*.py")
           if "\n@far(" in path.read_text() or "\n@entry(" in path.read_text()}
    assert len(shared) == len(set(shared))
    assert set(shared) == far


def test_a_process_with_a_share_leaves_the_rest_to_others(tmp_path):
    links = Linker(tmp_path)
    assert not links.defer("yapa.engine.kernels.mine.one")
    links.partition = frozenset({"mine"})
    assert not links.defer("yapa.engine.kernels.mine.one")
    assert links.found == {}
    assert links.defer("yapa.engine.kernels.theirs.other")
    assert links.found == {"yapa.engine.kernels.theirs.other": (UNRESOLVED, UNRESOLVED)}


def test_its_environment_changes_no_key_of_the_cache(monkeypatch):
    before = cache_key()
    for key, value in PLAIN_ERRORS.items():
        monkeypatch.setenv(key, value)
        assert environment()[key] == value
    assert cache_key() == before
    monkeypatch.setenv("NUMBA_OPT", "1")
    assert cache_key() != before


_SHARE = """
import sys
from yapa.engine.jit.build import compile_modules
from yapa.engine.jit.object_cache import UNRESOLVED, linker
compile_modules(["summary.knots"])
import yapa.engine.kernels.entries
found = linker().found
print(found["yapa.engine.kernels.summary.knots.write_knots"][0] != UNRESOLVED,
      found["yapa.engine.kernels.regimes.run.run"][0] == UNRESOLVED)
print(sorted(path.name for path in linker().folder.glob("*.o")))
"""


def test_a_share_is_compiled_and_kept_without_the_rest(tmp_path):
    out = subprocess.run([sys.executable, "-c", _SHARE], capture_output=True, text=True, check=True,
                         env={**os.environ, "XDG_CACHE_HOME": str(tmp_path)}).stdout.splitlines()
    assert out == ["True True", "['yapa.engine.kernels.summary.knots.write_knots.o']"]


_PARTS = """
from numba import njit
from numba.core import codegen
from yapa.engine.jit.build import no_code_of_parts
print(no_code_of_parts(codegen.JITCodeLibrary, codegen.JITCPUCodegen))
part = njit(forceinline=True, no_cpython_wrapper=True)(lambda x: x * 3.0)
whole = njit("float64(float64)", no_cpython_wrapper=True)(lambda x: part(x) + 1.0)

def has_code(kernel):
    [made] = kernel.overloads.values()
    try:
        return len(made.library._get_compiled_object()) > 0
    except RuntimeError:
        return False

[made] = whole.overloads.values()
print(has_code(part), has_code(whole))
address = made.library.get_pointer_to_function(made.fndesc.llvm_cfunc_wrapper_name)
print(has_code(part), has_code(whole))
import ctypes
print(ctypes.CFUNCTYPE(ctypes.c_double, ctypes.c_double)(address)(2.0))
"""


def test_machine_code_is_made_of_what_is_called_by_its_address_alone():
    out = subprocess.run([sys.executable, "-c", _PARTS], capture_output=True, text=True, check=True).stdout.splitlines()
    assert out == ["True", "False False", "False True", "7.0"]


def test_a_numba_of_other_insides_makes_code_of_every_part():
    class Library:
        _finalize_specific = None

    assert not no_code_of_parts(Library, object)
    assert not no_code_of_parts(None, None)
    assert Library._finalize_specific is None
