"""Which exporters there are, as the window offers them."""

from __future__ import annotations

from yapa.formats import exports as _exports  # noqa: F401  (registers the exporters)
from yapa.formats.exports.registry import EXPORTERS, Exported, Exporter

__all__ = ["Exported", "Exporter", "exporters"]


def exporters() -> list[Exporter]:
    """Return every exporter, in the order of registration."""
    return list(EXPORTERS.values())
