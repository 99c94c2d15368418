"""What is asked while picking: which task, its totes, then stop by stop the bin, the item, the lot, how many, the tote; and the station."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, TaskNo, UnitCode, WaveNo
from mindful_crate.core.floor.answers import TASK, Answers, Doubt, flag, number, text, texts
from mindful_crate.core.floor.tasks import Do, Move, Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Check, Listed, Prompt, Proposes
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.codes import any_bin, item_code, plain, shown, stored_plates, typed, unknown
from mindful_crate.core.scanning.kinds import (
    BIN,
    COUNT,
    ITEM,
    LISTED,
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
from mindful_crate.core.work.picking import doing, looking
from mindful_crate.core.work.receiving.checks import goods_text, whole_quantity

SEEN = text("pick_seen", str)
"""The bin or plate that was scanned at this stop."""
WAS_AT = text("pick_was_at", str)
"""The bin or plate of the stop before: the next there need not be scanned again."""
COUNTED = number("pieces_picked")
"""Pieces of this stop that were scanned one by one, in base units."""
NEW_TOTE = text("new_tote", PlateNo)
"""The tote that was scanned for the next order."""
INTO = text("pick_into", str)
"""The tote that was scanned for this stop."""
LATER = texts("later", str)
"""Takes of the task that were passed over."""
LEAVING = flag("leaving")
"""What is in hands is set down now, although there is more to fetch."""
SHORT = flag("short")
"""What is left of this stop is not there."""


def stop(ctx: Context, answers: Answers) -> Move | None:
    """The take that is asked about now; None: none is, or what is in hands is set down."""
    if answers[TASK] is None or answers[LEAVING]:
        return None
    return looking.next_take(ctx.task(answers), answers[LATER])


def _at(ctx: Context, answers: Answers) -> Move | None:
    """The take that is asked about, unless it is short."""
    return None if answers[SHORT] else stop(ctx, answers)


def fresh(answers: Answers) -> Answers:
    """The answers at the next stop of the same task."""
    return answers.only(TASK).having(LATER, answers[LATER]).having(WAS_AT, answers[SEEN] or answers[WAS_AT])


def facts_of(ctx: Context, move: Move) -> tuple[str, ...]:
    """What a stop is about: the goods, and for whom."""
    orders = list(dict.fromkeys(s.line.order for s in move.serves))
    who = []
    for each in orders[:3]:
        order = ctx.state.order(each)
        partner = ctx.ground.partners.get(order.partner) if order else None
        who.append(f"`{each}`" + (f" {partner.name}" if partner and len(orders) == 1 else ""))
    more = f" and {len(orders) - 3} more" if len(orders) > 3 else ""
    what = goods_text(ctx.state, looking.goods_of(ctx.state, move))
    lots = ", ".join(f"lot `{g.lot}`" for g in move.goods if g.lot)
    return tuple(x for x in (what, lots, f"for {', '.join(who)}{more}" if who else "") if x)


class PickedKind(PromptKind):
    """Which task is picked? By its number, its wave, an order, or goods at hand; what is begun is gone on with."""

    wants = "a pick list, a task, a wave, or an order"
    shape: Shape = "ticket"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TASK] is None

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        begun = looking.picked_by(ctx.state, ctx.person)
        return answers.having(TASK, begun.number) if begun else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        given = _given(ctx)
        number = self._number(ctx, answers, reading)
        begun = looking.picked_by(ctx.state, ctx.person)
        if begun is not None and begun.number != number:  # on another handset, since this one began
            fetched = looking.in_hand(begun) and not looking.takes(begun)
            what = "was fetched and not set down yet" if fetched else "is begun"
            says = f"Your task `{begun.number}`, {looking.whom(begun)}, {what}. Finish it right here first?"
            return Doubt("yes_no", says, answers.having(TASK, begun.number), f"Go on with {begun.number}")
        task = looking.task_to_pick(ctx.state, number, ctx.crews, ctx.person)
        if given is not None and task.number != given:
            raise Refusal("not_the_next", f"`{task.number}` is not the next: that is `{given}`.")
        return answers.having(TASK, task.number)

    def _number(self, ctx: Context, answers: Answers, reading: Reading) -> TaskNo:
        if reading.kind is Read.TASK:
            return TaskNo(reading.code)
        if reading.kind is Read.WAVE:
            wave = ctx.state.waves[WaveNo(reading.code)]
            if wave.cancelled:
                raise Refusal("wave_cancelled", f"Wave `{wave.number}` was cancelled: {wave.cancelled}.")
            return self._first(ctx, wave.tasks, f"wave `{wave.number}`")
        if reading.kind is Read.ORDER:
            order = OrderNo(reading.code)
            waves = ctx.state.waves.of_order(order)
            mine = [n for w in waves for n in w.tasks if order in ctx.state.tasks[n].plan.orders]
            return self._first(ctx, mine, f"`{order}`")
        if reading.kind is Read.ITEM and reading.item:
            task = ctx.state.first_loose(ctx.takers, Need.PICK, reading.item)
            if task is None:
                name = ctx.ground.items[reading.item].name
                raise Refusal("no_task", f"No task for you picks `{reading.item}` {name}.")
            return task.number
        if reading.kind is Read.PLATE and (task := ctx.state.task_of(PlateNo(reading.code))) is not None:
            return task.number
        raise self.wrong(ctx, answers, reading)

    def _first(self, ctx: Context, tasks: Iterable[TaskNo], what: str) -> TaskNo:
        """The first of these tasks that this person may take; refused with why none may be."""
        why: Refusal | None = None
        for each in tasks:
            try:
                return looking.task_to_pick(ctx.state, each, ctx.crews, ctx.person).number
            except Refusal as refusal:
                # what is done says least: that somebody has the rest says more
                if why is None or why.problem.code == "task_done":
                    why = refusal
        raise why or Refusal("no_task", f"Nothing of {what} is to be picked: no task was made of it.")

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        given = _given(ctx)
        tasks = ctx.state.tasks
        if given is not None:
            numbers = [given]
        elif ctx.flow.listed is Listed.BINS:
            numbers = tasks.on_the_walk(ctx.takers, Need.PICK, LISTED)
        else:
            numbers = tasks.open_numbers(ctx.takers, Need.PICK, LISTED)
        for each in numbers:
            task = tasks[each]
            yield Pick(each, f"{each} · {looking.told(ctx.state, task).replace('`', '')}", f"first in {task.from_bin}")

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # before the first stop

    def title(self, ctx: Context, answers: Answers) -> str:
        given = _given(ctx)
        return f"Next is `{given}`" if given else "Scan what to pick"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        waits = ctx.state.open_count(ctx.takers, Need.PICK)
        note = (
            "Nothing waits to be picked by you."
            if not waits
            else f"{waits} wait to be picked"
            if waits > 1
            else "1 waits to be picked"
        )
        given = _given(ctx)
        if given is None:
            return {"note": note}
        task = ctx.state.tasks[given]
        move = looking.next_take(task)
        return {
            "expect": given,
            "note": note,
            "facts": (looking.told(ctx.state, task), *(facts_of(ctx, move) if move else ())),
        }

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        numbers = ctx.state.tasks.open_numbers(ctx.takers, Need.PICK, 3)
        for each in numbers:
            yield plain(f"pick list {each}", each)
        for each in numbers[:1]:
            task = ctx.state.tasks[each]
            yield plain(f"order {task.plan.orders[0]}", task.plan.orders[0])
            for wave in ctx.state.waves.of_order(task.plan.orders[0])[:1]:
                yield plain(f"wave {wave.number}", wave.number)
        others = (t for t in ctx.state.tasks.values() if t.need is Need.PICK and t.number not in numbers)
        for task in islice(others, 2):
            yield plain(f"pick list {task.number}, {task.state.value}", task.number)
        yield from any_bin(ctx)
        yield from unknown()


def _given(ctx: Context) -> TaskNo | None:
    """The task that is next, where a flow gives one after another; the next on the walk from where the last was begun."""
    if ctx.flow.listed is not Listed.GIVEN:
        return None
    return ctx.state.tasks.next_on_the_walk(ctx.takers, Need.PICK, 0)


class _OfAStop:
    """What every stop is asked counts among its questions before its task is known."""

    def counts(self, ctx: Context, answers: Answers) -> bool:
        """One of every stop."""
        return True


class ToteKind(PromptKind):
    """Which tote do an order's goods go into? Asked for each order of the task before anything is fetched."""

    wants = "the label of an empty tote"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return (
            answers[TASK] is not None
            and not answers[SHORT]
            and not answers[LEAVING]
            and bool(self._lacking(ctx, answers))
        )

    @staticmethod
    def _lacking(ctx: Context, answers: Answers) -> list[OrderNo]:
        lacking = looking.without_tote(ctx.task(answers))
        return lacking[1:] if answers[NEW_TOTE] else lacking

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind not in (Read.LABEL, Read.PLATE, Read.UNKNOWN):
            raise self.wrong(ctx, answers, reading)
        tote = PlateNo(reading.code.upper())
        doing.check_tote(ctx.state, ctx.task(answers), self._lacking(ctx, answers)[0], tote)
        return answers.having(NEW_TOTE, tote)

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"Scan an empty tote for `{self._lacking(ctx, answers)[0]}`"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        task, lacking = ctx.task(answers), self._lacking(ctx, answers)
        orders = task.plan.orders
        note = f"Tote {len(orders) - len(lacking) + 1} of {len(orders)}" if len(orders) > 1 else ""
        return {"note": note, "facts": (looking.told(ctx.state, task),)}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # before the first stop

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from free_labels(ctx, 2)
        for each in ctx.task(answers).going.totes[-1:]:
            yield plain(f"tote {each.plate}, of {each.order}", each.plate)
        for plate in stored_plates(ctx, 1):
            yield plain(f"plate {plate}, stored", plate)
        yield from any_bin(ctx)


def free_labels(ctx: Context, count: int) -> Codes:
    """Labels of empty totes: numbers that nothing bears yet."""
    series = ctx.ground.series.get("plate")
    if series is None:
        return
    used = {t.plate for n in ctx.state.tasks.all_carried() for t in ctx.state.tasks[n].going.totes}
    found, n = 0, 900_001
    while found < count:
        label = PlateNo(f"{series.rehearsal_prefix}{n}")
        if label not in used and not ctx.state.has_plate(label):
            yield plain(f"an empty tote, {label}", label)
            found += 1
        n += 1


def place_to_go(ctx: Context, move: Move) -> tuple[BinCode, PlateNo | None]:
    """The bin of a stop, and the plate in it that is to be scanned."""
    code = (ctx.state.bin_of(move.plate) if move.plate else None) or move.at
    assert code is not None
    return code, move.plate


def stands_there(ctx: Context, answers: Answers, move: Move) -> bool:
    """Was the bin or plate of a stop scanned, at it or at the one just before?"""
    code, plate = place_to_go(ctx, move)
    return answers[SEEN] is not None or (bool(move.goods) and answers[WAS_AT] == (plate or code))


class PickAtKind(_OfAStop, PromptKind):
    """At which bin is it picked? The one shown; of what stands on a plate, the plate."""

    wants = "the bin that is shown"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        move = _at(ctx, answers)
        return move is not None and not stands_there(ctx, answers, move)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        move = _at(ctx, answers)
        assert move is not None
        code, plate = place_to_go(ctx, move)
        if reading.kind is Read.PLATE and reading.code == plate:
            return answers.having(SEEN, reading.code)
        if reading.kind is Read.BIN and reading.code == code:
            if plate is None:
                return answers.having(SEEN, reading.code)
            raise Refusal("scan_the_plate", f"That is the bin. Scan plate `{plate}` in it.")
        if reading.kind in (Read.BIN, Read.PLATE):
            name = "bin" if reading.kind is Read.BIN else "plate"
            raise Refusal("other_bin", f"That is {name} `{reading.code}`; go to {self.asked(ctx, answers)}.")
        raise self.wrong(ctx, answers, reading)

    def asked(self, ctx: Context, answers: Answers) -> str:
        move = _at(ctx, answers)
        if move is None:
            return self.wants
        code, plate = place_to_go(ctx, move)
        return f"plate `{plate}` in `{code}`" if plate else f"bin `{code}`"

    def title(self, ctx: Context, answers: Answers) -> str:
        move = _at(ctx, answers)
        assert move is not None
        code, plate = place_to_go(ctx, move)
        return f"Go to `{code}` and scan plate `{plate}`" if plate else f"Go to `{code}` and scan it"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move = _at(ctx, answers)
        assert move is not None
        code, plate = place_to_go(ctx, move)
        at, of = looking.stop_of(ctx.task(answers), move)
        return {
            "expect": plate or code,
            "note": f"Stop {at} of {of}: {bin_place(ctx, code)}",
            "facts": facts_of(ctx, move),
        }

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        move = _at(ctx, answers)
        others = (
            m
            for m in looking.takes(ctx.task(answers))
            if m is not move and m.at and m.at != (move.at if move else None)
        )
        for other in islice(others, 1):
            yield plain(f"bin {other.at}, a later stop", str(other.at))
        yield from any_bin(ctx)


def item_of(ctx: Context, move: Move) -> Item:
    """The item of a take of loose goods."""
    return ctx.ground.items[move.goods[0].item]


def piecewise(ctx: Context) -> int:
    """So many pieces of a stop are scanned one by one; 0: none, also where the item need not be scanned."""
    item = next((p for p in ctx.machine.used(ctx.flow) if p.asks is Asks.PICK_ITEM), None)
    count = next((p for p in ctx.machine.used(ctx.flow) if p.asks is Asks.PICK_COUNT), None)
    return count.pieces if item and count and item.check is Check.SCAN else 0


def counting(ctx: Context, answers: Answers, move: Move) -> bool:
    """Are more pieces to be scanned one by one?"""
    upto = min(piecewise(ctx), move.goods[0].quantity)
    return int(answers[COUNTED] or 0) < upto


def counted_on(ctx: Context, answers: Answers, move: Move, quantity: int) -> Answers:
    """So many more are scanned; a barcode that says more than is still to be picked is refused, never cut."""
    item, scanned = item_of(ctx, move), int(answers[COUNTED] or 0)
    left = move.goods[0].quantity - scanned
    if quantity > left:
        says = f"That counts {item.told(quantity)}, and {item.told(left)} are still wanted. Scan single ones."
        raise Refusal("more_than_counted", says)
    return answers.having(COUNTED, Decimal(scanned + quantity))


class PickItemKind(_OfAStop, PromptKind):
    """Which item is it? The one shown, and no other; its barcode says the unit it is counted in."""

    wants = "the item that is shown"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        move = _at(ctx, answers)
        return move is not None and bool(move.goods) and answers[ITEM] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        move = _at(ctx, answers)
        assert move is not None
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
        answers = answers.having(ITEM, item.code).having(UNIT, UnitCode(unit.code))
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
        move = _at(ctx, answers)
        return f"`{item_of(ctx, move).code}` {item_of(ctx, move).name}" if move and move.goods else self.wants

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        move = _at(ctx, answers)
        if move is not None and move.goods:
            item = item_of(ctx, move)
            yield Pick(item.code, item.name, item.told(move.goods[0].quantity))

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"Scan {self.asked(ctx, answers)}"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move = _at(ctx, answers)
        assert move is not None
        item = item_of(ctx, move)
        return {"facts": facts_of(ctx, move), "note": f"in {move.at}", "picture": item.picture}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        move = _at(ctx, answers)
        assert move is not None
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
        move = _at(ctx, answers)
        return move is not None and bool(move.goods) and bool(move.goods[0].lot) and answers[LOT] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        move = _at(ctx, answers)
        assert move is not None
        lot = reading.lot if reading.lot is not None else reading.code
        if reading.lot is None and reading.kind not in (Read.UNKNOWN, Read.LOT):
            raise Refusal("wrong_kind", f"That is {told(reading)}; scan or type the lot, `{move.goods[0].lot}`.")
        _check_lot(move, lot)
        return answers.having(LOT, lot)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which lot is it?"

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        move = _at(ctx, answers)
        if move is not None and move.goods and move.goods[0].lot:
            goods = move.goods[0]
            yield Pick(goods.lot, goods.lot, f"expires {goods.expiry.isoformat()}" if goods.expiry else "")

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move = _at(ctx, answers)
        assert move is not None
        return {"note": f"Lot {move.goods[0].lot} leaves first"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # most items have none

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        move = _at(ctx, answers)
        assert move is not None
        yield plain(f"lot {move.goods[0].lot}", move.goods[0].lot)
        others = {x.goods.lot for x in ctx.state.lines(move.goods[0].item)} - {move.goods[0].lot, ""}
        for lot in sorted(others)[:2]:
            yield plain(f"lot {lot}, which leaves later", lot)
        yield from any_bin(ctx)


class PickCountKind(_OfAStop, NumberKind):
    """How many are picked? All that is wanted at this stop is proposed; fewer leave the rest at the same stop, more are refused."""

    def needed(self, ctx: Context, answers: Answers) -> bool:
        move = _at(ctx, answers)
        return (
            move is not None
            and bool(move.goods)
            and answers[COUNT] is None
            and int(answers[COUNTED] or 0) < move.goods[0].quantity
        )

    @staticmethod
    def _left(answers: Answers, move: Move) -> int:
        return move.goods[0].quantity - int(answers[COUNTED] or 0)

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        move = _at(ctx, answers)
        return (move is not None and counting(ctx, answers, move)) or super().must_scan(ctx, answers, prompt)

    def _unit(self, ctx: Context, answers: Answers, move: Move) -> Any:
        item = item_of(ctx, move)
        return item.unit(answers.known(UNIT)) if answers[UNIT] else item.base

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        move = _at(ctx, answers)
        assert move is not None
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
        move = _at(ctx, answers)
        if move is None or not move.goods or prompt.proposes is Proposes.BLANK or counting(ctx, answers, move):
            return None
        whole = self._left(answers, move) // self._unit(ctx, answers, move).quantity
        if prompt.proposes is Proposes.ONE:
            whole = min(1, whole)
        return Decimal(whole) if whole else None

    def confirmed(self, ctx: Context, answers: Answers, count: Decimal) -> Answers:
        move = _at(ctx, answers)
        assert move is not None
        return answers.having(COUNT, count * self._unit(ctx, answers, move).quantity)

    def asked(self, ctx: Context, answers: Answers) -> str:
        move = _at(ctx, answers)
        return f"the next piece of {item_of(ctx, move).name}" if move and counting(ctx, answers, move) else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        move = _at(ctx, answers)
        assert move is not None
        if counting(ctx, answers, move):
            return f"Scan the next piece: {int(answers[COUNTED] or 0)} of {move.goods[0].quantity}"
        more = " more" if answers[COUNTED] else ""
        return f"How many {self._unit(ctx, answers, move).plural}{more}?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move = _at(ctx, answers)
        assert move is not None
        item, unit = item_of(ctx, move), self._unit(ctx, answers, move)
        note = f"{item.told(self._left(answers, move))} wanted from {move.at}"
        if counting(ctx, answers, move):
            return {"note": note, "keys": "scan"}
        return {"note": note, "unit": unit.plural + (f" of {item.told(unit.quantity)}" if unit.quantity > 1 else "")}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        move = _at(ctx, answers)
        assert move is not None
        item = item_of(ctx, move)
        if question.proposal:
            yield typed(f"{question.proposal} {question.unit}", question.proposal)
            yield typed("one too many", str(int(question.proposal) + 1))
        yield typed("zero", "0")
        for unit in item.units[:2]:
            yield from item_code(ctx, item, unit.code)
        yield from any_bin(ctx)


def much_of(answers: Answers, move: Move) -> int:
    """How much of a stop is fetched, in base units; as much as is wanted, where that is not asked."""
    if answers[COUNT] is None and answers[COUNTED] is None:
        return sum(g.quantity for g in move.goods)
    return int(answers[COUNT] or 0) + int(answers[COUNTED] or 0)


class PickIntoKind(PromptKind):
    """Into which of several totes does it go? The order's own, and no other."""

    wants = "the tote that is shown"
    shape: Shape = "pallet"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        move = _at(ctx, answers)
        return move is not None and answers[INTO] is None and self._tote(ctx, answers, move) is not None

    @staticmethod
    def _tote(ctx: Context, answers: Answers, move: Move) -> PlateNo | None:
        task = ctx.task(answers)
        return looking.tote_of(task, looking.order_of(move)) if move.goods and len(task.going.totes) > 1 else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        move, task = _at(ctx, answers), ctx.task(answers)
        assert move is not None
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
        move = _at(ctx, answers)
        return f"tote `{self._tote(ctx, answers, move)}`" if move else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        move = _at(ctx, answers)
        assert move is not None
        return f"Put it into tote `{self._tote(ctx, answers, move)}` and scan that"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        move, task = _at(ctx, answers), ctx.task(answers)
        assert move is not None
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
        yield from free_labels(ctx, 1)
        yield from any_bin(ctx)


class SetAtKind(PromptKind):
    """Where is it set down? At the station that is shown, or another place that is no storage."""

    wants = "the place it is brought to"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TASK] is not None and answers[BIN] is None and not answers[SHORT] and stop(ctx, answers) is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        code = BinCode(reading.code)
        doing.check_place(ctx.state, code)
        return deviation(
            ctx,
            code,
            self._shown(ctx, answers),
            answers.having(BIN, code),
            "Set it down here all the same?",
            "Set it down here",
        )

    @staticmethod
    def _shown(ctx: Context, answers: Answers) -> BinCode | None:
        return next((m.at for m in ctx.task(answers).going.remaining if m.do is Do.PLACE and m.at), None)

    def asked(self, ctx: Context, answers: Answers) -> str:
        at = self._shown(ctx, answers)
        return f"`{at}`" if at else self.wants

    def title(self, ctx: Context, answers: Answers) -> str:
        at = self._shown(ctx, answers)
        if at is None:
            return "Take it where it is packed or staged, and scan that"
        return f"Take {'it all' if looking.together(ctx.task(answers)) else 'it'} to `{at}` and scan it"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        task, at = ctx.task(answers), self._shown(ctx, answers)
        totes = [f"tote `{t.plate}` of `{t.order}`" for t in task.going.totes]
        carried = totes or [f"plate `{p}`" for p in task.going.carried] or [goods_text(ctx.state, task.going.hands)]
        note = bin_place(ctx, at) if at else "No rule says where: choose"
        if looking.together(task):
            note = f"{note}; sorted there to {len(task.plan.orders)} orders"
        return {"expect": at or "", "note": note, "facts": tuple(carried[:6])}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        from_bin = ctx.task(answers).from_bin
        yield plain(f"bin {from_bin}, where it came from", from_bin)
        zones = [z for z in ctx.ground.zones.values() if z.site == ctx.state.settings.site]
        others = (
            b.code
            for z in zones
            if z.purpose.value in ("packing", "staging")
            for b in ctx.ground.bins_by_zone.get(z.code, ())
        )
        for other in islice((c for c in others if c != question.expect), 1):
            yield plain(f"bin {other}, no storage either", other)
        yield from unknown()


def task_being(ctx: Context, answers: Answers) -> Task | None:
    """The task that is picked, if one is known."""
    return ctx.task(answers) if answers[TASK] else None


PROMPTS: dict[Asks, PromptKind] = {
    Asks.PICKED: PickedKind(),
    Asks.TOTE: ToteKind(),
    Asks.PICK_AT: PickAtKind(),
    Asks.PICK_ITEM: PickItemKind(),
    Asks.PICK_LOT: PickLotKind(),
    Asks.PICK_COUNT: PickCountKind(),
    Asks.PICK_INTO: PickIntoKind(),
    Asks.SET_AT: SetAtKind(),
}
"""What it asks."""
