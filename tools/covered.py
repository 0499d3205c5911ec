"""``python tools/covered.py LEAST``: how much of the host code the tests ran, by lines and by branches.

Reads the data that coverage combined. Kernels are compiled, and not seen by it. Ends with 1 where fewer lines than LEAST percent
ran.
"""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any


def report(data: dict[str, Any]) -> tuple[float, list[str]]:
    """Lines that ran [%], and what to print: totals, and the files with most lines that did not."""
    totals = data["totals"]
    lines = 100.0 * totals["covered_lines"] / max(totals["num_statements"], 1)
    branches = 100.0 * totals["covered_branches"] / max(totals["num_branches"], 1)
    files = sorted(data["files"].items(), key=lambda item: -item[1]["summary"]["missing_lines"])
    worst = [f"  {path}: {file['summary']['missing_lines']} of {file['summary']['num_statements']} lines not run"
             for path, file in files[:5] if file["summary"]["missing_lines"]]
    return lines, [f"coverage of host code: {lines:.1f}% of lines, {branches:.1f}% of branches", *worst]


def main() -> int:
    least = float(sys.argv[1])
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "coverage.json"
        subprocess.run([sys.executable, "-m", "coverage", "json", "-q", "-o", out], check=True)
        lines, text = report(json.loads(out.read_text()))
    print("\n".join(text))
    return 0 if lines >= least else 1


if __name__ == "__main__":
    sys.exit(main())
