"""Settled documents in PostgreSQL. Each is written with the entry that settled it, in one statement with that entry."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

import orjson

from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.counts import CountSheet
from mindful_crate.core.floor.messages import Message
from mindful_crate.core.floor.past import Settled
from mindful_crate.core.floor.plates import Load
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.plain import from_plain, to_plain
from mindful_crate.core.work.matters import PAPERS
from mindful_crate.core.work.papers import Papers
from mindful_crate.store import db
from mindful_crate.store.rows import FoundRow, SettledRow

RECORDS: dict[DocKind, type[Settled]] = {
    DocKind.TASK: Task, DocKind.RECEIPT: Receipt, DocKind.MESSAGE: Message, DocKind.PLATE: Load, DocKind.COUNT: CountSheet,
}  # fmt: skip
"""What each kind of document is kept as."""
LISTED = (DocKind.TASK, DocKind.RECEIPT, DocKind.MESSAGE, DocKind.COUNT)
"""Those that lists tell."""
AT_HAND = 500
"""So many documents that were asked for are kept at hand."""
DOCUMENT = ("kinds", "numbers", "settled", "latest", "states", "words", "kept")
FOLLOWS = ("befores", "followers", "their_numbers", "since")
"""The columns that the statements write: of documents, and of what each follows from."""
ALL = 2**31 - 1
"""More than there are."""


@dataclass(frozen=True, slots=True)
class _Fresh:
    document: Settled
    seq: int


class StoredPast:
    """The settled documents of one world in memory: those in the database, and before them the ``fresh`` ones, which are
    written with the next entry. It answers as of the entry the state is at, also while others write further."""

    def __init__(self, spans: list[tuple[str, int]], written: int) -> None:
        self._spans = spans
        """The world, then those it goes on from, each up to an entry."""
        self._written = written
        self.conn: db.Conn | None = None
        """The transaction in which the world is looked at."""
        self.state: State | None = None
        self._fresh: dict[Ref, list[_Fresh]] = {}
        self._fresh_after: dict[Ref, dict[Ref, None]] = {}
        self._at_hand: OrderedDict[Ref, Settled] = OrderedDict()

    # The core's questions

    def keep(self, document: Settled, seq: int) -> None:
        """Take one that is settled since entry ``seq``; one of an entry whose documents are in the database is there."""
        ref = document.ref
        self._at_hand.pop(ref, None)
        if seq > self._written:
            self._fresh.setdefault(ref, []).append(_Fresh(document, seq))
            for before in document.follows:
                self._fresh_after.setdefault(before, {})[ref] = None

    def find(self, ref: Ref) -> Settled | None:
        """The one of that name."""
        fresh = self._fresh.get(ref)
        if fresh:
            return fresh[-1].document
        found = self._at_hand.get(ref)
        if found is not None:
            self._at_hand.move_to_end(ref)
            return found
        row = db.row(self._in(), SettledRow, "settled", **self._where(), kind=ref.kind.value, number=ref.number)
        return self._read(row) if row else None

    def after(self, ref: Ref) -> list[Settled]:
        """Those that follow from a document, in the order they were settled."""
        rows = db.rows(self._in(), SettledRow, "settled_after", **self._where(), before=_name(ref))
        return self._with_fresh(rows, self._fresh_after.get(ref, ()))

    def last(self, kind: DocKind, of: Ref) -> Settled | None:
        """Of those of a kind that follow from a document the one that was settled last."""
        fresh = [self._fresh[r][-1] for r in self._fresh_after.get(of, ()) if r.kind is kind]
        if fresh:
            return max(fresh, key=lambda f: f.seq).document
        row = db.row(self._in(), SettledRow, "settled_last", **self._where(), before=_name(of), kind=kind.value)
        return self._read(row) if row else None

    def latest(self, kind: DocKind, most: int | None = None) -> list[Settled]:
        """The last so many of a kind, or all, in the order they were settled."""
        rows = db.rows(self._in(), SettledRow, "settled_latest", **self._where(), kind=kind.value, most=most or ALL)
        every = self._with_fresh(reversed(rows), (r for r in self._fresh if r.kind is kind))
        return every if most is None else every[max(0, len(every) - most) :]

    # What lists ask, and writing

    @contextmanager
    def through(self, conn: db.Conn) -> Iterator[None]:
        """Questions go through this transaction meanwhile."""
        before, self.conn = self.conn, conn
        try:
            yield
        finally:
            self.conn = before

    def found(self, kinds: Iterable[DocKind], most: int, find: str = "", word: str = "") -> tuple[list[Ref], int]:
        """Those of some kinds in whose number or words something is found, in a state if one is named; the one that changed
        last first, at most so many; and how many there are. Only when all are written."""
        asked = {"kinds": [k.value for k in kinds], "find": find, "word": word, "most": most}
        rows = db.rows(self._in(), FoundRow, "settled_found", **self._where(), **asked)
        return [Ref(DocKind(r.kind), r.number) for r in rows], rows[0].total if rows else 0

    @property
    def settled_any(self) -> bool:
        """Is anything to be written?"""
        return bool(self._fresh)

    def columns(self) -> dict[str, list[object]]:
        """What is to be written, column by column, as the statement that appends names them."""
        assert self.state is not None
        columns = nothing_settled()

        def put(names: tuple[str, ...], *values: object) -> None:
            for name, value in zip(names, values, strict=True):
                columns[name].append(value)

        papers = Papers(self.state, PAPERS)
        for ref, versions in self._fresh.items():
            doc = papers.doc(ref) if papers.there(ref) else None
            for version in versions:
                told = (doc.latest, doc.word, doc.says.lower()) if doc else (version.seq, "", "")
                name = (ref.kind.value, ref.number, version.seq)
                put(DOCUMENT, *name, *told, orjson.dumps(to_plain(version.document)))
                for before in version.document.follows:
                    put(FOLLOWS, _name(before), *name)
        return columns

    def written(self, seq: int) -> None:
        """The documents of all entries up to one are in the database, and committed."""
        self._written = max(self._written, seq)
        left = {r: [v for v in versions if v.seq > seq] for r, versions in self._fresh.items()}
        self._fresh = {r: versions for r, versions in left.items() if versions}
        self._fresh_after.clear()
        for ref, versions in self._fresh.items():
            for before in versions[-1].document.follows:
                self._fresh_after.setdefault(before, {})[ref] = None

    def _in(self) -> db.Conn:
        assert self.conn is not None, "a world is looked at while it is held"
        return self.conn

    def _where(self) -> dict[str, object]:
        assert self.state is not None
        seq = self.state.seq
        return {"worlds": [w for w, _ in self._spans], "untils": [min(until, seq) for _, until in self._spans]}

    def _read(self, row: SettledRow) -> Settled:
        kind = DocKind(row.kind)
        found = from_plain(RECORDS[kind], orjson.loads(row.body))
        self._at_hand[found.ref] = found
        while len(self._at_hand) > AT_HAND:
            self._at_hand.popitem(last=False)
        return found

    def _with_fresh(self, rows: Iterable[SettledRow], fresh: Iterable[Ref]) -> list[Settled]:
        """Documents of the database with those that are not written yet, in the order they were settled."""
        late = [self._fresh[r][-1] for r in fresh]
        known = {f.document.ref for f in late}
        stored = [_Fresh(document, row.seq) for row in rows if (document := self._read(row)).ref not in known]
        return [f.document for f in sorted([*stored, *late], key=lambda f: f.seq)]


def nothing_settled() -> dict[str, list[object]]:
    """Columns of no document."""
    return {name: [] for name in (*DOCUMENT, *FOLLOWS)}


def _name(ref: Ref) -> str:
    return f"{ref.kind.value} {ref.number}"
