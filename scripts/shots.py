"""Refresh docs/screenshots: one picture of each main view, from the demo data."""

from __future__ import annotations

import html
import os
import re
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from uuid import uuid4

from playwright.sync_api import APIRequestContext, sync_playwright

ROOT = Path(__file__).parent.parent
FOLDER = ROOT / "docs" / "screenshots"
WIDE, NARROW = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
HUNT = "/practice/1/hunt/one-for-a-picture"
VIEWS = [
    ("trail-sheet", "/jobs/3/circuits/c31", WIDE, "light"),
    ("branches", "/jobs/3/circuits/c17@.fan", WIDE, "light"),
    ("accessories", "/jobs/3/accessories/a31", WIDE, "light"),
    ("survey-phone", "/jobs/3/survey", NARROW, "light"),
    ("layout", "/jobs/3/layout", WIDE, "light"),
    ("supply", "/jobs/3/supply", WIDE, "light"),
    ("scenarios", "/jobs/3/scenarios?show=day", WIDE, "light"),
    ("rules", "/jobs/3/rules?try=drop&value=three", WIDE, "light"),
    ("review", "/jobs/3/review", WIDE, "light"),
    ("drawing", "/jobs/3/drawing?key=run&lights=side&on=Work+lights&pick=F17", WIDE, "light"),
    ("spools", "/jobs/3/build/spools", WIDE, "light"),
    ("steps-phone", "/jobs/3/build@.step.is-next", NARROW, "light"),
    ("prove", "/jobs/3/prove/c27", WIDE, "light"),
    ("prove-phone", "/jobs/3/prove/c31", NARROW, "light"),
    ("practice", f"{HUNT}?red=k15_86", WIDE, "light"),
    ("record-care", "/jobs/3/record?tab=care", NARROW, "light"),
    ("shelf", "/shelf?part=relay-mini-no", WIDE, "light"),
    ("schemes", "/schemes/two_triggers", WIDE, "light"),
]


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        command = [
            sys.executable,
            "-m",
            "ready_trail",
            "demo",
            "--db",
            f"{folder}/s.db",
            "--port",
            "0",
        ]
        env = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=env)
        try:
            assert server.stdout is not None
            found = re.search(r"http://[\d.:]+", server.stdout.readline())
            assert found is not None
            pictures(found.group(0), Path(folder))
        finally:
            server.terminate()
            server.wait()


def pictures(url: str, folder: Path) -> None:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        stock(browser.new_context(base_url=url).request)
        prove(browser.new_context(base_url=url).request)
        hand_over(browser.new_context(base_url=url).request)
        practise(browser.new_context(base_url=url).request)
        for name, path, size, scheme in VIEWS:
            context = browser.new_context(viewport=size, color_scheme=scheme)
            page = context.new_page()
            address, _, shown = path.partition("@")
            page.goto(url + address)
            page.evaluate("document.fonts.ready")
            page.wait_for_load_state("networkidle")
            if shown:
                page.locator(shown).first.scroll_into_view_if_needed()
            page.screenshot(path=FOLDER / f"{name}.png")
            context.close()
        asked = browser.new_context(base_url=url).request
        record = asked.get("/jobs/3/prove/record.pdf").body()
        (folder / "record.pdf").write_bytes(record)
        browser.close()
    whole = ("-r", "80", "-f", "1", "-l", "1", "-singlefile", "-png")
    command = ["pdftoppm", *whole, str(folder / "record.pdf"), str(FOLDER / "record")]
    subprocess.run(command, check=True)


def hand_over(request: APIRequestContext) -> None:
    """Hand a circuit over and look after it once, so that care has its days."""
    asked = {"circuit": "c16", "reason": "readings follow", "who": "Ada"}
    request.post("/jobs/3/record/hand-over", form={"key": str(uuid4()), **asked})
    done = {"care": "torque", "fine": "true", "km": "512"}
    request.post("/jobs/3/record/care", form={"key": str(uuid4()), **done})


def practise(request: APIRequestContext) -> None:
    """Hide a fault on the roof bar, and read two terminals."""
    request.post("/practice", form={"name": "Ada"})
    asked = {"job": "3", "level": "open", "circuit": "c15", "key": "one-for-a-picture"}
    for _ in range(300):
        if "data-hunt" in request.post("/practice/1/hunt", form=asked).text():
            break
        time.sleep(0.3)
    page = request.get(HUNT).text()
    setting = html.unescape(re.search(r'id="f-set".*?<option value="([^"]*)"', page, re.S)[1])
    for red in ("f15_2", "k15_86"):
        read = {"what": "volts", "set": setting, "red": red, "black": "0"}
        request.post(HUNT, form={"key": uuid4().hex, **read})


def prove(request: APIRequestContext) -> None:
    """Read one circuit with the demo's meter until its cause is named; plan another."""
    page = "/jobs/3/prove/c27"
    for other in (page, "/jobs/3/prove/c31"):
        for _ in range(300):
            if "test-card" in request.get(other).text():
                break
            time.sleep(0.3)
    for _ in range(14):
        text = request.get(page).text()
        if "It is mended" in text:
            return
        test = html.unescape(re.search(r'name="test" value="([^"]*)"', text)[1])
        told = request.get(f"{page}/meter", params={"test": test}).json()
        form = {"key": uuid4().hex, "test": test, "value": told["typed"], "away": "on"}
        request.post(f"{page}/read", form={**form, "source": "instrument"})


def stock(request: APIRequestContext) -> None:
    """A datasheet's figure and some ticks, so that the views show what they are for."""
    request.post(
        "/shelf/figure",
        form={"key": "relay-mini-no", "figure.contact_a_85c": "31", "source": "RL-40, sheet 3"},
    )
    ticks = [
        {"key": uuid4().hex, "item": f"step:{item}", "done": True, "at": "2026-11-25T09:00:00Z"}
        for item in ("prove:SIDE", "prove:HL", "prove:IGN", "off", "gather")
    ]
    request.post("/jobs/3/ticks", data=ticks)


if __name__ == "__main__":
    main()
