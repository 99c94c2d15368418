"""Rulebook and rehearsal files: JSON or YAML in, one stable form out."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from mindful_crate.core.plain import Misfit, Plain, from_plain, to_plain
from mindful_crate.core.problem import Problem, Refusal
from mindful_crate.core.proving import script
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.rulebook import book, versions
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.matters import BUTTONS
from mindful_crate.files.reading import Unreadable, from_yaml, to_yaml

T = TypeVar("T")
FIRST_YEAR, LAST_YEAR = 1970, 2300
"""Years a rehearsal may begin in; far from where calendars end."""


class BadText(Exception):
    """A file that is not what it should be."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(f"{problem.place}: {problem.says}")
        self.problem = problem


def read_rulebook(text: str, name: str = "rulebook") -> Rulebook:
    """A rulebook from JSON or YAML."""
    return _read(versions.read_rulebook, text, name)


def read_rehearsal(text: str, name: str = "rehearsal") -> Rehearsal:
    """A rehearsal from YAML or JSON."""
    found = _read(_rehearsal, text, name)
    ids = [s.id for s in found.steps]
    twice = next((i for i in ids if ids.count(i) > 1), None)
    if twice:
        raise BadText(Problem("same_id", f"Step {twice} stands twice; each step needs an id of its own.", name))
    if found.starts.tzinfo is None:
        says = f"{found.starts.isoformat()} names no zone: write it as UTC, like 2026-03-02T07:30:00+00:00."
        raise BadText(Problem("no_zone", says, f"{name}: starts"))
    if not FIRST_YEAR <= found.starts.year <= LAST_YEAR:
        says = f"It begins in the year {found.starts.year}; years from {FIRST_YEAR} to {LAST_YEAR} are read."
        raise BadText(Problem("odd_year", says, f"{name}: starts"))
    return found


def _read(read: Callable[[Plain], T], text: str, name: str) -> T:
    try:
        return read(from_yaml(text))
    except Unreadable as error:
        raise BadText(Problem("unreadable", str(error), name)) from None
    except Misfit as misfit:
        place = f"{name}: {misfit.place}" if misfit.place else name
        raise BadText(Problem("bad_shape", f"{misfit.says}.", place)) from None
    except Refusal as refusal:
        raise BadText(refusal.problem) from None


def _rehearsal(plain: Plain) -> Rehearsal:
    shape = plain.get("shape", script.SHAPE) if isinstance(plain, dict) else script.SHAPE
    if shape != script.SHAPE:
        raise Misfit("shape", f"this version reads rehearsals of shape {script.SHAPE}, not {shape}")
    read = from_plain(Rehearsal, plain)
    for n, step in enumerate(read.steps):
        do = step.do
        if isinstance(do, script.DoPress) and do.action not in BUTTONS:
            says = f'"{do.action}" is none of {", ".join(sorted(BUTTONS))}'
            raise Misfit(f"steps/{n}/do/action", says)
        if isinstance(do, script.DoOffice):
            for name, _ in do.made:
                if script.named_by(do.act, name) is None:
                    raise Misfit(f"steps/{n}/do/made", f'"{name}" is no field that names what a step makes')
    return read


def with_shape(plain: Any, shape: int) -> Any:
    """A file's data with its shape first."""
    return {"shape": shape, **{k: v for k, v in plain.items() if k != "shape"}}


def rulebook_text(rulebook: Rulebook) -> str:
    """A rulebook as JSON; the same rulebook gives the same text."""
    return json.dumps(with_shape(to_plain(rulebook), book.SHAPE), indent=2, ensure_ascii=False) + "\n"


def rehearsal_text(rehearsal: Rehearsal) -> str:
    """A rehearsal as YAML; the same rehearsal gives the same text."""
    return to_yaml(with_shape(to_plain(rehearsal), script.SHAPE))


def read_path(path: Path) -> str:
    """The text of a file; a :class:`BadText` in words when it cannot be had."""
    try:
        return path.read_text(encoding="utf-8-sig")
    except FileNotFoundError:
        says = "There is no such file."
    except IsADirectoryError:
        says = "This is a folder; name a file in it."
    except UnicodeDecodeError:
        says = "This is no text in UTF-8."
    except (OSError, ValueError) as error:
        says = f"It cannot be read: {getattr(error, 'strerror', None) or error}."
    raise BadText(Problem("unreadable", says, str(path)))
