"""Ending with the launcher, whatever ends it: ``CRATE_LEASH`` is the reading end of a pipe that it holds open."""

from __future__ import annotations

import os
import signal
import threading


def hold() -> None:
    """End this process, as if told to, when the launcher is gone. Does nothing when no launcher began it."""
    if leash := os.environ.get("CRATE_LEASH"):
        threading.Thread(target=_wait, args=(int(leash),), daemon=True, name="leash").start()


def _wait(pipe: int) -> None:
    os.read(pipe, 1)  # nothing is ever written to it: it only closes
    os.kill(os.getpid(), signal.SIGTERM)
