"""Drafts of the rulebook: chapters as sentences, edits, undo, choices of live words, the file, in force."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import date, datetime
from enum import Enum
from typing import Any, Literal
from zoneinfo import ZoneInfo

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, RootModel, TypeAdapter

from mindful_crate.api.doors import Right, check_site, needs, person
from mindful_crate.api.shapes import ById, FindingView, Problem, Sentence, Why
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import OrderKind, Status
from mindful_crate.core.catalog.ids import (
    BinCode,
    ItemCode,
    OrderNo,
    PartnerCode,
    PlateKindCode,
    PlateNo,
    RuleId,
    SiteCode,
    ZoneCode,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.placing.request import BinRequest, load_of
from mindful_crate.core.plain import to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.agreement import Pair, agreement, chosen_bin
from mindful_crate.core.proving.effective import TABLES, TITLES, Effective, effective
from mindful_crate.core.proving.findings import findings
from mindful_crate.core.proving.journey import Journey, journey
from mindful_crate.core.proving.on_handset import Agrees, orders_shown
from mindful_crate.core.rulebook import sentences as words
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Disposition, UnitForm
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.choices import Choices, choices
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.rulebook.settings import BUILT_IN, GENERAL
from mindful_crate.core.world.supposing import Supposed, open_goods, reach
from mindful_crate.files.texts import read_rulebook, rulebook_text
from mindful_crate.store import db
from mindful_crate.store.drafts import Draft
from mindful_crate.store.rows import DraftRow
from mindful_crate.store.worlds import local_start

api = APIBlueprint("rulebook", __name__, url_prefix="/api", abp_tags=[Tag(name="rulebook")], doc_ui=WITH_DOCUMENT)
_BOOK = TypeAdapter(Rulebook)
PROBLEMS: dict[Any, Any] = dict.fromkeys((400, 401, 403, 404, 409, 413, 415, 422, 503), Problem)
"""What any route may answer instead: a problem in words."""


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
    parts: list[words.Part]
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


class BenchBody(Body):
    """A question to the draft: which bin? ``plate_kind`` null asks for loose goods; ``world`` null asks on the
    opening state."""

    purpose: BinPurpose = BinPurpose.PUT_AWAY
    item: str = Field(default="", max_length=40)
    quantity: int = Field(default=1, ge=1, le=1_000_000_000)
    lot: str = Field(default="", max_length=20)
    status: Status = Status.AVAILABLE
    plate_kind: str | None = Field(default="PAL", max_length=20)
    plate: str | None = Field(default=None, max_length=40)
    """A plate that exists: its goods are asked for, and ``item`` to ``plate_kind`` are not looked at."""
    form: UnitForm | None = None
    order: str | None = Field(default=None, max_length=40)
    partner: str | None = Field(default=None, max_length=40)
    disposition: Disposition | None = None
    world: str | None = Field(default=None, max_length=80)


class OpenBody(Body):
    """The open goods of a site, asked for all at once."""

    purpose: BinPurpose = BinPurpose.PUT_AWAY
    plate_kind: str | None = Field(default="PAL", max_length=20)
    world: str | None = Field(default=None, max_length=80)


class ShareView(Answer):
    """A share of the goods in a bin."""

    bin: str
    told: str


class OpenLine(Answer):
    """One open order line, or one unit of an item, and where the rules put or find it."""

    order: str
    line: int | None
    item: str
    name: str
    told: str
    rule: str
    number: int | None
    shares: list[ShareView]
    rest: str


class RuleReach(Answer):
    """How far a rule reaches now."""

    rule: str
    bins: int
    empty: int
    decides: int


class OpenAnswer(Answer):
    """All open goods with the rule that decides each."""

    lines: list[OpenLine]
    reach: list[RuleReach]
    undecided: int


class JourneyBody(Body):
    """An order whose journey is asked for."""

    order: str = Field(max_length=40)


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


class AgreementBody(Body):
    """Which item, bin and order must agree; without a bin, the one that the rules choose."""

    item: str = Field(max_length=60)
    bin: str = Field(default="", max_length=60)
    order: str = Field(default="", max_length=60)
    world: str | None = Field(default=None, max_length=80)


class AgreementView(Answer):
    """All pairs, and in a sentence whether they agree."""

    says: str
    bin: str
    pairs: list[Pair]


class JourneyView(RootModel[Journey]):
    """One order's journey."""


class BenchAnswer(Answer):
    """The answer of the bench."""

    why: Why
    says: str
    told: str
    weight_kg: str
    height_mm: int
    from_bin: str
    shares: list[ShareView]
    rest: str


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
        return _view(conn, _seen(conn, path.id))


@api.post("/drafts/<id>/edits", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def edit(path: ById, body: EditsBody) -> DraftView:
    """Save edits; a stale version is answered with what changed meanwhile."""
    edits = tuple(Edit(e.op, e.path, e.value, e.at) for e in body.edits)
    with wired(current_app).database.transaction() as conn:
        _seen(conn, path.id)
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
        _seen(conn, id_)
        return _view(conn, wired(current_app).drafts.step(conn, id_, version, by))


@api.get("/drafts/<id>/choices", responses={200: ChoicesView, **PROBLEMS})
@needs(Right.LOOK)
def word_choices(path: ById, query: ChoicesQuery) -> ChoicesView:
    """What a live word may be changed to."""
    with wired(current_app).database.transaction() as conn:
        found = _seen(conn, path.id)
        ground = wired(current_app).worlds.ground(conn, found.row.opening)
    state = opening_state(ground, found.row.site)

    def free(zone: ZoneCode) -> tuple[int, int]:
        bins = ground.bins_by_zone[zone]
        return sum(not state.held(b.code).kinds and state.blocked(b.code) is None for b in bins), len(bins)

    answer = choices(query.field, ground, SiteCode(found.row.site), free)
    if answer is None:
        raise Refusal("unknown_word", f"No word has the field {query.field}.")
    return ChoicesView(answer)


@api.post("/drafts/<id>/bench/bin", responses={200: BenchAnswer, **PROBLEMS})
@needs(Right.LOOK)
def bench_bin(path: ById, body: BenchBody) -> BenchAnswer:
    """Which bin would these goods go to by the draft as it stands? Nothing is stored."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        found = _seen(conn, path.id)
        with _asked_state(conn, found, body.world) as state:
            return _bench_answer(bench_request(state, found, body), found.rulebook, state)


@api.post("/drafts/<id>/bench/open", responses={200: OpenAnswer, **PROBLEMS})
@needs(Right.LOOK)
def bench_open(path: ById, body: OpenBody) -> OpenAnswer:
    """Every open order line asked one after another, with the rule that decides it; and how far each rule reaches."""
    with wired(current_app).database.transaction() as conn:
        found = _seen(conn, path.id)
        with _asked_state(conn, found, body.world, alone=True) as state:
            kind = _plate_kind(state.ground, body.plate_kind)
            into = _receiving_bin(state.ground, found, OrderKind.PURCHASE)
            supposed = open_goods(state, found.rulebook, body.purpose, kind, into)
            rules = found.rulebook.rules_for(SiteCode(found.row.site), body.purpose)
            reached = reach(state, rules, supposed)
    numbers = {r.id: n for n, r in enumerate(rules, start=1)}
    lines = [_open_line(s, state.ground, numbers) for s in supposed]
    return OpenAnswer(
        lines=lines,
        reach=[RuleReach(rule=k, bins=r.bins, empty=r.empty, decides=r.decides) for k, r in reached.items()],
        undecided=sum(bool(s.trail.rest) for s in supposed),
    )


def _open_line(asked: Supposed, ground: Ground, numbers: dict[RuleId, int]) -> OpenLine:
    item, trail = ground.items[ItemCode(asked.item)], asked.trail
    return OpenLine(
        order=asked.order.number if asked.order else "", line=asked.line.no if asked.line else None, item=item.code,
        name=item.name, told=item.told(asked.quantity), rule=trail.rule or "",
        number=numbers.get(trail.rule) if trail.rule else None,
        shares=[ShareView(bin=a.bin, told=item.told(a.quantity)) for a in trail.allocations],
        rest=item.told(trail.rest) if trail.rest else "",
    )  # fmt: skip


@contextmanager
def _asked_state(conn: db.Conn, found: Draft, world: str | None, *, alone: bool = False) -> Iterator[State]:
    """The state a question is put to: a world at its present point, else the opening, of which there is one for all
    questions unless one supposes something and wants it ``alone``."""
    parts = wired(current_app)
    ground = parts.worlds.ground(conn, found.row.opening)
    if world is None:
        shared = opening_state(ground, found.row.site)
        yield State(ground, shared.settings) if alone else shared
        return
    with parts.worlds.reading(conn, world) as loaded:
        check_site(loaded.row.site)
        if loaded.ground.hash != ground.hash:
            raise Refusal("other_opening", "That world started from another opening state.")
        yield loaded.state


@api.post("/drafts/<id>/bench/steps", responses={200: JourneyView, **PROBLEMS})
@needs(Right.LOOK)
def bench_steps(path: ById, body: JourneyBody) -> JourneyView:
    """Which step plan applies to an order, why the others do not, and what happens to its goods."""
    with wired(current_app).database.transaction() as conn:
        found = _seen(conn, path.id)
        order = wired(current_app).worlds.ground(conn, found.row.opening).orders.get(OrderNo(body.order))
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{body.order}`.", "order")
    return JourneyView(journey(found.rulebook, order))


@api.get("/drafts/<id>/settings", responses={200: SettingsView, **PROBLEMS})
@needs(Right.LOOK)
def settings(path: ById) -> SettingsView:
    """What holds at the draft's site, each value with the level it comes from and what would hold otherwise."""
    with wired(current_app).database.transaction() as conn:
        found = _seen(conn, path.id)
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


@api.post("/drafts/<id>/bench/agreement", responses={200: AgreementView, **PROBLEMS})
@needs(Right.LOOK)
def bench_agreement(path: ById, body: AgreementBody) -> AgreementView:
    """All that must agree for an item, a bin and perhaps an order, and whether it does."""
    with wired(current_app).database.transaction() as conn:
        found = _seen(conn, path.id)
        with _asked_state(conn, found, body.world) as state:
            item = state.ground.items.get(ItemCode(body.item))
            order = state.order(OrderNo(body.order)) if body.order else None
            if item is None:
                raise Refusal("unknown_item", f"There is no item `{body.item}`.", "item")
            if body.order and order is None:
                raise Refusal("unknown_order", f"There is no order `{body.order}`.", "order")
            code = body.bin.strip().upper() or chosen_bin(state, found.rulebook, item, order)
            each = state.ground.bins.get(BinCode(code))
            if each is None:
                raise Refusal("unknown_bin", f"There is no bin `{code}`." if code else "This site has no bins.", "bin")
            pairs = agreement(state, found.rulebook, item, each, order)
    bad = [p for p in pairs if not p.holds]
    says = "All of it agrees." if not bad else f"{len(bad)} of {len(pairs)} do not agree."
    return AgreementView(says=says, bin=each.code, pairs=pairs)


def _plate_kind(ground: Ground, code: str | None) -> PlateKindCode | None:
    if code and code not in ground.plate_kinds:
        raise Refusal("unknown_plate_kind", f"There is no kind of plate `{code}`.", "plate_kind")
    return PlateKindCode(code) if code else None


def _receiving_bin(ground: Ground, found: Draft, kind: OrderKind) -> BinCode | None:
    plan = found.rulebook.plan_for(SiteCode(found.row.site), kind)
    return plan.receive.into if plan and plan.receive.into in ground.bins else None


def bench_request(state: State, found: Draft, body: BenchBody) -> BinRequest:
    """The question of the bench, checked."""
    ground, site = state.ground, SiteCode(found.row.site)
    order = ground.orders.get(OrderNo(body.order)) if body.order else None
    if body.order and order is None:
        raise Refusal("unknown_order", f"There is no order `{body.order}`.", "order")
    if body.partner and body.partner not in ground.partners:
        raise Refusal("unknown_partner", f"There is no partner `{body.partner}`.", "partner")
    kind = order.kind if order else None if body.purpose.takes else OrderKind.PURCHASE
    partner = PartnerCode(body.partner) if body.partner else order.partner if order else None
    today = local_date(ground, site, state.clock)
    base = BinRequest(
        site=site, purpose=body.purpose, goods=(), form=body.form, order_kind=kind,
        partners=(partner,) if partner else (), disposition=body.disposition, today=today,
    )  # fmt: skip
    if body.plate and not body.purpose.takes:
        plate = state.plate(PlateNo(body.plate))
        if plate is None:
            raise Refusal("unknown_plate", f"There is no license plate `{body.plate}`.", "plate")
        goods = plate.goods or tuple(Goods(x.item, x.quantity, x.lot, x.expiry) for x in plate.lines)
        code = state.bin_of(plate.number)
        return replace(
            base, goods=goods, plate_kind=plate.plate_kind, plate=plate.number, nested=state.nested(plate.number),
            from_bin=code, door=code,
        )  # fmt: skip
    if body.item not in ground.items:
        raise Refusal("unknown_item", f"There is no item `{body.item}`.", "item")
    goods = (Goods(ItemCode(body.item), body.quantity, body.lot, status=body.status),)
    if body.purpose.takes:
        return replace(base, goods=goods)
    into = _receiving_bin(ground, found, kind or OrderKind.PURCHASE)
    return replace(base, goods=goods, plate_kind=_plate_kind(ground, body.plate_kind), from_bin=into, door=into)


def _bench_answer(request: BinRequest, book: Rulebook, state: State) -> BenchAnswer:
    why = why_of(request, book, state)
    answer = why.explanation
    items = state.ground.items
    load = load_of(request.goods, request.plate_kind, state.ground, request.nested)
    if answer.bin:
        says = f"`{answer.bin}`"
    else:
        says = "No bin: the worker is asked." if why.rules else "There are no rules yet."
    if request.goods:
        only = items[request.goods[0].item]
        alone = len(request.all_goods) == 1
        shares = [ShareView(bin=a.bin, told=only.told(a.quantity) if alone else "") for a in answer.allocations]
        rest = only.told(answer.rest) if answer.rest else ""
    else:
        shares, rest = [ShareView(bin=a.bin, told="") for a in answer.allocations], ""
    told = ", ".join(items[g.item].told(g.quantity) for g in request.all_goods) or "nothing on it"
    return BenchAnswer(
        why=why, says=says, told=told, weight_kg=f"{load.weight_mg / 1_000_000:.1f}", height_mm=load.height_mm,
        from_bin=request.from_bin or "", shares=shares, rest=rest,
    )  # fmt: skip


def why_of(request: BinRequest, book: Rulebook, state: State) -> Why:
    """Explain a request against a state, with the sentences of the rules."""
    rules = book.rules_for(request.site, request.purpose)
    pick = request.purpose is BinPurpose.PICK_FROM
    replenish = book.rules_for(request.site, BinPurpose.REPLENISH_FROM) if pick else ()
    names = words.Names(state.ground)
    explanation = explain(request, rules, state, replenish)
    return Why(
        explanation=explanation, bin=explanation.bin, rule=explanation.rule,
        rules={r.id: words.words_of(words.rule_sentence(r, names, "", request.purpose)) for r in rules},
        numbers={r.id: n for n, r in enumerate(rules, start=1)},
    )  # fmt: skip


def local_date(ground: Ground, site: SiteCode, at: datetime) -> date:
    """The site's date at a moment."""
    return at.astimezone(ZoneInfo(ground.sites[site].time_zone)).date()


def opening_state(ground: Ground, site: str) -> State:
    """The floor as it is at the opening."""
    key = ("opening state", site)
    if key not in ground.remembered:
        zone = ground.sites[SiteCode(site)].time_zone
        starts = local_start(zone, first_day(ground, SiteCode(site)), 8, 30)
        ground.remembered[key] = State(ground, Settings(SiteCode(site), starts))
    found: State = ground.remembered[key]
    return found


FIRST_DAY = date(2026, 1, 5)
"""When a rehearsal starts on a site that has no order yet."""


def first_day(ground: Ground, site: SiteCode) -> date:
    """The day a site's first order is promised: rehearsals start then."""
    return min((o.promised for o in ground.orders.values() if o.site == site), default=FIRST_DAY)


@api.get("/drafts/<id>/orders", responses={200: OrdersShown, **PROBLEMS})
@needs(Right.LOOK)
def shown_orders(path: ById) -> OrdersShown:
    """Which orders are on a handset by the draft as it stands, at the opening, and why the others are not."""
    with wired(current_app).database.transaction() as conn:
        found = _seen(conn, path.id)
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
        found = _seen(conn, path.id)
    name = f"{found.row.id}.rulebook.json"
    headers = {"Content-Disposition": f"attachment; filename={name}"}
    return Response(rulebook_text(found.rulebook), mimetype="application/json", headers=headers)


@api.put("/drafts/<id>/file", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def bring_in(path: ById, body: RuleFile) -> DraftView:
    """Replace the draft by a rulebook file; it can be undone."""
    rulebook = read_rulebook(body.text)
    with wired(current_app).database.transaction() as conn:
        _seen(conn, path.id)
        edits = tuple(Edit("set", name, value) for name, value in to_plain(rulebook).items())
        gone = tuple(
            Edit("set", name) for name in to_plain(_seen(conn, path.id).rulebook) if name not in to_plain(rulebook)
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
        _seen(conn, path.id)
        return InForce(revision=wired(current_app).drafts.put_in_force(conn, path.id, body.version, person().id))


def _seen(conn: db.Conn, id_: str) -> Draft:
    found = wired(current_app).drafts.get(conn, id_)
    check_site(found.row.site)
    return found


def _view(conn: db.Conn, found: Draft) -> DraftView:
    row, book = found.row, found.rulebook
    parts = wired(current_app)
    ground = parts.worlds.ground(conn, row.opening)
    names = words.Names(ground)
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
            _sentence(p.id, f"step_plans/{p.id}", words.plan_sentence(p, f"step_plans/{p.id}", layers))
            for p in book.step_plans
        ],
        recipes=[_sentence(r.id, f"recipes/{r.id}", words.recipe_sentence(r, book)) for r in book.recipes],
        flows=[_flow(f, book, layers) for f in book.flows],
        findings=[
            FindingView(code=f.code, severity=f.severity.value, place=f.place, says=f.says, witness=f.witness)
            for f in findings(book, ground, SiteCode(row.site))
        ],
        book=_BOOK.dump_python(book, mode="json"),
    )


def _sentence(id_: str, path: str, parts: words.Sentence, on: bool = True) -> Sentence:
    return Sentence(id=id_, path=path, parts=list(parts), on=on)


def _rule_list(rules: Any, names: words.Names) -> RuleList:
    path = f"bin_rules/{rules.id}"
    listed = []
    for rule in rules.rules:
        at = f"{path}/rules/{rule.id}"
        listed.append(_sentence(rule.id, at, words.rule_sentence(rule, names, at, rules.purpose), rule.on))
    return RuleList(
        id=rules.id, path=path, purpose=rules.purpose.value, takes=rules.purpose.takes,
        title=words.list_title(rules.purpose), rules=listed,
    )  # fmt: skip


def _flow(flow: Any, book: Rulebook, layers: words.Layers) -> FlowView:
    path = f"flows/{flow.id}"
    prompts = []
    for prompt in flow.prompts:
        at = f"{path}/prompts/{prompt.id}"
        prompts.append(_sentence(prompt.id, at, words.prompt_sentence(prompt, at)))
    crews = {c.id: c.name for c in book.crews}
    menus = [crews.get(m.crew, m.crew) for m in book.menus if flow.id in m.flows]
    parts = list(words.flow_sentence(flow, path, layers))
    return FlowView(id=flow.id, name=flow.name, path=path, parts=parts, prompts=prompts, menus=menus)
