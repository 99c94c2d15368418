"""The application as it is shipped: processes that share a port, as the launcher begins them."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import urllib.error
import urllib.request
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
LATE = "CRATE_TEST_LATE"
"""The variable that says how many seconds late answers may be, on the way there and once more on the way back; see ``tests/late.py``."""


class Server:
    """Server processes on a port of their own, which tests may kill and begin again on the same port."""

    def __init__(
        self,
        dsn: str,
        *,
        processes: int = 2,
        web: Path = ROOT / "web" / "dist",
        secret: str = "tests",
        quiet: bool = False,
    ) -> None:
        self.socket = self._open(0)
        self.port = self.socket.getsockname()[1]
        self.count, self.log = processes, subprocess.DEVNULL if quiet else None
        self.env = {
            **os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "CRATE_DATABASE": dsn, "CRATE_SECRET": secret,
            "CRATE_WEB": str(web), "CRATE_DOCUMENT": "no",
        }  # fmt: skip
        self.processes: list[subprocess.Popen[bytes]] = []

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    @staticmethod
    def _open(port: int) -> socket.socket:
        made = socket.socket()
        made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        made.bind(("127.0.0.1", port))
        made.listen(2048)
        return made

    def start(self) -> Server:
        if self.socket.fileno() < 0:
            self.socket = self._open(self.port)
        module = "tests.late" if os.environ.get(LATE) else "mindful_crate.api.serve"
        command = [sys.executable, "-m", module, str(self.socket.fileno())]
        self.processes = [
            subprocess.Popen(
                command,
                env=self.env,
                start_new_session=True,
                pass_fds=[self.socket.fileno()],
                stdout=self.log,
                stderr=self.log,
            )
            for _ in range(self.count)
        ]
        while not self._answers():
            assert all(p.poll() is None for p in self.processes), "the server ended at once"
        return self

    def kill(self) -> None:
        """Kill -9 of the servers and of whoever holds their port: nothing answers there any more."""
        for process in self.processes:
            process.kill()
            process.wait()
        self.processes = []
        self.socket.close()

    def stop(self) -> None:
        """End it as the launcher does, and give the port back."""
        for process in self.processes:
            process.terminate()
        for process in self.processes:
            process.wait()
        self.processes = []
        self.socket.close()

    def _answers(self) -> bool:
        try:
            with urllib.request.urlopen(f"{self.url}/api/health", timeout=2) as answer:
                return bool(answer.status == 200)
        except (urllib.error.URLError, OSError):
            return False
