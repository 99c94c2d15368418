"""Every bench runs from beginning to end at a tiny size, so that none is found broken on the day a figure is wanted."""

from __future__ import annotations

import json
import os
import subprocess
import sys

import pytest

from tests.bench.__main__ import BENCHES
from tests.conftest import ROOT


@pytest.mark.parametrize("name", sorted(BENCHES))
def test_a_bench_runs(server_dsn: str, name: str) -> None:
    """It ends well, prints a table that nothing else lies in, and each line has a figure."""
    env = {
        **os.environ,
        "CRATE_BENCH_TINY": "1",
        "CRATE_TEST_DATABASE": server_dsn,
        "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}",
    }
    done = subprocess.run(
        [sys.executable, "-m", "tests.bench", name, "--json"],
        cwd=ROOT,
        env=env,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-3000:]
    lines = json.loads(done.stdout)["lines"]
    assert lines and all(line["name"] and line["ratio"] >= 0 for line in lines)
