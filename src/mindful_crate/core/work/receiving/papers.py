"""License plates and receipts as the chain tells them."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import PlateNo, ReceiptNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.plates import Plate, PlateLine
from mindful_crate.core.floor.state import State
from mindful_crate.core.work.numbered import numbers_told
from mindful_crate.core.work.papers import Doc, PaperKind, Papers, Stage
from mindful_crate.core.work.receiving.checks import plate_text


def _noted(state: State, lines: Iterable[PlateLine]) -> list[Stage]:
    stages = []
    for line in lines:
        item = state.ground.items[line.item]
        lot = f", lot `{line.lot}`" if line.lot else ""
        lot += f", {numbers_told(line.serials)}," if line.serials else ""
        says = f"{item.told(line.quantity)} of {item.name}{lot} for `{line.order}`"
        stages.append(Stage("noted", True, line.seq, says))
    return stages


def _lines(state: State, plate: Plate) -> tuple[PlateLine, ...]:
    """What was noted on it; nothing was on one that something was put on later."""
    receipt = state.receipts[plate.receipt] if plate.receipt else None
    return plate.lines if receipt is None else receipt.lines if receipt.plate == plate.number else ()


class PlatePaper(PaperKind):
    """License plates; a receipt of loose goods is one only while it is being made."""

    kind = DocKind.PLATE
    short = False

    def there(self, state: State, number: str) -> bool:
        card = state.plates.card(PlateNo(number))
        return state.has_plate(PlateNo(number)) if card is None else card.into is None or card.building

    def all(self, state: State) -> Iterable[str]:
        return (p.number for p in state.building())

    def following(self, state: State) -> Iterable[str]:
        received = (r.plate for r in state.receipts.values() if not r.loose)
        return dict.fromkeys([*received, *self.all(state)])

    def before(self, state: State, number: str) -> tuple[Ref, ...]:
        card = state.plates.cards.get(PlateNo(number))
        if card is not None and card.receipt:
            return state.receipts[card.receipt].orders
        lines = state.plates.lines.get(PlateNo(number), ())
        return tuple(dict.fromkeys(Ref(DocKind.ORDER, x.order) for x in lines))

    def since(self, state: State, number: str) -> int:
        card = state.plates.cards.get(PlateNo(number))
        return card.finished if card is not None and card.finished else state.seq + 1  # those being built come last

    def instead(self, state: State, number: str) -> tuple[Ref, ...]:
        receipt = state.plates[PlateNo(number)].receipt
        return (Ref(DocKind.RECEIPT, receipt),) if receipt else ()

    def doc(self, papers: Papers, number: str) -> Doc:
        state = papers.state
        plate = state.plates[PlateNo(number)]
        stages = [Stage("begun", True, plate.begun)] if plate.begun else [Stage("there at the opening", True)]
        stages += _noted(state, _lines(state, plate))
        if plate.begun:
            stages.append(Stage("finished", not plate.building, plate.finished))
        where = state.bin_of(plate.number) or plate.into
        stands = f"in `{where}`" if where else f"carried by @{plate.carrier}" if plate.carrier else "nowhere"
        says = f"{plate_text(state, plate) or 'empty'}, {stands}"
        return Doc(self.kind, plate.number, says, tuple(stages), self.before(state, number))


class ReceiptPaper(PaperKind):
    """Receipts: what of which orders arrived on a plate, or loose."""

    kind = DocKind.RECEIPT

    def there(self, state: State, number: str) -> bool:
        return ReceiptNo(number) in state.receipts

    def all(self, state: State) -> Iterable[str]:
        return iter(state.receipts)

    def before(self, state: State, number: str) -> tuple[Ref, ...]:
        return state.receipts[ReceiptNo(number)].follows

    def brings(self, state: State, number: str) -> Iterable[Ref]:
        receipt = state.receipts[ReceiptNo(number)]
        return () if receipt.loose else (Ref(DocKind.PLATE, receipt.plate),)

    def since(self, state: State, number: str) -> int:
        return state.receipts[ReceiptNo(number)].seq

    def doc(self, papers: Papers, number: str) -> Doc:
        state = papers.state
        receipt = state.receipts[ReceiptNo(number)]
        before = self.before(state, number)
        noted = [] if before[0].kind is DocKind.PLATE else _noted(state, receipt.lines)
        why = f"refused by the host: {receipt.refused}" if receipt.refused else ""
        where = f"in `{receipt.into}`" if receipt.into else ""
        arrived = Stage("arrived", True, receipt.seq, where)
        stages = (*noted, arrived, Stage("booked", receipt.booked, receipt.booked_in, why))
        if receipt.undone:
            stages = (*noted, arrived, Stage("undone", True, receipt.undone))
        items = state.ground.items
        says = ", ".join(f"{items[x.item].told(x.quantity)} {items[x.item].name}" for x in receipt.lines[:5])
        return Doc(self.kind, receipt.number, says, stages, before)


PAPERS = (PlatePaper(), ReceiptPaper())
"""Its documents."""
