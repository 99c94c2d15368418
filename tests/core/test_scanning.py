"""What a scan means, and the dialogues of the handset as scripts read from top to bottom."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import FlowId, OrderNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.on_handset import order_shown
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Each, Flow, FlowPurpose, OtherBin, PlateBy, Prompt, Proposes
from mindful_crate.core.scanning.reading import How, Read, Scan, gs1_check_digit, gs1_day, parse_day, read
from mindful_crate.core.work.matters import MACHINE
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from tests.playbook import Play, barcode, new_world, paint

TODAY = date(2026, 3, 3)


@pytest.mark.parametrize(
    ("yymmdd", "today", "day"),
    [
        ("270331", date(2026, 3, 3), date(2027, 3, 31)),
        ("270200", date(2026, 3, 3), date(2027, 2, 28)),  # day 00 is the last of the month
        ("760101", date(2026, 3, 3), date(2076, 1, 1)),  # 50 ahead: this century
        ("770101", date(2026, 3, 3), date(1977, 1, 1)),  # 51 ahead: the last
        ("490101", date(2099, 3, 3), date(2149, 1, 1)),  # 50 behind: the next
        ("500101", date(2099, 3, 3), date(2050, 1, 1)),
    ],
)
def test_two_digit_years_get_their_century(yymmdd: str, today: date, day: date) -> None:
    """The sliding century of the GS1 General Specifications, seen from the command's date."""
    assert gs1_day(yymmdd, today) == day


@pytest.mark.parametrize("text", ["271301", "270231", "27033", "27O331"])
def test_a_date_that_is_none_is_refused(text: str) -> None:
    """Months, days and letters that no calendar has."""
    with pytest.raises(Refusal):
        gs1_day(text, TODAY)


def test_dates_are_typed_in_three_ways() -> None:
    """As 2027-03-31, 31.3.2027 or 270331; anything else is no date."""
    assert (
        parse_day("2027-03-31", TODAY)
        == parse_day("31.3.2027", TODAY)
        == parse_day("270331", TODAY)
        == date(2027, 3, 31)
    )
    assert parse_day("03/31/2027", TODAY) is None


def test_check_digits() -> None:
    """The worked example of the GS1 General Specifications: 629104150021 has check digit 3."""
    assert gs1_check_digit("629104150021") == 3


@pytest.mark.parametrize(
    ("text", "how", "expected", "kind"),
    [
        ("P-02-01-1", "scanned", Asks.ITEM, Read.BIN),
        ("p-02-01-1", "typed", Asks.BIN, Read.BIN),
        ("PO-1001", "scanned", Asks.QUANTITY, Read.ORDER),
        ("LP-000001", "scanned", Asks.TASK, Read.PLATE),
        ("LP-009999", "scanned", Asks.PLATE, Read.LABEL),
        ("LPR-000001", "scanned", Asks.PLATE, Read.LABEL),
        ("106141412345678908", "scanned", Asks.PLATE, Read.LABEL),  # an SSCC
        ("106141412345678907", "scanned", Asks.PLATE, Read.UNKNOWN),  # with a wrong check digit
        ("ROPE-12", "typed", Asks.ITEM, Read.ITEM),
        ("12", "typed", Asks.QUANTITY, Read.NUMBER),
        ("1,5", "typed", Asks.QUANTITY, Read.NUMBER),
        ("12", "typed", Asks.ITEM, Read.UNKNOWN),
        ("K2611", "scanned", Asks.LOT, Read.LOT),
        ("B-01-01-1", "scanned", Asks.LOT, Read.BIN),
        ("X" * 21, "scanned", Asks.LOT, Read.UNKNOWN),
        ("270331", "typed", Asks.EXPIRY, Read.DAY),
    ],
)
def test_what_a_scan_is_read_as(
    ground: Ground, rulebook: Rulebook, text: str, how: str, expected: Asks, kind: Read
) -> None:
    """Things that exist come first, free text only where it is expected."""
    reads = MACHINE.prompts[expected].reads
    assert read(Scan(text, How(how)), reads, new_world(ground, rulebook).state, TODAY).kind is kind


def test_a_scanned_barcode_is_no_count(ground: Ground, rulebook: Rulebook) -> None:
    """Thirteen digits at the quantity are the next item, never thirteen digits of pieces."""
    code = barcode(ground, "SHK-10", "box")
    state = new_world(ground, rulebook).state
    assert read(Scan(code), Asks.QUANTITY, state, TODAY).unit == "box"
    assert read(Scan(code.zfill(14)), Asks.ITEM, state, TODAY).item == "SHK-10"


@pytest.mark.parametrize("text", ["", "   ", "9" * 121])
def test_no_text_and_too_much_of_it(ground: Ground, rulebook: Rulebook, text: str) -> None:
    """Both are told, neither breaks anything."""
    with pytest.raises(Refusal):
        read(Scan(text), Asks.ITEM, new_world(ground, rulebook).state, TODAY)


# Dialogues


def test_receive_and_put_away(ground: Ground, rulebook: Rulebook) -> None:
    """The whole way of a pallet, with the quantity of one line confirmed by the scan of the next item."""
    rope, thick = barcode(ground, "ROPE-12", "coil"), barcode(ground, "ROPE-16", "coil")
    play = Play(new_world(ground, rulebook)).confirm("PO-1007")
    play.opens("F-RECEIVE").asks("order").scan("PO-1007").asks("item", "PO-1007")
    play.scan(rope).asks("quantity", "How many coils?")
    assert play.question().proposal == "20"
    play.scan(thick).done("Plate `LPR-000417` made", "20 coils (4,000 m)").asks("quantity")
    play.press("confirm").done("8 coils (1,600 m)").asks("item")
    assert [line.told for line in play.question().so_far] == ["20 coils (4,000 m)", "8 coils (1,600 m)"]
    assert [line.rest for line in play.question().so_far] == ["✓ all of its line is here"] * 2
    assert not list(play.state.standing("RCV-01")[0].goods), "a plate being built is not stock"
    play.press("finish").done("receipt `RCR-0093`", "to a bin the worker chooses: no rule found one").asks("item")
    play.press("leave").opens("F-PUTAWAY").asks("task").scan("LPR-000417").done("taken")
    play.asks("bin", "No rule found a bin", expect="").scan("R-01-02-1").refused("bin_too_low").scan("STG-01").done(
        "stands in `STG-01`"
    )
    play.asks("task", "Scan the plate")


def test_the_rules_find_the_bin(ground: Ground, rulebook: Rulebook) -> None:
    """A pallet of one rope is taken to the bin shown, and stands there as stock."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(ground, "ROPE-12", "coil")).press("confirm").press("finish").press("leave").opens("F-PUTAWAY")
    play.scan("LPR-000417").asks("bin", expect="B-02-01-1").scan("B-02-01-1").done("stands in `B-02-01-1`")
    assert [(g.item, g.quantity) for p in play.state.standing("B-02-01-1") for g in p.goods] == [("ROPE-12", 4000)]


def test_a_case_scan_counts_the_case(ground: Ground, rulebook: Rulebook) -> None:
    """The unit is the barcode's; another unit of the same item recounts, the same one again asks back."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan("PO-1003")
    play.scan(barcode(ground, "LJ-L", "case")).asks("quantity", "cases")
    assert play.question().proposal == "6"
    play.scan(barcode(ground, "LJ-L", "case")).refused("same_item", "Enter how many cases")
    play.scan(barcode(ground, "LJ-L", "pc")).done().asks("quantity", "pieces")
    play.type("60").done("60 pieces")
    assert play.state.line_progress("PO-1003", 2).noted == 60


def test_lot_and_expiry(ground: Ground, rulebook: Rulebook) -> None:
    """The date comes before the lot; a known lot with another date is refused at once, by hand or by GS1 code."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan("PO-1002")
    play.scan(barcode(ground, "AF-RED-25", "case")).asks("expiry").scan("K2611").refused("no_date")
    play.type("2026-03-02").refused("expired", "put them aside").type("2027-08-31").asks("lot")
    play.scan("K2611").asks("quantity").type("4").done("4 cases (16 tins)")
    other = date(2027, 9, 30)
    play.scan(paint(ground, "K2611", other, 2)).refused("other_expiry", "2027-08-31")
    play.scan(barcode(ground, "AF-RED-25", "case")).type("2027-09-30").scan("K2611").refused("other_expiry").press(
        "back"
    ).asks("expiry")
    play.press("back").asks("item").scan(paint(ground, "N1", other, 2)).done("2 cases (8 tins)").asks("item")
    play.scan(paint(ground, "N2", date(2026, 1, 1), 1)).refused("expired")
    play.scan(paint(ground, "N2", other, 7)).refused("more_than_ordered", "24 tins")


@pytest.mark.parametrize(
    ("text", "code", "part"),
    [
        ("0", "not_above_zero", "Step back"),
        ("-1", "not_above_zero", "above zero"),
        ("0.333", "fraction", "m cannot be split"),
        ("21", "more_than_ordered", "4,000 m"),
        ("abc", "no_number", "how many coils"),
        ("PO-1002", "wrong_kind", "That is order `PO-1002`"),
        ("P-02-01-1", "wrong_kind", "That is bin `P-02-01-1`; enter how many coils"),
    ],
)
def test_quantities_that_are_none(ground: Ground, rulebook: Rulebook, text: str, code: str, part: str) -> None:
    """Each is refused with what to do, and the question stays."""
    play = (
        Play(new_world(ground, rulebook))
        .confirm("PO-1007")
        .opens("F-RECEIVE")
        .scan("PO-1007")
        .scan(barcode(ground, "ROPE-12", "coil"))
    )
    play.type(text).refused(code, part).asks("quantity")
    play.type("2.5").done("500 m")


def test_orders_that_cannot_be_received(ground: Ground, rulebook: Rulebook) -> None:
    """Unknown, not confirmed, all on a plate already: each says why it is not on the handset."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE")
    assert "PO-1007" not in [p.value for p in play.question().picks]
    play.scan("PO-1007").refused("not_confirmed", "not on the handset").scan("PO-9999").refused("unknown_code")
    play.confirm("PO-1007").scan("PO-1007").done().press("other_order").asks("order").scan("PO-1008")
    play.scan(barcode(ground, "FEN-15", "pc")).press("confirm").scan(barcode(ground, "FEN-20", "pc")).press(
        "confirm"
    ).done()
    play.scan(barcode(ground, "FEN-15", "pc")).refused("line_complete")
    play.scan("PO-1008").refused("order_complete", "Nothing of `PO-1008` is open")
    play.scan(barcode(ground, "SHK-10", "box")).refused("not_on_order", "`PO-1001`")


def test_a_flow_takes_the_kinds_of_orders_it_is_for(ground: Ground, rulebook: Rulebook) -> None:
    """Another kind is not listed and is refused by name; by the item alone its orders are passed over. Kinds that no flow on a menu takes are a
    finding, and their orders say so."""
    own = replace(flow_of(rulebook, "F-RECEIVE"), order_kinds=(OrderKind.PURCHASE, OrderKind.PRODUCTION))
    item_first = replace(flow_of(rulebook, "F-BYITEM"), order_kinds=(OrderKind.TRANSFER,))
    flows = tuple({own.id: own, item_first.id: item_first}.get(f.id, f) for f in rulebook.flows)
    gone = {f.id for f in flows if f.purpose is FlowPurpose.RECEIVE} - {own.id, item_first.id}
    menus = tuple(replace(m, flows=tuple(f for f in m.flows if f not in gone)) for m in rulebook.menus)
    book = replace(rulebook, flows=flows, menus=menus)
    play = Play(new_world(ground, book)).opens("F-RECEIVE")
    kinds = {ground.orders[OrderNo(p.value)].kind for p in play.question().picks}
    assert kinds and kinds <= {OrderKind.PURCHASE, OrderKind.PRODUCTION}
    says = "takes purchase orders or production output alone, and `TI-3001` is a transfer from another site."
    play.scan("TI-3001").refused("kind_of_another_flow", says)
    play.scan("PO-1005").done().press("leave")
    assert not {f.code for f in findings(rulebook, ground, SiteCode("HQ"))} & {"kind_on_no_flow"}
    found = [f for f in findings(book, ground, SiteCode("HQ")) if f.code == "kind_on_no_flow"]
    assert [f.place for f in found] == ["flows/F-RECEIVE/order_kinds"] and "announced returns" in found[0].says
    order = next(o for o in ground.orders.values() if o.kind is OrderKind.CUSTOMER_RETURN and o.site == "HQ")
    told = [a.says for a in order_shown(play.state, book, order).agrees if not a.holds]
    assert any("other kinds of orders alone" in t for t in told), told
    bought = ground.orders[OrderNo("PO-1005")].lines[0].item
    assert all(x.item != bought for o in ground.orders.values() if o.kind is OrderKind.TRANSFER for x in o.lines)
    for order_kinds, outcome in (((OrderKind.PURCHASE,), ev.Done), ((OrderKind.TRANSFER,), ev.Refused)):
        alone = replace(
            book, flows=tuple(replace(f, order_kinds=order_kinds) if f.id == item_first.id else f for f in flows)
        )
        play = Play(new_world(ground, alone)).opens("F-BYITEM")
        play.scan(ground.barcodes_of[bought][0].code)
        assert play.last is not None and isinstance(play.last.outcome, outcome), play.last.says


def flow_of(book: Rulebook, flow: str) -> Flow:
    """A flow of the demo."""
    return next(f for f in book.flows if f.id == flow)


def test_lines_are_edited_before_the_plate_is_finished(ground: Ground, rulebook: Rulebook) -> None:
    """Change and take off from the list; too much is refused and leaves the line as it was."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan("PO-1001")
    play.press("finish").refused("empty_plate")
    play.scan(barcode(ground, "SHK-08", "box")).type("4").scan(barcode(ground, "SHK-10", "box")).press(
        "finish"
    ).refused("line_unfinished").press("confirm")
    play.press("change_line", 1, "3").done("150 pieces").press("change_line", 1, "99").refused("more_than_ordered")
    play.press("change_line", 1, "x").refused("no_number").press("remove_line", 2).done("is off").press(
        "remove_line", 2
    ).refused("no_such_line")
    assert [(line.told, line.rest) for line in play.question().so_far] == [
        ("3 boxes (150 pieces)", "350 pieces still open")
    ]
    play.press("finish").done("150 pieces").press("change_line", 1, "1").refused("no_such_line")


def test_leaving_keeps_the_plate_and_another_handset_goes_on(ground: Ground, rulebook: Rulebook) -> None:
    """Coming back resumes; whoever opens the plate last has it, and the other is told by whom."""
    oren = (
        Play(new_world(ground, rulebook))
        .opens("F-RECEIVE")
        .scan("PO-1001")
        .scan(barcode(ground, "SHK-08", "box"))
        .type("4")
    )
    oren.press("leave").done("is still being built").opens("F-RECEIVE").scan("PO-1001").asks("plate", "Go on with it?")
    plate = oren.question().picks[0].value
    oren.scan(plate, "tapped").asks("item")
    mara = oren.other("mara", "H2").opens("F-RECEIVE").scan("PO-1001").asks("plate").scan(plate).asks("item")
    oren.scan(barcode(ground, "SHK-10", "box")).refused("taken_over", "@mara", "`H2`")
    mara.press("finish").done(f"`{plate}` finished")
    oren.opens("F-RECEIVE").scan("PO-1001").asks("item").press("leave")
    mara.press("leave").opens("F-TOTE").scan(plate).refused("plate_finished", "@mara", "`H2`")


def test_two_handsets_cannot_both_finish_a_plate(ground: Ground, rulebook: Rulebook) -> None:
    """The office finishes it while the handset is about to: one of them is told who was first."""
    play = (
        Play(new_world(ground, rulebook))
        .opens("F-RECEIVE")
        .scan("PO-1001")
        .scan(barcode(ground, "SHK-08", "box"))
        .type("4")
    )
    plate = play.question().plate
    play.other("tove", "H9").do(acts.FinishPlate(plate)).done("finished").do(acts.FinishPlate(plate)).refused(
        "plate_finished", "@tove"
    )
    play.press("finish").refused("plate_finished", "@tove")
    assert len(play.state.receipts.every()) == 1


def test_plates_with_labels_of_their_own(ground: Ground, rulebook: Rulebook) -> None:
    """The tote flow asks for a label, which must be scanned, be a plate label, and not be in use."""
    play = Play(new_world(ground, rulebook)).opens("F-TOTE").asks("plate", "label")
    play.type("LPR-000900").refused("must_scan", "must be scanned").scan("LP-000001").refused(
        "plate_used", "Take another label"
    )
    play.scan("TOTE7").refused("no_plate_label", "check digit").scan("P-01-01-1").refused("wrong_kind")
    play.scan("LPR-000900").asks("order").scan("PO-1006", "tapped").scan(barcode(ground, "VHF-H", "pc")).asks(
        "quantity"
    )
    assert play.question().proposal == "", "this flow proposes nothing"
    play.scan(barcode(ground, "PLOT-09", "case")).refused("no_proposal").type("3").done("on `LPR-000900`")
    assert play.state.plate("LPR-000900").plate_kind == "TOTE"


def test_another_bin_is_judged_by_the_same_rules(ground: Ground, rulebook: Rulebook) -> None:
    """Refused with the cause when the goods do not fit, a warning when they do, never or with a reason as the flow says."""

    def carrying(other: OtherBin) -> Play:
        flows = tuple(replace(f, other_bin=other) for f in rulebook.flows)
        play = (
            Play(new_world(ground, replace(rulebook, flows=flows)))
            .confirm("PO-1007")
            .opens("F-RECEIVE")
            .scan("PO-1007")
        )
        play.scan(barcode(ground, "ROPE-12", "coil")).type("10").press("finish").press("leave").opens("F-PUTAWAY").scan(
            "LPR-000417"
        )
        return play.asks("bin", expect="B-02-01-1")

    play = carrying(OtherBin.WARN)
    play.scan("B-02-06-1").refused("bin_blocked", "floor drain").scan("P-01-01-1").refused("bin_too_low", "450 mm")
    play.scan("B-01-01-1").refused("bin_other_item", "`B-02-01-1`").scan("LPR-000417").refused(
        "wrong_kind", "scan bin `B-02-01-1`"
    )
    play.type("B-02-01-1").refused("must_scan")
    play.scan("B-01-04-1").asks("yes_no", "is not the bin shown").scan("B-02-01-1").refused("answer_first").press(
        "no"
    ).asks("bin")
    play.scan("B-01-04-1").press("yes").done("stands in `B-01-04-1`")
    carrying(OtherBin.NEVER).scan("B-01-04-1").refused("not_the_bin", "keeps to the bin shown")
    reason = carrying(OtherBin.REASON).scan("B-01-04-1").asks("reason").type("x").refused("no_reason")
    reason.type("truck in the way").done("stands in `B-01-04-1`")
    assert reason.state.tasks["TR-0204"].placed[0].reason == "truck in the way"


def test_putting_away_what_cannot_be(ground: Ground, rulebook: Rulebook) -> None:
    """Stored, unknown, being built, somebody else's, another crew's: each says what the plate is doing."""
    play = (
        Play(new_world(ground, rulebook))
        .opens("F-RECEIVE")
        .scan("PO-1001")
        .scan(barcode(ground, "SHK-08", "box"))
        .type("4")
    )
    building = play.question().plate
    mara = play.other("mara", "H2").opens("F-PUTAWAY")
    mara.scan(building).refused("plate_building").scan("LP-000001").refused("no_task", "stays in").scan(
        "LP-999999"
    ).refused("unknown_plate")
    play.press("finish").press("leave").opens("F-PUTAWAY").scan(building).done()
    mara.scan(building).refused("task_taken", "@oren")
    play.press("leave").done("still carry").opens("F-PUTAWAY").asks("bin")
    outsider = Play(play.world, "vik", "H3", ("hazard",)).opens("F-PUTAWAY")
    outsider.scan("TR-0204").refused("other_crew", "`quay`")
    play.scan(play.question().expect).done()
    mara.scan(building).refused("task_done", "put away already")


def test_a_flow_nobody_has_seen_runs_unchanged(ground: Ground, rulebook: Rulebook) -> None:
    """Flows are data: quantity before lot, the plate asked last, an order taken as the only one there is."""
    prompts = (
        Prompt("N1", Asks.ORDER, Each.ONCE, skip_single=True),  # type: ignore[arg-type]
        Prompt("N2", Asks.ITEM, check=Check.SCAN),  # type: ignore[arg-type]
        Prompt("N3", Asks.QUANTITY, proposes=Proposes.ONE),  # type: ignore[arg-type]
        Prompt("N4", Asks.EXPIRY),  # type: ignore[arg-type]
        Prompt("N5", Asks.LOT, words="Read me the lot"),  # type: ignore[arg-type]
        Prompt("N6", Asks.PLATE, Each.ONCE),  # type: ignore[arg-type]
    )
    flow = Flow(FlowId("F-NEW"), "Paint first", FlowPurpose.RECEIVE, prompts, PlateBy.ASKED, "PAL")  # type: ignore[arg-type]
    menu = replace(rulebook.menus[0], flows=(FlowId("F-NEW"),))
    orders = tuple(replace(o, confirmed=o.number == "PO-1002") for o in ground.opening.orders)
    one_order = Ground(replace(ground.opening, orders=orders))
    play = Play(new_world(one_order, replace(rulebook, flows=(*rulebook.flows, flow), menus=(menu,))))
    play.opens("F-NEW").asks("item", "PO-1002").type("AF-RED-25").refused("must_scan")
    play.scan(barcode(ground, "AF-RED-25", "case")).asks("quantity")
    assert play.question().proposal == "1"
    play.type("5").asks("expiry").type("300630").asks("lot", "Read me the lot").scan("Q1").asks("plate")
    play.scan("LPR-000777").done("5 cases (20 tins)", "LPR-000777").asks("item")
    play.scan(paint(ground, "Q2", date(2030, 6, 30), 2)).done("2 cases").asks("item").press("finish").done("28 tins")


def test_flows_out_of_reach(ground: Ground, rulebook: Rulebook) -> None:
    """A flow on no menu of the crew, or in no rulebook; a dialogue that is over, elsewhere, or gone on."""
    play = Play(new_world(ground, rulebook))
    play.opens("F-NONE").refused("unknown_flow")
    Play(play.world, "mara", "H2", ("hazard",)).opens("F-RECEIVE").refused("not_on_menu", "on no menu of your crews")
    play.opens("F-RECEIVE")
    dialogue = play._dialogue()
    play.other("mara", "H2").do(acts.Answer(dialogue, Scan("PO-1001"))).refused("other_device", "`H1`")
    play.do(acts.Answer(dialogue, Scan("PO-1001"), step=1)).done().do(
        acts.Answer(dialogue, Scan("PO-1001"), step=1)
    ).refused("stale_step")
    play.press("back").done().press("back").refused("nothing_before").press("confirm").refused(
        "nothing_to_confirm"
    ).press("yes").refused("nothing_to_confirm")
    play.press("leave").do(acts.Answer(dialogue, Scan("PO-1001"))).refused("dialogue_over")


def test_an_asked_label_is_not_passed_by(ground: Ground, rulebook: Rulebook) -> None:
    """A flow that asks for the plate's label offers no number of the program's own."""
    play = Play(new_world(ground, rulebook)).opens("F-TOTE").asks("plate")
    assert [b.action for b in play.question().buttons] == ["leave"]
    play.press("new_plate").refused("label_asked", "scan an unused one").scan("LPR-000900").done().asks("order")


def test_an_empty_list_counts_the_orders_that_could_come(ground: Ground, rulebook: Rulebook) -> None:
    """Not those that go out, nor those that were cancelled in the host."""
    bare = Ground(replace(ground.opening, orders=()))
    play = Play(new_world(bare, rulebook))
    coming = replace(ground.orders["PO-1007"], confirmed=False)  # type: ignore[index]
    for number in ("PO-A", "PO-B"):
        play.do(acts.WriteOrder(replace(coming, number=number))).done()  # type: ignore[arg-type]
    play.do(acts.WriteOrder(replace(coming, number="SO-A", kind=OrderKind.SALES, partner=None))).do(
        acts.CancelOrder("PO-B")
    )  # type: ignore[arg-type]
    assert "1 waits to be confirmed" in play.opens("F-RECEIVE").question().note


def test_an_order_opened_meanwhile_stops_the_line_at_its_next_answer(ground: Ground, rulebook: Rulebook) -> None:
    """Not only at the quantity, after all the questions; what was answered stays and is gone on with when it is closed."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1004").opens("F-RECEIVE").scan("PO-1004").asks("item")
    office, code = Play(play.world, "ines", "H9", ()), barcode(ground, "FLR-HH", "case")
    opened, closed = acts.OpenOrder(OrderNo("PO-1004")), acts.CloseOrder(OrderNo("PO-1004"))
    for answer, asks in ((code, "expiry"), ("2027-03-31", "lot"), ("L-77", "quantity")):
        office.do(opened).done()
        how = "scanned" if answer == code else "typed"
        play.scan(answer, how).refused("order_held", "open for editing")
        office.do(closed).done()
        play.scan(answer, how).done().asks(asks)
    play.type("2").done()


def test_leaving_names_the_flow_that_places_what_is_carried(ground: Ground, rulebook: Rulebook) -> None:
    """The one that is left, or the one on the menu that does it."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(ground, "ROPE-12", "coil")).type("2").press("finish").press("leave").opens("F-PUTAWAY")
    play.scan("LPR-000417").done().press("leave").done(
        "You still carry plate `LPR-000417`; open the flow again to place it."
    )
    play.opens("F-LOOK").press("leave").done("You still carry plate `LPR-000417`; open Put away to place it.")
