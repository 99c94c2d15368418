"""Core values to plain data (dict, list, str, int, bool, None) and back, and their content hash.

Fields that hold their default are left out, so that a file says only what somebody decided and a new field
does not change the hash of old data. A ``Literal`` field (the ``kind`` of an event, say) is always written:
it tells the members of a union apart.
"""

from __future__ import annotations

import dataclasses
import hashlib
import json
import types
from collections.abc import Callable
from datetime import date, datetime
from decimal import Decimal, InvalidOperation
from enum import Enum
from functools import cache
from typing import Any, Literal, TypeVar, Union, cast, get_args, get_origin, get_type_hints

from mindful_crate.core.record import maker

T = TypeVar("T")
Plain = Any
"""What JSON can hold."""
MOST_DIGITS = 30
"""Digits of a number with a point, before it or after; written out, ``1e999999999`` would fill the memory."""


class Misfit(Exception):
    """Plain data that is not the value it should be; ``place`` says where, ``says`` what is wrong."""

    def __init__(self, place: str, says: str) -> None:
        super().__init__(f"{place or 'top'}: {says}")
        self.place = place
        self.says = says

    def within(self, place: str) -> Misfit:
        """The same, seen from what holds it at that place."""
        return Misfit(f"{place}/{self.place}" if place and self.place else place or self.place, self.says)


@cache
def _written_fields(cls: Any) -> tuple[tuple[str, Any, bool], ...]:
    hints = get_type_hints(cls)
    out = []
    for field in dataclasses.fields(cls):
        default = field.default
        if field.default_factory is not dataclasses.MISSING:
            default = field.default_factory()
        out.append((field.name, default, get_origin(hints[field.name]) is Literal))
    return tuple(out)


def to_plain(value: Any) -> Plain:
    """Plain form of a core value."""
    return _writer(type(value))(value)  # type: ignore[arg-type]


@cache
def _writer(kind: type[Any]) -> Callable[[Any], Plain]:
    """What writes values of a type, found out once for each."""
    if kind is type(None) or kind in (str, int, bool):
        return lambda value: value
    if issubclass(kind, Enum):
        return lambda value: value.value
    if hasattr(kind, "to_plain"):  # a value with a form of its own
        return lambda value: value.to_plain()
    if issubclass(kind, tuple | list):
        return lambda value: [to_plain(v) for v in value]
    if issubclass(kind, dict):
        return lambda value: {str(to_plain(k)): to_plain(v) for k, v in value.items()}
    if issubclass(kind, frozenset | set):
        return lambda value: sorted(to_plain(v) for v in value)
    if issubclass(kind, Decimal):
        return lambda value: format(value, "f")
    if issubclass(kind, datetime | date):
        return lambda value: value.isoformat()
    if issubclass(kind, str | int):  # an id type
        return lambda value: value
    return _record_writer(kind)


def _record_writer(kind: type[Any]) -> Callable[[Any], Plain]:
    fields = _written_fields(cast(Any, kind))

    def write(value: Any) -> Plain:
        plain = {}
        for name, default, always in fields:
            held = getattr(value, name)
            if held is default and not always:
                continue
            if always or held != default:
                plain[name] = to_plain(held)
        return plain

    return write


def canonical(value: Any) -> bytes:
    """The one byte form of a value: sorted keys, no blanks, UTF-8."""
    return json.dumps(to_plain(value), sort_keys=True, separators=(",", ":"), ensure_ascii=False).encode()


def digest(value: Any) -> str:
    """Content address of a value: the first 32 hex digits of SHA-256 over its canonical form."""
    return digest_of(canonical(value))


def digest_of(content: bytes) -> str:
    """Content address of what a canonical form is already there of."""
    return hashlib.sha256(content).hexdigest()[:32]


def from_plain(kind: type[T], plain: Plain, place: str = "") -> T:
    """The core value of type ``kind`` that ``plain`` stands for; raises :class:`Misfit` with the place."""
    try:
        return cast(T, _reader(cast(Any, kind))(plain))
    except Misfit as misfit:
        raise misfit.within(place) from None


Reader = Callable[[Plain], Any]
"""Reads a value. What is wrong says its place within that value; whoever reads the whole puts their own step before it, so
that places cost nothing while all is well."""


def _exactly(kind: type, word: str) -> Reader:
    def read(plain: Plain) -> Any:
        if type(plain) is not kind:
            raise Misfit("", f"{_shown(plain)} is not {word}")
        return plain

    return read


def _shown(plain: Plain) -> str:
    text = json.dumps(plain, ensure_ascii=False, default=str)
    return text if len(text) <= 60 else text[:57] + "..."


def _parsed(parse: Callable[[str], Any], word: str) -> Reader:
    def read(plain: Plain) -> Any:
        if not isinstance(plain, str):
            if isinstance(plain, date):  # YAML reads dates by itself
                return parse(plain.isoformat())
            raise Misfit("", f"{_shown(plain)} is not {word}")
        try:
            return parse(plain)
        except (ValueError, InvalidOperation):
            raise Misfit("", f"{_shown(plain)} is not {word}") from None

    return read


@cache
def _reader(kind: Any) -> Reader:
    origin = get_origin(kind)
    if hasattr(kind, "__supertype__"):
        return _reader(kind.__supertype__)
    if kind is Any:
        return lambda plain: plain
    if kind is str:
        return _exactly(str, "text")
    if kind is int:
        return _exactly(int, "a whole number")
    if kind is bool:
        return _exactly(bool, "true or false")
    if kind is Decimal:
        return _parsed(_decimal, "a number in quotes")
    if kind is date:
        return _parsed(date.fromisoformat, "a date like 2026-03-31")
    if kind is datetime:
        return _parsed(datetime.fromisoformat, "a time like 2026-03-31T08:30")
    if origin is Literal:
        return _one_of({v: v for v in get_args(kind)})
    if isinstance(kind, type) and issubclass(kind, Enum):
        return _one_of({m.value: m for m in kind})
    if origin in (Union, types.UnionType):
        return _union(get_args(kind))
    if origin is tuple:
        return _sequence(get_args(kind))
    if origin is dict:
        return _mapping(*get_args(kind))
    if hasattr(kind, "from_plain"):
        return lambda plain: kind.from_plain(plain, "")
    if dataclasses.is_dataclass(kind):
        return _fields(cast(type, kind))
    raise TypeError(f"no plain form for {kind!r}")


def _decimal(text: str) -> Decimal:
    value = Decimal(text)
    if not value.is_finite() or abs(value.adjusted()) > MOST_DIGITS or len(value.as_tuple().digits) > MOST_DIGITS:
        raise ValueError(text)
    return value


def _one_of(values: dict[Any, Any]) -> Reader:
    def read(plain: Plain) -> Any:
        if type(plain) in (str, int) and plain in values:
            return values[plain]
        raise Misfit("", f"{_shown(plain)} is none of {', '.join(map(str, values))}")

    return read


def _union(members: tuple[Any, ...]) -> Reader:
    if type(None) in members:
        rest = [m for m in members if m is not type(None)]
        inner = _reader(rest[0]) if len(rest) == 1 else _union(tuple(rest))
        return lambda plain: None if plain is None else inner(plain)
    texts = [m for m in members if getattr(m, "__supertype__", m) is str]
    if texts:  # a name, or else a record that says how it is found
        named, found = _reader(texts[0]), _reader(next(m for m in members if m not in texts))
        return lambda plain: found(plain) if isinstance(plain, dict) else named(plain)
    by_kind = {get_args(get_type_hints(m)["kind"])[0]: _reader(m) for m in members}

    def read(plain: Plain) -> Any:
        name = plain.get("kind") if isinstance(plain, dict) else None
        if not isinstance(name, str) or name not in by_kind:
            raise Misfit("kind", f"{_shown(name)} is none of {', '.join(by_kind)}")
        return by_kind[name](plain)

    return read


def _sequence(members: tuple[Any, ...]) -> Reader:
    if len(members) == 2 and members[1] is Ellipsis:
        each = _reader(members[0])

        def read_all(plain: Plain) -> Any:
            if not isinstance(plain, list | tuple):
                raise Misfit("", f"{_shown(plain)} is not a list")
            found: list[Any] = []
            try:
                for held in plain:
                    found.append(each(held))
            except Misfit as misfit:
                raise misfit.within(str(len(found))) from None
            return tuple(found)

        return read_all
    readers = [_reader(m) for m in members]

    def read(plain: Plain) -> Any:
        if not isinstance(plain, list | tuple) or len(plain) != len(readers):
            raise Misfit("", f"{_shown(plain)} is not a list of {len(readers)}")
        found: list[Any] = []
        try:
            for one, held in zip(readers, plain, strict=True):
                found.append(one(held))
        except Misfit as misfit:
            raise misfit.within(str(len(found))) from None
        return tuple(found)

    return read


def _mapping(key: Any, held: Any) -> Reader:
    read_key, read_held = _reader(key), _reader(held)

    def read(plain: Plain) -> Any:
        if not isinstance(plain, dict):
            raise Misfit("", f"{_shown(plain)} is not a set of named values")
        found = {}
        for k, v in plain.items():
            try:
                found[read_key(k)] = read_held(v)
            except Misfit as misfit:
                raise misfit.within(str(k)) from None
        return found

    return read


_NONE_GIVEN = object()


def _fields(cls: Any) -> Reader:
    hints = get_type_hints(cls)
    fields = dataclasses.fields(cls)
    names = [f.name for f in fields]
    plainly = "__slots__" in cls.__dict__ and not hasattr(cls, "__post_init__")
    make: Callable[..., Any] = maker(cls) if plainly else cls
    parts: tuple[tuple[str, Reader, Callable[[], Any] | None], ...] | None = (
        None  # at first use: a type may hold itself
    )

    def default(field: Any) -> Callable[[], Any] | None:
        if field.default is not dataclasses.MISSING:
            held = field.default
            return lambda: held
        return None if field.default_factory is dataclasses.MISSING else cast(Callable[[], Any], field.default_factory)

    def odd(plain: dict[str, Any]) -> None:
        """What is wrong with the names alone comes before what is wrong with a value."""
        for name in plain:
            if name not in names:
                raise Misfit(str(name), f"unknown field; known are {', '.join(names)}")
        for name in sorted(f.name for f in fields if default(f) is None and f.name not in plain):
            raise Misfit(name, "is missing")

    def read(plain: Plain) -> Any:
        if not isinstance(plain, dict):
            raise Misfit("", f"{_shown(plain)} is not a set of named values")
        nonlocal parts
        if parts is None:  # two threads may both be first: each makes the whole and puts it there in one step
            parts = tuple((f.name, _reader(hints[f.name]), default(f)) for f in fields)
        values: list[Any] = []
        given = 0
        get = plain.get
        try:
            for name, reader, otherwise in parts:
                held = get(name, _NONE_GIVEN)
                if held is not _NONE_GIVEN:
                    given += 1
                    values.append(reader(held))
                elif otherwise is not None:
                    values.append(otherwise())
                else:
                    raise Misfit("", "is missing")
        except Misfit as misfit:
            odd(plain)
            raise misfit.within(names[len(values)]) from None
        if given != len(plain):
            odd(plain)
        return make(*values)

    return read
