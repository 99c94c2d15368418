"""How its acts are decided: what is counted on the floor, and what the office says of that."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, CountNo
from mindful_crate.core.floor.counts import CountLine, CountSheet
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.counting import adjusting, looking, posting, sheets
from mindful_crate.core.work.counting.acts import (
    CountAgain,
    CountAsLabelled,
    CountGoods,
    CountNothing,
    CountPlateHere,
    DropCount,
    EnterCounts,
)
from mindful_crate.core.work.counting.correcting import check_plate
from mindful_crate.core.work.counting.events import CountDropped, LineAgain, LineCounted
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.decide import reason


def _open(state: State, count: CountNo, code: BinCode) -> CountSheet:
    sheet = looking.sheet_of(state, count)
    if sheet.dropped and not sheet.unposted:
        raise Refusal("dropped", f"`{count}` is counted no more: {sheet.dropped}.", "count")
    looking.check_on(state, sheet, code)
    return sheet


def _count(state: State, making: Making, _: Rulebook, stamp: Stamp, act: CountGoods) -> str:
    sheet = _open(state, act.count, act.bin)
    item = state.ground.items.get(act.item)
    if item is None:
        raise Refusal("unknown_item", f"There is no item `{act.item}`.", "item")
    if not 0 <= act.quantity <= looking.MOST:
        raise Refusal("bad_number", "Count nought or more, and no more than can be.", "quantity")
    if act.serials and len(act.serials) != act.quantity:
        raise Refusal("not_each", "Each piece has a number of its own: scan all of them.", "serials")
    line = looking.meant(sheet, act.bin, act.item, act.plate, act.lot if item.lots else None, stamp.who)
    if line is None:
        if not act.quantity:
            raise Refusal(
                "nothing_found", f"By the book there is no {item.name} here: there is nothing to count.", "quantity"
            )
        line = _found(state, sheet, act, item)
    _check_counter(line, stamp)
    said_ = _counts(state, making, stamp, act.count, line, act.quantity, act.serials)
    _nothing_more(state, making, stamp, act.count, act.bin)
    return said(said_, _all_counted(state, act.count, stamp))


def _found(state: State, sheet: CountSheet, act: CountGoods, item: Item) -> CountLine:
    """A line for what was found and is not on the sheet."""
    expiry = looking.expiry_of(state, item, act.lot)
    return CountLine(
        len(sheet.lines) + 1, act.bin, item.code, act.lot if item.lots else "", expiry, plate=act.plate, found=True
    )


def _check_counter(line: CountLine, stamp: Stamp) -> None:
    if line.posted:
        raise Refusal("posted", "That was counted and taken into the books already. Ask for another count.")
    if stamp.who in line.not_by:
        raise Refusal("other_person", "You counted that already. Somebody else counts it again.")
    if line.counted is not None and line.by != stamp.who:
        raise Refusal("counted_already", f"@{line.by} counted that already. The office may ask for it again.")


def _counts(
    state: State, making: Making, stamp: Stamp, count: CountNo, line: CountLine, much: int, serials: tuple[str, ...] = ()
) -> str:  # fmt: skip
    """A line is counted; one that differs greatly is counted again by somebody else."""
    now = evolve(line, book=looking.by_the_book(state, line), counted=much, serials=serials, by=stamp.who, at=stamp.at)
    making.event(LineCounted(count, now))
    what = looking.told(state, line)
    where = f"on `{line.plate}`" if line.plate else f"in `{line.bin}`"
    much_told = state.ground.items[line.item].told(much) if line.item and much else "Nothing"
    says = f"{much_told} of {what} {where}." if line.item else f"Nothing {where}."
    if not line.before and looking.is_great(state.counts[count], now):
        making.event(LineAgain(count, line.no, "it differs greatly from the book"))
        return f"{says} Somebody else counts it again."
    return says


def _nothing_more(state: State, making: Making, stamp: Stamp, count: CountNo, code: BinCode) -> None:
    """Where something was found, the line that says that there is nothing is counted with it."""
    for line in state.counts[count].lines:
        if line.bin == code and line.item is None and line.counted is None:
            making.event(LineCounted(count, evolve(line, counted=0, by=stamp.who, at=stamp.at)))


def _nothing(state: State, making: Making, _: Rulebook, stamp: Stamp, act: CountNothing) -> str:
    sheet = _open(state, act.count, act.bin)
    mine = [x for x in looking.mine(sheet, stamp.who) if x.bin == act.bin]
    if not mine:
        raise Refusal("all_counted", f"All of `{act.bin}` that is yours to count is counted.", "bin")
    says = [_counts(state, making, stamp, act.count, x, 0) for x in mine]
    return said(*says, _all_counted(state, act.count, stamp))


def _as_labelled(state: State, making: Making, _: Rulebook, stamp: Stamp, act: CountAsLabelled) -> str:
    sheet = looking.sheet_of(state, act.count)
    mine = [x for x in looking.mine(sheet, stamp.who) if x.plate == act.plate]
    if not mine:
        raise Refusal("all_counted", f"Nothing on `{act.plate}` is yours to count on `{act.count}`.", "plate")
    says = [_counts(state, making, stamp, act.count, x, looking.by_the_book(state, x), _pieces(state, x)) for x in mine]
    return said(*says, _all_counted(state, act.count, stamp))


def _pieces(state: State, line: CountLine) -> tuple[str, ...]:
    """The numbers of the pieces that by the book are there."""
    if line.item is None or line.item not in state.serials.kept:
        return ()
    return tuple(n for g in state.ledger.at(line.spot) if line.is_of(g) for n in state.serials.at(line.spot, g))


def _plate_here(state: State, making: Making, _: Rulebook, stamp: Stamp, act: CountPlateHere) -> str:
    sheet = _open(state, act.count, act.bin)
    if not state.has_plate(act.plate):
        raise Refusal("unknown_plate", f"There is no plate `{act.plate}`: count what is on it as loose goods.", "plate")
    at = state.bin_of(act.plate)
    if at == act.bin:
        raise Refusal("is_here", f"By the book `{act.plate}` stands here: scan it to count it.", "plate")
    check_plate(state, act.plate)
    if at is None:
        raise Refusal("carried", f"By the book somebody carries `{act.plate}`: have it set down first.", "plate")
    if any(x.plate == act.plate and x.found for x in sheet.lines):
        raise Refusal("all_counted", f"`{act.plate}` is on the sheet already.", "plate")
    much: dict[Goods, int] = {}
    for goods in state.plates.goods_on(act.plate):
        key = evolve(goods, quantity=0, arrived=None)
        much[key] = much.get(key, 0) + goods.quantity
    if not much:
        raise Refusal("nothing_on_it", f"By the book nothing is on `{act.plate}`.", "plate")
    for n, (g, quantity) in enumerate(much.items(), start=len(sheet.lines) + 1):
        line = CountLine(
            n,
            act.bin,
            g.item,
            g.lot,
            g.expiry,
            g.status,
            act.plate,
            0,
            quantity,
            by=stamp.who,
            at=stamp.at,
            found=True,
            shifted=True,
        )
        making.event(LineCounted(act.count, line))
    _nothing_more(state, making, stamp, act.count, act.bin)
    says = f"`{act.plate}` is found in `{act.bin}`; by the book it stands in `{at}`, from where it is shifted once this is posted."
    return said(says, _all_counted(state, act.count, stamp))


def _all_counted(state: State, count: CountNo, stamp: Stamp) -> str:
    sheet = state.counts[count]
    if not sheet.open_lines:
        return f"All of `{count}` is counted."
    if not looking.mine(sheet, stamp.who):
        rest = counted(len(sheet.open_lines), "line")
        return f"All of `{count}` that is yours is counted; {rest} of it somebody else counts again."
    return ""


# In the office


def _entered(state: State, making: Making, _: Rulebook, stamp: Stamp, act: EnterCounts) -> str:
    sheet = looking.sheet_of(state, act.count)
    if sheet.dropped:
        raise Refusal("dropped", f"`{act.count}` is counted no more: {sheet.dropped}.", "count")
    if not act.lines:
        raise Refusal("no_lines", "Say how many there are of some line.", "lines")
    counter = evolve(stamp, acting_for=act.by) if act.by else stamp
    again = 0
    for each in act.lines:
        line = sheet.line(each.line)
        if line is None:
            raise Refusal("no_line", f"`{act.count}` has no line {each.line}.", "lines")
        if not 0 <= each.quantity <= looking.MOST or (line.item is None and each.quantity):
            says = f"Line {each.line}: count nought or more, and no more than can be."
            if line.item is None:
                says = f"Line {each.line} says that `{line.bin}` is empty. What was found there is counted on a handset: it gets a line of its own."
            raise Refusal("bad_number", says, "lines")
        if line.item in state.serials.kept and len(set(each.serials)) != each.quantity:
            says = f"Line {each.line}: each piece of {looking.told(state, line)} has a number of its own: name all {each.quantity}."
            raise Refusal("not_each", says, "lines")
        if line.counted is not None:
            raise Refusal(
                "counted_already",
                f"Line {each.line}: @{line.by} counted that already. It may be counted again.",
                "lines",
            )
        if counter.who in line.not_by:
            raise Refusal(
                "other_person",
                f"Line {each.line} was counted by @{counter.who} before: somebody else counts it again.",
                "lines",
            )
        serials = each.serials if line.item in state.serials.kept else ()
        _counts(state, making, counter, act.count, line, each.quantity, serials)
        sheet = state.counts[act.count]
        again += sheet.lines[each.line - 1].counted is None
    by = f" by @{act.by}" if act.by and act.by != stamp.who else ""
    says = f"{counted(len(act.lines), 'line')} of `{act.count}` counted{by} on paper."
    greatly = (
        f"{counted(again, 'line')} {'differs' if again == 1 else 'differ'} greatly: somebody else counts again."
        if again
        else ""
    )
    return said(says, greatly, _all_counted(state, act.count, counter))


def _again(state: State, making: Making, _: Rulebook, __: Stamp, act: CountAgain) -> str:
    sheet = looking.sheet_of(state, act.count)
    if not act.lines:
        raise Refusal("no_lines", "Say which lines are counted again.", "lines")
    for no in dict.fromkeys(act.lines):
        line = sheet.line(no)
        if line is None or line.counted is None:
            raise Refusal("not_counted", f"Line {no} of `{act.count}` is not counted yet.", "lines")
        if line.posted:
            raise Refusal("posted", f"Line {no} of `{act.count}` is in the books already.", "lines")
        if line.item is None or looking.found_plate(state, line) is not None:
            raise Refusal(
                "not_again",
                f"Line {no} of `{act.count}` says that something is there or is not: count the bin instead.",
                "lines",
            )
        making.event(LineAgain(act.count, no, act.why.strip() or "the office asks for it"))
    return f"{counted(len(set(act.lines)), 'line')} of `{act.count}` {'is' if len(set(act.lines)) == 1 else 'are'} counted again, by somebody else."


def _drop(state: State, making: Making, _: Rulebook, __: Stamp, act: DropCount) -> str:
    sheet = looking.sheet_of(state, act.count)
    if not sheet.open_lines:
        raise Refusal("all_counted", f"All of `{act.count}` is counted: post it, or count it again.", "count")
    why = reason(act.why)
    rest = len(sheet.open_lines)
    making.event(CountDropped(act.count, why))
    sheets.free_bins(state, making, act.count)
    waits = f" {counted(len(sheet.unposted), 'line')} that were counted wait to be posted." if sheet.unposted else ""
    return f"{counted(rest, 'line')} of `{act.count}` {'is' if rest == 1 else 'are'} counted no more: {why}.{waits}"


DECIDES = (
    *sheets.DECIDES,
    deciding(CountGoods, _count),
    deciding(CountNothing, _nothing),
    deciding(EnterCounts, _entered),
    deciding(CountAsLabelled, _as_labelled),
    deciding(CountPlateHere, _plate_here),
    deciding(CountAgain, _again),
    deciding(DropCount, _drop),
    *posting.DECIDES,
    *adjusting.DECIDES,
)
"""How its acts are decided."""
