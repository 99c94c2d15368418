"""The past of a floor: documents of which nothing is due and nothing may be undone any more leave its state, so that it holds
what goes on, not all that ever was. Whoever asks for one by its number still finds it.

Where they go is somebody else's: a floor in memory keeps them in dictionaries, the server in its database.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, Protocol, TypeVar, cast

from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.keeper import Journal, Keeper

K = TypeVar("K")
V = TypeVar("V")


class Settled(Protocol):
    """A document that can leave: what it is called, and the documents from which it follows."""

    @property
    def ref(self) -> Ref:
        """Its kind and number."""
        ...

    @property
    def follows(self) -> tuple[Ref, ...]:
        """What it follows from."""
        ...


class Past(Protocol):
    """Where settled documents are. One may come back to the state and leave it again: the latest counts."""

    def keep(self, document: Settled, seq: int) -> None:
        """Take one that is settled since entry ``seq``."""
        ...

    def find(self, ref: Ref) -> Settled | None:
        """The one of that name."""
        ...

    def after(self, ref: Ref) -> list[Settled]:
        """Those that follow from a document, in the order they were settled."""
        ...

    def last(self, kind: DocKind, of: Ref) -> Settled | None:
        """Of those of a kind that follow from a document the one that was settled last."""
        ...

    def latest(self, kind: DocKind, most: int | None = None) -> list[Settled]:
        """The last so many of a kind, or all, in the order they were settled."""
        ...


class Memory:
    """A past in dictionaries."""

    def __init__(self) -> None:
        self._kept: dict[DocKind, dict[str, Settled]] = {kind: {} for kind in DocKind}
        self._after: dict[Ref, dict[Ref, None]] = {}
        self._unread: list[Settled] = []
        """Those that are put in their places when somebody asks: folding need not wait for it."""

    def keep(self, document: Settled, seq: int) -> None:
        """Take one that is settled since entry ``seq``."""
        self._unread.append(document)

    def _read(self) -> None:
        for document in self._unread:
            ref = document.ref
            kept = self._kept[ref.kind]
            kept.pop(ref.number, None)
            kept[ref.number] = document
            for before in document.follows:
                known = self._after.setdefault(before, {})
                known.pop(ref, None)
                known[ref] = None
        self._unread.clear()

    def find(self, ref: Ref) -> Settled | None:
        """The one of that name."""
        self._read()
        return self._kept[ref.kind].get(ref.number)

    def _following(self, ref: Ref) -> Iterable[Ref]:
        self._read()
        return self._after.get(ref, ())

    def after(self, ref: Ref) -> list[Settled]:
        """Those that follow from a document, in the order they were settled."""
        return [self._kept[r.kind][r.number] for r in self._following(ref)]

    def last(self, kind: DocKind, of: Ref) -> Settled | None:
        """Of those of a kind that follow from a document the one that was settled last."""
        found = [r for r in self._following(of) if r.kind is kind]
        return self.find(found[-1]) if found else None

    def latest(self, kind: DocKind, most: int | None = None) -> list[Settled]:
        """The last so many of a kind, or all, in the order they were settled."""
        self._read()
        every = list(self._kept[kind].values())
        return every if most is None else every[max(0, len(every) - most) :]


class Leaving(Keeper[K, V]):
    """A keeper whose values leave once they are settled. Asked by key it still answers with those that left, and one that
    is put again is back; whoever walks it gets those that are here."""

    def __init__(
        self,
        journal: Journal,
        recall: Callable[[K], V | None],
        follow: Callable[[K, V | None, V | None], None] | None = None,
    ) -> None:
        super().__init__(journal, follow)
        self._recall = recall
        self.may_leave: dict[K, None] = {}
        """Those that may be settled since they changed."""
        self.get = cast(Any, self._found)
        self.here = self._held.get
        """The value of a key that has not left, or None."""
        self.drop = self._held.pop
        """What takes one out, when whoever does it sees to the indexes."""

    def _found(self, key: K, instead: V | None = None) -> V | None:
        found = self._held.get(key)
        if found is None:
            found = self._recall(key)
        return instead if found is None else found

    def __getitem__(self, key: K) -> V:
        """The value of a key that is there, here or not."""
        found = self._held.get(key)
        if found is None:
            found = self._recall(key)
            if found is None:
                raise KeyError(key)
        return found

    def __contains__(self, key: object) -> bool:
        """Is there a value of that key, here or not?"""
        return key in self._held or self._recall(cast(K, key)) is not None

    def leave(self, key: K) -> V:
        """It is here no more; what it was."""
        if self._journal.open:
            raise ValueError("nothing leaves while a decision is being made")
        value = self._held.pop(key)
        if self._follow is not None:
            self._follow(key, value, None)
        return value


D = TypeVar("D", bound=Settled)


class Documents(Leaving[K, D]):
    """A keeper of documents of one kind, by number."""

    def __init__(self, journal: Journal, past: Past, kind: DocKind) -> None:
        super().__init__(journal, lambda number: cast(D | None, past.find(Ref(kind, str(number)))))
        self.past = past
        self.kind = kind

    def every(self, most: int | None = None) -> list[D]:
        """All by number; of those that are settled the last so many, or all."""
        settled = cast(list[D], self.past.latest(self.kind, most))
        left = [d for d in settled if cast(K, d.ref.number) not in self._held]
        return sorted([*self._held.values(), *left], key=lambda d: d.ref.number)
