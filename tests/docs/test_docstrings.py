"""Docstrings: of everything public they say what the signature says; of the stable surface everything, with an example that
runs."""

from __future__ import annotations

import ast
import doctest
import inspect
import re
import textwrap

import pytest
from tools import docstrings

import yapa
from yapa import api

SURFACE = sorted({*api.__all__, *(name for name in yapa.__all__ if hasattr(api, name)), "measure_motion"})


def thing(name):
    return getattr(api, name)


@pytest.mark.parametrize("path", docstrings.files(), ids=lambda p: p.relative_to(docstrings.ROOT).as_posix())
def test_docstrings_say_what_the_signature_says(path):
    assert docstrings.check(path) == []


@pytest.mark.parametrize("name", SURFACE)
def test_of_the_surface_every_section_is_there(name):
    found = docstrings.sections(inspect.getdoc(thing(name)))
    wanted = {"Notes", "Examples"}
    if inspect.isfunction(thing(name)):
        wanted |= {"Parameters", "Returns", "Raises"}
    else:
        wanted |= {"Parameters", "Raises"} if "Parameters" in found else {"Attributes"}
    assert wanted <= set(found)


@pytest.mark.parametrize("name", SURFACE)
def test_its_example_does_what_it_says(name, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("HOME", str(tmp_path))
    globs = {each: thing(each) for each in SURFACE}
    example = doctest.DocTestParser().get_doctest(inspect.getdoc(thing(name)), globs, name, None, None)
    assert example.examples
    said = []
    doctest.DocTestRunner(optionflags=doctest.ELLIPSIS).run(example, out=said.append)
    assert said == []


def function(text):
    return ast.parse(textwrap.dedent(text)).body[0]


@pytest.mark.parametrize(("text", "word"), [
    ('def f(a: int) -> None:\n    """Do it."""\n', "no word on a"),
    ('def f() -> int:\n    """The number."""\n    return 1\n', "no word on what it returns"),
    ('def f() -> None:\n    """Do it.\n\n    Parameters\n    ----------\n    b : gone\n    """\n', "no parameter b"),
    ('def f() -> None:\n    """Do it."""\n    raise bad_input("a", "b", "c")\n', "Raises does not name InputError"),
    ('def f() -> None:\n    """Do it."""\n    raise KeyError\n', "Raises does not name KeyError"),
])
def test_what_a_docstring_leaves_out_is_found(text, word):
    assert any(word in fault for fault in docstrings.faults(function(text)))


@pytest.mark.parametrize("text", [
    'def f(a: int) -> int:\n    """Return it.\n\n    Parameters\n    ----------\n    a : the number\n    """\n    return a\n',
    'def f() -> None:\n    """Do it."""\n    try:\n        raise KeyError\n    except KeyError:\n        pass\n',
    '@outcome("x", "m", "x")\ndef f(motion: Motion) -> OutcomeValue:\n    """Depth [m]."""\n',
])
def test_a_whole_docstring_has_no_fault(text):
    assert list(docstrings.faults(function(text))) == []


def test_every_section_of_a_docstring_is_told_apart():
    text = "Do it.\n\nParameters\n----------\na : b\n\nRaises\n------\nKeyError\n    If so.\n"
    assert re.sub(r"\s+", " ", str(docstrings.sections(text))) == (
        "{'summary': 'Do it.\\n\\n', 'Parameters': 'a : b\\n\\n', 'Raises': 'KeyError\\n If so.\\n'}")
