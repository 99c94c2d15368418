"""Benches: questions put to a draft over a floor; nothing is stored."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import check_site, needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.openings import local_date, opening_state
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById, Why
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
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.placing.request import BinRequest, load_of
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.agreement import Pair, agreement, chosen_bin
from mindful_crate.core.proving.journey import Journey, journey, supposed_order
from mindful_crate.core.proving.preview import ShownTask, of_line
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Disposition, UnitForm
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Asked, fixed
from mindful_crate.core.rulebook.words.bin_rules import rule_sentence
from mindful_crate.core.rulebook.words.parts import Names, words_of
from mindful_crate.core.world.supposing import Supposed, open_goods, reach
from mindful_crate.store import db
from mindful_crate.store.drafts import Draft

api = APIBlueprint("benches", __name__, url_prefix="/api", abp_tags=[Tag(name="rulebook")], doc_ui=WITH_DOCUMENT)


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
    """An order whose journey is asked for; or an item, as if an order for so much of it had come."""

    order: str = Field(default="", max_length=40)
    item: str = Field(default="", max_length=60)
    kind: OrderKind = OrderKind.PURCHASE
    partner: str = Field(default="", max_length=40)
    """Whom the supposed order is with; empty: somebody who suits."""
    quantity: int = Field(default=1, ge=0, le=10**9)
    """In base units."""
    line: int = Field(default=0, ge=0)
    """The line whose goods are asked about; 0: the first."""


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


class JourneyView(Answer):
    """One order's journey, and the task that the line's goods would become; none where they become none."""

    way: Journey
    task: ShownTask | None


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


@api.post("/drafts/<id>/bench/bin", responses={200: BenchAnswer, **PROBLEMS})
@needs(Right.LOOK)
def bench_bin(path: ById, body: BenchBody) -> BenchAnswer:
    """Which bin would these goods go to by the draft as it stands? Nothing is stored."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world) as state:
            return _bench_answer(bench_request(state, found, body), found.rulebook, state)


@api.post("/drafts/<id>/bench/open", responses={200: OpenAnswer, **PROBLEMS})
@needs(Right.LOOK)
def bench_open(path: ById, body: OpenBody) -> OpenAnswer:
    """Every open order line asked one after another, with the rule that decides it; and how far each rule reaches."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world, alone=True) as state:
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
def asked_state(conn: db.Conn, found: Draft, world: str | None, *, alone: bool = False) -> Iterator[State]:
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
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, None, alone=True) as state:
            order = state.ground.orders.get(OrderNo(body.order))
            if body.item:
                day = local_date(state.ground, state.settings.site, state.clock)
                order = supposed_order(
                    state.ground, state.settings.site, body.kind, ItemCode(body.item), body.quantity, body.partner, day
                )
            if order is None:
                raise Refusal("unknown_order", f"There is no order `{body.order}`.", "order")
            way = journey(found.rulebook, state.ground, order, body.line)
            today = local_date(state.ground, order.site, state.clock)
            here = order.inbound and order.site == state.settings.site
            task = of_line(state, found.rulebook, order, way.line, today) if here else None
    return JourneyView(way=way, task=task)


@api.post("/drafts/<id>/bench/agreement", responses={200: AgreementView, **PROBLEMS})
@needs(Right.LOOK)
def bench_agreement(path: ById, body: AgreementBody) -> AgreementView:
    """All that must agree for an item, a bin and perhaps an order, and whether it does."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world) as state:
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
    plan = found.rulebook.plan_for(Asked(SiteCode(found.row.site), kind))
    into = fixed(plan.receive.into) if plan else None
    return into if into in ground.bins else None


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
    rules = book.rules_for(request.site, request.purpose, request.at)
    pick = request.purpose is BinPurpose.PICK_FROM
    replenish = book.rules_for(request.site, BinPurpose.REPLENISH_FROM) if pick else ()
    names = Names(state.ground)
    explanation = explain(request, rules, state, replenish)
    return Why(
        explanation=explanation, bin=explanation.bin, rule=explanation.rule,
        rules={r.id: words_of(rule_sentence(r, names, "", request.purpose)) for r in rules},
        numbers={r.id: n for n, r in enumerate(rules, start=1)},
    )  # fmt: skip
