"""What is asked while packing: what is packed, which item, how many, which carton it is, what it weighs."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, CartonKindCode, ItemCode, OrderNo, PlateNo, ShipmentNo, UnitCode
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.floor.answers import Answers, Doubt, flag, number, text
from mindful_crate.core.floor.cartons import Carton
from mindful_crate.core.floor.standing import purpose_of, stands_in
from mindful_crate.core.problem import Refusal
from mindful_crate.core.releasing.onward import Kept
from mindful_crate.core.rulebook.flows import Asks, Prompt, Proposes
from mindful_crate.core.rulebook.packing import PackRule, Proof, Weigh
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.codes import any_bin, counts_about, item_code, plain, typed, unknown
from mindful_crate.core.scanning.kinds import COUNT, ITEM, UNIT, Codes, Context, NumberKind, PromptKind
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.packing import looking
from mindful_crate.core.work.packing.decide import check_new, rule_of
from mindful_crate.core.work.packing.looking import kilos
from mindful_crate.core.work.packing.scales import reads
from mindful_crate.core.work.receiving.checks import whole_quantity

WORK = text("pack_shipment", ShipmentNo)
"""The shipment that is packed."""
BENCH = text("pack_bench", BinCode)
"""Where it is packed."""
FIRST = text("pack_order", OrderNo)
"""The order it was begun with: what it wants is packed first."""
CARTON = text("pack_carton", PlateNo)
"""The carton that was scanned, if it is another than the last that was begun."""
NEW = text("pack_new", PlateNo)
"""A label that was scanned for a new carton."""
AS_IS = text("pack_as_is", PlateNo)
"""The tote or plate that leaves as it is."""
CLOSING = text("pack_closing", PlateNo)
"""The carton that is closed."""
KIND = text("pack_kind", CartonKindCode)
WEIGHT = number("pack_weight")
"""In milligrams; 0: the scale says it."""
RECOUNTED = flag("pack_recounted")
REST = flag("pack_rest")
SHORTING = text("pack_short", OrderNo)
"""The order of which no more is packed."""


def work(ctx: Context, answers: Answers) -> ShipmentNo | None:
    """The shipment that is packed, as long as something of it is left or in an open carton."""
    number_ = answers[WORK]
    shipment = ctx.state.shipments.get(number_) if number_ else None
    if shipment is None or shipment.left:
        return None
    if ctx.state.cartons.open_of(shipment.number):
        return shipment.number
    return shipment.number if next(looking.left(ctx.state, ctx.rulebook, shipment.number), None) else None


def bench(ctx: Context, answers: Answers) -> BinCode:
    """Where it is packed."""
    found = answers[BENCH] or looking.station_for(ctx.state, ctx.rulebook, answers.known(WORK))
    assert found is not None, "something is left, or a carton is open"
    return found


def current(ctx: Context, answers: Answers) -> Carton | None:
    """The open carton things go into: the one that was scanned, else the last that was begun."""
    if answers[WORK] is None:
        return None
    opened = ctx.state.cartons.open_of(answers.known(WORK))
    named = next((c for c in opened if c.number == answers[CARTON]), None)
    here = [c for c in opened if c.at == bench(ctx, answers)]
    return named or (here[-1] if here else None)


def rule(ctx: Context, answers: Answers, order: OrderNo | None = None) -> PackRule:
    """The rule by which it is packed."""
    return rule_of(ctx.state, ctx.rulebook, answers.known(WORK), order)


def next_one(ctx: Context, answers: Answers) -> list[Kept]:
    """What of the item that was scanned is packed now: of one order line, of the order it was begun with first."""
    if answers[ITEM] is None or work(ctx, answers) is None:
        return []
    return looking.next_line(ctx.state, ctx.rulebook, answers.known(WORK), answers.known(ITEM), answers[FIRST])


def much(kept: Iterable[Kept]) -> int:
    """How much that is, in base units."""
    return sum(k.part.goods.quantity for k in kept)


class PackedKind(PromptKind):
    """What is packed? An order, a shipment, a tote or plate, a carton that is open, or the bench and what waits there."""

    wants = "an order, a tote, or the bench it waits at"
    lasts = (WORK, BENCH, FIRST)

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return work(ctx, answers) is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        state, book = ctx.state, ctx.rulebook
        if reading.kind is Read.BIN:
            code = BinCode(reading.code)
            mine = list(islice(looking.waiting(state, book, code), 2))
            if purpose_of(state, code) is ZonePurpose.PACKING and len(mine) != 1:
                return answers.having(BENCH, code)
            if not mine:
                raise Refusal("nothing_to_pack", f"Nothing in `{code}` is to be packed.")
            if len(mine) > 1:
                raise Refusal("several_orders", f"Several shipments wait in `{code}`: scan an order, or a tote.")
            return answers.having(
                BENCH, code if purpose_of(state, code) is ZonePurpose.PACKING else answers[BENCH]
            ).having(WORK, mine[0])
        order = OrderNo(reading.code) if reading.kind is Read.ORDER else None
        if order is not None:
            shipment = looking.shipment_of(state, order)
        elif reading.kind is Read.SHIPMENT:
            shipment = ShipmentNo(reading.code)
        elif reading.kind is Read.PLATE:
            plate = PlateNo(reading.code)
            carton = state.cartons.get(plate)
            if carton is not None and carton.closed:
                raise Refusal("carton_closed", f"`{plate}` is packed already, for `{carton.shipment}`.")
            shipment = carton.shipment if carton else looking.whole_plate(state, plate)
        else:
            raise self.wrong(ctx, answers, reading)
        if state.shipments[shipment].left:
            raise Refusal("left", f"Shipment `{shipment}` has left.")
        filled = answers.having(WORK, shipment).having(FIRST, order)
        if work(ctx, filled) is None:
            raise Refusal("nothing_to_pack", f"Nothing of `{reading.code}` is to be packed now.")
        return filled

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for shipment in islice(looking.waiting(ctx.state, ctx.rulebook, answers[BENCH]), 30):
            orders = ctx.state.shipments[shipment].orders
            kept = list(islice(looking.left(ctx.state, ctx.rulebook, shipment), 100))
            places = sorted({str(stands_in(ctx.state, k.part)) for k in kept})
            yield Pick(
                shipment,
                ", ".join(orders[:3]),
                f"{counted(len(kept), 'line')} in {', '.join(places[:2]) or 'a carton'}",
            )

    def title(self, ctx: Context, answers: Answers) -> str:
        return (
            f"At `{answers[BENCH]}`: scan an order or a tote"
            if answers[BENCH]
            else "Scan an order, a tote, or the bench"
        )

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        waits = next(looking.waiting(ctx.state, ctx.rulebook, answers[BENCH]), None)
        where = f" at {answers[BENCH]}" if answers[BENCH] else ""
        return {"note": "" if waits else f"Nothing waits to be packed{where}."}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for shipment in islice(looking.waiting(ctx.state, ctx.rulebook), 2):
            orders = ctx.state.shipments[shipment].orders
            yield plain(f"order {orders[0]}", orders[0])
            kept = next(looking.left(ctx.state, ctx.rulebook, shipment), None)
            if kept is not None and kept.part.plate:
                yield plain(f"tote {kept.part.plate}", kept.part.plate)
            if kept is not None:
                code = stands_in(ctx.state, kept.part)
                yield plain(f"bin {code}", code)
        yield from any_bin(ctx)
        yield from unknown()


MANY = 30
"""More lines than these are not counted while somebody scans."""


class PackItemKind(PromptKind):
    """Which item goes in? Any that is left; its tote, when it leaves as it is; or a label, for another carton."""

    wants = "an item that is left to pack"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        if work(ctx, answers) is None or answers[CLOSING] or _going_on(answers):
            return False
        return not next_one(ctx, answers)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        shipment = answers.known(WORK)
        if reading.kind is Read.LABEL:
            check_new(ctx.state, PlateNo(reading.code))
            return answers.having(NEW, PlateNo(reading.code))
        if reading.kind is Read.PLATE:
            return self._plate(ctx, answers, PlateNo(reading.code))
        if reading.kind is not Read.ITEM or reading.item is None:
            raise self.wrong(ctx, answers, reading)
        item = ctx.ground.items[reading.item]
        filled = answers.without(COUNT).having(ITEM, item.code)
        mine = next_one(ctx, filled)
        if not mine:
            raise _not_wanted(ctx, shipment, item)
        unit = item.unit(reading.unit) if reading.unit else item.base
        left = much(mine)
        if unit.quantity > left:
            says = f"That is {item.told_in(1, unit)}, and {item.told(left)} are left for `{mine[0].line.order}`. Scan single ones."
            raise Refusal("more_than_wanted", says)
        filled = filled.having(UNIT, UnitCode(unit.code))
        if rule(ctx, answers, mine[0].line.order).proof is Proof.EACH:
            return filled.having(COUNT, Decimal(unit.quantity))
        return filled

    def _plate(self, ctx: Context, answers: Answers, plate: PlateNo) -> Answers | Doubt:
        carton = ctx.state.cartons.get(plate)
        shipment = answers.known(WORK)
        if carton is not None:
            if carton.shipment != shipment:
                orders = ", ".join(f"`{o}`" for o in ctx.state.shipments[carton.shipment].orders)
                raise Refusal("other_shipment", f"Carton `{plate}` is of {orders}: not of this shipment.")
            if carton.closed:
                raise Refusal("carton_closed", f"`{plate}` is closed. Open it again first, or take another.")
            return answers.having(CARTON, plate)
        whose = looking.whole_plate(ctx.state, plate)
        if whose != shipment:
            orders = ", ".join(f"`{o}`" for o in ctx.state.shipments[whose].orders)
            raise Refusal("other_shipment", f"`{plate}` holds goods of {orders}: not of this shipment.")
        goods = ctx.state.all_goods(plate)
        says = f"All on `{plate}`, {counted(len(goods), 'kind')} of goods, leaves as it is: nothing is packed into a carton."
        return Doubt("yes_no", says, answers.having(AS_IS, plate), "It leaves as it is")

    def title(self, ctx: Context, answers: Answers) -> str:
        if next(looking.left(ctx.state, ctx.rulebook, answers.known(WORK)), None) is None:
            return "All is packed: close the carton"
        return "Scan what goes in"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        lines = sum(1 for _ in islice(looking.lines_left(ctx.state, ctx.rulebook, answers.known(WORK)), MANY + 1))
        left = f"{f'more than {MANY} lines' if lines > MANY else counted(lines, 'line')} left"
        carton = current(ctx, answers)
        facts = [
            f"{', '.join(f'`{o}`' for o in ctx.state.shipments[answers.known(WORK)].orders[:3])} at `{bench(ctx, answers)}`"
        ]
        if carton is None:
            proposed = looking.proposed(ctx.state, ctx.rulebook, answers.known(WORK), rule(ctx, answers))
            name = f": {ctx.ground.carton_kinds[proposed].name.lower()}" if proposed else ""
            facts.append(f"begins a new carton{name}")
        else:
            name = f", {ctx.ground.carton_kinds[carton.kind].name.lower()}" if carton.kind else ""
            facts.append(f"into carton `{carton.number}`{name}")
        return {"note": left, "facts": tuple(facts)}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        shipment = answers.known(WORK)
        kept = list(islice(looking.left(ctx.state, ctx.rulebook, shipment), 40))
        items = list(dict.fromkeys(k.part.goods.item for k in kept))
        for code in items[:3]:
            item = ctx.ground.items[code]
            for unit in item.units[:2]:
                yield from item_code(ctx, item, unit.code)
        for other in islice((i for i in ctx.ground.items.values() if i.code not in items), 1):
            yield from item_code(ctx, other, other.base.code)
        for plate in dict.fromkeys(k.part.plate for k in kept if k.part.plate):
            yield plain(f"tote {plate}", plate)
            break
        for carton in ctx.state.cartons.of(shipment)[:2]:
            yield plain(f"carton {carton.number}{', closed' if carton.closed else ''}", carton.number)
        yield from any_bin(ctx)


def _going_on(answers: Answers) -> bool:
    """Was something said that is done without an item?"""
    return bool(answers[NEW] or answers[AS_IS] or answers[REST] or answers[SHORTING])


def _not_wanted(ctx: Context, shipment: ShipmentNo, item: Item) -> Refusal:
    """Why an item does not go in: all of it is packed, it is another order's, or nobody's here."""
    orders = ctx.state.shipments[shipment].orders
    for mine in orders:
        order = ctx.state.order(mine)
        if order and any(x.item == item.code for x in order.lines):
            return Refusal(
                "all_packed",
                f"All of {item.name} that was picked for `{mine}` is packed: this is one too many. Put it aside.",
            )
    for other in looking.waiting(ctx.state, ctx.rulebook):
        kept = (
            next(looking.left(ctx.state, ctx.rulebook, other, ItemCode(item.code)), None) if other != shipment else None
        )
        if kept:
            return Refusal(
                "other_order",
                f"{item.name} is for `{kept.line.order}`, not for {', '.join(f'`{o}`' for o in orders[:3])}.",
            )
    return Refusal("not_wanted", f"No order that is packed here wants {item.name}. Put it aside.")


class PackCountKind(NumberKind):
    """How many go in? All that is left is proposed."""

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return bool(next_one(ctx, answers)) and answers[COUNT] is None

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        mine = next_one(ctx, answers)
        return answers.having(COUNT, Decimal(1)) if much(mine) == 1 else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        mine, item = next_one(ctx, answers), ctx.item(answers)
        quantity = whole_quantity(item, ctx.unit(answers), self.number(reading, ctx.unit(answers).plural))
        if quantity > much(mine):
            says = f"{item.told(much(mine))} of {item.name} are left for `{mine[0].line.order}`, no more."
            raise Refusal("more_than_wanted", says)
        return answers.having(COUNT, Decimal(quantity))

    def proposal(self, ctx: Context, answers: Answers, prompt: Prompt) -> Decimal | None:
        mine = next_one(ctx, answers)
        if not mine or prompt.proposes is Proposes.BLANK:
            return None
        whole = much(mine) // ctx.unit(answers).quantity
        return Decimal(min(1, whole) if prompt.proposes is Proposes.ONE else whole) if whole else None

    def confirmed(self, ctx: Context, answers: Answers, count: Decimal) -> Answers:
        return answers.having(COUNT, count * ctx.unit(answers).quantity)

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"How many {ctx.unit(answers).plural} go in?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        mine = next_one(ctx, answers)
        left = ctx.item(answers).told(much(mine))
        return {"note": f"{left} left for {mine[0].line.order}" if mine else "", "unit": ctx.unit(answers).plural}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from counts_about(question)
        yield from any_bin(ctx)


class CartonKindKind(PromptKind):
    """Which carton is it? One of those its rule lets be used; the one that was proposed first."""

    wants = "one of the cartons"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return (
            bool(answers[CLOSING]) and answers[KIND] is None and bool(looking.kinds_for(ctx.state, rule(ctx, answers)))
        )

    def _kinds(self, ctx: Context, answers: Answers) -> list[CartonKindCode]:
        carton = ctx.state.cartons.get(answers.known(CLOSING))
        kinds = [k.code for k in looking.kinds_for(ctx.state, rule(ctx, answers))]
        first = carton.kind if carton else None
        return sorted(kinds, key=lambda k: k != first)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        code = CartonKindCode(reading.code.upper())
        if code not in self._kinds(ctx, answers):
            names = ", ".join(f"`{k}`" for k in self._kinds(ctx, answers))
            raise Refusal("no_carton_kind", f"`{reading.code}` is none of the cartons for this order: {names}.")
        return answers.having(KIND, code)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return f"carton `{reading.code.upper()}`" if reading.code.upper() in ctx.ground.carton_kinds else ""

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        carton = ctx.state.cartons.get(answers.known(CLOSING))
        for code in self._kinds(ctx, answers):
            kind = ctx.ground.carton_kinds[code]
            size = f"{kind.length_mm // 10} x {kind.width_mm // 10} x {kind.height_mm // 10} cm"
            yield Pick(code, kind.name, f"proposed, {size}" if carton and carton.kind == code else size)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which carton is it?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"facts": (f"closing `{answers[CLOSING]}`",)}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for code in self._kinds(ctx, answers)[:3]:
            yield typed(f"{ctx.ground.carton_kinds[code].name}", code)
        yield from unknown()


class WeightKind(NumberKind):
    """What does it weigh? The scale is read; by hand where there is none, or it is down."""

    def needed(self, ctx: Context, answers: Answers) -> bool:
        closing = answers[CLOSING]
        if not closing or answers[WEIGHT] is not None or answers[RECOUNTED]:
            return False
        return rule(ctx, answers).weigh is not Weigh.NO and closing in ctx.state.cartons

    def _should(self, ctx: Context, answers: Answers) -> int:
        carton = ctx.state.cartons[answers.known(CLOSING)]
        return looking.weighs(ctx.state, ctx.state.all_goods(carton.number), answers[KIND] or carton.kind)

    def _scale(self, ctx: Context, answers: Answers) -> int | None:
        if rule(ctx, answers).weigh is not Weigh.SCALE:
            return None
        try:
            return reads(ctx.state, ctx.state.cartons[answers.known(CLOSING)], self._should(ctx, answers))
        except Refusal:
            return None

    def why_by_hand(self, ctx: Context, answers: Answers) -> str:
        """Why the scale does not say it; empty: nobody asks it."""
        if rule(ctx, answers).weigh is not Weigh.SCALE:
            return ""
        try:
            reads(ctx.state, ctx.state.cartons[answers.known(CLOSING)], self._should(ctx, answers))
        except Refusal as refusal:
            return refusal.problem.says
        return ""

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        weight = int(self.number(reading, "kilograms") * 1_000_000)
        if not 0 < weight <= looking.HEAVIEST_MG:
            raise Refusal(
                "no_weight", "Say what it weighs in kilograms, like 3.250: more than nothing, less than two tonnes."
            )
        return self._judged(ctx, answers, weight, answers.having(WEIGHT, Decimal(weight)))

    def _judged(self, ctx: Context, answers: Answers, weight: int, filled: Answers) -> Answers | Doubt:
        """A weight, or a question about it when it is beyond what may be: what could explain it is said."""
        should, goods = self._should(ctx, answers), ctx.state.all_goods(answers.known(CLOSING))
        says = looking.weight_differs(ctx.state, rule(ctx, answers), goods, weight, should)
        if not says:
            return filled
        return Doubt("yes_no", says, filled.having(RECOUNTED, True), "Counted again: it is so")

    def proposal(self, ctx: Context, answers: Answers, prompt: Prompt) -> Decimal | None:
        weight = self._scale(ctx, answers)
        if weight is None or isinstance(self._judged(ctx, answers, weight, answers), Doubt):
            return None
        return Decimal(weight).scaleb(-6).normalize()

    def confirmed(self, ctx: Context, answers: Answers, count: Decimal) -> Answers:
        return answers.having(WEIGHT, Decimal(0))

    def title(self, ctx: Context, answers: Answers) -> str:
        weight = self._scale(ctx, answers)
        return f"The scale reads {kilos(weight)}" if weight is not None else "What does it weigh, in kg?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        facts = [f"closing `{answers[CLOSING]}`", f"by its list {kilos(self._should(ctx, answers))}"]
        if weight := self._scale(ctx, answers):
            found = self._judged(ctx, answers, weight, answers)
            if isinstance(found, Doubt):
                facts.append(found.says)
        return {"unit": "kg", "note": self.why_by_hand(ctx, answers), "facts": tuple(facts)}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        should = Decimal(self._should(ctx, answers)).scaleb(-6)
        yield typed("as the list says", f"{should:.3f}")
        yield typed("much too light", "0.01")
        yield typed("nothing", "0")
        yield from any_bin(ctx)


PROMPTS: dict[Asks, PromptKind] = {
    Asks.PACKED: PackedKind(),
    Asks.PACK_ITEM: PackItemKind(),
    Asks.PACK_COUNT: PackCountKind(),
    Asks.CARTON_KIND: CartonKindKind(),
    Asks.WEIGHT: WeightKind(),
}
"""What it asks."""
