"""Sixty ways to write one track, all read as the same motion; and what cannot be read says why."""

import json
import resource
import zipfile

import numpy as np
import pytest

from tests.formats.layouts import ANGLE, GAP, T, X, Z, layouts
from yapa.cli import cli
from yapa.demo import DATA
from yapa.errors import InputError
from yapa.formats.case_file import load_case
from yapa.formats.case_json import parse_case
from yapa.formats.tracks.importer import ImportOverrides, import_track, inspect_file

LAYOUTS = {name: (write, said) for name, write, said in layouts()}


def test_there_are_sixty_layouts():
    assert len(LAYOUTS) >= 60


@pytest.mark.parametrize("name", LAYOUTS)
def test_every_layout_gives_the_same_track(name, tmp_path):
    write, said = LAYOUTS[name]
    path = tmp_path / "track.dat"
    write(path)
    fields = dict(said)
    planar = bool(fields.pop("planar", False))
    samples = import_track(path, overrides=ImportOverrides(planar=planar, fields=fields)).samples
    assert np.abs(np.array(samples.t) - T).max() < 1e-6
    for got, want in ((samples.x, X), (samples.z, Z)):
        there = np.array([np.nan if v is None else v for v in got])
        assert np.isfinite(there).sum() >= 59
        good = np.isfinite(there)
        assert np.abs(there[good] - want[good]).max() < 1e-6
        assert good[np.arange(60) != GAP].all()
    if samples.angle is not None and "wide" not in name:
        turned = np.array([np.nan if v is None else v for v in samples.angle])
        good = np.isfinite(turned)
        assert np.abs(turned[good] - turned[good][0] - ANGLE[good]).max() < 1e-6


@pytest.mark.parametrize("name", list(LAYOUTS)[::6])
def test_inspect_says_how_it_would_read_a_file(name, tmp_path):
    write, fields = LAYOUTS[name]
    path = tmp_path / "track.dat"
    write(path)
    said = ImportOverrides(planar=bool(fields.get("planar", False)), fields={k: v for k, v in fields.items() if k != "planar"})
    _, found = inspect_file(path, said)
    how, why = found.how, found.why
    assert "units" in " ".join(why)
    assert "columns by their" in " ".join(why)
    assert import_track(path, how, overrides=said).samples == import_track(path, overrides=said).samples


def text_file(tmp_path, text):
    path = tmp_path / "track.txt"
    path.write_text(text)
    return path


ROWS = "\n".join(f"{k / 10};{k};{k * k}" for k in range(10))


@pytest.mark.parametrize(("text", "changes", "said"), [
    ("time;x;z\n" + ROWS.replace("0.3;3", "0.3;three"), {}, "row 5, column 2 (x)"),
    ("time;x;z\n" + ROWS.replace("0.4;", "0.2;"), {}, "row 6"),
    ("time;x;z\n" + ROWS.replace("0.4;", ";"), {}, "no time"),
    ("time;x;z\n" + ROWS, {"units": {"time": "fortnights"}}, "the time unit 'fortnights'"),
    ("frame;x;z\n" + "\n".join(f"{k};{k};{k}" for k in range(9)), {}, "frame numbers without a rate"),
    ("time;x_px;y_px\n" + ROWS, {}, "a scale in metres a pixel"),
    ("time;note\n" + "\n".join(f"{k};word" for k in range(9)), {}, "no column of"),
    ("time;body;x\n" + "\n".join(f"{k};{'ab'[k % 2]};1" for k in range(9)), {}, "several bodies: a, b"),
    ("time;body;x\n" + "\n".join(f"{k};{'ab'[k % 2]};1" for k in range(9)), {"body": "c"}, "no body 'c'"),
    ("words only\nand more words\n", {}, "no column of times"),
    ("# nothing\n", {}, "only comments"), ("", {}, "an empty file"), ("\0\0\0", {}, "binary data"),
    ("time;x;z\n0;1;2\n1;2;3\n", {}, "at least 5 samples"),
])
def test_what_cannot_be_read_says_what_and_where(text, changes, said, tmp_path):
    with pytest.raises(InputError) as caught:
        import_track(text_file(tmp_path, text), **changes)
    assert said in str(caught.value)


def test_a_case_keeps_how_its_track_is_read(tmp_path):
    write, said = LAYOUTS["pixels down"]
    write(tmp_path / "video.txt")
    tree = json.loads((DATA / "orange-drop.yapa").read_text())
    how = import_track(tmp_path / "video.txt", **said).how
    tree["tracks"] = [{"name": "orange", "body": "orange", "file": "video.txt", "import_settings": how.model_dump(mode="json")}]
    (tmp_path / "case.yapa").write_text(json.dumps(tree))
    case, _ = load_case(tmp_path / "case.yapa")
    assert case.tracks[0].samples.z[0] == pytest.approx(Z[0], abs=1e-6)
    assert case.tracks[0].import_settings.pixel_size == 0.002
    assert parse_case(json.dumps(tree), "case").tracks[0].import_settings == how


def test_the_command_shows_and_writes_plain_columns(tmp_path):
    from click.testing import CliRunner

    write, _ = LAYOUTS["semicolons units decimal commas"]
    write(tmp_path / "measured.txt")
    done = CliRunner().invoke(cli, ["inspect", str(tmp_path / "measured.txt"), "--csv", str(tmp_path / "plain.csv"),
                                    "--unit", "x=cm"])
    assert done.exit_code == 0, done.output
    assert "decimal commas" in done.output
    assert "60 samples" in done.output
    first = (tmp_path / "plain.csv").read_text().splitlines()
    assert first[0] == "t,x,z"
    assert float(first[1].split(",")[1]) == pytest.approx(X[0] / 100, abs=1e-6)


def fuzzed(rng, whole):
    """A file damaged in one of many ways."""
    data = bytearray(whole)
    kind = rng.integers(6)
    if kind == 0:
        for _ in range(int(rng.integers(1, 30))):
            data[rng.integers(len(data))] = rng.integers(256)
    elif kind == 1:
        data = data[: rng.integers(len(data))]
    elif kind == 2:
        at = rng.integers(len(data))
        data[at:at] = rng.integers(0, 256, int(rng.integers(1, 200)), dtype=np.uint8).tobytes()
    elif kind == 3:
        data = bytearray(rng.integers(0, 256, int(rng.integers(1, 3000)), dtype=np.uint8).tobytes())
    elif kind == 4:
        lines = bytes(data).split(b"\n")
        rng.shuffle(lines)
        data = bytearray(b"\n".join(lines))
    else:
        a, b = sorted(rng.integers(0, len(data), 2))
        data = data[:a] + data[b:]
    return bytes(data)


def _refusal(path):
    """What is said of a file that cannot be read; None of one that can."""
    try:
        import_track(path)
    except InputError as problem:
        return str(problem)
    return None


def test_two_thousand_damaged_files_are_read_or_refused_in_words(tmp_path):
    rng = np.random.default_rng(4)
    wholes = []
    for k, name in enumerate(list(LAYOUTS)[::4] + ["Parquet", "Parquet in millimetres"]):
        LAYOUTS[name][0](tmp_path / f"{k}.dat")
        wholes.append((tmp_path / f"{k}.dat").read_bytes())
    path, refused = tmp_path / "damaged.dat", 0
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    for k in range(2000):
        path.write_bytes(fuzzed(rng, wholes[k % len(wholes)]))
        said = _refusal(path)
        refused += said is not None
        assert said is None or "expected" in said
    assert refused > 500
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 64 * 1024


def test_a_packed_file_that_unpacks_to_too_much_is_refused_unread(tmp_path):
    path = tmp_path / "bomb.xlsx"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b"0" * 200_000_000)
    with pytest.raises(InputError) as caught:
        import_track(path)
    assert "unpacked" in str(caught.value)
