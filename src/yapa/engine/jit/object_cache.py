"""Compiled kernels as object files beside numba's own cache, linked when the engine is loaded.

numba keeps with every kernel the code that others could inline, and reads it again at each start; with its own import that is
two seconds. A far kernel is only ever called by its address, so its machine code is enough: once all are compiled, they are linked
in fifty milliseconds, and numba is not imported at all.

The machine code of a kernel is taken from a private part of numba. Where a release has it no more, nothing is kept, and every
kernel is loaded by numba itself.
"""

from __future__ import annotations

import ctypes
import hashlib
import os
import subprocess
import sys
import tempfile
from collections.abc import Callable
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import Any

import llvmlite.binding as llvm

from yapa.engine.jit.cache_key import cache_folder

ORDER = "order"
"""File that names the symbols of a whole engine, callees before callers."""
UNRESOLVED = 1
"""The address of what is never called."""
HELPERS = ("numba_adapt_ndarray", "numba_unpickle", "numba_runtime_build_excinfo_struct", "numba_do_raise", "numba_gil_ensure",
           "numba_gil_release")
"""What only the wrappers call through which numba would call a kernel from Python."""


def objects_folder() -> Path:
    """Return where the object files for the present sources and this processor are."""
    processor = f"{llvm.get_host_cpu_name()} {llvm.get_host_cpu_features().flatten()}"
    return cache_folder() / f"objects-{hashlib.sha256(processor.encode()).hexdigest()[:12]}"


KERNEL_MODULES = "yapa.engine.kernels."


class Linker:
    """Links object files into this process and knows where their functions are."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.found: dict[str, tuple[int, int]] = {}
        """By symbol: the addresses at which kernels call it, and at which Python does (0 where it does not)."""
        self.partition: frozenset[str] | None = None
        """Modules whose kernels this process compiles, or None for all: see :meth:`leave`."""
        self._engine: Any = None

    def link(self, symbol: str) -> int | None:
        """Link the kernel of this symbol; its address, or None where no object file of it is kept.

        Parameters
        ----------
        symbol : symbol of the unit

        Returns
        -------
        The address; None where no object file of it is kept.
        """
        if symbol in self.found:
            return self.found[symbol][0]
        try:
            names, code = (self.folder / f"{symbol}.o").read_bytes().split(b"\n", 1)
            inner, outer, digest = names.decode().split(" ")
        except (OSError, ValueError):
            return None
        if digest != hashlib.sha256(code).hexdigest():  # what is not whole would end the process
            return None
        engine = self._engine = self._engine or _engine()
        engine.add_object_file(llvm.ObjectFileRef.from_data(code))
        engine.finalize_object()
        at = engine.get_function_address(inner)
        if not at:
            return None
        self.register(symbol, at, engine.get_function_address(outer) if outer else 0)
        return int(at)

    def defer(self, symbol: str) -> bool:
        """Leave a kernel to another process, if it is not of this one's share: known by its symbol alone, and never called.

        Parameters
        ----------
        symbol : symbol of the unit

        Returns
        -------
        Whether another process compiles it.
        """
        if self.partition is None or symbol.removeprefix(KERNEL_MODULES).rsplit(".", 1)[0] in self.partition:
            return False
        self.register(symbol, UNRESOLVED, UNRESOLVED)
        return True

    def register(self, symbol: str, inner: int, outer: int) -> None:
        """Make a kernel known to those that will be linked, or compiled, after it.

        Parameters
        ----------
        symbol : symbol of the unit
        inner : address of the kernel
        outer : address of its wrapper for Python
        """
        self.found[symbol] = inner, outer
        llvm.add_symbol(symbol, inner)

    def store(self, symbol: str, made: Any, outer: str) -> None:
        """Keep the machine code of a kernel that numba has just compiled, if numba gives it.

        Parameters
        ----------
        symbol : symbol of the unit
        made : what the compiler made of it
        outer : name of its wrapper for Python
        """
        try:
            code = made.library._get_compiled_object()
        except (AttributeError, RuntimeError):  # not there, or loaded from numba's cache and so given away
            return
        names = f"{made.fndesc.llvm_func_name} {outer} {hashlib.sha256(code).hexdigest()}\n"
        self._write(f"{symbol}.o", names.encode() + code)

    def load_manifest(self) -> bool:
        """Link a whole engine; False where one was never kept.

        Returns
        -------
        Whether one was kept.
        """
        try:
            symbols = (self.folder / ORDER).read_text().split()
        except OSError:
            return False
        return all(self.link(symbol) is not None for symbol in symbols)

    def write_manifest(self) -> bool:
        """Say that what is known now is a whole engine. False if not all of it is kept, or if a new process cannot link it: a
        helper that a kernel wants and no process has ends the process, so this is tried in one of its own.

        Returns
        -------
        Whether it was listed.
        """
        if not all((self.folder / f"{symbol}.o").exists() for symbol in self.found):
            return False
        self._write(ORDER, "\n".join(self.found).encode())
        load = "from yapa.engine.jit.runtime import entries; entries()"
        tried = subprocess.run([sys.executable, "-c", load], capture_output=True)
        if tried.returncode != 0:
            (self.folder / ORDER).unlink(missing_ok=True)
        return tried.returncode == 0

    def function(self, symbol: str, arguments: int) -> Callable[..., int]:
        """Return a kernel that takes and gives whole numbers, for Python; other threads go on while it runs.

        Parameters
        ----------
        symbol : symbol of the unit
        arguments : how many whole numbers it takes
        """
        whole = ctypes.c_int64
        return ctypes.CFUNCTYPE(whole, *[whole] * arguments)(self.found[symbol][1])

    def _write(self, name: str, content: bytes) -> None:
        """Whole or not at all; a disk that takes nothing costs the next process its time, no more."""
        with suppress(OSError):
            self.folder.mkdir(parents=True, exist_ok=True)
            handle, temporary = tempfile.mkstemp(dir=self.folder)
            try:
                with os.fdopen(handle, "wb") as file:
                    file.write(content)
                os.replace(temporary, self.folder / name)
            except OSError:
                os.unlink(temporary)
                raise


def _engine() -> Any:
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    machine = llvm.Target.from_default_triple().create_target_machine(codemodel="jitdefault", jit=True)
    never = "\n".join(f"define void @yapa_no_{name}() {{ unreachable }}" for name in HELPERS)
    engine = llvm.create_mcjit_compiler(llvm.parse_assembly(never), machine)
    engine.finalize_object()
    for name in HELPERS:  # numba's own, if it is there or comes later, win
        if not llvm.address_of_symbol(name):
            llvm.add_symbol(name, engine.get_function_address(f"yapa_no_{name}"))
    return engine


@cache
def linker() -> Linker:
    """Return the linker of this process."""
    return Linker(objects_folder())
