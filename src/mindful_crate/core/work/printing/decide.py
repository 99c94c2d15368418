"""How its acts are decided: labels and printers; and what is printed by rules after anything else was decided."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import groupby

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import OrderKind, Printer
from mindful_crate.core.catalog.ids import (
    BinCode,
    CarrierCode,
    DeviceId,
    ItemCode,
    PlateKindCode,
    PlateNo,
    PrinterCode,
    ShipmentNo,
)
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.floor.plates import Holder, PlateLine
from mindful_crate.core.floor.prints import STOPPED, Label, Print
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.papers import LabelRule, Prints, When
from mindful_crate.core.rulebook.words.parts import capital
from mindful_crate.core.work.leaving.events import ShipmentLeft
from mindful_crate.core.work.making import Making, NumberDrawn
from mindful_crate.core.work.packing.events import CartonClosed, PlateConfirmed
from mindful_crate.core.work.printing.acts import (
    ChoosePrinter,
    DropPrint,
    PrintAgain,
    PrintLabel,
    PrintNumbers,
    SetPrinter,
)
from mindful_crate.core.work.printing.events import LabelsSent, PrintDropped, PrinterChosen, PrinterSet, PrintMoved
from mindful_crate.core.work.printing.labels import (
    bin_label,
    content_labels,
    goods_labels,
    number_label,
    packing_slips,
    plate_label,
)
from mindful_crate.core.work.receiving.events import PlateFinished, PlateStarted
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.events import MoveDone

MOST = 500
"""So many labels are printed of one thing at a time; there may be many thousand pieces on a plate."""
NUMBERS = 200
"""So many plates may be given labels at a time."""
Kinds = Iterable[tuple[Goods | PlateLine, str, tuple[str, ...]]]


@record
class _Thing:
    """What labels may be printed of: a plate or a load, its goods, where it is."""

    number: PlateNo
    plate_kind: PlateKindCode | None
    at: BinCode | None
    lines: tuple[PlateLine, ...] = ()
    shipment: ShipmentNo | None = None


def printer_at(state: State, site_bin: BinCode | None) -> Printer | None:
    """The printer of a place: beside its pack bench, of its zone, else the only one of the site."""
    here = state.ground.printers_of(state.settings.site)
    bench = next((s for s in state.ground.opening.pack_stations if s.bin == site_bin and s.printer), None)
    if bench is not None and (beside := next((p for p in here if p.code == bench.printer), None)) is not None:
        return beside
    zone = state.ground.bins[site_bin].zone if site_bin in state.ground.bins else None
    return next((p for p in here if zone in p.zones), here[0] if len(here) == 1 else None)


def _printer(
    state: State, named: PrinterCode | None, device: DeviceId | None, at: BinCode | None
) -> tuple[PrinterCode | None, str]:
    """Where something is printed; None with the reason."""
    chosen = named or (state.printers_chosen.get(device) if device else None)
    if chosen is None:
        found = printer_at(state, at)
        if found is None:
            where = f"to {state.ground.zones[state.ground.bins[at].zone].name}" if at else "to where it is"
            return None, f"no printer is tied {where}"
        chosen = found.code
    if chosen not in state.ground.printers:
        return None, f"there is no printer `{chosen}`"
    return chosen, ""


def _send(
    state: State, making: Making, stamp: Stamp, labels: Iterable[tuple[Label, int]], *, copies: int,
    printer: PrinterCode | None, at: BinCode | None, rule: LabelRule | None = None, what: str = "",
) -> str:  # fmt: skip
    """Send labels, those of equal count together; what is said of it."""
    to, why = _printer(state, printer, stamp.device, at)
    said, total, left = "", 0, MOST
    for count, group in groupby(labels, key=lambda pair: pair[1]):
        of_group = [label for label, _ in group]
        many = count * copies
        take = min(many, left) if len(of_group) == 1 else many
        of_group = of_group[: left // many] if len(of_group) > 1 else of_group
        if take < 1 or not of_group:
            said = f" No more than {MOST} are printed at a time."
            break
        making.event(LabelsSent(_turn(making), tuple(of_group), take, stamp.who, to, rule.id if rule else None, why))
        total += take * len(of_group)
        left -= take * len(of_group)
    if not total:
        return ""
    name = what if total == 1 else f"{total} labels"
    if to is None:
        return f"{name} waits in the tray: {why}.{said}" if total == 1 else f"{name} wait in the tray: {why}.{said}"
    condition = state.prints.condition(to)
    if condition in STOPPED:
        return f"{name} {'waits' if total == 1 else 'wait'}: printer `{to}` {STOPPED[condition]}.{said}"
    return f"{name} on `{to}`.{said}"


def _turn(making: Making) -> int:
    """The how-manyeth labels of an entry are sent now, from 0."""
    return sum(isinstance(e, LabelsSent) for e in making.events)


def after(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> str:
    """Print what rules print after what was decided: what is said of it."""
    if not rulebook.label_rules:
        return ""
    events = tuple(making.events)
    made = any(isinstance(e, NumberDrawn) and e.series in ("plate", "sscc") for e in events)
    said = []
    for event in events:
        for when, thing in _happened(state, event, made):
            rules = rulebook.labels_for(state.settings.site, when)
            facts = _facts(state, thing) if rules else None
            for rule in rules:
                if facts is not None and is_printed(rule, facts):
                    said.append(_print(state, making, stamp, rule, thing))
    return " ".join(capital(s) for s in dict.fromkeys(said) if s)


def _happened(state: State, event: object, made: bool) -> Iterator[tuple[When, _Thing]]:
    if isinstance(event, PlateStarted) and made:
        yield When.BEGUN, _Thing(event.plate, event.plate_kind, event.bin)
    elif isinstance(event, PlateFinished):
        receipt = state.receipts[event.receipt]
        kind = None if receipt.loose else state.plates.kind_of(event.plate)
        plate = state.plate(event.plate)
        yield When.FINISHED, _Thing(event.plate, kind, plate.stands if plate else None, receipt.lines)
    elif isinstance(event, MoveDone) and event.plate is not None:
        when = When.PLACED if event.target.holder is Holder.BIN else When.TAKEN
        yield when, _Thing(event.plate, state.plates.kind_of(event.plate), event.at)
    elif isinstance(event, CartonClosed):
        carton = state.cartons[event.carton]
        yield When.CLOSED, _Thing(event.carton, event.plate_kind, carton.at, shipment=carton.shipment)
    elif isinstance(event, PlateConfirmed):
        yield When.CLOSED, _Thing(event.plate, state.plates.kind_of(event.plate), event.at, shipment=event.shipment)
    elif isinstance(event, ShipmentLeft):
        first = event.parcels[0].bin if event.parcels else None
        yield When.LEFT, _Thing(PlateNo(event.shipment), None, first, shipment=event.shipment)


@record
class LabelFacts:
    """What a label rule is asked about: the kind of plate (None: loose), the groups of the items, kinds of the orders, and, of what leaves, for whom and by
    which carrier."""

    plate_kind: PlateKindCode | None
    groups: tuple[str, ...]
    order_kinds: tuple[OrderKind, ...]
    partner_group: str | None = None
    carrier: CarrierCode | None = None


def is_printed(rule: LabelRule, of: LabelFacts) -> bool:
    """Is a rule for this? Loose goods have no label of a plate."""
    return not (
        (rule.prints is Prints.PLATE and of.plate_kind is None)
        or (rule.plate_kinds and of.plate_kind not in rule.plate_kinds)
        or (rule.groups and not set(of.groups) & set(rule.groups))
        or (rule.partner_groups and of.partner_group not in rule.partner_groups)
        or (rule.carriers and of.carrier not in rule.carriers)
        or (rule.order_kinds and not set(of.order_kinds) & set(rule.order_kinds))
    )


def _facts(state: State, thing: _Thing) -> LabelFacts:
    shipment = state.shipments.get(thing.shipment) if thing.shipment else None
    partner = state.ground.partners.get(shipment.leaves.partner) if shipment else None
    return LabelFacts(
        thing.plate_kind, tuple(state.ground.items[i].group for i in _items(state, thing)), tuple(_kinds_of_orders(state, thing)),
        partner.group if partner else None, shipment.leaves.carrier if shipment else None,
    )  # fmt: skip


def _items(state: State, thing: _Thing) -> list[ItemCode]:
    plate = state.plate(thing.number)
    goods: list[Goods | PlateLine] = [*thing.lines, *(plate.goods if plate else ()), *(plate.lines if plate else ())]
    return list(dict.fromkeys(g.item for g in goods))


def _kinds_of_orders(state: State, thing: _Thing) -> list[OrderKind]:
    if thing.shipment is not None:
        leaving = (state.order(o) for o in state.shipments[thing.shipment].orders)
        return [o.kind for o in leaving if o is not None]
    plate = state.plate(thing.number)
    receipt = state.receipts.get(plate.receipt) if plate and plate.receipt else None
    lines = thing.lines or (receipt.lines if receipt else plate.lines if plate else ())
    found = (state.order(x.order) for x in lines)
    return [o.kind for o in found if o is not None]


def _print(state: State, making: Making, stamp: Stamp, rule: LabelRule, thing: _Thing) -> str:
    what, labels = _labels(state, rule.prints, thing, rule.groups)
    return _send(
        state, making, stamp, labels, copies=rule.copies, printer=rule.printer, at=thing.at, rule=rule, what=what
    )


def _labels(
    state: State, prints: Prints, thing: _Thing, groups: tuple[str, ...] = ()
) -> tuple[str, list[tuple[Label, int]]]:
    if prints is Prints.PLATE:
        return f"label of `{thing.number}`", [(plate_label(state, thing.number), 1)]
    if prints is Prints.LIST:
        slips = packing_slips(state, thing.shipment, thing.number)
        return f"packing slip of `{slips[0].code}`" if slips else "", [(s, 1) for s in slips]
    kinds: list[tuple[Goods | PlateLine, str, tuple[str, ...]]] = [(x, x.unit, x.serials) for x in thing.lines]
    if not kinds:
        plate = state.plate(thing.number)
        lines = plate.lines if plate else ()
        kinds = [(x, x.unit, x.serials) for x in lines] or [(g, "", ()) for g in (plate.goods if plate else ())]
    if prints is Prints.CONTENT:
        mine = [g for g, _, _ in kinds if not groups or state.ground.items[g.item].group in groups]
        return f"label of what is in `{thing.number}`", [
            (x, 1) for x in content_labels(state.ground, mine, thing.number)
        ]
    wanted = [k for k in kinds if not groups or state.ground.items[k[0].item].group in groups]
    return "1 label", goods_labels(state.ground, wanted, each=prints is Prints.UNIT)


def _checked(state: State, printer: PrinterCode | None) -> None:
    if printer is not None:
        found = state.ground.printers.get(printer)
        if found is None or found.site != state.settings.site:
            raise Refusal("unknown_printer", f"There is no printer `{printer}` here.")


def _print_label(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PrintLabel) -> str:
    _checked(state, act.printer)
    copies = 1 if act.copies is None else act.copies
    if not 0 < copies <= MOST:
        raise Refusal("bad_copies", f"Print from 1 to {MOST} copies.")
    number, code = PlateNo(act.code), BinCode(act.code)
    plate = state.plate(number)
    rule = None
    if act.copies is None and plate:
        thing = _Thing(number, plate.plate_kind, plate.stands)
        asked = rulebook.labels_for(state.settings.site, When.ASKED)
        facts = _facts(state, thing)
        rule = next((r for r in asked if r.prints is act.prints and is_printed(r, facts)), None)
    copies = rule.copies if rule else copies
    printer = act.printer or (rule.printer if rule else None)
    labels: list[tuple[Label, int]]
    if plate is not None:
        at = state.bin_of(number) or plate.into
        what, labels = _labels(state, act.prints, _Thing(number, plate.plate_kind, at))
    elif code in state.ground.bins and state.ground.site_of(code) == state.settings.site:
        what, labels, at = f"label of bin `{code}`", [(bin_label(state.ground, code), 1)], code
    elif ItemCode(act.code) in state.ground.items:
        item = state.ground.items[ItemCode(act.code)]
        what, at = f"label of `{item.code}`", None
        labels = goods_labels(state.ground, [(Goods(item.code, 1), "", ())], each=False)
    else:
        raise Refusal("nothing_to_print", f"There is no plate, bin or item `{act.code}` here to print a label of.")
    said = _send(
        state, making, stamp, labels, copies=copies, printer=printer, at=at or _by_the_way(state), rule=rule, what=what
    )
    if not said:
        raise Refusal("nothing_to_print", f"Nothing is on `{act.code}` that could have a label.")
    return capital(said)


def _by_the_way(state: State) -> BinCode | None:
    """A place to go by for what is nowhere: where goods are received."""
    bins = state.ground.bins_of(ZonePurpose.RECEIVING, state.settings.site)
    return bins[0].code if bins else None


def _print_numbers(state: State, making: Making, _: Rulebook, stamp: Stamp, act: PrintNumbers) -> str:
    _checked(state, act.printer)
    if not 0 < act.count <= NUMBERS:
        raise Refusal("bad_copies", f"Print labels for 1 to {NUMBERS} plates at a time.")
    numbers = making.draw_some("plate", act.count)
    labels = [(number_label(n, "License plate"), 1) for n in numbers]
    said = _send(
        state,
        making,
        stamp,
        labels,
        copies=1,
        printer=act.printer,
        at=_by_the_way(state),
        what=f"label of `{numbers[0]}`",
    )
    kept = f"`{numbers[0]}` is" if len(numbers) == 1 else f"`{numbers[0]}` to `{numbers[-1]}` are"
    return f"{kept} kept for labels. {capital(said)}"


def _known(state: State, number: str) -> Print:
    found = state.prints.get(number)
    if found is None:
        raise Refusal("unknown_print", "That is no longer in the tray. Print the label of the thing itself.")
    return found


def _print_again(state: State, making: Making, _: Rulebook, stamp: Stamp, act: PrintAgain) -> str:
    _checked(state, act.printer)
    known = _known(state, act.number)
    to = act.printer or known.printer
    what = f"label of `{known.labels[0].code}`" if known.count == 1 else f"{known.count} labels"
    if known.due is None and act.printer is not None and act.printer != known.printer:
        making.event(PrintMoved(known.number, act.printer))
        return (
            capital(f"{what} on `{act.printer}`.")
            if state.prints[known.number].due
            else f"{capital(what)} still waits: {state.prints[known.number].why}."
        )
    if known.due is None:
        raise Refusal("waits_already", f"It waits already: {known.why}. Choose another printer.")
    sent = LabelsSent(_turn(making), known.labels, known.copies, stamp.who, to, None)
    making.event(sent)
    again = state.prints[sent.number(state.seq + 1)]
    return f"{capital(what)} again on `{to}`." if again.due else f"{capital(what)} waits: {again.why}."


def _drop_print(state: State, making: Making, _: Rulebook, __: Stamp, act: DropPrint) -> str:
    known = _known(state, act.number)
    if known.due is not None:
        raise Refusal("printed_already", "It was printed.")
    making.event(PrintDropped(known.number))
    return "It is not printed."


def _set_printer(state: State, making: Making, _: Rulebook, __: Stamp, act: SetPrinter) -> str:
    _checked(state, act.printer)
    waited = state.prints.waiting(act.printer)
    making.event(PrinterSet(act.printer, act.condition))
    if act.condition in STOPPED:
        return f"Printer `{act.printer}` {STOPPED[act.condition]}."
    prints = f" It prints what waited: {waited}." if waited else ""
    return f"Printer `{act.printer}` is {act.condition.value}.{prints}"


def _choose_printer(state: State, making: Making, _: Rulebook, stamp: Stamp, act: ChoosePrinter) -> str:
    _checked(state, act.printer)
    if stamp.device is None:
        raise Refusal("no_device", "Only a handset chooses its printer.")
    making.event(PrinterChosen(stamp.device, act.printer))
    condition = state.prints.condition(act.printer)
    name = state.ground.printers[act.printer].name
    but = f", which {STOPPED[condition]} now" if condition in STOPPED else ""
    return f"This handset prints on `{act.printer}` {name}{but}."


DECIDES = (
    deciding(PrintLabel, _print_label),
    deciding(PrintNumbers, _print_numbers),
    deciding(PrintAgain, _print_again),
    deciding(DropPrint, _drop_print),
    deciding(SetPrinter, _set_printer),
    deciding(ChoosePrinter, _choose_printer),
)
"""How its acts are decided."""
