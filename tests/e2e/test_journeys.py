"""Journeys through the application in Chromium, with the mouse, the keyboard and wrong input."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from e2e_support import revision

SHEET = "/jobs/1/circuits/c15"


def test_newcomer_from_a_label_to_a_printed_sheet(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="New job").click()
    page.get_by_label("Name of the job").fill("Wren")
    page.get_by_label("Headlamps switched on").select_option("earth")
    page.get_by_role("button", name="Start the job").click()
    page.get_by_role("link", name=re.compile("LED light bar 1.2 m")).click()
    page.get_by_label("Name").fill("Roof bar")
    page.get_by_label("Its switch").fill("Roof")
    page.locator("#when > summary").click()
    page.get_by_label("only with the engine running").check()
    page.get_by_role("button", name="Add, then state its run").click()
    page.get_by_label("Length of segment 1 in metres").fill("0.8")
    page.get_by_label("Segment 1 is taped").check()
    page.get_by_label("Sheet metal passed after segment 1").fill("firewall")
    page.get_by_label("Length of segment 2 in metres").fill("2,6")
    page.get_by_role("button", name="Save the run").click()
    expect(page.get_by_role("heading", name="Roof bar")).to_be_visible()
    expect(page.locator("#inspector")).to_contain_text("AWG")
    expect(page.locator("#band")).to_contain_text("firewall")
    expect(page.locator("#truth")).to_contain_text("on while Roof is on")
    with page.context.expect_page() as opened:
        page.evaluate("document.getElementById('print').target = '_blank'")
        page.locator("#print").click()
    paper = page.locator("#print").get_attribute("href") or ""
    opened.value.wait_for_url(re.compile(r"/sheet\.pdf$"))
    assert page.request.get(paper).body().startswith(b"%PDF-")


def test_picking_a_piece_with_the_mouse_and_with_the_keyboard(page: Page) -> None:
    page.goto(SHEET)
    page.locator("#band a[data-piece='F15']").click()
    expect(page.locator("#inspector")).to_contain_text("25 A, standard blade")
    page.locator("#band a[data-piece='K15']").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#inspector")).to_contain_text("Mini relay 40 A")
    expect(page.locator("#band a[data-piece='K15']")).to_be_focused()
    expect(page).to_have_url(re.compile("at=K15"))
    assert page.locator("#profile .picked").count() == 1


def test_hold_undo_redo_by_keyboard_alone(page: Page) -> None:
    page.goto(f"{SHEET}?at=C15-W2")
    size = page.locator("#hold-size")
    size.focus()
    size.select_option("4")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.locator("#inspector")).to_contain_text("4 AWG is held by hand")
    expect(page.locator("#status")).to_contain_text("rev 2 · Hold wire size")
    page.locator("#work").focus()
    page.keyboard.press("Control+z")
    expect(page.locator("#status")).to_contain_text("rev 1")
    expect(page.locator("#inspector")).not_to_contain_text("held by hand")
    page.keyboard.press("Control+y")
    expect(page.locator("#status")).to_contain_text("rev 2")
    page.get_by_role("button", name="Release size").click()
    expect(page.locator("#status")).to_contain_text("rev 3 · Release wire size")
    page.locator("#work").focus()
    page.keyboard.press("Alt+ArrowDown")
    expect(page.get_by_role("heading", name="Wide driving lamp")).to_be_visible()
    page.wait_for_load_state()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()


def test_slider_redraws_keeps_focus_saves_nothing_until_kept(page: Page) -> None:
    page.goto(SHEET)
    slider = page.get_by_label("Run out")
    before = page.locator("#profile .ridge").get_attribute("d")
    slider.focus()
    for _ in range(30):
        page.keyboard.press("ArrowRight")
    expect(page.locator("#sheet")).to_contain_text("Nothing is saved")
    expect(page.locator("#sheet .sheet-scheme")).to_contain_text("7.3 m out")
    expect(slider).to_be_focused()
    expect(page.locator("#inspector .inspector-title")).to_contain_text("AWG")
    assert page.locator("#profile .ridge").get_attribute("d") != before
    assert revision(page, 1) == 1
    page.get_by_role("button", name="Keep").click()
    expect(page.locator("#status")).to_contain_text("Keep what-if of Roof light bar: 7.3 m")
    expect(page.locator("#sheet")).not_to_contain_text("Nothing is saved")


def test_feed_slider_shows_what_it_draws(page: Page) -> None:
    page.goto(SHEET)
    page.get_by_role("slider", name="Feed").focus()
    for _ in range(12):
        page.keyboard.press("ArrowLeft")
    expect(page.locator(".profile-words")).to_contain_text("it draws")
    expect(page.get_by_role("button", name="Keep")).to_have_count(0)


def test_one_press_way_out_and_acceptance_with_a_reason(page: Page) -> None:
    page.goto("/jobs/1/circuits/c17")
    expect(page.locator(".ready-line")).to_contain_text("1 stop")
    page.get_by_role("button", name="Choose the fuse automatically").first.click()
    expect(page.locator(".ready-line")).to_contain_text("0 stops")
    expect(page.locator("#sheet .finding-stop")).to_have_count(0)
    page.goto("/jobs/1/circuits/c25")
    page.get_by_text("Accept", exact=True).click()
    page.get_by_label("Why is it acceptable?").fill("Short use, tested at the lamp")
    page.get_by_role("button", name="Accept with this reason").click()
    expect(page.locator(".ready-line")).to_contain_text("0 cautions")
    page.locator("#quiet summary").click()
    expect(page.locator("#quiet")).to_contain_text("Accepted: Short use, tested at the lamp")


def test_two_tabs_never_lose_a_change(page: Page) -> None:
    page.goto("/jobs/1/circuits/c15/run")
    other = page.context.new_page()
    other.goto("/jobs/1/brief")
    other.locator("#f-name").fill("Marmot the second")
    other.locator("#name").get_by_role("button", name="Save").click()
    expect(other.locator("#status")).to_contain_text("rev 2")
    page.get_by_label("Length of segment 2 in metres").fill("3.1")
    page.get_by_role("button", name="Save the run").click()
    expect(page.get_by_role("heading", name=re.compile("moved on"))).to_be_visible()
    expect(page.get_by_text("3.1", exact=True)).to_be_visible()
    expect(page.get_by_text("Name the job Marmot the second")).to_be_visible()
    page.get_by_role("button", name="Apply mine on top").click()
    expect(page.locator("#sheet .sheet-scheme")).to_contain_text("6.8 m out")
    expect(page.locator(".job-name")).to_have_text("Marmot the second")


def test_wrong_input_stays_beside_its_message(page: Page) -> None:
    page.goto("/jobs/1/circuits/c15/run")
    page.get_by_label("Length of segment 1 in metres").fill("two")
    page.get_by_label("Control wire, signal to relay").fill("-1")
    page.get_by_role("button", name="Save the run").click()
    expect(page.get_by_label("Length of segment 1 in metres")).to_have_value("two")
    expect(page.get_by_text("Type a number, such as 1.5 m")).to_be_visible()
    page.get_by_label("Length of segment 1 in metres").fill("0.7")
    page.get_by_role("button", name="Save the run").click()
    expect(page.get_by_label("Control wire, signal to relay")).to_have_value("-1")
    expect(page.get_by_text("Must be 0.1 or more.")).to_be_visible()


def test_quick_size_answers_while_typing(page: Page) -> None:
    page.goto("/size")
    watts = page.get_by_label("Watts")
    watts.press("Control+a")
    watts.press_sequentially("560", delay=20)
    expect(page.locator("#answer")).to_contain_text("43.7 A")
    expect(watts).to_be_focused()
    expect(watts).to_have_value("560")
    watts.fill("plenty")
    expect(page.locator("#answer")).to_contain_text("Type a number")
    watts.fill("280")
    page.get_by_label("Name").fill("Bar")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("heading", name="Bar")).to_be_visible()


def test_job_goes_out_as_a_file_and_comes_back(page: Page, tmp_path: Path) -> None:
    page.goto("/jobs/1/brief")
    with page.expect_download() as download:
        page.get_by_role("link", name="Job file (JSON)").click()
    saved = tmp_path / "job.json"
    download.value.save_as(saved)
    assert json.loads(saved.read_text(encoding="utf-8"))["name"] == "Marmot"
    page.goto("/")
    page.get_by_label("Take in a job file").set_input_files(saved)
    page.get_by_role("button", name="Import").click()
    expect(page.get_by_role("heading", name="Roof light bar")).to_be_visible()
    page.goto("/")
    broken = tmp_path / "broken.json"
    broken.write_text('{"name": "J", "circuits": 5}')
    page.get_by_label("Take in a job file").set_input_files(broken)
    page.get_by_role("button", name="Import").click()
    expect(page.get_by_role("alert")).to_contain_text("circuits")


def test_history_restores(page: Page) -> None:
    page.goto("/jobs/1/accessories")
    page.get_by_role("button", name="Remove Amber beacon").click()
    expect(page.get_by_role("link", name="Amber beacon", exact=True)).to_have_count(0)
    page.goto("/jobs/1/history")
    page.get_by_role("button", name="Restore revision 1").click()
    expect(page.get_by_text("Restore revision 1: Demo job").first).to_be_visible()
    page.goto("/jobs/1/accessories")
    expect(page.get_by_role("link", name="Amber beacon", exact=True)).to_be_visible()


def test_five_taps_with_the_phone_name_the_high_beam_wire(page: Page) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto("/jobs/1/brief")
    page.get_by_label("Headlamps switched on").select_option("positive")
    page.get_by_role("button", name="Save vehicle").click()
    page.goto("/jobs/1/survey")
    page.get_by_label("Name").fill("Right lamp")
    page.get_by_label("Connector cavity").fill("pin 9")
    page.get_by_role("button", name="Put it on the sheet").click()
    probe = page.locator(".probe", has_text="Right lamp")
    for state, taps in (("Key off", 2), ("Ignition", 2), ("Low", 1), ("High", 2), ("Unplug", 2)):
        key = probe.get_by_role("button", name=re.compile(f"Right lamp, *{state}"))
        for tap in range(taps):
            key.click()
            expect(key).to_contain_text(("lit", "dark")[tap])
    expect(probe).to_contain_text("High-beam wire, switched on the earth side")
    probe.get_by_role("button", name="Use it in this job").click()
    expect(page.locator(".known")).to_contain_text("Right lamp at pin 9, goes to earth when on")
    page.goto("/jobs/1/brief")
    expect(page.get_by_label("Headlamps switched on")).to_have_value("earth")


def test_layout_from_nothing_to_routed_sheets(page: Page) -> None:
    """Offer, place by keyboard, tape two legs: the sheet shows segments without a typed length."""
    page.goto("/jobs/1/layout")
    page.get_by_role("button", name="Take the offered layout").click()
    for name, point in (
        ("Roof light bar", "Roof front middle"),
        ("Amber beacon", "Roof earth point"),
    ):
        page.get_by_label(f"Point of {name}", exact=True).fill(point)
    page.get_by_role("button", name="Save the places").click()
    expect(page.locator("#status")).to_contain_text("Place 2 things")
    bar = page.locator("tr", has=page.get_by_label("Point of Roof light bar", exact=True))
    expect(bar.locator("td[data-label=Way]")).to_contain_text("place Bay block first")
    page.get_by_label("Place of Bay block").fill("Fuse block place")
    page.get_by_role("button", name="Save the places").click()
    expect(bar.locator("td[data-label=Way]")).to_contain_text("m")
    expect(bar.locator("td[data-label=Way]")).not_to_contain_text("typed")
    for leg, taped in (
        ("Firewall left to Dash left", "0.66"),
        ("Dash left to Pillar foot left", "0.58"),
    ):
        page.get_by_role("link", name=leg, exact=True).click()
        page.get_by_label("Taped length").fill(taped)
        page.get_by_role("button", name="Save the leg").click()
        expect(page.locator("#status")).to_contain_text(f"Tape {leg}: {taped} m")
    expect(page.locator(".cross-section")).to_be_visible()
    page.goto(SHEET)
    expect(page.locator("#band")).to_contain_text("0.58")
    expect(page.locator("#band")).to_contain_text("roof skin")
    expect(page.get_by_role("link", name="Layout").last).to_be_visible()


def test_dragging_and_arrow_keys_move_a_point(page: Page) -> None:
    page.goto("/jobs/2/layout")
    before = page.request.get("/api/jobs/2").json()["job"]["layout"]["points"]
    spot = page.locator("#plan-rfc .spot-hit")
    box = spot.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 40, y + 20, steps=5)
    page.mouse.up()
    expect(page.locator("#status")).to_contain_text("Move Roof front middle")
    moved = {p["id"]: p for p in page.request.get("/api/jobs/2").json()["job"]["layout"]["points"]}
    was = {p["id"]: p for p in before}
    assert moved["rfc"]["x_m"] > was["rfc"]["x_m"] + 0.1
    assert moved["rfc"]["y_m"] < was["rfc"]["y_m"] - 0.05
    assert moved["rfc"]["z_m"] == was["rfc"]["z_m"]
    page.locator("#side-bed").focus()
    for _ in range(3):
        page.keyboard.press("ArrowUp")
    expect(page.locator("#status")).to_contain_text("Move Load bed front")
    later = {p["id"]: p for p in page.request.get("/api/jobs/2").json()["job"]["layout"]["points"]}
    assert later["bed"]["z_m"] == pytest.approx(was["bed"]["z_m"] + 0.15)
    page.locator("#do-undo").click()
    expect(page.locator("#status")).to_contain_text("Move Roof front middle")
    page.locator("#plan-con").click()
    expect(page).to_have_url(re.compile("point=con"))


def test_a_fuse_block_takes_circuits_by_dragging_and_by_keyboard(page: Page) -> None:
    """Drag a circuit onto a position, move one by its arrow keys, add a block; undo all."""
    page.goto("/jobs/1/supply")
    chip = page.locator("[data-move='c27']").bounding_box()
    target = page.locator("[data-start='p1:1']").bounding_box()
    assert chip is not None
    assert target is not None
    page.mouse.move(chip["x"] + 10, chip["y"] + 10)
    page.mouse.down()
    page.mouse.move(target["x"] + 40, target["y"] + 12, steps=6)
    page.mouse.up()
    expect(page.locator("#status")).to_contain_text("Heated wiper rest")
    circuits = {c["id"]: c for c in page.request.get("/api/jobs/1").json()["job"]["circuits"]}
    assert circuits["c27"]["start"] == {"point": "p1", "position": "1"}
    assert circuits["c15"]["start"] == {"point": "p1", "position": "7"}
    page.locator("[data-move='c27']").focus()
    page.keyboard.press("ArrowDown")
    expect(page.locator("#status")).to_contain_text("rev 3")
    circuits = {c["id"]: c for c in page.request.get("/api/jobs/1").json()["job"]["circuits"]}
    assert circuits["c27"]["start"]["position"] == "2"
    assert circuits["c16"]["start"]["position"] == "1"
    page.locator("#add-point").click()
    page.get_by_role("button", name="Eight-way fuse block", exact=True).click()
    expect(page.locator("#status")).to_contain_text("Add Eight-way fuse block")
    for left in (3, 2, 1):
        page.locator("#do-undo").click()
        expect(page.locator("#status")).to_contain_text(f"rev {left}")
    assert len(page.request.get("/api/jobs/1").json()["job"]["points"]) == 4


def test_a_feeder_is_sized_by_what_can_run_together(page: Page) -> None:
    page.goto("/jobs/1/supply?point=p1")
    page.get_by_label("Runs together, if you know better").fill("12")
    page.locator("#point").get_by_role("button", name="Save", exact=True).first.click()
    expect(page.locator(".ready-line")).to_contain_text("2 stops")
    page.goto("/jobs/1/circuits/c2")
    expect(page.locator("#sheet .finding-stop")).to_contain_text("below its largest circuit alone")
    page.get_by_role("button", name="Take what can be on together").click()
    expect(page.locator(".ready-line")).to_contain_text("1 stop")


def test_regrouping_by_dragging_and_by_keyboard(page: Page) -> None:
    page.goto("/jobs/1/accessories")
    page.locator("#regroup summary").click()
    chip = page.locator(".chip", has_text="Amber beacon").bounding_box()
    target = page.locator(".circuit-card[data-circuit='c15']").bounding_box()
    assert chip is not None
    assert target is not None
    page.mouse.move(chip["x"] + 10, chip["y"] + 10)
    page.mouse.down()
    page.mouse.move(target["x"] + 12, target["y"] + 12, steps=5)
    page.mouse.up()
    follow = page.get_by_role("button", name="it follows that circuit's use")
    expect(page.get_by_role("alert")).to_contain_text("differ in switch")
    follow.click()
    expect(page.locator("#status")).to_contain_text("Put Amber beacon on Roof light bar")
    expect(page.locator(".circuit-card[data-circuit='c15']")).to_contain_text("Amber beacon")
    page.get_by_label("Move", exact=True).select_option("Amber beacon")
    page.get_by_label("onto the circuit").select_option("new")
    page.locator("#group-move").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#status")).to_contain_text("Give Amber beacon a circuit of its own")


def test_a_list_of_accessories_comes_in_and_is_grouped(page: Page, tmp_path: Path) -> None:
    listed = tmp_path / "list.csv"
    listed.write_text("name,watts,switch\nLeft pod,40,S21\nRight pod,40,S21\n")
    page.goto("/jobs/1/accessories")
    page.get_by_label("Take in a CSV list").set_input_files(listed)
    page.get_by_role("button", name="Import list").click()
    expect(page.get_by_text("Put Right pod on the circuit of Left pod")).to_be_visible()
    page.get_by_role("button", name="Do it").click()
    expect(page.locator("#status")).to_contain_text("Put Right pod on Left pod")
    wrong = tmp_path / "wrong.csv"
    wrong.write_text("name,watts\nPod,forty\n")
    page.get_by_label("Take in a CSV list").set_input_files(wrong)
    page.get_by_role("button", name="Import list").click()
    expect(page.get_by_role("alert")).to_contain_text("row 2, watts: Type a number")


def test_works_without_javascript(browser: Browser, base_url: str) -> None:
    context = browser.new_context(base_url=base_url, java_script_enabled=False)
    page = context.new_page()
    page.goto(f"{SHEET}?at=C15-W2")
    page.locator("#hold-size").select_option("4")
    page.locator("form.hold").first.get_by_role("button").click()
    expect(page.locator("#inspector")).to_contain_text("4 AWG is held by hand")
    page.locator("#do-undo").click()
    expect(page.locator("#inspector")).not_to_contain_text("held by hand")
    page.goto("/size")
    page.get_by_label("Watts").fill("60")
    page.get_by_role("button", name="Size it").click()
    expect(page.locator("#answer")).to_contain_text("4.7 A")
    context.close()
