"""Drafts of a rulebook: every edit is saved as the next step; undo and redo move between steps."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import Misfit, to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.finding import Finding, newly_missing
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.rulebook import layers
from mindful_crate.core.rulebook.adding import first_part
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.edits import Edit, apply_edits
from mindful_crate.core.rulebook.starter import starter
from mindful_crate.core.rulebook.steps import check_ties
from mindful_crate.core.rulebook.versions import read_rulebook
from mindful_crate.store import db
from mindful_crate.store.rows import DraftRow, DraftStepRow, GeneralRow, GroundRow, RevisionRow, StepRow
from mindful_crate.store.worlds import Worlds

OF_THE_SITE = ("missing_", "other_site", "no_bins", "no_storage", "plates_", "put_away_nowhere")
"""How codes of findings begin that are about bins and what else a site has of its own."""
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


@dataclass(frozen=True, slots=True)
class General:
    """A version of the layer for all sites; 0 is before anybody has put something into it."""

    no: int
    rulebook: Rulebook
    hash: str = ""


@dataclass(frozen=True, slots=True)
class Supposed:
    """What edits would make of a draft: the whole, and both layers of it."""

    whole: Rulebook
    general: Rulebook
    own: Rulebook


class Drafts:
    """All drafts of a database, and the layer of the rulebook that they share. Whatever may change that layer takes its turn,
    since it changes the drafts that stand on it as well."""

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
        says: str = "Begun.",
    ) -> None:
        """A new draft whose first step is ``rulebook``, as the site's own; it stands on the layer for all sites as it is."""
        general = self.general(conn)
        mine = layers.own(rulebook, SiteCode(site))
        own = self.worlds.keep_rulebook(conn, mine)
        whole = self.worlds.keep_rulebook(conn, layers.merged(general.rulebook, mine))
        db.run(
            conn, "put_draft", id=id_, name=name, parent=parent, site=site, opening=opening, general=general.no, whole=whole
        )  # fmt: skip
        db.run(conn, "put_draft_step", draft=id_, step=1, rulebook=own, says=says, made_by=by, general=None)

    def copy(self, conn: db.Conn, id_: str, name: str, by: str, to: str = "", *, bare: bool = False) -> str:
        """A new draft that says what another says now, or (``bare``) nothing of its own yet; of the same site or of site ``to``, on
        whose ground it stands then. Its id."""
        db.value(conn, "in_turn", what="drafts")
        draft = self.get(conn, id_)
        row, here, there = draft.row, SiteCode(draft.row.site), SiteCode(to or draft.row.site)
        made = f"d-{db.value(conn, 'next_draft')}"
        opening = self._ground_of(conn, there) if there != here else row.opening
        _, own = layers.taken_apart(draft.rulebook)
        rules = Rulebook(own.name) if bare else layers.at_another_site(own, here, there)
        says = f"Begun as a copy of {row.name}" + (f" of {here}." if there != here else ".")
        self.create(
            conn, id_=made, name=self.named(conn, name, there), site=there, opening=opening, rulebook=rules, by=by,
            parent=row.parent if there == here else None, says="Begun with no rules." if bare else says,
        )  # fmt: skip
        return made

    def lost_at(self, conn: db.Conn, draft: Draft, to: str) -> list[Finding]:
        """What a copy of a draft for another site would lack there and does not lack here."""
        here, there = SiteCode(draft.row.site), SiteCode(to)
        ground = self.worlds.ground(conn, self._ground_of(conn, there))
        _, own = layers.taken_apart(draft.rulebook)
        book = layers.merged(self.general(conn).rulebook, layers.at_another_site(own, here, there))
        known = {(f.place, f.says) for f in self.found(conn, draft)}
        return [
            f
            for f in findings(book, ground, there)
            if (f.place, f.says) not in known and f.code.startswith(OF_THE_SITE)
        ]

    def _ground_of(self, conn: db.Conn, site: SiteCode) -> str:
        """The ground as it stands, by its hash; refused when it has no such site."""
        row = db.row(conn, GroundRow, "ground")
        if row is None or site not in self.worlds.ground(conn, row.opening).sites:
            raise Refusal("unknown_site", f"There is no site `{site}`.", "to")
        return row.opening

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
        db.value(conn, "in_turn", what="drafts")
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
        return self._draft(conn, row)

    def _draft(self, conn: db.Conn, row: DraftRow) -> Draft:
        return Draft(row, self._whole(conn, row.own, row.general, row.site))

    def _whole(self, conn: db.Conn, own: str, general: int, site: str) -> Rulebook:
        mine = layers.own(self.worlds.rulebook(conn, own), SiteCode(site))
        return layers.merged(self.general_at(conn, general).rulebook, mine)

    def general(self, conn: db.Conn) -> General:
        """The layer for all sites as it stands."""
        row = db.row(conn, GeneralRow, "general")
        return (
            General(row.no, self.worlds.rulebook(conn, row.rulebook), row.rulebook)
            if row
            else General(0, layers.NOTHING)
        )

    def general_at(self, conn: db.Conn, no: int) -> General:
        """A version of the layer for all sites."""
        hash_ = str(db.value(conn, "general_no", no=no)) if no else ""
        return General(no, self.worlds.rulebook(conn, hash_) if no else layers.NOTHING, hash_)

    def edit(
        self, conn: db.Conn, id_: str, version: int, edits: tuple[Edit, ...], says: str, by: str,
        made: list[str] | None = None,
    ) -> Draft:  # fmt: skip
        """Save edits as the next step. They must keep the rulebook's shape; what they mean is for findings. ``made`` gets the
        paths of what was added. What is of all sites changes for every draft that stands on it."""
        db.value(conn, "in_turn", what="drafts")
        draft = self._locked(conn, id_, version)
        return self._keep(conn, draft, self.supposed(conn, draft, edits, made), says, by)

    def replace(self, conn: db.Conn, id_: str, version: int, rulebook: Rulebook, says: str, by: str) -> Draft:
        """Make a rulebook of a file the site's own; what all sites have of it already stays theirs."""
        db.value(conn, "in_turn", what="drafts")
        draft = self._locked(conn, id_, version)
        general = self.general_at(conn, draft.row.general).rulebook
        own = layers.own(rulebook, SiteCode(draft.row.site), but=general)
        return self._keep(conn, draft, Supposed(layers.merged(general, own), general, own), says, by)

    def supposed(self, conn: db.Conn, draft: Draft, edits: tuple[Edit, ...], made: list[str] | None = None) -> Supposed:
        """What edits would make of a draft's rulebook; nothing is kept."""
        site = SiteCode(draft.row.site)
        first = first_part(self.worlds.ground(conn, draft.row.opening), site)
        paths: list[str] = [] if made is None else made
        try:
            after = read_rulebook(apply_edits(to_plain(draft.rulebook), edits, first, paths))
        except Misfit as misfit:
            raise Refusal("bad_edit", f"That does not fit here: {misfit.says}.", misfit.place) from None
        general = self.general_at(conn, draft.row.general).rulebook
        whole = layers.kept_apart(after, general, layers.shared_by(edits, paths), site)
        check_ties(draft.rulebook.step_plans, whole.step_plans)
        check_ties(draft.rulebook.ship_plans, whole.ship_plans, "ship_plans")
        return Supposed(whole, *layers.taken_apart(whole))

    def _keep(self, conn: db.Conn, draft: Draft, after: Supposed, says: str, by: str) -> Draft:
        if after.whole == draft.rulebook:
            return draft
        row = draft.row
        no = self._put_general(conn, row, after.general, says, by)
        self._put_step(conn, row, after.own, says, by, no if no != row.general else None)
        self._move(conn, row, row.cursor + 1, no, self.worlds.keep_rulebook(conn, after.whole))
        self._along(conn, row, no)
        return self.get(conn, row.id)

    def put(self, conn: db.Conn, row: DraftRow, rulebook: Rulebook, says: str, by: str) -> None:
        """Make a rulebook, as the site's own, the next step of a draft whose row is locked, by somebody whose turn it is."""
        mine = layers.own(rulebook, SiteCode(row.site))
        self._put_step(conn, row, mine, says, by, None)
        whole = layers.merged(self.general_at(conn, row.general).rulebook, mine)
        self._move(conn, row, row.cursor + 1, row.general, self.worlds.keep_rulebook(conn, whole))

    def _put_step(self, conn: db.Conn, row: DraftRow, own: Rulebook, says: str, by: str, general: int | None) -> None:
        hash_ = self.worlds.keep_rulebook(conn, own)
        db.run(conn, "cut_draft", id=row.id, cursor=row.cursor)
        db.run(
            conn, "put_draft_step", draft=row.id, step=row.cursor + 1, rulebook=hash_, says=says, made_by=by, general=general
        )  # fmt: skip

    def _put_general(self, conn: db.Conn, row: DraftRow, general: Rulebook, says: str, by: str) -> int:
        """Make a rulebook the next version of the layer for all sites, if it is another one; the version that stands then for
        the draft that made it."""
        stands = self.general(conn)
        if general == self.general_at(conn, row.general).rulebook:
            return row.general
        if row.general != stands.no:
            raise Refusal(
                "general_moved",
                f"This draft stands on version {row.general} of what holds for all sites, and there is version {stands.no}. "
                "Bring the draft along first, on Drafts.",
            )
        hash_ = self.worlds.keep_rulebook(conn, general)
        db.run(conn, "put_general", no=stands.no + 1, rulebook=hash_, says=says, made_by=by)
        return stands.no + 1

    def _along(self, conn: db.Conn, by: DraftRow, no: int) -> None:
        """Let the other drafts go along to a version of the layer for all sites that one has made; those that would not find
        what they name stay on the version they stand on."""
        if no == by.general:
            return
        for row in db.rows(conn, DraftRow, "all_drafts"):
            if row.id != by.id and row.general == by.general and not self.lost_by_going(conn, row, no):
                self._go_along(conn, row, no)

    def lost_by_going(self, conn: db.Conn, row: DraftRow, no: int) -> list[Finding]:
        """What a draft names and would not find on a version of the layer for all sites."""
        ground = self.worlds.ground(conn, row.opening)
        if row.site not in ground.sites:
            return []
        after = findings(self._whole(conn, row.own, no, row.site), ground, SiteCode(row.site))
        return newly_missing(self.found(conn, self._draft(conn, row)), after)

    def _go_along(self, conn: db.Conn, row: DraftRow, no: int) -> None:
        whole = self.worlds.keep_rulebook(conn, self._whole(conn, row.own, no, row.site))
        self._move(conn, row, row.cursor, no, whole)

    def bring_along(self, conn: db.Conn, id_: str, version: int) -> Draft:
        """Let a draft that stayed behind stand on the layer for all sites as it is; findings say what it lacks then."""
        db.value(conn, "in_turn", what="drafts")
        draft = self._locked(conn, id_, version)
        now = self.general(conn).no
        if draft.row.general == now:
            raise Refusal("along", f"{draft.row.name} stands on what holds for all sites as it is already.")
        self._go_along(conn, draft.row, now)
        return self.get(conn, id_)

    def step(self, conn: db.Conn, id_: str, version: int, by: int, who: str) -> Draft:
        """Undo (-1) or redo (+1); what a step changed for all sites changes for all sites again."""
        db.value(conn, "in_turn", what="drafts")
        row = self._locked(conn, id_, version).row
        cursor = row.cursor + by
        if not 1 <= cursor <= row.last_step:
            raise Refusal("nothing_there", "There is nothing to undo." if by < 0 else "There is nothing to redo.")
        no = row.general
        stepped = db.row(conn, StepRow, "step_of_draft", id=id_, step=max(cursor, row.cursor))
        if stepped and stepped.general:
            then, before = self.general_at(conn, stepped.general), self.general_at(conn, stepped.general - 1)
            now, next_ = (then, before) if by < 0 else (before, then)
            if self.general_at(conn, no).rulebook != now.rulebook:
                raise Refusal(
                    "general_since",
                    "That was for all sites, and what holds for them was changed since. Say it anew instead.",
                )
            says = f"Taken back: {stepped.says}" if by < 0 else stepped.says
            no = self._put_general(conn, row, next_.rulebook, says, who)
        to = db.row(conn, StepRow, "step_of_draft", id=id_, step=cursor)
        assert to is not None
        whole = self.worlds.keep_rulebook(conn, self._whole(conn, to.rulebook, no, row.site))
        self._move(conn, row, cursor, no, whole)
        self._along(conn, row, no)
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
        row = draft.row
        no = db.value(
            conn, "put_revision", name=row.name, site=row.site, rulebook=row.rulebook, general=row.general, made_by=by
        )  # fmt: skip
        return int(no)

    def rulebooks(self, conn: db.Conn) -> list[Rulebook]:
        """The rulebooks of all drafts as they stand."""
        found = db.rows(conn, DraftRow, "drafts", sites=self.sites(conn))
        return [self._draft(conn, row).rulebook for row in found]

    def sites(self, conn: db.Conn) -> list[str]:
        """The sites that drafts are for."""
        return [str(row[0]) for row in conn.execute(db.QUERIES["draft_sites"]).fetchall()]

    def in_force(self, conn: db.Conn, site: str) -> RevisionRow | None:
        """The revision in force at a site."""
        return db.row(conn, RevisionRow, "in_force", site=site)

    def rules_at(self, conn: db.Conn, site: SiteCode, ground: Ground) -> Rulebook:
        """What a site goes by that plays a part in another's rehearsal: what is in force, else its first draft, else first rules."""
        if (force := self.in_force(conn, site)) is not None:
            return self.worlds.rulebook(conn, force.rulebook)
        for row in db.rows(conn, DraftRow, "drafts", sites=[site]):
            return self._draft(conn, row).rulebook
        return starter(ground.sites[site].name, ground, site)

    def _locked(self, conn: db.Conn, id_: str, version: int) -> Draft:
        db.value(conn, "lock_draft", id=id_)
        draft = self.get(conn, id_)
        if draft.row.version != version:
            most = max(1, draft.row.version - version)
            raise Stale(draft.row, db.rows(conn, DraftStepRow, "draft_steps", id=id_, most=min(most, 10)))
        return draft

    def _move(self, conn: db.Conn, row: DraftRow, cursor: int, general: int, whole: str) -> None:
        db.run(conn, "move_draft", id=row.id, cursor=cursor, general=general, whole=whole)
        db.run(conn, "notify", text=f"draft {row.id} {row.version + 1}")
