"""The first run of a machine: the engine is compiled apart, said in words, and kept linked."""

from __future__ import annotations

import logging
import stat
from types import SimpleNamespace

import pytest

from yapa.engine.jit import cache_key as cache
from yapa.engine.jit import runtime as compiled
from yapa.errors import InputError


class NotYet:
    """A linker that finds an engine once it was compiled."""

    def __init__(self):
        self.compiled = False

    def load_manifest(self):
        return self.compiled

    def function(self, symbol, count):
        return (symbol, count)


def test_the_first_run_says_that_it_compiles_and_links_what_it_compiled(monkeypatch, caplog):
    linker, commands = NotYet(), []

    def run(command, **options):
        commands.append((command, options["env"]))
        linker.compiled = True
        return SimpleNamespace(returncode=0)

    monkeypatch.setattr(compiled, "linker", lambda: linker)
    monkeypatch.setattr(compiled.subprocess, "run", run)
    monkeypatch.delenv(compiled.WARMING, raising=False)
    with caplog.at_level(logging.WARNING):
        found = compiled._load()
    assert found.run_at == ("yapa.engine.kernels.entries.run_at", 3)
    assert "about a minute" in caplog.text
    [(command, env)] = commands
    assert command[-2:] == ["-m", "yapa.engine.jit.warmup"]
    assert env[compiled.WARMING] == "1"


def test_the_cache_is_ones_own_and_closed_to_others(tmp_path, monkeypatch):
    folder = tmp_path / "yapa" / "kernels" / "key"
    monkeypatch.setattr(cache, "cache_folder", lambda: folder)
    cache.private_cache()
    assert all(stat.S_IMODE(level.stat().st_mode) == 0o700 for level in (folder, folder.parent, folder.parent.parent))
    folder.chmod(0o755)
    cache.private_cache()
    assert stat.S_IMODE(folder.stat().st_mode) == 0o700
    folder.parent.chmod(0o730)
    with pytest.raises(InputError, match="others may write"):
        cache.private_cache()
    folder.parent.chmod(0o700)
    monkeypatch.setattr(cache.os, "geteuid", lambda: folder.stat().st_uid + 1)
    with pytest.raises(InputError, match="of user"):
        cache.private_cache()
