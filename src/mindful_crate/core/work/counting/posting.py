"""What was counted is taken into the books."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import CountNo
from mindful_crate.core.catalog.places import PlateNeed
from mindful_crate.core.floor.counts import CountLine, CountSheet
from mindful_crate.core.floor.ledger import Cause
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.counting import looking
from mindful_crate.core.work.counting.acts import PostCount
from mindful_crate.core.work.counting.correcting import check_plate, found_again, lost, pieces_lost
from mindful_crate.core.work.counting.events import CountPosted, PlateFound, StockCorrected
from mindful_crate.core.work.counting.sheets import free_bins
from mindful_crate.core.work.host.decide import tell_host
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp


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
    free_bins(state, making, act.count)
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
    if looking.found_plate(state, line) is not None:
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
    if (plate := looking.found_plate(state, line)) is not None:
        check_plate(state, plate)
        making.event(PlateFound(stamp.who, plate, line.bin, sheet.number))
        return [f"`{plate}` stands in `{line.bin}` now.", *_forbidden(state, line)]
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
        told += pieces_lost(
            state, making, stamp, Cause.COUNT, line.bin, line.spot, kinds, missing, why, count=count
        )  # fmt: skip
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


def _forbidden(state: State, line: CountLine) -> list[str]:
    """What the bin does not allow is recorded all the same, and said."""
    each = state.ground.bins[line.bin]
    kind = state.ground.bin_types[each.bin_type]
    if line.plate is None and kind.plates is PlateNeed.REQUIRED:
        return [f"`{line.bin}` takes plates only; loose goods lie there now."]
    return []


DECIDES = (deciding(PostCount, _post),)
"""How its acts are decided."""
