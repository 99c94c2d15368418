"""Where things lie, and what the launcher remembers between runs."""

from __future__ import annotations

import json
import os
from contextlib import suppress
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
DATA = Path(os.environ.get("CRATE_DATA", ROOT / ".crate")).resolve()
VENV = DATA / "venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"


class Sorry(Exception):
    """Something a person must do; the text says what."""


def remembered() -> dict[str, Any]:
    """What was decided at an earlier run: ports, folders, secrets."""
    path = DATA / "state.json"
    return json.loads(path.read_text()) if path.exists() else {}


def remember(**values: Any) -> None:
    """Keep decisions for the next run, readable by the owner alone."""
    DATA.mkdir(parents=True, exist_ok=True)
    path = DATA / "state.json"
    new = path.with_suffix(".new")
    fd = os.open(new, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(fd, "w") as file:
        json.dump({**remembered(), **values}, file, indent=1)
    new.replace(path)


def say(text: str) -> None:
    """One line for the person at the terminal; what is served goes on when nobody reads it."""
    with suppress(BrokenPipeError):
        print(text, flush=True)
