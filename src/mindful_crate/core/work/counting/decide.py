"""How its acts are decided: counting, and correcting what the books say."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Item, Status, Tracking
from mindful_crate.core.catalog.ids import BinCode, CountNo, CountPlanId, ItemCode, PlateNo
from mindful_crate.core.catalog.places import PlateNeed
from mindful_crate.core.floor.counts import CountLine, CountSheet
from mindful_crate.core.floor.ledger import Cause
from mindful_crate.core.floor.plates import Spot, in_bin, on_plate
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.fit import Lying
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import CountPlan
from mindful_crate.core.rulebook.times import clock
from mindful_crate.core.rulebook.words.parts import STATUSES, counted
from mindful_crate.core.work import numbered
from mindful_crate.core.work.counting import looking
from mindful_crate.core.work.counting.acts import (
    AdjustStock,
    ChangeStatus,
    CountAgain,
    CountAsLabelled,
    CountGoods,
    CountNothing,
    CountPlateHere,
    CountsDue,
    DropCount,
    MakeCounts,
    PostCount,
    RunCountPlan,
)
from mindful_crate.core.work.counting.correcting import check_loose, check_plate, found_again, give_up, lost
from mindful_crate.core.work.counting.events import (
    CountDropped,
    CountPosted,
    CountsAwaited,
    LineAgain,
    LineCounted,
    PlateFound,
    SheetMade,
    StatusChanged,
    StockCorrected,
)
from mindful_crate.core.work.counting.fold import BY_CLOCK
from mindful_crate.core.work.host.decide import tell_host
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import BinBlocked, StockReserved
from mindful_crate.core.work.tasks.decide import reason

MOST = 10**9
"""So much of an item lies nowhere."""
BY_HAND = CountPlan(CountPlanId(""), "by hand")
"""How bins are counted that no plan counts."""
MOST_BY_HAND = 5_000
"""So many bins may be chosen at once."""


def _sheets(state: State, making: Making, plan: CountPlan, codes: Sequence[BinCode], why: str) -> list[CountNo]:
    """Sheets of these bins, as the plan splits them."""
    made: list[CountNo] = []
    for lines in looking.split(state, plan, codes):
        number = CountNo(making.draw("count"))
        event = SheetMade(
            number, plan.id or None, why, tuple(lines), plan.book_shown, plan.closes, plan.tolerance, plan.own_posts
        )
        making.event(event)
        made.append(number)
        if plan.closes:
            for code in dict.fromkeys(x.bin for x in lines):
                if not state.blocked(code):
                    making.event(BinBlocked(code, _closed_by(number)))
    return made


def _closed_by(number: CountNo) -> str:
    return f"it is counted on {number}"


def _made(state: State, numbers: Sequence[CountNo]) -> str:
    lines = sum(len(state.counts[n].lines) for n in numbers)
    bins = len({x.bin for n in numbers for x in state.counts[n].lines})
    sheets = f"`{numbers[0]}`" if len(numbers) == 1 else f"`{numbers[0]}` to `{numbers[-1]}`"
    return f"{counted(bins, 'bin')} {'is' if bins == 1 else 'are'} to be counted on {sheets}, {counted(lines, 'line')}."


def _make(state: State, making: Making, rulebook: Rulebook, __: Stamp, act: MakeCounts) -> str:
    codes = list(dict.fromkeys(act.bins))
    if not codes:
        raise Refusal("no_bins", "Say which bins are to be counted.", "bins")
    if len(codes) > MOST_BY_HAND:
        raise Refusal("too_many", f"Choose {MOST_BY_HAND:,} bins at most at a time.", "bins")
    by_plan: dict[CountPlanId, tuple[CountPlan, list[BinCode]]] = {}
    for code in codes:
        if code not in state.ground.bins or state.ground.site_of(code) != state.settings.site:
            raise Refusal("unknown_bin", f"There is no bin `{code}` at this site.", "bins")
        if (known := state.counts.with_bin(code)) is not None:
            raise Refusal(
                "on_a_sheet", f"Bin `{code}` is on `{known}` already: a bin is on one sheet at a time.", "bins"
            )
        plan = looking.plan_of(state, rulebook, code) or BY_HAND
        by_plan.setdefault(plan.id, (plan, []))[1].append(code)
    made = [n for plan, some in by_plan.values() for n in _sheets(state, making, plan, some, "chosen by the office")]
    return _made(state, made)


def _run(state: State, making: Making, rulebook: Rulebook, __: Stamp, act: RunCountPlan) -> str:
    plan = next((p for p in rulebook.counts_at(state.settings.site) if p.id == act.plan), None)
    if plan is None:
        raise Refusal("unknown_plan", f"There is no count plan `{act.plan}` in force here.", "plan")
    codes = looking.due_by(state, rulebook, plan)
    if not codes:
        raise Refusal("nothing_due", f"By {plan.name} no bin is due that is not on a sheet already.", "plan")
    return _made(state, _sheets(state, making, plan, codes, f"due by {plan.name}"))


def _due(state: State, making: Making, rulebook: Rulebook, __: Stamp, act: CountsDue) -> str:
    if BY_CLOCK not in state.counts_awaited:
        raise Refusal("not_due", "Nothing is to be counted by the clock.")
    told = [f"It is {clock(act.minute)}."]
    for plan in (p for p in rulebook.counts_at(state.settings.site) if act.minute in p.minutes):
        codes = looking.due_by(state, rulebook, plan)
        told.append(
            _made(state, _sheets(state, making, plan, codes, f"due by {plan.name}"))
            if codes
            else f"By {plan.name} nothing is due."
        )
    making.event(CountsAwaited(_minutes(state, rulebook)))
    return said(*told)


def _minutes(state: State, rulebook: Rulebook) -> tuple[int, ...]:
    return tuple(sorted({m for p in rulebook.counts_at(state.settings.site) for m in p.minutes}))


# Counting


def _open(state: State, count: CountNo, code: BinCode) -> CountSheet:
    sheet = looking.sheet_of(state, count)
    if sheet.dropped and not sheet.unposted:
        raise Refusal("dropped", f"`{count}` is counted no more: {sheet.dropped}.", "count")
    if all(x.bin != code for x in sheet.lines):
        other = state.counts.with_bin(code)
        beside = f" It is on `{other}`." if other else " Tell the office, if it should be counted."
        raise Refusal("not_on_sheet", f"Bin `{code}` is not on `{count}`.{beside}", "bin")
    return sheet


def _count(state: State, making: Making, _: Rulebook, stamp: Stamp, act: CountGoods) -> str:
    sheet = _open(state, act.count, act.bin)
    item = state.ground.items.get(act.item)
    if item is None:
        raise Refusal("unknown_item", f"There is no item `{act.item}`.", "item")
    if not 0 <= act.quantity <= MOST:
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
    if item.lots and not act.lot:
        raise Refusal("no_lot", f"{item.name} is kept by lot: scan which.", "lot")
    expiry = state.lot_expiry(item.code, act.lot) if item.lots else None
    if item.tracking is Tracking.LOT_EXPIRY and expiry is None:
        says = (
            f"Lot `{act.lot}` of {item.name} was never here, so nobody knows when it expires. Let the office enter it."
        )
        raise Refusal("new_lot", says, "lot")
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
        if line.item is None or (line.found and line.plate and state.bin_of(line.plate) != line.bin):
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
    _free_bins(state, making, act.count)
    waits = f" {counted(len(sheet.unposted), 'line')} that were counted wait to be posted." if sheet.unposted else ""
    return f"{counted(rest, 'line')} of `{act.count}` {'is' if rest == 1 else 'are'} counted no more: {why}.{waits}"


def _free_bins(state: State, making: Making, count: CountNo) -> None:
    for code in dict.fromkeys(x.bin for x in state.counts[count].lines):
        if state.blocked(code) == _closed_by(count) and state.counts.with_bin(code) != count:
            making.event(BinBlocked(code))


def _post(state: State, making: Making, _: Rulebook, stamp: Stamp, act: PostCount) -> str:
    sheet = looking.sheet_of(state, act.count)
    wanted = [sheet.line(n) for n in dict.fromkeys(act.lines)] if act.lines else list(sheet.unposted)
    if not wanted:
        raise Refusal("nothing_counted", f"Nothing of `{act.count}` is counted that is not in the books.", "count")
    post: list[CountLine] = []
    held: list[str] = []
    for line in wanted:
        if line is None or line.counted is None or line.posted:
            raise Refusal("not_counted", f"Not all of these lines of `{act.count}` are counted and waiting.", "lines")
        why = _why_not(state, sheet, line, stamp)
        if why and act.lines:
            raise Refusal(why[0], f"Line {line.no}: {why[1]}", "lines")
        if why:
            held.append(f"line {line.no}: {why[1]}")
        else:
            post.append(line)
    if not post:
        raise Refusal("nothing_to_post", f"Nothing of `{act.count}` may be posted: {held[0]}", "count")
    told: list[str] = []
    off = 0
    for line in sorted(post, key=lambda x: (not x.found, x.no)):
        off += line.difference != 0
        told += _into_books(state, making, stamp, sheet, line)
    nos = tuple(sorted(x.no for x in post))
    now = set(nos)
    full = {x.bin for x in sheet.lines} - {x.bin for x in sheet.lines if not x.posted and x.no not in now}
    making.event(CountPosted(act.count, nos, tuple(sorted(full & {x.bin for x in post}))))
    _free_bins(state, making, act.count)
    if any(x.difference and x.item is not None and not x.shifted for x in post):
        tell_host(state, making, stamp, "book_count", act.count)
    differ = f", {counted(off, 'difference')}" if off else ", no difference"
    rest = f" Not posted: {'; '.join(held[:3])}{f' and {len(held) - 3} more' if len(held) > 3 else ''}" if held else ""
    return said(
        f"{counted(len(post), 'line')} of `{act.count}` {'is' if len(post) == 1 else 'are'} in the books{differ}.{rest}",
        *told[:6],
    )


def _why_not(state: State, sheet: CountSheet, line: CountLine, stamp: Stamp) -> tuple[str, str] | None:
    """Why a line may not be posted now."""
    if line.by == stamp.who and not sheet.own_posts:
        return "own_count", "you counted it; somebody else takes it into the books."
    if line.found and line.plate and state.has_plate(line.plate) and state.bin_of(line.plate) != line.bin:
        return None
    if off := looking.moved(state, line):
        item = state.ground.items[line.item] if line.item else None
        much = f"{item.told(abs(off))} of {item.name}" if item else "something"
        return (
            "moved_since",
            f"{much} {'came' if off > 0 else 'went'} since it was counted in `{line.bin}`: count it again.",
        )
    return None


def _into_books(state: State, making: Making, stamp: Stamp, sheet: CountSheet, line: CountLine) -> list[str]:
    """Let the books say what was found; what is said of what follows."""
    if line.item is None or line.counted is None:
        return []
    why = f"counted on {sheet.number}"
    if line.found and line.plate and state.has_plate(line.plate) and state.bin_of(line.plate) != line.bin:
        check_plate(state, line.plate)
        making.event(PlateFound(stamp.who, line.plate, line.bin, sheet.number))
        return [f"`{line.plate}` stands in `{line.bin}` now.", *_forbidden(state, line)]
    if line.plate and state.bin_of(line.plate) != line.bin:
        return []  # it was found elsewhere, and is there by the books already
    kinds = tuple(g for g in state.ledger.at(line.spot) if line.is_of(g))
    told: list[str] = []
    if line.item in state.serials.kept:
        told += _numbered(state, making, stamp, line, kinds, why, sheet.number)
    elif line.difference < 0:
        told += lost(
            state, making, stamp, Cause.COUNT, line.bin, line.spot, kinds, -line.difference, why, count=sheet.number
        )
    elif line.difference > 0:
        like = kinds[0] if kinds else evolve(line.goods, arrived=stamp.today)
        more = (evolve(like, quantity=line.difference),)
        making.event(StockCorrected(stamp.who, Cause.COUNT, line.bin, line.spot, more, False, why, count=sheet.number))
        told += _forbidden(state, line)
    if state.has_reservations(line.item):
        left = tuple(g for g in state.ledger.at(line.spot) if line.is_of(g))
        found_again(state, making, line.bin, line.plate, left)
    return told


def _numbered(
    state: State, making: Making, stamp: Stamp, line: CountLine, kinds: tuple[Goods, ...], why: str, count: CountNo
) -> list[str]:  # fmt: skip
    """Pieces with numbers: those that are not there are gone, those that by the book are elsewhere come from there."""
    assert line.item is not None
    here = [n for g in kinds for n in state.serials.at(line.spot, g)]
    missing = tuple(n for n in here if n not in line.serials)
    told: list[str] = []
    if missing:
        for goods in numbered.of_pieces(state, line.spot, kinds, missing):
            told += give_up(state, making, _lying(line.bin, line.plate, goods, kinds), goods.quantity)
        parts = numbered.of_pieces(state, line.spot, kinds, missing)
        named = numbered.named(state, line.spot, parts, missing)
        making.event(StockCorrected(stamp.who, Cause.COUNT, line.bin, line.spot, parts, True, why, named, count=count))
        told.append(f"{', '.join(f'`{n}`' for n in missing[:4])} {'is' if len(missing) == 1 else 'are'} gone.")
    for number in (n for n in line.serials if n not in here):
        lies = state.serials.where(line.item, number)
        if lies is None or lies.spot is None:
            told.append(f"`{number}` was never here: it is not taken into the books. Receive it.")
            continue
        parts = (evolve(lies.goods, quantity=1),)
        making.event(
            StockCorrected(
                stamp.who,
                Cause.COUNT,
                line.bin,
                line.spot,
                parts,
                False,
                why,
                (Serials(line.item, (number,)),),
                lies.spot,
                count,
            )
        )
        told.append(f"`{number}` comes from `{lies.spot.code}`, where it was by the book.")
    return told


def _lying(code: BinCode, plate: PlateNo | None, goods: Goods, kinds: Iterable[Goods]) -> Lying:
    return Lying(code, plate, next(k for k in kinds if k.alike(goods)))


def _forbidden(state: State, line: CountLine) -> list[str]:
    """What the bin does not allow is recorded all the same, and said."""
    each = state.ground.bins[line.bin]
    kind = state.ground.bin_types[each.bin_type]
    if line.plate is None and kind.plates is PlateNeed.REQUIRED:
        return [f"`{line.bin}` takes plates only; loose goods lie there now."]
    return []


def _adjust(state: State, making: Making, _: Rulebook, stamp: Stamp, act: AdjustStock) -> str:
    why = reason(act.why)
    item = state.ground.items.get(act.item)
    if item is None:
        raise Refusal("unknown_item", f"There is no item `{act.item}`.", "item")
    spot = _spot(state, act.bin, act.plate)
    if (sheet := state.counts.with_bin(act.bin)) is not None:
        raise Refusal(
            "on_a_sheet", f"Bin `{act.bin}` is being counted on `{sheet}`: post that, or drop it first.", "bin"
        )
    if not 0 <= act.quantity <= MOST:
        raise Refusal("bad_number", "There may be nought or more, and no more than can be.", "quantity")
    kinds = tuple(
        g
        for g in state.ledger.at(spot)
        if (g.item, g.lot, g.status) == (act.item, act.lot if item.lots else "", act.status)
    )
    book = sum(g.quantity for g in kinds)
    off = act.quantity - book
    if not off:
        raise Refusal("no_difference", f"By the book there are {item.told(book)} of {item.name} there.", "quantity")
    where = f"on `{act.plate}`" if act.plate else f"in `{act.bin}`"
    if item.code in state.serials.kept and (off > 0 or len(act.serials) != -off):
        says = f"{item.name} is kept by the numbers of its pieces: name those that are gone, or count the bin."
        raise Refusal("name_pieces", says, "serials")
    line = CountLine(
        1, act.bin, item.code, act.lot if item.lots else "", kinds[0].expiry if kinds else None, act.status, act.plate, book, act.quantity, (),
        stamp.who, stamp.at,
    )  # fmt: skip
    number = CountNo(making.draw("count"))
    making.event(SheetMade(number, None, why, (line,), own_posts=True))
    told: list[str] = []
    if off < 0 and act.serials:
        here = {n for g in kinds for n in state.serials.at(spot, g)}
        if odd := [n for n in act.serials if n not in here]:
            raise Refusal("not_there", f"`{odd[0]}` is not {where}.", "serials")
        parts = numbered.of_pieces(state, spot, kinds, act.serials)
        for goods in parts:
            told += give_up(state, making, _lying(act.bin, act.plate, goods, kinds), goods.quantity)
        named = numbered.named(state, spot, parts, act.serials)
        making.event(StockCorrected(stamp.who, Cause.ADJUSTMENT, act.bin, spot, parts, True, why, named, count=number))
    elif off < 0:
        told += lost(state, making, stamp, Cause.ADJUSTMENT, act.bin, spot, kinds, -off, why, count=number)
    else:
        if item.lots and not act.lot:
            raise Refusal("no_lot", f"{item.name} is kept by lot: say which.", "lot")
        expiry = state.lot_expiry(item.code, act.lot) if item.lots else None
        if item.tracking is Tracking.LOT_EXPIRY and expiry is None:
            raise Refusal(
                "new_lot", f"Lot `{act.lot}` of {item.name} was never here, so nobody knows when it expires.", "lot"
            )
        like = kinds[0] if kinds else Goods(item.code, 0, act.lot if item.lots else "", expiry, act.status, stamp.today)
        check_plate(state, act.plate)
        more = (evolve(like, quantity=off),)
        making.event(StockCorrected(stamp.who, Cause.ADJUSTMENT, act.bin, spot, more, False, why, count=number))
    making.event(CountPosted(number, (1,), ()))
    tell_host(state, making, stamp, "book_count", number)
    sign = f"{item.told(off)} more" if off > 0 else f"{item.told(-off)} less"
    return said(
        f"{sign} of {item.name} {where}, {item.told(act.quantity) if act.quantity else 'none'} now, as `{number}`: {why}.",
        *told[:6],
    )


def _spot(state: State, code: BinCode, plate: PlateNo | None) -> Spot:
    if code not in state.ground.bins or state.ground.site_of(code) != state.settings.site:
        raise Refusal("unknown_bin", f"There is no bin `{code}` at this site.", "bin")
    if plate is None:
        return in_bin(code)
    if not state.has_plate(plate) or state.bin_of(plate) != code:
        raise Refusal("not_there", f"Plate `{plate}` does not stand in `{code}`.", "plate")
    return on_plate(plate)


def _change(state: State, making: Making, _: Rulebook, stamp: Stamp, act: ChangeStatus) -> str:
    why = reason(act.why)
    if act.status is Status.INSPECT:
        raise Refusal("bad_status", "What waits to be inspected comes from a receipt: quarantine it instead.", "status")
    found = [
        x
        for x in _meant(state, act)
        if x.goods.status not in (act.status, Status.INSPECT) and act.was in (None, x.goods.status)
    ]
    if not found:
        says = f"Nothing is there, or all of it is {STATUSES[act.status]} already or waits to be inspected."
        raise Refusal("nothing_there", says, "status")
    told: list[str] = []
    much: dict[ItemCode, int] = {}
    for lying in found:
        check_plate(state, lying.plate)
        if lying.plate is None:
            check_loose(state, lying.bin, lying.goods)
        if act.status is not Status.AVAILABLE:
            told += give_up(state, making, lying, lying.goods.quantity)
        spot = on_plate(lying.plate) if lying.plate else in_bin(lying.bin)
        making.event(StatusChanged(stamp.who, lying.bin, spot, (lying.goods,), act.status, why))
        much[lying.goods.item] = much.get(lying.goods.item, 0) + lying.goods.quantity
    what = ", ".join(
        f"{state.ground.items[i].told(q)} of {state.ground.items[i].name}" for i, q in list(much.items())[:3]
    )
    more = f" and {len(much) - 3} more items" if len(much) > 3 else ""
    bins = counted(len({x.bin for x in found}), "bin")
    return said(
        f"{what}{more} in {bins} {'is' if sum(much.values()) == 1 else 'are'} {STATUSES[act.status].lower()} now: {why}.",
        *told[:6],
    )


def _meant(state: State, act: ChangeStatus) -> list[Lying]:
    """What lies in a bin, stands on a plate, or is of a lot wherever it lies."""
    if act.plate is not None:
        if not state.has_plate(act.plate) or (code := state.bin_of(act.plate)) is None:
            raise Refusal("unknown_plate", f"There is no plate `{act.plate}` that stands somewhere.", "plate")
        some = ((n, g) for n in state.plates.tower(act.plate) for g in state.plates.goods_on(n))
        return [Lying(code, n, g) for n, g in some if act.item in (None, g.item) and act.lot in ("", g.lot)]
    if act.bin is not None:
        _spot(state, act.bin, None)
        return [
            Lying(act.bin, plate, g)
            for plate, g in looking.goods_in(state, act.bin)
            if act.item in (None, g.item) and act.lot in ("", g.lot)
        ]
    if act.item is None or act.item not in state.ground.items:
        raise Refusal("say_what", "Say which bin, which plate, or which item and lot.", "item")
    here = state.settings.site
    return [x for x in state.lines(act.item) if act.lot in ("", x.goods.lot) and state.ground.site_of(x.bin) == here]


def after(state: State, making: Making, rulebook: Rulebook, __: Stamp) -> str:
    """What calls for a count by itself: goods that somebody did not find, a bin that became empty, the clock."""
    plans = rulebook.counts_at(state.settings.site)
    if not plans:
        return ""
    events = tuple(making.events)
    called: dict[BinCode, str] = {}
    for event in events:
        if isinstance(event, StockReserved) and event.missed_by is not None:
            called |= {part.bin: f"@{event.missed_by} did not find something" for part in event.parts}
    if any(p.at_zero for p in plans):
        for keeper, key, _ in state.journal.puts():
            if keeper is state.ledger.movements and key not in called and not _holds_something(state, key):
                called[key] = "it became empty"
    told: list[str] = []
    for code, why in called.items():
        plan = looking.plan_of(state, rulebook, code) if state.counts.with_bin(code) is None else None
        if plan is not None and (plan.at_zero if why == "it became empty" else plan.after_short):
            (number,) = _sheets(state, making, plan, [code], why)
            told.append(f"`{code}` is counted on `{number}`: {why}.")
    if BY_CLOCK not in state.counts_awaited and (minutes := _minutes(state, rulebook)):
        making.event(CountsAwaited(minutes))
    return said(*told)


def _holds_something(state: State, code: BinCode) -> bool:
    return any(True for _ in looking.goods_in(state, code))


DECIDES = (
    deciding(MakeCounts, _make),
    deciding(RunCountPlan, _run),
    deciding(CountsDue, _due),
    deciding(CountGoods, _count),
    deciding(CountNothing, _nothing),
    deciding(CountAsLabelled, _as_labelled),
    deciding(CountPlateHere, _plate_here),
    deciding(CountAgain, _again),
    deciding(DropCount, _drop),
    deciding(PostCount, _post),
    deciding(AdjustStock, _adjust),
    deciding(ChangeStatus, _change),
)
"""How its acts are decided."""
