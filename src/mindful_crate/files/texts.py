"""Rulebook and rehearsal files: JSON or YAML in, one stable form out."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, TypeVar

import yaml

from mindful_crate.core.plain import Misfit, from_plain, to_plain
from mindful_crate.core.problem import Problem, Refusal
from mindful_crate.core.proving import script
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.rulebook import book
from mindful_crate.core.rulebook.book import Rulebook

T = TypeVar("T")


class BadText(Exception):
    """A file that is not what it should be."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(f"{problem.place}: {problem.says}")
        self.problem = problem


def read_rulebook(text: str, name: str = "rulebook") -> Rulebook:
    """A rulebook from JSON or YAML."""
    return _read(Rulebook, text, name, book.SHAPE)


def read_rehearsal(text: str, name: str = "rehearsal") -> Rehearsal:
    """A rehearsal from YAML or JSON."""
    found = _read(Rehearsal, text, name, script.SHAPE)
    ids = [s.id for s in found.steps]
    twice = next((i for i in ids if ids.count(i) > 1), None)
    if twice:
        raise BadText(Problem("same_id", f"Step {twice} stands twice; each step needs an id of its own.", name))
    return found


def _read(kind: type[T], text: str, name: str, shape: int) -> T:
    try:
        plain = yaml.safe_load(text)  # every JSON text is YAML too
    except yaml.YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        where = f" at line {mark.line + 1}, column {mark.column + 1}" if mark else ""
        what = getattr(error, "problem", None) or "it cannot be read"
        raise BadText(Problem("unreadable", f"This is neither JSON nor YAML{where}: {what}.", name)) from None
    except RecursionError:
        raise BadText(Problem("unreadable", "It nests too deep.", name)) from None
    if isinstance(plain, dict) and plain.get("shape", shape) != shape:
        says = f"It has shape {plain['shape']}; this version reads shape {shape}."
        raise BadText(Problem("other_shape", says, name))
    try:
        return from_plain(kind, plain)
    except Misfit as misfit:
        place = f"{name}: {misfit.place}" if misfit.place else name
        raise BadText(Problem("bad_shape", f"{misfit.says}.", place)) from None
    except Refusal as refusal:
        raise BadText(refusal.problem) from None


def with_shape(plain: Any, shape: int) -> Any:
    """A file's data with its shape first."""
    return {"shape": shape, **{k: v for k, v in plain.items() if k != "shape"}}


def rulebook_text(rulebook: Rulebook) -> str:
    """A rulebook as JSON; the same rulebook gives the same text."""
    return json.dumps(with_shape(to_plain(rulebook), book.SHAPE), indent=2, ensure_ascii=False) + "\n"


def rehearsal_text(rehearsal: Rehearsal) -> str:
    """A rehearsal as YAML; the same rehearsal gives the same text."""
    plain = with_shape(to_plain(rehearsal), script.SHAPE)
    text: str = yaml.safe_dump(plain, sort_keys=False, allow_unicode=True, width=110, default_flow_style=None)
    return text


def read_path(path: Path) -> str:
    """The text of a file; a :class:`BadText` in words when it cannot be had."""
    try:
        return path.read_text(encoding="utf-8")
    except FileNotFoundError:
        raise BadText(Problem("no_file", "There is no such file.", str(path))) from None
    except (UnicodeDecodeError, IsADirectoryError):
        raise BadText(Problem("unreadable", "This is no text in UTF-8.", str(path))) from None
