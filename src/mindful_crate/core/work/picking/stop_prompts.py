"""What is asked at each stop of a pick task: the bin, the item, the lot, how many, and the tote it goes into."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.goods import ItemUnit
from mindful_crate.core.catalog.ids import BinCode, PlateNo, UnitCode
from mindful_crate.core.floor.answers import Answers, Doubt
from mindful_crate.core.floor.tasks import Move
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, OtherBin, Prompt, Proposes
from mindful_crate.core.scanning.codes import any_bin, counts_about, empty_totes, item_code, plain, shown
from mindful_crate.core.scanning.kinds import (
    COUNT,
    ITEM,
    LOT,
    SERIALS,
    UNIT,
    Codes,
    Context,
    NumberKind,
    PromptKind,
    bin_place,
    deviation,
)
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading, told
from mindful_crate.core.work.picking import looking
from mindful_crate.core.work.picking.elsewhere import lying_there
from mindful_crate.core.work.picking.stops import (
    COUNTED,
    ELSEWHERE,
    INTO,
    SEEN,
    counted_on,
    counting,
    facts_of,
    item_of,
    loose_stop,
    much_of,
    piecewise,
    place_to_go,
    stands_there,
    stop,
    this,
)
from mindful_crate.core.work.receiving.checks import whole_quantity


class _OfAStop:
    """What every stop is asked counts among its questions before its task is known."""

    def counts(self, ctx: Context, answers: Answers) -> bool:
        """One of every stop."""
        return True


class PickAtKind(_OfAStop, PromptKind):
    """At which bin is it picked? The one shown; of what stands on a plate, the plate."""

    wants = "the bin that is shown"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        move = stop(ctx, answers)
        return move is not None and not answers[ELSEWHERE] and not stands_there(ctx, answers, move)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        move = this(stop(ctx, answers))
        code, plate = place_to_go(ctx, move)
        if reading.kind is Read.PLATE and reading.code == plate:
            return answers.having(SEEN, reading.code)
        if reading.kind is Read.BIN and reading.code == code:
            if plate is None:
                return answers.having(SEEN, reading.code)
            raise Refusal("scan_the_plate", f"That is the bin. Scan plate `{plate}` in it.")
        if reading.kind in (Read.BIN, Read.PLATE):
            return self._other(ctx, answers, reading, move)
        raise self.wrong(ctx, answers, reading)

    def _other(self, ctx: Context, answers: Answers, reading: Reading, move: Move) -> Answers | Doubt:
        """Another bin or plate than the one shown: it may be, where the flow lets her and the same goods lie there free."""
        plate = PlateNo(reading.code) if reading.kind is Read.PLATE else None
        name, code = ("plate", ctx.state.bin_of(plate)) if plate else ("bin", BinCode(reading.code))
        wrong = f"That is {name} `{reading.code}`; go to {self.asked(ctx, answers)}."
        if code is None or ctx.flow.purpose is not FlowPurpose.PICK or ctx.other_bin is OtherBin.NEVER:
            raise Refusal("other_bin", wrong)
        try:
            lying, free = lying_there(ctx.state, move, code, plate)
        except Refusal as refusal:
            raise Refusal("other_bin", f"{wrong} {refusal.problem.says}") from None
        if (lying.bin, lying.plate) == place_to_go(ctx, move):
            return answers.having(SEEN, reading.code)
        item = item_of(ctx, move)
        words = f"{item.told(min(free, move.goods[0].quantity))} of {item.name} may be taken there. Take it there?"
        return deviation(
            ctx, code, str(move.at), answers.having(ELSEWHERE, lying.plate or lying.bin), words, "Take it here"
        )

    def asked(self, ctx: Context, answers: Answers) -> str:
        move = stop(ctx, answers)
        if move is None:
            return self.wants
        code, plate = place_to_go(ctx, move)
        return f"plate `{plate}` in `{code}`" if plate else f"bin `{code}`"

    def title(self, ctx: Context, answers: Answers) -> str:
        move = this(stop(ctx, answers))
        code, plate = place_to_go(ctx, move)
        return f"Go to `{code}` and scan plate `{plate}`" if plate else f"Go to `{code}` and scan it"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move = this(stop(ctx, answers))
        code, plate = place_to_go(ctx, move)
        at, of = looking.stop_of(ctx.task(answers), move)
        return {
            "expect": plate or code,
            "note": f"Stop {at} of {of}: {bin_place(ctx, code)}",
            "facts": facts_of(ctx, move),
        }

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        move = stop(ctx, answers)
        others = (
            m
            for m in looking.takes(ctx.task(answers))
            if m is not move and m.at and m.at != (move.at if move else None)
        )
        for other in islice(others, 1):
            yield plain(f"bin {other.at}, a later stop", str(other.at))
        if move is not None and move.goods:
            lies = (x.plate or x.bin for x in ctx.state.lines(move.goods[0].item) if x.bin != move.at)
            for code in islice(lies, 1):
                yield plain(f"{code}, where the same lies", code)
        yield from any_bin(ctx)


class PickItemKind(_OfAStop, PromptKind):
    """Which item is it? The one shown, and no other; its barcode says the unit it is counted in."""

    wants = "the item that is shown"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        move = loose_stop(ctx, answers)
        return move is not None and answers[ITEM] != item_of(ctx, move).code

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        move = this(stop(ctx, answers))
        item = item_of(ctx, move)
        if reading.kind is not Read.ITEM or reading.item is None:
            raise self.wrong(ctx, answers, reading)
        if reading.item != item.code:
            other = ctx.ground.items[reading.item]
            raise Refusal(
                "other_item", f"That is `{other.code}` {other.name}; `{item.code}` {item.name} is picked here."
            )
        unit = item.unit(reading.unit) if reading.unit else item.base
        if unit.quantity > move.goods[0].quantity:
            says = f"That is a {unit.name} of {item.told(unit.quantity)}, and {item.told(move.goods[0].quantity)} are wanted. Scan a single one."
            raise Refusal("more_than_wanted", says)
        answers = ctx.about(answers, reading).having(UNIT, UnitCode(unit.code))
        if piecewise(ctx):
            answers = counted_on(ctx, answers, move, whole_quantity(item, unit, reading.count or Decimal(1))).having(
                UNIT, item.base.code
            )
        if reading.lot:
            _check_lot(move, reading.lot)
            answers = answers.having(LOT, reading.lot)
        if reading.serial and item.numbered:
            answers = answers.having(SERIALS, (reading.serial,))
        return answers

    def asked(self, ctx: Context, answers: Answers) -> str:
        move = loose_stop(ctx, answers)
        return f"`{item_of(ctx, move).code}` {item_of(ctx, move).name}" if move else self.wants

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        if (move := loose_stop(ctx, answers)) is not None:
            item = item_of(ctx, move)
            yield Pick(item.code, item.name, item.told(move.goods[0].quantity))

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"Scan {self.asked(ctx, answers)}"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move = this(stop(ctx, answers))
        item = item_of(ctx, move)
        return {"facts": facts_of(ctx, move), "note": f"in {move.at}", "picture": item.picture}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        move = this(stop(ctx, answers))
        item = item_of(ctx, move)
        for unit in item.units[:2]:
            yield from item_code(ctx, item, unit.code)
        others = (i for i in ctx.ground.items.values() if i.code != item.code)
        for other in islice(others, 1):
            yield from item_code(ctx, other, other.base.code)
        yield from any_bin(ctx)


def _check_lot(move: Move, lot: str) -> None:
    wanted = move.goods[0].lot
    if wanted and lot != wanted:
        raise Refusal("other_lot", f"That is lot `{lot}`; lot `{wanted}` is picked here, which leaves first.")


class PickLotKind(PromptKind):
    """Which lot is it? The one that leaves first, and no other."""

    wants = "the lot"
    shape: Shape = "carton"
    keys: Keys = "text"
    reads = Read.LOT

    def needed(self, ctx: Context, answers: Answers) -> bool:
        move = loose_stop(ctx, answers)
        return move is not None and bool(move.goods[0].lot) and answers[LOT] != move.goods[0].lot

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        move = this(stop(ctx, answers))
        lot = reading.lot if reading.lot is not None else reading.code
        if reading.lot is None and reading.kind not in (Read.UNKNOWN, Read.LOT):
            raise Refusal("wrong_kind", f"That is {told(reading)}; scan or type the lot, `{move.goods[0].lot}`.")
        _check_lot(move, lot)
        return answers.having(LOT, lot)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which lot is it?"

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        move = loose_stop(ctx, answers)
        if move is not None and move.goods[0].lot:
            goods = move.goods[0]
            yield Pick(goods.lot, goods.lot, f"expires {goods.expiry.isoformat()}" if goods.expiry else "")

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move = this(stop(ctx, answers))
        return {"note": f"Lot {move.goods[0].lot} leaves first"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # most items have none

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        move = this(stop(ctx, answers))
        yield plain(f"lot {move.goods[0].lot}", move.goods[0].lot)
        others = {x.goods.lot for x in ctx.state.lines(move.goods[0].item)} - {move.goods[0].lot, ""}
        for lot in sorted(others)[:2]:
            yield plain(f"lot {lot}, which leaves later", lot)
        yield from any_bin(ctx)


class PickCountKind(_OfAStop, NumberKind):
    """How many are picked? All that is wanted at this stop is proposed; fewer leave the rest at the same stop, more are refused."""

    def needed(self, ctx: Context, answers: Answers) -> bool:
        move = loose_stop(ctx, answers)
        left = self._left(answers, move) if move else 0
        return left > 0 and not 0 < (answers[COUNT] or 0) <= left

    @staticmethod
    def _left(answers: Answers, move: Move) -> int:
        """How much is wanted besides the pieces that were scanned."""
        return max(0, move.goods[0].quantity - int(answers[COUNTED] or 0))

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        move = loose_stop(ctx, answers)
        return (move is not None and counting(ctx, answers, move)) or super().must_scan(ctx, answers, prompt)

    def _unit(self, ctx: Context, answers: Answers, move: Move) -> ItemUnit:
        item = item_of(ctx, move)
        return item.unit(answers.known(UNIT)) if answers[UNIT] else item.base

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        move = this(stop(ctx, answers))
        item, unit = item_of(ctx, move), self._unit(ctx, answers, move)
        if counting(ctx, answers, move):
            if reading.kind is not Read.ITEM or reading.item != item.code:
                raise self.wrong(ctx, answers, reading)
            each = item.unit(reading.unit) if reading.unit else item.base
            return counted_on(ctx, answers, move, whole_quantity(item, each, reading.count or Decimal(1)))
        if reading.kind is Read.ITEM and reading.item == item.code:
            other = item.unit(reading.unit) if reading.unit else item.base
            if other.quantity > self._left(answers, move):
                raise Refusal(
                    "more_than_wanted",
                    f"A {other.name} is more than the {item.told(self._left(answers, move))} wanted.",
                )
            return answers.having(UNIT, UnitCode(other.code)).having(ITEM, item.code)
        quantity = whole_quantity(item, unit, self.number(reading, unit.plural))
        if quantity > self._left(answers, move):
            raise Refusal(
                "more_than_wanted", f"{item.told(self._left(answers, move))} of {item.name} are wanted here, no more."
            )
        return answers.having(COUNT, Decimal(quantity))

    def proposal(self, ctx: Context, answers: Answers, prompt: Prompt) -> Decimal | None:
        move = loose_stop(ctx, answers)
        if move is None or prompt.proposes is Proposes.BLANK or counting(ctx, answers, move):
            return None
        whole = self._left(answers, move) // self._unit(ctx, answers, move).quantity
        if prompt.proposes is Proposes.ONE:
            whole = min(1, whole)
        return Decimal(whole) if whole else None

    def confirmed(self, ctx: Context, answers: Answers, count: Decimal) -> Answers:
        move = this(stop(ctx, answers))
        return answers.having(COUNT, count * self._unit(ctx, answers, move).quantity)

    def asked(self, ctx: Context, answers: Answers) -> str:
        move = loose_stop(ctx, answers)
        return f"the next piece of {item_of(ctx, move).name}" if move and counting(ctx, answers, move) else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        move = this(stop(ctx, answers))
        if counting(ctx, answers, move):
            return f"Scan the next piece: {int(answers[COUNTED] or 0)} of {move.goods[0].quantity}"
        more = " more" if answers[COUNTED] else ""
        return f"How many {self._unit(ctx, answers, move).plural}{more}?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move = this(stop(ctx, answers))
        item, unit = item_of(ctx, move), self._unit(ctx, answers, move)
        note = f"{item.told(self._left(answers, move))} wanted from {move.at}"
        if counting(ctx, answers, move):
            return {"note": note, "keys": "scan"}
        return {"note": note, "unit": unit.plural + (f" of {item.told(unit.quantity)}" if unit.quantity > 1 else "")}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        move = this(stop(ctx, answers))
        item = item_of(ctx, move)
        yield from counts_about(question)
        for unit in item.units[:2]:
            yield from item_code(ctx, item, unit.code)
        yield from any_bin(ctx)


class PickIntoKind(PromptKind):
    """Into which of several totes does it go? The order's own, and no other."""

    wants = "the tote that is shown"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        move = loose_stop(ctx, answers)
        tote = self._tote(ctx, answers, move) if move else None
        return tote is not None and answers[INTO] != tote

    @staticmethod
    def _tote(ctx: Context, answers: Answers, move: Move) -> PlateNo | None:
        task = ctx.task(answers)
        return looking.tote_of(task, looking.order_of(move)) if len(task.going.totes) > 1 else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        move, task = this(stop(ctx, answers)), ctx.task(answers)
        tote, order = self._tote(ctx, answers, move), looking.order_of(move)
        if reading.code.upper() == tote:
            return answers.having(INTO, tote)
        whose = next((t for t in task.going.totes if t.plate == reading.code.upper()), None)
        if whose is not None:
            raise Refusal("other_tote", f"That is the tote of `{whose.order}`; this goes into `{tote}` of `{order}`.")
        if reading.kind in (Read.LABEL, Read.PLATE):
            raise Refusal(
                "other_tote", f"`{reading.code}` is no tote of this task; this goes into `{tote}` of `{order}`."
            )
        raise self.wrong(ctx, answers, reading)

    def asked(self, ctx: Context, answers: Answers) -> str:
        move = stop(ctx, answers)
        return f"tote `{self._tote(ctx, answers, move)}`" if move else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        move = this(stop(ctx, answers))
        return f"Put it into tote `{self._tote(ctx, answers, move)}` and scan that"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move, task = this(stop(ctx, answers)), ctx.task(answers)
        tote = self._tote(ctx, answers, move)
        place = next((n for n, t in enumerate(task.going.totes, start=1) if t.plate == tote), 0)
        item = item_of(ctx, move)
        return {
            "expect": str(tote),
            "note": f"Tote {place} of {len(task.going.totes)}, for {looking.order_of(move)}",
            "facts": (f"{item.told(much_of(answers, move))} of {item.name}",),
        }

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for each in ctx.task(answers).going.totes[:4]:
            yield plain(f"tote {each.plate}, of {each.order}", each.plate)
        yield from empty_totes(ctx, 1)
        yield from any_bin(ctx)


STOP_PROMPTS: dict[Asks, PromptKind] = {
    Asks.PICK_AT: PickAtKind(),
    Asks.PICK_ITEM: PickItemKind(),
    Asks.PICK_LOT: PickLotKind(),
    Asks.PICK_COUNT: PickCountKind(),
    Asks.PICK_INTO: PickIntoKind(),
}
"""What is asked at a stop."""
