"""Openings and rulebooks, kept once and found by their hash; what was asked for lately is at hand."""

from __future__ import annotations

import gc
import threading
from collections import OrderedDict
from collections.abc import Iterable, Iterator

import orjson

from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.placing import kept_ground
from mindful_crate.core.placing.loads import put_sums, same_loads, sums_of
from mindful_crate.core.plain import canonical, digest_of
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.versions import read_rulebook
from mindful_crate.store import db
from mindful_crate.store.rows import Part

BOOKS = 200
"""So many rulebooks are at hand."""
GROUNDS = 8
"""So many opening states are kept at hand, besides those that loaded worlds stand on."""
PART = 4_000_000
"""Bytes; longer things are kept in parts."""


def _parts(pieces: Iterable[bytes]) -> Iterator[bytes]:
    """Pieces put together or taken apart, so that no part is longer than the database likes to hold."""
    waiting = b""
    for piece in pieces:
        if len(waiting) + len(piece) <= PART:
            waiting += piece
            continue
        if waiting:
            yield waiting
        for at in range(0, len(piece), PART):
            waiting = piece[at : at + PART]
            if len(waiting) == PART:
                yield waiting
                waiting = b""
    if waiting:
        yield waiting


class ByHash:
    """What never changes, of a database."""

    def __init__(self) -> None:
        self._grounds: OrderedDict[str, Ground] = OrderedDict()
        self._books: dict[str, Rulebook] = {}
        self._ground_lock = threading.Lock()

    def keep_opening(self, conn: db.Conn, opening: Opening) -> str:
        """Store an opening state; its hash."""
        catalogue = opening.catalogue()
        ground = Ground(opening, opening.hash_with(catalogue))
        kin = next((g for g in [*self._grounds.values()] if same_loads(g.opening, opening)), None)
        if kin:
            put_sums(ground, sums_of(kin))
        if db.value(conn, "put_opening", hash=ground.hash, name=opening.name):
            for no, content in enumerate(_parts(kept_ground.pieces(ground, catalogue))):
                db.run(conn, "put_opening_part", hash=ground.hash, no=no, content=content)
            self._remember(ground)  # what it has in common with the one before is there once
        return ground.hash

    def _remember(self, ground: Ground) -> None:
        """Keep a ground at hand; the one longest unused is let go, should nothing else hold it."""
        with self._ground_lock:
            self._grounds[ground.hash] = ground
            self._grounds.move_to_end(ground.hash)
            while len(self._grounds) > GROUNDS:
                self._grounds.popitem(last=False)

    def ground(self, conn: db.Conn, hash_: str) -> Ground:
        """An opening state with its indexes; shared by all worlds that start from it."""
        found = self._grounds.get(hash_)
        if found is not None:
            self._remember(found)
        else:
            content = b"".join(part.content for part in db.rows(conn, Part, "opening_parts", hash=hash_))
            if not content:
                raise Refusal("unknown_opening", f"There is no opening state `{hash_}` here.")
            found = kept_ground.read(content, hash_)
            self._remember(found)
            gc.collect()
            gc.freeze()  # a ground stays for good: the collector need not look at its many rows again and again
        return found

    def keep_rulebook(self, conn: db.Conn, rulebook: Rulebook) -> str:
        """Store a rulebook; its hash."""
        content = canonical(rulebook)
        hash_ = digest_of(content)
        db.run(conn, "put_rulebook", hash=hash_, content=content)
        self._at_hand(hash_, rulebook)
        return hash_

    def rulebook(self, conn: db.Conn, hash_: str) -> Rulebook:
        """A rulebook by its hash."""
        found = self._books.get(hash_)
        if found is None:
            found = read_rulebook(orjson.loads(db.value(conn, "rulebook", hash=hash_)))
            self._at_hand(hash_, found)
        return found

    def _at_hand(self, hash_: str, rulebook: Rulebook) -> None:
        """Keep a rulebook at hand, and not more of them than so many."""
        self._books[hash_] = rulebook
        while len(self._books) > BOOKS:
            self._books.pop(next(iter(self._books)), None)
