"""A PostgreSQL cluster of our own: loopback and a private socket, started and stopped by us alone."""

from __future__ import annotations

import os
import pwd
import secrets
import shutil
import socket
import subprocess
import tempfile
from pathlib import Path

from paths import DATA, Sorry, remember, remembered

LONGEST_SOCKET = 90
"""A socket's path may have 107 bytes; PostgreSQL adds its own name to the folder."""


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
        self.socket = self.home / "socket"

    def _home(self) -> Path:
        """A folder PostgreSQL may enter: ours if it can, else one under the system's place for such things."""
        wanted = DATA / "postgres"
        if (os.geteuid() == 0 and not self._can_enter(DATA.parent)) or len(str(wanted / "socket")) > LONGEST_SOCKET:
            return Path(tempfile.mkdtemp(prefix="mindful-crate-", dir="/var/tmp"))
        return wanted

    @staticmethod
    def _can_enter(folder: Path) -> bool:
        return all(p.stat().st_mode & 0o001 for p in [folder, *folder.parents] if p.exists())

    def dsn(self, database: str = "crate") -> str:
        """Address of a database of the cluster."""
        return f"host=127.0.0.1 port={self.port} user=crate password={self.password} dbname={database}"

    def running(self) -> bool:
        """Is the server up?"""
        return self._pg("pg_ctl", "status", "-D", str(self.data), check=False).returncode == 0

    def start(self) -> None:
        """Make the cluster if there is none, and start it if it is not running."""
        if not (self.data / "PG_VERSION").exists():
            self._init()
        if self.running():
            return
        if not self._port_free():
            self.port = free_port()
            remember(pg_port=self.port)
        options = f"-c listen_addresses=127.0.0.1 -p {self.port} -k {self.socket}"
        log = self.home / "server.log"
        done = self._pg("pg_ctl", "start", "-w", "-s", "-D", str(self.data), "-l", str(log), "-o", options, check=False)
        if done.returncode:
            tail = log.read_text()[-1500:] if log.exists() else done.stdout
            raise Sorry(f"PostgreSQL did not start:\n{tail}")
        exists = self._sql("postgres", "SELECT 1 FROM pg_database WHERE datname = 'crate'")
        if not exists.strip():
            self._sql("postgres", "CREATE DATABASE crate")

    def stop(self) -> None:
        """Stop the server, if it runs."""
        if (self.data / "PG_VERSION").exists() and self.running():
            self._pg("pg_ctl", "stop", "-w", "-s", "-m", "fast", "-D", str(self.data))

    def _init(self) -> None:
        for folder in (self.home, self.data, self.socket):
            folder.mkdir(parents=True, exist_ok=True)
            folder.chmod(0o700)
        password = self.home / "password"
        password.write_text(self.password)
        if os.geteuid() == 0:
            owner = pwd.getpwnam("postgres")
            for path in (self.home, self.data, self.socket, password):
                os.chown(path, owner.pw_uid, owner.pw_gid)
        self._pg(
            "initdb", "-D", str(self.data), "-U", "crate", "-E", "UTF8", "--locale=C.UTF-8",
            "--auth-local=peer", "--auth-host=scram-sha-256", f"--pwfile={password}",
        )  # fmt: skip
        password.unlink()

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

    def _pg(self, program: str, *args: str, check: bool = True) -> subprocess.CompletedProcess[str]:
        command = [str(self.bin / program), *args]
        if os.geteuid() == 0:  # PostgreSQL refuses to run as root
            command = ["runuser", "-u", "postgres", "--", *command]
        done = subprocess.run(
            command, cwd="/", stdout=subprocess.PIPE if program != "pg_ctl" or "start" not in args else subprocess.DEVNULL,
            stderr=subprocess.STDOUT, text=True, check=False,
        )  # fmt: skip
        if check and done.returncode:
            raise Sorry(f"{program} failed:\n{done.stdout}")
        return done
