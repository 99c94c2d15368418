"""Waves on their pages: plans as sentences with a bench, steps out, recipes that pick; and the board of a floor."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import no_axe_violations, sign_in, window
from tests.browser.test_release import HEAD, begun
from tests.serving import Server


@pytest.mark.needs("I03", "I04", "I05", "I06")
def test_a_wave_plan_is_made_and_tried_on_the_orders_as_they_are(page: Page) -> None:
    """A plan is added, asked for some orders only, changed word by word; the bench says which plan takes which order and why those before do not,
    and compares all ways to pick it."""
    sign_in(page, at="/waves")
    bench = page.get_by_label("Bench")
    ways = bench.get_by_label("Ways to pick this wave")
    expect(ways).to_be_visible()
    expect(page.get_by_role("heading", name="Haulage")).to_be_visible()
    no_axe_violations(page)
    bench.get_by_label("A wave of").select_option("WP-2")
    runs = bench.get_by_role("list", name="Next runs")
    runs.get_by_text("2 Mar, 10:30").click()
    expect(runs.get_by_role("listitem").first).to_contain_text("SO-2019")
    bench.get_by_label("A wave of").select_option("WP-3")
    expect(ways.locator("tr[aria-current]")).to_contain_text("order by order")
    expect(bench).to_contain_text("It runs when the office makes it.")
    page.get_by_role("button", name="Add a plan that picks").click()
    page.get_by_role("menuitem", name="several orders on a cart, a tote for each").click()
    made = page.locator("#WP-5")
    expect(made).to_contain_text("of any kind")
    belongs = bench.get_by_label("Orders and their plans")
    expect(belongs.get_by_role("listitem").filter(has_text="SO-2003")).to_contain_text("New wave plan")
    made.get_by_role("button", name="only those").click()
    page.get_by_role("option", name="by a carrier").click()
    page.get_by_role("option", name=re.compile("BOAT")).first.click()
    page.keyboard.press("Escape")
    expect(made).to_contain_text(re.compile("released orders by BOAT"))
    expect(belongs.get_by_role("listitem").filter(has_text="SO-2003")).to_contain_text("at once")
    boat = belongs.get_by_role("listitem").filter(has_text="SO-2010")
    expect(boat).to_contain_text("Launch")  # the first plan of the list that takes it
    boat.locator("summary").click()
    expect(boat).to_contain_text("Parcels: it goes by BOAT")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(made).to_contain_text("of any kind")  # before it is taken back, another press would come to nothing
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(made).to_have_count(0)


@pytest.mark.needs("I08")
def test_who_walks_which_round_is_drawn(page: Page) -> None:
    """What each picker walks, how even that is, and where they meet; one round alone with its stops; with one picker more it is shared anew."""
    sign_in(page, at="/waves")
    bench = page.get_by_label("Bench")
    expect(bench.get_by_label("Ways to pick this wave")).to_be_visible()
    bench.get_by_label("A wave of").select_option("WP-2")
    bench.get_by_role("button", name="Its rounds on the map").click()
    sheet = page.get_by_role("dialog", name="Rounds of the wave")
    pickers = sheet.get_by_role("list", name="Pickers and their rounds").locator("> li")
    expect(pickers.first).to_contain_text(re.compile(r"^1 Quay crew [\d,]+ m \d rounds?"))
    expect(sheet).to_contain_text("They begin and end at PACK-1.")
    expect(sheet.locator("canvas")).to_be_visible()
    no_axe_violations(page)
    before = pickers.count()
    one = pickers.first.get_by_role("button", name=re.compile("^Task")).first
    one.click()
    expect(one).to_have_attribute("aria-pressed", "true")
    no_axe_violations(page)
    sheet.get_by_role("button", name="Show all").click()
    expect(one).to_have_attribute("aria-pressed", "false")
    sheet.get_by_role("button", name="Close").click()
    plan = page.locator("#WP-2")
    plan.locator(".word", has_text="picker").click()
    box = page.get_by_role("textbox").last
    expect(box).to_be_focused()
    box.fill("9")
    page.keyboard.press("Enter")
    expect(plan).to_contain_text("9 pickers")
    bench.get_by_role("button", name="Its rounds on the map").click()
    expect(pickers).not_to_have_count(before)
    expect(sheet).to_contain_text("nothing to walk")
    sheet.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(plan).not_to_contain_text("9 pickers")


@pytest.mark.needs("B02", "B03", "B19")
def test_steps_out_and_recipes_that_pick_are_sentences_with_a_map_and_a_bench(page: Page) -> None:
    """The map of goods that go out leads to what decides it; a station is switched off and the map follows; the bench of recipes shows the tasks of
    an order before it is released."""
    sign_in(page, at="/steps")
    page.get_by_role("tab", name="Goods out").click()
    drawn = page.get_by_label("Map of stations")
    expect(drawn).to_contain_text("Pack")
    expect(drawn).to_contain_text("Shipped")
    sales = page.locator("#SH-1")
    expect(sales).to_contain_text("They are packed at the first bin of Packing that has room")
    no_axe_violations(page)
    sales.locator(".word", has_text="They are staged").click()
    page.get_by_role("option").filter(has_text="There is no step to stage them").click()
    told = page.get_by_role("dialog", name="What this changes")
    if told.count():
        told.get_by_role("button", name=re.compile("Save|Change")).first.click()
    expect(sales).to_contain_text("There is no step to stage them")
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(sales).to_contain_text("They are staged")
    page.goto("/recipes/pick")
    expect(page.get_by_role("tab", name="Pick")).to_have_attribute("aria-selected", "true")
    expect(page.locator("#RE-5")).to_contain_text("Goods worth at least 250 apiece become a task for each order.")
    bench = page.get_by_label("Bench")
    bench.locator("#task-order").select_option("SO-2004")
    expect(bench.get_by_label("Orders")).to_contain_text("SO-2004")
    expect(bench).to_contain_text("Instrument store")
    expect(bench).to_contain_text(re.compile("Recipe 5.*worth"))
    no_axe_violations(page)


@pytest.mark.needs("I01", "I09", "I10", "I11", "I39")
def test_the_board_makes_lets_go_holds_changes_and_cancels_waves(page: Page) -> None:
    """Orders that wait become a wave; from an order to its lines and tasks and back; one is taken out, one joins; held and let go; what was picked is
    said in the office and moves the wave on; cancelled, its orders wait again."""
    sign_in(page)
    world = begun(page, "SO-2002", "SO-2017", "SO-2004", "SO-2023")
    orders = ["SO-2002", "SO-2017", "SO-2004", "SO-2023"]
    act = {"kind": "release_orders", "orders": orders}
    assert page.request.post(f"/api/worlds/{world}/commands", data={"id": "go", "act": act}, headers=HEAD).ok
    page.goto(f"/board?world={world}")
    waits = page.get_by_role("list", name="Waiting for a wave").get_by_role("listitem")
    expect(waits).to_have_count(2)
    expect(waits.first).to_contain_text("1 order for Parcels, runs at 10:30, 15:45")
    no_axe_violations(page)
    page.get_by_role("button", name="Make the wave of Haulage").click()
    said = page.get_by_role("status").filter(has_text="Wave")
    expect(said).to_contain_text("WR-0002 of Haulage: 2 orders")
    wave = page.get_by_label("Chosen wave")
    expect(wave).to_contain_text("gathered")
    wave.get_by_role("tab", name="Tasks").click()
    expect(wave).to_contain_text("Nothing is kept yet, and no task made: let it go first.")
    wave.get_by_role("tab", name=re.compile("^Orders")).click()
    wave.get_by_label("Order that joins").select_option("SO-2004")
    wave.get_by_role("button", name="Let it join").click()
    expect(said).to_contain_text("Haulage would not have taken it: it goes by TIDE.")
    expect(wave.get_by_label("Orders of the wave").get_by_role("row")).to_have_count(3)
    out = wave.get_by_role("button", name="Take SO-2004 out")
    expect(out).to_be_disabled()
    wave.get_by_label("Reason").fill("it goes with the parcels")
    out.click()
    expect(said).to_contain_text("SO-2004 left wave WR-0002: it goes with the parcels.")
    wave.get_by_role("button", name="Let it go").click()
    expect(said).to_contain_text("Wave WR-0002 is let go.")
    wave.get_by_role("button", name="Pin how it stands").click()
    expect(page.get_by_text("Pinned: so it must be at the end of the run.")).to_be_visible()
    wave.get_by_role("button", name="SO-2017", exact=True).click()
    expect(wave).to_contain_text("Only of SO-2017")
    expect(wave.get_by_label("Lines of the wave").get_by_role("row")).to_have_count(3)
    wave.get_by_label("Lines of the wave").get_by_role("button", name=re.compile("^TR-")).first.click()
    expect(wave.get_by_label("Tasks of the wave")).to_contain_text("of SO-2017")
    wave.get_by_label("Reason").fill("aisle closed")
    wave.get_by_role("button", name="Hold", exact=True).click()
    expect(wave).to_contain_text("Held: aisle closed")
    no_axe_violations(page)
    wave.get_by_role("button", name="Let it go").click()
    expect(wave.get_by_role("heading")).to_contain_text("let go")
    number = wave.get_by_label("Tasks of the wave").get_by_role("link").first.inner_text()
    page.goto(f"/work?world={world}&list=tasks")
    page.get_by_role("button", name=f"Picked {number}").click()
    form = page.get_by_role("dialog", name=f"Picked {number}")
    expect(form.get_by_role("button", name="It was picked")).to_be_disabled()
    form.get_by_label(re.compile("^Why it is said here")).fill("picked by paper")
    form.get_by_label("Set down in").fill("NO-BIN")
    form.get_by_role("button", name="It was picked").click()
    expect(form.get_by_role("status")).to_contain_text("There is no bin NO-BIN at this site.")
    no_axe_violations(page)
    form.get_by_label("Set down in").fill("")
    form.get_by_role("button", name="It was picked").click()
    expect(form).to_have_count(0)
    page.goto(f"/board?world={world}&wave=WR-0002")
    expect(wave.get_by_role("heading")).to_contain_text(re.compile("in progress|done"))
    page.get_by_role("button", name="Make the wave of Parcels").click()
    expect(said).to_contain_text("WR-0003 of Parcels: 1 order, SO-2004")
    expect(wave.get_by_role("heading")).to_contain_text("held")
    wave.get_by_label("Reason").fill("no truck today")
    wave.get_by_role("button", name="Cancel the wave").click()
    expect(said).to_contain_text("Wave WR-0003 is cancelled: no truck today.")
    expect(waits.filter(has_text="Parcels")).to_contain_text("SO-2004")
    page.goto(f"/release?world={world}&order=SO-2004")
    expect(page.get_by_label("Chosen order")).to_contain_text("It waits for Parcels.")


@pytest.mark.needs("A33", "I02")
def test_an_order_is_of_a_class_by_rule_and_lists_and_plans_know_it(
    page: Page, browser: Browser, server: Server
) -> None:
    """A class is made of sentences; the bench says which orders are of it, which two classes would take, and why others are not; a wave plan is for
    it alone; when what the class asks for is changed elsewhere, the plan's bench says at once what the plan takes now; the list of what may be
    released names it."""
    sign_in(page, at="/classes")
    bench = page.get_by_label("Bench")
    orders = bench.get_by_label("Orders and their classes")
    expect(orders.get_by_role("listitem").filter(has_text="SO-2001")).to_contain_text("Urgent")
    no_axe_violations(page)
    page.get_by_role("button", name="Add a class of").click()
    page.get_by_role("menuitem", name="sales orders").click()
    made = page.locator("#OC-5")
    expect(made).to_contain_text("It is for sales orders")
    made.get_by_role("button", name="and only").click()
    page.get_by_role("option", name="of a group of partners").click()
    page.get_by_role("option", name="Schools").click()
    page.keyboard.press("Escape")
    expect(made).to_contain_text("It is for sales orders of Schools")
    bench.get_by_label("Orders", exact=True).select_option("OC-5")
    school = orders.get_by_role("listitem").filter(has_text="SO-2003")
    expect(school).to_contain_text("New class")
    school.locator("summary").click()
    expect(school).to_contain_text("Not Web shop: it came by counter.")
    bench.get_by_label("Orders", exact=True).select_option("twice")
    both = orders.get_by_role("listitem").filter(has_text="SO-2001")
    both.locator("summary").click()
    expect(both).to_contain_text("would take it too")
    page.goto("/waves")
    plan = page.locator("#WP-3")
    plan.get_by_role("button", name="and only").click()
    page.get_by_role("option", name="of a class").click()
    page.get_by_role("option", name="New class").click()
    page.keyboard.press("Escape")
    expect(plan).to_contain_text("by HEAV and of class New class")
    belongs = bench.get_by_label("Orders and their plans")
    passed = belongs.get_by_role("listitem").filter(has_text="SO-2012")
    passed.locator("summary").click()
    expect(passed).to_contain_text("Haulage: it is of no class")
    with window(browser, server) as other:
        sign_in(other, at="/classes")
        other.locator("#OC-5 .word", has_text="Schools").click()
        other.get_by_role("option", name="Shops").click()
        other.keyboard.press("Escape")
        expect(other.locator("#OC-5")).to_contain_text("Shops")
    expect(passed).not_to_contain_text("it is of no class")
    expect(passed).to_contain_text("Haulage")
    world = begun(page, "SO-2028")
    page.goto(f"/release?world={world}&order=SO-2028")
    expect(page.get_by_role("row").filter(has_text="SO-2028")).to_contain_text("Urgent")
    for _ in range(4):
        page.goto("/classes")
        page.get_by_role("button", name="Undo", exact=True).click()
    expect(made).to_have_count(0)
