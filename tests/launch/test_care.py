"""Backup, restore, doctor, a server of one's own, folders of any name, and coming back after kills, with the launcher
itself."""

from __future__ import annotations

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request
from collections import deque
from collections.abc import Iterator
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import psycopg
import pytest

from mindful_crate.demo.people import DEMO_PEOPLE
from tests.conftest import ROOT

sys.path.insert(0, str(ROOT / "launch"))

import processes
import serving
import setup
from main import in_database
from paths import Sorry


class Crate:
    """The launcher over a database of this test, with a data folder of its own that shares what is set up."""

    def __init__(self, dsn: str, data: Path) -> None:
        parts = psycopg.conninfo.conninfo_to_dict(dsn) if dsn else {}
        self.url = (
            f"postgresql://{parts['user']}:{parts['password']}@{parts['host']}:{parts['port']}/{parts['dbname']}"
            if dsn
            else ""
        )
        self.data = data
        real = Path(os.environ.get("CRATE_DATA", ROOT / ".crate"))
        data.mkdir()
        for shared in ("venv", "pycache"):
            (data / shared).symlink_to(real / shared)
        known = json.loads((real / "state.json").read_text())
        (data / "state.json").write_text(json.dumps({k: v for k, v in known.items() if k.startswith("done ")}))
        (data / "state.json").chmod(0o600)
        self.env = {
            **os.environ,
            "CRATE_DATA": str(data),
            "CRATE_DATABASE_URL": self.url,
            "CRATE_LAN_ADDRESS": "127.0.0.1",
        }
        for own in ("CRATE_PORT", "PYTHONUNBUFFERED"):  # as where nobody has set anything
            self.env.pop(own, None)

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

    def pids(self, name: str) -> list[int]:
        """Processes of that name that still run."""
        listed = json.loads((self.data / "state.json").read_text()).get("processes", [])
        return [pid for n, pid, began in listed if n == name and processes.began(pid) == began]

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
    assert well.returncode == 0 and "Nothing is wrong; it is not running." in well.stdout, well.stdout
    assert "DOWN   server: not started" in well.stdout
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
    """The launcher killed with -9, what it began left behind: that ends with it, and the next `up` serves again, over
    TLS to phones too."""
    first = crate.up()
    assert crate.well()
    left = crate.pids("worker") + crate.pids("server")
    assert len(left) == 3
    first.kill()  # nobody ends what it began
    first.wait(timeout=30)
    second = crate.up("--lan")
    assert crate.well()
    assert not set(crate.pids("worker") + crate.pids("server")) & set(left)
    assert all(processes.began(pid) is None for pid in left)
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


@pytest.fixture
def on_its_own() -> Iterator[Crate]:
    """An installation with a database server of its own, in a folder whose name no shell and no search path would like.
    It stands where the system user of the database may enter."""
    base = Path(tempfile.mkdtemp(dir="/var/tmp"))
    base.chmod(0o755)
    odd = base / 'My "Apps" it\'s $HOME & co:lon'
    odd.mkdir(mode=0o755)
    made = Crate("", odd / "data")
    made.env |= {"CRATE_DATABASE_URL": "", "HOME": str(base)}
    yield made
    made.run("stop")
    shutil.rmtree(base)


def test_what_ends_is_begun_again_the_database_first(on_its_own: Crate) -> None:
    """In a folder of any name: the database killed, then a server and the worker; each is back and serves. The doctor
    knows what is down. A second start says that it runs; `stop` ends everything."""
    crate = on_its_own
    started = crate.up("--empty")  # how the demo is loaded, others show
    assert crate.well()
    again = crate.run("up")
    assert again.returncode == 0 and "is running already" in again.stdout
    home = Path(json.loads((crate.data / "state.json").read_text())["pg_home"])
    assert home.parent.name == "data" or home.is_relative_to(Path(crate.env["HOME"]))

    def database() -> int:
        return int((home / "data" / "postmaster.pid").read_text().splitlines()[0])

    was = database()
    os.kill(was, signal.SIGKILL)
    while not crate.well() or database() == was:
        assert started.poll() is None
    killed = {crate.pids("server")[0], *crate.pids("worker")}
    for pid in killed:
        os.kill(pid, signal.SIGKILL)
        assert crate.well()  # the other server has the port as well
    while killed & {*crate.pids("server"), *crate.pids("worker")}:
        assert started.poll() is None
    while len(crate.pids("server")) < 2 or not crate.pids("worker"):
        assert started.poll() is None
    assert "Nothing is wrong." in crate.run("doctor").stdout
    ended = crate.run("stop")
    assert ended.returncode == 0 and "Stopped." in ended.stdout
    assert started.wait(timeout=30) == 0
    assert not [n for n in ("launcher", "server", "worker") if crate.pids(n)] and not crate.well()
    assert "DOWN   database" in crate.run("doctor").stdout
    assert "Nothing was running." in crate.run("stop").stdout


def test_two_starts_at_once_wait_for_each_other(crate: Crate) -> None:
    """One serves, the other waits, says so, and says where it runs."""
    command = [sys.executable, str(ROOT / "launch" / "main.py"), "up"]
    both = [subprocess.Popen(command, env=crate.env, stdout=subprocess.PIPE, text=True) for _ in range(2)]
    with both[0] as one, both[1] as two:
        assert one.stdout and two.stdout
        said: dict[str, list[str]] = {"one": [], "two": []}

        def read(name: str, lines: Any) -> None:
            for line in lines:
                said[name].append(line)
                if "is ready" in line:
                    break

        readers = [threading.Thread(target=read, args=a) for a in (("one", one.stdout), ("two", two.stdout))]
        for each in readers:
            each.start()
        for each in readers:
            each.join()
        texts = ["".join(lines) for lines in said.values()]
        assert sorted("is ready" in t for t in texts) == [False, True]
        waited = next(t for t in texts if "is ready" not in t)
        assert "waiting until it is done" in waited and "is running already" in waited
        assert crate.well() and len(crate.pids("launcher")) == 1
        crate.run("stop")


def test_a_taken_port_is_answered_with_the_next(crate: Crate) -> None:
    """A sentence names both; what is no port is refused in words."""
    with socket.create_server(("127.0.0.1", 0)) as other:
        port = other.getsockname()[1]
        crate.env["CRATE_PORT"] = str(port)
        command = [sys.executable, str(ROOT / "launch" / "main.py"), "up"]
        with subprocess.Popen(command, env=crate.env, stdout=subprocess.PIPE, text=True) as started:
            assert started.stdout
            said = ""
            while "is ready" not in said:
                said += started.stdout.readline()
            assert f"Port {port} is taken" in said and crate.state("port") != port and crate.well()
            started.terminate()
    for wrong in ("x", "0", "70000", "-1", "１"):
        crate.env["CRATE_PORT"] = wrong
        refused = crate.run("up")
        assert refused.returncode == 1 and "no port" in refused.stderr and "Traceback" not in refused.stderr


def test_a_rulebook_of_the_database_is_known_by_its_name(crate: Crate) -> None:
    """However it is written; and it is then looked for there."""
    assert all(
        in_database(a.split()) for a in ("f --rulebook draft", "f --rulebook draft:d-1", "--rulebook=in-force f")
    )
    assert not in_database(["draft-of-mine.yaml", "--rulebook", "book.json"])
    file = ROOT / "src" / "mindful_crate" / "demo" / "halloway_quay" / "rehearsals" / "wrong-scans.yaml"
    for which in ("--rulebook=draft:d-1", "--rulebook=in-force"):
        done = crate.run("rehearse", str(file), which)
        assert done.returncode == 0 and done.stdout.startswith("passed"), done.stderr
    unknown = crate.run("rehearse", str(file), "--rulebook", "draft:d-9")
    assert unknown.returncode == 2 and "Traceback" not in unknown.stderr


def test_packages_come_by_the_certificates_of_the_machine(monkeypatch: pytest.MonkeyPatch) -> None:
    """Behind an authority of one's own uv trusts what the system trusts, as pip and npm do."""
    told: list[dict[str, str]] = []
    monkeypatch.setattr(setup, "run", lambda *command, **more: told.append(more.get("env") or {}))
    monkeypatch.setattr(setup, "once", lambda *_, **__: True)
    monkeypatch.setattr(setup, "done", lambda *_: None)
    monkeypatch.setattr(setup.shutil, "rmtree", lambda *_, **__: None)
    setup.python(tests=True)
    installs = [env for env in told if env]
    assert len(installs) == 2 and all(env["UV_SYSTEM_CERTS"] == "1" for env in installs)


def test_what_ends_too_often_is_given_up() -> None:
    """Five ends within a minute, and a sentence with the log's place instead of a sixth start."""
    ends: deque[float] = deque(maxlen=serving.TRIES)
    for _ in range(serving.TRIES - 1):
        serving.too_often(ends, "The server", "its.log")
    with pytest.raises(Sorry, match=r"5 times within a minute.*its\.log"):
        serving.too_often(ends, "The server", "its.log")
    long_ago = deque([-1000.0 * n for n in range(5, 0, -1)], maxlen=serving.TRIES)
    serving.too_often(long_ago, "The server", "its.log")


def test_a_database_that_does_not_start_at_once_is_tried_again(monkeypatch: pytest.MonkeyPatch) -> None:
    """A failed try is one of the five, no end of everything; the next look tries again, and the fifth gives up."""
    tried: list[bool] = []

    class Balky:
        port, log = 1, "its.log"

        def running(self) -> bool:
            return False

        def start(self) -> None:
            tried.append(True)
            raise Sorry("It did not start.")

    floor: Any = object.__new__(serving.Floor)
    floor.base = SimpleNamespace(cluster=Balky())
    floor.told_to_end, floor.kept, floor._database_ends = False, [], deque(maxlen=serving.TRIES)
    for _ in range(serving.TRIES - 1):
        floor._database()
    with pytest.raises(Sorry, match="given up"):
        floor._database()
    assert len(tried) == serving.TRIES - 1
