"""The one place where text somebody sends becomes data: JSON and YAML, within bounds.

What comes out nests no deeper than ``MOST_DEEP``, holds whole numbers of at most 64 bits, finite fractions and whole
characters, and no key of an object twice; anything else is refused in words. So nothing behind this place meets data that
the log, the database or a second reader could not hold.
"""

from __future__ import annotations

import json
import math
from contextlib import suppress
from datetime import date, datetime
from typing import Any

import yaml

MOST_DEEP = 60
"""Levels of lists and objects within one another."""
MOST_PARTS = 2_000_000
"""Values in one text, so that references in YAML cannot multiply without end."""
MOST = 2**63 - 1


class Unreadable(Exception):
    """A text or file that is no data we take; the message is a sentence."""


def decoded(content: bytes) -> str:
    """The text of bytes in UTF-8, with or without a mark before it."""
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise Unreadable(f"This is no text in UTF-8: byte {error.start + 1} does not belong there.") from None


def from_json(text: str | bytes) -> Any:
    """What a JSON text says."""
    try:
        return _of_json(decoded(text) if isinstance(text, bytes) else text)
    except json.JSONDecodeError as error:
        raise Unreadable(f"This is no JSON: {error}.") from None


def _of_json(text: str) -> Any:
    """What a JSON text says; a :class:`json.JSONDecodeError` when it is none."""
    try:
        plain = json.loads(text, object_pairs_hook=_object)
    except RecursionError:
        raise Unreadable("It nests too deep.") from None
    except ValueError as error:
        if isinstance(error, json.JSONDecodeError):
            raise
        # Python reads no whole number of thousands of digits
        raise Unreadable("It holds a number that is too large.") from None
    check(plain)
    return plain


def from_yaml(text: str) -> Any:
    """What a YAML text says, or a JSON text: YAML reads that too, but not what lies beyond 16 bits and is escaped as JSON does."""
    if text.lstrip()[:1] in ("{", "["):
        with suppress(json.JSONDecodeError):
            return _of_json(text)
    try:
        _not_deep(text)
        plain = yaml.load(text, Loader=_Loader)
    except yaml.YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        where = f" at line {mark.line + 1}, column {mark.column + 1}" if mark else ""
        what = getattr(error, "problem", None) or "it cannot be read"
        raise Unreadable(f"This is neither JSON nor YAML{where}: {what}.") from None
    except RecursionError:
        raise Unreadable("It nests too deep.") from None
    except ValueError as error:  # a date that is none, a number with too many digits
        raise Unreadable(f"It holds a value that cannot be read: {str(error)[:120]}.") from None
    check(plain)
    return plain


def check(plain: Any) -> None:
    """Refuse what is out of bounds, wherever it stands."""
    waiting: list[tuple[Any, int]] = [(plain, 0)]
    parts = 0
    while waiting:
        value, depth = waiting.pop()
        parts += 1
        if parts > MOST_PARTS:
            raise Unreadable("It holds more than can be taken at once.")
        if isinstance(value, dict | list):
            if depth >= MOST_DEEP:
                raise Unreadable("It nests too deep.")
            inner = [*value.keys(), *value.values()] if isinstance(value, dict) else value
            waiting += [(v, depth + 1) for v in inner]
        elif isinstance(value, str):
            if not value.isascii() and not _whole_characters(value):
                raise Unreadable("It holds half a character.")
        elif isinstance(value, int):
            if not -MOST <= value <= MOST:
                raise Unreadable("It holds a number that is too large.")
        elif isinstance(value, float):
            if not math.isfinite(value):
                raise Unreadable("It holds something that is no number.")
        elif not isinstance(value, date | datetime | None):
            raise Unreadable(f"It holds a {type(value).__name__}, which has no place here.")


def _whole_characters(text: str) -> bool:
    try:
        text.encode()
    except UnicodeEncodeError:
        return False
    return True


def _object(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        keys = [k for k, _ in pairs]
        twice = next(k for k in keys if keys.count(k) > 1)
        raise Unreadable(f"{twice[:60]!r} stands twice in one object.")
    return found


# The reader that comes with libyaml is five times as fast; a build of the library without it reads the same.
_Parser = yaml.CSafeLoader if yaml.__with_libyaml__ else yaml.SafeLoader
_Writer = yaml.CSafeDumper if yaml.__with_libyaml__ else yaml.SafeDumper


def to_yaml(plain: Any) -> str:
    """Data as YAML, as people read it: keys in their order, short lists in one line."""
    text: str = yaml.dump(
        plain, Dumper=_Writer, sort_keys=False, allow_unicode=True, width=110, default_flow_style=None
    )
    return text


def _not_deep(text: str) -> None:
    """Look at the nesting before anything is built: libyaml builds by recursion in C, where nothing stops it in time."""
    deep = 0
    for event in yaml.parse(text, Loader=_Parser):
        if isinstance(event, yaml.CollectionStartEvent):
            deep += 1
            if deep > MOST_DEEP:
                raise Unreadable("It nests too deep.")
        elif isinstance(event, yaml.CollectionEndEvent):
            deep -= 1


class _Loader(_Parser):  # type: ignore[misc, valid-type]
    """YAML's safe loader, which also refuses a key twice."""

    def construct_mapping(self, node: yaml.MappingNode, deep: bool = False) -> Any:
        """A mapping; each key once."""
        if isinstance(node, yaml.MappingNode):
            keys = [k.value for k, _ in node.value if isinstance(k, yaml.ScalarNode)]
            twice = next((k for n, k in enumerate(keys) if k in keys[:n]), None) if len(set(keys)) < len(keys) else None
            if twice is not None:
                raise yaml.constructor.ConstructorError(None, None, f"{twice[:60]!r} stands twice", node.start_mark)
        return super().construct_mapping(node, deep)
