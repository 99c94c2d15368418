"""Documents as a chain tells them: what every kind of document answers, and what leads from one to the next.

A document says its states one by one, each with the entry of the log in which it was reached; the entry says who, on
which device and when. Which kinds there are, the matters bring.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record


@record
class Stage:
    """A state of a document: reached in entry ``seq``, or not ``done`` yet. ``seq`` 0: it was so at the opening."""

    word: str
    done: bool
    seq: int = 0
    says: str = ""


@record
class Doc:
    """A document of a chain: what it is about, its stages, and its neighbours before and after it."""

    kind: DocKind
    number: str
    says: str
    stages: tuple[Stage, ...]
    before: tuple[Ref, ...] = ()
    after: tuple[Ref, ...] = ()

    @property
    def open(self) -> bool:
        """Is something of it still to come?"""
        return not all(s.done for s in self.stages)

    @property
    def word(self) -> str:
        """The state it is in: the last one that was reached."""
        return next((s.word for s in reversed(self.stages) if s.done), f"not {self.stages[0].word} yet")

    @property
    def latest(self) -> int:
        """The entry that changed it last."""
        return max((s.seq for s in self.stages), default=0)


class PaperKind:
    """What every kind of document answers."""

    kind: DocKind
    short = True
    """Does it stand in the short chain? What led over one that does not leads straight on."""
    beside = False
    """Does it stand right after the document it is about, before all that follows from that?"""

    def there(self, state: State, number: str) -> bool:
        """Is there one of this number?"""
        raise NotImplementedError

    def all(self, state: State) -> Iterable[str]:
        """The numbers of those that something happened to, or that wait for something to happen."""
        raise NotImplementedError

    def following(self, state: State) -> Iterable[str]:
        """The numbers of those that may follow from another document."""
        return self.all(state)

    def before(self, state: State, number: str) -> tuple[Ref, ...]:
        """The documents from which it follows."""
        return ()

    def brings(self, state: State, number: str) -> Iterable[Ref]:
        """Documents that never settle and follow with it from the same, should it be settled."""
        return ()

    def since(self, state: State, number: str) -> int:
        """The entry by which it stands in order among those that follow from the same document."""
        return 0

    def instead(self, state: State, number: str) -> tuple[Ref, ...]:
        """What stands for it in a short chain; nothing: what was before it."""
        return ()

    def doc(self, papers: Papers, number: str) -> Doc:
        """All that is told of it; what follows from it is filled in by the chain."""
        raise NotImplementedError


class Papers:
    """The documents of a state, and what follows from each, gathered once when it is first asked."""

    def __init__(self, state: State, kinds: Mapping[DocKind, PaperKind]) -> None:
        self.state = state
        self.kinds = kinds
        self._rank = {kind: n for n, kind in enumerate(kinds)}
        self._after: dict[Ref, list[Ref]] | None = None

    def there(self, ref: Ref) -> bool:
        """Is there such a document?"""
        return self.kinds[ref.kind].there(self.state, ref.number)

    def before(self, ref: Ref) -> tuple[Ref, ...]:
        """What it follows from."""
        return self.kinds[ref.kind].before(self.state, ref.number)

    def doc(self, ref: Ref) -> Doc:
        """What is told of it."""
        return self.kinds[ref.kind].doc(self, ref.number)

    def roots(self, ref: Ref) -> list[Ref]:
        """The documents it goes back to that follow from no other; itself when there are none."""
        found = dict.fromkeys(r for before in self.before(ref) if self.there(before) for r in self.roots(before))
        return list(found) or [ref]

    def following(self, ref: Ref) -> list[Ref]:
        """What follows from it, in no order."""
        if self._after is None:
            self._after = {}
            for kind in self.kinds.values():
                for number in kind.following(self.state):
                    for before in kind.before(self.state, number):
                        self._after.setdefault(before, []).append(Ref(kind.kind, number))
        settled = [document.ref for document in self.state.past.after(ref)]
        brought = (b for r in settled for b in self.kinds[r.kind].brings(self.state, r.number) if ref in self.before(b))
        return list(dict.fromkeys([*self._after.get(ref, []), *settled, *brought]))

    def after(self, ref: Ref) -> list[Ref]:
        """What follows from it, those beside it first."""
        return sorted(self.following(ref), key=self._place)

    def _place(self, ref: Ref) -> tuple[bool, int, int, str]:
        kind = self.kinds[ref.kind]
        return not kind.beside, kind.since(self.state, ref.number), self._rank[ref.kind], ref.number
