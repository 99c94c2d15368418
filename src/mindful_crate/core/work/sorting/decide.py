"""How sorting is decided."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.amounts import portion
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateNo, WaveNo
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.plates import in_bin
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.standing import purpose_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Serves
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work import numbered
from mindful_crate.core.work.covering.decide import promise_anew
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking.arranging import Kept
from mindful_crate.core.work.picking.doing import (
    check_empty,
    check_need,
    doubted,
    given_up_of,
    keep_elsewhere,
    tote_kind,
)
from mindful_crate.core.work.picking.keeping import keep_where
from mindful_crate.core.work.picking.looking import check_pieces
from mindful_crate.core.work.refilling.asking import ask_for_orders
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.sorting import looking
from mindful_crate.core.work.sorting.acts import SortInto, SortShort
from mindful_crate.core.work.sorting.events import GoodsSorted, SortingShort
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.decide import reason
from mindful_crate.core.work.waving.working import few, make_tasks


def check_place(state: State, order: OrderNo, station: BinCode, place: BinCode | None, tote: PlateNo | None) -> None:
    """Refuse a place that is none, or is another order's; and another one than the order has."""
    has = looking.place_of(state, order, station)
    if has is not None:
        if (tote or place) != (has[1] or has[0]):
            raise Refusal(
                "other_place", f"`{order}` is sorted to `{has[1] or has[0]}`: not to `{tote or place}`.", "place"
            )
        return
    if tote is not None:
        check_empty(state, tote)
        check_need(state, station, tote)
        return
    if place is None or place not in state.ground.bins or state.ground.site_of(place) != state.settings.site:
        raise Refusal("unknown_bin", f"There is no bin `{place}` at this site.", "place")
    if purpose_of(state, place) is not ZonePurpose.SORT:
        raise Refusal(
            "no_place", f"`{place}` is no place to sort to: take one of the sort wall, or an empty tote.", "place"
        )
    if (other := looking.whose(state, place)) is not None:
        raise Refusal("place_taken", f"`{place}` is the place of `{other}`. Take a free one for `{order}`.", "place")
    if (why := state.blocked(place)) is not None:
        raise Refusal("bin_blocked", f"Bin `{place}` is blocked: {why}.", "place")
    check_need(state, place, None)


def _sort(state: State, making: Making, _: Rulebook, stamp: Stamp, act: SortInto) -> str:
    key = LineKey(act.order, act.line)
    mine = next((x for x in looking.waits_at(state, act.at) if x.line == key), None)
    if mine is None:
        raise Refusal("nothing_to_sort", f"Nothing of `{key}` is to be sorted in `{act.at}`.")
    goods = mine.goods
    item = state.ground.items[goods.item]
    if not 0 < act.quantity <= goods.quantity:
        says = f"{item.told(goods.quantity)} of {item.name} go to `{act.order}`, no more."
        raise Refusal("more_than_wanted", says, "quantity")
    check_place(state, act.order, act.at, act.place, act.tote)
    parts = portion(mine.kinds, act.quantity)
    serves = (Serves(key, act.quantity),)
    source = in_bin(act.at)
    named: tuple[Serials, ...] = ()
    if item.code in state.serials.kept:
        fixed = check_pieces(state, item.code, serves, act.serials)
        if act.serials:
            parts = numbered.of_pieces(state, source, mine.kinds, act.serials)
        named = numbered.named(state, source, parts, act.serials or fixed[: act.quantity])
    place = act.place if act.place is not None else act.at
    new = act.tote is not None and not state.has_plate(act.tote)
    kind = tote_kind(state) if new else None
    making.event(GoodsSorted(stamp.who, act.order, act.at, place, parts, act.tote, kind, named))
    for part in parts:
        move = Move(1, Do.TAKE, act.at, (part,), serves=(Serves(key, part.quantity),))
        keep_where(state, making, move, (part,), (act.at, None, None), (place, act.tote, None))
    says = f"{item.told(act.quantity)} of {item.name} to `{act.tote or place}`, for `{act.order}`."
    return says if looking.lines_at(state, act.at, 1) else f"{says} All of `{act.at}` is sorted."


def _short(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: SortShort) -> str:
    """What is not there is kept for nobody until somebody has counted it; its orders are given some from elsewhere, or stay open."""
    why = reason(act.why)
    mine = [x for x in looking.waits_at(state, act.at) if act.line in (None, x.line)]
    if not mine:
        raise Refusal(
            "nothing_to_sort", f"Nothing{f' of `{act.line}`' if act.line else ''} is to be sorted in `{act.at}`."
        )
    lost: dict[LineKey, int] = {}
    for each in mine:
        move = Move(1, Do.TAKE, act.at, each.kinds, serves=(Serves(each.line, each.goods.quantity),))
        given_up_of(state, making, move)
        doubted(state, making, move, each.kinds, stamp)
        making.event(SortingShort(stamp.who, each.line, act.at, each.kinds, why))
        lost[each.line] = lost.get(each.line, 0) + each.goods.quantity
    lines_of: dict[ItemCode, list[LineKey]] = {}
    for each in mine:
        lines_of.setdefault(each.goods.item, []).append(each.line)
    for item, lines in lines_of.items():
        promise_anew(state, making, item, lines, stamp.today)
    are = "is" if len(mine) == 1 and mine[0].goods.quantity == 1 else "are"
    says = f"{few(looking.told(state, mine))} {are} not in `{act.at}`: {why}. Until that is counted nobody uses it."
    if act.other_bin:
        says = said(says, *_fetched_elsewhere(state, making, rulebook, stamp, lost))
    waits = ask_for_orders(state, making, rulebook, stamp, list(lines_of)) if act.other_bin else ""
    open_ = [f"`{line}`" for line, much in lost.items() if much]
    says = said(says, waits or (f"{few(open_)} {'stays' if len(open_) == 1 else 'stay'} open." if open_ else ""))
    return says if looking.lines_at(state, act.at, 1) else f"{says} All of `{act.at}` is sorted."


def _fetched_elsewhere(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, lost: dict[LineKey, int]
) -> Iterator[str]:
    """Tasks, of the wave of each order, for what the rules find in other bins; ``lost`` is what is still lacking then. What is said of them."""
    found = keep_elsewhere(state, making, rulebook, stamp, [Serves(line, much) for line, much in lost.items()])
    of_wave: dict[WaveNo, list[Kept]] = {}
    for kept in found:
        lost[kept.line] -= kept.quantity
        wave = next(w.number for w in reversed(state.waves.of_order(kept.line.order)) if not w.cancelled)
        of_wave.setdefault(wave, []).append(kept)
    for number, some in of_wave.items():
        yield make_tasks(state, making, rulebook, stamp, number, some)


DECIDES = (deciding(SortInto, _sort), deciding(SortShort, _short))
"""How its acts are decided."""
