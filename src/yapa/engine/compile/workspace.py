"""Scratch arrays of one thread: what a run writes on, and the tables of addresses that lead to it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from yapa.engine.jit.pointers import pointer_table
from yapa.engine.kernels import layout as L
from yapa.motion import Array


def _integers(rows: int, columns: int) -> NDArray[np.int64]:
    return np.zeros((rows, columns), np.int64)


class Workspace:
    """Scratch arrays of one thread."""

    def __init__(self, bodies: int, shapes: int, movers: int, sweeping: bool, pairs: int) -> None:
        self.bodies, self.shapes = bodies, shapes
        rows = 6 * (L.MOST_CONTACTS + 4)
        real = np.zeros
        self._arrays = (
            real((bodies, L.D_COLUMNS)), real((bodies, 16)), real((bodies, 16)), real((2 * bodies, 16)), np.ones((bodies, 2)),
            np.zeros((L.MOST_CONTACTS + 4, L.CI_COLUMNS), np.int64), real((L.MOST_CONTACTS + 4, L.CF_COLUMNS)),
            np.zeros((L.MOST_CONTACTS + 4, L.CI_COLUMNS), np.int64), real((L.MOST_CONTACTS + 4, L.CF_COLUMNS)),
            real((rows, rows)), real((rows, rows + 4)), real((L.V_ROWS, rows)), np.zeros((rows, L.RI_COLUMNS), np.int64),
            real((rows, L.RF_COLUMNS)),
            real((rows, 12)), real((rows, 12)), real((260, 5)), real((L.MOST_CONTACTS, L.M_COLUMNS)))
        self.ws = pointer_table(self._arrays)
        self.S, self.cfg, self.status = real((bodies, 16)), real(L.CFG_COLUMNS), np.zeros(L.ST_COLUMNS, np.int64)
        self.call = np.zeros(3 * (L.CALL_CANCEL + 1), np.int64)
        self.call_at = self.call.ctypes.data
        self._called_with: list[np.ndarray | None] = [None] * (L.CALL_CANCEL + 1)
        for entry, array in ((L.CALL_STATE, self.S), (L.CALL_WS, self.ws), (L.CALL_CFG, self.cfg), (L.CALL_STATUS, self.status)):
            self.point(entry, array)
        self.W, self.laws_changed, self.fields_changed = real((1, L.LAW_COLUMNS)), False, True
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
        wide = max(self.shapes, self.bodies) + 2
        self.Q = _integers(pairs, L.Q_COLUMNS)
        self._run_arrays = (
            _integers(pairs, 2), _integers(pairs, L.Q_COLUMNS), _integers(pairs, 2), _integers(pairs, 2), _integers(pairs, 2),
            np.zeros((8 * pairs, 12)), np.zeros((self.shapes, 6)), _integers(8, wide), _integers(pairs, 2),
            _integers(1, self.bodies + pairs), _integers(self.bodies + 1, 2), _integers(1, pairs), _integers(1, pairs),
            _integers(L.CROWD_ROWS, self.bodies), np.zeros((self.bodies, 16)))
        self.shape_order = self._run_arrays[L.BW_BI]
        self.handed_over = self._run_arrays[L.BW_CROWD][4]
        points = self._points
        self._crowd_arrays = (np.zeros((points, L.POINT_COLUMNS)), _integers(points, 3), np.zeros((self.bodies, 6)),
                              _integers(pairs, 2),
                              np.zeros((8 * pairs, 12)))
        self.bw, self.cw = pointer_table(self._run_arrays), pointer_table(self._crowd_arrays)
        self.point(L.CALL_BW, self.bw)
        self.point(L.CALL_CW, self.cw)

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
        self.clog = np.zeros((rows, L.LOG_COLUMNS))
        self.plog = np.zeros((rows, L.PH_COLUMNS))
        self.point(L.CALL_CLOG, self.clog)
        self.point(L.CALL_PLOG, self.plog)

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
        self.call[3 * entry : 3 * entry + 3] = array.ctypes.data, rows, columns

    def samples(self, count: int) -> Array:
        """Return room for samples, the same again for as long as it is large enough.

        Parameters
        ----------
        count : how many samples
        """
        if self._samples is None or len(self._samples) < count:
            self._samples = np.empty((count, self.bodies, 16))
            self.resting_written = False
        if self._seen is None or len(self._seen) != count or self._seen.base is not self._samples:
            self._seen = self._samples[:count]
        return self._seen
