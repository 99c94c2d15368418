"""Ten rehearsals of goods coming in, played on the real handset: every scan, tap and press goes through the page, and what it says is
what the rehearsal recorded."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import to_plain
from mindful_crate.core.proving.rehearse import open_dialogue, question_of, run
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.scanning.reading import How
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_rehearsals, demo_rules
from mindful_crate.files import gs1
from tests.browser.conftest import no_axe_violations, scan, sign_in

SCRIPTS = {s.id: s for s in demo_rehearsals()}
TEN = (
    "a-pallet-broken-on-the-way", "a-truck-counted-at-the-door", "begun-in-the-office", "by-item-alone", "closed-short",
    "dear-goods-piece-by-piece", "handed-over-to-another-crew", "one-after-another", "the-lane-before-the-count", "undone-in-reverse",
)  # fmt: skip
HEAD = {"X-Mindful-Crate": "1"}


def post(page: Page, path: str, body: dict[str, Any]) -> Any:
    """What the API answers to the person who is signed in."""
    answer = page.request.post(path, data=body, headers=HEAD)
    assert answer.ok, answer.text()
    return answer.json()


def shown(text: str) -> str:
    """A sentence as a screen shows it, up to the first name, which is put in there."""
    return text.replace("`", "").split("@")[0].strip()


def do(page: Page, world: str, entry: ev.Entry, question: Question | None, flow_name: str) -> None:
    """One entry of a run, by hand."""
    act, handset = entry.command.act, page.get_by_label("Handset", exact=True).last
    box = page.get_by_label("Scan or type")
    match act:
        case acts.OpenFlow():
            handset.get_by_role("button", name=flow_name, exact=True).first.click()
        case acts.Answer(scan=given) if given.how is How.TAPPED:
            assert question is not None
            at = [p.value for p in question.picks].index(given.text)
            handset.locator(".hs-pick").nth(at).click()
        case acts.Answer(scan=given) if given.how is How.SCANNED:
            expect(box).to_be_focused()
            scan(page, given.text)
        case acts.Answer(scan=given):
            box.fill(given.text)
            box.press("Enter")
        case acts.Press(action=action) if question is not None:
            button = handset.get_by_role(
                "button", name=next(b.label for b in question.buttons if b.action == action), exact=True
            )
            if not button.is_visible():
                handset.get_by_role("button", name="More").click()
            button.click()
        case acts.StepBack():
            handset.get_by_role("button", name="Step back").click()
        case acts.LeaveFlow():
            leave = handset.get_by_role("button", name="Leave", exact=True)
            if not leave.is_visible():
                handset.get_by_role("button", name="More").click()
            leave.click()
        case _:
            post(
                page,
                f"/api/worlds/{world}/commands",
                {"id": f"office-{entry.seq}", "act": to_plain(act), "device": None},
            )


def by_hand(entry: ev.Entry, question: Question | None) -> bool:
    """Could it be done on the handset as it is? A press that is not offered, or of a line of the list, could not."""
    act = entry.command.act
    if isinstance(act, acts.Press):
        return question is not None and act.line is None and any(b.action == act.action for b in question.buttons)
    if isinstance(act, acts.Answer) and act.scan.how is How.TAPPED:
        return question is not None and any(p.value == act.scan.text for p in question.picks)
    return True


@pytest.mark.parametrize("name", TEN)
def test_a_rehearsal_is_played_on_the_handset(page: Page, ground: Ground, name: str) -> None:
    """Step by step the reply reads as recorded; the run that comes of it stands where the rehearsal's does."""
    script = SCRIPTS[name]
    rules = demo_rules(script.site, ground)
    _, world = run(script, ground, rules, lambda at: at.date(), gs1.split)
    sign_in(page)
    played = post(page, f"/api/rehearsals/{name}/open", {"rulebook": "d-1"})["id"]
    id_ = post(page, f"/api/worlds/{played}/branch", {"seq": 0, "draft": None})["id"]
    page.goto(f"/desk/{id_}")
    beside = World(ground, world.state.settings, rules, world.today)
    people = {p["id"]: p["name"] for p in page.request.get("/api/people", headers=HEAD).json()["people"]}
    holds: tuple[str, str] | None = None
    for entry in world.log:
        stamp = entry.command.stamp
        if stamp.id.startswith("host"):
            beside.run(entry.command)
            continue
        question = None
        if stamp.device is not None:
            dialogue = open_dialogue(beside.state, stamp.device)
            question = question_of(beside, dialogue, stamp.crews) if dialogue else None
            if holds != (stamp.who, stamp.device):
                page.get_by_label("Whose hands").select_option(people[stamp.who])
                page.get_by_label("Handset", exact=True).first.select_option(stamp.device)
                holds = stamp.who, stamp.device
        if not by_hand(entry, question):
            body = {
                "id": f"m-{entry.seq}",
                "act": to_plain(entry.command.act),
                "device": stamp.device,
                "person": stamp.who,
            }
            post(page, f"/api/worlds/{id_}/commands", body)
        else:
            flow = rules.flow(entry.command.act.flow) if isinstance(entry.command.act, acts.OpenFlow) else None
            if stamp.device is not None:  # the handset shows what was asked last, also after what others did
                handset = page.get_by_label("Handset", exact=True).last
                expect(handset).to_have_attribute("data-entry", str(len(beside.log)))
            do(page, id_, entry, question, flow.name if flow else "")
        beside.run(entry.command)
        expect(page.locator(".log .row").nth(entry.seq - 1)).to_contain_text(shown(entry.says)[:60])
    assert len(beside.log) == len(world.log)


def test_two_sites_are_played_the_same_day(page: Page) -> None:
    """A rehearsal of two sites lies on two desks; a third site is put beside; kept from the desk it is the same, and passes."""
    sign_in(page)
    page.goto("/rehearsals/sent-by-one-received-by-the-other")
    expect(page.get_by_role("main")).to_contain_text("At Gull Lane parts store: Scans GL-504")
    page.get_by_role("button", name=re.compile("^Run on")).first.click()
    expect(page.get_by_role("main")).to_contain_text("passed")
    opened = post(page, "/api/rehearsals/sent-by-one-received-by-the-other/open", {"rulebook": "d-1"})["id"]
    page.goto(f"/desk/{opened}")
    day = page.get_by_label("The same day at other sites")
    day.get_by_role("button", name="+ Slipway stockroom").click()
    expect(day.get_by_role("link", name="Slipway stockroom")).to_be_visible()
    no_axe_violations(page)
    day.get_by_role("link", name="Gull Lane parts store").click()
    expect(page.get_by_text("SHR-0001 of the other site is on its way for GL-504.")).to_be_visible()
    expect(day.get_by_role("link", name="Halloway Quay")).to_be_visible()
    kept = post(page, f"/api/worlds/{opened}/rehearsal", {"name": "Kept of two sites"})
    assert kept["head"]["last"]["verdict"] == "passed" and kept["result"]["passed"]
    assert any(s["does"].startswith("At Gull Lane") for s in kept["steps"])


@pytest.mark.needs("R13", "R19")
def test_what_no_rehearsal_has_tried_is_seen(page: Page) -> None:
    """Without results nothing was tried; after a run what it did is, and what it did not leads to its place; a changed rule is untried again."""
    sign_in(page)
    page.goto("/rehearsals?view=tried")
    table = page.get_by_role("table", name="What was tried")
    rows = table.get_by_role("row")
    expect(rows.filter(has_text="Stock reasons")).to_contain_text("0 of 8")
    expect(rows.filter(has_text="Stock reasons").get_by_role("link", name="Broken", exact=True)).to_be_visible()
    no_axe_violations(page)
    post(page, "/api/rehearsals/put-right-on-the-floor/run", {"rulebook": "d-1"})
    page.reload()
    expect(rows.filter(has_text="Stock reasons")).to_contain_text("2 of 8")
    expect(rows.filter(has_text="Stock reasons").get_by_role("link", name="Broken", exact=True)).to_have_count(0)
    expect(page.get_by_text(re.compile(r"By the results of \d+ rehearsals? on the draft as it is"))).to_be_visible()
    rows.filter(has_text="Stock reasons").get_by_role("link", name="Got wet").click()
    expect(page.get_by_role("heading", name="Stock care")).to_be_visible()
    page.goto("/drafts")
    signed = page.get_by_role("table", name="What was put in force").get_by_role("row").filter(has_text="in force").last
    expect(signed).to_contain_text("Ines Varga")
    expect(signed).to_contain_text(re.compile(r"passed.*0 before it was put in force, \d+ never ran on it"))
    no_axe_violations(page)
