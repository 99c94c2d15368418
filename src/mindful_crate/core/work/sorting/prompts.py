"""What is asked while sorting: where, which item, how many, and the order's place."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, UnitCode, WaveNo
from mindful_crate.core.floor.answers import Answers, text
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt, Proposes
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.codes import (
    any_bin,
    counts_about,
    empty_totes,
    item_code,
    plain,
    shown,
    unknown,
)
from mindful_crate.core.scanning.kinds import COUNT, ITEM, UNIT, Codes, Context, NumberKind, PromptKind, bin_place
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.receiving.checks import whole_quantity
from mindful_crate.core.work.sorting import looking
from mindful_crate.core.work.sorting.decide import check_place
from mindful_crate.core.work.sorting.looking import ToSort

STATION = text("sort_station", BinCode)
"""Where it is sorted."""
WALL = text("sort_place", BinCode)
"""The place of the wall that was scanned."""
TOTE = text("sort_tote", PlateNo)
"""The tote that was scanned."""
GONE = text("not_among_them", str)
"""The order line of which what is left is not there, or :data:`ALL`."""
ALL = "all"
"""Nothing of all that is left to be sorted there is there."""


def station(ctx: Context, answers: Answers) -> BinCode | None:
    """Where it is sorted, as long as something is left to sort there: others may sort it, too."""
    code = answers[STATION]
    return code if code is not None and looking.lines_at(ctx.state, code, 1) else None


def next_one(ctx: Context, answers: Answers) -> ToSort | None:
    """For whom what was scanned is."""
    if answers[STATION] is None or answers[ITEM] is None:
        return None
    return looking.next_for(ctx.state, answers.known(STATION), answers.known(ITEM))


class SortAtKind(PromptKind):
    """Where is it sorted? The bin where it was set down, or a wave or an order that is to be sorted."""

    wants = "the place where it was set down"
    shape: Shape = "bin"
    lasts = (STATION,)

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return station(ctx, answers) is None and not answers[GONE]

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.BIN:
            code = BinCode(reading.code)
            if not looking.lines_at(ctx.state, code, 1):
                raise Refusal("nothing_to_sort", f"Nothing is to be sorted in `{code}`.")
            return answers.having(STATION, code)
        orders: tuple[OrderNo, ...] = ()
        if reading.kind is Read.WAVE:
            orders = ctx.state.waves[WaveNo(reading.code)].orders
        elif reading.kind is Read.ORDER:
            orders = (OrderNo(reading.code),)
        else:
            raise self.wrong(ctx, answers, reading)
        for code in looking.stations(ctx.state):
            if any(line.order in orders for line in looking.lines_at(ctx.state, code)):
                return answers.having(STATION, code)
        raise Refusal("nothing_to_sort", f"Nothing of `{reading.code}` is to be sorted.")

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for code in looking.stations(ctx.state):
            lines = looking.lines_at(ctx.state, code)
            orders = len({line.order for line in lines})
            yield Pick(code, code, f"{counted(len(lines), 'line')} of {counted(orders, 'order')}")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan where it is sorted"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        waits = next(looking.stations(ctx.state), None)
        return {"note": "" if waits else "Nothing waits to be sorted."}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for code in islice(looking.stations(ctx.state), 2):
            yield plain(f"bin {code}", code)
            for line in sorted(looking.lines_at(ctx.state, code))[:1]:
                yield plain(f"order {line.order}", line.order)
        yield from any_bin(ctx)
        yield from unknown()


class SortItemKind(PromptKind):
    """Which item comes to hand? Any of those that lie there; for whom it is is told."""

    wants = "an item that lies there"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return station(ctx, answers) is not None and next_one(ctx, answers) is None and not answers[GONE]

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is not Read.ITEM or reading.item is None:
            raise self.wrong(ctx, answers, reading)
        item = ctx.ground.items[reading.item]
        found = looking.next_for(ctx.state, answers.known(STATION), item.code)
        if found is None:
            says = f"`{item.code}` {item.name} is wanted by no order that is sorted in `{answers[STATION]}`: it is left over. Put it aside, and tell the office."
            raise Refusal("left_over", says)
        unit = item.unit(reading.unit) if reading.unit else item.base
        if unit.quantity > found.goods.quantity:
            unit = item.base  # what is in hand is opened: fewer go to this order than it holds
        return answers.only(STATION).having(ITEM, item.code).having(UNIT, UnitCode(unit.code))

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        seen: dict[str, int] = {}
        for each in looking.waits_at(ctx.state, answers.known(STATION)):
            seen[each.goods.item] = seen.get(each.goods.item, 0) + each.goods.quantity
        for code, much in seen.items():
            item = ctx.ground.items[code]  # type: ignore[index]
            yield Pick(code, item.name, item.told(much))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan any item"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        lines = looking.lines_at(ctx.state, answers.known(STATION))
        return {"note": f"{counted(len(lines), 'line')} in {answers[STATION]} left to sort"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        waits = looking.waits_at(ctx.state, answers.known(STATION))
        items = list(dict.fromkeys(x.goods.item for x in waits))
        for code in items[:3]:
            yield from item_code(ctx, ctx.ground.items[code], ctx.ground.items[code].base.code)
        for other in islice((i for i in ctx.ground.items.values() if i.code not in items), 1):
            yield from item_code(ctx, other, other.base.code)
        yield from any_bin(ctx)


class SortCountKind(NumberKind):
    """How many go to this order? All it wants is proposed."""

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return next_one(ctx, answers) is not None and answers[COUNT] is None and not answers[GONE]

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        found, item = next_one(ctx, answers), ctx.item(answers)
        assert found is not None
        quantity = whole_quantity(item, ctx.unit(answers), self.number(reading, ctx.unit(answers).plural))
        if quantity > found.goods.quantity:
            says = f"{item.told(found.goods.quantity)} of {item.name} go to `{found.line.order}`, no more."
            raise Refusal("more_than_wanted", says)
        return answers.having(COUNT, Decimal(quantity))

    def proposal(self, ctx: Context, answers: Answers, prompt: Prompt) -> Decimal | None:
        found = next_one(ctx, answers)
        if found is None or prompt.proposes is Proposes.BLANK:
            return None
        whole = found.goods.quantity // ctx.unit(answers).quantity
        return Decimal(min(1, whole) if prompt.proposes is Proposes.ONE else whole) if whole else None

    def confirmed(self, ctx: Context, answers: Answers, count: Decimal) -> Answers:
        return answers.having(COUNT, count * ctx.unit(answers).quantity)

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"How many {ctx.unit(answers).plural}?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        found = next_one(ctx, answers)
        assert found is not None
        wanted = ctx.item(answers).told(found.goods.quantity)
        return {"note": f"{wanted} for {found.line.order}", "unit": ctx.unit(answers).plural}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from counts_about(question)
        yield from any_bin(ctx)


class SortIntoKind(PromptKind):
    """To which place? The order's own; the first time any free place of the wall, or an empty tote."""

    wants = "the order's place"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        named = answers[WALL] is not None or answers[TOTE] is not None or answers[GONE]
        return next_one(ctx, answers) is not None and not named

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        found, station = next_one(ctx, answers), answers.known(STATION)
        assert found is not None
        if reading.kind is Read.BIN:
            check_place(ctx.state, found.line.order, station, BinCode(reading.code), None)
            return answers.having(WALL, BinCode(reading.code))
        if reading.kind in (Read.LABEL, Read.PLATE):
            check_place(ctx.state, found.line.order, station, None, PlateNo(reading.code))
            return answers.having(TOTE, PlateNo(reading.code))
        raise self.wrong(ctx, answers, reading)

    def _shown(self, ctx: Context, answers: Answers) -> tuple[str, bool]:
        """The code that is told, and whether the order has that place already."""
        found = next_one(ctx, answers)
        assert found is not None
        has = looking.place_of(ctx.state, found.line.order, answers.known(STATION))
        if has is not None:
            return str(has[1] or has[0]), True
        return next(looking.free_places(ctx.state), ""), False

    def asked(self, ctx: Context, answers: Answers) -> str:
        code, _ = self._shown(ctx, answers)
        return f"`{code}`" if code else "an empty tote"

    def title(self, ctx: Context, answers: Answers) -> str:
        found = next_one(ctx, answers)
        assert found is not None
        code, has = self._shown(ctx, answers)
        if not code:
            return f"No place is free: scan an empty tote for `{found.line.order}`"
        return (
            f"Put it to `{code}` and scan that"
            if has
            else f"`{found.line.order}` is new: put it to `{code}` and scan that"
        )

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        found, item = next_one(ctx, answers), ctx.item(answers)
        assert found is not None
        code, has = self._shown(ctx, answers)
        much = int(answers[COUNT] or found.goods.quantity)
        place = bin_place(ctx, BinCode(code)) if code in ctx.ground.bins else "its tote" if has else ""
        note = (
            f"{place}, for {found.line.order}"
            if has
            else f"{place}; another free place or an empty tote will do"
            if code
            else ""
        )
        return {
            "expect": code,
            "note": note,
            "facts": (f"{item.told(much)} of {item.name}", f"for `{found.line.order}`"),
        }

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        places = ctx.ground.bins_of(looking.ZonePurpose.SORT, ctx.state.settings.site)
        for taken in islice((b.code for b in places if looking.whose(ctx.state, b.code)), 2):
            if taken != question.expect:
                yield plain(f"place {taken}, of {looking.whose(ctx.state, taken)}", taken)
        yield from empty_totes(ctx, 1)
        yield from any_bin(ctx)


PROMPTS: dict[Asks, PromptKind] = {
    Asks.SORT_AT: SortAtKind(),
    Asks.SORT_ITEM: SortItemKind(),
    Asks.SORT_COUNT: SortCountKind(),
    Asks.SORT_INTO: SortIntoKind(),
}
"""What it asks."""
