"""Branches, outputs and schemes in Chromium: by mouse, by keyboard, and with wrong input."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect


def add(page: Page, name: str, watts: str, units: str = "1") -> None:
    """State an accessory from its label, up to its sheet."""
    page.goto("/jobs/1/accessories?add=true")
    page.get_by_label("Name", exact=True).fill(name)
    page.get_by_label("Watts", exact=True).fill(watts)
    page.get_by_label("Units", exact=True).fill(units)
    page.get_by_label("Its switch").fill(name)


def test_a_pair_gets_a_branch_each_by_one_press_and_comes_together_again(page: Page) -> None:
    add(page, "Pods", "30", "2")
    page.get_by_role("button", name="Add, then state its run").click()
    page.get_by_role("link", name="Back to the sheet").click()
    page.get_by_role("button", name="Give each its own branch").click()
    ends = page.locator("#fan .fan-end")
    expect(ends).to_have_count(2)
    ends.nth(1).click()
    expect(page).to_have_url(re.compile("unit=b"))
    expect(page.locator("#fan .fan-end.is-chosen title")).to_have_text(
        ends.nth(1).locator("title").text_content() or ""
    )

    page.get_by_role("link", name="Branches").click()
    card = page.locator("#branch-b1")
    card.locator("summary").press("Enter")
    card.get_by_label("Name").fill("Left pod")
    card.get_by_label("Length of segment 1 in metres").fill("two")
    card.get_by_role("button", name=re.compile("^Save")).click()
    card = page.locator("#branch-b1")
    expect(card).to_contain_text("number")
    expect(card.get_by_label("Length of segment 1 in metres")).to_have_value("two")
    card.get_by_label("Length of segment 1 in metres").fill("1.4")
    card.get_by_role("button", name=re.compile("^Save")).click()
    expect(page.locator("#branch-b1 .branch-figures")).to_contain_text("1.4")

    page.get_by_role("button", name="Bring together").click()
    expect(page.get_by_role("button", name="Give each its own branch")).to_be_visible()
    page.locator("#work").focus()
    page.keyboard.press("Control+z")
    expect(page.locator("#fan .fan-end")).to_have_count(2)
    expect(page.locator("#fan")).to_contain_text("Left pod")


def test_a_branch_moves_behind_another_and_a_ring_is_refused(page: Page) -> None:
    page.goto("/jobs/2/circuits/c17/branches")
    page.locator("#branch-b3 summary").click()
    page.locator("#behind-b3").select_option("b4")
    page.locator("#branch-b3").get_by_role("button", name="Move").click()
    expect(page.locator("#branch-b3").get_by_role("alert")).to_contain_text("behind itself")
    page.locator("#branch-b1 summary").click()
    page.locator("#behind-b1").select_option("b2")
    page.locator("#branch-b1").get_by_role("button", name="Move").click()
    expect(page.locator("#branch-b2")).to_contain_text("Ends at a joint")
    page.goto("/jobs/2/circuits/c17")
    expect(page.locator("#fan .part-joint")).to_have_count(3)


def test_two_outputs_get_circuits_switches_and_one_return(page: Page) -> None:
    add(page, "Twin bar", "180")
    page.get_by_text("It has several outputs").click()
    for at, (name, share) in enumerate((("white", "120"), ("amber", "50"))):
        page.locator(f"#f-outputs-{at}-name").fill(name)
        page.locator(f"#f-outputs-{at}-value").fill(share)
    page.get_by_role("button", name="Add, then state its run").click()
    expect(page.locator("#outputs-error")).to_contain_text("170 W, but its label says 180 W")
    expect(page.locator("#f-outputs-1-value")).to_have_value("50")
    page.locator("#f-outputs-1-value").fill("60")
    page.get_by_role("button", name="Add, then state its run").click()
    outputs = page.locator("#outputs-on")
    expect(outputs).to_contain_text("Its outputs")
    outputs.get_by_role("button", name="I saw this lead light up").first.click()
    expect(page.locator("#outputs-on")).to_contain_text("proved")
    page.locator("#outputs-on").get_by_role("link", name="amber").click()
    expect(page.locator("#wires")).not_to_contain_text("Earth point")
    expect(page.locator("#band")).to_contain_text("L")


def test_schemes_side_by_side_and_held(page: Page) -> None:
    page.goto("/jobs/1/circuits/c15")
    page.locator(".sheet-tabs").get_by_role("link", name="Schemes").click()
    row = page.get_by_role("row", name=re.compile("Relay, earth-switched"))
    row.get_by_role("button", name="Hold it").press("Enter")
    expect(page.locator(".sheet-scheme")).to_contain_text("Relay, earth-switched")
    page.goto("/schemes")
    page.get_by_role("link", name=re.compile("^Winch both ways, with its box")).click()
    expect(page.get_by_role("row", name=re.compile("winds out"))).to_be_visible()
    page.get_by_role("link", name="All schemes").click()
    expect(page).to_have_url(re.compile("/schemes$"))
