"""The bench of papers: an order as it would be packed by a draft, with the papers and labels of its cartons; nothing is kept."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PlateKindCode, PlateNo, ShipmentNo
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.pages import PaperPage
from mindful_crate.core.floor.prints import Label
from mindful_crate.core.floor.state import State
from mindful_crate.core.proving.pack_bench import CartonMade, PackedOrder, packed_order
from mindful_crate.core.proving.printed import PrintedBy
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.papers import OF_A_SHIPMENT, PAPER_OF, LabelRule, Paper, Prints, When
from mindful_crate.core.rulebook.words.papers import TITLES, WHEN
from mindful_crate.core.scanning.reading import SSCC, gs1_check_digit
from mindful_crate.core.work.leaving.contents import CartonContent, CartonShown, content_of
from mindful_crate.core.work.leaving.shipping_papers import OrderPart, Papers, pages
from mindful_crate.core.work.packing.looking import kilos
from mindful_crate.core.work.printing.happened import LabelFacts, is_printed
from mindful_crate.core.work.printing.labels import carton_told, content_labels, goods_labels, packing_slip
from mindful_crate.core.work.releasing.decide import leaves

LEAVES = ShipmentNo("SUPPOSED")


@record
class PapersOf:
    """The papers of an order as it would leave: by which form, page by page; what label rules print of it, and of each that prints nothing a sentence."""

    order: str
    form: int
    """The number of the form among the site's; 0: as is usual."""
    pages: tuple[PaperPage, ...]
    prints: tuple[PrintedBy, ...]
    nothing: tuple[str, ...]
    says: str


def papers_of(state: State, book: Rulebook, order: Order, paper: Paper) -> PapersOf:
    """One paper of an order, and the labels, as if all of it were packed now as is proposed. What is not packed leaves loose."""
    ground, site = state.ground, state.settings.site
    packed = packed_order(state, book, order)
    goods = {x.no: left for x in order.lines if (left := state.ordered.left_to_ship(order.number, x)) > 0}
    cartons = _cartons(state, order, packed, goods)
    loose = tuple(_some(state, order, line, much) for line, much in goods.items() if much)
    partner, how = ground.partners.get(order.partner), leaves(state, order)
    carrier = ground.carriers.get(how.carrier) if how.carrier else None
    part = OrderPart(
        order.number, partner.name if partner else order.partner, how.address, tuple((c.number, c.kind, c.content) for c in cartons), loose, ()
    )  # fmt: skip
    found = Papers(
        LEAVES, ground.sites[site].name, part.partner, how.address, carrier.name if carrier else "", how.service, None, state.clock, None, (part,),
        tuple(cartons), loose, (), partner.group if partner else "",
    )  # fmt: skip
    form = book.form_for(site, paper, found.group)
    forms = [f.id for f in book.paper_forms if f.site in (None, site)]
    prints, nothing = _printed(state, book, order, packed, cartons)
    made = tuple(
        evolve(p, foot=f"{TITLES[paper]} of {order.number}, supposed.") for p in pages(ground, found, paper, form)
    )
    return PapersOf(
        order.number, forms.index(form.id) + 1 if form.id in forms else 0, made, prints, nothing, packed.says
    )


def _some(state: State, order: Order, line: int, much: int) -> CartonContent:
    item = next(x.item for x in order.lines if x.no == line)
    return content_of(state.ground.items[item], LineKey(order.number, line), (Goods(item, much),))


def _cartons(state: State, order: Order, packed: PackedOrder, goods: dict[int, int]) -> list[CartonShown]:
    """The proposed cartons with what of which line is in each; ``goods`` keeps what is in none."""
    found: list[CartonShown] = []
    for n, made in enumerate(packed.cartons, start=1):
        content: dict[int, int] = {}
        for item, much in _pieces(state, made).items():
            for line in (x for x in order.lines if x.item == item and goods.get(x.no)):
                take = min(much, goods[line.no])
                goods[line.no] -= take
                much -= take
                content[line.no] = content.get(line.no, 0) + take
        shown = tuple(_some(state, order, line, much) for line, much in sorted(content.items()) if much)
        found.append(
            CartonShown(
                _number(n),
                made.name,
                "closed",
                kilos(made.weight_g * 1000),
                None,
                None,
                False,
                "",
                shown,
                made.weight_g * 1000,
            )
        )
    return found


def _pieces(state: State, made: CartonMade) -> dict[ItemCode, int]:
    """How many base units of each item lie in a carton: each thing is the unit of its size."""
    found: dict[ItemCode, int] = {}
    for thing in made.things:
        item, size = ItemCode(thing.item), sorted((thing.length, thing.width, thing.height))
        units = state.ground.items[item].largest_first()
        much = next((u.quantity for u in units if sorted((u.length_mm, u.width_mm, u.height_mm)) == size), 1)
        found[item] = found.get(item, 0) + much
    return found


def _number(n: int) -> PlateNo:
    """A number that reads like one of a carton and is none: the prefix of noughts is nobody's."""
    body = f"{n:017d}"
    return PlateNo(f"{body}{gs1_check_digit(body)}")


def _printed(
    state: State, book: Rulebook, order: Order, packed: PackedOrder, cartons: list[CartonShown]
) -> tuple[tuple[PrintedBy, ...], tuple[str, ...]]:  # fmt: skip
    site, ground = state.settings.site, state.ground
    mine = [r for r in book.label_rules if r.site in (None, site)]
    partner = ground.partners.get(order.partner)
    prints: list[PrintedBy] = []
    nothing: list[str] = []
    for n, rule in enumerate(mine, start=1):
        if not rule.on or rule.when not in (When.CLOSED, *OF_A_SHIPMENT):
            nothing.append(f"Rule {n} is switched off." if not rule.on else f"Rule {n} prints when {WHEN[rule.when]}.")
            continue
        labels: list[Label] = []
        for at, shown in enumerate(cartons) if rule.when is When.CLOSED else ((0, None),):
            content = shown.content if shown else tuple(x for c in cartons for x in c.content)
            kind = PlateKindCode(packed.cartons[at].kind) if shown else None
            facts = LabelFacts(
                kind, tuple(ground.items[ItemCode(x.item)].group for x in content), (order.kind,), (partner.group,) if partner else (),
                (order.carrier,) if order.carrier else (),
            )  # fmt: skip
            if is_printed(rule, facts):
                labels += _labels(state, rule, order, packed, shown, at, content)
        if labels:
            at_ = rule.printer or ""
            prints.append(
                PrintedBy(
                    rule.id,
                    n,
                    WHEN[rule.when],
                    at_,
                    "" if at_ else "the printer of the bench",
                    len(labels) * rule.copies,
                    tuple(labels),
                )
            )
        else:
            nothing.append(f"Rule {n} is for other goods.")
    return tuple(prints), tuple(nothing)


def _labels(
    state: State, rule: LabelRule, order: Order, packed: PackedOrder, shown: CartonShown | None, at: int, content: tuple[CartonContent, ...]
) -> list[Label]:  # fmt: skip
    ground = state.ground
    if (paper := PAPER_OF.get(rule.prints)) is not None:
        return [Label("page", order.number, TITLES[paper])]
    goods = [Goods(ItemCode(x.item), x.pieces) for x in content]
    if rule.prints is Prints.LIST:
        much: dict[tuple[int, str], int] = {}
        for x in content:
            much[x.line, x.item] = much.get((x.line, x.item), 0) + x.pieces
        where = f"in {shown.number}" if shown else f"shipment {LEAVES}"
        return [packing_slip(ground, OrderNo(order.number), much, where)] if much else []
    if shown is None:
        return []
    if rule.prints is Prints.CONTENT:
        return content_labels(ground, goods, shown.number)
    if rule.prints is not Prints.PLATE:
        each = rule.prints is Prints.UNIT
        return [
            label
            for label, count in goods_labels(ground, [(g, "", ()) for g in goods], each=each)
            for _ in range(count)
        ]
    made = packed.cartons[at]
    told = carton_told(
        ground, leaves(state, order), (order.number,), (at + 1, len(packed.cartons)), made.name, made.weight_g * 1000
    )
    inside = tuple(f"{x.much} {x.name}" for x in content[:4])
    return [Label("plate", shown.number, shown.number, (*told, *inside), ((SSCC, shown.number),))]
