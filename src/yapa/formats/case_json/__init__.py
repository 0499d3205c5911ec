"""Case files: the present format, and the upgrade of older ones."""

from yapa.formats.case_json.reader import parse_case, read_case
from yapa.formats.case_json.writer import case_text, schema_text, write_case

__all__ = ["case_text", "parse_case", "read_case", "schema_text", "write_case"]
