"""What is computed ahead comes out the same wherever it runs."""

from __future__ import annotations

import os
import subprocess
import sys

import pytest

from tests.conftest import ROOT


@pytest.mark.parametrize("hash_seed", ["0", "20261127"])
def test_the_same_on_every_machine(hash_seed: str) -> None:
    """Tours, splits and what wave plans reach: the same to the last stop, however texts are hashed."""
    done = subprocess.run(
        [sys.executable, "-m", "tests.everywhere"],
        cwd=ROOT,
        env={**os.environ, "PYTHONHASHSEED": hash_seed, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"},
        capture_output=True,
        text=True,
        check=True,
    )
    assert done.stdout.split() == ["3299f0264d0dcdfe", "a1f61f46d907d7ae", "70b9b4cd54d12f06"]
