"""What is asked while counting: which sheet, which bin, which item, which lot, which pieces, how many."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.ids import BinCode, CountNo, PlateNo
from mindful_crate.core.floor.answers import Answers, Doubt, flag, text, texts
from mindful_crate.core.floor.counts import CountLine, CountSheet
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Listed, Prompt, Proposes
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.codes import any_bin, item_code, plain, shown, typed, unknown
from mindful_crate.core.scanning.kinds import (
    COUNT,
    ITEM,
    LISTED,
    LOT,
    UNIT,
    Codes,
    Context,
    NumberKind,
    PromptKind,
    bin_place,
)
from mindful_crate.core.scanning.question import Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.counting import looking
from mindful_crate.core.work.receiving import checks as receiving

SHEET = text("count_sheet", CountNo)
AT = text("count_bin", BinCode)
ON = text("count_plate", PlateNo)
"""The plate whose goods are counted."""
PIECES = texts("count_serials", str)
ALL_THERE = flag("count_pieces_done")
"""All pieces that are there were scanned."""
LATER = texts("count_later", str)
"""Bins that were passed over; they come at the end."""
HERE = text("count_plate_here", PlateNo)
"""A plate that by the book stands elsewhere."""
NONE = flag("count_none")
"""Nothing else is in the bin."""


def sheet(ctx: Context, answers: Answers) -> CountSheet:
    """The sheet that is counted."""
    return ctx.state.counts[answers.known(SHEET)]


def lines_here(ctx: Context, answers: Answers) -> list[CountLine]:
    """What of the bin this person may still count."""
    return [x for x in looking.mine(sheet(ctx, answers), ctx.person) if x.bin == answers[AT]]


def next_bin(ctx: Context, answers: Answers) -> BinCode | None:
    """Where the counter goes next: along the sheet, what was passed over at the end."""
    mine = looking.mine(sheet(ctx, answers), ctx.person)
    passed = answers[LATER]
    return next((x.bin for x in mine if x.bin not in passed), None) or next((x.bin for x in mine), None)


def line_meant(ctx: Context, answers: Answers) -> CountLine | None:
    """The line that is counted, if it is on the sheet."""
    if answers[ITEM] is None or answers[AT] is None:
        return None
    return looking.meant(
        sheet(ctx, answers), answers.known(AT), answers.known(ITEM), answers[ON], answers[LOT], ctx.person
    )


class SheetKind(PromptKind):
    """What is counted: a sheet by its number, or by a bin or an item on it; or what is next."""

    wants = "a sheet, a bin, or an item that is to be counted"
    shape: Shape = "ticket"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        number = answers[SHEET]
        return (
            number is None or number not in ctx.state.counts or not looking.mine(ctx.state.counts[number], ctx.person)
        )

    def _waiting(self, ctx: Context) -> Iterable[CountSheet]:
        return looking.to_count(ctx.state, ctx.person)

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        if ctx.flow.listed is not Listed.GIVEN:
            return None
        first = next(iter(self._waiting(ctx)), None)
        return Answers().having(SHEET, first.number) if first else None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.COUNT:
            number = CountNo(reading.code)
            mine = ctx.state.counts[number]
            if not mine.open_lines:
                says = "is counted" if not mine.dropped else f"is counted no more: {mine.dropped}"
                raise Refusal("all_counted", f"`{number}` {says}.")
            if not looking.mine(mine, ctx.person):
                raise Refusal("other_person", f"What is left of `{number}` somebody else counts again: you counted it.")
            return Answers().having(SHEET, number)
        if reading.kind is Read.BIN:
            known = ctx.state.counts.with_bin(BinCode(reading.code))
            if known is None:
                raise Refusal(
                    "not_on_sheet", f"Bin `{reading.code}` is on no sheet. Tell the office, if it should be counted."
                )
            return Answers().having(SHEET, known)
        if reading.kind is Read.ITEM and reading.item:
            for each in self._waiting(ctx):
                if any(x.item == reading.item for x in looking.mine(each, ctx.person)):
                    return Answers().having(SHEET, each.number)
            raise Refusal(
                "not_on_sheet", f"{ctx.ground.items[reading.item].name} is on no sheet that is yours to count."
            )
        raise self.wrong(ctx, answers, reading)

    def sought(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | None:
        words = reading.code.strip().lower()
        if reading.kind is not Read.UNKNOWN or len(words) < 2:
            return None
        for each in self._waiting(ctx):
            zones = {ctx.ground.zones[ctx.ground.bins[x.bin].zone].name.lower() for x in each.lines}
            names = {ctx.ground.items[x.item].name.lower() for x in each.open_lines if x.item}
            if any(words in word for word in (each.number.lower(), each.why.lower(), *zones, *names)):
                return Answers().having(SHEET, each.number)
        return None

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        for each in islice(self._waiting(ctx), LISTED):
            mine = looking.mine(each, ctx.person)
            first, last = mine[0].bin, mine[-1].bin
            where = first if first == last else f"{first} to {last}"
            again = ", again" if all(x.again for x in mine) else ""
            yield Pick(each.number, f"{counted(len({x.bin for x in mine}), 'bin')}, {where}{again}", each.why)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan the sheet, or a bin that is to be counted"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        waits = next(iter(self._waiting(ctx)), None)
        return {"note": "" if waits else "Nothing is to be counted. The office makes sheets, or a count plan does."}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for each in islice(self._waiting(ctx), 2):
            yield plain(f"sheet {each.number}", each.number)
            yield plain(f"bin {each.lines[0].bin}, on it", each.lines[0].bin)
        yield from any_bin(ctx)
        yield from unknown()


class CountAtKind(PromptKind):
    """Which bin? The next on the sheet; any other of it will do."""

    wants = "a bin of the sheet"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        if answers[SHEET] is None:
            return True
        return answers[AT] is None or not lines_here(ctx, answers)

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        code = BinCode(reading.code)
        now = sheet(ctx, answers)
        looking.check_on(ctx.state, now, code)
        if all(x.bin != code for x in looking.mine(now, ctx.person)):
            raise Refusal("all_counted", f"All of `{code}` that is yours is counted.")
        return answers.only(SHEET, LATER).having(AT, code)

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"Go to `{next_bin(ctx, answers)}` and scan it"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        code = next_bin(ctx, answers)
        now = sheet(ctx, answers)
        bins = len({x.bin for x in looking.mine(now, ctx.person)})
        facts = (f"sheet `{now.number}`: {counted(bins, 'bin')} left",)
        return {"expect": code or "", "note": bin_place(ctx, code) if code else "", "facts": facts}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield from shown(question.expect)
        yield from any_bin(ctx)


class CountItemKind(PromptKind):
    """Which item, or which plate, of what is there? Anything that is there, also what is not on the sheet."""

    wants = "an item or a plate that is here"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is None and answers[HERE] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is Read.ITEM and reading.item:
            filled = ctx.about(answers, reading)
            if reading.lot:
                filled = filled.having(LOT, reading.lot)
            if reading.serial and reading.item in ctx.state.serials.kept:
                filled = filled.having(PIECES, (reading.serial,))
            line = line_meant(ctx, filled)
            if line is not None and line.counted is not None and line.by == ctx.person and not line.posted:
                item = ctx.ground.items[reading.item]
                says = f"You counted {item.told(line.counted)} of {item.name} here. Is that to be counted anew?"
                return Doubt("yes_no", says, filled, "Count it anew")
            return filled
        if reading.kind in (Read.PLATE, Read.LABEL):
            plate = PlateNo(reading.code)
            if not ctx.state.has_plate(plate):
                raise Refusal(
                    "unknown_plate", f"No plate has the number `{plate}`: count what is on it as loose goods."
                )
            if ctx.state.bin_of(plate) != answers[AT]:
                at = ctx.state.bin_of(plate)
                stands = f"stands in `{at}`" if at else "is carried"
                return Doubt(
                    "yes_no", f"By the book `{plate}` {stands}. Is it here?", answers.having(HERE, plate), "It is here"
                )
            mine = [x for x in lines_here(ctx, answers) if x.plate == plate]
            if not mine:
                raise Refusal("all_counted", f"All of `{plate}` that is yours is counted.")
            filled = answers.having(ON, plate)
            items = {x.item for x in mine if x.item}
            if len(items) == 1:
                (code,) = items
                item = ctx.ground.items[code]
                filled = filled.having(ITEM, code).having(UNIT, item.base.code)
            return filled
        raise self.wrong(ctx, answers, reading)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        now = sheet(ctx, answers)
        for x in islice((x for x in lines_here(ctx, answers) if x.item), LISTED):
            if answers[ON] not in (None, x.plate):
                continue
            item = ctx.ground.items[x.item] if x.item else None
            assert item is not None
            book = f", {item.told(looking.by_the_book(ctx.state, x))} by the book" if now.book_shown else ""
            on = x.plate and answers[ON] is None
            yield Pick(
                x.plate if on and x.plate else item.code,
                looking.told(ctx.state, x).replace("`", ""),
                f"{f'on {x.plate}' if x.plate else 'loose'}{book}",
            )

    def title(self, ctx: Context, answers: Answers) -> str:
        where = f"on `{answers[ON]}`" if answers[ON] else f"in `{answers[AT]}`"
        return f"Scan what is {where}"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        mine = lines_here(ctx, answers)
        left = counted(sum(x.item is not None for x in mine), "line")
        empty = all(x.item is None for x in mine)
        note = (
            "By the book nothing is here."
            if empty and sheet(ctx, answers).book_shown
            else ""
            if empty
            else f"{left} to count here"
        )
        return {"note": note, "facts": (f"sheet `{answers[SHEET]}`",)}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for x in lines_here(ctx, answers)[:3]:
            if x.plate:
                yield plain(f"plate {x.plate}", x.plate)
            if x.item:
                item = ctx.ground.items[x.item]
                yield from item_code(ctx, item, item.base.code)
        other = next(
            (i for i in ctx.ground.items.values() if all(x.item != i.code for x in lines_here(ctx, answers))), None
        )
        if other:
            yield from item_code(ctx, other, other.base.code)
        yield from unknown()


class CountLotKind(PromptKind):
    """Which lot? Asked of what is kept by lot."""

    wants = "a lot"
    shape: Shape = "ticket"
    reads = Read.LOT

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is not None and ctx.item(answers).lots and answers[LOT] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.ITEM and reading.item == answers[ITEM] and reading.lot:
            return answers.having(LOT, reading.lot)
        if reading.kind is not Read.LOT or not reading.lot:
            raise self.wrong(ctx, answers, reading)
        return answers.having(LOT, reading.lot)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        lots = dict.fromkeys(
            x.lot for x in lines_here(ctx, answers) if x.item == answers[ITEM] and x.plate == answers[ON]
        )
        return (Pick(lot, lot) for lot in lots if lot)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which lot?"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is None or ctx.item(answers).lots

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for pick in islice(self.picks(ctx, answers), 2):
            yield typed(f"lot {pick.value}", pick.value)


class CountSerialsKind(PromptKind):
    """Which pieces are there? One after another, until that is all."""

    wants = "the number of a piece"
    shape: Shape = "ticket"
    reads = Read.SERIAL

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is not None and answers[ITEM] in ctx.state.serials.kept and not answers[ALL_THERE]

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        number = reading.serial
        if not number or (reading.kind is Read.ITEM and reading.item != answers[ITEM]):
            raise self.wrong(ctx, answers, reading)
        item = ctx.item(answers)
        if number in answers[PIECES]:
            raise Refusal("scanned_already", f"`{number}` was scanned already.")
        lies = ctx.state.serials.where(item.code, number)
        if lies is None or lies.spot is None:
            raise Refusal(
                "unknown_piece",
                f"No {item.name} with the number `{number}` was ever here. Lay it aside and tell the office.",
            )
        return answers.having(PIECES, (*answers[PIECES], number))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan each piece that is there"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"note": f"{len(answers[PIECES])} scanned" if answers[PIECES] else "none scanned yet"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is None or answers[ITEM] in ctx.state.serials.kept

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        line = line_meant(ctx, answers)
        if line is not None:
            goods = (g for g in ctx.state.ledger.at(line.spot) if line.is_of(g))
            for number in islice((n for g in goods for n in ctx.state.serials.at(line.spot, g)), 4):
                yield plain(f"piece {number}", number)
        yield from unknown()


class CountedKind(NumberKind):
    """How many are there? Nought has a button of its own, so that nobody clears stock by a slip."""

    wants = "how many are there"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[COUNT] is None and not (answers[ITEM] is not None and answers[ITEM] in ctx.state.serials.kept)

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if (other := self.other_unit(answers, reading)) is not None:
            return other
        unit = ctx.unit(answers)
        count = self.number(reading, unit.plural)
        if count == 0:
            raise Refusal("zero_typed", "None there has a button of its own: press that, so that it is no slip.")
        receiving.whole_quantity(ctx.item(answers), unit, count)
        return answers.having(COUNT, count)

    def proposal(self, ctx: Context, answers: Answers, prompt: Prompt) -> Decimal | None:
        """What the book says, where the counter may see it and the flow offers it."""
        line = line_meant(ctx, answers)
        if line is None or not sheet(ctx, answers).book_shown or prompt.proposes is not Proposes.REST:
            return None
        book, unit = looking.by_the_book(ctx.state, line), ctx.unit(answers)
        return Decimal(book // unit.quantity) if book and book % unit.quantity == 0 else None

    def title(self, ctx: Context, answers: Answers) -> str:
        line = line_meant(ctx, answers)
        status = f", {line.status.value}," if line is not None and line.status.value != "available" else ""
        return f"How many {ctx.unit(answers).plural}{status} are there?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        where = f"on `{answers[ON]}`" if answers[ON] else f"in `{answers[AT]}`"
        line = line_meant(ctx, answers)
        facts = [f"`{answers[ITEM]}` {ctx.item(answers).name}", where]
        facts += [f"lot `{answers[LOT]}`"] if answers[LOT] else []
        note = ""
        if line is None:
            note = "It is not on the sheet: it gets a line."
        elif sheet(ctx, answers).book_shown:
            note = f"{ctx.item(answers).told(looking.by_the_book(ctx.state, line))} by the book"
        return {"note": note, "facts": tuple(facts), "unit": ctx.unit(answers).plural}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield typed("7", "7")
        yield typed("zero", "0")
        if answers[ITEM] is not None:
            for unit in ctx.item(answers).units[1:2]:
                yield from item_code(ctx, ctx.item(answers), unit.code)


PROMPTS: dict[Asks, PromptKind] = {
    Asks.SHEET: SheetKind(),
    Asks.COUNT_AT: CountAtKind(),
    Asks.COUNT_ITEM: CountItemKind(),
    Asks.COUNT_LOT: CountLotKind(),
    Asks.COUNT_SERIALS: CountSerialsKind(),
    Asks.COUNTED: CountedKind(),
}
"""What it asks."""
