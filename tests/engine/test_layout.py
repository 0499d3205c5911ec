"""The tables that host and kernels share: declared once, generated, and never read by a bare number."""

import ast
import re
from pathlib import Path

import numpy as np
import pytest
from tools.layout import files

from yapa.engine.kernels import layout
from yapa.engine.layout.declare import Table, number, record, vector
from yapa.engine.layout.enumerations import CHOICES, LISTS
from yapa.engine.layout.schema import CONTACT_LOG, HEAD, HIT, HIT_STATE, TABLES
from yapa.motion.batch_summary import HIT as TOLD_HIT
from yapa.motion.batch_summary import RUN

KERNELS = Path(layout.__file__).parents[1]
SOURCES = [path for path in sorted(KERNELS.rglob("*.py"))
           if path.parent.name != "layout" and path.name not in {"simd.py", "vectors.py"}]
TABLES_CALLED = {table.called: table for table in TABLES if table.called}
ROWS = {name for name in TABLES_CALLED if name.islower()} | {"law", "row", "into", "job", "call", "scene"}
"""One row of a table; any other name in small letters is a vector or a quaternion, whose places are numbers."""
BY_COLUMN = {"vector", "put", "add", "quaternion", "put_quaternion"}
"""Helpers whose third argument is a column."""
LISTS_OF_NUMBERS = {"times", "cancel", "BL", "MAX_CORNERS"}


def test_generated_files_are_current():
    assert [path.name for path, text in files().items() if path.read_text() != text] == []


@pytest.mark.parametrize("table", TABLES, ids=lambda table: table.name)
def test_columns_of_a_table_are_disjoint_and_cover_its_rows(table):
    places = table.places()
    taken = [k for c in table.columns for k in range(places[c.name], places[c.name] + c.size)]
    assert taken == list(range(table.count))
    parts = [part for c in table.columns for part in c.parts]
    assert len({*parts, *(c.name for c in table.columns)}) == len(parts) + len(table.columns)
    assert table.dtype().itemsize == 8 * table.count
    made = getattr(layout, table.name)
    assert {name: getattr(made, name) for name in places} == places
    assert table.count == made.COUNT


@pytest.mark.parametrize("choice", [*LISTS, *CHOICES], ids=lambda choice: choice.name)
def test_names_of_an_enumeration_stand_for_different_numbers(choice):
    assert len({value for _, value in choice.values}) == len(choice.values)


def test_rows_are_read_by_name():
    inner = Table("inner", "", (number("A", ""), vector("B", "")))
    outer = Table("outer", "", (vector("P", "", parts="X Y Z"), record("IN", "", inner)))
    rows = np.arange(14.0).reshape(2, 7)
    assert outer.records(rows)["in"]["b"].tolist() == [[4, 5, 6], [11, 12, 13]]
    assert outer.places() == {"P": 0, "X": 0, "Y": 1, "Z": 2, "IN": 3}
    assert outer.records(rows[:0]).shape == (0,)
    assert CONTACT_LOG.at("STATE_B") - CONTACT_LOG.at("STATE_A") == HIT_STATE.count


def test_what_is_told_of_many_runs_has_the_columns_of_the_tables():
    assert TOLD_HIT.itemsize == 8 * HIT.count
    assert RUN.itemsize == 8 * HEAD.count
    assert [TOLD_HIT.fields[name][1] for name in TOLD_HIT.names] == [8 * HIT.at(c.name) for c in HIT.columns]


def leftmost(node):
    while isinstance(node, ast.BinOp):
        node = node.left
    return node


def rows_of(tree):
    """Names that stand for one row of a table: those known, and what is assigned from a table with one index less."""
    assigned = {target.id for node in ast.walk(tree) if isinstance(node, ast.Assign) and isinstance(node.value, ast.Subscript)
                and isinstance(node.value.value, ast.Name) and not isinstance(node.value.slice, ast.Tuple)
                for target in node.targets if isinstance(target, ast.Name)}
    return ROWS | assigned


def bare_numbers(text):
    """Subscripts of a source by a bare column number."""
    tree = ast.parse(text)
    rows = rows_of(tree)
    for node in ast.walk(tree):
        called = node.func.id if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) else ""
        if called in BY_COLUMN and isinstance(leftmost(node.args[2]), ast.Constant):
            yield ast.unparse(node)
        if not (isinstance(node, ast.Subscript) and isinstance(node.value, ast.Name)) or node.value.id in LISTS_OF_NUMBERS:
            continue
        name, whole = node.value.id, isinstance(node.slice, ast.Tuple)
        column = leftmost(node.slice.elts[-1] if whole else node.slice)
        if isinstance(column, ast.Constant) and isinstance(column.value, int) and (whole or not name.islower() or name in rows):
            yield ast.unparse(node)


@pytest.mark.parametrize("path", SOURCES, ids=lambda path: path.stem)
def test_no_kernel_reads_a_table_by_a_bare_number(path):
    allowed = {"out[p, 0]", "V[unknowns.FULL_RANK, 0]", "BI[sweep.BODY_START, 0]", "BI[sweep.PAIR_START, 0]"}
    assert [found for found in bare_numbers(path.read_text()) if found not in allowed] == []


def test_a_bare_number_is_found_and_a_place_in_a_vector_is_none():
    text = """law = LW[k]
a = S[b, 3] + RC[7 + c] + law[2] + cfg[5]
b = spin[0] + own[axis] + times[0] + S[b, state.X]
put(S, b, 7, ZERO)"""
    assert sorted(bare_numbers(text)) == ["RC[7 + c]", "S[b, 3]", "cfg[5]", "law[2]", "put(S, b, 7, ZERO)"]


def test_every_name_of_a_list_and_of_an_enumeration_is_used():
    text = "".join(path.read_text() for path in KERNELS.parent.rglob("*.py") if path.parent.name != "layout")
    unused = [f"{choice.name}.{name}" for choice in (*LISTS, *CHOICES) for name, _ in choice.values
              if f"{choice.name}.{name}" not in text]
    assert set(unused) <= IMPLICIT


def test_every_column_of_a_table_is_read_by_its_name():
    text = "".join(path.read_text() for path in KERNELS.parents[1].rglob("*.py") if path.parent.name != "layout")
    names = [(table.name, name) for table in TABLES for column in table.columns for name in (column.name, *column.parts)]
    read = set(re.findall(r"\b[a-z_]+\.[A-Z][A-Z0-9_]*\b", text)), set(re.findall(r'\["([a-z_0-9]+)"\]', text))
    assert [f"{table}.{name}" for table, name in names if f"{table}.{name}" not in read[0] and name.lower() not in read[1]] == []


IMPLICIT = {"plane_side.SOLID", "plane_sides.ONE_SIDED"}
"""Names of a number that stands for all that is left."""


def test_no_kernel_takes_more_than_ten_arguments():
    many = {node.name: len(node.args.args) for path in SOURCES for node in ast.parse(path.read_text()).body
            if isinstance(node, ast.FunctionDef) and len(node.args.args) > 10}
    assert many == {}
