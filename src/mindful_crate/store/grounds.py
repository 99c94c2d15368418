"""The ground: sites, catalogue, orders and opening stock as they stand. A change makes the next state; drafts that
still find everything they name go along, worlds and results keep the opening they began on."""

from __future__ import annotations

from dataclasses import dataclass

import psycopg

from mindful_crate.core.catalog.beginnings import first_opening
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.finding import Finding, newly_missing
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.store import db
from mindful_crate.store.rows import DraftRow, GroundRow
from mindful_crate.store.worlds import Worlds


@dataclass(frozen=True, slots=True)
class Stayed:
    """A draft that did not go along, with what it names and no longer finds."""

    draft: DraftRow
    missing: list[Finding]


class Grounds:
    """The ground of a database."""

    def __init__(self, worlds: Worlds) -> None:
        self.worlds = worlds

    def row(self, conn: db.Conn) -> GroundRow | None:
        """The ground as it stands; None before there is any."""
        return db.row(conn, GroundRow, "ground")

    def opening(self, conn: db.Conn) -> Opening:
        """What it holds; what everything begins with before there is any."""
        row = self.row(conn)
        return first_opening() if row is None else self.worlds.ground(conn, row.opening).opening

    def change(self, conn: db.Conn, base: int, opening: Opening, says: str, by: str) -> list[Stayed]:
        """Make the next state, from state ``base`` (0: none yet). Refused when somebody was quicker. The drafts that
        stay behind."""
        if self.no(conn) != base:
            self._stale(conn, base)
        return self.stand_on(conn, base, self.worlds.keep_opening(conn, opening), says, by)

    def no(self, conn: db.Conn) -> int:
        """The number of its state; 0 before there is any."""
        row = self.row(conn)
        return row.no if row else 0

    def stand_on(self, conn: db.Conn, base: int, hash_: str, says: str, by: str) -> list[Stayed]:
        """Make an opening that is kept already the next state; as :meth:`change`."""
        db.value(conn, "in_turn", what="drafts")
        row = self.row(conn)
        if (row.no if row else 0) != base:
            self._stale(conn, base)
        if row and row.opening == hash_:
            return []
        try:
            with conn.transaction():
                db.run(conn, "put_ground", no=base + 1, opening=hash_, says=says, made_by=by)
        except psycopg.errors.UniqueViolation:
            self._stale(conn, base)
        db.run(conn, "notify", text=f"ground 1 {base + 1}")
        stayed = []
        for draft in db.rows(conn, DraftRow, "all_drafts"):
            if row is not None and draft.opening == row.opening:
                missing = self.missing(conn, draft, hash_)
                if missing:
                    stayed.append(Stayed(draft, missing))
                else:
                    self.put_draft_on(conn, draft, hash_)
        return stayed

    def _stale(self, conn: db.Conn, base: int) -> None:
        since = db.rows(conn, GroundRow, "grounds_since", no=base)
        what = f": {since[0].says}" if since else "."
        raise Refusal(
            "ground_moved", f"The ground was changed meanwhile{what} Look at it as it is now, then try again."
        )

    def missing(self, conn: db.Conn, draft: DraftRow, hash_: str) -> list[Finding]:
        """What a draft names and would not find on another ground, though it finds it now."""
        rulebook = self.worlds.rulebook(conn, draft.rulebook)

        def found(opening: str) -> list[Finding]:
            ground = self.worlds.ground(conn, opening)
            if draft.site not in ground.sites:
                return []
            return findings(rulebook, ground, SiteCode(draft.site))

        return newly_missing(found(draft.opening), found(hash_))

    def put_draft_on(self, conn: db.Conn, draft: DraftRow, hash_: str) -> None:
        """Let a draft stand on another ground."""
        db.run(conn, "put_draft_on", id=draft.id, opening=hash_)
        db.run(conn, "notify", text=f"draft {draft.id} {draft.version + 1}")

    def ground(self, conn: db.Conn) -> Ground | None:
        """The ground with its indexes."""
        row = self.row(conn)
        return self.worlds.ground(conn, row.opening) if row else None
