"""What a new kind of work costs: one module and six central entries. Taking any one of them away fails a check."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.conftest import ROOT

HERE = Path(__file__).parent / "made_up"
IMPORTED = "from mindful_crate.core.record import record\n"
CENTRAL = {
    "act": (
        "world/acts.py",
        (IMPORTED, IMPORTED + "from mindful_crate.core.work.sweeping import SweepUp\n"),
        ("OfficeAct = ", "OfficeAct = SweepUp | "),
    ),
    "event": (
        "world/events.py",
        (IMPORTED, IMPORTED + "from mindful_crate.core.work.sweeping import SweptUp\n"),
        ("\nEvent = ", "\nEvent = SweptUp | "),
    ),
    "matter": (
        "work/matters.py",
        ("\nMATTERS = (\n", "\nfrom mindful_crate.core.work.sweeping import SWEEPING\n\nMATTERS = (\n    SWEEPING,\n"),
    ),
    "purpose": ("rulebook/flows.py", ("    RECEIVE = ", '    SWEEP = "sweep", "sweep shards up"\n    RECEIVE = ')),
    "asks": ("rulebook/flows.py", ("    ORDER = ", '    SHARDS = "shards", "The shards"\n    ORDER = ')),
    "document": ("catalog/refs.py", ("    MESSAGE = ", '    SWEEPING = "sweeping"\n    MESSAGE = ')),
}
"""The six entries: the file of the core, and what stands there before and after."""
OWN = {
    "decides": "    decides=(deciding(SweepUp, _sweep),),\n",
    "folds": "    folds=(folding(SweptUp, _swept),),\n",
    "words": '    words=(telling(SweptUp, lambda e: f"`{e.bin}` swept"),),\n',
    "asked": '    asked=(telling(SweepUp, lambda a: f"The office has `{a.bin}` swept"),),\n',
    "flows": "    flows={FlowPurpose.SWEEP: Sweep()},  # type: ignore[attr-defined]\n",
    "prompts": "    prompts={Asks.SHARDS: ShardsKind()},  # type: ignore[attr-defined]\n",
    "papers": "    papers=(SweepingPaper(),),\n",
}
"""What its row in its own module says."""


class House:
    """A copy of the code that knows the made-up matter."""

    def __init__(self, folder: Path) -> None:
        self.src = folder / "src"
        self.core = self.src / "mindful_crate" / "core"
        shutil.copytree(ROOT / "src", self.src, ignore=shutil.ignore_patterns("__pycache__", "static"))
        shutil.copy(HERE / "sweeping.py", self.core / "work" / "sweeping.py")
        for file, *edits in CENTRAL.values():
            for before, after in edits:
                self.edit(file, before, after)

    def edit(self, file: str, before: str, after: str) -> None:
        path = self.core / file
        text = path.read_text()
        assert text.count(before) == 1, f"{file} has {text.count(before)} times {before!r}"
        path.write_text(text.replace(before, after))

    def runs(self, what: str) -> subprocess.CompletedProcess[str]:
        env = {**os.environ, "PYTHONPATH": f"{self.src}{os.pathsep}{ROOT}", "PYTHONDONTWRITEBYTECODE": "1"}
        return subprocess.run(
            [sys.executable, HERE / f"{what}.py"], env=env, capture_output=True, text=True, timeout=120, check=False
        )


@pytest.fixture(scope="module")
def house(tmp_path_factory: pytest.TempPathFactory) -> House:
    """The copy, made once; whoever changes it mends it again."""
    return House(tmp_path_factory.mktemp("house"))


def test_a_new_matter_is_known_everywhere(house: House) -> None:
    """It is in the copy that it is found, and it works there; nothing else was touched."""
    for what, says in (("closed", "closed"), ("try_it", "known everywhere")):
        done = house.runs(what)
        assert (done.returncode, done.stdout.strip()) == (0, says), done.stderr[-2000:]


@pytest.mark.parametrize("entry", sorted(CENTRAL))
def test_a_central_entry_that_is_forgotten_is_found(house: House, entry: str) -> None:
    """By the checks that close the tables, which know nothing of the matter."""
    file, *edits = CENTRAL[entry]
    for before, after in edits:
        house.edit(file, after, before)
    try:
        assert house.runs("closed").returncode != 0
    finally:
        for before, after in edits:
            house.edit(file, before, after)


@pytest.mark.parametrize("entry", sorted(OWN))
def test_what_its_row_leaves_out_is_found(house: House, entry: str) -> None:
    """Likewise."""
    house.edit("work/sweeping.py", OWN[entry], "")
    try:
        done = house.runs("closed")
        assert "AssertionError" in done.stderr and done.returncode != 0, done.stderr
    finally:
        shutil.copy(HERE / "sweeping.py", house.core / "work" / "sweeping.py")
