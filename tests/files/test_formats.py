"""Open formats: CSV in with every bad row told, files stable under re-save, published schemas, JUnit, barcodes."""

from __future__ import annotations

import io
import json
import shutil
import subprocess
from contextlib import redirect_stderr, redirect_stdout
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import pytest
import zxingcpp
from zint import InputMode, Symbol, Symbology

from mindful_crate import cli
from mindful_crate.api.ground import drawn
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.rehearse import run
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.demo.loader import FOLDER, demo_rehearsals
from mindful_crate.files import gs1, schemas
from mindful_crate.files.junit import junit
from mindful_crate.files.tables import opening_of
from mindful_crate.files.texts import BadText, read_rehearsal, read_rulebook, rehearsal_text, rulebook_text
from tests.conftest import ROOT


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A copy of the demo's files, to be spoiled."""
    return Path(shutil.copytree(FOLDER, tmp_path / "demo"))


def spoil(path: Path, line: int, old: str, new: str) -> None:
    lines = path.read_text().splitlines()
    assert old in lines[line - 1]
    lines[line - 1] = lines[line - 1].replace(old, new, 1)
    path.write_text("\n".join(lines) + "\n")


@pytest.mark.parametrize(
    ("file", "line", "old", "new", "column", "says"),
    [
        ("bins.csv", 2, "6000", "6000.5", "x_mm", "not a whole number"),
        ("bins.csv", 3, "DOR", "", "zone", "is missing"),
        ("units.csv", 2, "1", "one", "quantity", "not a whole number"),
        ("plate_kinds.csv", 2, ",22", ",22.00000001", "weight_kg", "at most six decimals"),
        ("items.csv", 2, "none", "serial-ish", "tracking", "none, lot, lot_expiry"),
        ("orders.csv", 2, "yes", "maybe", "confirmed", "yes or no"),
        ("orders.csv", 2, "2026-03-02", "02/03/2026", "promised", "a date like"),
        ("bin_types.csv", 2, "optional", "sometimes", "plates", "required"),
    ],
)
def test_a_bad_cell_is_told_with_its_line_and_column(
    folder: Path, file: str, line: int, old: str, new: str, column: str, says: str
) -> None:
    """Every kind of bad cell names file, line, column, value and what it should be; the demo's loader stops at it."""
    spoil(folder / file, line, old, new)
    with pytest.raises(BadText) as caught:
        opening_of("spoiled", [folder])
    told = caught.value.problem.says
    assert f"{file} line {line}, {column} " in told, told
    assert says in told, told


def test_files_are_stable_under_saving_again(rulebook: Rulebook) -> None:
    """Read, written, read and written again: the same text, for rulebooks and rehearsals."""
    text = rulebook_text(rulebook)
    assert read_rulebook(text) == rulebook
    assert rulebook_text(read_rulebook(text)) == text
    for script in demo_rehearsals():
        text = rehearsal_text(script)
        assert read_rehearsal(text) == script
        assert rehearsal_text(read_rehearsal(text)) == text
        assert read_rehearsal(json.dumps(to_plain(script))) == script, "JSON serves as well"


@pytest.mark.parametrize(
    ("text", "code", "part"),
    [
        ("{", "unreadable", "line"),
        ("[]", "bad_shape", "set of named values"),
        ("{name: x, shape: 99}", "bad_shape", "not 99"),
        ("{name: x, colour: blue}", "bad_shape", "unknown field"),
        ("{name: x, bin_rules: [{id: L, purpose: fly}]}", "bad_shape", "none of unload_at, receive_into"),
    ],
)
def test_a_rulebook_file_that_is_none(text: str, code: str, part: str) -> None:
    """Refused with the place and the reason."""
    with pytest.raises(BadText) as caught:
        read_rulebook(text, "x.json")
    assert caught.value.problem.code == code
    assert part in caught.value.problem.says
    assert caught.value.problem.place.startswith("x.json")


@pytest.mark.parametrize(
    ("do", "place", "part"),
    [
        ({"kind": "press", "action": "explode"}, "do/action", "none of all_here, all_of_it, all_off, all_pieces"),
        ({"kind": "office", "act": {"kind": "wait", "seconds": 1}, "made": [["seconds", "s1"]]}, "do/made", "names what a step"),
        ({"kind": "office", "act": {"kind": "wait", "seconds": 1}, "made": [["oops", "s1"]]}, "do/made", '"oops" is no field'),
        ({"kind": "office", "act": {"kind": "host_answers", "message": "M-1"}}, "do/act/kind", "none of"),
    ],
)  # fmt: skip
def test_a_step_that_nobody_could_do(do: dict[str, Any], place: str, part: str) -> None:
    """Refused with its place when the file is read, not when the script runs or is shown."""
    plain = to_plain(demo_rehearsals()[0])
    text = json.dumps({**plain, "steps": [*plain["steps"][:2], {"id": "s9", "do": do}]})
    with pytest.raises(BadText) as caught:
        read_rehearsal(text, "x.json")
    assert part in caught.value.problem.says
    assert caught.value.problem.place == f"x.json: steps/2/{place}"


def test_published_schemas_are_those_of_the_code() -> None:
    """docs/schemas holds exactly what the types say; `crate` writes them anew."""
    for name in schemas.FORMATS:
        assert (ROOT / "docs" / "schemas" / f"{name}.schema.json").read_text() == schemas.text(name)


def test_junit_counts_steps_and_failures(ground: Ground, rulebook: Rulebook) -> None:
    """A case a step and one for the end; a failure says what was expected and found."""
    script = next(s for s in demo_rehearsals() if s.id == "rope-by-the-pallet")
    broken = read_rehearsal(rehearsal_text(script).replace("arrived: 2000", "arrived: 1999"))
    results = [(run(s, ground, rulebook, lambda at: at.date(), gs1.split)[0], 0.5) for s in (script, broken)]
    suites = ElementTree.fromstring(junit(results, datetime(2026, 3, 3, tzinfo=UTC))).findall("testsuite")
    assert [s.get("failures") for s in suites] == ["0", "1"]
    assert suites[1].get("tests") == str(len(script.steps) + 1)
    failure = suites[1].find("testcase[@name='at the end']/failure")
    assert failure is not None and "arrived 2000" in (failure.get("message") or "")


@pytest.mark.parametrize("text", ["PO-1007", "B-02-01-1", "LPR-000417", "2900000000087"])
def test_a_drawn_barcode_reads_back(text: str) -> None:
    """What the scan tray draws is a real Code 128: another library reads the same text."""
    assert drawn(text, "code128").startswith(b"<svg")
    symbol = Symbol()
    symbol.symbology, symbol.scale = Symbology.CODE128, 2
    symbol.encode(text)
    assert [r.text for r in zxingcpp.read_barcodes(pixels(symbol))] == [text]


def test_a_gs1_matrix_reads_back() -> None:
    """Lot, date and count survive the GS1 DataMatrix and the splitter."""
    text = "(01)02900000000254(17)270831(37)6(10)K2611"
    assert drawn(text, "gs1datamatrix").startswith(b"<svg")
    symbol = Symbol()
    symbol.symbology, symbol.input_mode, symbol.scale = Symbology.DATAMATRIX, InputMode.GS1, 3
    symbol.encode(text.replace("(", "[").replace(")", "]"))
    found = zxingcpp.read_barcodes(pixels(symbol))[0]
    assert gs1.split(found.symbology_identifier + found.bytes.decode()) == gs1.split(text)
    with pytest.raises(Refusal, match="cannot be drawn"):
        drawn("(01)123", "gs1datamatrix")


def pixels(symbol: Symbol) -> np.ndarray:
    """The raster of a symbol with a quiet margin, grey."""
    symbol.buffer()
    raster = np.array(symbol.bitmap).reshape(symbol.bitmap.shape[0], symbol.bitmap.shape[1], -1)[:, :, 0]
    return np.pad(raster, 24, constant_values=255)


# The command line


def crate(*args: str) -> subprocess.CompletedProcess[str]:
    """Run the application's command line, in this process."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        code = cli.main(list(args))
    return subprocess.CompletedProcess(args, code, out.getvalue(), err.getvalue())


def test_rehearsing_on_the_command_line(tmp_path: Path) -> None:
    """Exit 0 when it passes, 1 when an expectation fails, 2 when file or rulebook is unusable, with the place."""
    rope = FOLDER / "rehearsals" / "rope-by-the-pallet.yaml"
    out = tmp_path / "out.xml"
    good = crate("rehearse", str(rope), "--junit", str(out))
    assert (good.returncode, good.stdout.split()[0]) == (0, "passed"), good.stderr
    assert ElementTree.parse(out).getroot().tag == "testsuites"

    book = tmp_path / "book.json"
    text = (FOLDER / "rulebook.json").read_text()
    book.write_text(text.replace('"BLK"', '"RSV"', 1))
    red = crate("rehearse", str(rope), "--rulebook", str(book))
    assert red.returncode == 1
    assert "fails at s6" in red.stdout and "it was:" in red.stdout and "B-02-01-1" in red.stdout

    book.write_text(text.replace('"BLK"', '"MOON"', 1))
    stopped = crate("rehearse", str(rope), "--rulebook", str(book))
    assert stopped.returncode == 2
    assert "bin_rules/BL-1/rules/BR-3/targets/T-5/look_in/zones" in stopped.stderr and "MOON" in stopped.stderr

    for wrong, part in (("nothing: here", "unknown field"), ("{", "neither JSON nor YAML")):
        path = tmp_path / "wrong.yaml"
        path.write_text(wrong)
        bad = crate("rehearse", str(path))
        assert bad.returncode == 2 and part in bad.stderr
    assert crate("rehearse", str(tmp_path / "none.yaml")).returncode == 2
    other = tmp_path / "other.yaml"
    other.write_text(rope.read_text().replace("opening: ", "opening: x"))
    assert "not the demo's" in crate("rehearse", str(other)).stderr


def test_rehearsing_what_is_in_the_database(dsn: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """`draft` and `in-force` are taken from the database."""
    monkeypatch.setenv("CRATE_DATABASE", dsn)
    rope = FOLDER / "rehearsals" / "rope-by-the-pallet.yaml"
    for which in ("draft", "in-force", "draft:d-1"):
        done = crate("rehearse", str(rope), "--rulebook", which)
        assert done.returncode == 0, done.stderr
    assert crate("rehearse", str(rope), "--rulebook", "draft:d-9").returncode == 2
