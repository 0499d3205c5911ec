"""Parquet files."""

from __future__ import annotations

from pathlib import Path

from yapa.errors import InputError, bad_input
from yapa.formats.tracks.registry import ReadOptions, track_reader
from yapa.formats.tracks.table import MAX_BYTES, Table, cell_text, first_line, refuse_many


@track_reader("Parquet", (".parquet",), lambda _path, head: head[:4] == b"PAR1")
def read(path: Path, head: bytes, options: ReadOptions) -> Table:
    """Return the table in a Parquet file.

    Raises
    ------
    InputError
        A broken file, or too many cells.
    """
    where = str(path)
    import pyarrow.parquet as pq

    try:
        file = pq.ParquetFile(path, memory_map=True)
        meta = file.metadata
        unpacked = sum(meta.row_group(i).total_byte_size for i in range(meta.num_row_groups))
        refuse_many(where, meta.num_rows, meta.num_columns)
        if unpacked > MAX_BYTES:
            raise bad_input(where, f"{unpacked / 1e6:.0f} MB unpacked", f"at most {MAX_BYTES / 1e6:.0f} MB")
        names = [str(name) for name in file.schema_arrow.names]
        columns = [["" if v is None else cell_text(v) for v in column.to_pylist()]
                   for column in file.read(use_threads=False).columns]
    except InputError:
        raise
    except Exception as error:  # what a broken file makes a reader raise is not listed anywhere
        raise bad_input(where, f"a broken Parquet file ({first_line(error)})", "a whole Parquet file") from None
    rows = [names, *([c[i] for c in columns] for i in range(len(columns[0]) if columns else 0))]
    return Table(rows, list(range(len(rows))), [], ["Parquet"])
