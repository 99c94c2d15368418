"""The kinds of prompt that moves and look-ups are composed of."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from decimal import Decimal
from typing import Any

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo
from mindful_crate.core.floor.slots import Doubt, Looked, Slots
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, OtherBin, Prompt
from mindful_crate.core.scanning.kinds import LISTED, Context, Kind, bin_place
from mindful_crate.core.scanning.question import Keys, Pick, Shape
from mindful_crate.core.scanning.reading import Read, Reading, told
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.moving import checks as moving
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.stamp import Stamp


def deviation(ctx: Context, code: str, shown: str | None, filled: Slots, words: str) -> Slots | Doubt:
    """Another bin than the one shown: never, after a warning, or with a reason, as the flow has it."""
    if shown is None or code == shown:
        return filled
    if ctx.other_bin is OtherBin.NEVER:
        raise Refusal("not_the_bin", f"That is bin `{code}`; this flow keeps to the bin shown: `{shown}`.")
    if ctx.other_bin is OtherBin.REASON:
        return Doubt("reason", f"`{code}` is not the bin shown, `{shown}`. Why is it taken?", filled)
    return Doubt("yes_no", f"`{code}` is not the bin shown, `{shown}`. {words}", filled)


def _stamp(ctx: Context) -> Stamp:
    """A stamp for asking rules within a dialogue: only the day matters to them."""
    return Stamp("", ctx.state.clock, ctx.today, ctx.person)


def base_count(ctx: Context, slots: Slots) -> int:
    """The count asked for in base units; 0 while there is none."""
    if slots.count is None or slots.item is None:
        return 0
    return receiving.whole_quantity(ctx.item(slots), ctx.unit(slots), slots.count)


def proposed_from(ctx: Context, slots: Slots) -> Trail | None:
    """Where the rules of the flow would take what is asked for; None when it proposes nothing."""
    if ctx.flow.takes_by is None or slots.item is None:
        return None
    count = base_count(ctx, slots) or ctx.unit(slots).quantity
    request = moving.request_to_take(ctx.state, ctx.flow, slots.item, count, _stamp(ctx), slots.lot or "")
    return moving.ask_where_from(ctx.state, ctx.rulebook, request)


def there(ctx: Context, slots: Slots) -> tuple[Goods, ...]:
    """What of the item may be taken at the source, of the lot if one is named."""
    assert slots.from_bin and slots.item
    goods = moving.goods_to_take(ctx.state, slots.from_bin, slots.from_plate, slots.item)[1]
    return tuple(g for g in goods if slots.lot is None or g.lot == slots.lot)


def take_count(ctx: Context, slots: Slots) -> int:
    """How many base units are taken at this source: what is asked for, what is there, what the rules allot it."""
    count = min(base_count(ctx, slots), sum(g.quantity for g in there(ctx, slots)))
    trail = proposed_from(ctx, slots)
    allotted = [a for a in trail.allocations if a.bin == slots.from_bin] if trail else []
    return min(count, sum(a.quantity for a in allotted)) if allotted else count


class FromKind(Kind):
    """Where is it taken from? A bin, or a plate when what is taken stands on one."""

    wants = "the bin or plate it is taken from"
    shape: Shape = "bin"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        return slots.task is None and slots.from_bin is None

    def given(self, ctx: Context, slots: Slots) -> Slots | None:
        carried = moving.carried_goods(ctx.state, ctx.person)
        return replace(slots, task=carried.number, item=carried.goods[0].item) if carried else None

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots | Doubt:
        filled = self._source(ctx, slots, reading)
        if slots.item is None:
            return filled
        there(ctx, filled)  # refuses when there is none
        trail = proposed_from(ctx, slots)
        return deviation(
            ctx, filled.from_bin or "", trail.bin if trail else None, filled, "Take it from here all the same?"
        )

    def _source(self, ctx: Context, slots: Slots, reading: Reading) -> Slots:
        if reading.kind is Read.PLATE:
            plate = moving.plate_to_take(ctx.state, PlateNo(reading.code))
            return replace(slots, from_plate=plate.number, from_bin=ctx.state.bin_of(plate.number))
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, slots, reading)
        code = BinCode(reading.code)
        if ctx.state.ground.site_of(code) != ctx.state.settings.site:
            raise Refusal("other_site", f"Bin `{code}` belongs to another site.")
        if not ctx.state.loose(code) and not ctx.state.standing(code):
            raise Refusal("bin_empty", f"Bin `{code}` is empty: there is nothing to take.")
        return replace(slots, from_bin=code)

    def asked(self, ctx: Context, slots: Slots) -> str:
        trail = proposed_from(ctx, slots)
        return f"bin `{trail.bin}`" if trail and trail.bin else self.wants

    def picks(self, ctx: Context, slots: Slots) -> Iterable[Pick]:
        if slots.item:
            for code in list(dict.fromkeys(x.bin for x in ctx.state.lines(slots.item)))[:LISTED]:
                count = ctx.state.quantity_in(code, slots.item)
                yield Pick(code, code, f"{bin_place(ctx, code)}: {ctx.item(slots).told(count)}")

    def title(self, ctx: Context, slots: Slots) -> str:
        return "Go to this bin and scan it" if slots.item else "Where is it taken from?"

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        trail = proposed_from(ctx, slots)
        if trail is None:
            return {"note": "Scan the bin, or the plate it stands on"}
        if trail.bin is None:
            return {"note": "No rule finds it. Choose a bin that has it."}
        first = trail.allocations[0]
        return {
            "expect": first.bin,
            "note": f"{bin_place(ctx, first.bin)}: take {ctx.item(slots).told(first.quantity)} there",
        }


class GoodsKind(Kind):
    """Which item is taken? Its barcode says the unit too; a GS1 code may say lot and count."""

    wants = "an item"
    shape: Shape = "carton"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        return slots.task is None and slots.item is None

    def given(self, ctx: Context, slots: Slots) -> Slots | None:
        return FromKind().given(ctx, slots)

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots:
        if reading.kind is Read.PLATE and slots.from_bin:
            plate = moving.plate_to_take(ctx.state, PlateNo(reading.code))
            if ctx.state.bin_of(plate.number) != slots.from_bin:
                raise Refusal(
                    "plate_elsewhere", f"Plate `{plate.number}` stands in `{ctx.state.bin_of(plate.number)}`."
                )
            return replace(slots, from_plate=plate.number)
        if reading.kind is not Read.ITEM or reading.item is None:
            raise self.wrong(ctx, slots, reading)
        filled = replace(slots, item=reading.item, unit=reading.unit, lot=reading.lot, count=reading.count)
        if slots.from_bin:
            goods = there(ctx, filled)
            if not goods:
                raise Refusal("lot_not_there", f"Lot `{reading.lot}` of `{reading.item}` is not in `{slots.from_bin}`.")
        return filled

    def picks(self, ctx: Context, slots: Slots) -> Iterable[Pick]:
        for item, count in _content(ctx, slots).items():
            yield Pick(item.code, item.name, f"{item.told(count)} there")

    def title(self, ctx: Context, slots: Slots) -> str:
        return "What do you take?" if slots.from_bin else "Which item is moved?"

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        if slots.from_bin is None:
            return {}
        where = f"plate {slots.from_plate}" if slots.from_plate else f"bin {slots.from_bin}"
        return {"note": f"out of {where}"}


def _content(ctx: Context, slots: Slots) -> dict[Item, int]:
    """Items at the source with their quantities."""
    found: dict[Item, int] = {}
    if slots.from_bin is None:
        return found
    loose = ctx.state.loose(slots.from_bin) if slots.from_plate is None else ()
    plates = [slots.from_plate] if slots.from_plate else [p.number for p in ctx.state.standing(slots.from_bin)]
    for goods in (*loose, *(g for n in plates for g in ctx.state.all_goods(n))):
        item = ctx.ground.items[goods.item]
        found[item] = found.get(item, 0) + goods.quantity
    return found


class LotThereKind(Kind):
    """Which lot is taken? Asked when the source holds several."""

    wants = "the lot"
    shape: Shape = "carton"
    keys: Keys = "text"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        if slots.task or slots.lot is not None or slots.item is None or slots.from_bin is None:
            return False
        return len({g.lot for g in there(ctx, slots)}) > 1

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots:
        lots = sorted({g.lot for g in there(ctx, slots)})
        lot = reading.lot if reading.lot is not None else reading.code
        if lot not in lots:
            raise Refusal(
                "lot_not_there", f"`{reading.code}` is no lot there; there are {', '.join(f'`{x}`' for x in lots)}."
            )
        return replace(slots, lot=lot)

    def picks(self, ctx: Context, slots: Slots) -> Iterable[Pick]:
        for goods in there(ctx, slots):
            told_ = ctx.item(slots).told(goods.quantity)
            expiry = f", expires {goods.expiry.isoformat()}" if goods.expiry else ""
            yield Pick(goods.lot, goods.lot or "no lot", told_ + expiry)

    def title(self, ctx: Context, slots: Slots) -> str:
        return "Which lot is taken?"


class CountKind(Kind):
    """How many are taken?"""

    wants = "a number"
    shape: Shape = "number"
    keys: Keys = "number"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        return slots.task is None and slots.count is None

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots:
        unit = ctx.unit(slots)
        if reading.kind is Read.ITEM and reading.item == slots.item and reading.unit != slots.unit:
            return replace(slots, unit=reading.unit)
        if reading.kind is not Read.NUMBER or reading.count is None:
            if reading.kind is Read.UNKNOWN:
                raise Refusal("no_number", f"`{reading.code}` is no number. Enter how many {unit.plural}.")
            raise Refusal("wrong_kind", f"That is {told(reading)}; enter how many {unit.plural}.")
        return self.confirmed(ctx, slots, reading.count)

    def confirmed(self, ctx: Context, slots: Slots, count: Decimal) -> Slots:
        item = ctx.item(slots)
        quantity = receiving.whole_quantity(item, ctx.unit(slots), count)
        if slots.from_bin:
            have = sum(g.quantity for g in there(ctx, slots))
            if quantity > have:
                raise Refusal(
                    "more_than_there",
                    f"{item.told(quantity)} are more than there are {moving.where_told(slots.from_bin, slots.from_plate)}: "
                    f"{item.told(have)}. Take fewer, or count the bin.",
                )
        return replace(slots, count=count)

    def proposal(self, ctx: Context, slots: Slots, prompt: Prompt) -> Decimal | None:
        if slots.from_bin is None:
            return None
        whole = sum(g.quantity for g in there(ctx, slots)) // ctx.unit(slots).quantity
        return Decimal(whole) if whole else None

    def title(self, ctx: Context, slots: Slots) -> str:
        return f"How many {ctx.unit(slots).plural}?"

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        item, unit = ctx.item(slots), ctx.unit(slots)
        shown: dict[str, Any] = {"unit": unit.plural + (f" of {item.told(unit.quantity)}" if unit.quantity > 1 else "")}
        if slots.from_bin:
            proposal = self.proposal(ctx, slots, prompt)
            shown["note"] = f"{item.told(sum(g.quantity for g in there(ctx, slots)))} there"
            shown["proposal"] = "" if proposal is None else str(proposal)
        return shown


class PartKind(Kind):
    """How many of the carried goods go into the next bin? Asked when the worker says that it is only a part."""

    wants = "a number"
    shape: Shape = "number"
    keys: Keys = "number"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        return slots.part == 0

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots:
        item = _item(ctx, slots)
        if reading.kind is not Read.NUMBER or reading.count is None:
            raise Refusal("no_number", f"Enter how many {item.base.plural} go into the next bin.")
        quantity = receiving.whole_quantity(item, item.base, reading.count)
        have = sum(g.quantity for g in ctx.task(slots).goods)
        if quantity > have:
            raise Refusal("not_carried", f"You carry {item.told(have)}; {item.told(quantity)} cannot be placed.")
        return replace(slots, part=Decimal(quantity))

    def title(self, ctx: Context, slots: Slots) -> str:
        return f"How many {_item(ctx, slots).base.plural} go into the next bin?"

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        item = _item(ctx, slots)
        return {"note": f"You carry {item.told(sum(g.quantity for g in ctx.task(slots).goods))}"}


def _last_bin(task: Task) -> BinCode:
    """Where the worker was last: the bin of the last share, else the one the goods were taken from."""
    return task.placed_in or task.from_bin


def _item(ctx: Context, slots: Slots) -> Item:
    return ctx.ground.items[ctx.task(slots).goods[0].item]


class PlatesKind(Kind):
    """Which plates are taken up? Scanning a bin when some are carried says where they go."""

    wants = "a plate"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        if slots.plate is not None or slots.bin is not None or slots.going:
            return False
        return not slots.tasks or ctx.flow.several

    def given(self, ctx: Context, slots: Slots) -> Slots | None:
        carried = moving.carried_plates(ctx.state, ctx.person)
        if slots.tasks or not carried:
            return None
        return replace(slots, tasks=carried, going=not ctx.flow.several)

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots | Doubt:
        if reading.kind is Read.BIN and slots.tasks:
            return ToKind().take(ctx, replace(slots, going=True), reading)
        if reading.kind is Read.LABEL:
            raise Refusal("unknown_plate", f"No license plate has the number `{reading.code}`.")
        if reading.kind is not Read.PLATE:
            raise self.wrong(ctx, slots, reading)
        return replace(slots, plate=moving.plate_to_take(ctx.state, PlateNo(reading.code)).number)

    def title(self, ctx: Context, slots: Slots) -> str:
        return "Scan the next plate, or the bin they go to" if slots.tasks else "Scan the plate to move"

    def asked(self, ctx: Context, slots: Slots) -> str:
        return "a plate, or the bin they go to" if slots.tasks else self.wants

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        return {"facts": _carried_facts(ctx, slots), "expect": _shown(ctx, slots) or "" if slots.tasks else ""}


def _carried_facts(ctx: Context, slots: Slots) -> tuple[str, ...]:
    plates = [ctx.state.tasks[n].plate for n in slots.tasks]
    return tuple(
        f"`{n}` {receiving.plate_text(ctx.state, ctx.state.plates[n]) or 'nothing on it'}" for n in plates if n
    )


def _shown(ctx: Context, slots: Slots) -> BinCode | None:
    """The bin shown: that of the goods or the one plate carried, or the one that all carried plates have."""
    if slots.task:
        return ctx.task(slots).to_bin
    bins = {ctx.state.tasks[n].to_bin for n in slots.tasks}
    return bins.pop() if len(bins) == 1 else None


class ToKind(Kind):
    """Where does it go? A bin, or a plate that stands in one."""

    wants = "the bin or plate it goes to"
    shape: Shape = "bin"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        return slots.bin is None

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots | Doubt:
        tasks = tuple(ctx.state.tasks[n] for n in ((slots.task,) if slots.task else slots.tasks))
        if reading.kind is Read.PLATE:
            own = next((t for t in slots.tasks if ctx.state.tasks[t].plate == reading.code), None)
            if own:
                return replace(slots, task=own)
            on: PlateNo | None = PlateNo(reading.code)
            code = ctx.state.bin_of(PlateNo(reading.code))
            if code is None:
                raise Refusal("plate_carried", f"Plate `{reading.code}` is being carried. Set it down first.")
        elif reading.kind is Read.BIN:
            on, code = None, BinCode(reading.code)
        else:
            raise self.wrong(ctx, slots, reading)
        moving.check_target(ctx.state, code, on, tasks)
        filled = replace(slots, bin=code, on=on)
        if tasks[0].goods:
            return self._goods(ctx, slots, tasks[0], filled, code)
        down = moving.judge_plates(ctx.state, tasks, code, on)
        if down:
            raise Refusal(f"bin_{down[0].value}", down[1] + self._instead(ctx, slots, code))
        return self._checked(ctx, slots, filled)

    def _goods(self, ctx: Context, slots: Slots, task: Task, filled: Slots, code: BinCode) -> Slots | Doubt:
        item = ctx.ground.items[task.goods[0].item]
        share = self._share(ctx, slots, task, code)
        if share is not None and filled.on is None:
            filled = replace(filled, part=Decimal(share))
        count = int(filled.part) if filled.part else sum(g.quantity for g in task.goods)
        down = moving.judge_goods(ctx.state, task, moving.portion(task.goods, count), code, filled.on)
        if down is None:
            return self._checked(ctx, slots, filled)
        most = moving.most_here(ctx.state, task, code) if filled.on is None and not slots.part else 0
        if 0 < most < count:
            says = f"`{code}` has room for {item.told(most)} of {item.told(count)}. Place those and the rest elsewhere?"
            return Doubt("yes_no", says, replace(filled, part=Decimal(most)))
        raise Refusal(f"bin_{down[0].value}", down[1] + self._instead(ctx, slots, code))

    def _share(self, ctx: Context, slots: Slots, task: Task, code: BinCode) -> int | None:
        """What the rules allot the bin shown, when that is not all of it."""
        if slots.part or code != task.to_bin:
            return None
        request = moving.request_to_place(
            ctx.state, ctx.flow, task.goods, _stamp(ctx), task=task, from_bin=_last_bin(task)
        )
        trail = moving.ask_where_to(ctx.state, ctx.rulebook, ctx.flow, request)
        if trail is None or trail.bin != code or trail.allocations[0].quantity >= sum(g.quantity for g in task.goods):
            return None
        return trail.allocations[0].quantity

    def _checked(self, ctx: Context, slots: Slots, filled: Slots) -> Slots | Doubt:
        shown = None if filled.on else _shown(ctx, slots)
        return deviation(ctx, filled.bin or "", shown, filled, "Place it here all the same?")

    def _instead(self, ctx: Context, slots: Slots, code: BinCode) -> str:
        shown = _shown(ctx, slots)
        return f" Take it to `{shown}`, or to another bin." if shown and shown != code else " Take it to another bin."

    def asked(self, ctx: Context, slots: Slots) -> str:
        shown = _shown(ctx, slots)
        return f"bin `{shown}`" if shown else self.wants

    def title(self, ctx: Context, slots: Slots) -> str:
        what = "it" if slots.task else "them" if len(slots.tasks) > 1 else "the plate"
        return (
            f"Take {what} to this bin and scan it"
            if _shown(ctx, slots)
            else f"Where does {'it' if what != 'them' else 'all that'} go?"
        )

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        shown = _shown(ctx, slots)
        facts: tuple[str, ...]
        if slots.task and ctx.task(slots).goods:
            task, item = ctx.task(slots), _item(ctx, slots)
            facts = (f"You carry {item.told(sum(g.quantity for g in task.goods))} of {item.name}",)
            if slots.part:
                facts = (*facts, f"into the next bin: {item.told(int(slots.part))}")
            share = self._share(ctx, slots, task, shown) if shown else None
        elif slots.task:
            plate = ctx.task(slots).plate
            facts, share = (f"Plate `{plate}`",), None
        else:
            facts, share = _carried_facts(ctx, slots), None
        if shown is None:
            return {"facts": facts, "note": "Scan a bin, or a plate that stands in one"}
        note = bin_place(ctx, shown) + (f": place {_item(ctx, slots).told(share)} there" if share else "")
        return {"facts": facts, "expect": shown, "note": note}


class LookKind(Kind):
    """What is looked up? An item, a bin or a plate; it may go on for ever."""

    wants = "an item, a bin or a plate"
    shape: Shape = "ticket"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        return True

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots:
        if reading.kind is Read.ITEM and reading.item:
            return Slots(looked=Looked("item", reading.item))
        if reading.kind is Read.BIN:
            return Slots(looked=Looked("bin", reading.code))
        if reading.kind is Read.PLATE:
            return Slots(looked=Looked("plate", reading.code))
        raise self.wrong(ctx, slots, reading)

    def title(self, ctx: Context, slots: Slots) -> str:
        if slots.looked is None:
            return "Scan an item, a bin or a plate"
        return {"item": self._item_title, "bin": self._bin_title, "plate": self._plate_title}[slots.looked.kind](
            ctx, slots
        )

    def _item_title(self, ctx: Context, slots: Slots) -> str:
        assert slots.looked
        return ctx.ground.items[ItemCode(slots.looked.code)].name

    def _bin_title(self, ctx: Context, slots: Slots) -> str:
        assert slots.looked
        return f"Bin {slots.looked.code}"

    def _plate_title(self, ctx: Context, slots: Slots) -> str:
        assert slots.looked
        return f"Plate {slots.looked.code}"

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        if slots.looked is None:
            return {}
        facts = {"item": item_facts, "bin": bin_facts, "plate": plate_facts}[slots.looked.kind](ctx, slots.looked.code)
        return {"facts": tuple(facts), "note": "Scan the next one to go on"}


def item_facts(ctx: Context, code: str) -> Iterable[str]:
    """What there is of an item, where, and how much of it is kept for somebody."""
    item = ctx.ground.items[ItemCode(code)]
    lines = [x for x in ctx.state.lines(item.code) if ctx.ground.site_of(x.bin) == ctx.state.settings.site]
    total, kept = sum(x.goods.quantity for x in lines), sum(ctx.state.reserved(x) for x in lines)
    yield f"`{item.code}` {item.told(total)} in stock" + (f", {item.told(kept)} reserved" if kept else "")
    for x in lines[:8]:
        lot = f", lot `{x.goods.lot}`" if x.goods.lot else ""
        expiry = f" to {x.goods.expiry.isoformat()}" if x.goods.expiry else ""
        status = "" if x.goods.status.value == "available" else f", {x.goods.status.value}"
        plate = f" on `{x.plate}`" if x.plate else ""
        yield f"`{x.bin}`{plate}: {item.told(x.goods.quantity)}{lot}{expiry}{status}"
    if len(lines) > 8:
        yield f"and {len(lines) - 8} more places"


def bin_facts(ctx: Context, code: str) -> Iterable[str]:
    """Where a bin is, what it may hold, what lies there and what is on its way."""
    bin_ = BinCode(code)
    each = ctx.ground.bins[bin_]
    yield f"{bin_place(ctx, bin_)}, {ctx.ground.bin_types[each.bin_type].name.lower()}"
    why = ctx.state.blocked(bin_)
    if why:
        yield f"blocked: {why}"
    for goods in ctx.state.loose(bin_)[:8]:
        item = ctx.ground.items[goods.item]
        yield f"{item.told(goods.quantity)} {item.name}, loose"
    for plate in ctx.state.standing(bin_)[:8]:
        text = "being built" if plate.building else receiving.plate_text(ctx.state, plate) or "nothing on it"
        yield f"`{plate.number}` {text}"
    if not ctx.state.loose(bin_) and not ctx.state.standing(bin_):
        yield "empty"
    coming = ctx.state.coming(bin_)
    if coming:
        yield f"on its way: {', '.join(f'`{t}`' for t in coming)}"


def plate_facts(ctx: Context, code: str) -> Iterable[str]:
    """Where a plate is, through all plates it stands on, and what is on it."""
    plate = ctx.state.plate(PlateNo(code))
    assert plate is not None
    where = ctx.state.bin_of(plate.number)
    if plate.carrier:
        yield f"carried by @{plate.carrier}"
    elif where:
        on = f"on `{plate.on}` " if plate.on else ""
        yield f"stands {on}in `{where}`, {bin_place(ctx, where)}"
    else:
        yield f"stands on `{plate.on}`, which is carried"
    yield ctx.ground.plate_kinds[plate.plate_kind].name + (", being built: not stock yet" if plate.building else "")
    for goods in (plate.goods or plate.lines)[:8]:
        item = ctx.ground.items[goods.item]
        yield f"{item.told(goods.quantity)} {item.name}" + (f", lot `{goods.lot}`" if goods.lot else "")
    for inner in ctx.state.plates_on(plate.number):
        yield f"`{inner}` stands on it"
    task = ctx.state.task_of(plate.number)
    if task and task.state.value != "done":
        yield f"task `{task.number}`" + (f" to `{task.to_bin}`" if task.to_bin else "")


MOVE_KINDS: dict[Asks, Kind] = {
    Asks.FROM: FromKind(),
    Asks.GOODS: GoodsKind(),
    Asks.LOT_THERE: LotThereKind(),
    Asks.COUNT: CountKind(),
    Asks.PART: PartKind(),
    Asks.PLATES: PlatesKind(),
    Asks.TO: ToKind(),
    Asks.LOOK: LookKind(),
}
