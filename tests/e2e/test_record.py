"""Record in the browser: handing over, and a photo that is taken without a connection."""

from __future__ import annotations

import io
from pathlib import Path

from PIL import Image
from playwright.sync_api import Browser, Page, expect

from support import circuit_named, demo

JOB = "/jobs/2"
LAMP = f"#circuit-{circuit_named(demo(), 'Wide driving lamp')}"


def picture(path: Path) -> Path:
    out = io.BytesIO()
    Image.effect_noise((2400, 1800), 60).convert("RGB").save(out, "JPEG")
    path.write_bytes(out.getvalue())
    return path


def test_a_circuit_is_handed_over_with_a_reason(page: Page) -> None:
    page.goto(f"{JOB}/record")
    row = page.locator(LAMP)
    row.locator("summary").click()
    row.get_by_role("button", name="Hand over").click()
    row = page.locator(LAMP)
    expect(row).to_contain_text("say why it may stay so")
    expect(row.get_by_label("Why the rest may stay open")).to_be_focused()
    row.get_by_label("Why the rest may stay open").fill("read on Monday")
    row.get_by_role("button", name="Hand over").click()
    expect(page.locator(LAMP)).to_contain_text("handed over")
    page.get_by_role("link", name="Care", exact=True).click()
    expect(page.locator("#care-torque")).to_contain_text("Re-torque")
    page.locator("#do-torque summary").click()
    page.locator("#do-torque").get_by_role("button", name="Keep").click()
    expect(page.locator("#care-torque")).to_contain_text("fine")


def test_a_photo_waits_for_a_connection_and_goes_out_by_itself(
    browser: Browser, base_url: str, tmp_path: Path
) -> None:
    # a context of its own: a lost connection is no fault of the page here
    context = browser.new_context(base_url=base_url, viewport={"width": 390, "height": 844})
    page = context.new_page()
    page.goto(f"{JOB}/record?tab=photos")
    page.get_by_label("Photo", exact=True).set_input_files(picture(tmp_path / "a.jpg"))
    page.get_by_label("What it shows: wire, device or place").fill("F16")
    page.get_by_role("button", name="Keep").click()
    expect(page.locator(".photo")).to_have_count(1)
    page.context.set_offline(True)
    page.get_by_label("Photo", exact=True).set_input_files(picture(tmp_path / "b.jpg"))
    page.get_by_label("Words").fill("lid off")
    page.get_by_role("button", name="Keep").click()
    expect(page.locator("#photo-queue")).to_contain_text("One photo waits on this device")
    page.context.set_offline(False)
    expect(page.locator(".photo")).to_have_count(2)
    expect(page.locator("#photo-queue")).to_be_hidden()
    expect(page.locator(".photo").first).to_contain_text("lid off")
    context.close()
