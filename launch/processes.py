"""Processes by id: which are still the ones we began, and ending them."""

from __future__ import annotations

import os
import signal
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from paths import locked, remember, remembered


@dataclass(frozen=True)
class Known:
    """A process we began: its name among ours, its id, and when it began in ticks since the machine did, so that another
    process that got the same id is never taken for it."""

    name: str
    pid: int
    began: int

    def lives(self) -> bool:
        """Does it still run?"""
        return began(self.pid) == self.began


def began(pid: int) -> int | None:
    """When a process began, in ticks; None if it runs no more."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return None
    return None if fields[0] in "ZX" else int(fields[19])


def note(name: str, pid: int) -> None:
    """Remember a process we began; those that ended are forgotten."""
    at = began(pid)
    with locked("processes"):
        kept = [[k.name, k.pid, k.began] for k in known()]
        remember(processes=[*kept, [name, pid, at]] if at is not None else kept)


def known(name: str = "") -> list[Known]:
    """Processes we began that still run, under one name or all."""
    found = [Known(*entry) for entry in remembered().get("processes", [])]
    return [k for k in found if (not name or k.name == name) and k.lives()]


def end(wanted: list[Known], patience: float = 15.0) -> list[Known]:
    """End processes: asked first, and forced when they do not within ``patience`` seconds. Those that still run are
    handed back."""
    for sign, seconds in ((signal.SIGTERM, patience), (signal.SIGKILL, 5.0)):
        for each in wanted:
            if each.lives():
                with suppress(ProcessLookupError, PermissionError):
                    os.kill(each.pid, sign)
        deadline = time.monotonic() + seconds
        while any(k.lives() for k in wanted) and time.monotonic() < deadline:
            time.sleep(0.05)
        wanted = [k for k in wanted if k.lives()]
    return wanted
