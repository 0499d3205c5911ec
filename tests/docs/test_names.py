"""What the documents and docstrings call an attribute of a public class is one."""

from __future__ import annotations

import dataclasses
import re
from pathlib import Path

import pytest

from yapa.case import Case
from yapa.fitting.problem.result import FitResult
from yapa.motion import Motion

DOCS = Path(__file__).parents[2] / "docs"
CLASSES = {"Motion": Motion, "FitResult": FitResult, "Case": Case}


@pytest.mark.parametrize("page", sorted(DOCS.glob("*.md")), ids=lambda page: page.stem)
def test_an_attribute_that_a_page_names_exists(page):
    for name, attribute in re.findall(r"`(Motion|FitResult|Case)\.(\w+)", page.read_text()):
        kind = CLASSES[name]
        assert hasattr(kind, attribute) or attribute in getattr(kind, "model_fields", ()) or attribute in {
            f.name for f in (dataclasses.fields(kind) if dataclasses.is_dataclass(kind) else ())}, f"{name}.{attribute}"


@pytest.mark.parametrize("kind", [Motion, FitResult])
def test_the_attributes_of_a_docstring_are_fields(kind):
    listed = re.search(r"Attributes\n\s+-+\n(.*?)(\n\n|\Z)", kind.__doc__, re.DOTALL)
    named = {name.strip() for row in re.findall(r"^    (\S[^:]*?) :", listed[1], re.MULTILINE) for name in row.split(",")}
    assert named
    assert named <= {f.name for f in dataclasses.fields(kind)}
