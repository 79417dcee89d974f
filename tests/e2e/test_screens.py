"""Every screen as it is, by day, by night and on a phone: nothing is cut, axe finds nothing."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page

from e2e_support import AXE, guarded

SCREENS = [
    "/",
    "/jobs/new",
    "/size",
    "/schemes",
    "/schemes/changeover",
    "/schemes/winch",
    "/shelf",
    "/shelf?add=true",
    "/settings",
    "/pair",
    "/jobs/99",
    "/nowhere",
    "/jobs/1/brief",
    "/jobs/1/rules",
    "/jobs/1/rules?try=drop&value=three",
    "/jobs/1/accessories?preset=fridge",
    "/jobs/2/accessories",
    "/jobs/2/accessories/a18",
    "/jobs/2/accessories/a31",
    "/jobs/2/survey",
    "/jobs/1/layout",
    "/jobs/1/circuits/c11",
    "/jobs/2/circuits/c2",
    "/jobs/2/circuits/c21/why",
    "/jobs/2/layout?leg=l8",
    "/jobs/2/layout?point=rfc",
    "/jobs/2/supply",
    "/jobs/2/supply?point=p1",
    "/jobs/2/supply?add=1",
    "/jobs/2/supply?switch=Beacon",
    "/jobs/1/scenarios",
    "/jobs/1/scenarios?edit=s1",
    "/jobs/1/scenarios/s5/why",
    "/jobs/1/circuits/c15",
    "/jobs/1/circuits/c16?at=K16",
    "/jobs/1/circuits/c15/run",
    "/jobs/1/circuits/c2/why",
    "/jobs/2/circuits/c17",
    "/jobs/2/circuits/c17/branches",
    "/jobs/2/circuits/c17/schemes",
    "/jobs/2/circuits/c18",
    "/jobs/2/drawing",
    "/jobs/2/drawing?key=run&on=Roof+bar&fault=body:C15-W2&pick=C15-W2",
    "/jobs/2/drawing/faults",
    "/jobs/2/drawing/faults?circuit=c16",
    "/jobs/2/build",
    "/jobs/3/prove",
    "/jobs/2/prove/c28",
    "/jobs/2/build/cut",
    "/jobs/2/build/parts",
    "/jobs/2/build/spools",
    "/jobs/2/build/order",
    "/jobs/2/build/quote",
    "/jobs/2/build/templates",
    "/jobs/2/record",
    "/jobs/2/record?tab=care",
    "/jobs/2/record?tab=visits",
    "/jobs/2/record?tab=photos",
    "/jobs/2/record?tab=papers",
    "/care",
    "/practice",
    "/jobs/2/build/labels",
    "/jobs/2/build/book",
    "/jobs/2/build/found?circuit=c15",
    "/jobs/1/review?notes=1",
    "/jobs/1/findings/sleeps",
    "/jobs/2/history",
    "/jobs/2/compare",
    "/jobs/1/compare?a=rules:&b=now",
]
EYE = Path(__file__).parent / "eye.js"
ALIKE = Path(__file__).parent / "alike.js"
SHIFTS = """() => { window.shifts = []; new PerformanceObserver((seen) => {
    for (const e of seen.getEntries())
        if (e.hadRecentInput) window.shifts.push(...e.sources.map((s) => s.node?.outerHTML));
}).observe({ type: "layout-shift" }); }"""
"""Notes what moves by itself after a press."""
OF_A_PHONE = (
    "aria-hidden-focus",
    "bypass",
    "meta-viewport",
    "nested-interactive",
    "scrollable-region-focusable",
    "skip-link",
    "target-size",
)
"""What may break by being narrow alone."""
SIZES = {"wide": (1280, 800), "phone": (390, 844)}


@pytest.fixture(scope="module")
def pages(browser: Browser, looked_at: str) -> Iterator[dict[str, tuple[Page, list[str]]]]:
    """A page of each size, with what went wrong on it; screens follow one another there."""
    made: dict[str, tuple[Page, list[str]]] = {}
    for name, (width, height) in SIZES.items():
        context = browser.new_context(
            base_url=looked_at,
            viewport={"width": width, "height": height},
            reduced_motion="reduce",
        )
        bad: list[str] = []
        made[name] = guarded(context.new_page(), looked_at, bad), bad
    yield made
    for page, _ in made.values():
        page.context.close()


@pytest.mark.parametrize("size", SIZES)
@pytest.mark.parametrize("url", SCREENS)
def test_a_screen_is_whole_by_day_and_by_night(
    pages: dict[str, tuple[Page, list[str]]], url: str, size: str
) -> None:
    page, bad = pages[size]
    bad.clear()
    page.emulate_media(color_scheme="light")
    page.goto(url)
    # long work shows its end; on a busy machine it takes a while
    page.locator("[data-work]").wait_for(state="detached", timeout=300_000)
    nothing_is_cut(page, SIZES[size][0])
    page.evaluate("document.fonts.ready.then(() => true)")
    assert what_strains(page, url, size) == []
    page.evaluate(SHIFTS)
    for _ in range(6):
        page.keyboard.press("Tab")
    assert page.evaluate("window.shifts") == []
    page.evaluate(AXE.read_text(encoding="utf-8"))
    if size == "phone":  # names and colours are those of the wide screen
        told = broken(page, *OF_A_PHONE)
        keys_are_large(page)
    else:
        told = broken(page)
        page.evaluate(ALIKE.read_text(encoding="utf-8"))
        page.emulate_media(color_scheme="dark")
        page.evaluate("document.getAnimations().forEach((turning) => turning.finish())")
        told += broken(page, "color-contrast")
    assert told == []
    assert bad == []


def what_strains(page: Page, url: str, size: str) -> list[str]:
    """Letters under 11 pixels, selects that cut their text, targets under 40 on a phone. Labels
    are shown as the paper that they are; rows on a phone's cards have letters of 10.
    """
    least = 10 if size == "phone" and "/drawing" in url else 11
    if url.endswith("/labels"):
        least = 0
    found: list[str] = page.evaluate(EYE.read_text(encoding="utf-8"), least)
    return found


def broken(page: Page, *rules: str) -> list[str]:
    """What axe finds broken, by some rules or all, in words."""
    # what passes is not named: finding a name for every element takes most of the time
    asked: dict[str, Any] = {"resultTypes": ["violations"], "selectors": False}
    asked |= {"runOnly": rules} if rules else {}
    found = page.evaluate("(asked) => axe.run(document, asked)", asked)["violations"]
    return [
        f"{v['id']}: {n['html'][:160]} {n['failureSummary'][-140:]}"
        for v in found
        for n in v["nodes"]
    ]


def nothing_is_cut(page: Page, width: int) -> None:
    """Nothing scrolls sideways, neither the page nor its work."""
    assert page.evaluate("document.documentElement.scrollWidth") <= width
    for part in page.locator("#work").all():  # the pairing page has none
        assert part.evaluate("e => e.scrollWidth <= e.clientWidth")


def keys_are_large(page: Page) -> None:
    """What a thumb presses is 44 pixels high."""
    small = page.evaluate(
        """() => [...document.querySelectorAll('button.button, a.button, .stage')]
            .filter(e => e.offsetParent && e.getBoundingClientRect().height < 44)
            .map(e => e.textContent.trim())"""
    )
    assert small == []
