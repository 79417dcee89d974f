"""Build on the phone: ticks without a connection, the browser closed meanwhile, two phones."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Error, Page, Playwright, expect
from starlette.responses import PlainTextResponse
from starlette.types import Receive, Scope, Send

from e2e.conftest import Line, at_the_end_of_a_line
from e2e_support import ARGS, AXE, guarded
from ready_trail.store import db, ticks
from ready_trail.web.app import create_app
from support import filled_database

KEPT = """(async () => {
  const wanted = [...document.querySelectorAll("script[src], link[rel=stylesheet]")];
  for (const element of wanted) while (!(await caches.match(element.src || element.href))) {
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
})()"""
"""Waits until the service worker has kept everything that the page shows with."""
SLOW_MS = 90_000
"""For a machine that runs other tests beside this one; waiting longer forgives nothing."""

PHONE = {"width": 390, "height": 844}


def items(page: Page) -> list[str]:
    found: list[str] = page.eval_on_selector_all(
        ".step", "rows => rows.map((row) => row.dataset.item)"
    )
    return found


def test_a_hundred_ticks_without_a_connection_arrive_once_and_in_order(
    driver: Playwright, line: Line, tmp_path: Path
) -> None:
    """Made offline on the phone; the browser is closed and opened again before it is back."""

    def phone() -> BrowserContext:
        return driver.chromium.launch_persistent_context(
            tmp_path / "profile",
            executable_path="/usr/bin/chromium",
            args=ARGS,
            base_url=line.address,
            viewport=PHONE,
            reduced_motion="reduce",
        )

    bad: list[str] = []
    context = phone()
    page = context.pages[0]
    page.on("pageerror", lambda error: bad.append(str(error)))
    page.goto("/jobs/2/build")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.reload()
    page.evaluate(KEPT)
    line.is_cut = True
    context.set_offline(True)
    wanted = items(page)[:100]
    assert len(wanted) == 100
    for item in wanted[:60]:
        page.locator(f'[data-item="{item}"] .tick-key').click()
    expect(page.locator("#queue")).to_contain_text("60 ticks kept on this device", timeout=SLOW_MS)
    page.reload()
    expect(page.locator("#count")).to_contain_text("60 of", timeout=SLOW_MS)
    for item in wanted[60:]:
        page.locator(f'[data-item="{item}"] .tick-key').click()
    context.close()

    context = phone()
    context.set_offline(True)
    page = context.pages[0]
    page.goto("/jobs/2/build")
    expect(page.locator("#count")).to_contain_text("100 of", timeout=SLOW_MS)
    expect(page.locator("#queue")).to_contain_text("100 ticks kept on this device", timeout=SLOW_MS)
    assert kept(tmp_path) == []
    line.is_cut = False
    context.set_offline(False)
    expect(page.locator("#queue")).to_be_hidden(timeout=SLOW_MS)
    expect(page.locator(".is-waiting")).to_have_count(0, timeout=SLOW_MS)
    context.close()
    assert kept(tmp_path) == wanted
    assert bad == []


def kept(folder: Path) -> list[str]:
    conn = db.connect(folder / "t.db")
    try:
        return [t.item for t in ticks.list_ticks(conn, 2)]
    finally:
        conn.close()


def test_one_bad_tick_keeps_no_other_from_arriving(
    browser: Browser, base_url: str, tmp_path: Path
) -> None:
    """A queue with a tick that cannot be read: the rest arrives, and that one is told."""
    context = browser.new_context(base_url=base_url, viewport=PHONE)
    page = context.new_page()
    page.goto("/jobs/2/build")
    wanted = items(page)[:3]
    page.evaluate(
        """([items]) => {
      const tick = (item, at, n) => ({ url: document.querySelector("[data-build]").dataset.build,
        key: `bad-queue-${n}`, item, done: true, print: "", asked: `Step ${n}`, who: "", at });
      const now = new Date().toISOString();
      localStorage.setItem("ready-trail-ticks", JSON.stringify(
        [tick(items[0], now, 0), tick(items[1], "0000-99-99", 1), tick(items[2], now, 2)]));
    }""",
        [wanted],
    )
    page.reload()
    expect(page.locator("#queue")).to_contain_text("“Step 1” was not taken", timeout=SLOW_MS)
    assert kept(tmp_path) == [wanted[0], wanted[2]]
    expect(page.locator("#count")).to_contain_text("2 of")
    page.get_by_role("button", name="I have read it").click()
    expect(page.locator("#queue")).to_be_hidden()
    context.close()


def test_a_kept_page_says_so_and_goes_when_the_device_is_put_out(
    driver: Playwright, tmp_path: Path
) -> None:
    app, put_out = create_app(filled_database(tmp_path)), [False]

    async def door(scope: Scope, receive: Receive, send: Send) -> None:
        """The application, until this device is let in no more."""
        if put_out[0] and scope["type"] == "http":
            await PlainTextResponse("pair this device first", 403)(scope, receive, send)
        else:
            await app(scope, receive, send)

    for line in at_the_end_of_a_line(door):
        context = driver.chromium.launch_persistent_context(
            tmp_path / "profile",
            executable_path="/usr/bin/chromium",
            args=ARGS,
            base_url=line.address,
            viewport=PHONE,
            reduced_motion="reduce",
        )
        page = context.pages[0]
        page.goto("/jobs/2/build")
        page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        for _ in range(4):  # a server that is slow to answer counts as none
            page.reload()
            page.evaluate(KEPT)
            if page.locator("#kept-page").is_hidden():
                break
        expect(page.locator("#kept-page")).to_be_hidden()
        line.is_cut = True
        context.set_offline(True)
        page.reload()
        expect(page.locator("#kept-page")).to_contain_text("No connection", timeout=SLOW_MS)
        expect(page.locator("#kept-page")).to_contain_text(re.compile("made .*20\\d\\d"))
        drawn = "use => { const b = use.getBBox(); return b.width * b.height > 0; }"
        icon = page.locator(".spine .icon-line use").first
        assert page.evaluate(f"({drawn})(document.querySelector('.spine .at-hand use'))"), icon
        line.is_cut = False
        context.set_offline(False)
        put_out[0] = True
        page.reload()
        expect(page.locator("body")).to_contain_text("pair this device first")
        page.wait_for_function("caches.keys().then((names) => names.length === 0)")
        line.is_cut = True
        context.set_offline(True)
        with pytest.raises(Error, match="ERR_"):
            page.goto("/jobs/2/build")
        context.close()


def test_two_phones_tick_and_neither_is_lost(browser: Browser, base_url: str) -> None:
    bad: list[str] = []
    pages = []
    for _ in range(2):
        context = browser.new_context(base_url=base_url, viewport=PHONE, reduced_motion="reduce")
        page = guarded(context.new_page(), base_url, bad)
        page.goto("/jobs/2/build")
        pages.append(page)
    first, second = pages
    first.fill("#who", "Ina")
    one, two, three = items(first)[:3]
    first.locator(f'[data-item="{one}"] .tick-key').click()
    second.locator(f'[data-item="{two}"] .tick-key').click()
    expect(second.locator(f'[data-item="{one}"]')).to_have_class(re.compile("is-done"))
    first.locator(f'[data-item="{three}"] .tick-key').click()
    expect(first.locator(".is-done:not(.is-waiting)")).to_have_count(3)  # all arrived
    for page in pages:
        page.reload()
        expect(page.locator("#count")).to_contain_text("3 of")
        page.context.close()
    assert bad == []


def test_steps_by_keyboard(page: Page) -> None:
    page.goto("/jobs/2/build")
    key = page.locator(".step.is-next .tick-key")
    expect(key).to_have_attribute("aria-label", re.compile("not done$"))
    key.focus()
    item = page.locator(".step.is-next").get_attribute("data-item")
    page.keyboard.press("Enter")
    row = page.locator(f'[data-item="{item}"]')
    expect(row.locator(".tick-key")).to_have_attribute("aria-pressed", "true")
    expect(page.locator("#count")).to_contain_text("1 of")
    row.locator(".tick-key").press("Space")
    expect(row).to_have_class(re.compile("is-open"))
    expect(page.locator("#count")).to_contain_text("0 of")


def test_the_book_is_at_its_address_at_once(page: Page) -> None:
    page.goto("/jobs/2/build/book")
    page.select_option("[name=paper]", "letter")
    with page.context.expect_page() as opened:  # the browser's own viewer, on a page of its own
        page.evaluate("document.getElementById('make-book').form.target = '_blank'")
        page.click("#make-book")
    opened.value.wait_for_url("**/build/book.pdf?paper=letter")
    pdf = page.request.get(opened.value.url)
    assert pdf.headers["content-type"] == "application/pdf"
    assert pdf.body().startswith(b"%PDF")


def test_the_shelf_by_hand(page: Page) -> None:
    page.goto("/shelf")
    page.click("text=Add a part >> nth=0")
    page.fill("#f-key", "clip 12")
    page.fill("#f-label", "P-clip 12 mm")
    page.fill("#f-price", "cheap")
    page.click("button:has-text('Add')")
    expect(page.locator("#f-price-error")).to_be_visible()
    expect(page.locator("#f-label")).to_have_value("P-clip 12 mm")
    page.fill("#f-price", "0,35")
    page.click("button:has-text('Add')")
    page.fill("#f-quantity", "40")
    page.click("button:has-text('Move')")
    expect(page.locator(".shelf-table")).to_contain_text("40 pc")
    page.fill("#find", "p-clip")
    page.press("#find", "Enter")
    expect(page.locator(".shelf-table tbody th a")).to_have_text("P-clip 12 mm")
    page.evaluate(AXE.read_text(encoding="utf-8"))
    assert page.evaluate("axe.run(document)")["violations"] == []
