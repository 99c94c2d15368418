"""Set up what is missing: Debian packages, the Python environment, the web parts. Each once, by content hash."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

from cluster import postgres_bin
from paths import DATA, PYTHON, ROOT, VENV, WEB, Sorry, remember, remembered, say

UV = "uv==0.13.9"


def run(*command: str | Path, cwd: Path = ROOT, env: dict[str, str] | None = None) -> None:
    """Run a program quietly; say what it printed when it fails."""
    done = subprocess.run(
        [str(c) for c in command], cwd=cwd, env={**os.environ, **(env or {})}, text=True,
        stdout=subprocess.PIPE, stderr=subprocess.STDOUT, stdin=subprocess.DEVNULL, check=False,
    )  # fmt: skip
    if done.returncode:
        raise Sorry(f"{' '.join(map(str, command[:4]))} failed:\n{done.stdout[-3000:]}")


FONT = Path("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
"""The font of printed labels."""


def debian(*, browser: bool) -> None:
    """PostgreSQL, and for tests a browser. As root they are installed; otherwise the command is told."""
    missing = []
    if postgres_bin() is None and not os.environ.get("CRATE_DATABASE_URL"):
        missing.append("postgresql")
    if browser and shutil.which("chromium") is None:
        missing.append("chromium")
    try:
        import ensurepip  # noqa: F401
    except ImportError:
        missing.append("python3-venv")
    if not os.geteuid() and shutil.which("apt-get") and not FONT.exists():
        missing.append("fonts-dejavu-core")  # labels have western letters only without it
    if missing:
        command = f"apt-get install -y --no-install-recommends {' '.join(missing)}"
        if os.geteuid() or shutil.which("apt-get") is None:
            raise Sorry(f"Something is missing. As root, run:\n  apt-get update && {command}\nThen run this again.")
        say(f"Installing {', '.join(missing)} ...")
        quiet = {"DEBIAN_FRONTEND": "noninteractive"}
        run("apt-get", "update", env=quiet)
        run(*command.split(), env=quiet)
    node = shutil.which("node")
    version = subprocess.run([node, "--version"], capture_output=True, text=True, check=False).stdout if node else ""
    if not node_is_new_enough(version) or shutil.which("npm") is None:
        raise Sorry(f"Node 20.19 or newer with npm is needed to build the screens; found {version.strip() or 'none'}.")


def node_is_new_enough(version: str) -> bool:
    """Can this Node build the screens?"""
    numbers = version.strip().lstrip("v").split(".")[:2]
    return len(numbers) == 2 and all(n.isdigit() for n in numbers) and tuple(map(int, numbers)) >= (20, 19)


def once(name: str, key: str, *, unless: Path | None = None) -> bool:
    """Is this step still to do for this content? Call :func:`done` after it."""
    return remembered().get(f"done {name}") != key or (unless is not None and not unless.exists())


def done(name: str, key: str) -> None:
    """A step was done for this content."""
    remember(**{f"done {name}": key})


def hashed(*paths: Path) -> str:
    """Hash of files and of all files below folders."""
    total = hashlib.sha256()
    for path in paths:
        for file in sorted(p for p in path.rglob("*") if p.is_file()) if path.is_dir() else [path]:
            if "generated" not in file.parts and "__pycache__" not in file.parts:
                total.update(str(file.relative_to(ROOT)).encode() + file.read_bytes())
    return total.hexdigest()[:20]


def python(*, tests: bool = False) -> None:
    """The virtual environment with the locked packages; those of the tests only for tests."""
    lock, more = ROOT / "requirements.lock", ROOT / "requirements-test.lock"
    key = hashed(lock) + sys.version[:6]
    env = {"VIRTUAL_ENV": str(VENV), "UV_PYTHON_DOWNLOADS": "never", "UV_SYSTEM_CERTS": "1"}
    install = (VENV / "bin" / "uv", "pip", "install", "--quiet", "--require-hashes", "-r")
    if once("python", key, unless=PYTHON):
        say("Setting up Python packages ...")
        shutil.rmtree(VENV, ignore_errors=True)
        DATA.mkdir(parents=True, exist_ok=True)
        run(sys.executable, "-m", "venv", VENV)
        run(PYTHON, "-m", "pip", "install", "--quiet", UV)
        run(*install, lock, env=env)
        done("python", key)
        done("python of the tests", "")
    if tests and once("python of the tests", key + hashed(more)):
        say("Setting up the Python packages of the tests ...")
        run(*install, more, env=env)
        done("python of the tests", key + hashed(more))


def node(script: str) -> list[str]:
    """The command that runs a program of the npm packages. Node is given its file: ``npm run`` would look for it along
    a search path, which not every folder's name can be part of."""
    return [shutil.which("node") or "node", str(WEB / "node_modules" / script)]


def web() -> None:
    """The npm packages and the built screens, with types made from the API's own document."""
    lock = hashed(WEB / "package-lock.json")
    if once("npm", lock, unless=WEB / "node_modules"):
        say("Setting up the parts of the screens ...")
        run("npm", "ci", "--no-fund", "--no-audit", cwd=WEB)
        done("npm", lock)
    sources = [WEB / n for n in ("src", "index.html", "handset.html", "vite.config.ts", "tsconfig.json", "sizes.mjs")]
    key = hashed(*sources, ROOT / "src" / "mindful_crate" / "api", ROOT / "src" / "mindful_crate" / "core") + lock
    if once("screens", key, unless=WEB / "dist" / "index.html"):
        say("Building the screens ...")
        types()
        run(*node("vite/bin/vite.js"), "build", cwd=WEB)
        run(shutil.which("node") or "node", "sizes.mjs", cwd=WEB)
        done("screens", key)


def types() -> None:
    """The OpenAPI document and the TypeScript types made from it."""
    generated = WEB / "src" / "shared" / "generated"
    generated.mkdir(parents=True, exist_ok=True)
    document = generated / "openapi.json"
    run(PYTHON, "-m", "mindful_crate.cli", "openapi", document, env={"PYTHONPATH": str(ROOT / "src")})
    run(*node("openapi-typescript/bin/cli.js"), document, "-o", generated / "api.d.ts", cwd=WEB)


def everything(*, tests: bool = False) -> None:
    """All that ``up`` and ``test`` need."""
    debian(browser=tests)
    python(tests=tests)
    web()
