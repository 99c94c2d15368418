"""Walking on Site: a layout said by hand on the map, questions answered, a tour over bins that are clicked."""

from __future__ import annotations

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import no_axe_violations, sign_in


def stroke(page: Page, along: tuple[float, float, float, float]) -> None:
    """Drag over the map, in shares of its width and height."""
    box = page.locator(".sitemap canvas").bounding_box()
    assert box
    x1, y1, x2, y2 = (box["x"] + box["width"] * along[0], box["y"] + box["height"] * along[1],
                      box["x"] + box["width"] * along[2], box["y"] + box["height"] * along[3])  # fmt: skip
    page.mouse.move(x1, y1)
    page.mouse.down()
    page.mouse.move((x1 + x2) / 2, (y1 + y2) / 2)
    page.mouse.move(x2, y2)
    page.mouse.up()


def metres(bench: Locator) -> int:
    """The length of the shortest tour, when it is that of the stops shown."""
    shown = bench.locator('[aria-busy="false"] .metre b').first
    expect(shown).to_be_visible()
    return int(shown.inner_text().split()[0])


def test_a_layout_is_drawn_and_a_tour_follows_it(page: Page) -> None:
    """A cross aisle drawn over a part of the site, its end written; a question answered and the answer taken back; the way between
    two bins; a tour over bins clicked on the map, and its shorter way when it may walk where nobody could before."""
    sign_in(page, at="/site")
    bench = page.get_by_role("complementary", name="Bench")
    bench.get_by_role("tab", name="Walking").click()
    expect(bench.get_by_text("2 open")).to_be_visible()
    bench.get_by_role("button", name="Cross aisle", exact=True).click()
    stroke(page, (0.02, 0.46, 0.6, 0.47))
    bench.get_by_label("North, m").fill("24")
    bench.get_by_label("To, m").fill("60.5")
    no_axe_violations(page)
    bench.get_by_role("button", name="Put it down").click()
    said = bench.get_by_role("listitem").filter(has_text="HQ-W01")
    expect(said).to_contain_text("The cross aisle from west to east, 24 m north, from")
    expect(said).to_contain_text("to 60.5 m.")
    bench.get_by_role("button", name="A dead end").nth(1).click()
    ends = bench.get_by_role("listitem").filter(has_text="HQ-W02")
    expect(ends).to_contain_text("Aisle H02 of zone HAZ ends at its last bin in the north.")
    expect(bench.get_by_text("1 open")).to_be_visible()

    bench.get_by_role("tab", name="A tour").click()
    bench.get_by_label("Start").fill("h-02-12-1")
    bench.get_by_label("End").fill("B-03-20-1")
    expect(bench.get_by_text("130 m")).to_be_visible()
    bench.get_by_label("End").fill("")
    bench.get_by_label("Start").fill("")
    bench.get_by_role("textbox", name="Bins").fill("R-01-10-1, R-02-10-1, NO-SUCH")
    bench.get_by_role("textbox", name="Bins").press("Enter")
    expect(bench.get_by_text("There is no bin NO-SUCH here.")).to_be_visible()
    bench.get_by_role("button", name="Let all go").click()
    bench.get_by_role("textbox", name="Bins").fill("R-01-10-1, R-02-10-1")
    bench.get_by_role("textbox", name="Bins").press("Enter")
    expect(bench.get_by_text("Shortest (proved)")).to_be_visible()
    short = metres(bench)
    page.get_by_label("Go to bin").fill("R-03-10-1")
    page.get_by_label("Go to bin").press("Enter")
    stroke(page, (0.5, 0.5, 0.5, 0.5))  # a click on a bin of the map takes it in as well
    expect(bench.locator(".stops li")).to_have_count(4)
    bench.get_by_role("button", name="let R-01-10-1 go").click()
    expect(bench.locator(".stops li")).to_have_count(3)
    expect(bench.get_by_text("numbered order is")).to_be_visible()
    no_axe_violations(page)
    bench.get_by_role("button", name="Let all go").click()

    bench.get_by_role("tab", name="Walking").click()
    expect(said).to_be_visible()
    page.get_by_role("button", name="show all").click()
    stroke(page, (0.4, 0.475, 0.4, 0.475))  # a click on what is drawn changes it
    expect(bench.get_by_label("To, m")).to_have_value("60.5")
    bench.get_by_label("To, m").fill("80")
    bench.get_by_role("button", name="Change it").click()
    expect(said).to_contain_text("to 80 m.")
    said.get_by_role("button", name="take out HQ-W01").click()
    expect(said).to_have_count(0)
    bench.get_by_role("tab", name="A tour").click()
    bench.get_by_role("textbox", name="Bins").fill("R-01-10-1, R-02-10-1")
    bench.get_by_role("textbox", name="Bins").press("Enter")
    expect(bench.get_by_text("Shortest (proved)")).to_be_visible()
    assert metres(bench) > short
