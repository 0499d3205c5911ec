"""Files as strangers have them, written into a folder: tables of every kind that was ever brought, and cases of both formats."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np

from tests.hard.strange_tracks import bounces
from yapa.demo import DATA

OLD = Path(__file__).parents[1] / "data" / "version_1"


def write_files(folder: Path) -> list[Path]:
    """Write them; their paths."""
    folder.mkdir(parents=True, exist_ok=True)
    t = np.arange(90) / 60
    x, z = 0.4 * t, bounces(t, 1.0, 0.6) + 0.0365
    tables = {
        "planar.csv": _rows("t,x,z", (t, x, z)),
        "upright only.csv": _rows("t,z", (t, z)),
        "phone.csv": "Bild;X;Y\n" + "".join(f"{k + 12};{100 + 300 * a:.1f};{900 - 600 * b:.1f}\n".replace(".", ",")
                                           for k, (a, b) in enumerate(zip(x, z, strict=True))),
        "pixels.csv": _rows("frame,u,v", (np.arange(90), np.round(100 + 300 * x), np.round(900 - 600 * z))),
        "millimetres.csv": "t,x,z\nms,mm,mm\n" + _rows("", (1000 * t, 1000 * x, 1000 * z)),
        "two bodies.csv": "t,body,x,z\n" + "".join(
            f"{a:.4f},{name},{b + shift:.4f},{c:.4f}\n" for a, b, c in zip(t, x, z, strict=True)
            for name, shift in (("orange", 0.0), ("lemon", 1.0))),
        "gaps.csv": "t,x,z\n" + "".join(f"{a:.4f},{'' if k % 7 == 3 else f'{b:.4f}'},{'' if 20 < k < 30 else f'{c:.4f}'}\n"
                                       for k, (a, b, c) in enumerate(zip(t, x, z, strict=True))),
        "four rows.csv": _rows("t,x,z", (t[:4], x[:4], z[:4])),
        "constant.csv": _rows("t,x,z", (t, 0 * t, 0 * t)),
        "angle.csv": _rows("t,angle", (t, 3 * t)),
        "empty.csv": "",
        "header only.csv": "t,x,z\n",
        "words.csv": "this is a letter, not a table\nand it has two lines\n",
        "infinite.csv": "t,x,z\n" + "".join(f"{a:.4f},{'inf' if k == 4 else 'nan'},{b:.4f}\n"
                                           for k, (a, b) in enumerate(zip(t, z, strict=True))),
        "drops.csv": "drop height [cm],rebound [cm]\n50,24.5\n75,36.9\n100,49.2\n125,61\n150,73.4\n",
        "broken.yapa": '{"format": "yapa", "version": 2, "bodies": {',
        "future.yapa": '{"format": "yapa", "version": 99}',
    }
    for name, text in tables.items():
        (folder / name).write_text(text)
    (folder / "bytes.csv").write_bytes(bytes(range(256)) * 8)
    for path in [*DATA.glob("*.yapa"), *DATA.glob("*.csv"), *(OLD.glob("*.yapa") if OLD.is_dir() else ())]:
        name = path.name if path.parent == DATA else f"old {path.name}"
        shutil.copyfile(path, folder / name)
    return sorted(path for path in folder.iterdir() if path.is_file())


def _rows(head: str, columns: tuple[np.ndarray, ...]) -> str:
    rows = "".join(",".join(f"{float(v):.5g}" for v in row) + "\n" for row in zip(*columns, strict=True))
    return f"{head}\n{rows}" if head else rows
