"""Files brought in: looked through against the ground as it stands, then taken or left.

What good rows make is kept when they have been read, so taking them is one step, refused when the ground was changed
meanwhile. A little is read while the person waits; much is a job, which says how far it is and can be cancelled.
"""

from __future__ import annotations

import tempfile
import time
import uuid
from collections.abc import Iterator, Sequence
from contextlib import ExitStack, contextmanager
from typing import IO

import orjson
import psycopg
import structlog
from psycopg_pool import PoolTimeout

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.tables import TABLES, TableChange
from mindful_crate.core.plain import from_plain, to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.files.reading import Unreadable
from mindful_crate.files.tables import MOST_KEPT, MOST_SHOWN, BadCell, Brought, bring, sheets_of
from mindful_crate.files.writing import as_csv
from mindful_crate.store import db
from mindful_crate.store.by_hash import PART
from mindful_crate.store.grounds import Grounds, Stayed
from mindful_crate.store.rows import ImportFile, ImportRow, Part
from mindful_crate.store.worlds import Worlds

OUT_OF_TOUCH = (psycopg.OperationalError, PoolTimeout)
"""The database went away in the middle."""
EVERY = 0.4
"""Seconds between two words of progress."""
log = structlog.get_logger()


@record
class Outcome:
    """What files would change, and what is wrong with them: the first bad cells, and how many there are. The same as
    :class:`Brought` without the opening."""

    changes: tuple[TableChange, ...] = ()
    bad: tuple[BadCell, ...] = ()
    bad_cells: int = 0
    bad_rows: int = 0
    rows: int = 0


class Cancelled(Exception):
    """Somebody does not want it any more."""


class Imports:
    """The imports of a database."""

    def __init__(self, database: db.Database, worlds: Worlds) -> None:
        self.database = database
        self.worlds = worlds
        self.grounds = Grounds(worlds)

    def begin(self, *, by: str, sees: Sequence[str], site: str, whole: bool, files: list[tuple[str, IO[bytes]]]) -> str:
        """Keep files until they are read; the import's id. What was left lying for a day is cleared away."""
        id_ = "i-" + uuid.uuid4().hex[:10]
        with self.database.transaction() as conn:
            for old in conn.execute(db.QUERIES["old_imports"]).fetchall():
                db.run(conn, "drop_opening", hash=old[0])
            names = [name for name, _ in files]
            db.run(conn, "put_import", id=id_, made_by=by, names=names, sees=list(sees), site=site, whole=whole)
            for n, (name, file) in enumerate(files):
                no = 0
                while (content := file.read(PART)) or no == 0:
                    db.run(conn, "put_import_part", id=id_, file=n, no=no, name=name, content=content)
                    no += 1
        return id_

    def open(self, conn: db.Conn, by: str) -> list[ImportRow]:
        """Those a person began and neither took nor left, the latest first."""
        return db.rows(conn, ImportRow, "open_imports", by=by)

    def row(self, conn: db.Conn, id_: str, by: str, *, lock: bool = False) -> ImportRow:
        """One that this person began; refused when there is none."""
        found = db.row(conn, ImportRow, "lock_import" if lock else "import", id=id_)
        if found is None or found.made_by != by:
            raise Refusal("unknown_import", "There is no such import; it may have been cleared away. Bring the files again.")  # fmt: skip
        return found

    def read(self, id_: str) -> None:
        """Look the files through; what comes of it stands in the row."""
        with self.database.transaction() as conn:
            ground = self.grounds.row(conn)
            opening = self.grounds.opening(conn)
            if db.value(conn, "begin_import", id=id_, base=ground.no if ground else 0) is None:
                return
            row = db.row(conn, ImportRow, "import", id=id_)
            assert row is not None
        self._notify(id_)
        told = [time.monotonic()]

        def progress(rows: int, share: float) -> None:
            if time.monotonic() - told[0] >= EVERY:
                told[0] = time.monotonic()
                self._move(id_, rows, share)

        try:
            with self._files(id_) as files:
                sheets = [s for name, file in files for s in sheets_of(name, file)]
                site = SiteCode(row.site) if row.site else None
                found = bring(opening, sheets, whole=row.whole, site=site, sees=row.sees, progress=progress)
            self._move(id_, found.rows, 1)
            self._end(id_, found)
        except OUT_OF_TOUCH:  # nothing is said of the files; they are read again when there is a database
            raise
        except Cancelled:
            log.info("import cancelled", id=id_)
        except Unreadable as unreadable:
            self._put_end(id_, "failed", says=str(unreadable))
        except Exception:
            log.exception("import", id=id_)
            self._put_end(id_, "failed", says="Something went wrong inside while the files were read. It is logged.")
        with self.database.transaction() as conn:
            db.run(conn, "drop_import_parts", id=id_)
        self._notify(id_)

    def _end(self, id_: str, found: Brought) -> None:
        outcome = Outcome(found.changes, tuple(found.bad[:MOST_SHOWN]), found.bad_cells, found.bad_rows, found.rows)
        reasons = [[b.file, str(b.line), b.column, b.value, b.says] for b in found.bad]
        if found.bad_cells > len(found.bad):
            reasons.append(["", "", "", "", f"{found.bad_cells - MOST_KEPT:,} more are not listed"])
        with self.database.transaction() as conn:
            idle = all(c.idle for c in found.changes)
            opening = None if idle else self.worlds.keep_opening(conn, found.opening)
            db.value(
                conn, "end_import", id=id_, state="read", says="", rows=found.rows, opening=opening,
                outcome=orjson.dumps(to_plain(outcome)),
                reasons=as_csv(["file", "line", "column", "value", "reason"], reasons) if reasons else None,
            )  # fmt: skip

    def _put_end(self, id_: str, state: str, says: str) -> None:
        with self.database.transaction() as conn:
            db.value(
                conn, "end_import", id=id_, state=state, says=says, rows=0, opening=None, outcome=None, reasons=None
            )

    def _move(self, id_: str, rows: int, share: float) -> None:
        with self.database.transaction() as conn:
            if db.value(conn, "move_import", id=id_, rows=rows, share=share) is None:
                raise Cancelled
            db.run(conn, "notify", text=f"import {id_}")

    def _notify(self, id_: str) -> None:
        with self.database.transaction() as conn:
            db.run(conn, "notify", text=f"import {id_}")

    @contextmanager
    def _files(self, id_: str) -> Iterator[list[tuple[str, IO[bytes]]]]:
        """The files, on disk while they are read."""
        with ExitStack() as stack:
            found: list[tuple[str, IO[bytes]]] = []
            with self.database.transaction() as conn:
                for each in db.rows(conn, ImportFile, "import_files", id=id_):
                    file = stack.enter_context(tempfile.TemporaryFile())
                    no = 0
                    while part := db.row(conn, Part, "import_parts", id=id_, file=each.file, no=no):
                        file.write(part.content)
                        no += 1
                    found.append((each.name, file))
            yield found

    @staticmethod
    def outcome(row: ImportRow) -> Outcome:
        """What came of one that was read; of others, nothing yet."""
        return from_plain(Outcome, orjson.loads(row.outcome)) if row.outcome else Outcome()

    def take(self, conn: db.Conn, id_: str, by: str, *, good: bool) -> tuple[ImportRow, list[Stayed]]:
        """Let the ground be what the rows make of it; ``good``: also if there are bad rows, without them. The drafts
        that stay behind."""
        row = self.row(conn, id_, by, lock=True)
        if row.state != "read":
            raise Refusal("not_read", "These files were not read through, or were taken already. Bring them again.")
        outcome = self.outcome(row)
        if outcome.bad_cells and not good:
            raise Refusal("bad_rows", f"{outcome.bad_rows:,} rows will not do. Mend them, or take the others alone.")
        if row.opening is None:
            return row, []
        stayed = self.grounds.stand_on(conn, row.base, row.opening, summed(outcome.changes), by)
        db.run(conn, "take_import", id=id_)
        return row, stayed

    def cancel(self, conn: db.Conn, id_: str, by: str) -> None:
        """Leave it; what is being read is read no further."""
        self.row(conn, id_, by)
        db.value(conn, "cancel_import", id=id_)
        db.run(conn, "notify", text=f"import {id_}")

    def reasons(self, conn: db.Conn, id_: str, by: str) -> bytes:
        """Everything wrong, as a file."""
        self.row(conn, id_, by)
        return bytes(
            db.value(conn, "import_reasons", id=id_) or as_csv(["file", "line", "column", "value", "reason"], [])
        )


def summed(changes: Sequence[TableChange]) -> str:
    """``3 items new, 1 order changed.``"""
    said = []
    for c in changes:
        for count, word in ((c.new, "new"), (c.changed, "changed"), (c.gone, "gone")):
            if count:
                said.append(f"{count:,} {TABLES[c.table].one if count == 1 else TABLES[c.table].many} {word}")
    return (", ".join(said) or "Nothing changed") + "."
