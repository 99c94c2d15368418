"""Picking on the real handset page: a wave of each method, a wrong tote, a stop that is short, a pick that is gone on with elsewhere."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.demo.loader import demo_opening
from tests.browser.conftest import no_axe_violations, scan, sign_in
from tests.browser.test_release import HEAD, begun
from tests.playbook import barcode
from tests.serving import Server

GROUND = Ground(demo_opening())
TOTES = [f"LPR-9000{n}" for n in range(11, 30)]


def waves(page: Page) -> str:
    """A run with a wave of each method that may be picked, into which Oren is asked."""
    orders = ["SO-2001", "SO-2051", "SO-2006", "SO-2009", "SO-2002", "SO-2025"]
    world = begun(page, *orders)

    def does(number: int, act: dict[str, Any]) -> None:
        answer = page.request.post(f"/api/worlds/{world}/commands", data={"id": f"w{number}", "act": act}, headers=HEAD)
        assert answer.ok, answer.text()

    does(0, {"kind": "release_orders", "orders": orders, "warned": True})
    for n, plan in enumerate(("WP-1", "WP-2", "WP-3", "WP-4"), start=1):
        does(n, {"kind": "make_wave", "plan": plan, "orders": []})
        if plan in ("WP-2", "WP-3"):  # the others go by themselves
            does(10 + n, {"kind": "let_wave_go", "wave": f"WR-000{n}"})
    asked = page.request.post(f"/api/worlds/{world}/guests", data={"person": "oren"}, headers=HEAD)
    assert asked.ok, asked.text()
    return world


def in_the_run(phone: Page, world: str, who: str = "oren") -> None:
    """Somebody signs in on a phone and goes into the run."""
    phone.goto("/handset")
    phone.get_by_label("Name").fill(who)
    phone.get_by_label("Password").fill("quay")
    phone.get_by_role("button", name="Sign in").click()
    phone.get_by_role("button", name=re.compile("Orders that go")).first.click()
    expect(phone.get_by_role("heading", name="What do you do?")).to_be_visible()


class Hand:
    """Answers what the handset asks, as somebody does who reads it."""

    def __init__(self, phone: Page, totes: list[str]) -> None:
        self.phone, self.totes = phone, totes
        self.title = phone.locator(".hs h1")

    def asked(self) -> str:
        return self.title.inner_text().replace("\n", " ")

    def scans(self, code: str) -> None:
        with self.answered():
            scan(self.phone, code)

    def presses(self, name: str | re.Pattern[str]) -> None:
        button = self.phone.get_by_role("button", name=name).first
        if not button.count():
            self.phone.get_by_role("button", name="More", exact=True).click()
        with self.answered():
            button.click()

    @contextmanager
    def answered(self) -> Iterator[None]:
        """What is done is a command, and the page shows what follows."""
        shown = self.phone.locator(".hs")
        before = shown.get_attribute("data-entry")
        yield
        expect(shown).not_to_have_attribute("data-entry", str(before))

    def answers(self) -> str:
        """One question; what it was."""
        asked = self.asked()
        if asked.startswith("Scan an empty tote"):
            self.scans(self.totes.pop(0))
        elif asked.startswith("How many"):
            self.presses(re.compile("^Confirm"))
        elif asked.startswith("Which lot"):
            self.presses(re.compile(r"expires"))
        elif (expected := self.phone.locator(".hs-expect").first).count():
            self.scans(expected.inner_text())
        else:
            item = ItemCode(asked.split()[1])
            self.scans(barcode(GROUND, item, GROUND.items[item].base.code))
        return asked

    def to_the_end(self) -> list[str]:
        """All that is asked of a task."""
        told = []
        while not self.asked().startswith("Scan what to pick"):
            told.append(self.answers())
            assert len(told) < 80, told
        return told


def begins(page: Page, phone: Page) -> tuple[str, Hand]:
    """A run with waves, and Oren's phone in it, which asks what to pick."""
    sign_in(page)
    world = waves(page)
    in_the_run(phone, world)
    phone.get_by_role("button", name="Pick", exact=True).click()
    hand = Hand(phone, list(TOTES))
    expect(hand.title).to_have_text("Scan what to pick")
    return world, hand


@pytest.mark.needs("I05", "I13", "I17", "I19", "I20", "I28", "I29", "N13", "N14", "N15")
def test_a_wave_of_each_method_is_picked_on_the_phone(page: Page, phone: Page) -> None:
    """Together without totes, on a cart with a tote for each order, one order by itself, from zone to zone with the tote taken along: each to its station, and the
    board says that they are done."""
    world, hand = begins(page, phone)
    says = phone.get_by_role("status")
    hand.scans("WR-0001")
    told = hand.to_the_end()
    assert not any("tote" in t for t in told) and told[-1].startswith("Take it"), told
    hand.scans("WR-0002")
    expect(says).to_contain_text("2 orders")
    hand.answers(), hand.answers()
    while not hand.asked().startswith("Put it into tote"):
        hand.answers()
    right = phone.locator(".hs-expect").first.inner_text()
    hand.scans(next(t for t in TOTES[:2] if t != right))
    expect(says).to_contain_text("That is the tote of")
    hand.answers()
    phone.get_by_role("button", name=re.compile("^Picked: ")).click()
    expect(phone.locator(".hs")).to_contain_text(right)
    no_axe_violations(phone)
    expect(phone.get_by_role("button", name="Change")).to_have_count(0)
    phone.get_by_role("button", name=re.compile("Back|Close|Go on", re.IGNORECASE)).first.click()
    hand.to_the_end()
    hand.scans("SO-2002")
    hand.to_the_end()
    hand.scans("WR-0004")
    tote = hand.totes[0]
    told = hand.to_the_end()
    assert told[-1].startswith("Take it to STG-12"), told
    hand.scans(tote)  # it stands there, and says itself which task goes on with it
    expect(hand.title).to_contain_text(f"Take tote {tote} along from STG-12")
    no_axe_violations(phone)
    hand.scans(hand.totes[0])
    expect(says).to_contain_text("no tote that was handed on to you")
    assert hand.to_the_end()[0].startswith("Take tote")
    page.goto(f"/board?world={world}")
    for wave in ("WR-0001", "WR-0002", "WR-0003", "WR-0004"):
        page.goto(f"/board?world={world}&wave={wave}")
        expect(page.get_by_label("Chosen wave").get_by_role("heading").first).to_contain_text("done")


@pytest.mark.needs("I36", "I37", "N16")
def test_a_stop_is_short_and_a_pick_is_gone_on_with_elsewhere(
    page: Page, phone: Page, browser: Browser, server: Server
) -> None:
    """What is not there is said with a reason and is shown as kept for a count; later comes last; on another handset the same person goes on where
    she stands."""
    world, hand = begins(page, phone)
    says = phone.get_by_role("status")
    hand.scans("WR-0002")
    hand.answers(), hand.answers()
    first = phone.locator(".hs-expect").first.inner_text()
    hand.presses("Later")
    expect(phone.locator(".hs-expect").first).not_to_have_text(first)
    hand.presses("Not there")
    expect(hand.title).to_contain_text("Why?")
    hand.scans("no")
    expect(says).to_contain_text("a few words")
    hand.scans("the bin is empty")
    expect(says).to_contain_text("Nobody is sent there for them until they are counted.")
    hand.answers()
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True, base_url=server.url)
    other = context.new_page()
    in_the_run(other, world)
    other.get_by_role("button", name="Pick", exact=True).click()
    gone_on = Hand(other, [])
    expect(gone_on.title).to_contain_text(re.compile("Go to|Scan"))
    gone_on.to_the_end()
    context.close()
    page.goto(f"/board?world={world}&wave=WR-0002")
    expect(page.get_by_label("Chosen wave").get_by_role("heading").first).to_contain_text("done")
    page.goto(f"/work?world={world}&list=not_found")
    expect(page.get_by_role("table").get_by_role("row")).to_have_count(2)
    no_axe_violations(page)
    page.get_by_role("button", name=re.compile("is there$")).click()
    expect(page.get_by_text("Whatever was to be picked was found.")).to_be_visible()


@pytest.mark.needs("I31", "O12")
def test_a_batch_is_sorted_on_the_phone(page: Page, phone: Page) -> None:
    """What was fetched together is scanned item by item; the place of each order is shown, another order's is refused by its name."""
    world, hand = begins(page, phone)
    hand.scans("WR-0001")
    hand.to_the_end()
    page.goto(f"/documents?world={world}&doc=SO-2001")
    chain = page.locator(".chain")
    expect(chain).to_contain_text(re.compile("sales order.*picked, .*not sorted yet, 0 .*not shipped yet"))
    expect(chain).to_contain_text(re.compile("1 order for .*picked, 1 of 1 task.*not shipped yet"))
    page.goto(f"/board?world={world}&wave=WR-0001")
    page.get_by_role("tab", name="Lines 2").click()
    lines = page.get_by_role("table", name="Lines of the wave")
    expect(lines).to_contain_text("to sort")
    phone.get_by_role("button", name="Leave").click()
    phone.get_by_role("button", name="Sort", exact=True).click()
    expect(hand.title).to_have_text("Scan where it is sorted")
    hand.presses(re.compile("^STG-10"))
    says = phone.get_by_role("status")
    for n, item in enumerate(("LJ-M", "ROPE-24")):
        expect(hand.title).to_have_text("Scan any item")
        hand.scans(barcode(GROUND, ItemCode(item), GROUND.items[ItemCode(item)].base.code))
        hand.presses(re.compile("^Confirm"))
        expect(hand.title).to_contain_text("is new")
        if n:
            hand.scans("SRT-1-A")
            expect(says).to_contain_text("is the place of")
        hand.scans(phone.locator(".hs-expect").first.inner_text())
    expect(says).to_contain_text("is sorted")
    expect(hand.title).to_have_text("Scan where it is sorted")
    expect(lines).not_to_contain_text("to sort")
    expect(lines).to_contain_text("fetched")
    page.goto(f"/documents?world={world}&doc=SO-2001")
    expect(chain).to_contain_text(re.compile("sales order.*sorted, [^0].*not shipped yet"))
    no_axe_violations(phone)


@pytest.mark.needs("M03")
def test_a_shelf_is_filled_from_the_office_and_on_the_phone(page: Page, phone: Page) -> None:
    """The office has a shelf filled; on the phone of who gets at reserve it is fetched off its pallet, counted, and placed where it is shown."""
    sign_in(page)
    world = begun(page, "SO-2001")
    asked = page.request.post(f"/api/worlds/{world}/guests", data={"person": "anouk"}, headers=HEAD)
    assert asked.ok, asked.text()
    page.goto(f"/work?world={world}&list=shelves")
    page.get_by_role("button", name="Fill all that are low").wait_for()
    expect(page.get_by_text("No shelf holds less than its least.")).to_be_visible()
    page.get_by_label("Take P-01-19-4 OIL-L").check()
    page.get_by_role("button", name="Fill this").click()
    shelf = page.get_by_role("table", name="Shelves").get_by_role("row").filter(has_text="P-01-19-4")
    expect(shelf.get_by_role("link", name=re.compile("^TR-"))).to_have_count(1)
    expect(page.get_by_role("tab", name="Shelves 1")).to_be_visible()
    no_axe_violations(page)
    number = shelf.get_by_role("link").inner_text()
    in_the_run(phone, world, "anouk")
    phone.get_by_role("button", name="Bring from reserve").click()
    hand = Hand(phone, [])
    expect(hand.title).to_have_text("Scan what to bring from reserve")
    hand.scans(number)
    told = [hand.answers() for _ in range(4)]
    assert [t.split()[0] for t in told] == ["Go", "Scan", "How", "Take"], told
    expect(phone.get_by_role("status")).to_contain_text("placed in P-01-19-4")
    page.reload()
    expect(page.get_by_role("tab", name="Shelves", exact=True)).to_be_visible()
    page.goto("/recipes/replenish")
    bench = page.get_by_role("complementary", name="Bench")
    expect(bench).to_contain_text("Reach crew · priority 8")
    bench.get_by_label("Because").select_option("fill")
    expect(bench).to_contain_text("Reach crew · priority 4")
    no_axe_violations(page)
