"""Keepers: the one way in which a floor changes, and the journal that takes changes back."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from typing import Any, Generic, Protocol, TypeVar

K = TypeVar("K")
V = TypeVar("V")


class Keeps(Protocol):
    """What puts, and takes it back."""

    def put_back(self, key: Any, value: Any, /) -> None:
        """Let a key have the value again that it had."""


Put = tuple[Keeps, Any, Any]
"""What was put: by which keeper, under which key, and what was there before."""


class Journal:
    """What was put while it is open, so that it can be taken back. One for all keepers of a floor."""

    __slots__ = ("lines", "open")

    def __init__(self) -> None:
        self.open = False
        self.lines: list[Put] = []

    def puts(self) -> Iterator[Put]:
        """What was put while it is open, the first first."""
        return iter(self.lines)

    @contextmanager
    def tentatively(self) -> Iterator[None]:
        """Whatever is put within is taken back at the end, whatever happens, but for what is kept."""
        if self.open:
            raise ValueError("the journal is open already")
        self.open = True
        try:
            yield
        finally:
            self.back_to(0)
            self.open = False

    def keep(self) -> None:
        """What was put so far stays: none of it is taken back."""
        self.lines = []

    def back_to(self, mark: int) -> None:
        """Take back what was put since there were so many lines."""
        taken, self.lines = self.lines[mark:], self.lines[:mark]
        self.open = False
        for keeper, key, before in reversed(taken):
            keeper.put_back(key, before)
        self.open = True


class Single(Generic[V]):
    """One value, read as ``value``."""

    __slots__ = ("_journal", "value")

    def __init__(self, journal: Journal, value: V) -> None:
        self._journal = journal
        self.value = value

    def put(self, value: V) -> None:
        """Let this be the value from now on."""
        if self._journal.open:
            self._journal.lines.append((self, None, self.value))
        self.value = value

    def put_back(self, _: None, value: V) -> None:
        """Let this be the value again."""
        self.value = value


class Keeper(Generic[K, V]):
    """Values by key. Whoever walks it gets them by key, never in the order they were put: that is another after
    something was taken back, and then two processes would write different logs."""

    def __init__(self, journal: Journal, follow: Callable[[K, V | None, V | None], None] | None = None) -> None:
        self._journal = journal
        self._held: dict[K, V] = {}
        indexed = type(self).changed is not Keeper.changed
        self._follow = self.changed if indexed else follow
        """What follows from a change: its own indexes, or somebody's who keeps more than this."""
        self.get = self._held.get
        """The value of a key, or None, or what is given instead."""

    def put(self, key: K, value: V | None) -> None:
        """Let a key have this value from now on; None takes it out."""
        held = self._held
        before = held.get(key)
        if self._journal.open:
            self._journal.lines.append((self, key, before))
        if value is None:
            held.pop(key, None)
        else:
            held[key] = value
        if self._follow is not None:
            self._follow(key, before, value)

    def put_back(self, key: K, value: V | None) -> None:
        """Let a key have the value again that it had."""
        self.put(key, value)

    def changed(self, key: K, before: V | None, after: V | None) -> None:
        """What follows from a change: each keeper's indexes."""

    def load(self, values: Mapping[K, V]) -> None:
        """Put all of a snapshot."""
        for key, value in values.items():
            self.put(key, value)

    def all(self) -> dict[K, V]:
        """Everything, for a snapshot; the order means nothing."""
        return dict(self._held)

    def __getitem__(self, key: K) -> V:
        """The value of a key that is there."""
        return self._held[key]

    def __contains__(self, key: object) -> bool:
        """Is there a value of that key?"""
        return key in self._held

    def __len__(self) -> int:
        """How many there are."""
        return len(self._held)

    def __iter__(self) -> Iterator[K]:
        """The keys, sorted as they are written."""
        return iter(sorted(self._held, key=str))

    def values(self) -> Iterator[V]:
        """The values, by key."""
        return (self._held[key] for key in self)

    def items(self) -> Iterator[tuple[K, V]]:
        """Keys and values, by key."""
        return ((key, self._held[key]) for key in self)
