"""Contact materials, what happens where two surfaces meet: one row of numbers for every pair of surfaces, from the case's own
numbers."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from yapa.case.model import Case
from yapa.case.parameter_path import parse_path
from yapa.case.parameters import SURFACE_QUANTITIES, combine, find_pair, numbers
from yapa.case.scene import Rule, Surface
from yapa.engine.kernels import layout as L
from yapa.motion import Array

Source = tuple[str | None, Rule, str, str, float, float]
"""A quantity's own path, or the pairing rule with both surfaces' paths and their defaults."""
COLUMNS = {"restitution": L.material.RESTITUTION, "friction": L.material.STATIC, "dynamic_friction": L.material.DYNAMIC,
           "rolling_resistance": L.material.ROLLING,
           "spinning_resistance": L.material.SPINNING}


class PairMaterials:
    """The laws of all pairs of surfaces; row ``i * count + j`` is that of surfaces i and j."""

    def __init__(self, case: Case, base: Mapping[str, float]) -> None:
        self._case, self._base = case, base
        self.surfaces = sorted({shape.surface for body in case.bodies.values() for shape in body.shapes})
        both = [(a, b) for a in self.surfaces for b in self.surfaces]
        self.pairs = both
        self._sources = [[self._source(a, b, quantity) for quantity in SURFACE_QUANTITIES] for a, b in both]
        self.rows = np.zeros((len(both), L.material.COUNT))
        for k, (a, b) in enumerate(both):
            self.rows[k, [L.material.FALLOFF, L.material.REFERENCE]] = self._falloff(a, b)
        self.write(self.all_cells(), base, self.rows)

    def all_cells(self) -> list[tuple[int, int, Source]]:
        """Return row, column and source of every number."""
        return [(k, COLUMNS[quantity], source) for k, sources in enumerate(self._sources)
                for quantity, source in zip(SURFACE_QUANTITIES, sources, strict=True)]

    def rows_of(self, path: str) -> list[int]:
        """Return rows that a surface's or a named pair's path enters.

        Parameters
        ----------
        path : path of the number
        """
        parts = parse_path(path)
        if parts.section == "surfaces":
            return [k for k, pair in enumerate(self.pairs) if parts.owner in pair]
        if parts.section == "pairs":
            return [k for k, pair in enumerate(self.pairs) if set(pair) == set(parts.owner.split("+"))]
        return []

    def entries_affected_by(self, paths: Iterable[str]) -> list[tuple[int, int, Source]]:
        """Return what must be written again when the numbers at these paths change.

        Parameters
        ----------
        paths : paths of numbers
        """
        wanted = set(paths)
        rows = {k for path in wanted for k in self.rows_of(path)}
        cells = [cell for cell in self.all_cells() if cell[0] in rows]
        changed = {(k, column) for k, column, source in cells if wanted & {source[0], source[2], source[3]}}
        # dynamic friction is never above static friction: the two are written together
        both = {(k, column) for k, _ in changed & {(k, c) for k in rows for c in (L.material.STATIC, L.material.DYNAMIC)}
                for column in (L.material.STATIC, L.material.DYNAMIC)}
        return [cell for cell in cells if cell[:2] in changed | both]

    def write(self, cells: Iterable[tuple[int, int, Source]], num: Mapping[str, float], W: Array) -> None:
        """Write cells from numbers.

        Parameters
        ----------
        cells : row, column and source of every number
        num : path → value of every number
        W : materials of every pair of surfaces
        """
        for k, column, (own, rule, a, b, da, db) in cells:
            value = num[own] if own is not None else combine(rule, num.get(a, da), num.get(b, db))
            if column == L.material.DYNAMIC:
                value = min(value, float(W[k, L.material.STATIC]))
            W[k, column] = value

    def write_batch(self, cells: Iterable[tuple[int, int, Source]], num: Mapping[str, float | Array], W: Array) -> None:
        """The same, bit for bit, for N runs at once: numbers are one for all, or (N,), and ``W`` is (N, pairs, columns).

        Parameters
        ----------
        cells : row, column and source of every number
        num : path → value of every number
        W : materials of every pair of surfaces
        """
        for k, column, (own, rule, a, b, da, db) in cells:
            if own is not None:
                value = np.asarray(num[own])
            else:
                both = np.broadcast_arrays(num.get(a, da), num.get(b, db))
                value = np.array([combine(rule, x, y) for x, y in zip(*(side.ravel().tolist() for side in both), strict=True)])
            W[:, k, column] = np.minimum(value, W[:, k, L.material.STATIC]) if column == L.material.DYNAMIC else value

    def _source(self, one: str, two: str, quantity: str) -> Source:
        named, rule, default = find_pair(self._case, one, two), self._case.pairing, Surface()
        own = f"pairs.{named.key}.{quantity}" if named is not None and getattr(named, quantity) is not None else None
        if quantity == "dynamic_friction":  # falls back on static friction: the pair's own, or surface by surface
            if own is None and named is not None and named.friction is not None:
                own = f"pairs.{named.key}.friction"
            paths = [f"surfaces.{n}.{quantity}" if f"surfaces.{n}.{quantity}" in self._base else f"surfaces.{n}.friction"
                     for n in (one, two)]
            return own, rule.friction, paths[0], paths[1], default.friction, default.friction
        value = getattr(default, quantity)
        return own, getattr(rule, quantity), f"surfaces.{one}.{quantity}", f"surfaces.{two}.{quantity}", value, value

    def _falloff(self, one: str, two: str) -> tuple[float, float]:
        """Exponent and reference speed of the surface whose restitution falls faster."""
        a, b = (self._case.surfaces.get(name, Surface()) for name in (one, two))
        falls = a if a.restitution_falloff >= b.restitution_falloff else b
        return falls.restitution_falloff, falls.reference_speed


@dataclass(frozen=True)
class EffectiveValue:
    """One number of a pair of surfaces as it acts, and where it comes from."""

    surfaces: tuple[str, str]
    quantity: str
    value: float
    source: str


def effective_values(case: Case) -> list[EffectiveValue]:
    """Return the numbers of every pair of surfaces that bodies of the case can bring together, with where each comes from.

    Parameters
    ----------
    case : the case
    """
    base = numbers(case)
    materials = PairMaterials(case, base)
    bodies = list(case.bodies.values())
    used = {frozenset((a.surface, b.surface)) for one,
            two in combinations(bodies, 2) if one.motion != "static" or two.motion != "static"
            for a in one.shapes for b in two.shapes}
    out = []
    names = {column: quantity for quantity, column in COLUMNS.items()}
    for k, column, (own, rule, a, b, da, db) in materials.all_cells():
        one, two = materials.pairs[k]
        if one > two or frozenset((one, two)) not in used or column not in names:
            continue
        value = float(materials.rows[k, column])
        if own is not None:
            source = f"named pair {own.split('.')[1]}"
        else:
            x, y = base.get(a, da), base.get(b, db)
            source = f"{one} {x:g}" if one == two else f"{rule} of {one} {x:g} and {two} {y:g}"
        out.append(EffectiveValue((one, two), names[column], value, source))
    return out
