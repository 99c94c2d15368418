"""What the books say is corrected, in the office or on a handset, with a reason: how much is there, and which status it has."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods, portion
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, CountNo, CrewId, ItemCode, PlateNo, StockReasonId
from mindful_crate.core.floor.counts import CountLine
from mindful_crate.core.floor.ledger import Cause
from mindful_crate.core.floor.plates import Spot, in_bin, on_plate
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.fit import Lying
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import PhotoAsked, ReasonFor, StockReason
from mindful_crate.core.rulebook.words.parts import STATUSES, any_of, counted
from mindful_crate.core.work import numbered
from mindful_crate.core.work.counting import looking
from mindful_crate.core.work.counting.acts import AdjustStock, ChangeStatus, ShiftStock
from mindful_crate.core.work.counting.correcting import check_loose, check_plate, give_up, lost, pieces_lost
from mindful_crate.core.work.counting.events import CountPosted, PlateFound, SheetMade, StatusChanged, StockCorrected
from mindful_crate.core.work.host.decide import tell_host
from mindful_crate.core.work.inspecting import checks as inspecting
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.decide import reason


def _why(
    state: State, rulebook: Rulebook, stamp: Stamp, act: AdjustStock | ChangeStatus | ShiftStock, used: ReasonFor
) -> str:
    """Why stock is corrected, in words: one of the reasons of the list and what was written with it, or that alone."""
    if act.reason is None:
        return f"{reason(act.why)}{photo_told(act.photo)}"
    return why_told(state, rulebook, stamp, act.reason, act.why, act.photo, used)


def why_told(
    state: State, rulebook: Rulebook, stamp: Stamp, given: StockReasonId, words: str, photo: str, used: ReasonFor
) -> str:
    """A reason of the list in words, with what was written beside it and the photo. Refused: one that is not for that, is not this crew's, lacks
    its photo."""
    found = next((r for r in rulebook.reasons_at(state.settings.site, used) if r.id == given), None)
    if found is None:
        raise Refusal("unknown_reason", f"`{given}` is no reason for that.", "reason")
    if stamp.device is not None:
        check_may_give(rulebook, found, stamp.crews)
        if found.photo is PhotoAsked.MUST and not photo:
            raise Refusal("no_photo", f"{found.name}: a photo of it must be taken.", "photo")
    if len(words.strip()) > inspecting.LONGEST:
        raise Refusal("too_long", f"A reason has at most {inspecting.LONGEST} characters.", "why")
    said_too = f": {words.strip()}" if words.strip() else ""
    return f"{found.name}{said_too}{photo_told(photo)}"


def check_may_give(rulebook: Rulebook, found: StockReason, crews: tuple[CrewId, ...]) -> None:
    """Refuse a reason that on handsets only others may give, by their names."""
    if found.crews and not set(found.crews) & set(crews):
        known = {c.id: c.name for c in rulebook.crews}
        names = [known.get(c, c) for c in found.crews]
        raise Refusal("not_yours", f"{found.name} may be given by {any_of(names)} alone: ask one of them.", "reason")


def photo_told(photo: str) -> str:
    """A photo, as words lead to it; refused when it is the name of none."""
    if photo and not inspecting.is_photo(photo):
        raise Refusal("no_photo", "That is the name of no photo.", "photo")
    return f", with photo `{photo}`" if photo else ""


def _adjust(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: AdjustStock) -> str:
    why = _why(state, rulebook, stamp, act, ReasonFor.NUMBER)
    item = state.ground.items.get(act.item)
    if item is None:
        raise Refusal("unknown_item", f"There is no item `{act.item}`.", "item")
    spot = _spot(state, act.bin, act.plate)
    if (sheet := state.counts.with_bin(act.bin)) is not None:
        raise Refusal(
            "on_a_sheet", f"Bin `{act.bin}` is being counted on `{sheet}`: post that, or drop it first.", "bin"
        )
    if not 0 <= act.quantity <= looking.MOST:
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
        told += pieces_lost(
            state, making, stamp, Cause.ADJUSTMENT, act.bin, spot, kinds, act.serials, why, count=number
        )  # fmt: skip
    elif off < 0:
        told += lost(state, making, stamp, Cause.ADJUSTMENT, act.bin, spot, kinds, -off, why, count=number)
    else:
        expiry = looking.expiry_of(state, item, act.lot)
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


def _change(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ChangeStatus) -> str:
    why = _why(state, rulebook, stamp, act, ReasonFor.STATUS)
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
            if not (act.loose and plate) and act.item in (None, g.item) and act.lot in ("", g.lot)
        ]
    if act.item is None or act.item not in state.ground.items:
        raise Refusal("say_what", "Say which bin, which plate, or which item and lot.", "item")
    here = state.settings.site
    return [x for x in state.lines(act.item) if act.lot in ("", x.goods.lot) and state.ground.site_of(x.bin) == here]


def _shift(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ShiftStock) -> str:
    why = _why(state, rulebook, stamp, act, ReasonFor.PLACE)
    spot, to = _spot(state, act.bin, act.plate), in_bin(act.to)
    _spot(state, act.to, None)
    if act.to == act.bin and (act.plate is None or act.item is None):
        raise Refusal("same_bin", f"By the books it lies in `{act.to}`: nothing is wrong.", "to")
    for code in (act.bin, act.to):
        if (sheet := state.counts.with_bin(code)) is not None:
            says = f"Bin `{code}` is being counted on `{sheet}`: post that, or drop it first."
            raise Refusal("on_a_sheet", says, "bin")
    told: list[str] = []
    if act.item is None:
        if act.plate is None:
            raise Refusal("say_what", "Say which item, or which plate.", "item")
        for number in state.plates.tower(act.plate):
            check_plate(state, number)
            for goods in state.plates.goods_on(number):
                told += give_up(state, making, Lying(act.bin, number, goods), goods.quantity)
        making.event(PlateFound(stamp.who, act.plate, act.to))
        return said(f"`{act.plate}` stands in `{act.to}`, not in `{act.bin}`: {why}.", *told[:6])
    item = state.ground.items.get(act.item)
    if item is None:
        raise Refusal("unknown_item", f"There is no item `{act.item}`.", "item")
    kinds = tuple(
        g
        for g in state.ledger.at(spot)
        if (g.item, g.lot, g.status) == (act.item, act.lot if item.lots else "", act.status)
    )
    book = sum(g.quantity for g in kinds)
    much = book if act.quantity is None else act.quantity
    where = f"on `{act.plate}`" if act.plate else f"in `{act.bin}`"
    if not book:
        raise Refusal("nothing_there", f"By the books there is no such {item.name} {where}.", "item")
    if not 0 < much <= book:
        raise Refusal(
            "more_than_there", f"By the books there are {item.told(book)} of {item.name} {where}.", "quantity"
        )
    parts, named = portion(kinds, much), tuple[Serials, ...]()
    if item.code in state.serials.kept:
        here = {n for g in kinds for n in state.serials.at(spot, g)}
        pieces = act.serials or (tuple(sorted(here)) if much == book else ())
        if len(set(pieces)) != much or set(pieces) - here:
            says = f"{item.name} is kept by the numbers of its pieces: name those that lie there."
            raise Refusal("name_pieces", says, "serials")
        parts = numbered.of_pieces(state, spot, kinds, pieces)
        named = numbered.named(state, spot, parts, pieces)
    check_plate(state, act.plate)
    for goods in parts:
        alike = next(k for k in kinds if k.alike(goods))
        if act.plate is None:
            check_loose(state, act.bin, alike)
        told += give_up(state, making, Lying(act.bin, act.plate, alike), goods.quantity)
    making.event(StockCorrected(stamp.who, Cause.ADJUSTMENT, act.to, to, parts, False, why, named, source=spot))
    verb = "lies" if much == 1 else "lie"
    return said(f"{item.told(much)} of {item.name} {verb} in `{act.to}`, not {where}: {why}.", *told[:6])


DECIDES = (deciding(AdjustStock, _adjust), deciding(ChangeStatus, _change), deciding(ShiftStock, _shift))
"""How its acts are decided."""
