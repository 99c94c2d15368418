"""What release gates say of all open orders, with the cover of each line: of a draft on its bench, and on a floor where they are released."""

from __future__ import annotations

from collections import Counter
from datetime import date
from typing import Literal

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.benches import asked_state
from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.openings import local_date, local_now
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.state import State
from mindful_crate.core.proving.release_list import STANDINGS, Standing, Waits, release_list, who_has
from mindful_crate.core.releasing.cover import LineCover
from mindful_crate.core.releasing.judging import Judged, judged
from mindful_crate.core.releasing.planning import plan_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.gates import GateKind, GateVerdict
from mindful_crate.core.rulebook.words.gates import MEASURES
from mindful_crate.core.work.receiving.checks import known_order

api = APIBlueprint("releasing", __name__, url_prefix="/api", abp_tags=[Tag(name="benches")], doc_ui=WITH_DOCUMENT)
MOST = 200
"""So many orders are told at once."""


class GatesBody(Body):
    """On which floor, or on the opening state; and orders of which verdict alone."""

    world: str | None = Field(default=None, max_length=80)
    verdict: Literal["", "stop", "warn", "pass"] = ""
    at: str = Field(default="", max_length=80)
    """Those alone that wait at the gate of this name."""


class TiedView(Answer):
    """So much is on its way by a line of another order."""

    order: str
    line: int
    quantity: int
    told: str
    promised: date
    straight: int
    """So much of it goes straight to this line when it comes, in base units."""
    may: bool
    """May it? The item is fit for it."""


class CoverView(Answer):
    """A line of which something is not on hand, and what is on its way."""

    line: int
    item: str
    name: str
    wanted: str
    on_hand: str
    short: str
    on_way: list[TiedView]


class OtherView(Answer):
    """A line of another order that has some of the same item on hand."""

    order: str
    line: int
    on_hand: int
    told: str


class PromisedView(CoverView):
    """A line on the floor: how much is kept in bins for it, in base units what of it may go and what it lacks, and who else has some."""

    kept: str
    goes: int
    lacks: int
    others: list[OtherView]


class TurnsView(Answer):
    """At how many per cent the verdict would be another."""

    at: int
    verdict: GateVerdict


class AtGateView(Answer):
    """What one gate in the row of an order says of it."""

    id: str
    name: str
    kind: GateKind
    whence: str
    verdict: GateVerdict
    says: str


class JudgedView(Answer):
    """What its gates say of an order; first of the one that measures what is on hand, then of all in its row."""

    order: str
    partner: str
    promised: date
    gate: str
    whence: str
    measure: str
    fell_back: str
    rate: str
    verdict: GateVerdict
    below: int
    turns: list[TurnsView]
    confirmed: bool
    """Has the host said its word?"""
    row: list[AtGateView]
    waits_at: str
    """The gate at which it waits; empty: none stops it."""


class WaitingView(Answer):
    """So many orders wait at a gate."""

    gate: str
    orders: int


class LackingView(JudgedView):
    """The same, with the lines of which something is not on hand."""

    lacking: list[CoverView]


class GatesView(Answer):
    """Orders, what is stopped first, how many there are of each verdict, and how many wait at each gate."""

    orders: list[LackingView]
    counts: dict[str, int]
    waiting: list[WaitingView]


class ReleasedView(Answer):
    """What a release made, and by whom."""

    shipment: str
    verdict: GateVerdict
    rate: str
    who: str
    passed: str
    waits: str
    """The wave plan it waits for; empty when it is in a wave, or goes without."""
    waves: list[str]
    """The waves it is in."""


class WaitsView(Answer):
    """An order that goes out, on a floor: what its gate says, what keeps it, or that it was released."""

    stands: Standing
    judged: JudgedView
    order_class: str
    """What its class is called; empty: it is of none."""
    leaves: date
    priority: int
    carrier: str
    hold: str
    release: ReleasedView | None
    lines: list[PromisedView]


class ReleasesQuery(Body):
    """Orders that stand so alone, and those in whose number, partner, class or items these words are."""

    stands: Literal["", "stop", "warn", "pass", "held", "released"] = ""
    at: str = Field(default="", max_length=80)
    """Those alone that wait at the gate of this name."""
    find: str = Field(default="", max_length=80)


class ReleasesView(Answer):
    """Orders as they leave, how many there are of each standing and wait at each gate, which may go whole, and the gates that measure."""

    orders: list[WaitsView]
    total: int
    counts: dict[str, int]
    whole: list[str]
    gates: list[str]
    waiting: list[WaitingView]


@api.get("/worlds/<id>/releases", responses={200: ReleasesView, **PROBLEMS})
@needs(Right.LOOK)
def releases(path: ById, query: ReleasesQuery) -> ReleasesView:
    """All open orders that go out from a floor, each with what its gate says now and what was released. Asking changes nothing."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            today = local_date(w.ground, w.settings.site, w.state.clock)
            every = release_list(w.state, w.rulebook, local_now(w.ground, w.settings.site, w.state.clock))
            stopped = [x.judged for x in every if x.stands == "stop"]
            found = [
                x
                for x in every
                if query.stands in ("", x.stands)
                and (not query.at or (x.stands == "stop" and _at(x.judged) == query.at))
                and _holds(w.state, w.rulebook, x, query.find)
            ]
            return ReleasesView(
                orders=[_waits(w.state, w.rulebook, today, x) for x in found[:MOST]], total=len(found),
                counts={s: sum(x.stands == s for x in every) for s in STANDINGS},
                whole=[x.order.number for x in every if x.stands == "pass" and x.whole],
                gates=[g.name for g in w.rulebook.gates_at(w.settings.site) if g.kind is GateKind.COVER],
                waiting=_waiting(stopped),
            )  # fmt: skip


def _at(judged: Judged) -> str:
    return judged.waits_at.name if judged.waits_at else ""


def _waiting(every: list[Judged]) -> list[WaitingView]:
    """At which gate how many wait; where most do, first."""
    many = Counter(_at(j) for j in every if j.waits_at)
    return [WaitingView(gate=gate, orders=n) for gate, n in many.most_common()]


def _holds(state: State, book: Rulebook, x: Waits, find: str) -> bool:
    wanted = find.strip().lower()
    if not wanted:
        return True
    ground, order = state.ground, x.order
    partner = ground.partners.get(order.partner)
    said = [
        order.number,
        order.partner,
        partner.name if partner else "",
        order.carrier or "",
        book.class_told(ground, order),
        order.leaves.isoformat(),
    ]
    said += [t for line in order.lines for t in (line.item, ground.items[line.item].name)]
    return any(wanted in text.lower() for text in said)


def _waits(state: State, book: Rulebook, today: date, x: Waits) -> WaitsView:
    r, order = x.release, x.order
    released = ReleasedView(
        shipment=r.shipment, verdict=r.verdict, rate=r.rate, who=r.who, passed=r.passed,
        waits=(plan.name if (plan := plan_of(state, book, order, today)) else "a wave that the office makes") if r.waits else "",
        waves=[w.number for w in state.waves.of_order(order.number) if not w.cancelled],
    ) if r else None  # fmt: skip
    return WaitsView(
        stands=x.stands, judged=_view(state, x.judged), order_class=book.class_told(state.ground, order), leaves=order.leaves, priority=order.priority, carrier=order.carrier or "",
        hold=x.hold, release=released, lines=[_line(state, order.number, c) for c in x.judged.lines],
    )  # fmt: skip


def _line(state: State, order: OrderNo, x: LineCover) -> PromisedView:
    item, lacks = state.ground.items[x.item], x.wanted - x.on_hand
    kept, cover = state.reservations.of_line(LineKey(order, x.line)), state.covers.of_line(LineKey(order, x.line))
    others = [
        OtherView(order=o.order, line=o.line, on_hand=o.on_hand, told=item.told(o.on_hand))
        for o in (who_has(state, order, x) if lacks else ())
    ]
    return PromisedView(
        **dict(_cover(state, x, order)), kept=item.told(kept) if kept else "", goes=cover.on_hand if cover else 0, lacks=lacks, others=others
    )  # fmt: skip


@api.post("/drafts/<id>/bench/gates", responses={200: GatesView, **PROBLEMS})
@needs(Right.LOOK)
def bench_gates(path: ById, body: GatesBody) -> GatesView:
    """All open orders that go out with what the gates say of them; nothing is released, and nothing stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world) as state:
            every = judged(state, found.rulebook, local_now(state.ground, state.settings.site, state.clock))
            # what is stopped comes first, then what goes with a warning; of each, as they claim
            ranked = sorted(every, key=lambda j: list(GateVerdict).index(j.verdict))
            wanted = [j for j in ranked if body.verdict in ("", j.verdict) and body.at in ("", _at(j))][:MOST]
            views = [_lacking(state, j) for j in wanted]
    counts = {v.value: sum(j.verdict is v for j in every) for v in GateVerdict}
    return GatesView(orders=views, counts=counts, waiting=_waiting(every))


def _cover(state: State, x: LineCover, order: OrderNo | None = None) -> CoverView:
    item = state.ground.items[x.item]
    mine = LineKey(order, x.line) if order else None
    way = [
        TiedView(
            order=t.order, line=t.line, quantity=t.quantity, told=item.told(t.quantity), promised=t.promised, may=item.cross_docks,
            straight=sum(s.quantity for s in state.ties.get(LineKey(t.order, t.line), ()) if s.line == mine),
        )
        for t in x.on_way
    ]  # fmt: skip
    return CoverView(
        line=x.line, item=x.item, name=item.name, wanted=item.told(x.wanted), on_hand=item.told(x.on_hand),
        short=item.told(x.short) if x.short else "", on_way=way,
    )  # fmt: skip


def _view(state: State, j: Judged) -> JudgedView:
    order = known_order(state, j.order)
    partner = state.ground.partners.get(order.partner)
    return JudgedView(
        order=j.order, partner=partner.name if partner else order.partner, promised=order.promised, gate=j.gate, whence=j.whence, measure=MEASURES[j.measure],
        fell_back=j.fell_back, rate=j.rate, verdict=j.verdict, below=j.below,
        turns=[TurnsView(at=at, verdict=v) for at, v in j.after], confirmed=state.is_confirmed(j.order), waits_at=_at(j),
        row=[AtGateView(id=g.id, name=g.name, kind=g.kind, whence=g.whence, verdict=g.verdict, says=g.says) for g in j.row],
    )  # fmt: skip


def _lacking(state: State, j: Judged) -> LackingView:
    lacking = [_cover(state, x) for x in j.lines if x.on_hand < x.wanted]
    return LackingView(**dict(_view(state, j)), lacking=lacking)
