"""The database everything runs on, and what the application is told by its environment."""

from __future__ import annotations

import os
import secrets
import socket
import subprocess
from urllib.parse import urlsplit

from cluster import Cluster
from paths import DATA, PYTHON, ROOT, WEB, remember, remembered


class Base:
    """Our own cluster, or the server that CRATE_DATABASE_URL names."""

    def __init__(self) -> None:
        self.url = os.environ.get("CRATE_DATABASE_URL", "")
        self.cluster = None if self.url else Cluster()
        self.was_running = True

    def start(self) -> None:
        """Start our own cluster if it is ours to start."""
        if self.cluster:
            self.was_running = self.cluster.running()
            self.cluster.start()

    def end(self) -> None:
        """Stop what :meth:`start` started."""
        if self.cluster and not self.was_running:
            self.cluster.stop()

    def reachable(self) -> bool:
        """Does a server answer there?"""
        if self.cluster:
            return self.cluster.running()
        parts = urlsplit(self.url)
        try:
            with socket.create_connection((parts.hostname or "127.0.0.1", parts.port or 5432), timeout=2):
                return True
        except OSError:
            return False

    def dsn(self) -> str:
        """Its address."""
        return self.url or (self.cluster.dsn() if self.cluster else "")

    def environment(self) -> dict[str, str]:
        """What the application is told by its environment."""
        secret = remembered().get("secret") or secrets.token_urlsafe(32)
        remember(secret=secret)
        devices = os.environ.get("CRATE_DEVICES")
        kept = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
        return {
            **kept,
            "PYTHONPATH": str(ROOT / "src"),
            # what Python compiles is kept beside the data, not in the source: each process starts a quarter faster
            "PYTHONPYCACHEPREFIX": str(DATA / "pycache"),
            "CRATE_DATABASE": self.dsn(),
            "CRATE_SECRET": secret,
            "CRATE_WEB": str(WEB / "dist"),
            "CRATE_HOST_FOLDER": os.environ.get("CRATE_HOST_FOLDER") or str(DATA / "host"),
            **({"CRATE_DEVICES": os.path.abspath(devices)} if devices else {}),
        }

    def for_tests(self) -> dict[str, str]:
        """The same for tests and benches, which make databases of their own."""
        return {**self.environment(), "CRATE_TEST_DATABASE": self.cluster.dsn("postgres") if self.cluster else self.url}

    def cli(self, *args: str) -> int:
        """Run the application's own command line."""
        return subprocess.run(
            [str(PYTHON), "-m", "mindful_crate.cli", *args], env=self.environment(), check=False
        ).returncode
