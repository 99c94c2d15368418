"""The launcher: one command for each thing a person does with a checkout. Standard library only."""

from __future__ import annotations

import os
import secrets
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))

import setup
from cluster import Cluster, free_port
from paths import PYTHON, ROOT, VENV, WEB, Sorry, remember, remembered, say

HELP = """Mindful Crate

  ./crate up              set up what is missing, load the demo, serve it; Ctrl-C ends it
  ./crate stop            stop what `up` left running
  ./crate reset [--yes]   the demo anew: every world, draft and rehearsal is cleared away
  ./crate test [area]     all tests, or those of core, store, api, browser, web or checks
  ./crate rehearse FILE [--rulebook FILE|draft|in-force] [--junit OUT]
                          run a rehearsal file; exit 0 passed, 1 failed, 2 unusable
  ./crate bench [name] [--json]
                          measure speed against yardsticks: bins, explain, opening, fold, store, handsets
  ./crate psql            PostgreSQL's prompt on the product's database
"""


def environment(cluster: Cluster) -> dict[str, str]:
    """What the application is told by its environment."""
    secret = remembered().get("secret") or secrets.token_urlsafe(32)
    remember(secret=secret)
    return {
        **os.environ,
        "PYTHONPATH": str(ROOT / "src"),
        "CRATE_DATABASE": cluster.dsn(),
        "CRATE_SECRET": secret,
        "CRATE_WEB": str(WEB / "dist"),
    }


def cli(cluster: Cluster, *args: str) -> int:
    """Run the application's own command line."""
    return subprocess.run(
        [str(PYTHON), "-m", "mindful_crate.cli", *args], env=environment(cluster), check=False
    ).returncode


def up() -> int:
    """Serve the demo until Ctrl-C."""
    setup.everything()
    cluster = Cluster()
    was_running = cluster.running()
    cluster.start()
    port = int(os.environ.get("CRATE_PORT") or remembered().get("port") or free_port())
    if _answers(port):
        say(f"Mindful Crate is running already: http://127.0.0.1:{port}")
        return 0
    if cli(cluster, "prepare"):
        return 1
    remember(port=port)
    server = subprocess.Popen(
        [str(VENV / "bin" / "gunicorn"), "--config", str(ROOT / "launch" / "gunicorn_conf.py"),
         "--bind", f"127.0.0.1:{port}", "mindful_crate.api.app:from_environment()"],
        env=environment(cluster), start_new_session=True,
    )  # fmt: skip
    remember(server=server.pid)

    def end(*_: object) -> None:
        server.send_signal(signal.SIGTERM)

    signal.signal(signal.SIGINT, end)
    signal.signal(signal.SIGTERM, end)
    _wait_until(port, server)
    say(f"\nMindful Crate is ready: http://127.0.0.1:{port}   (Ctrl-C ends it)\n")
    code = server.wait()
    remember(server=None)
    if not was_running:
        cluster.stop()
    return 0 if code in (0, -signal.SIGTERM) else code


def _answers(port: int) -> bool:
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2) as answer:
            return b"mindful-crate" in answer.read()
    except (urllib.error.URLError, OSError):
        return False


def _wait_until(port: int, server: subprocess.Popen[bytes]) -> None:
    deadline = time.monotonic() + 60
    while not _answers(port):
        if server.poll() is not None:
            raise Sorry("The server ended at once; what it printed is above.")
        if time.monotonic() > deadline:
            server.terminate()
            raise Sorry("The server did not answer within a minute.")
        time.sleep(0.1)


def stop() -> int:
    """End what ``up`` started, should it still run, and the database server."""
    pid = remembered().get("server")
    if pid and _is_ours(pid):
        os.kill(pid, signal.SIGTERM)
        for _ in range(100):
            if not _is_ours(pid):
                break
            time.sleep(0.1)
    remember(server=None)
    Cluster().stop()
    say("Stopped.")
    return 0


def _is_ours(pid: int) -> bool:
    try:
        return b"mindful_crate" in Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False


def reset(args: list[str]) -> int:
    """The demo anew."""
    if "--yes" not in args:
        answer = input("Every world, draft and rehearsal is cleared away and the demo loaded anew. Type yes: ")
        if answer.strip() != "yes":
            say("Nothing was changed.")
            return 1
    setup.everything()
    cluster = Cluster()
    was_running = cluster.running()
    cluster.start()
    code = cli(cluster, "prepare", "--anew")
    if not was_running:
        cluster.stop()
    return code


def test(areas: list[str]) -> int:
    """All tests; the areas are folders of ``tests``, ``checks`` (types and lint) and ``web``."""
    setup.everything(tests=True)
    cluster = Cluster()
    was_running = cluster.running()
    cluster.start()
    env = {**environment(cluster), "CRATE_TEST_DATABASE": cluster.dsn("postgres")}
    wanted = areas or ["checks", "web", "python"]
    failed = []

    def step(name: str, *command: str, cwd: Path = ROOT) -> None:
        say(f"== {name}")
        if subprocess.run(command, cwd=cwd, env=env, check=False).returncode:
            failed.append(name)

    if "checks" in wanted:
        step("mypy", str(VENV / "bin" / "mypy"))
        step("ruff", str(VENV / "bin" / "ruff"), "check", "src", "tests", "launch")
    if "web" in wanted or "checks" in wanted:
        setup.types()
        step("screens: types and lint", "npm", "run", "--silent", "check", cwd=WEB)
    pytest = [str(PYTHON), "-m", "pytest"]
    if "python" in wanted:
        step("tests", *pytest)
    elif folders := [str(ROOT / "tests" / a) for a in wanted if (ROOT / "tests" / a).is_dir()]:
        step("tests", *pytest, *folders)
    if not was_running:
        cluster.stop()
    say(f"FAILED: {', '.join(failed)}" if failed else "All passed.")
    return 1 if failed else 0


def rehearse(args: list[str]) -> int:
    """Run rehearsal files on the command line."""
    setup.debian(browser=False)
    setup.python()
    if not any(a in ("draft", "in-force") for a in args):
        env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        return subprocess.run(
            [str(PYTHON), "-m", "mindful_crate.cli", "rehearse", *args], env=env, check=False
        ).returncode
    cluster = Cluster()
    was_running = cluster.running()
    cluster.start()
    code = cli(cluster, "rehearse", *args)
    if not was_running:
        cluster.stop()
    return code


def bench(args: list[str]) -> int:
    """Speed, as ratios to yardsticks that run in the same process or on the same server."""
    setup.everything(tests=True)
    cluster = Cluster()
    was_running = cluster.running()
    cluster.start()
    env = {**environment(cluster), "CRATE_TEST_DATABASE": cluster.dsn("postgres")}
    code = subprocess.run([str(PYTHON), "-m", "tests.bench", *args], cwd=ROOT, env=env, check=False).returncode
    if not was_running:
        cluster.stop()
    return code


def psql() -> int:
    """PostgreSQL's prompt."""
    cluster = Cluster()
    cluster.start()
    env = {**os.environ, "PGPASSWORD": cluster.password}
    return subprocess.run(
        [str(cluster.bin / "psql"), "-h", "127.0.0.1", "-p", str(cluster.port), "-U", "crate", "crate"],
        env=env,
        check=False,
    ).returncode


def main(args: list[str]) -> int:
    """Run one command."""
    commands = {
        "up": lambda rest: up(),
        "stop": lambda rest: stop(),
        "reset": reset,
        "test": test,
        "rehearse": rehearse,
        "bench": bench,
        "psql": lambda rest: psql(),
    }
    if not args or args[0] not in commands:
        say(HELP)
        return 0 if not args or args[0] in ("help", "--help", "-h") else 2
    try:
        return commands[args[0]](args[1:])
    except Sorry as sorry:
        print(sorry, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
