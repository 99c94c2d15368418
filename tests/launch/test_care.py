"""Backup, restore, doctor, a server of one's own, and coming back after a kill, with the launcher itself."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from mindful_crate.demo.people import DEMO_PEOPLE
from tests.conftest import ROOT


class Crate:
    """The launcher over a database of this test, with a data folder of its own that shares what is set up."""

    def __init__(self, dsn: str, data: Path) -> None:
        parts = psycopg.conninfo.conninfo_to_dict(dsn)
        self.url = f"postgresql://{parts['user']}:{parts['password']}@{parts['host']}:{parts['port']}/{parts['dbname']}"
        self.data = data
        real = Path(os.environ.get("CRATE_DATA", ROOT / ".crate"))
        data.mkdir()
        (data / "venv").symlink_to(real / "venv")
        known = json.loads((real / "state.json").read_text())
        (data / "state.json").write_text(json.dumps({k: v for k, v in known.items() if k.startswith("done ")}))
        (data / "state.json").chmod(0o600)
        self.env = {
            **os.environ,
            "CRATE_DATA": str(data),
            "CRATE_DATABASE_URL": self.url,
            "CRATE_LAN_ADDRESS": "127.0.0.1",
        }

    def run(self, *args: str) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, str(ROOT / "launch" / "main.py"), *args]
        return subprocess.run(
            command, env=self.env, capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL
        )

    def up(self, *args: str) -> subprocess.Popen[str]:
        command = [sys.executable, str(ROOT / "launch" / "main.py"), "up", *args]
        started = subprocess.Popen(command, env=self.env, stdout=subprocess.PIPE, text=True)
        assert started.stdout
        for line in started.stdout:
            if "is ready" in line:
                started.stdout.close()
                return started
        raise AssertionError("it did not come up")

    def state(self, name: str) -> int:
        return int(json.loads((self.data / "state.json").read_text())[name])

    def well(self) -> bool:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{self.state('port')}/api/health", timeout=5) as answer:
                return b"mindful-crate" in answer.read()
        except OSError:
            return False


@pytest.fixture
def crate(dsn: str, tmp_path: Path) -> Iterator[Crate]:
    made = Crate(dsn, tmp_path / "data")
    yield made
    made.run("stop")


def test_a_backup_is_put_back_whole(crate: Crate, dsn: str, tmp_path: Path) -> None:
    """What was there at the backup is there again; what came after is gone; a file that is none changes nothing."""
    with psycopg.connect(dsn) as conn:
        before = conn.execute("SELECT id, name FROM rehearsal ORDER BY id").fetchall()
    file = tmp_path / "kept.crate"
    assert crate.run("backup", str(file)).returncode == 0 and file.stat().st_size > 10_000
    assert crate.run("backup", str(tmp_path / "no" / "such" / "folder")).returncode == 1
    with psycopg.connect(dsn) as conn:
        conn.execute("DELETE FROM rehearsal")
    text = tmp_path / "text"
    text.write_text("this is none")
    refused = crate.run("restore", str(text), "--yes")
    assert refused.returncode == 1 and "no backup" in refused.stderr
    torn = tmp_path / "torn"
    torn.write_bytes(file.read_bytes()[: file.stat().st_size * 2 // 3])
    refused = crate.run("restore", str(torn), "--yes")
    assert refused.returncode == 1 and "nothing was changed" in refused.stderr
    with psycopg.connect(dsn) as conn:
        assert conn.execute("SELECT count(*) FROM person").fetchone() == (len(DEMO_PEOPLE),)
    assert crate.run("restore", str(file)).returncode != 0  # nobody said yes
    done = crate.run("restore", str(file), "--yes")
    assert done.returncode == 0, done.stderr
    with psycopg.connect(dsn) as conn:
        assert conn.execute("SELECT id, name FROM rehearsal ORDER BY id").fetchall() == before


def test_the_doctor_says_what_is_wrong(crate: Crate, dsn: str) -> None:
    """All well; then a pending migration, and a secrets file that others may read."""
    well = crate.run("doctor")
    assert well.returncode == 0 and "Nothing is wrong." in well.stdout, well.stdout
    with psycopg.connect(dsn) as conn:
        taken = conn.execute(
            "DELETE FROM schema_migrations WHERE version = '20261125000000' RETURNING version"
        ).fetchone()
    (crate.data / "state.json").chmod(0o644)
    ill = crate.run("doctor")
    assert taken and ill.returncode == 1
    assert "WRONG  migrations: 1 are pending" in ill.stdout and "chmod 600" in ill.stdout
    with psycopg.connect(dsn) as conn:
        conn.execute("INSERT INTO schema_migrations VALUES ('20261125000000')")


def test_it_comes_back_after_a_kill_and_serves_phones(crate: Crate) -> None:
    """The master killed with -9, its workers left behind: the next `up` waits them out and serves again, over TLS to
    phones too."""
    first = crate.up()
    assert crate.well()
    left = crate.state("worker")
    assert b"work" in Path(f"/proc/{left}/cmdline").read_bytes()
    first.kill()  # the launcher too, so that nobody ends the worker
    os.kill(crate.state("server"), signal.SIGKILL)
    first.wait(timeout=30)
    second = crate.up("--lan")
    assert crate.well()
    assert crate.state("worker") != left
    assert not Path(f"/proc/{left}/cmdline").exists() or Path(f"/proc/{left}/cmdline").read_bytes() == b""
    done = subprocess.run(
        [sys.executable, "-c", "import ssl, sys, urllib.request as u; c = ssl.create_default_context(cafile=sys.argv[1]); print(u.urlopen(sys.argv[2], context=c, timeout=10).read())",
         str(crate.data / "lan.crt"), f"https://127.0.0.1:{crate.state('lan_port')}/api/health"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert "mindful-crate" in done.stdout, done.stderr
    assert (crate.data / "lan.key").stat().st_mode & 0o077 == 0
    second.send_signal(signal.SIGTERM)
    assert second.wait(timeout=30) == 0
    deadline = time.monotonic() + 10
    while crate.well() and time.monotonic() < deadline:
        pass
    assert not crate.well()
