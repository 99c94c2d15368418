"""How sorting is decided."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import portion
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo
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
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.picking.doing import check_empty, check_need, tote_kind
from mindful_crate.core.work.picking.keeping import keep_where
from mindful_crate.core.work.picking.looking import check_pieces
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.sorting import looking
from mindful_crate.core.work.sorting.acts import SortInto
from mindful_crate.core.work.sorting.events import GoodsSorted
from mindful_crate.core.work.stamp import Stamp


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


DECIDES = (deciding(SortInto, _sort),)
"""How its acts are decided."""
