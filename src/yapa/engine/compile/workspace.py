"""Scratch arrays of one thread: what a run writes on, and the tables of addresses that lead to it."""

from __future__ import annotations

from types import ModuleType
from typing import Any

import numpy as np
from numpy.typing import NDArray

from yapa.engine.jit.pointers import pointer_table
from yapa.engine.kernels import layout as L
from yapa.engine.layout import schema
from yapa.motion import Array


def _integers(rows: int, columns: int) -> NDArray[np.int64]:
    return np.zeros((rows, columns), np.int64)


def _in_order(names: ModuleType, arrays: dict[str, NDArray[Any]]) -> tuple[NDArray[Any], ...]:
    """The arrays of a list in the order of its names, every one of them."""
    out: list[NDArray[Any] | None] = [None] * names.COUNT
    for name, array in arrays.items():
        out[getattr(names, name)] = array
    whole = tuple(array for array in out if array is not None)
    assert len(whole) == names.COUNT, f"{names.__name__} names others"
    return whole


class Workspace:
    """Scratch arrays of one thread."""

    def __init__(self, bodies: int, shapes: int, movers: int, sweeping: bool, pairs: int) -> None:
        self.bodies, self.shapes = bodies, shapes
        rows, contacts = 6 * (L.limits.MAX_CONTACTS + 4), L.limits.MAX_CONTACTS + 4
        self._arrays = _in_order(L.workspace_table, {
            "DENSE": schema.CURVES.rows(bodies), "END": schema.STATE.rows(bodies), "MIDDLE": schema.STATE.rows(bodies),
            "BEFORE": schema.STATE.rows(2 * bodies), "SCALES": np.ones((bodies, L.scale.COUNT)),
            "CONTACTS_INT": schema.CONTACT_INT.rows(contacts), "CONTACTS": schema.CONTACT.rows(contacts),
            "MATRIX": np.zeros((rows, rows)), "FACTORS": np.zeros((rows, rows + 4)), "VECTORS": np.zeros((L.unknowns.COUNT, rows)),
            "ROWS_INT": schema.ROW_INT.rows(rows), "ROWS": schema.ROW.rows(rows), "ARMS": schema.JACOBIAN.rows(rows),
            "MOBILITY": schema.JACOBIAN.rows(rows), "POLYGONS": schema.POLYGON.rows(L.limits.POLYGON_ROWS),
            "MANIFOLD": schema.MANIFOLD.rows(L.limits.MAX_CONTACTS), "PROGRESS": schema.PROGRESS.rows(1)})
        self.ws = pointer_table(self._arrays)
        self.S, self.cfg, self.status = schema.STATE.rows(bodies), schema.CONFIG.rows(1)[0], schema.STATUS.rows(1)[0]
        self.call = np.zeros(L.limits.ENTRY * L.call_table.COUNT, np.int64)
        self.call_at = self.call.ctypes.data
        self._called_with: list[np.ndarray | None] = [None] * L.call_table.COUNT
        for entry, array in ((L.call_table.STATES, self.S), (L.call_table.WORKSPACE, self.ws), (L.call_table.CONFIG, self.cfg),
                             (L.call_table.STATUS, self.status)):
            self.point(entry, array)
        self.W, self.laws_changed, self.fields_changed = schema.MATERIAL.rows(1), False, True
        self.scene = np.zeros(0, np.int64)
        self._points = 24 * shapes + 64 if movers > 1 else 64
        self._samples: Array | None = None
        self._seen: Array | None = None
        self.resting_written = False
        self.grow_pairs(min(pairs, 16 * shapes + 64) if sweeping else pairs)
        self.grow_logs(256 if movers <= 3 else 400 * movers)  # a run whose log fills up begins again

    def grow_pairs(self, pairs: int) -> None:
        """Make room for more pairs of shapes.

        Parameters
        ----------
        pairs : how many pairs of shapes
        """
        self.pairs = pairs
        wide, points = max(self.shapes, self.bodies) + 2, self._points
        self.Q = schema.PAIR.rows(pairs)
        self._run_arrays = _in_order(L.run_table, {
            "NEW_DUOS": schema.DUO.rows(pairs), "OLD_PAIRS": schema.PAIR.rows(pairs), "PHASES": schema.OPEN_PHASE.rows(pairs),
            "OLD_PHASES": schema.OPEN_PHASE.rows(pairs), "OLD_PAIR_CACHES": schema.PAIR_CACHE.rows(pairs),
            "OLD_POINT_CACHES": schema.POINT_CACHE.rows(L.limits.SLOTS * pairs), "BOXES": schema.BOX.rows(self.shapes),
            "SWEEP": _integers(L.sweep.COUNT, wide), "FOUND_DUOS": schema.DUO.rows(pairs),
            "ISLAND_BODIES": _integers(1, self.bodies + pairs), "ISLAND_ENDS": schema.ISLAND_END.rows(self.bodies + 1),
            "ISLAND_PAIRS": _integers(1, pairs), "NEAR": _integers(1, pairs), "CALM": _integers(L.calm.COUNT, self.bodies),
            "BEFORE": schema.STATE.rows(self.bodies)})
        self.shape_order = self._run_arrays[L.run_table.SWEEP]
        self.handed_over = self._run_arrays[L.run_table.CALM][L.calm.HANDED_OVER]
        self._point_arrays = _in_order(L.soft_table, {
            "POINTS": schema.POINT.rows(points), "POINTS_INT": schema.POINT_INT.rows(points),
            "INVERSE_INERTIAS": schema.INVERSE_INERTIA.rows(self.bodies), "PAIR_CACHES": schema.PAIR_CACHE.rows(pairs),
            "POINT_CACHES": schema.POINT_CACHE.rows(L.limits.SLOTS * pairs)})
        self.bw, self.cw = pointer_table(self._run_arrays), pointer_table(self._point_arrays)
        self.point(L.call_table.WHOLE_RUN, self.bw)
        self.point(L.call_table.SOFT, self.cw)

    def scene_of(self, shapes: tuple[np.ndarray, ...], keys: Array) -> np.ndarray:
        """Return the table of shapes, pairs, laws and keys.

        Parameters
        ----------
        shapes : arrays of the shapes and of their pairs
        keys : keyframes of kinematic bodies
        """
        return pointer_table((*shapes, self.Q, self.W, keys))

    def grow_logs(self, rows: int) -> None:
        """Make room for more contacts.

        Parameters
        ----------
        rows : contacts and intervals that find room
        """
        self.log_rows = rows
        self.clog = schema.CONTACT_LOG.rows(rows)
        self.plog = schema.PHASE_LOG.rows(rows)
        self.point(L.call_table.CONTACT_LOG, self.clog)
        self.point(L.call_table.PHASE_LOG, self.plog)

    def point(self, entry: int, array: np.ndarray) -> None:
        """Make an entry of the call's table lead to an array: of one, two or (samples) three dimensions. Keeps it alive.

        Parameters
        ----------
        entry : compiled entry
        array : the array
        """
        if self._called_with[entry] is array:
            return
        assert array.flags.c_contiguous
        assert array.dtype.char in "dl"
        self._called_with[entry] = array
        rows, columns = (1, array.shape[0]) if array.ndim == 1 else array.shape[:2]
        self.call[L.limits.ENTRY * entry : L.limits.ENTRY * (entry + 1)] = array.ctypes.data, rows, columns

    def samples(self, count: int) -> Array:
        """Return room for samples, the same again for as long as it is large enough.

        Parameters
        ----------
        count : how many samples
        """
        if self._samples is None or len(self._samples) < count:
            self._samples = np.empty((count, self.bodies, L.state.COUNT))
            self.resting_written = False
        if self._seen is None or len(self._seen) != count or self._seen.base is not self._samples:
            self._seen = self._samples[:count]
        return self._seen
