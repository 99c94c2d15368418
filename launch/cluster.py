"""A PostgreSQL cluster of our own: on loopback, started and stopped by us alone.

Its programs are run from the cluster's own folder and told of it by a relative name, so no shell and no option ever
sees the name of the folder the product lies in.
"""

from __future__ import annotations

import os
import pwd
import secrets
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from pathlib import Path
from typing import Any

from paths import DATA, Sorry, remember, remembered
from processes import began

STARTING = 120.0
"""Seconds a start may take: after a crash the log is replayed first."""
ENDING = 30.0


def postgres_bin() -> Path | None:
    """The folder of PostgreSQL's programs: the newest of Debian's, or the one pg_config names."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda p: float(p.parts[4]))
    if found:
        return found[-1].parent
    config = shutil.which("pg_config")
    if config:
        folder = Path(subprocess.run([config, "--bindir"], capture_output=True, text=True, check=False).stdout.strip())
        if (folder / "initdb").exists():
            return folder
    return None


def free_port() -> int:
    """A port nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Cluster:
    """The cluster of this checkout's data folder."""

    def __init__(self) -> None:
        folder = postgres_bin()
        if folder is None:
            raise Sorry("PostgreSQL is not installed.")
        self.bin = folder
        state = remembered()
        self.home = Path(state.get("pg_home") or self._home())
        self.port = int(state.get("pg_port") or free_port())
        self.password = state.get("pg_password") or secrets.token_urlsafe(18)
        remember(pg_home=str(self.home), pg_port=self.port, pg_password=self.password)
        self.data = self.home / "data"
        self.log = self.home / "server.log"
        self.process: subprocess.Popen[bytes] | None = None

    def _home(self) -> Path:
        """A folder PostgreSQL may enter: ours if it can, else one under the system's place for such things."""
        if os.geteuid() == 0 and not self._can_enter(DATA.parent):
            return Path(tempfile.mkdtemp(prefix="mindful-crate-", dir="/var/tmp"))
        return DATA / "postgres"

    @staticmethod
    def _can_enter(folder: Path) -> bool:
        ways = {p for way in (folder, folder.resolve()) for p in (way, *way.parents)}
        return all(p.stat().st_mode & 0o001 for p in ways if p.exists())

    def dsn(self, database: str = "crate") -> str:
        """Address of a database of the cluster."""
        return f"host=127.0.0.1 port={self.port} user=crate password={self.password} dbname={database}"

    def running(self) -> bool:
        """Is the server up?"""
        return self._pid() is not None

    def _pid(self) -> int | None:
        """The server's process; None when it does not run, whatever its file says."""
        try:
            pid = int((self.data / "postmaster.pid").read_text().splitlines()[0])
            works_in = os.readlink(f"/proc/{pid}/cwd")
        except (OSError, ValueError, IndexError):
            return None
        return pid if began(pid) is not None and Path(works_in) == self.data.resolve() else None

    def start(self) -> None:
        """Make the cluster if there is none, and start it if it is not running."""
        if not (self.data / "PG_VERSION").exists():
            self._init()
        if not self.running():
            self._begin()
        exists = self._sql("postgres", "SELECT 1 FROM pg_database WHERE datname = 'crate'")
        if not exists.strip():
            self._sql("postgres", "CREATE DATABASE crate")

    def _begin(self) -> None:
        """Start the server and wait until it serves. One that was killed leaves others behind for some moments, so it is
        tried again until they are gone."""
        deadline = time.monotonic() + STARTING
        while True:
            if not self._port_free():
                self.port = free_port()
                remember(pg_port=self.port)
            with self.log.open("ab") as log:
                os.chmod(self.log, 0o600)
                said = log.tell()
                self.process = process = subprocess.Popen(
                    [str(self.bin / "postgres"), "-D", "data", "-c", "listen_addresses=127.0.0.1", "-c", f"port={self.port}",
                     "-c", "unix_socket_directories="],
                    cwd=self.home, stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True, **self._as(),
                )  # fmt: skip
            while process.poll() is None and time.monotonic() < deadline:
                if self._ready(process.pid):
                    return
                time.sleep(0.05)
            if time.monotonic() > deadline:
                process.send_signal(signal.SIGINT)
                raise Sorry(f"PostgreSQL did not start within two minutes. Its log: {self.log}")
            tail = self.log.read_bytes()[said:].decode(errors="replace")[-1500:]
            if not any(word in tail for word in ("still in use", "Address already in use", "Is another postmaster")):
                raise Sorry(f"PostgreSQL did not start:\n{tail}")
            time.sleep(0.3)

    def _ready(self, pid: int) -> bool:
        try:
            lines = (self.data / "postmaster.pid").read_text().splitlines()
        except OSError:
            return False
        return len(lines) > 7 and lines[0] == str(pid) and lines[7].strip() == "ready"

    def stop(self) -> bool:
        """Stop the server, if it runs. Is it down?"""
        for sign in (signal.SIGINT, signal.SIGQUIT):  # its fast, then its immediate way of ending
            pid = self._pid()
            if pid is None:
                return True
            os.kill(pid, sign)
            deadline = time.monotonic() + ENDING
            while self._pid() is not None and time.monotonic() < deadline:
                time.sleep(0.05)
        return self._pid() is None

    def _init(self) -> None:
        for folder in (self.home, self.data):
            folder.mkdir(parents=True, exist_ok=True)
            folder.chmod(0o700)
        password = self.home / "password"
        password.write_text(self.password)
        if os.geteuid() == 0:
            owner = pwd.getpwnam("postgres")
            for path in (self.home, self.data, password):
                os.chown(path, owner.pw_uid, owner.pw_gid)
        done = subprocess.run(
            [str(self.bin / "initdb"), "-D", "data", "-U", "crate", "-E", "UTF8", "--locale=C.UTF-8",
             "--auth-local=peer", "--auth-host=scram-sha-256", "--pwfile=password"],
            cwd=self.home, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, check=False, **self._as(),
        )  # fmt: skip
        password.unlink()
        if done.returncode:
            shutil.rmtree(self.data, ignore_errors=True)
            raise Sorry(f"The database could not be made:\n{done.stdout[-1500:]}")

    @staticmethod
    def _as() -> dict[str, Any]:
        """As whom its programs run: PostgreSQL refuses to run as root."""
        if os.geteuid():
            return {}
        owner = pwd.getpwnam("postgres")
        return {"user": owner.pw_uid, "group": owner.pw_gid, "extra_groups": []}

    def _port_free(self) -> bool:
        with socket.socket() as probe:
            return probe.connect_ex(("127.0.0.1", self.port)) != 0

    def _sql(self, database: str, statement: str) -> str:
        done = subprocess.run(
            [str(self.bin / "psql"), "-XAtq", "-h", "127.0.0.1", "-p", str(self.port), "-U", "crate", "-d", database,
             "-c", statement],
            env={**os.environ, "PGPASSWORD": self.password}, capture_output=True, text=True, check=False,
        )  # fmt: skip
        if done.returncode:
            raise Sorry(f"PostgreSQL refused: {done.stderr.strip()}")
        return done.stdout
