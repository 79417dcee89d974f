"""Practice in a real browser: a hunt played on its drawing, by thumb and by keyboard alone."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from e2e.conftest import served
from e2e.test_screens import AXE, broken, keys_are_large, nothing_is_cut, what_strains
from e2e_support import guarded
from ready_trail.core.design import design
from ready_trail.core.practice.facts import HuntBegun
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.prove.keeping import digest_of, to_bytes
from ready_trail.core.prove.plan import Plan, plan_of
from ready_trail.store import db, plans, practice
from support import CATALOGUE, demo, filled_database

HUNT = "/practice/1/hunt/hidden-by-a-test"
MARMOT = design(demo(), CATALOGUE)


@pytest.fixture(scope="module")
def plan() -> Plan:
    found = plan_of(MARMOT, "c15")
    assert found is not None
    return found


@pytest.fixture
def base_url(tmp_path: Path, plan: Plan) -> Iterator[str]:
    """A learner with a hunt: the bar's relay has lost its coil's earth."""
    path, bench = filled_database(tmp_path), bench_of(MARMOT, "c15")
    assert bench is not None
    at = next(n for n, c in enumerate(plan.matrix.candidates) if c.key == "lost.g15t_body:G15T")
    conn = db.connect(path)
    with db.transaction(conn):
        plans.put_plan(conn, digest_of(bench), to_bytes(plan))
        own = practice.add_learner(conn, "Ada")
        fact = HuntBegun(
            job_id=1,
            circuit_id="c15",
            level="open",
            plan=digest_of(bench),
            candidate=plan.matrix.candidates[at].key,
            row=int((plan.matrix.owner == at).argmax()),
        )
        practice.add_practice(conn, own, "hidden-by-a-test", fact)
    conn.close()
    yield from served(path)


def press(page: Page, what: str) -> None:
    page.locator(what).first.dispatch_event("click", {"bubbles": True})


def act(page: Page, name: str) -> None:
    with page.expect_navigation():
        page.get_by_role("button", name=name, exact=True).click()


def test_a_fault_is_found_on_the_drawing(page: Page) -> None:
    page.goto(HUNT)
    expect(page.locator(".hunt-complaint")).to_contain_text("Roof light bar does not work")
    press(page, ".probe-spot[data-name='K15 86']")
    expect(page.locator("#f-red option:checked")).to_have_text("K15 86")
    act(page, "Volts")
    expect(page.locator(".hunt-last")).to_contain_text("12.")
    expect(page.locator(".probe-spot.has-red")).to_have_count(1)
    press(page, ".probe-spot[data-name='K15 85']")
    act(page, "Test lamp")
    expect(page.locator(".hunt-last")).to_contain_text("K15 85 to Battery -: dark")
    press(page, ".probe-spot[data-name='F15 1']")
    expect(page.locator("#f-red option:checked")).to_have_text("Bay block bus")
    press(page, ".sheet-device[data-ref='F15'] .hit")
    act(page, "Pull and look")
    expect(page.locator(".hunt-last")).to_contain_text("whole")
    act(page, "Clamp it")
    expect(page.locator("#f-piece-error")).to_have_text("Pick a wire for the clamp.")
    press(page, ".sheet-device[data-ref='G15T'] .hit")
    shown = page.locator("#f-name option:not([hidden])")
    expect(page.locator("#name-of")).to_contain_text("G15T")
    assert 1 < shown.count() < 6, "what may be wrong with that piece alone"
    page.select_option("#f-name", label="G15T has come off")
    act(page, "That is it")
    expect(page.locator("#end")).to_contain_text("Found: G15T has come off")
    expect(page.locator(".hunt-replay tbody tr")).to_have_count(3)
    expect(page.locator(".best-list li").first).to_be_visible()


def test_a_hunt_is_played_by_keyboard_and_is_whole_on_every_screen(
    browser: Browser, base_url: str
) -> None:
    for name, width, height in (("wide", 1280, 800), ("phone", 390, 844)):
        context = browser.new_context(
            base_url=base_url,
            viewport={"width": width, "height": height},
            reduced_motion="reduce",
        )
        bad: list[str] = []
        page = guarded(context.new_page(), base_url, bad)
        for url in ("/practice/1", "/practice/1/drill", "/practice/1/error?seed=3", HUNT):
            page.goto(url)
            nothing_is_cut(page, width)
            assert what_strains(page, url, name) == [], url
            page.evaluate(AXE.read_text(encoding="utf-8"))
            assert broken(page) == [], url
            if name == "phone":
                keys_are_large(page)
        page.focus("#f-red")
        page.keyboard.type("K15 87")
        page.keyboard.press("Tab")
        page.keyboard.press("Tab")
        with page.expect_navigation():
            page.keyboard.press("Enter")
        expect(page.locator(".hunt-last")).to_contain_text("K15 87 to Battery -")
        expect(page.locator(".hunt-last strong")).to_contain_text("0.0")
        if name == "wide":  # once something dangerous was done it stays open
            page.locator("#others summary").click()
        with page.expect_navigation():
            page.get_by_role("button", name="Bridge the fuse with a wire").click()
        expect(page.locator(".redo-words").first).to_contain_text("dangerous")
        assert bad == []
        context.close()
