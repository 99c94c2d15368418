"""Who may import whom. The core stands alone; the shell parts know the core, never one another's insides."""

from __future__ import annotations

import ast
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

SRC = Path(__file__).resolve().parents[2] / "src" / "mindful_crate"
OUTSIDE_WORLD = {
    "os",
    "time",
    "random",
    "socket",
    "subprocess",
    "pathlib",
    "urllib",
    "zoneinfo",
    "threading",
    "secrets",
    "uuid",
    "sqlite3",
    "io",
}
"""Standard modules that bring clock, chance, or input and output."""
MAY_IMPORT = {
    "core": {"core"},
    "files": {"core", "files"},
    "demo": {"core", "files", "store", "demo"},
    "store": {"core", "store"},
    "jobs": {"core", "files", "store", "jobs"},
    "outside": {"core", "files", "store", "outside"},
    "api": {"core", "files", "jobs", "outside", "store", "demo", "api"},
}


def imports(path: Path) -> Iterator[tuple[str, int]]:
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from ((alias.name, node.lineno) for alias in node.names)
        elif isinstance(node, ast.ImportFrom) and node.module:
            yield node.module, node.lineno


@pytest.mark.parametrize("part", sorted(MAY_IMPORT))
def test_parts_import_only_what_they_may(part: str) -> None:
    """Each part of the house imports only the parts the architecture allows."""
    wrong = []
    for path in (SRC / part).rglob("*.py"):
        for name, line in imports(path):
            pieces = name.split(".")
            if pieces[0] == "mindful_crate" and len(pieces) > 1 and pieces[1] not in MAY_IMPORT[part]:
                wrong.append(f"{path.name}:{line} imports {name}")
    assert wrong == []


def test_core_is_standard_library_without_the_outside_world() -> None:
    """The core imports the standard library alone, and of it nothing with a clock, chance, input or output."""
    wrong = []
    for path in (SRC / "core").rglob("*.py"):
        for name, line in imports(path):
            top = name.split(".")[0]
            if top != "mindful_crate" and (top not in sys.stdlib_module_names or top in OUTSIDE_WORLD):
                wrong.append(f"{path.name}:{line} imports {name}")
    assert wrong == []


def test_core_reads_no_clock_and_uses_no_floats() -> None:
    """No ``datetime.now`` or ``today()``, and no float literal, anywhere in the core."""
    wrong = []
    for path in (SRC / "core").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            called = isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr
            if called in ("now", "utcnow") or (
                called == "today" and isinstance(node.func.value, ast.Name) and node.func.value.id == "date"
            ):  # type: ignore[union-attr]
                wrong.append(f"{path.name}:{node.lineno} reads a clock")
            if isinstance(node, ast.Constant) and isinstance(node.value, float):
                wrong.append(f"{path.name}:{node.lineno} has a float")
            if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Div):
                wrong.append(f"{path.name}:{node.lineno} divides into a float")
    assert wrong == []


def test_only_folding_puts() -> None:
    """Keepers change in the floor itself and where events are folded; whoever decides, asks or tells only reads."""
    wrong = []
    for path in (SRC / "core").rglob("*.py"):
        text = path.read_text()
        if path.parent.name == "floor" or path.name == "fold.py" or "core.floor" not in text:
            continue
        for part in ast.parse(text).body:
            if isinstance(part, ast.FunctionDef) and any("At" in ast.unparse(a) for a in part.args.args[2:3]):
                continue  # a fold of a matter that is one module
            for node in ast.walk(part):
                if isinstance(node, ast.Attribute) and node.attr in ("put", "put_clock", "put_host"):
                    wrong.append(f"{path.name}:{node.lineno} calls {node.attr}")
    assert wrong == []


LAYERS: dict[str, set[str]] = {
    "catalog": set(),
    "rulebook": {"catalog"},
    "walking": {"catalog"},
    "packing": {"catalog"},
    "releasing": {"catalog", "rulebook", "walking", "floor"},
    "placing": {"catalog", "rulebook", "walking"},
    "floor": {"catalog", "rulebook", "placing"},
    "scanning": {"catalog", "rulebook", "placing", "floor"},
    "work": {"catalog", "rulebook", "walking", "packing", "placing", "floor", "scanning", "releasing"},
    "world": {"catalog", "rulebook", "placing", "floor", "scanning", "work"},
    "proving": {"catalog", "rulebook", "packing", "placing", "floor", "scanning", "releasing", "work", "world"},
}
"""Within the core, from what is to what is proved."""
EVERYBODY = {"chance", "memo", "record", "plain", "problem", "trail"}
SHARED = {"making", "papers", "rows", "stamp", "office"}
"""Modules of ``work`` that serve every matter."""
ABOVE = {"handset", "matters", "table"}
"""Modules of ``work`` that stand over the matters: the handset runs the flows of all, the tables list them."""
ENDING = "mindful_crate.core.work.handset.events"
"""A matter may end the dialogue in which its work was being done."""


@pytest.mark.parametrize("part", sorted(LAYERS))
def test_within_the_core_nobody_looks_up(part: str) -> None:
    """Each part imports only those below it; within ``work``, what serves several matters knows none by name, the matters
    know neither the handset nor their table, and the handset knows the table alone."""
    wrong = []
    for path in (SRC / "core" / part).rglob("*.py"):
        for name, line in imports(path):
            pieces = name.split(".")
            if pieces[:2] != ["mindful_crate", "core"] or len(pieces) < 3:
                continue
            if pieces[2] not in {part, *LAYERS[part], *EVERYBODY}:
                wrong.append(f"{path.name}:{line} imports {name}")
            if part == "work" and pieces[2] == "work" and len(pieces) > 3:
                own = path.relative_to(SRC / "core" / "work").parts[0].removesuffix(".py")
                if own in SHARED:
                    may = pieces[3] in SHARED
                elif own in ABOVE:
                    may = own in ("matters", "table") or pieces[3] in {"handset", "matters", *SHARED}
                else:
                    may = pieces[3] not in ABOVE or name == ENDING
                if not may:
                    wrong.append(f"{path.name}:{line} knows {name}")
    assert wrong == []


def test_sql_stands_in_sql_files_only() -> None:
    """No SQL statement is written in Python outside the module that runs them."""
    words = ("SELECT ", "INSERT INTO", "UPDATE ", "DELETE FROM")
    wrong = []
    for path in SRC.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Constant) and isinstance(node.value, str) and node.value.lstrip().startswith(words):
                wrong.append(f"{path.name}:{node.lineno}")
    assert wrong == []
