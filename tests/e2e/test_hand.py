"""The hand stays: after a press focus is on what was pressed, what follows it, or what is wrong."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, Route, expect

JOB = "/jobs/2"
SOMEWHERE = ":focus"


def test_after_undo_the_hand_is_on_redo(page: Page) -> None:
    page.goto(f"{JOB}/circuits/c15")
    size = page.locator("#hold-size")
    size.select_option(label="8 AWG")
    held = page.locator(".hold", has=size).get_by_role("button", name="Hold")
    held.click()
    expect(page.locator(".tag.is-held").first).to_be_visible()
    expect(page.locator(SOMEWHERE)).to_have_count(1)
    page.locator("#do-undo").click()
    expect(page.locator(".tag.is-held")).to_have_count(0)
    expect(page.locator("#do-redo")).to_be_focused()


def test_what_holds_a_choice_appears_with_the_change(page: Page) -> None:
    page.goto(f"{JOB}/circuits/c15")
    hold = page.locator(".hold", has=page.locator("#hold-size"))
    expect(hold.get_by_role("button")).to_be_hidden()
    hold.locator("select").select_option(label="8 AWG")
    expect(hold.get_by_role("button", name="Hold")).to_be_visible()


def test_a_way_out_keeps_the_hand_on_the_page(page: Page) -> None:
    page.goto(f"{JOB}/review")
    page.locator(".finding-actions button").first.click()
    expect(page.locator(".review-title")).to_contain_text("No stop")
    expect(page.locator(SOMEWHERE)).to_have_count(1)


@pytest.mark.parametrize(
    ("url", "press", "field"),
    [
        (f"{JOB}/accessories?add=true", "Add, then state its run", "f-name"),
        ("/jobs/new", "Start the job", "f-name"),
        ("/shelf?add=true", "Add", "f-key"),
    ],
)
def test_a_refused_form_has_the_hand_on_its_first_wrong_field(
    page: Page, url: str, press: str, field: str
) -> None:
    page.goto(url)
    page.locator(f"#{field}").fill("")
    page.locator("main button:not([tabindex='-1'])", has_text=re.compile(f"^{press}$")).click()
    expect(page.locator(f"#{field}")).to_be_focused()
    expect(page.locator(f"#{field}")).to_be_in_viewport()


def test_arrows_carry_the_circuit_and_not_its_place(page: Page) -> None:
    page.goto(f"{JOB}/supply")
    chip = page.locator("#chip-c15")
    row = "e => e.closest('.position-row').dataset.start"
    first = chip.evaluate(row)
    chip.focus()
    for _ in range(2):
        before = page.locator("#chip-c15").evaluate(row)
        page.keyboard.press("ArrowDown")
        expect(page.locator(f".position-row[data-start='{before}'] #chip-c15")).to_have_count(0)
        expect(page.locator("#chip-c15")).to_be_focused()
    point, at = first.split(":")
    assert page.locator("#chip-c15").evaluate(row) == f"{point}:{int(at) + 2}"


def test_a_kind_keeps_the_name_that_was_typed(page: Page) -> None:
    page.goto("/jobs/new")
    page.get_by_label("Name of the job").fill("Ferry tug")
    page.get_by_role("button", name="Van").click()
    expect(page.get_by_label("Name of the job")).to_have_value("Ferry tug")
    expect(page.get_by_label("Alternator rating")).to_have_value("150")
    page.get_by_label("Name of the job").press("Enter")
    expect(page).to_have_url(re.compile("/accessories"))


def test_what_is_opened_to_be_filled_in_has_the_cursor(page: Page) -> None:
    page.goto(f"{JOB}/accessories")
    page.get_by_role("link", name="Add accessory").click()
    expect(page.locator("#find-preset")).to_be_focused()
    page.goto("/shelf")
    page.get_by_role("banner").get_by_role("link", name="Add a part").click()
    expect(page.locator("#f-key")).to_be_focused()


def test_an_address_with_a_place_in_it_keeps_the_hand(page: Page) -> None:
    page.goto(f"{JOB}/brief")
    page.locator("#name button").click()
    page.wait_for_url(re.compile("brief"))
    expect(page.locator(SOMEWHERE)).to_have_count(1)


def test_a_copy_says_so_and_is_undone(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="Duplicate Marmot", exact=True).click()
    expect(page.locator("#said")).to_contain_text("Marmot (copy) stands beside")
    page.get_by_role("button", name="Put the copy aside").click()
    expect(page.locator("#said")).to_contain_text("is put aside")
    expect(page.locator(".job-card-name", has_text="Marmot (copy)")).to_have_count(0)
    page.get_by_role("button", name="Take it back").click()
    expect(page.locator(".job-card-name", has_text="Marmot (copy)")).to_have_count(1)


def test_what_is_not_there_stays_inside_the_job(page: Page) -> None:
    page.goto(f"{JOB}/nonsense")
    expect(page.locator("#problem")).to_contain_text("This job has no such page")
    expect(page.get_by_role("link", name="Circuits")).to_be_visible()


def test_on_a_phone_the_layout_shows_the_whole_vehicle_and_a_press_the_place(phone: Page) -> None:
    phone.goto("/jobs/2/layout")
    plan = phone.locator(".plan").first
    box = plan.bounding_box()
    assert box is not None
    assert box["x"] >= 0
    assert box["x"] + box["width"] <= 390
    plan.tap(position={"x": box["width"] * 0.9, "y": 60})
    wide = plan.bounding_box()
    assert wide is not None
    assert wide["width"] > 700
    assert wide["x"] < -200  # the pressed end is brought into view
    phone.get_by_role("button", name="Whole vehicle").tap()
    assert plan.bounding_box() == box


@pytest.fixture
def slow(page: Page) -> Iterator[Page]:
    """What is stored takes a while to be answered."""

    def slowly(route: Route) -> None:
        answer = route.fetch(max_redirects=0)
        page.wait_for_timeout(700)
        route.fulfill(response=answer)

    for address in ("edit", "undo"):
        page.route(f"**/{address}", slowly)
    yield page
    page.unroute_all(behavior="wait")


def test_quick_presses_are_each_done_and_say_no_conflict(slow: Page) -> None:
    """Arrows and undo faster than their answers: each is one step, none is told of a conflict."""
    row = "e => e.closest('.position-row').dataset.start"
    chip = slow.locator("#chip-c15")
    slow.goto(f"{JOB}/supply")
    point, at = chip.evaluate(row).split(":")
    chip.focus()
    for _ in range(3):
        slow.keyboard.press("ArrowDown")
    moved = f".position-row[data-start='{point}:{int(at) + 3}'] #chip-c15"
    expect(slow.locator(moved)).to_be_focused()
    for _ in range(2):
        slow.keyboard.press("Control+z")
    expect(
        slow.locator(f".position-row[data-start='{point}:{int(at) + 1}'] #chip-c15")
    ).to_be_visible()
    expect(slow.locator("#status")).to_contain_text("rev 2")


@pytest.mark.parametrize(("first", "second"), [(True, False), (False, True)])
def test_a_second_click_is_a_bounce_and_another_press_waits(
    slow: Page, first: bool, second: bool
) -> None:
    """Twice on one way out is one press; another's press is made when the first is answered."""
    slow.goto(f"{JOB}/review")
    fuse = slow.locator(".finding-actions button", has_text="Choose the wire size").first
    fuse.dblclick() if first else fuse.click()
    if second:
        slow.locator(".finding-actions button", has_text="Guard the switch").first.click()
    expect(slow.locator("#status")).to_contain_text(f"rev {3 if second else 2}")
    slow.wait_for_timeout(1_000)
    expect(slow.locator("#status")).to_contain_text(f"rev {3 if second else 2}")


def test_a_form_pressed_twice_is_stored_once(slow: Page) -> None:
    slow.goto(f"{JOB}/accessories?add=true")
    slow.locator("#f-name").fill("Deck lamp")
    slow.locator("#f-watts").fill("24")
    slow.get_by_role("button", name="Add, then state its run").dblclick()
    expect(slow.locator("#status")).to_contain_text("rev 2")
    expect(slow.locator("h1").first).not_to_contain_text("moved on")
