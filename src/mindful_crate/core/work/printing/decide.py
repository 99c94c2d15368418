"""How its acts are decided: labels and printers; and what is printed by rules after anything else was decided."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import groupby

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Printer
from mindful_crate.core.catalog.ids import (
    BinCode,
    DeviceId,
    ItemCode,
    PlateNo,
    PrinterCode,
    ShipmentNo,
    TaskNo,
)
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.floor.prints import STOPPED, Label, Print
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.papers import MOST_COPIES, ON_PAGES, PAPER_OF, LabelRule, Prints, When
from mindful_crate.core.rulebook.words.papers import TITLES
from mindful_crate.core.rulebook.words.parts import capital
from mindful_crate.core.work.leaving.shipping_papers import paper_pages
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.picking.pick_list import pick_list
from mindful_crate.core.work.printing.acts import (
    ChoosePrinter,
    DropPrint,
    PrintAgain,
    PrintLabel,
    PrintNumbers,
    SetPrinter,
)
from mindful_crate.core.work.printing.events import LabelsSent, PrintDropped, PrinterChosen, PrinterSet, PrintMoved
from mindful_crate.core.work.printing.happened import Thing, facts_of, happened, is_printed, whole
from mindful_crate.core.work.printing.labels import (
    bin_label,
    called,
    content_labels,
    goods_labels,
    number_label,
    packing_slips,
    plate_label,
)
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp

MOST = 500
"""So many labels are printed of one thing at a time; there may be many thousand pieces on a plate."""
NUMBERS = 200
"""So many plates may be given labels at a time."""


def printer_at(state: State, site_bin: BinCode | None, *, pages: bool = False) -> Printer | None:
    """The printer of a place: beside its pack bench, of its zone, else the only one of the site; for ``pages`` of those that take them, for labels of the
    others where there are any."""
    here = state.ground.printers_of(state.settings.site)
    fit = [p for p in here if p.takes_pages is pages] or ([] if pages else here)
    bench = next((s for s in state.ground.opening.pack_stations if s.bin == site_bin and s.printer), None)
    if bench is not None and (beside := next((p for p in fit if p.code == bench.printer), None)) is not None:
        return beside
    zone = state.ground.bins[site_bin].zone if site_bin in state.ground.bins else None
    return next((p for p in fit if zone in p.zones), fit[0] if len(fit) == 1 else None)


def _printer(
    state: State, named: PrinterCode | None, device: DeviceId | None, at: BinCode | None, *, pages: bool
) -> tuple[PrinterCode | None, str]:
    """Where something is printed; None with the reason. Pages do not go to the label printer of a handset."""
    known = state.ground.printers
    chosen = named or (state.printers_chosen.get(device) if device else None)
    if chosen is not None and chosen not in known:
        return None, f"there is no printer `{chosen}`"
    if chosen is not None and pages and not known[chosen].takes_pages:
        if named:
            return None, f"`{named}` prints labels, and no pages"
        chosen = None
    if chosen is None:
        found = printer_at(state, at, pages=pages)
        if found is None:
            if pages and not any(p.takes_pages for p in state.ground.printers_of(state.settings.site)):
                return None, "no printer here takes whole pages"
            where = f"to {state.ground.zones[state.ground.bins[at].zone].name}" if at else "to where it is"
            return None, f"no printer {'for pages ' if pages else ''}is tied {where}"
        chosen = found.code
    return chosen, ""


def _send(
    state: State, making: Making, stamp: Stamp, labels: Iterable[tuple[Label, int]], *, copies: int,
    printer: PrinterCode | None, at: BinCode | None, rule: LabelRule | None = None, what: str = "",
) -> str:  # fmt: skip
    """Send labels, those of equal count together; what is said of it."""
    some = list(labels)
    to, why = _printer(state, printer, stamp.device, at, pages=any(x.pages for x, _ in some))
    said, total, left = "", 0, MOST
    for count, group in groupby(some, key=lambda pair: pair[1]):
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
    one = total == 1 or (len(some) == 1 and bool(some[0][0].pages))
    name = what + (f", {total} times," if total > 1 else "") if one else f"{total} labels"
    if to is None:
        return f"{name} waits in the tray: {why}.{said}" if one else f"{name} wait in the tray: {why}.{said}"
    condition = state.prints.condition(to)
    if condition in STOPPED:
        return f"{name} {'waits' if one else 'wait'}: printer `{to}` {STOPPED[condition]}.{said}"
    return f"{name} on `{to}`.{said}"


def _turn(making: Making) -> int:
    """The how-manyeth labels of an entry are sent now, from 0."""
    return sum(isinstance(e, LabelsSent) for e in making.events)


def after(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> str:
    """Print what rules print after what was decided: what is said of it."""
    if not rulebook.label_rules:
        return ""
    said = []
    for when, thing in happened(state, rulebook, making):
        rules = rulebook.labels_for(state.settings.site, when)
        facts = facts_of(state, rulebook, thing) if rules else None
        for rule in rules:
            if facts is not None and is_printed(rule, facts):
                said.append(_print(state, making, rulebook, stamp, rule, thing))
    return " ".join(capital(s) for s in dict.fromkeys(said) if s)


def _print(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, rule: LabelRule, thing: Thing) -> str:
    try:
        what, labels = _labels(state, rulebook, rule.prints, thing, rule.groups)
    except Refusal as refusal:
        return refusal.problem.says  # what happened stands; a paper that cannot be made is said
    return _send(
        state, making, stamp, labels, copies=rule.copies, printer=rule.printer, at=thing.at, rule=rule, what=what
    )


def _labels(
    state: State, rulebook: Rulebook, prints: Prints, thing: Thing, groups: tuple[str, ...] = ()
) -> tuple[str, list[tuple[Label, int]]]:
    if prints in ON_PAGES:
        made = _paper(state, rulebook, prints, thing)
        return f"{made.title.lower()} `{made.code}`", [(made, 1)]
    if prints is Prints.PLATE:
        return f"label of `{thing.number}`", [(plate_label(state, thing.plate), 1)]
    if prints is Prints.LIST:
        slips = packing_slips(state, thing.shipment, thing.plate)
        return f"packing slip of `{slips[0].code}`" if slips else "", [(s, 1) for s in slips]
    kinds: list[tuple[Goods | PlateLine, str, tuple[str, ...]]] = [(x, x.unit, x.serials) for x in thing.lines]
    if not kinds:
        plate = state.plate(thing.plate)
        lines = plate.lines if plate else ()
        kinds = [(x, x.unit, x.serials) for x in lines] or [(g, "", ()) for g in (plate.goods if plate else ())]
    if prints is Prints.CONTENT:
        mine = [g for g, _, _ in kinds if not groups or state.ground.items[g.item].group in groups]
        return f"label of what is in `{thing.number}`", [
            (x, 1) for x in content_labels(state.ground, mine, thing.plate)
        ]
    wanted = [k for k in kinds if not groups or state.ground.items[k[0].item].group in groups]
    return "1 label", goods_labels(state.ground, wanted, each=prints is Prints.UNIT)


def _paper(state: State, rulebook: Rulebook, prints: Prints, thing: Thing) -> Label:
    """A paper as it is now; refused when it cannot be made yet."""
    if prints is Prints.PICKS:
        if thing.task is None:
            raise Refusal("nothing_to_print", f"`{thing.number}` is no pick task.")
        return Label("page", thing.task, "Pick list", pages=pick_list(state, rulebook, thing.task))
    if thing.shipment is None:
        raise Refusal("nothing_to_print", f"`{thing.number}` is no shipment.")
    paper = PAPER_OF[prints]
    return Label("page", thing.shipment, TITLES[paper], pages=paper_pages(state, rulebook, thing.shipment, paper))


def _checked(state: State, printer: PrinterCode | None) -> None:
    if printer is not None:
        found = state.ground.printers.get(printer)
        if found is None or found.site != state.settings.site:
            raise Refusal("unknown_printer", f"There is no printer `{printer}` here.")


def _print_label(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PrintLabel) -> str:
    _checked(state, act.printer)
    if act.prints in ON_PAGES:
        return _print_paper(state, making, rulebook, stamp, act)
    copies = 1 if act.copies is None else act.copies
    if not 0 < copies <= MOST:
        raise Refusal("bad_copies", f"Print from 1 to {MOST} copies.")
    number, code = PlateNo(act.code), BinCode(act.code)
    plate = state.plate(number)
    rule = None
    if act.copies is None and plate:
        thing = Thing(number, plate.plate_kind, plate.stands)
        asked = rulebook.labels_for(state.settings.site, When.ASKED)
        facts = facts_of(state, rulebook, thing)
        rule = next((r for r in asked if r.prints is act.prints and is_printed(r, facts)), None)
    copies = rule.copies if rule else copies
    printer = act.printer or (rule.printer if rule else None)
    labels: list[tuple[Label, int]]
    if plate is not None:
        at = state.bin_of(number) or plate.into
        what, labels = _labels(state, rulebook, act.prints, Thing(number, plate.plate_kind, at))
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


def _check_pages(state: State, printer: PrinterCode | None) -> None:
    if printer is not None and not state.ground.printers[printer].takes_pages:
        raise Refusal("no_pages", f"`{printer}` prints labels, and no pages.", "printer")


def _print_paper(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PrintLabel) -> str:
    """A paper of a shipment or a pick task, because somebody wants it."""
    copies = 1 if act.copies is None else act.copies
    if not 0 < copies <= MOST_COPIES:
        raise Refusal("bad_copies", f"Print from 1 to {MOST_COPIES} copies.")
    _check_pages(state, act.printer)
    if act.prints is Prints.PICKS:
        task = state.tasks.get(TaskNo(act.code))
        thing = Thing(act.code, None, task.to_bin if task else None, task=TaskNo(act.code))
    else:
        thing = whole(state, rulebook, ShipmentNo(act.code))
    what, labels = _labels(state, rulebook, act.prints, thing)
    return capital(_send(state, making, stamp, labels, copies=copies, printer=act.printer, at=thing.at, what=what))


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
    if known.is_paper:
        _check_pages(state, act.printer)
    what = called(known.labels, known.count)
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
