"""One way to declare a value: frozen, slotted, closed to unknown fields at the edges."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Sequence
from enum import StrEnum
from functools import cache
from itertools import islice
from typing import Any, Protocol, TypeVar, dataclass_transform

T = TypeVar("T")


class Word(StrEnum):
    """Words of which a value is one. They hash as the texts they are: an enumeration's own way is a function in Python, which
    shows where words are parts of keys."""

    __hash__ = str.__hash__


class Named(Protocol):
    """A member of a union of records: it says its kind."""

    @property
    def kind(self) -> str:
        """Its name in stored data."""
        ...


@dataclass_transform(frozen_default=True, field_specifiers=(dataclasses.field,))
def record(cls: type[T]) -> type[T]:
    """Make ``cls`` a frozen, slotted dataclass.

    ``__pydantic_config__`` is plain data that the edge reads, so that a file or request with a field we do
    not know is refused there; the core itself knows nothing of pydantic.
    """
    cls.__pydantic_config__ = {"extra": "forbid", "json_schema_serialization_defaults_required": True}  # type: ignore[attr-defined]
    return dataclasses.dataclass(frozen=True, slots=True)(cls)


@cache
def _copier(cls: type[Any]) -> tuple[Callable[[Any], Any], dict[str, Callable[[Any, Any], None]]]:
    """A copy of a value of ``cls``, and what sets each of its fields; written out once for the class."""
    names = [f.name for f in dataclasses.fields(cls)]
    slots = {name: cls.__dict__[name] for name in names}
    known: dict[str, Any] = {"new": object.__new__, "cls": cls}
    for n, name in enumerate(names):
        known[f"g{n}"], known[f"s{n}"] = slots[name].__get__, slots[name].__set__
    lines = "".join(f"    s{n}(made, g{n}(value))\n" for n in range(len(names)))
    exec(f"def copy(value):\n    made = new(cls)\n{lines}    return made\n", known)
    return known["copy"], {name: slot.__set__ for name, slot in slots.items()}


def evolve(value: T, **changes: Any) -> T:
    """The value with some fields changed: what ``dataclasses.replace`` gives, several times faster, since folding
    does it on every event. Only for records without a ``__post_init__``."""
    kind: Any = type(value)
    copy, setters = _copier(kind)
    made: T = copy(value)
    for name, held in changes.items():
        setters[name](made, held)
    return made


def apart(before: Sequence[T], after: Sequence[T]) -> tuple[Sequence[T], Sequence[T]]:
    """What is gone from a row of values and what has come: of hundreds one is changed at a time, and those before and behind it are the same
    objects as they were."""
    first = last = 0  # how many are as they were
    for was, now in zip(before, after, strict=False):
        if was is not now:
            break
        first += 1
    most = min(len(before), len(after)) - first
    for was, now in zip(islice(reversed(before), most), reversed(after), strict=False):
        if was is not now:
            break
        last += 1
    return before[first : len(before) - last], after[first : len(after) - last]


@cache
def maker(cls: type[T]) -> Callable[..., T]:
    """What makes values of ``cls`` from all of its fields in order, several times faster than ``cls(...)``, since a
    frozen class checks every field it sets. For values made by the thousand; only for records without a
    ``__post_init__``."""
    names = [f.name for f in dataclasses.fields(cls)]  # type: ignore[arg-type]
    known: dict[str, Any] = {"new": object.__new__, "cls": cls}
    for n, name in enumerate(names):
        known[f"s{n}"] = cls.__dict__[name].__set__
    given = ", ".join(f"v{n}" for n in range(len(names)))
    lines = "".join(f"    s{n}(made, v{n})\n" for n in range(len(names)))
    exec(f"def make({given}):\n    made = new(cls)\n{lines}    return made\n", known)
    made: Callable[..., T] = known["make"]
    return made
