"""Drafts of a rulebook: every edit is saved as the next step; undo and redo move between steps."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.plain import Misfit, to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings import Finding, findings
from mindful_crate.core.rulebook.adding import first_part
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.edits import Edit, apply_edits
from mindful_crate.core.rulebook.versions import read_rulebook
from mindful_crate.store import db
from mindful_crate.store.rows import DraftRow, DraftStepRow, RevisionRow
from mindful_crate.store.worlds import Worlds

REMEMBERED = 100
"""Of so many rulebooks what was found is remembered."""


class Stale(Exception):
    """An edit made on an older version; ``changed`` says what happened to the draft since, newest first."""

    def __init__(self, draft: DraftRow, changed: list[DraftStepRow]) -> None:
        super().__init__(f"version {draft.version} stands")
        self.draft = draft
        self.changed = changed


@dataclass(frozen=True, slots=True)
class Draft:
    """A draft with its rulebook."""

    row: DraftRow
    rulebook: Rulebook


class Drafts:
    """All drafts of a database."""

    def __init__(self, worlds: Worlds) -> None:
        self.worlds = worlds
        self._found: OrderedDict[tuple[str, str, str], tuple[Finding, ...]] = OrderedDict()
        self._lock = threading.Lock()

    def create(
        self,
        conn: db.Conn,
        *,
        id_: str,
        name: str,
        site: str,
        opening: str,
        rulebook: Rulebook,
        by: str,
        parent: int | None,
    ) -> None:
        """A new draft whose first step is ``rulebook``."""
        db.run(conn, "put_draft", id=id_, name=name, parent=parent, site=site, opening=opening)
        hash_ = self.worlds.keep_rulebook(conn, rulebook)
        db.run(conn, "put_draft_step", draft=id_, step=1, rulebook=hash_, says="Begun.", made_by=by)

    def copy(self, conn: db.Conn, id_: str, name: str, by: str) -> str:
        """A new draft that says what another says now; its id."""
        db.value(conn, "in_turn", what="next draft")
        row = self.get(conn, id_).row
        made = f"d-{db.value(conn, 'next_draft')}"
        db.run(
            conn,
            "put_draft",
            id=made,
            name=self.named(conn, name, row.site),
            parent=row.parent,
            site=row.site,
            opening=row.opening,
        )
        db.run(
            conn,
            "put_draft_step",
            draft=made,
            step=1,
            rulebook=row.rulebook,
            says=f"Begun as a copy of {row.name}.",
            made_by=by,
        )
        return made

    def named(self, conn: db.Conn, name: str, site: str, but: str = "") -> str:
        """A name for a draft of a site; refused when it is none, or another one has it."""
        name = " ".join(name.split())
        if not name:
            raise Refusal("no_name", "A draft has a name. Say in a few words what it is for.", "name")
        if any(d.name.lower() == name.lower() and d.id != but for d in db.rows(conn, DraftRow, "drafts", sites=[site])):
            raise Refusal("name_taken", f"There is a draft called {name} already. Call it otherwise.", "name")
        return name

    def rename(self, conn: db.Conn, id_: str, name: str) -> None:
        """Call a draft otherwise."""
        row = self.get(conn, id_).row
        db.run(conn, "name_draft", id=id_, name=self.named(conn, name, row.site, but=id_))
        db.run(conn, "notify", text=f"draft {id_} {row.version}")

    def close(self, conn: db.Conn, id_: str) -> None:
        """A draft is no longer worked on; refused for the only one of its site."""
        db.value(conn, "in_turn", what="next draft")
        row = self.get(conn, id_).row
        if len(db.rows(conn, DraftRow, "drafts", sites=[row.site])) < 2:
            raise Refusal(
                "only_draft", f"{row.name} is the only draft of its site. Copy it first, should it be another."
            )
        db.run(conn, "close_draft", id=id_)

    def get(self, conn: db.Conn, id_: str) -> Draft:
        """A draft as it stands; refused when there is none."""
        row = db.row(conn, DraftRow, "draft", id=id_)
        if row is None:
            raise Refusal("unknown_draft", "There is no such draft; it may have been removed.")
        return Draft(row, self.worlds.rulebook(conn, row.rulebook))

    def edit(
        self, conn: db.Conn, id_: str, version: int, edits: tuple[Edit, ...], says: str, by: str,
        made: list[str] | None = None,
    ) -> Draft:  # fmt: skip
        """Save edits as the next step. They must keep the rulebook's shape; what they mean is for findings. ``made`` gets the
        paths of what was added."""
        draft = self._locked(conn, id_, version)
        rulebook = self.supposed(conn, draft, edits, made)
        if rulebook == draft.rulebook:
            return draft
        self.put(conn, draft.row, rulebook, says, by)
        return self.get(conn, id_)

    def supposed(self, conn: db.Conn, draft: Draft, edits: tuple[Edit, ...], made: list[str] | None = None) -> Rulebook:
        """What edits would make of a draft's rulebook; nothing is kept."""
        first = first_part(self.worlds.ground(conn, draft.row.opening), SiteCode(draft.row.site))
        try:
            return read_rulebook(apply_edits(to_plain(draft.rulebook), edits, first, made))
        except Misfit as misfit:
            raise Refusal("bad_edit", f"That does not fit here: {misfit.says}.", misfit.place) from None

    def put(self, conn: db.Conn, row: DraftRow, rulebook: Rulebook, says: str, by: str) -> None:
        """Make a rulebook the next step of a draft whose row is locked."""
        hash_ = self.worlds.keep_rulebook(conn, rulebook)
        db.run(conn, "cut_draft", id=row.id, cursor=row.cursor)
        db.run(conn, "put_draft_step", draft=row.id, step=row.cursor + 1, rulebook=hash_, says=says, made_by=by)
        self._move(conn, row, row.cursor + 1)

    def step(self, conn: db.Conn, id_: str, version: int, by: int) -> Draft:
        """Undo (-1) or redo (+1)."""
        draft = self._locked(conn, id_, version)
        cursor = draft.row.cursor + by
        if not 1 <= cursor <= draft.row.last_step:
            raise Refusal("nothing_there", "There is nothing to undo." if by < 0 else "There is nothing to redo.")
        self._move(conn, draft.row, cursor)
        return self.get(conn, id_)

    def found(self, conn: db.Conn, draft: Draft) -> tuple[Finding, ...]:
        """All findings of a draft as it stands; remembered for the rules and the ground it stands on, since every page asks."""
        row = draft.row
        key = (row.rulebook, row.opening, row.site)
        with self._lock:
            known = self._found.get(key)
            if known is not None:
                self._found.move_to_end(key)
                return known
        ground = self.worlds.ground(conn, row.opening)
        found = tuple(findings(draft.rulebook, ground, SiteCode(row.site)))
        with self._lock:
            self._found[key] = found
            while len(self._found) > REMEMBERED:
                self._found.popitem(last=False)
        return found

    def put_in_force(self, conn: db.Conn, id_: str, version: int, by: str) -> int:
        """Make the draft the revision in force; refused while a blocking finding stands. Its number."""
        draft = self._locked(conn, id_, version)
        blocking = [f for f in self.found(conn, draft) if f.severity.value == "blocks"]
        if blocking:
            raise Refusal("blocked", f"It cannot be put in force: {blocking[0].says}", blocking[0].place)
        db.run(conn, "retire", site=draft.row.site)
        return int(
            db.value(
                conn, "put_revision", name=draft.row.name, site=draft.row.site, rulebook=draft.row.rulebook, made_by=by
            )
        )

    def rulebooks(self, conn: db.Conn) -> list[Rulebook]:
        """The rulebooks of all drafts as they stand."""
        found = db.rows(conn, DraftRow, "drafts", sites=self.sites(conn))
        return [self.worlds.rulebook(conn, row.rulebook) for row in found]

    def sites(self, conn: db.Conn) -> list[str]:
        """The sites that drafts are for."""
        return [str(row[0]) for row in conn.execute(db.QUERIES["draft_sites"]).fetchall()]

    def in_force(self, conn: db.Conn, site: str) -> RevisionRow | None:
        """The revision in force at a site."""
        return db.row(conn, RevisionRow, "in_force", site=site)

    def _locked(self, conn: db.Conn, id_: str, version: int) -> Draft:
        db.value(conn, "lock_draft", id=id_)
        draft = self.get(conn, id_)
        if draft.row.version != version:
            most = max(1, draft.row.version - version)
            raise Stale(draft.row, db.rows(conn, DraftStepRow, "draft_steps", id=id_, most=min(most, 10)))
        return draft

    def _move(self, conn: db.Conn, row: DraftRow, cursor: int) -> None:
        db.run(conn, "move_draft", id=row.id, cursor=cursor)
        db.run(conn, "notify", text=f"draft {row.id} {row.version + 1}")
