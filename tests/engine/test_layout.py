"""The tables that host and kernels share: declared once, generated, and never read by a bare number."""

import ast
from pathlib import Path

import numpy as np
import pytest
from tools.layout import files

from yapa.engine.kernels import layout
from yapa.engine.layout.declare import Table, number, record, vector
from yapa.engine.layout.schema import CHOICES, CONTACT_LOG, HEAD, HIT, HIT_STATE, LISTS, TABLES
from yapa.motion.batch_summary import HIT as TOLD_HIT
from yapa.motion.batch_summary import RUN

KERNELS = Path(layout.__file__).parents[1]
SOURCES = [path for path in sorted(KERNELS.rglob("*.py")) if path.parent.name != "layout" and path.name != "simd.py"]
TABLES_CALLED = {table.called: table for table in TABLES if table.called}
TUPLES = {"rate", "p", "q", "r1", "r2", "r3", "r4", "MAX_CORNERS"}
"""Names of what is no table: tuples of numbers."""


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


@pytest.mark.parametrize("path", SOURCES, ids=lambda path: path.stem)
def test_no_kernel_reads_a_table_by_a_bare_number(path):
    bare = []
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Subscript) and isinstance(node.value, ast.Name) and node.value.id not in TUPLES:
            column = leftmost(node.slice.elts[-1] if isinstance(node.slice, ast.Tuple) else node.slice)
            one_row = not isinstance(node.slice, ast.Tuple) and node.value.id in {"times", "cancel", "BL"}
            if isinstance(column, ast.Constant) and isinstance(column.value, int) and not one_row:
                bare.append((node.lineno, ast.unparse(node)))
    allowed = {"out[p, 0]", "V[unknowns.FULL_RANK, 0]", "BI[sweep.BODY_START, 0]", "BI[sweep.PAIR_START, 0]"}
    assert [line for line in bare if line[1] not in allowed] == []


def test_every_name_of_a_list_and_of_an_enumeration_is_used():
    text = "".join(path.read_text() for path in KERNELS.parent.rglob("*.py") if path.parent.name != "layout")
    unused = [f"{choice.name}.{name}" for choice in (*LISTS, *CHOICES) for name, _ in choice.values
              if f"{choice.name}.{name}" not in text]
    assert set(unused) <= IMPLICIT


IMPLICIT = {"plane_side.SOLID", "plane_sides.ONE_SIDED"}
"""Names of a number that stands for all that is left."""


LEAVES = {
    "_add_point": 19, "write_row": 16, "_row": 16, "push": 14, "_clip": 14, "_first_in_piece": 13, "carry_over": 13, "segments": 12,
    "closing": 12, "_locked_inverse": 11, "spin_of": 11, "_pull": 11, "find_pairs": 11, "_newton": 11,
}
"""Kernels that take more than ten arguments: vectors as numbers side by side, and lists that are carried over."""


def test_no_kernel_takes_more_than_ten_arguments_but_the_leaves():
    many = {node.name: len(node.args.args) for path in SOURCES for node in ast.parse(path.read_text()).body
            if isinstance(node, ast.FunctionDef) and len(node.args.args) > 10}
    assert many == LEAVES
