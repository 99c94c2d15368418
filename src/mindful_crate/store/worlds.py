"""Worlds in PostgreSQL: the order of work for every command, in one place.

Row lock on the world, catch up from the log, let the host stand-in answer what is due, decide, append, notify,
commit, fold. A cached state is only ever advanced from committed entries; if a commit fails, it is dropped.

A scan that brings nothing but its own entry, as most do, is spared the lock: what is decided is appended on condition
that the log is still as it was known, in one statement. If it is not, the world catches up and decides anew; after some
such tries, or when deciding takes long, all goes the ordinary way. Who was alone in a world lately does not even ask how far
the log is.
"""

from __future__ import annotations

import sys
import threading
import time
import uuid
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from functools import partial
from typing import TypeVar
from zoneinfo import ZoneInfo

import orjson
import psycopg
import structlog

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import DeviceId, OrderNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import SNAPSHOT, Settings, State, WorldKind
from mindful_crate.core.plain import canonical, from_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.handset.given import behind
from mindful_crate.core.world.acts import Act, Command, HandsetAct
from mindful_crate.core.world.decide import enact, enact_if
from mindful_crate.core.world.events import Entry
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.versions import read_entry, stored
from mindful_crate.core.world.world import due_command
from mindful_crate.store import db, snapshots
from mindful_crate.store.beside import Beside
from mindful_crate.store.by_hash import ByHash
from mindful_crate.store.loaded import Loaded, Unproven, Who
from mindful_crate.store.past import StoredPast, nothing_settled
from mindful_crate.store.rows import Body, SnapshotRow, WorldRow
from mindful_crate.store.telling import Telling

log = structlog.get_logger()
T = TypeVar("T")
CACHED = 50
"""How many worlds a process keeps in memory."""
UNDISTURBED = 4
"""After so many commands in a row before which no other process had appended, a process takes its memory for the log."""
TRIES, QUICK = 3, 0.05
"""So often a scan is decided without the lock, should others append meanwhile; but once if that takes so many seconds."""


def _proven(conn: db.Conn, who: Who) -> Who:
    """Whoever sends a command, if they are still as they were looked up; :class:`Unproven` if not."""
    if who.proof and not db.value(conn, "session_stands", session=who.proof.session, stands=who.proof.stands):
        raise Unproven
    return who


def _bodies(made: list[Entry]) -> list[bytes]:
    """Entries as they are kept."""
    try:
        return [orjson.dumps(stored(e)) for e in made]
    except TypeError:  # more than 64 bits, or half a surrogate pair
        raise Refusal("cannot_be_kept", "It holds a number that is too large, or half a character.") from None


class Worlds(ByHash):
    """All worlds of a database, and what they stand on."""

    def __init__(self, database: db.Database) -> None:
        super().__init__()
        self.database = database
        self.telling = Telling(database)
        self._loaded: OrderedDict[str, Loaded] = OrderedDict()
        self.beside = Beside(self)
        self._lock = threading.Lock()

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
            if after is None and isinstance(act, HandsetAct):
                with self.database.glance() as conn, self._held(conn, id_) as loaded:
                    appended = self._without_lock(conn, loaded, command_id, act, whose)
                    if appended is not None:
                        self._snapshot_if_due(loaded)
                        return look(loaded, appended)
            with self.database.transaction() as conn, self._held(conn, id_) as loaded:
                with self._or_dropped(loaded):
                    row = self._locked(conn, loaded)
                    loaded.undisturbed = loaded.undisturbed + 1 if row.seq == loaded.state.seq else 0
                    entry = self._run(conn, loaded, row, command_id, act, _proven(conn, whose(conn, row)), after)
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
                _proven(conn, whose(conn, loaded.row))
                return look(loaded, known)

    def _without_lock(
        self, conn: db.Conn, loaded: Loaded, command_id: str, act: Act, whose: Callable[[db.Conn, WorldRow], Who]
    ) -> Entry | None:
        """Carry out a command that brings nothing but its own entry; None, with nothing done, when it may not be so, or others
        append all the time."""
        state, began = loaded.state, time.monotonic()
        for _ in range(TRIES):
            if loaded.row.parent or loaded.row.beside:
                return None
            if loaded.undisturbed < UNDISTURBED:
                self._look_for_more(conn, loaded)
            row = loaded.row
            if row.beside or row.seq != state.seq or row.settled_to != row.seq or loaded.past.settled_any:
                return None
            who, at = whose(conn, row), loaded.now()
            if command_id in loaded.recent or due_command(state, at, loaded.today) is not None:
                return None
            entry = enact_if(
                state, *self._asked(loaded, command_id, act, who, at), partial(self._appended, conn, loaded, who)
            )
            if entry is not None:
                break
            if any(state.may_settle):  # it was not tried
                return None
            loaded.undisturbed = 0
            if time.monotonic() - began > QUICK:
                return None
        else:
            return None
        with self._or_dropped(loaded):
            assert not loaded.past.settled_any
            self._take_rules(conn, loaded, row)
            self._written(loaded, row, [entry])
            until = self._host_until(loaded)
            if until is not None and due_command(state, until, loaded.today) is not None:
                with conn.transaction():
                    row, made = self._settle(conn, loaded, until)
                self._written(loaded, row, made)
        return entry

    def _look_for_more(self, conn: db.Conn, loaded: Loaded) -> None:
        """Catch up with the log as it is now, in one question."""
        row, state = loaded.row, loaded.state
        found = conn.execute(db.QUERIES["world_since"], {"world": row.id, "after": state.seq}).fetchall()
        if not found:
            return  # it was cleared away: the ordinary way says so
        seq, settled_to, beside, _ = found[0]
        missed = [read_entry(orjson.loads(body)) for *_, body in found if body is not None]
        loaded.undisturbed = 0 if missed else loaded.undisturbed + 1
        if (seq, settled_to, beside) != (row.seq, row.settled_to, row.beside):
            row = replace(row, seq=seq, settled_to=settled_to, beside=beside)
        with self._or_dropped(loaded):
            self._fold(conn, loaded, row, missed)

    def _appended(self, conn: db.Conn, loaded: Loaded, who: Who, entry: Entry) -> bool:
        """Append an entry if the log is as it was known, and whoever sends it is still as they were looked up; not if it may
        settle something, which would be written with it."""
        if any(loaded.state.may_settle):
            return False
        (body,) = _bodies([entry])
        session, stands = (who.proof.session, who.proof.stands) if who.proof else (None, None)
        appended = db.value(
            conn, "append_unless_moved", world=loaded.row.id, seq=entry.seq, id=entry.command.stamp.id, body=body,
            session=session, stands=stands,
        )  # fmt: skip
        return appended is not None

    def _asked(self, loaded: Loaded, command_id: str, act: Act, who: Who, at: datetime) -> tuple[Rulebook, Command]:
        """A command, not before a time, and the rules it is decided by."""
        book = self.shown_on(loaded, who.device) if isinstance(act, HandsetAct) else loaded.rulebook
        return book, Command(loaded.stamp(command_id, who, max(at, loaded.state.clock)), act)

    def _host_until(self, loaded: Loaded) -> datetime | None:
        """By when the host stand-in answers a command of a rehearsal at once; on a live floor its clock sees to it."""
        if loaded.settings.kind is not WorldKind.REHEARSAL:
            return None
        return loaded.state.clock + timedelta(seconds=loaded.settings.act_seconds)

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
            row, made = self._settle(conn, loaded, until or loaded.now())
            conn.commit()
            self._written(loaded, row, made)

    def _settle(self, conn: db.Conn, loaded: Loaded, until: datetime) -> tuple[WorldRow, list[Entry]]:
        """What the host stand-in does by a time, appended; and the row as it was before."""
        row = self._locked(conn, loaded)
        self._catch_up(conn, loaded, row)
        made = self._settled(loaded, until)
        if made:
            self._append(conn, row, made, loaded.past, loaded.state.seq)
        return row, made

    def _written(self, loaded: Loaded, row: WorldRow, made: list[Entry]) -> None:
        """Entries that were appended and folded are committed, if there are any."""
        if made:
            seq = loaded.state.seq
            loaded.row = replace(row, seq=seq, settled_to=seq)
            loaded.past.written(seq)
            loaded.note(made)
            self.telling.moved(row.id, seq)

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
            made.append(enact(loaded.state, loaded.rulebook, command))
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
        entry = enact(state, *self._asked(loaded, command_id, act, who, at))
        self._take_rules(conn, loaded, row)
        made.append(entry)
        if (until := self._host_until(loaded)) is not None:
            made += self._settled(loaded, until)
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
        bodies = _bodies(made)
        seq = made[-1].seq if made else row.seq
        if len(made) == 1 and settled_to == seq and past and not past.settled_any:
            db.run(conn, "append_one", world=row.id, seq=seq, id=made[0].command.stamp.id, body=bodies[0])
            return
        db.run(
            conn, "append", world=row.id, seqs=[e.seq for e in made], ids=[e.command.stamp.id for e in made],
            bodies=bodies, seq=seq, settled_to=settled_to, **(past.columns() if past else nothing_settled()),
        )  # fmt: skip

    def _snapshot_if_due(self, loaded: Loaded) -> None:
        """Keep a snapshot when one is due: by whoever appended the entry at which it is. Those who follow leave it to them."""
        if snapshots.due(loaded.state.seq) > loaded.snapshot and not loaded.snapshotting:
            snapshots.keep(self.database, loaded)

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
        behind = loaded.state.seq != row.seq
        self._fold(conn, loaded, row, self.entries(conn, row, loaded.state.seq) if behind else [])

    def _fold(self, conn: db.Conn, loaded: Loaded, row: WorldRow, missed: list[Entry]) -> None:
        """Fold what others appended, as far as a row says."""
        loaded.past.written(row.settled_to)
        for entry in missed:
            apply(loaded.state, entry)
        if missed:
            loaded.note(missed)
            self._take_rules(conn, loaded, row)
            if len(missed) < snapshots.EVERY:  # it follows; who begins with a long log sees to a snapshot
                loaded.snapshot = max(loaded.snapshot, snapshots.due(row.seq))
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
