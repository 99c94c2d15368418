"""Worlds in PostgreSQL: the order of work for every command, in one place.

Row lock on the world, catch up from the log, let the host stand-in answer what is due, decide, append, notify,
commit, fold. A cached state is only ever advanced from committed entries; if a commit fails, it is dropped.
"""

from __future__ import annotations

import gc
import sys
import threading
import uuid
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from typing import TypeVar
from zoneinfo import ZoneInfo

import orjson
import psycopg
import structlog

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import DeviceId, OrderNo
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.floor.state import SNAPSHOT, Settings, State, WorldKind
from mindful_crate.core.placing import kept_ground
from mindful_crate.core.placing.loads import put_sums, same_loads, sums_of
from mindful_crate.core.plain import canonical, digest_of, from_plain, to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.versions import read_rulebook
from mindful_crate.core.work.handset.given import behind
from mindful_crate.core.world.acts import Act, Command, HandsetAct
from mindful_crate.core.world.decide import decide
from mindful_crate.core.world.events import Entry
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.versions import read_entry, stored
from mindful_crate.core.world.world import due_command
from mindful_crate.store import db
from mindful_crate.store.beside import Beside
from mindful_crate.store.loaded import Loaded, Who
from mindful_crate.store.past import StoredPast, nothing_settled
from mindful_crate.store.rows import Body, Part, SnapshotRow, WorldRow
from mindful_crate.store.telling import Telling

log = structlog.get_logger()
T = TypeVar("T")
CACHED = 50
"""How many worlds a process keeps in memory."""
SNAPSHOT_EVERY = 200
"""A snapshot is kept every so many entries, so that a replay stays short."""


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


class Worlds:
    """All worlds of a database."""

    def __init__(self, database: db.Database) -> None:
        self.database = database
        self.telling = Telling(database)
        self._loaded: OrderedDict[str, Loaded] = OrderedDict()
        self._grounds: OrderedDict[str, Ground] = OrderedDict()
        self._books: dict[str, Rulebook] = {}
        self.beside = Beside(self)
        self._lock = threading.Lock()
        self._ground_lock = threading.Lock()

    # Openings and rulebooks, found by their hash

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

    # Worlds

    def create(
        self, conn: db.Conn, *, name: str, settings: Settings, opening: str, rulebook: str, made_by: str,
        draft: str | None = None, parent: str | None = None, parent_seq: int = 0, rehearsal: str | None = None,
        rehearsal_version: int | None = None, settled_to: int = 0, beside: str | None = None,
    ) -> str:  # fmt: skip
        """A new world; its id."""
        id_ = "w-" + uuid.uuid4().hex[:10]
        db.run(
            conn, "put_world", id=id_, kind=settings.kind.value, name=name, site=settings.site, opening=opening,
            rulebook=rulebook, draft=draft, settings=canonical(settings), parent=parent, parent_seq=parent_seq,
            rehearsal=rehearsal, rehearsal_version=rehearsal_version, made_by=made_by, settled_to=settled_to, beside=beside,
        )  # fmt: skip
        return id_

    def branch(self, conn: db.Conn, parent: str, seq: int, made_by: str, rulebook: str, draft: str | None) -> str:
        """A child world that goes on from an entry of its parent; the parent keeps its log. With it, those of other sites go on from what was
        done there by then."""
        row, children = self.row(conn, parent), [self._branch(conn, parent, seq, made_by, rulebook, draft)]
        others = self.beside.of(conn, row) if row.beside else []
        if others:
            at = self.entries_at(conn, row, [seq])[0].command.stamp.at if seq else None
            for other in others:
                until = [e.seq for e in self.entries(conn, other) if at is not None and e.command.stamp.at <= at]
                children.append(
                    self._branch(conn, other.id, max(until, default=0), made_by, other.rulebook, other.draft)
                )
            self.beside.put(conn, children)
        return children[0]

    def _branch(self, conn: db.Conn, parent: str, seq: int, made_by: str, rulebook: str, draft: str | None) -> str:
        row = self.row(conn, parent)
        if not 0 <= seq <= row.seq:
            raise Refusal("no_such_entry", f"The log has entries up to {row.seq}; there is no {seq} to go on from.")
        if row.kind != WorldKind.REHEARSAL.value:
            raise Refusal("live_world", "A live world cannot be rewound; rehearse in a world of its own.")
        settings = from_plain(Settings, orjson.loads(row.settings))
        id_ = self.create(
            conn, name=row.name, settings=settings, opening=row.opening, rulebook=rulebook, made_by=made_by,
            draft=draft, parent=parent, parent_seq=seq, rehearsal=row.rehearsal,
            rehearsal_version=row.rehearsal_version, settled_to=min(seq, row.settled_to),
        )  # fmt: skip
        db.run(conn, "copy_pins", child=id_, parent=parent, seq=seq)
        return id_

    def row(self, conn: db.Conn, id_: str) -> WorldRow:
        """The row of a world; refused when there is none."""
        found = db.row(conn, WorldRow, "world", id=id_)
        if found is None:
            raise Refusal("unknown_world", "There is no such world; it may have been cleared away.")
        return found

    def entries(self, conn: db.Conn, row: WorldRow, after: int = 0, until: int | None = None) -> list[Entry]:
        """Log entries after one sequence number, up to another; the parent's where the world began there."""
        until = row.seq if until is None else min(until, row.seq)
        found: list[Entry] = []
        if row.parent and after < row.parent_seq:
            parent = self.row(conn, row.parent)
            found += self.entries(conn, parent, after, min(until, row.parent_seq))
        bodies = db.rows(conn, Body, "entries", world=row.id, after=max(after, row.parent_seq), until=until)
        return found + [read_entry(orjson.loads(b.body)) for b in bodies]

    def walk(self, conn: db.Conn, row: WorldRow, batch: int = 500) -> Iterator[Entry]:
        """All log entries from the beginning, read some at a time."""
        for after in range(0, row.seq, batch):
            yield from self.entries(conn, row, after, after + batch)

    def entries_at(self, conn: db.Conn, row: WorldRow, seqs: list[int]) -> list[Entry]:
        """Single log entries; the parent's where the world began there."""
        found: list[Entry] = []
        if row.parent and seqs and min(seqs) <= row.parent_seq:
            found = self.entries_at(conn, self.row(conn, row.parent), [n for n in seqs if n <= row.parent_seq])
        own = [n for n in seqs if n > row.parent_seq]
        bodies = db.rows(conn, Body, "entries_at", world=row.id, seqs=own) if own else []
        return found + [read_entry(orjson.loads(b.body)) for b in bodies]

    @contextmanager
    def reading(self, conn: db.Conn, id_: str) -> Iterator[Loaded]:
        """A world caught up with its log, held still while it is looked at."""
        with self._held(conn, id_) as loaded:
            self._catch_up(conn, loaded, self.row(conn, id_))
            yield loaded

    def order_of(self, conn: db.Conn, id_: str) -> Callable[[OrderNo], Order | None]:
        """Finds orders of a world, which is held for no longer than each takes: what reads a whole log holds up nobody."""

        def order(number: OrderNo) -> Order | None:
            with self.reading(conn, id_) as loaded:
                return loaded.state.order(number)

        return order

    def state_at(self, conn: db.Conn, id_: str, seq: int) -> Loaded:
        """A world as it stood after an entry, made anew; for looking back."""
        row = self.row(conn, id_)
        now = self._load(conn, id_)
        snapshot = db.row(conn, SnapshotRow, "snapshot", world=id_, shape=SNAPSHOT, until=seq)
        past = StoredPast(self._spans(conn, row), snapshot.seq if snapshot else 0)
        state = self._state(now.ground, now.settings, snapshot, past)
        past.conn = conn
        for entry in self.entries(conn, row, state.seq, seq):
            apply(state, entry)
        return Loaded(row, now.settings, now.ground, self.rulebook(conn, state.rules or row.rulebook), state, past)

    def _state(self, ground: Ground, settings: Settings, snapshot: SnapshotRow | None, past: StoredPast) -> State:
        """The state to go on from: of a snapshot, or of the opening."""
        if snapshot is None:
            state = State(ground, settings, past)
        else:
            state = State.load_snapshot(ground, settings, orjson.loads(snapshot.body), past)
        past.state = state
        return state

    def _spans(self, conn: db.Conn, row: WorldRow) -> list[tuple[str, int]]:
        """A world and those it goes on from, each up to the entry up to which its log is theirs."""
        until = sys.maxsize
        spans = [(row.id, until)]
        while row.parent:
            until = min(until, row.parent_seq)
            row = self.row(conn, row.parent)
            spans.append((row.id, until))
        return spans

    def rules_of(self, conn: db.Conn, row: WorldRow) -> Callable[[int], Rulebook]:
        """The rulebook an entry of a world was decided by: up to where it began, its parent's; from where others were put in
        force, those."""
        with self.reading(conn, row.id) as loaded:
            taken = {int(seq): hash_ for seq, hash_ in loaded.state.rules_taken.items()}
        spans = [(seq, self.rulebook(conn, taken[seq])) for seq in sorted(taken, reverse=True)]
        spans.append((row.parent_seq if row.parent else 0, self.rulebook(conn, row.rulebook)))
        while row.parent:
            row = self.row(conn, row.parent)
            spans.append((row.parent_seq if row.parent else 0, self.rulebook(conn, row.rulebook)))
        return lambda seq: next(book for after, book in spans if seq > after)

    def run(self, id_: str, command_id: str, act: Act, who: Who) -> Entry:
        """Carry out a command: its one entry in the log, the same as before if it was sent before."""
        return self.run_and_look(id_, command_id, act, lambda conn, row: who, lambda loaded, entry: entry)

    def run_and_look(
        self,
        id_: str,
        command_id: str,
        act: Act,
        whose: Callable[[db.Conn, WorldRow], Who],
        look: Callable[[Loaded, Entry], T],
    ) -> T:
        """Carry out a command for whom ``whose`` says (it may refuse), and look at the world right after it."""
        known = self._loaded.get(id_)
        if known is None:
            with self.database.transaction() as conn:
                known = self._load(conn, id_)
        if not known.row.beside:
            return self.run_alone(id_, command_id, act, whose, look)
        looked = self.run_alone(id_, command_id, act, whose, look, self.beside.met(id_))
        self.beside.pass_on(id_)
        return looked

    def run_alone(
        self,
        id_: str,
        command_id: str,
        act: Act,
        whose: Callable[[db.Conn, WorldRow], Who],
        look: Callable[[Loaded, Entry], T],
        after: datetime | None = None,
    ) -> T:
        """The same for one world alone, not before a time."""
        try:
            with self.database.transaction() as conn, self._held(conn, id_) as loaded:
                with self._or_dropped(loaded):
                    row = self._locked(conn, loaded)
                    entry = self._run(conn, loaded, row, command_id, act, whose(conn, row), after)
                    conn.commit()
                    loaded.past.written(loaded.row.settled_to)
                    self.telling.moved(id_, loaded.row.seq)
                self._snapshot_if_due(loaded)
                return look(loaded, entry)
        except psycopg.errors.UniqueViolation:  # it was sent before, longer ago than what is at hand
            with self.database.transaction() as conn, self.reading(conn, id_) as loaded:
                known = self._known(conn, loaded.row, command_id)
                if known is None:
                    raise
                whose(conn, loaded.row)
                return look(loaded, known)

    def run_within(self, conn: db.Conn, id_: str, command_id: str, act: Act, who: Who) -> Entry:
        """Carry out a command as a part of a transaction that does more. What is in memory of the world is read anew, since
        the transaction may still come to nothing."""
        with self._held(conn, id_) as loaded:
            try:
                row = self._locked(conn, loaded)
                self._catch_up(conn, loaded, row)
                known = self._known(conn, row, command_id)
                if known:
                    return known
                entry = self._run(conn, loaded, row, command_id, act, who)
                db.run(conn, "notify", text=f"world {id_} {loaded.row.seq}")
                return entry
            finally:
                loaded.dropped = True
                self.forget(id_)

    def _locked(self, conn: db.Conn, loaded: Loaded) -> WorldRow:
        """The world's row with how far its log is; nobody else appends to it until the transaction ends."""
        found = conn.execute(db.QUERIES["lock_world"], {"id": loaded.row.id}).fetchone()
        if found is None:
            raise Refusal("unknown_world", "There is no such world; it may have been cleared away.")
        row = loaded.row
        if found == (row.seq, row.settled_to, row.beside):
            return row
        return replace(row, seq=found[0], settled_to=found[1], beside=found[2])

    def replay(self, conn: db.Conn, id_: str, entries: list[Entry]) -> None:
        """Append entries that were made elsewhere, in a world that is still empty."""
        row = self.row(conn, id_)
        if row.seq:
            raise ValueError("only an empty world can take a log over")
        self._append(conn, row, entries, None, settled_to=0)
        db.run(conn, "notify", text=f"world {id_} {entries[-1].seq if entries else 0}")

    def settle(self, id_: str, until: datetime | None = None) -> None:
        """Let the host stand-in of a world do what is due by now, or by a time, without a command of anybody."""
        with self.database.transaction() as conn, self._held(conn, id_) as loaded, self._or_dropped(loaded):
            row = self._locked(conn, loaded)
            self._catch_up(conn, loaded, row)
            made = self._settled(loaded, until or loaded.now())
            if made:
                self._append(conn, row, made, loaded.past, loaded.state.seq)
                conn.commit()
                loaded.row = replace(row, seq=loaded.state.seq, settled_to=loaded.state.seq)
                loaded.past.written(loaded.state.seq)
                loaded.note(made)
                self.telling.moved(id_, loaded.state.seq)

    @contextmanager
    def _or_dropped(self, loaded: Loaded) -> Iterator[None]:
        """Should anything fail within, what is in memory of the world may be ahead of its log, and is used no more."""
        try:
            yield
        except BaseException:
            loaded.dropped = True
            self.forget(loaded.row.id)
            raise

    def keep_settled(self, id_: str) -> None:
        """Write the settled documents of a world whose entries an older version wrote; so that they can be listed."""
        with self.database.transaction() as conn:
            row = self.row(conn, id_)
        if row.settled_to == row.seq:
            return
        with self.database.transaction() as conn, self._held(conn, id_) as loaded, self._or_dropped(loaded):
            row = self._locked(conn, loaded)
            self._catch_up(conn, loaded, row)
            self._append(conn, row, [], loaded.past, row.seq)
            conn.commit()
            loaded.past.written(row.seq)

    def _settled(self, loaded: Loaded, until: datetime) -> list[Entry]:
        """What the host stand-in does by then, folded."""
        made: list[Entry] = []
        while (command := due_command(loaded.state, until, loaded.today)) is not None:
            entry = decide(loaded.state, loaded.rulebook, command)
            apply(loaded.state, entry)
            made.append(entry)
        return made

    def _run(
        self, conn: db.Conn, loaded: Loaded, row: WorldRow, command_id: str, act: Act, who: Who, after: datetime | None = None
    ) -> Entry:  # fmt: skip
        self._catch_up(conn, loaded, row)
        known = loaded.recent.get(command_id)
        if known is None and row.parent:
            known = self._known_before(conn, row, command_id)
        if known:
            return known
        state, at = loaded.state, loaded.now()
        if after is not None:
            at = max(at, after)
        made = self._settled(loaded, at)
        book = self.shown_on(loaded, who.device) if isinstance(act, HandsetAct) else loaded.rulebook
        entry = decide(state, book, Command(loaded.stamp(command_id, who, max(at, state.clock)), act))
        apply(state, entry)
        self._take_rules(conn, loaded, row)
        made.append(entry)
        if loaded.settings.kind is WorldKind.REHEARSAL:
            made += self._settled(loaded, state.clock + timedelta(seconds=loaded.settings.act_seconds))
        assert state.seq == row.seq + len(made)
        self._append(conn, row, made, loaded.past, state.seq)
        loaded.row = replace(row, seq=state.seq, settled_to=state.seq)
        loaded.note(made)
        return entry

    def shown_on(self, loaded: Loaded, device: str | None) -> Rulebook:
        """The rules of a world as a handset has them: with the menus and flows it was given, if it takes others only later."""
        handset = DeviceId(device) if device else None
        if not behind(loaded.state, loaded.rulebook, handset):
            return loaded.rulebook
        given = loaded.state.given_to(handset)
        known = self._books.get(given or loaded.row.rulebook)
        if known is None:
            with self.database.glance() as conn:
                known = self.rulebook(conn, given or loaded.row.rulebook)
        return loaded.rulebook.shown_by(known)

    def _append(
        self, conn: db.Conn, row: WorldRow, made: list[Entry], past: StoredPast | None, settled_to: int
    ) -> None:
        """Write entries, and the settled documents of a past that are not written yet: then all are up to ``settled_to``."""
        try:
            bodies = [orjson.dumps(stored(e)) for e in made]
        except TypeError:  # more than 64 bits, or half a surrogate pair
            raise Refusal("cannot_be_kept", "It holds a number that is too large, or half a character.") from None
        seq = made[-1].seq if made else row.seq
        if len(made) == 1 and settled_to == seq and past and not past.settled_any:
            db.run(conn, "append_one", world=row.id, seq=seq, id=made[0].command.stamp.id, body=bodies[0])
            return
        db.run(
            conn, "append", world=row.id, seqs=[e.seq for e in made], ids=[e.command.stamp.id for e in made],
            bodies=bodies, seq=seq, settled_to=settled_to, **(past.columns() if past else nothing_settled()),
        )  # fmt: skip

    def _snapshot_if_due(self, loaded: Loaded) -> None:
        """Keep a snapshot now and then, further apart as the log grows, so that it costs each entry the same.

        Only the dictionaries are copied while the world is held; writing them out is left to a thread of its own.
        """
        seq = loaded.state.seq
        if seq - loaded.snapshot < max(SNAPSHOT_EVERY, loaded.snapshot // 4) or loaded.snapshotting:
            return
        loaded.snapshotting = True
        kept, world = loaded.state.kept(), loaded.row.id

        def keep() -> None:
            try:
                with self.database.transaction() as conn:
                    db.run(
                        conn, "put_snapshot", world=world, seq=seq, shape=SNAPSHOT, body=orjson.dumps(to_plain(kept))
                    )
                loaded.snapshot = seq
            except psycopg.Error as error:  # the log is whole without it; the next command tries again
                log.warning("no snapshot", world=world, seq=seq, error=str(error))
            finally:
                loaded.snapshotting = False

        threading.Thread(target=keep, name=f"snapshot {world}", daemon=True).start()

    def _known(self, conn: db.Conn, row: WorldRow, command_id: str) -> Entry | None:
        body = db.value(conn, "entry_by_command", world=row.id, command_id=command_id)
        if body is not None:
            return read_entry(orjson.loads(body))
        return self._known_before(conn, row, command_id) if row.parent else None

    def _known_before(self, conn: db.Conn, row: WorldRow, command_id: str) -> Entry | None:
        """The entry of a command among those a world began with."""
        assert row.parent
        known = self._known(conn, self.row(conn, row.parent), command_id)
        return known if known and known.seq <= row.parent_seq else None

    @contextmanager
    def _held(self, conn: db.Conn, id_: str) -> Iterator[Loaded]:
        """The world in memory, locked; a fresh one when the one waited for was dropped meanwhile."""
        while True:
            loaded = self._load(conn, id_)
            with loaded.lock:
                if not loaded.dropped:
                    with loaded.past.through(conn):
                        yield loaded
                    return

    def _load(self, conn: db.Conn, id_: str) -> Loaded:
        with self._lock:
            found = self._loaded.get(id_)
            if found:
                self._loaded.move_to_end(id_)
                return found
            row = self.row(conn, id_)
            settings = from_plain(Settings, orjson.loads(row.settings))
            ground = self.ground(conn, row.opening)
            snapshot = db.row(conn, SnapshotRow, "snapshot", world=id_, shape=SNAPSHOT, until=row.seq)
            past = StoredPast(self._spans(conn, row), max(row.settled_to, snapshot.seq if snapshot else 0))
            state = self._state(ground, settings, snapshot, past)
            rulebook = self.rulebook(conn, state.rules or row.rulebook)
            found = Loaded(row, settings, ground, rulebook, state, past, snapshot=state.seq)
            self._loaded[id_] = found
            while len(self._loaded) > CACHED:
                self._loaded.popitem(last=False)
            return found

    def _catch_up(self, conn: db.Conn, loaded: Loaded, row: WorldRow) -> None:
        loaded.past.written(row.settled_to)
        if loaded.state.seq == row.seq:
            loaded.row = row
            return
        missed = self.entries(conn, row, loaded.state.seq)
        for entry in missed:
            apply(loaded.state, entry)
        loaded.note(missed)
        self._take_rules(conn, loaded, row)
        loaded.row = row

    def _take_rules(self, conn: db.Conn, loaded: Loaded, row: WorldRow) -> None:
        """Go by the rules that hold now."""
        loaded.rulebook = self.rulebook(conn, loaded.state.rules or row.rulebook)

    def forget(self, id_: str) -> None:
        """Drop a world from memory; the next look reads it from the log."""
        with self._lock:
            self._loaded.pop(id_, None)


def local_start(site_zone: str, day: date, hour: int, minute: int) -> datetime:
    """A local time of a site as UTC."""
    return datetime(day.year, day.month, day.day, hour, minute, tzinfo=ZoneInfo(site_zone)).astimezone(UTC)
