"""Looking after an installation: a backup, putting one back, and what a doctor would look at."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import processes
import setup
from cluster import postgres_bin
from paths import DATA, PYTHON, ROOT, WEB, Sorry, remembered, say
from serving import answers


def _program(name: str) -> str:
    folder = postgres_bin()
    found = str(folder / name) if folder and (folder / name).exists() else shutil.which(name)
    if not found:
        raise Sorry(f"{name} is missing; it comes with PostgreSQL's client programs.")
    return found


def backup(dsn: str, file: Path) -> int:
    """Everything as it is at one moment, taken while the product runs. The file is whole or not there."""
    part = file.with_name(file.name + ".part")
    done = subprocess.run(
        [_program("pg_dump"), "--format=custom", "--no-owner", "--no-privileges", f"--dbname={dsn}", f"--file={part}"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    if done.returncode:
        part.unlink(missing_ok=True)
        raise Sorry(f"The backup could not be written, and nothing is left of it:\n{done.stderr.strip()[-600:]}")
    part.replace(file)
    say(f"{file}: {file.stat().st_size:,} bytes. It holds people's names and password hashes: keep it safe.")
    return 0


def check_backup(file: Path) -> None:
    """Refuse a file that is no backup before anything is cleared away."""
    if not file.is_file():
        raise Sorry(f"There is no file {file}.")
    done = subprocess.run([_program("pg_restore"), "--list", str(file)], capture_output=True, text=True, check=False)
    if done.returncode or "schema_migrations" not in done.stdout:
        raise Sorry(f"{file} is no backup of Mindful Crate; nothing was changed.")


def put_back(dsn: str, file: Path) -> None:
    """Replace what the database holds by a backup, all of it or nothing: the whole file is read before anything is
    touched, and clearing away and filling are one transaction."""
    with tempfile.NamedTemporaryFile(dir=DATA, suffix=".sql") as script:
        read = subprocess.run(
            [_program("pg_restore"), "--no-owner", "--no-privileges", f"--file={script.name}", str(file)],
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        if read.returncode:
            raise Sorry(f"{file} is damaged; nothing was changed:\n{read.stderr.strip()[-600:]}")
        done = subprocess.run(
            [_program("psql"), "--no-psqlrc", "--quiet", "--single-transaction", "--set=ON_ERROR_STOP=1",
             "--command=DROP SCHEMA public CASCADE", "--command=CREATE SCHEMA public", f"--file={script.name}",
             f"--dbname={dsn}"],
            stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True, check=False,
        )  # fmt: skip
    if done.returncode:
        raise Sorry(f"The backup could not be put back; nothing was changed:\n{done.stderr.strip()[-800:]}")


def doctor(dsn: str | None, own_cluster: bool) -> int:
    """What is present, missing or wrong, and how to mend it. 0 when nothing is wrong."""
    wrong = 0
    asked_for = bool(processes.known("launcher"))  # then what is down is wrong as well

    def look(name: str, well: bool, says: str, mend: str = "") -> None:
        nonlocal wrong
        wrong += not well
        say(f"{'well ' if well else 'WRONG'}  {name}: {says}" + (f"\n       {mend}" if mend and not well else ""))

    def down(name: str, says: str) -> None:
        nonlocal wrong
        wrong += asked_for
        say(f"DOWN   {name}: {says}")

    look("Python", sys.version_info >= (3, 11), sys.version.split()[0], "Install Python 3.11 or newer.")
    node = shutil.which("node")
    told = (
        subprocess.run([node, "--version"], capture_output=True, text=True, check=False).stdout.strip()
        if node
        else "none"
    )
    look("Node", setup.node_is_new_enough(told), told, "Install Node 20.19 or newer; it builds the screens.")
    folder = postgres_bin()
    look(
        "PostgreSQL",
        folder is not None or not own_cluster,
        str(folder or "none"),
        "As root: apt-get install postgresql",
    )
    look("Chromium", True, shutil.which("chromium") or "none; only tests need it")
    look("packages", PYTHON.exists(), "set up" if PYTHON.exists() else "not set up", "./crate up sets them up.")
    look(
        "screens",
        (WEB / "dist" / "index.html").exists(),
        "built" if (WEB / "dist").exists() else "not built",
        "./crate up builds them.",
    )
    free = shutil.disk_usage(DATA if DATA.exists() else ROOT).free
    look(
        "disk",
        free > 500_000_000,
        f"{free / 1e9:.1f} GB free",
        "Make room: below half a gigabyte the database may stop.",
    )
    state = DATA / "state.json"
    private = not state.exists() or state.stat().st_mode & 0o077 == 0
    look(
        "secrets",
        private,
        "readable by you alone" if private else f"{state} is readable by others",
        f"chmod 600 {state}",
    )
    port = remembered().get("port")
    if port and answers(int(port)):
        look("server", True, f"answers on port {port}")
    elif asked_for:
        down("server", f"was started and does not answer on port {port}; if that lasts: ./crate stop, then ./crate up")
    else:
        down("server", "not started; ./crate up starts it")
    if dsn is None:
        down("database", "does not run; " + ("./crate up is bringing it back" if asked_for else "./crate up starts it"))
    elif PYTHON.exists():
        done = subprocess.run(
            [str(PYTHON), "-m", "mindful_crate.cli", "examine"], capture_output=True, text=True, check=False,
            env={**os.environ, "PYTHONPATH": str(ROOT / "src"), "CRATE_DATABASE": dsn},
        )  # fmt: skip
        for line in done.stdout.splitlines():
            mark, _, rest = line.partition(" ")
            name, _, says = rest.partition(": ")
            look(name, mark == "well", says, "./crate up brings it up to date; if that fails, restore a backup.")
        if done.returncode and not done.stdout:
            look(
                "database",
                False,
                (done.stderr.strip().splitlines() or ["cannot be reached"])[-1][:200],
                "./crate stop, then ./crate up.",
            )
    say(f"{wrong} to mend." if wrong else "Nothing is wrong." if asked_for else "Nothing is wrong; it is not running.")
    return 1 if wrong else 0
