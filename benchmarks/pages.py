"""The sections of ``docs/benchmarks.md``: each benchmark rewrites its own."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

PAGE = Path(__file__).parent.parent / "docs" / "benchmarks.md"
HEAD = "# Benchmarks\n\nMeasured by `make bench`, each section in one run, interleaved; the ratios are what counts.\n"


def put(title: str, rows: Sequence[Sequence[str]], before: str = "", header: Sequence[str] | None = None) -> None:
    """Replace or append one section: a table of rows below a sentence."""
    wide = max(len(r) for r in rows)
    head = list(header or [""] * wide)
    table = ["| " + " | ".join(head) + " |", "| " + " | ".join(["---"] * wide) + " |"]
    table += ["| " + " | ".join(str(c) for c in row) + " |" for row in rows]
    section = f"## {title}\n\n" + (before + "\n\n" if before else "") + "\n".join(table) + "\n"
    text = PAGE.read_text() if PAGE.exists() else HEAD
    parts = text.split("\n## ")
    titles = [p.split("\n", 1)[0] for p in parts[1:]]
    body = {t: "## " + p.rstrip() + "\n" for t, p in zip(titles, parts[1:], strict=True)}
    body[title] = section
    PAGE.write_text(HEAD + "\n" + "\n".join(body.values()))
