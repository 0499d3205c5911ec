"""Names that are imported when they are first used."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

import yapa
from yapa.lazily import importer

PACKAGES = sorted(f.parent for f in Path(yapa.__file__).parent.rglob("__init__.py") if "importer(__name__" in f.read_text())


@pytest.mark.parametrize("folder", PACKAGES, ids=lambda folder: folder.name)
def test_no_name_is_one_of_a_module_beside_it(folder):
    """Importing such a module would put it in the place of the name."""
    package = folder.relative_to(Path(yapa.__file__).parent.parent).as_posix().replace("/", ".")
    names = set(sys.modules.get(package, __import__(package, fromlist=["x"])).__all__)
    assert names
    assert not names & {p.stem for p in folder.iterdir() if p.suffix == ".py" or p.is_dir()}


def test_a_name_is_found_once_and_one_that_is_nowhere_is_no_attribute():
    sys.modules["a_package"] = type(sys)("a_package")
    try:
        find = importer("a_package", {"math": "pi tau root=sqrt"})
        assert (find("pi"), find("root")(4.0)) == (pytest.approx(3.14159, abs=1e-5), 2.0)
        assert sys.modules["a_package"].pi is find("pi")
        with pytest.raises(AttributeError, match="'e'"):
            find("e")
    finally:
        del sys.modules["a_package"]


def test_fitting_is_callable_whatever_was_imported_before():
    code = ("import yapa.fitting.explore.sweep, yapa.fitting.confidence.validation\n"
            "from yapa.api import fit\nprint(fit.__wrapped__.__module__)")
    ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert ran.stdout.strip() == "yapa.fitting.tracks.fit_case"
