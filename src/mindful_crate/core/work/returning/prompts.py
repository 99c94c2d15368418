"""What is asked while goods are taken back: who sends them, what, how many, and what becomes of it."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import islice
from typing import Any

from mindful_crate.core.catalog.goods import Item, OrderKind
from mindful_crate.core.catalog.ids import OrderNo, PartnerCode, ReturnMarkId
from mindful_crate.core.floor.answers import Answers, Doubt, flag, text, texts
from mindful_crate.core.floor.returns import ReturnBuild
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Prompt
from mindful_crate.core.rulebook.returns import Otherwise, ReturnMark
from mindful_crate.core.scanning.codes import any_bin, item_code, plain, typed, unknown
from mindful_crate.core.scanning.kinds import (
    COUNT,
    ITEM,
    LISTED,
    LOT,
    Codes,
    Context,
    NumberKind,
    PromptKind,
)
from mindful_crate.core.scanning.question import Keys, Pick, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.inspecting import checks as inspecting
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.returning import judging
from mindful_crate.core.work.returning.decide import check_not_announced, check_told_apart, judged_as

BY = text("return_partner", PartnerCode)
AS = text("return_order", OrderNo)
"""The number under which it was announced."""
MARK = text("return_mark", ReturnMarkId)
PIECES = texts("return_pieces", str)
ALL_SCANNED = flag("return_pieces_done")
SEEN = text("return_remark", str)
PHOTO = text("return_photo", str)
SEEN_SAID = flag("return_remarked")


def build(ctx: Context) -> ReturnBuild | None:
    """What is taken back on this handset."""
    return ctx.state.returning.get(ctx.device) if ctx.device else None


def last_told(ctx: Context, answers: Answers) -> str:
    """What is said of the item that comes back: by which rule, with the last shipment."""
    if answers[AS] is not None or answers[ITEM] is None or answers[BY] is None:
        return ""
    return judged(ctx, answers, ctx.item(answers), 1).says


def judged(ctx: Context, answers: Answers, item: Item, much: int) -> judging.Judged:
    """What becomes of so much of an item, beside what was scanned before."""
    now = build(ctx)
    already = now.scanned(item.code) if now else 0
    return judging.judge(ctx.state, ctx.rulebook, answers.known(BY), item, much, ctx.today, already)


def accepted(ctx: Context, answers: Answers, item: Item, much: int) -> judging.Judged:
    """The same, where it is not refused."""
    found = judged(ctx, answers, item, much)
    if found.becomes is Otherwise.REFUSE:
        raise judging.not_accepted(ctx.state, ctx.rulebook, answers.known(BY), item, found)
    return found


class ReturnedByKind(PromptKind):
    """Who sends it back? The customer's number or name, an order, a former shipment or its label; or the number of the return."""

    wants = "the customer, a former shipment, or the number of the return"
    shape: Shape = "ticket"
    keys: Keys = "text"
    lasts = (BY, AS)

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[BY] is None

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        found = judging.customer_of(ctx.state, reading.code.strip().upper())
        partner = answers[BY] or (found[0] if found else None)
        return ctx.ground.partners[partner].name if partner in ctx.ground.partners else ""

    def given(self, ctx: Context, answers: Answers) -> Answers | None:
        now = build(ctx)
        if now is None or not now.lines:
            return None
        filled = answers.having(BY, now.partner)
        return filled.having(AS, now.order) if now.order else filled

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        found = judging.customer_of(ctx.state, reading.code.strip().upper())
        if found is None:
            if reading.kind is Read.UNKNOWN or reading.kind is Read.LABEL:
                raise Refusal(
                    "unknown_customer",
                    f"`{reading.code}` is no customer, no order of one, and nothing that was shipped.",
                )
            raise self.wrong(ctx, answers, reading)
        partner, order = found
        if order is not None:
            receiving.order_for_receipt(ctx.state, order)
            return answers.having(BY, partner).having(AS, order)
        return answers.having(BY, partner)

    def sought(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | None:
        words = reading.code.strip().lower()
        if reading.kind is not Read.UNKNOWN or len(words) < 3 or PartnerCode(words.upper()) in ctx.ground.partners:
            return None
        found = [p for p in ctx.ground.partners.values() if words in p.name.lower()]
        if len(found) > 1:
            names = ", ".join(f"{p.name} `{p.code}`" for p in found[:4])
            raise Refusal("several", f"Several customers are called like that: {names}.")
        return answers.having(BY, found[0].code) if found else None

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        site = ctx.state.settings.site
        back = (
            o for o in ctx.state.all_orders()
            if o.kind is OrderKind.CUSTOMER_RETURN and o.site == site and ctx.state.is_confirmed(o.number) and ctx.state.lines_open(o)
            and not ctx.state.is_cancelled(o.number)
        )  # fmt: skip
        for order in islice(back, LISTED):
            name = ctx.ground.partners[order.partner].name if order.partner in ctx.ground.partners else order.partner
            yield Pick(order.number, order.number, f"announced by {name}")

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Who sends it back?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"note": "number or name, a shipment, its label, or the return's number"}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for left in islice(ctx.state.departures.values(), 2):
            yield plain(f"shipment {left.shipment}", left.shipment)
            for bearer in left.bearers[:1]:
                yield plain(f"label of carton {bearer.number}", bearer.number)
        sold_to = (o.partner for o in ctx.state.all_orders() if o.kind is OrderKind.SALES)
        for partner in islice((ctx.ground.partners[p] for p in sold_to if p in ctx.ground.partners), 1):
            yield typed(f"name {partner.name}", partner.name)
        yield from any_bin(ctx)
        yield from unknown()


class ReturnItemKind(PromptKind):
    """Which item? Whether it is accepted is said at once."""

    wants = "an item that comes back"
    shape: Shape = "carton"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if reading.kind is not Read.ITEM or reading.item is None:
            raise self.wrong(ctx, answers, reading)
        item = ctx.ground.items[reading.item]
        filled = ctx.about(answers, reading)
        if reading.lot:
            filled = filled.having(LOT, reading.lot)
        partner, order = answers.known(BY), answers[AS]
        if order is not None:
            found = ctx.state.order(order)
            if found is None or all(x.item != item.code for x in found.lines):
                raise Refusal("not_on_order", f"{item.name} is not on `{order}`.")
            return filled
        now = build(ctx) or ReturnBuild(ctx.device, partner)  # type: ignore[arg-type]
        check_not_announced(ctx.state, now, item)
        of_one = accepted(ctx, answers, item, 1)
        if of_one.becomes is Otherwise.HOLD:
            return Doubt("yes_no", f"{of_one.says} It is held for a supervisor. Take it in?", filled, "Take it in")
        return filled

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        order = ctx.state.order(answers.known(AS)) if answers[AS] else None
        for line in order.lines if order else ():
            left = ctx.state.open_quantity(order, line) if order else 0
            if left > 0:
                item = ctx.ground.items[line.item]
                yield Pick(item.code, item.name, f"{item.told(left)} announced")

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"Scan what {ctx.ground.partners[answers.known(BY)].name} sends back"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        if answers[AS]:
            return {"note": f"announced as `{answers[AS]}`"}
        known = judging.announced(ctx.state, answers.known(BY))
        return {"note": f"Announced is `{known[0].number}`: take that back by its number." if known else ""}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        partner = answers.known(BY)
        mine = (
            p
            for d in ctx.state.departures.values()
            if ctx.state.shipments[d.shipment].leaves.partner == partner
            for p in d.parcels
        )
        items = dict.fromkeys(p.goods.item for p in mine)
        for code in islice(items, 3):
            item = ctx.ground.items[code]
            yield from item_code(ctx, item, item.base.code)
        other = next((i for i in ctx.ground.items.values() if i.code not in items), None)
        if other:
            yield from item_code(ctx, other, other.base.code)
        yield from unknown()


class ReturnLotKind(PromptKind):
    """Which lot? One that was here once."""

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
        lots = dict.fromkeys(p.goods.lot for _, p in judging.shipped(ctx.state, answers.known(BY), answers.known(ITEM)))
        return (Pick(lot, lot, "was shipped to them") for lot in lots if lot)

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Which lot?"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is None or ctx.item(answers).lots

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for pick in islice(self.picks(ctx, answers), 2):
            yield typed(f"lot {pick.value}", pick.value)


class ReturnSerialsKind(PromptKind):
    """Which pieces? Those that this customer got from here."""

    wants = "the number of a piece"
    shape: Shape = "ticket"
    reads = Read.SERIAL

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is not None and answers[ITEM] in ctx.state.serials.kept and not answers[ALL_SCANNED]

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        number = reading.serial
        if not number:
            raise self.wrong(ctx, answers, reading)
        item, partner = ctx.item(answers), answers.known(BY)
        if number in answers[PIECES]:
            raise Refusal("scanned_already", f"`{number}` was scanned already.")
        if number not in judging.had_pieces(ctx.state, partner, item.code):
            name = ctx.ground.partners[partner].name
            raise Refusal("other_piece", f"`{number}` of {item.name} was never shipped to {name}.")
        return answers.having(PIECES, (*answers[PIECES], number))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Scan each piece that comes back"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"note": f"{len(answers[PIECES])} scanned" if answers[PIECES] else "none scanned yet"}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return answers[ITEM] is None or answers[ITEM] in ctx.state.serials.kept

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for number in islice(sorted(judging.had_pieces(ctx.state, answers.known(BY), answers.known(ITEM))), 3):
            yield plain(f"piece {number}", number)
        yield from unknown()


class ReturnCountKind(NumberKind):
    """How many come back?"""

    wants = "how many come back"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[COUNT] is None and not (answers[ITEM] is not None and answers[ITEM] in ctx.state.serials.kept)

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers | Doubt:
        if (other := self.other_unit(answers, reading)) is not None:
            return other
        unit, item = ctx.unit(answers), ctx.item(answers)
        count = self.number(reading, unit.plural)
        much = receiving.whole_quantity(item, unit, count)
        filled = answers.having(COUNT, count)
        if answers[AS] is None:
            all_of_it = accepted(ctx, answers, item, much)
            if all_of_it.becomes is Otherwise.HOLD and judged(ctx, answers, item, 1).becomes is Otherwise.ACCEPT:
                return Doubt(
                    "yes_no", f"{all_of_it.says} All of it is held for a supervisor. Take it in?", filled, "Take it in"
                )
        return filled

    def title(self, ctx: Context, answers: Answers) -> str:
        return f"How many {ctx.unit(answers).plural} come back?"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"note": last_told(ctx, answers), "unit": ctx.unit(answers).plural}

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield typed("1", "1")
        yield typed("a thousand", "1000")


def much(ctx: Context, answers: Answers) -> int:
    """How much of the item comes back, in base units; pieces that are kept by number are as many as were scanned."""
    item = ctx.item(answers)
    if item.code in ctx.state.serials.kept:
        return len(answers[PIECES])
    return receiving.whole_quantity(item, ctx.unit(answers), answers.known(COUNT))


class DispositionKind(PromptKind):
    """What becomes of it?"""

    wants = "one of the marks"
    shape: Shape = "carton"
    keys: Keys = "none"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[MARK] is None and bool(ctx.rulebook.marks_at(ctx.state.settings.site))

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        found = self._called(ctx, reading)
        if found is None:
            marks = ctx.rulebook.marks_at(ctx.state.settings.site)
            raise Refusal("not_among", f"`{reading.code}` is no mark: {', '.join(m.name for m in marks)}.")
        mine, item = build(ctx), ctx.item(answers)
        if mine is not None:  # the first line cannot be mixed up with any other
            judged = judged_as(ctx.state, ctx.rulebook, mine, item, much(ctx, answers), ctx.today)
            held = judged is not None and judged.becomes is Otherwise.HOLD
            lot = answers[LOT] if item.lots else None
            check_told_apart(ctx.state, ctx.rulebook, mine, item, lot or "", found, held)
        return answers.having(MARK, found.id)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        found = self._called(ctx, reading)
        return found.name if found else ""

    def _called(self, ctx: Context, reading: Reading) -> ReturnMark | None:
        word, marks = reading.code.strip().lower(), ctx.rulebook.marks_at(ctx.state.settings.site)
        return next((m for m in marks if word in (m.id.lower(), m.name.lower())), None)

    def picks(self, ctx: Context, answers: Answers) -> Iterable[Pick]:
        return (Pick(m.id, m.name) for m in ctx.rulebook.marks_at(ctx.state.settings.site))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "What becomes of it?"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for mark in ctx.rulebook.marks_at(ctx.state.settings.site)[:3]:
            yield typed(mark.name, mark.name)


class ReturnRemarkKind(PromptKind):
    """What was seen of it? A few words, a photo, or nothing."""

    wants = "a few words"
    shape: Shape = "ticket"
    keys: Keys = "text"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return not answers[SEEN_SAID]

    def must_scan(self, ctx: Context, answers: Answers, prompt: Prompt) -> bool:
        return False

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        said = reading.code.strip()
        if inspecting.is_photo(said):
            return answers.having(PHOTO, said)
        return answers.having(SEEN, said[:120]).having(SEEN_SAID, True)

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return "a photo" if inspecting.is_photo(reading.code.strip()) else "a remark"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        return {"photo": True, "picture": answers[PHOTO]} if answers[PHOTO] else {"photo": True}

    def title(self, ctx: Context, answers: Answers) -> str:
        return "What did you see?"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return True

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        yield typed("a remark", "box was opened")


PROMPTS: dict[Asks, PromptKind] = {
    Asks.RETURNED_BY: ReturnedByKind(),
    Asks.RETURN_ITEM: ReturnItemKind(),
    Asks.RETURN_LOT: ReturnLotKind(),
    Asks.RETURN_SERIALS: ReturnSerialsKind(),
    Asks.RETURN_COUNT: ReturnCountKind(),
    Asks.DISPOSITION: DispositionKind(),
    Asks.RETURN_REMARK: ReturnRemarkKind(),
}
"""What it asks."""
