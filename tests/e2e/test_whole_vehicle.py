"""The whole vehicle in Chromium: from not ready to ready, scenarios, sliders, house rules."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from e2e_support import revision

JOB = "/jobs/2"


def test_pressing_the_ways_out_makes_the_job_ready(page: Page) -> None:
    page.goto(f"{JOB}/review")
    expect(page.locator("#page")).to_contain_text("Not ready: 1 stop")
    stop = page.locator(".finding", has_text="The 30 A fuse lets more through")
    release = stop.locator(".way-out", has_text="Choose the fuse automatically")
    expect(release.locator(".effect")).to_contain_text("1 finding gone")
    release.get_by_role("button", name="Choose the fuse automatically").click()
    expect(page.locator("#page")).not_to_contain_text("Not ready")
    loud = page.locator(".finding-caution .way-out button")
    while loud.count():
        head = revision(page, 2)
        loud.first.focus()
        page.keyboard.press("Enter")
        expect(page.locator("#page")).to_contain_text(f"rev {head + 1} ")
    expect(page.locator(".finding-stop, .finding-caution")).to_have_count(0)
    expect(page.get_by_role("contentinfo")).to_contain_text("0 stops")


def test_a_cell_by_keyboard_moves_the_feeder_and_undo_brings_it_back(page: Page) -> None:
    page.goto(f"{JOB}/scenarios?show=s1")
    cell = page.locator("#cell-s1-a15-")
    before = cell.get_attribute("aria-pressed")
    cell.focus()
    page.keyboard.press("Space")
    expect(page.locator("#cell-s1-a15-")).not_to_have_attribute("aria-pressed", before or "")
    expect(page.locator("#cell-s1-a15-")).to_be_focused()
    page.keyboard.press("Control+z")
    expect(page.locator("#cell-s1-a15-")).to_have_attribute("aria-pressed", before or "")


def test_the_battery_slider_redraws_the_plot_and_saves_nothing(page: Page) -> None:
    page.goto(f"{JOB}/scenarios?show=s4")
    drawn = page.locator("#course-plot .state-line").first.get_attribute("d")
    head = revision(page, 2)
    slider = page.locator("#w-capacity_ah")
    slider.focus()
    for _ in range(6):
        page.keyboard.press("ArrowRight")
    expect(page.locator(".what-if-flag")).to_contain_text("Nothing is saved")
    expect(slider).to_be_focused()
    assert page.locator("#course-plot .state-line").first.get_attribute("d") != drawn
    assert revision(page, 2) == head
    page.get_by_role("button", name="Keep").click()
    expect(page.locator(".what-if-flag")).to_have_count(0)
    assert revision(page, 2) == head + 1


def test_a_house_rule_shows_its_effect_then_is_kept(page: Page) -> None:
    page.goto(f"{JOB}/rules")
    head = revision(page, 2)
    page.locator('#matter-drop a[href*="value=three#"]').click()
    expect(page.locator("#page")).to_contain_text("Rear work lights")
    assert revision(page, 2) == head
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("#effect")).to_contain_text("Press a side")
    assert revision(page, 2) == head + 1
