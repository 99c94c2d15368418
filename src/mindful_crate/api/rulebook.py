"""Drafts of the rulebook: chapters as sentences, edits, undo, choices of live words, the file, in force."""

from __future__ import annotations

from enum import Enum
from typing import Any, Literal

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, RootModel, TypeAdapter

from mindful_crate.api.doors import Right, check_site, needs, person
from mindful_crate.api.openings import opening_state
from mindful_crate.api.shapes import PROBLEMS, ById, FindingView, Sentence
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.ids import (
    SiteCode,
    ZoneCode,
)
from mindful_crate.core.plain import to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.effective import TABLES, TITLES, Effective, effective
from mindful_crate.core.proving.findings import findings
from mindful_crate.core.proving.on_handset import Agrees, orders_shown
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.choices import Choices, choices
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.rulebook.settings import BUILT_IN, GENERAL
from mindful_crate.core.rulebook.words.bin_rules import list_title, rule_sentence
from mindful_crate.core.rulebook.words.parts import Layers, Names, Part
from mindful_crate.core.rulebook.words.parts import Sentence as Told
from mindful_crate.core.rulebook.words.scanner import flow_sentence, prompt_sentence
from mindful_crate.core.rulebook.words.steps import plan_sentence, recipe_sentence
from mindful_crate.files.texts import read_rulebook, rulebook_text
from mindful_crate.store import db
from mindful_crate.store.drafts import Draft
from mindful_crate.store.rows import DraftRow

api = APIBlueprint("rulebook", __name__, url_prefix="/api", abp_tags=[Tag(name="rulebook")], doc_ui=WITH_DOCUMENT)
_BOOK = TypeAdapter(Rulebook)


class DraftHead(Answer):
    """A draft in a list."""

    id: str
    name: str
    site: str
    version: int
    says: str


class DraftList(Answer):
    """Drafts, and what is in force."""

    drafts: list[DraftHead]


class RuleList(Answer):
    """A list of bin rules as sentences."""

    id: str
    path: str
    purpose: str
    takes: bool
    title: str
    rules: list[Sentence]


class FlowView(Answer):
    """A flow with its prompts as sentences."""

    id: str
    name: str
    path: str
    parts: list[Part]
    prompts: list[Sentence]
    menus: list[str]


class DraftView(Answer):
    """A draft as the studio shows it."""

    id: str
    name: str
    site: str
    opening: str
    version: int
    rulebook: str
    can_undo: bool
    can_redo: bool
    says: str
    in_force: int | None
    differs_from_force: bool
    rule_lists: list[RuleList]
    step_plans: list[Sentence]
    recipes: list[Sentence]
    flows: list[FlowView]
    findings: list[FindingView]
    book: dict[str, Any]
    """The rulebook with every field, for the values behind the live words."""


class EditBody(Body):
    """One edit of a draft; see ``core.rulebook.edits``."""

    op: Literal["set", "insert", "remove", "move"]
    path: str = Field(max_length=300)
    value: Any = None
    at: int | None = Field(default=None, ge=0, le=10_000)


class EditsBody(Body):
    """Edits made on a version of the draft."""

    version: int
    edits: list[EditBody] = Field(max_length=50)
    says: str = Field(default="", max_length=300)


class ChoicesView(RootModel[Choices]):
    """What a live word may be changed to."""


class VersionBody(Body):
    """The version somebody looked at."""

    version: int


class ChoicesQuery(Body):
    """Which word."""

    field: str = Field(max_length=40)


class ChoiceView(Answer):
    """A value a setting may have."""

    value: str | bool | None
    label: str


class LayerView(Answer):
    """What one level says of a setting; null: nothing."""

    layer: str
    says: str
    value: str | bool | None
    choices: list[ChoiceView]


class LayeredView(Answer):
    """A setting with its levels, the general one first."""

    name: str
    title: str
    built_in: str
    layers: list[LayerView]


class SettingsView(Answer):
    """The layered settings, and everything that holds at the site; ``there`` are the layers the rulebook has."""

    settings: list[LayeredView]
    there: list[str]
    rows: list[Effective]


class OrdersShown(Answer):
    """Every order of a draft's site, whether it is on a handset, and what decides that."""

    orders: list[ShownView]


class ShownView(Answer):
    """One order."""

    order: str
    shown: bool
    says: str
    agrees: list[Agrees]


class RuleFile(Body):
    """A rulebook file as text."""

    version: int
    text: str = Field(max_length=2_000_000)


class InForce(Answer):
    """The number of the revision in force."""

    revision: int


@api.get("/drafts", responses={200: DraftList, **PROBLEMS})
@needs(Right.LOOK)
def drafts() -> DraftList:
    """Drafts of the sites the person sees."""
    with wired(current_app).database.transaction() as conn:
        found = db.rows(conn, DraftRow, "drafts", sites=person().row.sites)
    return DraftList(
        drafts=[DraftHead(id=d.id, name=d.name, site=d.site, version=d.version, says=d.says) for d in found]
    )


@api.get("/drafts/<id>", responses={200: DraftView, **PROBLEMS})
@needs(Right.LOOK)
def draft(path: ById) -> DraftView:
    """One draft as sentences."""
    with wired(current_app).database.transaction() as conn:
        return _view(conn, seen_draft(conn, path.id))


@api.post("/drafts/<id>/edits", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def edit(path: ById, body: EditsBody) -> DraftView:
    """Save edits; a stale version is answered with what changed meanwhile."""
    edits = tuple(Edit(e.op, e.path, e.value, e.at) for e in body.edits)
    with wired(current_app).database.transaction() as conn:
        seen_draft(conn, path.id)
        says = body.says or f"{len(edits)} edits."
        return _view(conn, wired(current_app).drafts.edit(conn, path.id, body.version, edits, says, person().id))


@api.post("/drafts/<id>/undo", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def undo(path: ById, body: VersionBody) -> DraftView:
    """Take the last edit back."""
    return _stepped(path.id, body.version, -1)


@api.post("/drafts/<id>/redo", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def redo(path: ById, body: VersionBody) -> DraftView:
    """Make an edit that was taken back again."""
    return _stepped(path.id, body.version, 1)


def _stepped(id_: str, version: int, by: int) -> DraftView:
    with wired(current_app).database.transaction() as conn:
        seen_draft(conn, id_)
        return _view(conn, wired(current_app).drafts.step(conn, id_, version, by))


@api.get("/drafts/<id>/choices", responses={200: ChoicesView, **PROBLEMS})
@needs(Right.LOOK)
def word_choices(path: ById, query: ChoicesQuery) -> ChoicesView:
    """What a live word may be changed to."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        ground = wired(current_app).worlds.ground(conn, found.row.opening)
    state = opening_state(ground, found.row.site)

    def free(zone: ZoneCode) -> tuple[int, int]:
        bins = ground.bins_by_zone[zone]
        return sum(not state.held(b.code).kinds and state.blocked(b.code) is None for b in bins), len(bins)

    answer = choices(query.field, ground, SiteCode(found.row.site), free)
    if answer is None:
        raise Refusal("unknown_word", f"No word has the field {query.field}.")
    return ChoicesView(answer)


@api.get("/drafts/<id>/settings", responses={200: SettingsView, **PROBLEMS})
@needs(Right.LOOK)
def settings(path: ById) -> SettingsView:
    """What holds at the draft's site, each value with the level it comes from and what would hold otherwise."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        ground = wired(current_app).worlds.ground(conn, found.row.opening)
    book, site = found.rulebook, SiteCode(found.row.site)
    layers = {x.id: x for x in book.settings}
    shown = []
    for name, table in TABLES.items():
        made = {key: getattr(layer, name) for key, layer in layers.items()}
        values = [
            LayerView(
                layer=key, says=says, value=_plain(made.get(key)),
                choices=[ChoiceView(value=None, label="not set here"), *(ChoiceView(value=_plain(v), label=t) for v, t in table.items())],
            )
            for key, says in ((GENERAL, "all sites"), (str(site), ground.sites[site].name))
        ]  # fmt: skip
        shown.append(LayeredView(name=name, title=TITLES[name], built_in=table[BUILT_IN[name]], layers=values))
    return SettingsView(settings=shown, there=sorted(layers), rows=effective(book, ground, site))


def _plain(value: Any) -> Any:
    return value.value if isinstance(value, Enum) else value


@api.get("/drafts/<id>/orders", responses={200: OrdersShown, **PROBLEMS})
@needs(Right.LOOK)
def shown_orders(path: ById) -> OrdersShown:
    """Which orders are on a handset by the draft as it stands, at the opening, and why the others are not."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        ground = wired(current_app).worlds.ground(conn, found.row.opening)
    shown = orders_shown(opening_state(ground, found.row.site), found.rulebook)
    return OrdersShown(
        orders=[ShownView(order=s.order, shown=s.shown, says=s.says, agrees=list(s.agrees)) for s in shown]
    )


@api.get("/drafts/<id>/file", responses={200: {"content": {"application/json": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def file(path: ById) -> Response:
    """The rulebook as a file."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
    name = f"{found.row.id}.rulebook.json"
    headers = {"Content-Disposition": f"attachment; filename={name}"}
    return Response(rulebook_text(found.rulebook), mimetype="application/json", headers=headers)


@api.put("/drafts/<id>/file", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def bring_in(path: ById, body: RuleFile) -> DraftView:
    """Replace the draft by a rulebook file; it can be undone."""
    rulebook = read_rulebook(body.text)
    with wired(current_app).database.transaction() as conn:
        seen_draft(conn, path.id)
        edits = tuple(Edit("set", name, value) for name, value in to_plain(rulebook).items())
        gone = tuple(
            Edit("set", name) for name in to_plain(seen_draft(conn, path.id).rulebook) if name not in to_plain(rulebook)
        )
        return _view(
            conn,
            wired(current_app).drafts.edit(
                conn, path.id, body.version, (*gone, *edits), "A file was brought in.", person().id
            ),
        )


@api.post("/drafts/<id>/in-force", responses={200: InForce, **PROBLEMS})
@needs(Right.PUT_IN_FORCE)
def put_in_force(path: ById, body: VersionBody) -> InForce:
    """Make the draft the revision in force."""
    with wired(current_app).database.transaction() as conn:
        seen_draft(conn, path.id)
        return InForce(revision=wired(current_app).drafts.put_in_force(conn, path.id, body.version, person().id))


def seen_draft(conn: db.Conn, id_: str) -> Draft:
    """A draft of a site that the person may see."""
    found = wired(current_app).drafts.get(conn, id_)
    check_site(found.row.site)
    return found


def _view(conn: db.Conn, found: Draft) -> DraftView:
    row, book = found.row, found.rulebook
    parts = wired(current_app)
    ground = parts.worlds.ground(conn, row.opening)
    names = Names(ground)
    force = parts.drafts.in_force(conn, row.site)
    layers = (book.settings, SiteCode(row.site))
    return DraftView(
        id=row.id,
        name=row.name,
        site=row.site,
        opening=row.opening,
        version=row.version,
        rulebook=row.rulebook,
        can_undo=row.cursor > 1,
        can_redo=row.cursor < row.last_step,
        says=row.says,
        in_force=force.no if force else None,
        differs_from_force=force is None or force.rulebook != row.rulebook,
        rule_lists=[_rule_list(r, names) for r in book.bin_rules],
        step_plans=[
            _sentence(p.id, f"step_plans/{p.id}", plan_sentence(p, f"step_plans/{p.id}", layers))
            for p in book.step_plans
        ],
        recipes=[_sentence(r.id, f"recipes/{r.id}", recipe_sentence(r, book)) for r in book.recipes],
        flows=[_flow(f, book, layers) for f in book.flows],
        findings=[
            FindingView(code=f.code, severity=f.severity.value, place=f.place, says=f.says, witness=f.witness)
            for f in findings(book, ground, SiteCode(row.site))
        ],
        book=_BOOK.dump_python(book, mode="json"),
    )


def _sentence(id_: str, path: str, parts: Told, on: bool = True) -> Sentence:
    return Sentence(id=id_, path=path, parts=list(parts), on=on)


def _rule_list(rules: Any, names: Names) -> RuleList:
    path = f"bin_rules/{rules.id}"
    listed = []
    for rule in rules.rules:
        at = f"{path}/rules/{rule.id}"
        listed.append(_sentence(rule.id, at, rule_sentence(rule, names, at, rules.purpose), rule.on))
    return RuleList(
        id=rules.id, path=path, purpose=rules.purpose.value, takes=rules.purpose.takes,
        title=list_title(rules.purpose), rules=listed,
    )  # fmt: skip


def _flow(flow: Any, book: Rulebook, layers: Layers) -> FlowView:
    path = f"flows/{flow.id}"
    prompts = []
    for prompt in flow.prompts:
        at = f"{path}/prompts/{prompt.id}"
        prompts.append(_sentence(prompt.id, at, prompt_sentence(prompt, at)))
    crews = {c.id: c.name for c in book.crews}
    menus = [crews.get(m.crew, m.crew) for m in book.menus if flow.id in m.flows]
    parts = list(flow_sentence(flow, path, layers))
    return FlowView(id=flow.id, name=flow.name, path=path, parts=parts, prompts=prompts, menus=menus)
