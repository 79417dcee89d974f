"""Prove in a real browser: a meter that is followed, a cause that is found, a phone without net."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from e2e.conftest import served
from ready_trail.bench_meter import serve
from ready_trail.core.design import design
from ready_trail.core.prove.bench import bench_of
from ready_trail.core.prove.keeping import digest_of, to_bytes
from ready_trail.core.prove.plan import plan_of
from ready_trail.core.prove.simulated import SimulatedVehicle
from ready_trail.store import db, plans, readings, shelf, vehicles
from ready_trail.web.meter import SETTING
from support import CATALOGUE, demo, filled_database

PAGE = "/jobs/1/prove/c27"
MARMOT = design(demo(), CATALOGUE)


@pytest.fixture
def database(tmp_path: Path) -> Path:
    """A database with the plan of one circuit, and a meter on a vehicle that is built wrongly."""
    found = filled_database(tmp_path)
    bench, plan = bench_of(MARMOT, "c27"), plan_of(MARMOT, "c27")
    assert bench is not None
    assert plan is not None
    vehicle = SimulatedVehicle(design=MARMOT, hidden=("rusty.g27_body:G27@0.3",))
    ports: list[int] = []
    threading.Thread(
        target=lambda: asyncio.run(serve(lambda _: vehicle, 0, ports.append)), daemon=True
    ).start()
    end = time.monotonic() + 180
    while not ports and time.monotonic() < end:
        time.sleep(0.01)
    conn = db.connect(found)
    with db.transaction(conn):
        plans.put_plan(conn, digest_of(bench), to_bytes(plan))
        shelf.set_setting(conn, SETTING, f"TCPIP::127.0.0.1::{ports[0]}::SOCKET")
    conn.close()
    return found


@pytest.fixture
def base_url(database: Path) -> Iterator[str]:
    yield from served(database)


def follow(page: Page) -> None:
    """Let the meter settle, and take what it holds by the keyboard."""
    away = page.locator("input[name=away]")
    if away.count():
        away.check()
    page.locator("[data-meter]").click()
    expect(page.locator(".meter-words.is-steady")).to_be_visible()
    with page.expect_navigation():
        page.keyboard.press("Enter")


def test_a_fault_is_met_named_mended_and_all_is_green(page: Page) -> None:
    page.goto("/jobs/1/prove")
    page.get_by_role("link", name="Heated wiper rest").click()
    for _ in range(20):
        if page.locator(".prove-sure").count():
            break
        follow(page)
    expect(page.locator(".prove-sure")).to_contain_text("G27 is rusty")
    expect(page.locator(".causes li").first).to_contain_text("100 %")
    page.get_by_role("button", name="It is mended in the simulated vehicle").click()
    expect(page.locator(".prove-sure")).to_have_count(0)
    for _ in range(20):
        if page.locator(".prove-done").count():
            break
        follow(page)
    expect(page.locator(".prove-done")).to_contain_text("Every must test of this circuit is read")
    expect(page.locator(".prove-tests .verdict-fail")).to_have_count(0)


def test_a_complaint_in_words_is_a_reading(page: Page) -> None:
    page.goto(PAGE)
    page.get_by_text("It does not do what it should").click()
    page.locator("#complaint a").first.click()
    page.get_by_role("button", name="off", exact=True).click()
    expect(page.locator(".causes li")).not_to_have_count(0)
    expect(page.locator(".test-kind")).to_contain_text("Read this next")


def test_a_reading_without_a_connection_waits_on_the_phone(
    browser: Browser, base_url: str, database: Path
) -> None:
    context = browser.new_context(base_url=base_url, viewport={"width": 390, "height": 844})
    page = context.new_page()
    page.goto(PAGE)
    context.set_offline(True)
    for ohms in ("0,1", "0.2"):
        page.get_by_label("Reading Ω").fill(ohms)
        page.locator("input[name=away]").check()
        page.get_by_role("button", name="Take it").click()
    expect(page.locator("#queue")).to_contain_text("2 readings kept on this device")
    page.get_by_role("button", name="on", exact=True).click()
    expect(page.locator("#queue")).to_contain_text("3 readings kept on this device")
    assert kept(database) == []
    context.set_offline(False)
    expect(page.locator(".prove-tests .verdict-pass")).to_have_count(3)
    assert kept(database) == [0.1, 0.2, 1.0]
    context.close()


def test_what_the_server_refuses_is_said_beside_the_field_and_stays(page: Page) -> None:
    page.goto(PAGE)
    page.get_by_label("Reading Ω").fill("0.2")
    page.get_by_role("button", name="Take it").click()
    expect(page.locator("#f-value-error")).to_contain_text("would harm the meter")
    expect(page.get_by_label("Reading Ω")).to_have_value("0.2")
    page.locator("input[name=away]").check()
    page.get_by_role("button", name="Take it").click()
    expect(page.locator(".prove-tests .verdict-pass")).to_have_count(1)


def kept(database: Path) -> list[float | None]:
    conn = db.connect(database)
    own = vehicles.vehicle_of(conn, 1, None).vehicle_id
    found = [r.value for r in readings.list_readings(conn, own)]
    conn.close()
    return found
