"""What a dialogue has been told so far: answers by key. Each matter brings the keys of its own questions; the log and a
snapshot hold plain values under their names, so nothing needs to know them all."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any, Generic, Literal, TypeVar, cast

from mindful_crate.core.catalog.ids import PlateNo, TaskNo
from mindful_crate.core.plain import Misfit, Plain
from mindful_crate.core.record import record

T = TypeVar("T")
Scalar = str | int | bool | tuple[str, ...]
"""What an answer is kept as."""


@dataclass(frozen=True, slots=True)
class Key(Generic[T]):
    """The name of an answer, and how it is kept. ``absent`` is the answer as long as nothing is said."""

    name: str
    absent: T
    read: Callable[[Any], T]
    write: Callable[[T], Scalar]


def text(name: str, _: Callable[[str], T]) -> Key[T | None]:
    """An answer that is a text, such as the number or the code of something; ``_`` says of which type."""
    return Key(name, None, lambda kept: cast(T, kept), lambda value: cast(str, value))


def flag(name: str) -> Key[bool]:
    """Something that was said, or not."""
    return Key(name, False, bool, bool)


def number(name: str) -> Key[Decimal | None]:
    """A count."""
    return Key(name, None, Decimal, lambda value: format(cast(Decimal, value), "f"))


def day(name: str) -> Key[date | None]:
    """A day."""
    return Key(name, None, date.fromisoformat, lambda value: cast(date, value).isoformat())


def texts(name: str, _: Callable[[str], T]) -> Key[tuple[T, ...]]:
    """Several numbers or codes; ``_`` says of which type."""
    return Key(name, (), lambda kept: cast(tuple[T, ...], kept), lambda value: cast(tuple[str, ...], value))


class Answers:
    """Answers by key; never changed, only made anew."""

    __slots__ = ("_kept",)

    def __init__(self, kept: Mapping[str, Scalar] | None = None) -> None:
        self._kept: Mapping[str, Scalar] = kept or {}

    def __getitem__(self, key: Key[T]) -> T:
        kept = self._kept.get(key.name)
        return key.absent if kept is None else key.read(kept)

    def known(self, key: Key[T | None]) -> T:
        """An answer that is there; AssertionError when it is not."""
        value = self[key]
        assert value is not None, key.name
        return value

    def having(self, key: Key[T], value: T) -> Answers:
        """The same with one answer more, or another one; what is absent is left out."""
        kept = {name: held for name, held in self._kept.items() if name != key.name}
        if value != key.absent:
            kept[key.name] = key.write(value)
        return Answers(kept)

    def without(self, *keys: Key[Any]) -> Answers:
        """The same without some."""
        names = {key.name for key in keys}
        return Answers({name: held for name, held in self._kept.items() if name not in names})

    def only(self, *keys: Key[Any]) -> Answers:
        """Some of them and nothing else."""
        names = {key.name for key in keys}
        return Answers({name: held for name, held in self._kept.items() if name in names})

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Answers) and self._kept == other._kept

    def __hash__(self) -> int:
        return hash(frozenset(self._kept.items()))

    def __repr__(self) -> str:
        return f"Answers({dict(self._kept)!r})"

    def to_plain(self) -> Plain:
        """Its values by name."""
        return {name: list(held) if isinstance(held, tuple) else held for name, held in sorted(self._kept.items())}

    @classmethod
    def from_plain(cls, plain: Plain, place: str) -> Answers:
        """The answers of values by name."""
        if not isinstance(plain, dict):
            raise Misfit(place, "answers are values by name")
        return cls({name: _scalar(name, held) for name, held in plain.items()})


def _scalar(name: str, held: Plain) -> Scalar:
    if isinstance(held, str | int):
        return held
    if isinstance(held, Iterable) and all(isinstance(each, str) for each in held) and not isinstance(held, dict):
        return tuple(held)
    raise Misfit(name, f"{held!r} is no answer")


PLATE = text("plate", PlateNo)
"""The plate it is about: the one being built, or taken up."""
TASK = text("task", TaskNo)
"""The task being done."""


@record
class Doubt:
    """A question back to the worker before something unusual: a warning to confirm, or a reason to give."""

    asks: Literal["yes_no", "reason"]
    says: str
    then: Answers
    """The answers if the worker goes on."""
    yes: str = "Place here"
    """What the button says that goes on."""
