"""Where things lie, and what the launcher remembers between runs."""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any


class Sorry(Exception):
    """Something a person must do; the text says what."""


def _plain(path: Path) -> Path:
    """The same folder under a name that search paths can hold: they know no way to write a colon or a line's end."""
    if not set(str(path)) & {os.pathsep, "\n"}:
        return path
    alias = Path.home() / ".cache" / "mindful-crate" / hashlib.sha256(os.fsencode(path)).hexdigest()[:16]
    alias.parent.mkdir(parents=True, exist_ok=True)
    if not alias.is_symlink() or Path(os.readlink(alias)) != path:
        alias.unlink(missing_ok=True)
        alias.symlink_to(path)
    return alias


ROOT = _plain(Path(__file__).resolve().parent.parent)
DATA = _plain(Path(os.environ["CRATE_DATA"]).absolute()) if os.environ.get("CRATE_DATA") else ROOT / ".crate"
VENV = DATA / "venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"


def remembered() -> dict[str, Any]:
    """What was decided at an earlier run: ports, folders, secrets."""
    path = DATA / "state.json"
    return json.loads(path.read_text()) if path.exists() else {}


def remember(**values: Any) -> None:
    """Keep decisions for the next run, readable by the owner alone."""
    with locked("state"):
        path = DATA / "state.json"
        new = path.with_suffix(".new")
        fd = os.open(new, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with os.fdopen(fd, "w") as file:
            json.dump({**remembered(), **values}, file, indent=1)
        new.replace(path)


@contextmanager
def locked(name: str, waiting: str = "") -> Iterator[None]:
    """Alone with something of this data folder, among all launchers; ``waiting`` is said when another has it."""
    DATA.mkdir(parents=True, exist_ok=True)
    with (DATA / f"{name}.lock").open("w") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            if waiting:
                say(waiting)
            fcntl.flock(file, fcntl.LOCK_EX)
        yield


def alone() -> Any:
    """Alone with setting up and starting; whoever comes second waits, in words."""
    return locked("setup", "Another ./crate is setting up or starting here; waiting until it is done ...")


def say(text: str) -> None:
    """One line for the person at the terminal; what is served goes on when nobody reads it, and ends well: what was not read is not
    written again at the end."""
    try:
        print(text, flush=True)
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
