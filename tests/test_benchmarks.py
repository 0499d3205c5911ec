"""Every benchmark can be imported: its scenes and targets are still those of the present case format."""

from importlib import import_module
from pkgutil import walk_packages

import benchmarks
import pytest

NAMES = [module.name for module in walk_packages(benchmarks.__path__, "benchmarks.")]


@pytest.mark.parametrize("name", NAMES)
def test_a_benchmark_can_be_imported(name):
    assert import_module(name).__doc__


def test_those_that_are_documented_are_there():
    assert {"benchmarks.fit.asked", "benchmarks.questions", "benchmarks.tables", "benchmarks.apart.named"} <= set(NAMES)
