"""Pieces that are kept by serial numbers: which ones are meant where so many of them go on, and what their prompts share.

It serves all matters and knows none. Who takes all of a kind from a place need not say which; who takes all that a receipt brought
there need not either; otherwise each piece is named by its number.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.checking import odd_serial
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import ItemCode, ReceiptNo
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.plates import Holder, Spot
from mindful_crate.core.floor.serials import Lies, Serials
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.flows import Prompt
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.scanning.codes import any_bin, item_code, plain
from mindful_crate.core.scanning.kinds import ITEM, SERIALS, Codes, Context, PromptKind, Wanted
from mindful_crate.core.scanning.question import Keys, Question, Shape
from mindful_crate.core.scanning.reading import Read, Reading, told

LISTED = 6
"""So many numbers are named in a sentence."""


def spot_told(spot: Spot) -> str:
    """Where a piece is, in words."""
    match spot.holder:
        case Holder.BIN:
            return f"in `{spot.code}`"
        case Holder.PLATE:
            return f"on plate `{spot.code}`"
        case _:
            return f"in the hands of who does `{spot.code}`"


def numbers_told(numbers: Sequence[str]) -> str:
    """Some numbers, in words: ```A`, `B` and 4 more``."""
    more = len(numbers) - LISTED
    first = [f"`{n}`" for n in numbers[:LISTED]]
    return ", ".join(first) + f" and {more} more" if more > 0 else all_of(first)


def clear(state: State, spot: Spot, goods: Goods, receipts: Iterable[ReceiptNo] = ()) -> tuple[str, ...] | None:
    """Which pieces so many of these goods are, where nobody has to say: all that lie there, or all that ``receipts`` brought there.
    None: somebody has to say."""
    there = state.serials.at(spot, goods)
    if len(there) <= goods.quantity:
        return there
    brought = {n for r in receipts for x in state.receipts[r].lines if x.item == goods.item for n in x.serials}
    mine = tuple(n for n in there if n in brought)
    return mine if len(mine) == goods.quantity else None


def named(
    state: State, spot: Spot, goods: Iterable[Goods], said: Iterable[str] = (), receipts: Iterable[ReceiptNo] = ()
) -> tuple[Serials, ...]:
    """The pieces that goods taken from a place are, as an event says them: none where all of their kind are. Refused when somebody
    has to say, and when what is said is not so."""
    found: dict[ItemCode, tuple[str, ...]] = {}
    said, receipts = tuple(said), tuple(receipts)
    for each in goods:
        if each.item not in state.serials.kept:
            continue
        there = state.serials.at(spot, each)
        mine: tuple[str, ...] | None = tuple(n for n in said if n in there)
        if not said:
            mine = clear(state, spot, each, receipts)
        if mine is None or len(mine) != each.quantity:
            raise _which(state.ground.items[each.item], each.quantity, spot, there)
        if len(there) > each.quantity:
            found[each.item] = (*found.get(each.item, ()), *mine)
    return tuple(Serials(item, numbers) for item, numbers in found.items())


def _which(item: Item, quantity: int, spot: Spot, there: Sequence[str]) -> Refusal:
    says = f"{item.told(quantity)} of {item.name} go on, and {len(there):,} are {spot_told(spot)}: say which, by their serial numbers. There are {numbers_told(there)}."
    return Refusal("which_pieces", says, "serials")


def of_pieces(state: State, spot: Spot, there: tuple[Goods, ...], serials: tuple[str, ...]) -> tuple[Goods, ...]:
    """The goods that some pieces are, each kind with as many as are named of it."""
    counted = ((g, sum(n in serials for n in state.serials.at(spot, g))) for g in there)
    return tuple(evolve(g, quantity=n) for g, n in counted if n)


def pieces_wanted(state: State, spot: Spot, there: tuple[Goods, ...], quantity: int, what: str) -> Wanted | None:
    """The pieces that must be named when so many of some goods go on; None: it is all of them, or they have no numbers."""
    if not there or there[0].item not in state.serials.kept or sum(g.quantity for g in there) <= quantity:
        return None
    where = "in your hands" if spot.holder is Holder.TASK else spot_told(spot)
    return Wanted(state.ground.items[there[0].item], quantity, state.serials.of(spot, there), where, what)


def check_new(state: State, item: Item, serials: Sequence[str]) -> None:
    """Refuse numbers that are none, are said twice, or are of a piece that is here already."""
    seen: set[str] = set()
    for serial in serials:
        if says := odd_serial(serial):
            raise Refusal("no_serial", f"{says}.", "serials")
        if serial in seen:
            raise Refusal("serial_twice", f"`{serial}` of {item.name} is said twice.", "serials")
        seen.add(serial)
        lies = state.serials.where(item.code, serial)
        if lies is not None and lies.spot is not None:
            says = f"`{serial}` of {item.name} is here already, {spot_told(lies.spot)}. Look at the number again."
            raise Refusal("serial_here", says, "serials")
        if on := state.plates.lines.noted.get((item.code, serial)):
            raise Refusal("serial_noted", f"`{serial}` of {item.name} is noted on `{on}` already.", "serials")


def check_numbers(item: Item, quantity: int, serials: Sequence[str]) -> None:
    """Refuse goods that are kept by serial numbers without one for each piece, and numbers of others."""
    if not item.numbered:
        if serials:
            raise Refusal("no_serials_kept", f"`{item.code}` {item.name} is not kept by serial numbers.", "serials")
        return
    if len(serials) != quantity:
        says = (
            f"`{item.code}` {item.name} is kept by serial numbers: {len(serials):,} are said of {item.told(quantity)}."
        )
        raise Refusal("serials_missing", says, "serials")


def elsewhere(ctx: Context, item: ItemCode, serial: str) -> Dialogue | None:
    """The open dialogue of another handset in which a number was scanned and not noted yet."""
    for number in ctx.state.dialogues:
        each = ctx.state.dialogues[number]
        mine = not each.open or each.device == ctx.device
        if not mine and each.answers[ITEM] == item and serial in each.answers[SERIALS]:
            return each
    return None


class OneByOne(PromptKind):
    """Serial numbers, one scan a piece."""

    wants = "a serial number"
    shape: Shape = "carton"
    keys: Keys = "text"
    reads = Read.SERIAL

    def about(self, ctx: Context, answers: Answers) -> tuple[Item, int] | None:
        """The item, and how many pieces of it are scanned; 0: as many as there are. None: nothing is asked."""
        raise NotImplementedError

    def check(self, ctx: Context, answers: Answers, serial: str) -> None:
        """Refuse a number that is none of those."""
        raise NotImplementedError

    def filled(self, ctx: Context, answers: Answers) -> Answers:
        """The answers when one more was scanned."""
        return answers

    def needed(self, ctx: Context, answers: Answers) -> bool:
        found = self.about(ctx, answers)
        return found is not None and (not found[1] or len(answers[SERIALS]) < found[1])

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        item = self._item(ctx, answers)
        serial = reading.serial
        if reading.kind is Read.ITEM and reading.item == item.code and not serial:
            raise Refusal("same_item", f"That is the code of {item.name}. Scan the number of the piece.")
        if not serial or (reading.kind is Read.ITEM and reading.item != item.code):
            if reading.kind is Read.UNKNOWN:
                raise Refusal("no_serial", f"{odd_serial(reading.code)}.")
            raise Refusal("wrong_kind", f"That is {told(reading)}; scan the serial number of a piece of {item.name}.")
        return self.filled(ctx, self.more(ctx, answers, serial))

    def more(self, ctx: Context, answers: Answers, serial: str) -> Answers:
        """The answers with one more number; refused when it is none."""
        item = self._item(ctx, answers)
        if serial in answers[SERIALS]:
            says = f"`{serial}` of {item.name} was scanned already. Scan the number of the next piece."
            raise Refusal("serial_twice", says)
        self.check(ctx, answers, serial)
        return answers.having(SERIALS, (*answers[SERIALS], serial))

    def _item(self, ctx: Context, answers: Answers) -> Item:
        found = self.about(ctx, answers)
        assert found is not None
        return found[0]

    def heard(self, ctx: Context, answers: Answers, reading: Reading) -> str:
        return f"serial number `{reading.serial}`" if reading.serial else ""

    def title(self, ctx: Context, answers: Answers) -> str:
        found = self.about(ctx, answers)
        assert found is not None
        scanned = len(answers[SERIALS])
        so_far = f"{scanned} of {found[1]}" if found[1] else f"{scanned} so far"
        return f"Scan the serial number of the next piece: {so_far}"

    def asked(self, ctx: Context, answers: Answers) -> str:
        return f"the serial number of a piece of {self._item(ctx, answers).name}"

    def counts(self, ctx: Context, answers: Answers) -> bool:
        return False  # most items have none


class PiecesKind(OneByOne):
    """Which pieces are meant, where it is not clear by itself: the flow says of which so many are."""

    def _wanted(self, ctx: Context, answers: Answers) -> Wanted | None:
        return ctx.kind.pieces(ctx, answers)

    def about(self, ctx: Context, answers: Answers) -> tuple[Item, int] | None:
        wanted = self._wanted(ctx, answers)
        return (wanted.item, wanted.quantity) if wanted else None

    def check(self, ctx: Context, answers: Answers, serial: str) -> None:
        wanted = self._wanted(ctx, answers)
        assert wanted is not None
        if serial in wanted.among:
            return
        if serial in wanted.promised:
            raise Refusal(
                "ordered_piece", f"`{serial}` was ordered by its number by somebody else. Take another piece."
            )
        lies: Lies | None = ctx.state.serials.where(wanted.item.code, serial)
        where = f" It is {spot_told(lies.spot)}." if lies and lies.spot else ""
        says = f"`{serial}` is none of the pieces of {wanted.item.name} {wanted.where}.{where}"
        raise Refusal("other_piece", says)

    def title(self, ctx: Context, answers: Answers) -> str:
        wanted = self._wanted(ctx, answers)
        assert wanted is not None
        return f"Which piece {wanted.what}? {len(answers[SERIALS])} of {wanted.quantity} are scanned"

    def shows(self, ctx: Context, answers: Answers, prompt: Prompt) -> dict[str, Any]:
        wanted = self._wanted(ctx, answers)
        assert wanted is not None
        return {"note": wanted.note or f"{len(wanted.among):,} are {wanted.where}"}

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        wanted = self._wanted(ctx, answers)
        assert wanted is not None
        left = [n for n in wanted.among if n not in answers[SERIALS]]
        for number in left[:3]:
            yield plain(f"piece {number}", number)
        for number in answers[SERIALS][-1:]:
            yield plain(f"piece {number}, once more", number)
        yield plain("a piece that is not there", f"{wanted.item.code}-0000"[:20])
        yield from item_code(ctx, wanted.item, wanted.item.base.code)
        yield from any_bin(ctx)
