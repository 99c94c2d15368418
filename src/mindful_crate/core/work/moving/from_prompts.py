"""What is asked while goods are taken to be moved: from where, which, which lot, how many."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from decimal import Decimal
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo
from mindful_crate.core.floor.answers import TASK, Answers, Doubt, flag, text
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.scanning.codes import (
    any_bin,
    empty_bins,
    filled_bins,
    here,
    item_code,
    plain,
    shown,
    stored_plates,
    typed,
    unknown,
    waiting_plates,
)
from mindful_crate.core.scanning.kinds import (
    COUNT,
    ITEM,
    LISTED,
    LOT,
    Codes,
    Context,
    NumberKind,
    PromptKind,
    bin_place,
    deviation,
)
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.moving import checks as moving
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.stamp import Stamp

FROM_BIN = text("from_bin", BinCode)
FROM_PLATE = text("from_plate", PlateNo)
GOING = flag("going")
"""No further plate is taken up."""


def asking(ctx: Context) -> Stamp:
    """A stamp for asking rules within a dialogue: only the day matters to them."""
    return Stamp("", ctx.state.clock, ctx.today, ctx.person)


def base_count(ctx: Context, answers: Answers) -> int:
    """The count asked for in base units; 0 while there is none."""
    if answers[COUNT] is None or answers[ITEM] is None:
        return 0
    return receiving.whole_quantity(ctx.item(answers), ctx.unit(answers), answers.known(COUNT))


def proposed_from(ctx: Context, answers: Answers) -> Trail | None:
    """Where the rules of the flow would take what is asked for; None when it proposes nothing."""
    if ctx.flow.takes_by is None or answers[ITEM] is None:
        return None
    count = base_count(ctx, answers) or ctx.unit(answers).quantity
    request = moving.request_to_take(ctx.state, ctx.flow, answers.known(ITEM), count, asking(ctx), answers[LOT] or "")
    return moving.ask_where_from(ctx.state, ctx.rulebook, request)


def there(ctx: Context, answers: Answers) -> tuple[Goods, ...]:
    """What of the item may be taken at the source, of the lot if one is named."""
    goods = moving.goods_to_take(ctx.state, answers.known(FROM_BIN), answers[FROM_PLATE], answers.known(ITEM))[1]
    return tuple(g for g in goods if answers[LOT] is None or g.lot == answers[LOT])


def take_count(ctx: Context, answers: Answers) -> int:
    """How many base units are taken at this source: what is asked for, what is there, what the rules allot it."""
    count = min(base_count(ctx, answers), sum(g.quantity for g in there(ctx, answers)))
    trail = proposed_from(ctx, answers)
    allotted = [a for a in trail.allocations if a.bin == answers[FROM_BIN]] if trail else []
    return min(count, sum(a.quantity for a in allotted)) if allotted else count


class FromKind(PromptKind):
    """Where is it taken from? A bin, or a plate when what is taken stands on one."""

    wants = "the bin or plate it is taken from"
    shape: Shape = "bin"

    fixable = True

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TASK] is None and answers[FROM_BIN] is None

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        carried = moving.carried_goods(ctx.state, ctx.person)
        return answers.having(TASK, carried.number).having(ITEM, carried.goods[0].item) if carried else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        filled = self._source(ctx, answers, reading)
        if answers[ITEM] is None:
            return filled
        there(ctx, filled)  # refuses when there is none
        trail = proposed_from(ctx, answers)
        return deviation(
            ctx,
            filled[FROM_BIN] or "",
            trail.bin if trail else None,
            filled,
            "Take it from here all the same?",
            "Take it here",
        )

    def _source(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.PLATE:
            plate = moving.plate_to_take(ctx.state, PlateNo(reading.code))
            return answers.having(FROM_PLATE, plate.number).having(FROM_BIN, ctx.state.bin_of(plate.number))
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        code = BinCode(reading.code)
        if ctx.state.ground.site_of(code) != ctx.state.settings.site:
            raise Refusal("other_site", f"Bin `{code}` belongs to another site.")
        if not ctx.state.loose(code) and not ctx.state.standing(code):
            raise Refusal("bin_empty", f"Bin `{code}` is empty: there is nothing to take.")
        return answers.having(FROM_BIN, code)

    def again(self, answers: Answers) -> str:
        return answers[FROM_PLATE] or answers[FROM_BIN] or ""

    def asked(self, ctx: Context, answers: Answers) -> str:
        trail = proposed_from(ctx, answers)
        return f"bin `{trail.bin}`" if trail and trail.bin else self.wants

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        if answers[ITEM]:
            for code in list(dict.fromkeys(x.bin for x in ctx.state.lines(answers.known(ITEM))))[:LISTED]:
                count = ctx.state.quantity_in(code, answers.known(ITEM))
                yield Pick(code, code, f"{bin_place(ctx, code)}: {ctx.item(answers).told(count)}")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Go to this bin and scan it" if answers[ITEM] else "Where is it taken from?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        trail = proposed_from(ctx, answers)
        if trail is None:
            return {"note": "Scan the bin, or the plate it stands on"}
        if trail.bin is None:
            return {"note": "No rule finds it. Choose a bin that has it."}
        first = trail.allocations[0]
        return {
            "expect": first.bin,
            "note": f"{bin_place(ctx, first.bin)}: take {ctx.item(answers).told(first.quantity)} there",
        }

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        if answers[ITEM]:
            for line in ctx.state.lines(answers.known(ITEM))[:4]:
                yield plain(f"bin {line.bin}, has it", line.bin)
        else:
            for code in filled_bins(ctx, 2):
                yield plain(f"bin {code}", code)
            for plate in stored_plates(ctx, 1):
                yield plain(f"plate {plate}", plate)
        for code in empty_bins(ctx, 1):
            yield plain(f"bin {code}, empty", code)
        yield from waiting_plates(ctx)
        yield from unknown()


class GoodsKind(PromptKind):
    """Which item is taken? Its barcode says the unit too; a GS1 code may say lot and count."""

    wants = "an item"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TASK] is None and answers[ITEM] is None

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        return FromKind().given(ctx, answers)

    def again(self, answers: Answers) -> str:
        return answers[ITEM] or ""

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.PLATE and answers[FROM_BIN]:
            plate = moving.plate_to_take(ctx.state, PlateNo(reading.code))
            if ctx.state.bin_of(plate.number) != answers[FROM_BIN]:
                raise Refusal(
                    "plate_elsewhere", f"Plate `{plate.number}` stands in `{ctx.state.bin_of(plate.number)}`."
                )
            return answers.having(FROM_PLATE, plate.number)
        if reading.kind is not Read.ITEM or reading.item is None:
            raise self.wrong(ctx, answers, reading)
        filled = ctx.about(answers, reading).having(LOT, reading.lot).having(COUNT, reading.count)
        if answers[FROM_BIN]:
            goods = there(ctx, filled)
            if not goods:
                raise Refusal(
                    "lot_not_there", f"Lot `{reading.lot}` of `{reading.item}` is not in `{answers[FROM_BIN]}`."
                )
        return filled

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for item, count in _content(ctx, answers).items():
            yield Pick(item.code, item.name, f"{item.told(count)} there")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "What do you take?" if answers[FROM_BIN] else "Which item is moved?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        if answers[FROM_BIN] is None:
            return {}
        where = f"plate {answers[FROM_PLATE]}" if answers[FROM_PLATE] else f"bin {answers[FROM_BIN]}"
        return {"note": f"out of {where}"}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        there_ = [p.value for p in self.picks(ctx, answers)]
        for code in there_[:3]:
            item = ctx.ground.items[ItemCode(code)]
            yield from item_code(ctx, item, item.base.code)
            for unit in item.units[1:2]:
                yield from item_code(ctx, item, unit.code)
        if not answers[FROM_BIN]:
            for item in islice((i for i in ctx.ground.items.values() if here(ctx, i)), 3):
                yield from item_code(ctx, item, item.base.code)
        for other in islice((i for i in ctx.ground.items.values() if i.code not in there_), 1):
            yield from item_code(ctx, other, other.base.code)
        yield from any_bin(ctx)
        yield from unknown()


def _content(ctx: Context, answers: Answers) -> dict[Item, int]:
    """Items at the source with their quantities."""
    found: dict[Item, int] = {}
    if answers[FROM_BIN] is None:
        return found
    loose = ctx.state.loose(answers.known(FROM_BIN)) if answers[FROM_PLATE] is None else ()
    plates = (
        [answers.known(FROM_PLATE)]
        if answers[FROM_PLATE]
        else [p.number for p in ctx.state.standing(answers.known(FROM_BIN))]
    )
    for goods in (*loose, *(g for n in plates for g in ctx.state.all_goods(n))):
        item = ctx.ground.items[goods.item]
        found[item] = found.get(item, 0) + goods.quantity
    return found


def _age(goods: Goods) -> tuple[date, date, str]:
    """What expires first is first, then what came first."""
    return goods.expiry or date.max, goods.arrived or date.min, goods.lot


class LotThereKind(PromptKind):
    """Which lot is taken? Asked when the source holds several."""

    wants = "the lot"
    shape: Shape = "carton"
    keys: Keys = "text"
    reads = Read.LOT

    def needed(self, ctx: Context, answers: Answers) -> bool:
        if answers[TASK] or answers[LOT] is not None or answers[ITEM] is None or answers[FROM_BIN] is None:
            return False
        return len({g.lot for g in there(ctx, answers)}) > 1

    def again(self, answers: Answers) -> str:
        return answers[LOT] or ""

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        lots = sorted({g.lot for g in there(ctx, answers)})
        lot = reading.lot if reading.lot is not None else reading.code
        if lot not in lots:
            raise Refusal(
                "lot_not_there", f"`{reading.code}` is no lot there; there are {', '.join(f'`{x}`' for x in lots)}."
            )
        return answers.having(LOT, lot)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for goods in sorted(there(ctx, answers), key=_age):  # the oldest first
            told_ = ctx.item(answers).told(goods.quantity)
            expiry = f", expires {goods.expiry.isoformat()}" if goods.expiry else ""
            yield Pick(goods.lot, goods.lot or "no lot", told_ + expiry)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which lot is taken?"

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for pick in self.picks(ctx, answers):
            yield plain(f"lot {pick.label}", pick.value)
        yield plain("a lot that is not there", "L0000")
        yield from any_bin(ctx)


class CountKind(NumberKind):
    """How many are taken?"""

    fixable = True

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TASK] is None and answers[COUNT] is None

    def again(self, answers: Answers) -> str:
        return str(answers[COUNT] or "")

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if changed := self.other_unit(answers, reading):
            return changed
        return self.confirmed(ctx, answers, self.number(reading, ctx.unit(answers).plural))

    def confirmed(self, ctx: Context, answers: Answers, count: Decimal) -> Answers:
        item = ctx.item(answers)
        quantity = receiving.whole_quantity(item, ctx.unit(answers), count)
        if answers[FROM_BIN]:
            have = sum(g.quantity for g in there(ctx, answers))
            if quantity > have:
                raise Refusal(
                    "more_than_there",
                    f"{item.told(quantity)} are more than there are {moving.where_told(answers.known(FROM_BIN), answers[FROM_PLATE])}: "
                    f"{item.told(have)}. Take fewer, or count the bin.",
                )
        return answers.having(COUNT, count)

    def proposal(self, ctx: Context, answers: Answers, prompt: Prompt) -> Decimal | None:
        if answers[FROM_BIN] is None:
            return None
        whole = sum(g.quantity for g in there(ctx, answers)) // ctx.unit(answers).quantity
        return Decimal(whole) if whole else None

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"How many {ctx.unit(answers).plural}?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        item, unit = ctx.item(answers), ctx.unit(answers)
        shown: dict[str, Any] = {"unit": unit.plural + (f" of {item.told(unit.quantity)}" if unit.quantity > 1 else "")}
        if answers[FROM_BIN]:
            shown["note"] = f"{item.told(sum(g.quantity for g in there(ctx, answers)))} there"
        return shown

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        return count_codes(ctx, question)


def count_codes(ctx: Context, question: Question) -> Codes:
    """Numbers, right and wrong."""
    if question.proposal:
        yield typed(f"all {question.proposal}", question.proposal)
        yield typed("one too many", str(int(question.proposal) + 1))
    yield typed("one", "1")
    yield typed("zero", "0")
    yield typed("a fraction", "0.333333")
    yield from any_bin(ctx)


FROM_PROMPTS: dict[Asks, PromptKind] = {
    Asks.FROM: FromKind(),
    Asks.GOODS: GoodsKind(),
    Asks.LOT_THERE: LotThereKind(),
    Asks.COUNT: CountKind(),
}
"""What is asked while goods are taken."""
