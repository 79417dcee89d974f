"""A phone comes in by the network; two people on one job."""

from __future__ import annotations

import re
import socket
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
import uvicorn
from playwright.sync_api import Browser, Page, Route, expect

from e2e_support import guarded
from ready_trail.store import db, ticks
from ready_trail.web.app import create_app
from ready_trail.web.door import Network, own_addresses
from support import filled_database

PHONE = {"width": 390, "height": 844}


@pytest.fixture
def both_doors(tmp_path: Path) -> Iterator[tuple[str, Network]]:
    """A server on this machine, and its door to the network."""
    app = create_app(filled_database(tmp_path))
    listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listening.bind(("127.0.0.1", 0))
    port = listening.getsockname()[1]
    app.state.port = port
    server = uvicorn.Server(uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=1))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
    thread.start()
    end = time.monotonic() + 180
    while not server.started:
        assert time.monotonic() < end
        time.sleep(0.01)
    yield f"http://127.0.0.1:{port}", app.state.network
    app.state.network.close()
    server.should_exit = True
    thread.join(10)
    listening.close()


@pytest.mark.skipif(not own_addresses(), reason="this machine has no network address")
def test_a_phone_pairs_reads_a_sheet_and_ticks_a_step(
    browser: Browser, both_doors: tuple[str, Network], tmp_path: Path
) -> None:
    here, network = both_doors
    bad: list[str] = []
    laptop = guarded(browser.new_context(base_url=here).new_page(), here, bad)
    laptop.goto("/settings")
    laptop.click("button:has-text('Open it')")
    expect(laptop.locator(".pair-qr")).to_be_visible()
    there = network.addresses[0]
    code = laptop.locator(".pair-shown").inner_text().replace(" ", "")

    stranger = browser.new_context(base_url=there, viewport=PHONE).new_page()
    stranger.goto("/jobs/2/build")
    expect(stranger).to_have_url(re.compile("/pair$"))
    stranger.context.close()

    phone = guarded(browser.new_context(base_url=there, viewport=PHONE).new_page(), there, bad)
    phone.goto(f"/pair?code={code}")  # as the scanned picture says
    phone.fill("#name", "Ina's phone")
    phone.click("button")
    expect(phone).to_have_title(re.compile("Jobs|Ready Trail"))
    phone.goto("/jobs/2/circuits/c15")
    expect(phone.locator(".sheet-title")).to_contain_text("Roof light bar")
    phone.goto("/jobs/2/build")
    phone.locator(".step.is-next .tick-key").click()
    expect(phone.locator("#count")).to_contain_text("1 of")
    expect(phone.locator(".is-done:not(.is-waiting)")).to_have_count(1)
    conn = db.connect(tmp_path / "t.db")
    assert len(ticks.list_ticks(conn, 2)) == 1
    conn.close()
    laptop.reload()
    expect(laptop.locator("table")).to_contain_text("Ina's phone")
    laptop.click("button:has-text('Remove')")
    phone.goto("/jobs/2/build")
    expect(phone).to_have_url(re.compile("/pair$"))
    for page in (laptop, phone):
        page.context.close()
    assert bad == []


def test_changes_of_others_arrive_and_what_is_typed_stays(browser: Browser, base_url: str) -> None:
    bad: list[str] = []
    pages = [
        guarded(browser.new_context(base_url=base_url).new_page(), base_url, bad) for _ in range(3)
    ]
    one, two, three = pages
    two.goto("/jobs/2/circuits")
    three.goto("/jobs/2/accessories/a15")
    three.fill("#f-name", "Half typed")
    three.locator("#f-name").press("End")
    one.goto("/jobs/2/brief")
    one.fill("#f-name", "Marmot of two")
    one.press("#f-name", "Enter")
    expect(one.locator(".job-name").first).to_have_text("Marmot of two")
    for other in (two, three):
        expect(other.locator(".bar .job-name")).to_have_text("Marmot of two")
        expect(other.locator("#news")).to_contain_text("Changed by somebody else")
    expect(three.locator("#f-name")).to_have_value("Half typed")
    expect(three.locator("#f-name")).to_be_focused()
    three.locator("#f-name").press("Enter")
    expect(three.locator("h1")).to_contain_text("The job moved on")
    three.click("text=Apply mine on top")
    expect(three.locator(".accessory-table")).to_contain_text("Half typed")
    for page in pages:
        page.context.close()
    assert bad == []


def test_a_slow_answer_to_ones_own_press_is_not_taken_for_anothers(page: Page) -> None:
    """What looks for others' changes waits while an answer is under way, and keeps the hand."""

    def slowly(route: Route) -> None:
        answer = route.fetch()  # saved from here on
        page.wait_for_timeout(4_000)
        route.fulfill(response=answer)

    page.goto("/jobs/2/supply")
    row = "e => e.closest('.position-row').dataset.start"
    chip = page.locator("#chip-c15")
    before = chip.evaluate(row)
    page.route("**/edit", slowly)
    chip.focus()
    page.keyboard.press("ArrowDown")
    expect(page.locator(f".position-row[data-start='{before}'] #chip-c15")).to_have_count(0)
    expect(page.locator("#chip-c15")).to_be_focused()
    page.unroute("**/edit")
    with page.expect_response("**/head"):  # it looks again
        pass
    page.wait_for_timeout(300)
    expect(page.locator("#news")).to_have_count(0)
    expect(page.locator("#chip-c15")).to_be_focused()
