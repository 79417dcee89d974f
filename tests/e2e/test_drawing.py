"""The live drawing in Chromium: worked, measured, broken, replayed; by mouse and by keyboard."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

DRAWING = "/jobs/2/drawing"
LIVE = re.compile("is-live")


def test_turning_the_key_and_a_switch_shows_what_lives(page: Page) -> None:
    page.goto(DRAWING)
    wire = page.locator("[data-wire='C17-W2']")
    expect(wire).not_to_have_class(LIVE)
    page.get_by_role("radio", name="ignition").focus()
    page.keyboard.press("Space")
    page.locator("#switches summary").click()
    page.get_by_role("checkbox", name="Work lights").focus()
    page.keyboard.press("Space")
    expect(wire).to_have_class(LIVE)
    expect(page.locator("[data-ref='K17'][data-part='coil']")).to_have_class(re.compile("is-in"))
    expect(page.locator("#summary")).to_contain_text("Left corner, rearward")
    expect(page.locator("#on-count")).to_have_text("1")
    page.locator("#switches summary").click()
    page.get_by_role("button", name="Live", exact=True).click()
    expect(page.locator("#live-rows tr.is-on th", has_text="Left corner, rearward")).to_be_visible()
    expect(page.locator("#live-rows tr", has_text="Left corner, rearward")).to_contain_text("live")
    page.get_by_label("Put the vehicle into a scenario").select_option("rest")
    expect(wire).not_to_have_class(LIVE)
    page.get_by_role("button", name="Steps").click()
    page.get_by_role("button", name="Replay what was pressed").click()
    expect(wire).to_have_class(LIVE)
    expect(wire).not_to_have_class(LIVE)


def test_a_switch_is_pressed_on_the_sheet_and_a_row_is_found(page: Page) -> None:
    page.goto(DRAWING)
    page.get_by_label("Find a circuit, accessory, device or wire").fill("S7")
    page.keyboard.press("Enter")
    expect(page.locator("#picked")).to_contain_text("Roof bar")
    page.locator(".sheet-device[data-ref='S7'] .hit").click()
    expect(page.locator("#switches input[value='Roof bar']")).to_be_checked()
    find = page.get_by_label("Find a circuit, accessory, device or wire")
    find.fill("hook release")
    page.keyboard.press("Enter")
    names = page.locator(".row-name", has_text="Hook release")
    box, view = names.bounding_box(), page.locator("#sheet-view").bounding_box()
    assert box is not None
    assert view is not None
    assert 30 < box["y"] - view["y"] < 120
    page.get_by_label("Find a circuit, accessory, device or wire").fill("no such thing")
    page.keyboard.press("Enter")
    expect(page.locator("#trouble")).to_contain_text("Nothing on the sheet")


def test_a_wire_is_broken_measured_and_mended(page: Page) -> None:
    page.goto(f"{DRAWING}?key=run&engine=on&on=Roof+bar&pick=C15-W2")
    page.get_by_role("button", name="Clamp it").click()
    expect(page.locator("#meter-face")).to_contain_text(" A")
    page.get_by_role("button", name=re.compile("touches the body")).click()
    expect(page.locator("#first-fuse")).to_contain_text("F15 carries")
    expect(page.locator("#heat .heat-bare")).to_be_visible()
    expect(page.locator("#meter-words")).to_contain_text("This design expects")
    page.get_by_role("button", name="Note it").click()
    expect(page.locator("#readings li")).to_have_count(1)
    page.get_by_role("button", name="Let F15 open").click()
    expect(page.locator("#fault-list")).to_contain_text("F15 has opened")
    page.get_by_role("button", name="Mend all").click()
    expect(page.locator("#faults")).to_be_hidden()
    assert "fault" not in page.url


def test_probes_are_put_on_terminals(page: Page) -> None:
    page.goto(f"{DRAWING}?key=run&engine=on&on=Roof+bar&pick=K15")
    expect(page.locator("#picked")).to_contain_text("K15")
    page.get_by_role("button", name="Probe K15 87").click()
    expect(page.locator("#meter-face")).to_contain_text(" V")
    page.get_by_role("button", name="Probe K15 86").click()
    page.get_by_role("button", name="Short these two").click()
    expect(page.locator("#fault-list")).to_contain_text("touch")
    page.get_by_role("button", name="Mend all").click()
    page.get_by_role("button", name="Meter", exact=True).click()
    page.locator(".seg", has_text="Ω").get_by_role("radio", name="Ω").check()
    expect(page.locator("#meter-warning")).to_be_visible()


def test_the_sheet_moves_by_keyboard_and_wheel(page: Page) -> None:
    page.goto(DRAWING)
    sheet = page.locator("#sheet")
    first = sheet.get_attribute("viewBox")
    page.locator("#sheet-view").focus()
    page.keyboard.press("+")
    nearer = sheet.get_attribute("viewBox")
    assert nearer != first
    page.keyboard.press("Shift+ArrowDown")
    assert sheet.get_attribute("viewBox") != nearer
    page.keyboard.press("f")
    whole = sheet.get_attribute("viewBox") or ""
    assert float(whole.split()[3]) >= float(sheet.get_attribute("data-height") or 0)
    page.locator("#sheet-view").hover()
    page.mouse.wheel(0, 300)
    page.keyboard.press("Home")
    assert sheet.get_attribute("viewBox") == first


def test_a_truth_table_is_stepped_and_a_scenario_pressed(page: Page) -> None:
    page.goto(DRAWING)
    page.get_by_role("button", name="Steps").click()
    page.get_by_label("A circuit's truth table").select_option(label="Roof light bar")
    page.get_by_role("button", name="Next").click()
    expect(page.locator("#truth-words")).to_contain_text("1 of")
    page.get_by_label("Put the vehicle into a scenario").select_option(label="Night ascent")
    expect(page.get_by_role("radio", name="ignition")).to_be_checked()
    expect(page.locator("#live-rows tr.is-on")).not_to_have_count(0)


LETTERS = """(into) => {
  const box = document.querySelector(into).getBoundingClientRect();
  const sizes = [];
  for (const text of document.querySelectorAll(`${into} text`)) {
    const at = text.getBoundingClientRect();
    if (!at.width || at.right < box.left || at.left > box.right) continue;
    if (at.bottom < box.top || at.top > box.bottom) continue;
    const scale = text.getScreenCTM();
    sizes.push(parseFloat(getComputedStyle(text).fontSize) * Math.hypot(scale.a, scale.b));
  }
  sizes.sort((a, b) => a - b);
  return sizes[Math.floor(sizes.length / 2)];
}"""


def test_it_opens_on_the_row_that_matters_with_letters_that_read(page: Page) -> None:
    for job in (1, 2):
        page.goto(f"/jobs/{job}/drawing")
        assert page.evaluate(LETTERS, "#sheet") >= 10.95
    view = page.locator("#sheet-view").bounding_box()
    assert view is not None
    assert view["width"] * view["height"] > 1280 * 800 * 2 / 3
    stop = page.locator(".row-name.limit-words").first.bounding_box()
    assert stop is not None
    assert view["y"] < stop["y"] < view["y"] + 120
    assert stop["x"] >= view["x"]


def test_pieces_are_reached_worked_and_probed_by_keyboard(page: Page) -> None:
    page.goto(f"{DRAWING}?key=run&engine=on&on=Roof+bar&pick=K15")
    page.locator("#sheet-view").focus()
    page.keyboard.press("ArrowRight")
    first = page.locator(".is-at title").text_content()
    page.keyboard.press("ArrowRight")
    assert page.locator(".is-at title").text_content() != first
    for _ in range(40):
        if page.locator(".sheet-device.is-at[data-ref='K15'][data-part='power']").count():
            break
        page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(page.locator("#picked")).to_contain_text("K15")
    expect(page.locator("#sheet-view")).to_be_focused()
    page.keyboard.press("r")
    expect(page.locator("#probe-red")).to_contain_text("K15 30")
    expect(page.locator("#meter-face")).to_contain_text("13.")
    page.keyboard.press("r")
    expect(page.locator("#probe-red")).to_contain_text("K15 87")


def test_on_a_phone_a_row_fills_the_width_and_a_piece_opens_beneath(phone: Page) -> None:
    phone.goto(DRAWING)
    card = phone.locator(".row-card", has_text="Rear work lights, not ready")
    expect(card).to_be_in_viewport()
    assert phone.evaluate(LETTERS, ".row-card:nth-child(5)") >= 9.95
    cards = phone.locator("#row-cards")
    cards.evaluate("(e) => e.scrollBy({left: e.clientWidth})")
    expect(phone.locator(".row-card", has_text="Amber beacon").first).to_be_in_viewport()
    row = phone.locator(".row-card[data-owner='c18']")
    row.locator(".device-relay[data-part='power'] .contact").click()
    expect(phone.locator("#picked")).to_contain_text("K18")
    expect(phone.locator("#picked")).to_be_in_viewport()
    phone.get_by_role("button", name="Piece").click()
    phone.get_by_role("button", name="Whole sheet").click()
    expect(phone.locator("#sheet-view")).to_be_visible()


def test_a_page_that_is_behind_is_told_and_keeps_what_it_shows(page: Page) -> None:
    page.goto(DRAWING)
    edit = '{"kind":"release_choice","circuit_id":"c17","what":"fuse_a"}'
    page.request.post(
        "/jobs/2/edit",
        form={"revision": "1", "edit": edit},
        headers={"Origin": page.url.split("/jobs")[0]},
    )
    page.get_by_role("radio", name="acc.").check()
    expect(page.locator("#trouble")).to_contain_text("has changed")
