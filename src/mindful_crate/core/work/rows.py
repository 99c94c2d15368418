"""Rows of the tables that say what belongs to an act or an event.

Where a row is written, the checker holds the kind and what is done with it together; a table of erased functions would let a
wrong pair pass. One test closes the tables: every act is decided, every event folds and has words.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Generic, Literal, TypeVar, cast

from mindful_crate.core.floor.state import State
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose
from mindful_crate.core.scanning.kinds import ButtonKind, FlowKind, PromptKind
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.papers import PaperKind
from mindful_crate.core.work.stamp import At, Stamp

A = TypeVar("A")
F = TypeVar("F")
Decider = Callable[[State, Making, Rulebook, Stamp, A], str]
"""Makes what an act leads to, and answers what the person reads; or refuses."""
Fold = Callable[[State, A, At], None]
"""Puts what an event says."""
Words = Callable[[A], str]
"""An event in a few words; empty when there is nothing to tell of this one."""
Made = Literal["plate", "bin", "reservation", "task", "wave", "shipment", "count"]
"""What a later step of a script may refer to."""
After = Callable[[State, Making, Rulebook, Stamp], str]
"""What follows from whatever was decided, by rules of its own: what is said of it."""
Invariant = Callable[[State], list[str]]
"""What is always so: a sentence for everything that is not."""


@dataclass(frozen=True, slots=True)
class Row(Generic[F]):
    """A kind of act or event, and what belongs to it."""

    kind: type[object]
    by: F


@dataclass(frozen=True, slots=True)
class Matter:
    """A kind of work: the acts it decides, the events it folds and tells, its flows on the handset and what they ask,
    its documents."""

    name: str
    decides: tuple[Row[Decider[object]], ...] = ()
    folds: tuple[Row[Fold[object]], ...] = ()
    words: tuple[Row[Words[object]], ...] = ()
    flows: Mapping[FlowPurpose, FlowKind] = field(default_factory=dict)
    prompts: Mapping[Asks, PromptKind] = field(default_factory=dict)
    papers: tuple[PaperKind, ...] = ()
    asked: tuple[Row[Words[object]], ...] = ()
    """What somebody does in the office, in words."""
    makes: Mapping[Made, tuple[Row[Words[object]], ...]] = field(default_factory=dict)
    """What its events make or choose that a later step of a script may refer to."""
    invariants: tuple[Invariant, ...] = ()
    everywhere: tuple[ButtonKind, ...] = ()
    """Buttons that flows of all purposes may offer."""
    at_any_time: Mapping[Read, Callable[[Reading], Named]] = field(default_factory=dict)
    """What a scan of this kind does whatever is asked; the question stays."""
    after: After | None = None


def deciding(kind: type[A], by: Decider[A]) -> Row[Decider[object]]:
    """How an act is decided."""
    return Row(kind, cast(Decider[object], by))


def folding(kind: type[A], by: Fold[A]) -> Row[Fold[object]]:
    """How an event changes a state."""
    return Row(kind, cast(Fold[object], by))


def telling(kind: type[A], by: Words[A]) -> Row[Words[object]]:
    """What the log says of an event."""
    return Row(kind, cast(Words[object], by))


def silent(kind: type[object]) -> Row[Words[object]]:
    """An event that only keeps the books: the log says nothing of it."""
    return Row(kind, lambda _: "")


def by_kind(rows: Iterable[Row[F]]) -> dict[type[object], F]:
    """The table; ValueError when a kind has two rows."""
    found: dict[type[object], F] = {}
    for row in rows:
        if row.kind in found:
            raise ValueError(f"{row.kind.__name__} has two rows")
        found[row.kind] = row.by
    return found
