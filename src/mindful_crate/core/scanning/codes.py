"""Codes worth scanning, of which every kind of prompt makes its part of the tray."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from itertools import islice

from mindful_crate.core.catalog.goods import Item, Tracking
from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.catalog.places import STORAGE
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.kinds import Codes, Context, Symbol
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.scanning.reading import COUNT, EXPIRY, GTIN, LOT, SERIAL, How, Scan


def plain(label: str, text: str) -> tuple[str, Scan, Symbol]:
    """A code as it stands on paper."""
    return label, Scan(text), "code128"


def typed(label: str, text: str) -> tuple[str, Scan, Symbol]:
    """Something that is typed."""
    return label, Scan(text, How.TYPED), "typed"


def counts_about(question: Question) -> Codes:
    """What one may say is there: as many as are proposed, one too many, none."""
    if question.proposal:
        yield typed(f"{question.proposal} {question.unit}", question.proposal)
        yield typed("one too many", str(int(question.proposal) + 1))
    yield typed("zero", "0")


def unknown() -> Codes:
    """What nothing bears."""
    yield plain("a code nobody knows", "X-0000")


def here(ctx: Context, item: Item) -> bool:
    """Does any of an item lie at this site?"""
    site = ctx.state.settings.site
    return any(ctx.ground.site_of(x.bin) == site for x in ctx.state.lines(item.code))


def any_bin(ctx: Context) -> Codes:
    """Some bin of the site."""
    found = (b for b in ctx.ground.bins.values() if ctx.ground.site_of(b.code) == ctx.state.settings.site)
    for each in [*islice(found, 41)][-1:]:
        yield plain(f"bin {each.code}", each.code)


def shown(code: str) -> Codes:
    """The bin the question shows, if it shows one."""
    if code:
        yield plain(f"bin {code}, shown", code)


def item_code(ctx: Context, item: Item, unit_code: str) -> Codes:
    """An item's barcode in a unit, and one that says lot, date and count as well."""
    barcode = next((b for b in ctx.ground.barcodes_of.get(item.code, ()) if b.unit == unit_code), None)
    if barcode is None:
        return
    unit = item.unit(barcode.unit)
    yield plain(f"{item.name}, {unit.name}", barcode.code)
    gtin = [(GTIN, barcode.code.zfill(14))]
    if item.numbered:
        yield gs1(f"{item.name}, {unit.name}, with its number", [*gtin, (SERIAL, new_serial(ctx, item))])
    if item.lots:
        expiry = ctx.today + timedelta(days=400)
        elements = gtin
        if item.tracking is Tracking.LOT_EXPIRY:
            elements.append((EXPIRY, expiry.strftime("%y%m%d")))
        elements += [(COUNT, "1"), (LOT, f"L{expiry:%y%m}A")]
        yield gs1(f"{item.name}, {unit.name}, with lot and count", elements)


def gs1(label: str, elements: list[tuple[str, str]]) -> tuple[str, Scan, Symbol]:
    """A code of GS1 elements."""
    text = "".join(f"({ai}){value}" for ai, value in elements)
    return label, Scan(text, How.SCANNED, tuple(elements)), "gs1datamatrix"


def new_serial(ctx: Context, item: Item, after: int = 0) -> str:
    """A number that no piece of an item has; ``after``: so many further on."""
    state = ctx.state
    number = 1000 + len(state.ground.serials.rows_of_item(item.code)) + len(state.serials.moved)
    while True:
        number += 1
        serial = f"{item.code[:12]}-{number}"
        if state.serials.where(item.code, serial) is None and (item.code, serial) not in state.plates.lines.noted:
            if not after:
                return serial
            after -= 1


def filled_bins(ctx: Context, count: int) -> Iterator[str]:
    """Bins of the site with loose goods."""
    site = ctx.state.settings.site
    bins = [b for b in ctx.ground.bins.values() if ctx.ground.zones[b.zone].site == site]
    loose = (b.code for b in bins if ctx.state.loose(b.code))
    yield from islice(loose, count)


def empty_bins(ctx: Context, count: int) -> Iterator[str]:
    """Bins of the site that could hold something and hold nothing."""
    site = ctx.state.settings.site
    empty = (
        b.code
        for b in ctx.ground.bins.values()
        if ctx.ground.zones[b.zone].site == site
        and ctx.ground.zones[b.zone].purpose in STORAGE
        and not ctx.state.held(b.code).kinds
        and not ctx.state.held(b.code).plates
    )
    yield from islice(empty, count)


def stored_plates(ctx: Context, count: int) -> Iterator[str]:
    """Plates of the opening that stand at the site."""
    site = ctx.state.settings.site
    yield from islice(
        (n for n in ctx.ground.plates if (b := ctx.state.bin_of(n)) and ctx.ground.site_of(b) == site), count
    )


def waiting_plates(ctx: Context) -> Codes:
    """A plate that waits for a task, and one that is being built."""
    for number in ctx.state.tasks.open_numbers(ctx.takers, Need.PUT_AWAY, 1):
        plate = ctx.state.tasks.plans[number].plate
        if plate:
            yield plain(f"plate {plate}, to be put away", plate)
    for building in ctx.state.building()[:1]:
        yield plain(f"plate {building.number}, being built", building.number)


def empty_totes(ctx: Context, count: int) -> Codes:
    """Labels of empty totes: numbers that nothing bears yet."""
    series = ctx.ground.series.get("plate")
    if series is None:
        return
    used = {t.plate for n in ctx.state.tasks.all_carried() for t in ctx.state.tasks[n].going.totes}
    found, n = 0, 900_001
    while found < count:
        label = PlateNo(f"{series.rehearsal_prefix}{n}")
        if label not in used and not ctx.state.has_plate(label):
            yield plain(f"an empty tote, {label}", label)
            found += 1
        n += 1
