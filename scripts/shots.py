"""Refresh docs/screenshots: one picture of each main view, from the demo data."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright

ROOT = Path(__file__).parent.parent
FOLDER = ROOT / "docs" / "screenshots"
WIDE, NARROW = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
VIEWS = [
    ("trail-sheet", "/jobs/3/circuits/c31", WIDE, "light"),
    ("trail-sheet-stop", "/jobs/3/circuits/c16?at=K16", WIDE, "light"),
    ("trail-sheet-night", "/jobs/3/circuits/c25?at=K25", WIDE, "dark"),
    ("branches", "/jobs/3/circuits/c17@.fan", WIDE, "light"),
    ("accessories", "/jobs/3/accessories/a31", WIDE, "light"),
    ("survey-phone", "/jobs/3/survey", NARROW, "light"),
    ("layout", "/jobs/3/layout", WIDE, "light"),
    ("supply", "/jobs/3/supply", WIDE, "light"),
    ("feeder-sheet", "/jobs/3/circuits/c4", WIDE, "light"),
    ("panel-pins", "/jobs/3/supply?point=p5@.pin-table", WIDE, "light"),
    ("scenarios", "/jobs/3/scenarios?show=day", WIDE, "light"),
    ("battery-phone", "/jobs/3/scenarios?show=day@#course", NARROW, "light"),
    ("rules", "/jobs/3/rules?try=drop&value=three", WIDE, "light"),
    ("review", "/jobs/3/review", WIDE, "light"),
    (
        "compare",
        "/jobs/3/compare?edit=%7B%22kind%22%3A%22feed_coil_from_common%22%2C"
        "%22circuit_id%22%3A%22c16%22%7D",
        WIDE,
        "light",
    ),
    ("drawing", "/jobs/3/drawing?key=run&lights=off&on=Driving+lights&pick=K16", WIDE, "light"),
    (
        "drawing-night",
        "/jobs/3/drawing?key=run&engine=on&on=Roof+bar&fault=body%3AC15-W2&pick=C15-W2@#heat",
        WIDE,
        "dark",
    ),
    ("schemes", "/schemes/two_triggers", WIDE, "light"),
]


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "ready_trail", "demo", "--db", f"{folder}/s.db",
                   "--port", "0"]  # fmt: skip
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
        pdf = browser.new_context().request.get(f"{url}/jobs/3/drawing.pdf").body()
        (folder / "drawing.pdf").write_bytes(pdf)
        browser.close()
    subprocess.run(
        ["pdftoppm", "-r", "100", "-f", "2", "-l", "2", "-singlefile", "-png",
         str(folder / "drawing.pdf"), str(FOLDER / "drawing-print")], check=True,
    )  # fmt: skip


if __name__ == "__main__":
    main()
