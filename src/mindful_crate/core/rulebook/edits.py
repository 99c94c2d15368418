"""Edits of a rulebook in its plain form: set, insert, remove and move by path.

A path is a row of steps joined by ``/``: field names, and in lists the ``id`` of the part meant, so that it
stays true when parts are reordered: ``bin_rules/BL-1/rules/BR-2/targets/T-3/wants``. Undo and redo step through
the versions a draft has had, so an edit needs no inverse.
"""

from __future__ import annotations

import copy
from typing import Any, Literal

from mindful_crate.core.plain import Plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record


@record
class Edit:
    """One change. ``set`` replaces what is at ``path``; ``insert`` puts ``value`` into the list at ``path``
    before position ``at``; ``remove`` takes the part at ``path`` away; ``move`` brings it to position ``at``."""

    op: Literal["set", "insert", "remove", "move"]
    path: str
    value: Any = None
    at: int | None = None


def apply_edits(plain: Plain, edits: tuple[Edit, ...]) -> Plain:
    """A copy of the plain rulebook with the edits made, one after the other."""
    plain = copy.deepcopy(plain)
    for edit in edits:
        _apply(plain, edit)
    return plain


def _apply(plain: Plain, edit: Edit) -> None:
    steps = edit.path.split("/")
    if edit.op == "insert":
        parent = _walk(plain, steps[:-1], edit.path)
        parts = parent.setdefault(steps[-1], []) if isinstance(parent, dict) else None
        if not isinstance(parts, list):
            raise _lost(edit.path)
        value_id = edit.value.get("id") if isinstance(edit.value, dict) else None
        if any(isinstance(p, dict) and p.get("id") == value_id for p in parts):
            raise Refusal("id_taken", f"`{value_id}` is there already.", edit.path)
        parts.insert(len(parts) if edit.at is None else edit.at, copy.deepcopy(edit.value))
        return
    parent, last = _walk(plain, steps[:-1], edit.path), steps[-1]
    if edit.op == "set":
        if not isinstance(parent, dict):
            raise _lost(edit.path)
        if edit.value is None:
            parent.pop(last, None)
        else:
            parent[last] = copy.deepcopy(edit.value)
        return
    if not isinstance(parent, list):
        raise _lost(edit.path)
    at = _position(parent, last, edit.path)
    part = parent.pop(at)
    if edit.op == "move":
        parent.insert(max(0, min(edit.at or 0, len(parent))), part)


def _walk(plain: Plain, steps: list[str], path: str) -> Any:
    for step in steps:
        if isinstance(plain, list):
            plain = plain[_position(plain, step, path)]
        elif isinstance(plain, dict):
            plain = plain.setdefault(step, {})
        else:
            raise _lost(path)
    return plain


def _position(parts: list[Any], wanted: str, path: str) -> int:
    for n, part in enumerate(parts):
        if isinstance(part, dict) and part.get("id") == wanted:
            return n
    raise _lost(path)


def _lost(path: str) -> Refusal:
    return Refusal("no_such_place", f"The rulebook has nothing at `{path}`; it may have been removed.", path)
