"""Edits of a rulebook in its plain form: set, insert, remove, move, add, copy, share and own by path.

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
from mindful_crate.core.rulebook.adding import FOR_ALL, FirstPart, at, begins, copied, with_ids
from mindful_crate.core.rulebook.settings import GENERAL


@record
class Edit:
    """One change. ``set`` replaces what is at ``path``; ``insert`` puts ``value`` into the list at ``path``
    before position ``at``; ``remove`` takes the part at ``path`` away; ``move`` brings it to position ``at``; ``add`` puts a
    new part into the list at ``path``, made after what was chosen for it (``value``); ``copy`` puts a part once more, after
    itself; ``share`` gives a part to all sites; ``own`` puts a part of all sites once more, before itself, as the own of the
    site ``value``. What is added, copied, shared or made a site's own gets an id of its own; only a crew that is shared
    keeps its id, since people belong to it by that."""

    op: Literal["set", "insert", "remove", "move", "add", "copy", "share", "own"]
    path: str
    value: Any = None
    at: int | None = None


def _nothing(plain: Plain, path: str, choice: Any) -> dict[str, Any]:
    raise Refusal("nothing_to_add", f"Nothing is added at `{path}`.", path)


def apply_edits(
    plain: Plain, edits: tuple[Edit, ...], first: FirstPart = _nothing, made: list[str] | None = None
) -> Plain:
    """A copy of the plain rulebook with the edits made, one after the other. ``first`` says how a new part begins; ``made``
    gets the paths of what was added, copied, shared or made a site's own."""
    plain = copy.deepcopy(plain)
    for edit in edits:
        path = _share(plain, edit.path) if edit.op == "share" else _apply(plain, _spelled_out(plain, edit, first))
        if edit.op in ("add", "copy", "share", "own") and made is not None:
            made.append(path)
    return plain


def _share(plain: Plain, path: str) -> str:
    """Give a part to all sites, and let what names it here name it by its new id."""
    list_, _, old = path.partition("/")
    part = at(plain, path)
    if not isinstance(part, dict) or "/" in old or list_ == "settings":
        raise _lost(path)
    if list_ == "crews":
        part.pop("site", None)
        return path
    made = with_ids(plain, list_, part, FOR_ALL)
    made.pop("site", None)
    _walk(plain, [list_], path)[_position(plain[list_], old, path)] = made
    if list_ == "flows":
        for menu in plain.get("menus", []):
            menu["flows"] = [made["id"] if flow == old else flow for flow in menu.get("flows", [])]
    return f"{list_}/{made['id']}"


def _spelled_out(plain: Plain, edit: Edit, first: FirstPart) -> Edit:
    """An edit that adds or copies, as the insertion it is."""
    if edit.op == "add":
        list_ = edit.path.rpartition("/")[2]
        part = with_ids(plain, list_, first(plain, edit.path, edit.value), begins(edit.path))
        return Edit("insert", edit.path, part, edit.at)
    if edit.op == "copy":
        list_path, _, id_ = edit.path.rpartition("/")
        part = copied(plain, edit.path)
        return Edit("insert", list_path, part, _position(at(plain, list_path), id_, edit.path) + 1)
    if edit.op == "own":
        list_path, _, id_ = edit.path.rpartition("/")
        own = {**copied(plain, edit.path, "here"), "site": edit.value}
        return Edit("insert", list_path, own, _position(at(plain, list_path), id_, edit.path))
    return edit


def _apply(plain: Plain, edit: Edit) -> str:
    """Make one edit; the path of what was inserted."""
    steps = edit.path.split("/")
    if steps[0] == "settings" and len(steps) > 2:
        if edit.value is None and at(plain, f"settings/{steps[1]}") is None:
            return ""  # nothing is set there: there is nothing to take away
        _layer(plain, steps[1])
    if edit.op == "insert":
        parent = _walk(plain, steps[:-1], edit.path)
        parts = parent.setdefault(steps[-1], []) if isinstance(parent, dict) else None
        if not isinstance(parts, list):
            raise _lost(edit.path)
        value_id = edit.value.get("id") if isinstance(edit.value, dict) else None
        if any(isinstance(p, dict) and p.get("id") == value_id for p in parts):
            raise Refusal("id_taken", f"`{value_id}` is there already.", edit.path)
        parts.insert(len(parts) if edit.at is None else edit.at, copy.deepcopy(edit.value))
        return f"{edit.path}/{value_id}"
    parent, last = _walk(plain, steps[:-1], edit.path), steps[-1]
    if edit.op == "set":
        if not isinstance(parent, dict):
            raise _lost(edit.path)
        if edit.value is None:
            parent.pop(last, None)
        else:
            parent[last] = copy.deepcopy(edit.value)
        return ""
    if not isinstance(parent, list):
        raise _lost(edit.path)
    part = parent.pop(_position(parent, last, edit.path))
    if edit.op == "move":
        parent.insert(max(0, min(edit.at or 0, len(parent))), part)
    return ""


def _layer(plain: Plain, id_: str) -> None:
    """A layer of settings is there from when something is set in it."""
    layers = plain.setdefault("settings", [])
    if not any(layer.get("id") == id_ for layer in layers):
        layers.append({"id": id_} if id_ == GENERAL else {"id": id_, "site": id_})


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
