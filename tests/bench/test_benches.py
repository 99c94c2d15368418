"""Every bench runs from beginning to end at a tiny size, so that none is found broken on the day a figure is wanted."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from dataclasses import dataclass
from typing import Any

import pytest

from tests.bench.__main__ import BENCHES
from tests.conftest import ROOT


@dataclass
class Ran:
    """What all benches printed: figures, a name each; and what went wrong."""

    lines: dict[str, list[dict[str, Any]]]
    wrong: str


@pytest.fixture(scope="module")
def ran(server_dsn: str) -> Ran:
    """All benches in one process, as ``./crate bench --json`` runs them; nothing but the table is printed."""
    env = {
        **os.environ,
        "CRATE_BENCH_TINY": "1",
        "CRATE_TEST_DATABASE": server_dsn,
        "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}",
    }
    done = subprocess.run(
        [sys.executable, "-m", "tests.bench", "--json"], cwd=ROOT, env=env, capture_output=True, text=True, check=False
    )
    lines: dict[str, list[dict[str, Any]]] = {}
    for line in json.loads(done.stdout)["lines"]:
        lines.setdefault(line["bench"], []).append(line)
    return Ran(lines, done.stderr)


@pytest.mark.parametrize("name", sorted(BENCHES))
def test_a_bench_runs(ran: Ran, name: str) -> None:
    """It ends well, and each line has a figure."""
    assert f"The bench {name} broke off" not in ran.wrong, ran.wrong[-3000:]
    lines = ran.lines[name]
    assert lines and all(line["name"] and line["ratio"] >= 0 for line in lines)
