"""What is asked while stock is corrected on a handset: where, of what, how many or which status, and why."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo, StockReasonId, UnitCode
from mindful_crate.core.floor.answers import Answers, flag, text, texts
from mindful_crate.core.floor.plates import Spot, in_bin, on_plate
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.counting import GIVEN_IN, PhotoAsked, ReasonFor, StockReason
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.rulebook.words.parts import STATUSES
from mindful_crate.core.scanning.codes import any_bin, filled_bins, item_code, plain, stored_plates, typed, unknown
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
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.counting import looking
from mindful_crate.core.work.counting.adjusting import check_may_give
from mindful_crate.core.work.inspecting import checks as inspecting
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.tasks.decide import reason as some_words

AT = text("stock_bin", BinCode)
ON = text("stock_plate", PlateNo)
"""The plate it is on; none: loose in the bin."""
WAS = text("stock_was", Status)
"""The status it has; with it, it is clear what it is about."""
EVERYTHING = flag("stock_everything")
"""All that lies there."""
GONE = texts("stock_gone", str)
ALL_GONE = flag("stock_gone_done")
STATUS = text("stock_status", Status)
REASON = text("stock_reason", StockReasonId)
WHY = text("stock_why", str)
PHOTO = text("stock_photo", str)
PHOTO_SAID = flag("stock_photo_done")
TO = text("stock_to", BinCode)
"""Where it really lies."""
SETTABLE = (Status.AVAILABLE, Status.QUARANTINE, Status.DAMAGED, Status.EXPIRED)
"""What waits to be inspected comes from a receipt alone."""
Kind = tuple[PlateNo | None, Goods]
"""Goods on a plate, or loose."""


def used_for(ctx: Context) -> ReasonFor:
    """What a reason is asked for."""
    return GIVEN_IN[ctx.flow.purpose]


def reasons_for(ctx: Context) -> list[StockReason]:
    """The reasons for that, whoever may give them."""
    return ctx.rulebook.reasons_at(ctx.state.settings.site, used_for(ctx))


def kinds_here(ctx: Context, answers: Answers) -> list[Kind]:
    """What lies where it is asked about, each kind of goods once with how much there is."""
    if answers[AT] is None:
        return []
    on = set(ctx.state.plates.tower(answers.known(ON))) if answers[ON] else None
    found: dict[tuple[PlateNo | None, ItemCode, str, Status], Goods] = {}
    for plate, goods in looking.goods_in(ctx.state, answers.known(AT)):
        key = (plate, goods.item, goods.lot, goods.status)
        if on is None or plate in on:
            known = found.get(key)
            found[key] = evolve(known, quantity=known.quantity + goods.quantity) if known else goods
    return [(plate, goods) for (plate, *_), goods in found.items()]


def kind_meant(ctx: Context, answers: Answers) -> Kind | None:
    """What it is about, once that is clear."""
    if answers[WAS] is None:
        return None
    return next((k for k in _narrowed(ctx, answers) if k[1].status == answers[WAS] and k[0] == answers[ON]), None)


def _narrowed(ctx: Context, answers: Answers) -> list[Kind]:
    """What it may be about, by what was said so far."""
    kinds = kinds_here(ctx, answers)
    if answers[ITEM] is not None:
        kinds = [k for k in kinds if k[1].item == answers[ITEM] and answers[LOT] in (None, k[1].lot)]
    return kinds


def spot_of(kind: Kind, code: BinCode) -> Spot:
    """Where it lies."""
    return on_plate(kind[0]) if kind[0] else in_bin(code)


def told(ctx: Context, kind: Kind) -> str:
    """A kind of goods as it is offered, and as it may be typed."""
    plate, goods = kind
    lot = f", lot {goods.lot}" if goods.lot else ""
    status = f", {STATUSES[goods.status].lower()}" if goods.status is not Status.AVAILABLE else ""
    return f"{ctx.ground.items[goods.item].name}{lot}{status}{f', on {plate}' if plate else ''}"


def reason_given(ctx: Context, answers: Answers) -> StockReason | None:
    """The reason that was chosen."""
    return next((r for r in reasons_for(ctx) if r.id == answers[REASON]), None)


class StockAtKind(PromptKind):
    """Where does it lie? In a bin, or on a plate that stands in one."""

    wants = "a bin, or a plate"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[AT] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is Read.BIN:
            code, plate = BinCode(reading.code), None
        elif reading.kind is Read.PLATE:
            plate = PlateNo(reading.code)
            stands = ctx.state.bin_of(plate)
            if stands is None:
                raise Refusal("plate_carried", f"`{plate}` is carried, or gone: it stands in no bin.")
            code = stands
        else:
            raise self.wrong(ctx, answers, reading)
        if ctx.state.ground.site_of(code) != ctx.state.settings.site:
            raise Refusal("other_site", f"Bin `{code}` belongs to another site.")
        if used_for(ctx) is not ReasonFor.STATUS and (sheet := ctx.state.counts.with_bin(code)) is not None:
            raise Refusal("on_a_sheet", f"Bin `{code}` is being counted on `{sheet}`: count it there.")
        filled = answers.having(AT, code).having(ON, plate)
        if not kinds_here(ctx, filled):
            where = f"on `{plate}`" if plate else f"in `{code}`"
            raise Refusal("nothing_there", f"By the books nothing is {where}. What is found there is counted.")
        return filled

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan the bin, or the plate it is on"

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for code in filled_bins(ctx, 2):
            yield plain(f"bin {code}", code)
        for plate in stored_plates(ctx, 1):
            yield plain(f"plate {plate}", plate)
        yield from any_bin(ctx)
        yield from unknown()


class StockItemKind(PromptKind):
    """What is it about? Of what lies there, one kind of goods; where an item lies in several lots or statuses, it is asked which."""

    wants = "something that lies there"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[WAS] is None and not answers[EVERYTHING]

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        kinds = kinds_here(ctx, answers)
        if reading.kind is Read.ITEM and reading.item:
            mine = [k for k in kinds if k[1].item == reading.item and reading.lot in (None, "", k[1].lot)]
            if reading.serial:
                code = answers.known(AT)
                numbered = [k for k in mine if reading.serial in ctx.state.serials.at(spot_of(k, code), k[1])]
                mine = numbered or mine
            if not mine:
                name = ctx.ground.items[reading.item].name
                raise Refusal(
                    "not_there", f"By the books there is no {name} in `{answers[AT]}`. What is found there is counted."
                )
            filled = ctx.about(answers, reading)
            if reading.lot:
                filled = filled.having(LOT, reading.lot)
            return _about(ctx, filled, mine[0]) if len(mine) == 1 else filled
        if reading.kind is Read.PLATE:
            filled = answers.having(ON, PlateNo(reading.code))
            mine = kinds_here(ctx, filled)
            if not mine:
                raise Refusal("not_there", f"Nothing is on `{reading.code}` here.")
            return _about(ctx, filled, mine[0]) if len(mine) == 1 else filled
        words = reading.code.strip().lower()
        called = [k for k in _narrowed(ctx, answers) if words == told(ctx, k).lower()]
        if len(called) == 1:
            return _about(ctx, answers, called[0])
        raise self.wrong(ctx, answers, reading)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return reading.code if reading.kind is Read.UNKNOWN else ""

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        kinds = _narrowed(ctx, answers)
        of_item = Counter(goods.item for _, goods in kinds)
        for kind in islice(kinds, LISTED):
            says, code = told(ctx, kind), kind[1].item
            yield Pick(
                code if of_item[code] == 1 else says,
                says,
                f"{ctx.ground.items[kind[1].item].told(kind[1].quantity)} by the books",
            )

    def title(self, ctx: Context, answers: Answers) -> str:
        if answers[ITEM] is not None:
            return f"Which {ctx.item(answers).name}?"
        return "Scan what is not as it should be"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        code = answers.known(AT)
        return {"facts": (f"in `{code}`, {bin_place(ctx, code)}",)}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for plate, goods in kinds_here(ctx, answers)[:2]:
            item = ctx.ground.items[goods.item]
            yield from item_code(ctx, item, item.base.code)
            if plate:
                yield plain(f"plate {plate}", plate)
        for kind in _narrowed(ctx, answers)[:3]:
            yield typed(told(ctx, kind), told(ctx, kind))
        yield from unknown()


def _about(ctx: Context, answers: Answers, kind: Kind) -> Answers:
    """It is clear what it is about."""
    plate, goods = kind
    unit = answers[UNIT] if answers[ITEM] == goods.item else None
    return (
        answers.having(ITEM, goods.item)
        .having(UNIT, unit or UnitCode(ctx.ground.items[goods.item].base.code))
        .having(LOT, goods.lot or None)
        .having(WAS, goods.status)
        .having(ON, plate)
    )


def _numbered(ctx: Context, answers: Answers) -> bool:
    return answers[ITEM] is not None and answers[ITEM] in ctx.state.serials.kept


def pieces_here(ctx: Context, answers: Answers) -> tuple[str, ...]:
    """The numbers of the pieces of what it is about."""
    kind = kind_meant(ctx, answers)
    if kind is None:
        return ()
    spot = spot_of(kind, answers.known(AT))
    goods = (
        g for g in ctx.state.ledger.at(spot) if (g.item, g.lot, g.status) == (kind[1].item, kind[1].lot, kind[1].status)
    )
    return tuple(n for g in goods for n in ctx.state.serials.at(spot, g))


class StockGoneKind(PromptKind):
    """Which pieces are gone? Those that lie there by the books; one that is found is counted."""

    wants = "the number of a piece"
    shape: Shape = "ticket"
    reads = Read.SERIAL

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return _numbered(ctx, answers) and not answers[ALL_GONE] and not answers[EVERYTHING]

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        number = reading.serial
        if not number:
            raise self.wrong(ctx, answers, reading)
        if number in answers[GONE]:
            raise Refusal("scanned_already", f"`{number}` was said already.")
        if number not in pieces_here(ctx, answers):
            raise Refusal("not_there", f"By the books `{number}` does not lie there.")
        return answers.having(GONE, (*answers[GONE], number))

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        here = (n for n in pieces_here(ctx, answers) if n not in answers[GONE])
        return (Pick(n, n) for n in islice(here, LISTED))

    def title(self, ctx: Context, answers: Answers) -> str:
        elsewhere = used_for(ctx) is ReasonFor.PLACE
        return f"Which {ctx.item(answers).name} {'lie elsewhere' if elsewhere else 'are gone'}?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        here = f"{len(pieces_here(ctx, answers))} by the books"
        gone = "elsewhere" if used_for(ctx) is ReasonFor.PLACE else "gone"
        return {"note": f"{here}, {len(answers[GONE])} {gone}" if answers[GONE] else here}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is None or _numbered(ctx, answers)

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for number in pieces_here(ctx, answers)[:2]:
            yield plain(f"piece {number}", number)
        yield from unknown()


class StockCountKind(NumberKind):
    """How many are there?"""

    wants = "how many are there"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[COUNT] is None and not _numbered(ctx, answers) and not answers[EVERYTHING]

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if (other := self.other_unit(answers, reading)) is not None:
            return other
        unit, item = ctx.unit(answers), ctx.item(answers)
        count = self.number(reading, unit.plural)
        if not count:
            raise Refusal("typed_nought", "A nought is not typed: press the button when none is there.")
        much = receiving.whole_quantity(item, unit, count)
        kind = kind_meant(ctx, answers)
        if used_for(ctx) is ReasonFor.PLACE:
            if kind is not None and much > kind[1].quantity:
                says = f"By the books there are {item.told(kind[1].quantity)} of {item.name}: no more lie elsewhere."
                raise Refusal("more_than_there", says)
        elif kind is not None and much == kind[1].quantity:
            raise Refusal(
                "no_difference", f"By the books there are {item.told(much)} of {item.name}: nothing is wrong."
            )
        return answers.having(COUNT, count)

    def title(self, ctx: Context, answers: Answers) -> str:
        lie = "lie elsewhere" if used_for(ctx) is ReasonFor.PLACE else "are there"
        return f"How many {ctx.unit(answers).plural} {lie}?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        kind = kind_meant(ctx, answers)
        item = ctx.item(answers)
        facts = (told(ctx, kind), f"{item.told(kind[1].quantity)} by the books") if kind else ()
        return {"unit": ctx.unit(answers).plural, "facts": facts}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return not _numbered(ctx, answers)

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield typed("1", "1")
        yield typed("nought", "0")
        yield typed("a thousand", "1000")


class StockToKind(PromptKind):
    """Where does it really lie?"""

    wants = "the bin it lies in"
    shape: Shape = "bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[TO] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        code = BinCode(reading.code)
        if ctx.state.ground.site_of(code) != ctx.state.settings.site:
            raise Refusal("other_site", f"Bin `{code}` belongs to another site.")
        if code == answers[AT] and (answers[ON] is None or answers[EVERYTHING]):
            raise Refusal("same_bin", f"By the books it lies in `{code}`: nothing is wrong.")
        return answers.having(TO, code)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan the bin it lies in"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        kind = kind_meant(ctx, answers)
        what = told(ctx, kind) if kind else f"`{answers[ON]}`"
        return {"facts": (f"{what}, by the books in `{answers[AT]}`",)}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for code in filled_bins(ctx, 3):
            yield plain(f"bin {code}", code)
        yield from any_bin(ctx)
        yield from unknown()


class NewStatusKind(PromptKind):
    """What is it now?"""

    wants = "one of the statuses"
    shape: Shape = "ticket"
    keys: Keys = "none"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[STATUS] is None

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        word = reading.code.strip().lower()
        found = next((s for s in self._choices(answers) if word in (s.value, STATUSES[s].lower())), None)
        if found is None:
            says = ", ".join(STATUSES[s].lower() for s in self._choices(answers))
            raise Refusal("not_among", f"`{reading.code}` is none of: {says}.")
        return answers.having(STATUS, found)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return reading.code.strip().lower()

    def _choices(self, answers: Answers) -> list[Status]:
        return [s for s in SETTABLE if s != answers[WAS]]

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        return (Pick(s.value, STATUSES[s]) for s in self._choices(answers))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "What is it now?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        kind = kind_meant(ctx, answers)
        what = told(ctx, kind) if kind else f"all on `{answers[ON]}`" if answers[ON] else f"all in `{answers[AT]}`"
        return {"facts": (what,)}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for status in self._choices(answers)[:2]:
            yield typed(STATUSES[status], status.value)
        yield typed("what waits to be inspected", "inspect")


class StockReasonKind(PromptKind):
    """Why? One of the reasons this crew may give; a few words where there is no list."""

    wants = "one of the reasons"
    shape: Shape = "ticket"
    keys: Keys = "text"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[REASON] is None and answers[WHY] is None

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if not reasons_for(ctx):
            return answers.having(WHY, some_words(reading.code))
        found = self._called(ctx, reading)
        if found is None:
            mine = ", ".join(p.label for p in self.picks(ctx, answers)) or "ask somebody else"
            raise Refusal("not_among", f"`{reading.code.strip()}` is no reason for that: {mine}.")
        check_may_give(ctx.rulebook, found, ctx.crews)
        return answers.having(REASON, found.id)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        found = self._called(ctx, reading)
        return found.name if found else reading.code.strip()

    def _called(self, ctx: Context, reading: Reading) -> StockReason | None:
        word = reading.code.strip().lower()
        return next((r for r in reasons_for(ctx) if word in (r.id.lower(), r.name.lower())), None)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        return (Pick(r.id, r.name) for r in reasons_for(ctx) if not r.crews or set(r.crews) & set(ctx.crews))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Why?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        if reasons_for(ctx) and not [*self.picks(ctx, answers)]:
            return {"note": "No reason is yours to give: ask somebody who may."}
        return {}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for each in reasons_for(ctx)[:4]:
            yield typed(each.name, each.name)
        yield typed("words", "fell off the fork")


class StockPhotoKind(PromptKind):
    """A photo of it, where the reason wants one, or lets one be taken."""

    wants = "a photo"
    shape: Shape = "ticket"
    keys: Keys = "none"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        found = reason_given(ctx, answers)
        return found is not None and found.photo is not PhotoAsked.NO and not answers[PHOTO_SAID]

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        name = reading.code.strip()
        if not inspecting.is_photo(name):
            raise Refusal("no_photo", "That is no photo: take one with the button.")
        return answers.having(PHOTO, name).having(PHOTO_SAID, True)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return "a photo" if inspecting.is_photo(reading.code.strip()) else ""

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Take a photo of it"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"photo": True}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return any(r.photo is not PhotoAsked.NO for r in reasons_for(ctx))

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield typed("a photo", "photo-0123456789abcdef")
        yield from unknown()


PROMPTS: dict[Asks, PromptKind] = {
    Asks.STOCK_AT: StockAtKind(),
    Asks.STOCK_ITEM: StockItemKind(),
    Asks.STOCK_GONE: StockGoneKind(),
    Asks.STOCK_COUNT: StockCountKind(),
    Asks.NEW_STATUS: NewStatusKind(),
    Asks.STOCK_TO: StockToKind(),
    Asks.STOCK_REASON: StockReasonKind(),
    Asks.STOCK_PHOTO: StockPhotoKind(),
}
"""What it asks."""
