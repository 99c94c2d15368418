"""Label rules, and what stands on the papers of a shipment, in sentences."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import PrinterCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.papers import Along, Column, LabelRule, Paper, PaperForm, Prints, When
from mindful_crate.core.rulebook.words.parts import ORDER_KINDS, Names, Part, Sentence, any_of, just

WHEN = {
    When.BEGUN: "a plate is begun under a new number",
    When.FINISHED: "what was received is finished",
    When.TAKEN: "a plate is taken to be brought somewhere",
    When.PLACED: "a plate is placed",
    When.CLOSED: "a carton is closed, or what was picked leaves as it is",
    When.LET_GO: "a pick task may be fetched",
    When.PACKED: "the last of a shipment is packed",
    When.STAGED: "the last of a shipment is staged",
    When.LOADED: "the last of a shipment is loaded",
    When.LEFT: "a shipment leaves",
    When.ASKED: "whoever has it in hand asks for it",
}
PRINTS = {
    Prints.PLATE: "the label of the plate",
    Prints.ITEM: "one label for each kind of goods",
    Prints.UNIT: "a label for each unit, or piece with a number",
    Prints.CONTENT: "a label for each kind of goods in it, with how many, lot and expiry",
    Prints.LIST: "a packing slip for each order in it",
    Prints.PACKING: "the packing list of each of its orders",
    Prints.LOADING: "its loading list",
    Prints.BILL: "its bill of lading",
    Prints.PALLETS: "a sheet for each of its pallets and cartons",
    Prints.PICKS: "its pick list",
}
TITLES = {
    Paper.PACKING_LIST: "Packing list",
    Paper.LOADING_LIST: "Loading list",
    Paper.BILL: "Bill of lading",
    Paper.PALLETS: "Pallet sheet",
}
COLUMNS = {
    Column.LINE: "line",
    Column.ITEM: "item",
    Column.NAME: "name",
    Column.LOT: "lot",
    Column.EXPIRY: "expiry",
    Column.SERIALS: "serial numbers",
    Column.MUCH: "how many",
    Column.PIECES: "base units",
    Column.WEIGHT: "weight",
    Column.CARTON: "carton",
    Column.KIND: "kind",
    Column.STANDS: "where it stands",
    Column.TRACKING: "tracking number",
    Column.LOADED: "loaded",
}
ALONG = {
    Along.CARTON: "carton by carton",
    Along.LINE: "in the order of the order's lines",
    Along.ITEM: "by item code",
}
TEXT_LETTERS = 400
"""So long a text above or beneath may be."""
FORM_ONLY = {
    "partner_groups": "only for a group of partners",
    "above": "with a text above",
    "beneath": "with a text beneath",
}
OF_THE_PLACE = "the printer of the handset, else of the place"
LABEL_ONLY = {
    "plate_kinds": "for some kinds of plates",
    "groups": "for goods of an item group",
    "order_kinds": "for goods from a kind of order",
    "partner_groups": "for a group of partners",
    "carriers": "for what goes by a carrier",
}


def printer_name(ground: Ground, printer: PrinterCode | None) -> str:
    """What a printer is called; one that is not there says so."""
    if printer is None:
        return OF_THE_PLACE
    found = ground.printers.get(printer)
    return f"{found.name} ({printer})" if found else f"{printer} (missing)"


def label_sentence(rule: LabelRule, ground: Ground, path: str = "") -> Sentence:
    """One rule in words."""
    names, carriers = Names(ground), {c.code: c.name for c in ground.opening.carriers}
    parts = [just("When "), Part("word", WHEN[rule.when], f"{path}/when", "label_when")]
    kinds = any_of(names.plate_kind(k) for k in rule.plate_kinds)
    told = (
        ("plate_kinds", rule.plate_kinds, ", on ", kinds),
        ("groups", rule.groups, ", with goods of ", any_of(rule.groups)),
        ("order_kinds", rule.order_kinds, ", from ", any_of(ORDER_KINDS[k] for k in rule.order_kinds)),
        ("partner_groups", rule.partner_groups, ", for ", any_of(rule.partner_groups)),
        ("carriers", rule.carriers, ", by ", any_of(carriers.get(c, f"{c} (missing)") for c in rule.carriers)),
    )  # fmt: skip
    for name, values, lead, words in told:
        if values:
            parts += [just(lead), Part("word", words, f"{path}/{name}", name)]
    if not all(values for _, values, _, _ in told):
        parts.append(Part("add", "only", path, "label_only"))
    copies = "once" if rule.copies == 1 else f"{rule.copies} times"
    parts += [
        just(", print "), Part("word", PRINTS[rule.prints], f"{path}/prints", "label_prints"), just(", "),
        Part("word", copies, f"{path}/copies", "copies"), just(", on "),
        Part("word", printer_name(ground, rule.printer), f"{path}/printer", "printer"),
        just("." if rule.on else ". Switched off: nothing is printed by it."),
    ]  # fmt: skip
    return tuple(parts)


def form_sentence(form: PaperForm, path: str = "") -> Sentence:
    """What stands on a paper, in words."""
    parts = [just(f"The {TITLES[form.paper].lower()}")]
    if form.partner_groups:
        parts += [just(" for "), Part("word", any_of(form.partner_groups), f"{path}/partner_groups", "partner_groups")]
    if form.paper is Paper.BILL:
        parts.append(just(" is as the trade has it"))
    else:
        shown = ", ".join(COLUMNS[c] for c in form.shows)
        parts += [just(" shows "), Part("word", shown, f"{path}/columns", f"columns_{form.paper.value}")]
    if form.paper is Paper.PACKING_LIST:
        parts += [just(", "), Part("word", ALONG[form.along], f"{path}/along", "along")]
    for name, where in (("above", "above"), ("beneath", "beneath")):
        if text := getattr(form, name):
            parts += [
                just(f"; {where} it stands “"),
                Part("word", text, f"{path}/{name}", name),
                just("”"),
            ]
    if not form.partner_groups or form.above is None or form.beneath is None:
        parts.append(Part("add", "but", path, "form_only"))
    parts.append(just("." if form.on else ". Switched off: it is for nothing."))
    return tuple(parts)
