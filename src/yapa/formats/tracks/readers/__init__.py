"""Readers of tables, a file a format; importing this package registers them, the last resort first."""

from yapa.formats.tracks.readers import delimited as delimited
from yapa.formats.tracks.readers import parquet as parquet
from yapa.formats.tracks.readers import spreadsheet as spreadsheet
