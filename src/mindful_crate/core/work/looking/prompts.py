"""What is looked up: an item, a bin or a plate."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from itertools import islice
from typing import Any, NamedTuple

from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo
from mindful_crate.core.floor.answers import Answers, Key
from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.rulebook.flows import Prompt
from mindful_crate.core.scanning.codes import filled_bins, here, item_code, plain, stored_plates, unknown
from mindful_crate.core.scanning.kinds import Codes, Context, PromptKind, bin_place
from mindful_crate.core.scanning.question import Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.numbered import spot_told
from mindful_crate.core.work.receiving import checks as receiving


class Looked(NamedTuple):
    """What is looked up."""

    kind: str
    """Item, bin, plate or serial number."""
    code: str

    @classmethod
    def read(cls, kept: str) -> Looked:
        """As it is kept: ``item ROPE-12``."""
        return cls(*kept.split(" ", 1))


LOOKED: Key[Looked | None] = Key("looked", None, Looked.read, lambda looked: " ".join(looked or ()))


class LookKind(PromptKind):
    """What is looked up? An item, a bin, a plate or a serial number; it may go on for ever."""

    wants = "an item, a bin, a plate or a serial number"
    shape: Shape = "ticket"
    reads = Read.SERIAL

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return True

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.serial and self._items(ctx, reading):
            return Answers().having(LOOKED, Looked("serial", reading.serial))
        if reading.kind is Read.SERIAL:
            raise self.wrong(ctx, answers, replace(reading, kind=Read.UNKNOWN))
        if reading.kind is Read.ITEM and reading.item:
            return Answers().having(LOOKED, Looked("item", reading.item))
        if reading.kind is Read.BIN:
            return Answers().having(LOOKED, Looked("bin", reading.code))
        if reading.kind is Read.PLATE:
            return Answers().having(LOOKED, Looked("plate", reading.code))
        raise self.wrong(ctx, answers, reading)

    @staticmethod
    def _items(ctx: Context, reading: Reading) -> list[ItemCode]:
        """The items of which a piece bears the number; that of the code, where it says one."""
        items = ctx.state.serials.items_with(reading.serial or "")
        return [i for i in items if reading.item in (None, i)]

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return f"serial number `{reading.serial}`" if reading.serial and self._items(ctx, reading) else ""

    def title(self, ctx: Context, answers: Answers) -> str:
        looked = answers[LOOKED]
        if looked is None:
            return "Scan an item, a bin, a plate or a serial number"
        if looked.kind == "serial":
            return f"Serial number {looked.code}"
        if looked.kind == "item":
            return ctx.ground.items[ItemCode(looked.code)].name
        return f"{looked.kind.capitalize()} {looked.code}"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        looked = answers[LOOKED]
        if looked is None:
            return {}
        facts = {"item": item_facts, "bin": bin_facts, "plate": plate_facts, "serial": serial_facts}[looked.kind](
            ctx, looked.code
        )
        item = ctx.ground.items.get(ItemCode(looked.code)) if looked.kind == "item" else None
        picture = item.picture if item else ""
        return {"facts": tuple(facts), "note": "Scan the next one to go on", "picture": picture}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for item in islice((i for i in ctx.ground.items.values() if here(ctx, i)), 2):
            yield from item_code(ctx, item, item.base.code)
        for code in filled_bins(ctx, 2):
            yield plain(f"bin {code}", code)
        for plate in stored_plates(ctx, 1):
            yield plain(f"plate {plate}", plate)
        for serial in ctx.ground.serials.serial[:1]:
            yield plain(f"serial number {serial}", serial)
        for order in islice((o.number for o in ctx.state.all_orders() if o.site == ctx.state.settings.site), 1):
            yield plain(f"order {order}", order)
        yield from unknown()


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


def serial_facts(ctx: Context, serial: str) -> Iterable[str]:
    """Every piece that bears a number: of which item, where it is, and as what."""
    for item in ctx.state.serials.items_with(serial):
        yield f"`{item}` {ctx.ground.items[item].name}"
        lies = ctx.state.serials.where(item, serial)
        if lies is None or lies.spot is None:
            on = ctx.state.plates.lines.noted.get((item, serial))
            yield f"noted on `{on}`, not stock yet" if on else "not here any more"
            continue
        bin_ = ctx.state.bin_of(PlateNo(lies.spot.code)) if lies.spot.holder is Holder.PLATE else None
        yield spot_told(lies.spot) + (f", in `{bin_}`" if bin_ else "")
        arrived = f", arrived {lies.goods.arrived.isoformat()}" if lies.goods.arrived else ""
        yield lies.goods.status.value + arrived


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
