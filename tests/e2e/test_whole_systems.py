"""Whole systems through the pages: a disconnect, a module, a winch, a lamp with two sides."""

from __future__ import annotations

from typing import Any

from playwright.sync_api import Page, expect


def new_job(page: Page, name: str) -> str:
    """A fresh vehicle through its form; the address of its pages."""
    page.goto("/jobs/new")
    page.get_by_label("Name of the job").fill(name)
    page.get_by_role("button", name="Start the job").click()
    page.wait_for_url("**/jobs/*/**")
    return "/".join(page.url.split("/")[3:5]).join(("/", ""))


def document(page: Page, base: str) -> dict[str, Any]:
    """The job as stored."""
    found: dict[str, Any] = page.request.get(f"{base}/job.json").json()
    return found


def add_accessory(page: Page, base: str, name: str, watts: str, switch: str = "") -> None:
    page.goto(f"{base}/accessories?add=1#form")
    page.get_by_label("Name", exact=True).fill(name)
    page.get_by_label("Watts", exact=True).fill(watts)
    page.get_by_label("Its switch").fill(switch)
    page.get_by_role("button", name="Add, then state its run").click()
    page.wait_for_url("**/run")


def add_point(page: Page, base: str, words: str) -> None:
    page.goto(f"{base}/supply?add=point#point")
    page.get_by_placeholder("Find: block, panel, converter").fill(words.split()[-1])
    page.get_by_role("button", name=words).click()
    expect(page.locator("#point-title")).to_be_visible()


def test_a_disconnect_that_latches_is_found_put_in_and_moves_what_hangs_behind(page: Page) -> None:
    base = new_job(page, "Disconnect")
    add_accessory(page, base, "Slip lamp", "40", "Slip lamp")
    add_accessory(page, base, "Gate receiver", "3")
    add_point(page, base, "Battery disconnect that latches by a pulse")
    expect(page.get_by_label("Worked by a pulse from the switch")).to_have_value("Battery switch")
    row = page.locator(".move-list li", has_text="Slip lamp")
    row.get_by_role("button", name="Put it behind").click()
    dies = page.locator(".move-list").first
    expect(dies).to_contain_text("The vehicle itself")
    expect(dies).to_contain_text("Slip lamp")
    expect(page.locator(".move-list").last).to_contain_text("Gate receiver")
    expect(page.locator(".flow-figures")).to_contain_text("400")
    page.get_by_label("Bears while cranking").fill("300")
    page.get_by_role("button", name="Save").click()
    page.goto(f"{base}/review")
    stop = page.locator(".finding-stop", has_text="carries more while the engine is cranked")
    stop.get_by_role("button", name="Take one that bears 400 A").click()
    expect(page.locator("#page")).to_contain_text("No stop is open")
    point = document(page, base)["points"][0]
    assert (point["pulse_switch"], point["cranking_a"]) == ("Battery switch", 400)
    page.goto(f"{base}/drawing?key=run&on=Battery+disconnect+opened")
    lamp = page.locator("tr", has_text="Slip lamp").first
    expect(lamp).to_contain_text("0.0")


def test_seven_circuits_go_on_a_modules_channels_in_one_act(page: Page) -> None:
    base = new_job(page, "Module")
    for n in range(1, 8):
        add_accessory(page, base, f"Lamp {n}", str(20 + 10 * n), f"Lamp {n}")
    add_point(page, base, "Power module of eight channels with keypad")
    page.get_by_text("Fill channels in order").click()
    page.get_by_role("button", name="Put these on its channels").click()
    expect(page.locator("#page")).to_contain_text("Put 7 circuits on Power module")
    job = document(page, base)
    starts = {c["name"]: c["start"]["position"] for c in job["circuits"] if c["accessory_ids"]}
    assert starts == {f"Lamp {n}": str(n) for n in range(1, 8)}
    assert job["switches"] == []
    page.get_by_label("Mode of position 3").select_option("momentary")
    page.get_by_label("Cavity of position 3").fill("B2")
    page.get_by_role("button", name="Save").click()
    position = document(page, base)["points"][0]["positions"][2]
    assert (position["mode"], position["cavity"]) == ("momentary", "B2")
    page.goto(f"{base}/review")
    stop = page.locator(".finding-stop", has_text="3 springs back")
    stop.get_by_role("button", name="Let the channel stay on").click()
    expect(page.locator("#page")).to_contain_text("No stop is open")


def test_a_winch_with_its_own_remote_needs_nothing_in_the_dash(page: Page) -> None:
    base = new_job(page, "Winch")
    page.goto(f"{base}/accessories?add=1#form")
    page.get_by_label("Name", exact=True).fill("Ramp winch")
    page.get_by_label("or amps").fill("210")
    page.locator("#behaves > summary").click()
    page.get_by_label("Load", exact=True).select_option("winch")
    page.get_by_label("Duty", exact=True).select_option("momentary")
    page.get_by_label("Voltage drop", exact=True).select_option("tolerant")
    page.get_by_label("Its box brings").select_option("wireless")
    page.get_by_label("Its motor has").select_option("true")
    page.get_by_label("its remote's own wire takes a keyed feed").check()
    page.get_by_label("Post", exact=True).first.fill("F1")
    page.get_by_label("Its lead", exact=True).first.fill("red")
    page.get_by_role("button", name="Add, then state its run").click()
    page.wait_for_url("**/run")
    job = document(page, base)
    assert job["accessories"][0]["posts"][0]["lead"] == "red"
    page.goto(f"{base}/circuits/{job['circuits'][0]['id']}")
    expect(page.locator("#page")).to_contain_text("its box with its own remote")
    page.goto(f"{base}/review")
    expect(page.locator("#page")).to_contain_text("No stop is open")
    assert document(page, base)["switches"] == []


def test_a_lamp_of_two_colours_hangs_on_both_sides_of_one_switch(page: Page) -> None:
    base = new_job(page, "Two sides")
    page.goto(f"{base}/accessories?add=1#form")
    page.get_by_label("Name", exact=True).fill("Stern lamp")
    page.get_by_label("Watts", exact=True).fill("60")
    page.get_by_text("It has several outputs").click()
    for at, (name, share) in enumerate((("white", "40"), ("amber", "20"))):
        page.locator(f"#f-outputs-{at}-name").fill(name)
        page.locator(f"#f-outputs-{at}-value").fill(share)
    page.get_by_role("button", name="Add, then state its run").click()
    for name, side in (("white", "I"), ("amber", "II")):
        card = page.locator(".output-card", has_text=name).first
        card.get_by_label("Its switch").fill("Stern")
        card.get_by_label("Side of it").select_option(side)
        card.get_by_role("button", name=f"Save {name}").click()
        expect(page.locator("#page")).to_contain_text("Change when")
    job = document(page, base)
    uses = {c["output"]: (c["use"]["switch"], c["use"]["throw"]) for c in job["circuits"]}
    assert uses == {"white": ("Stern", "I"), "amber": ("Stern", "II")}
    assert [(s["name"], s["throws"]) for s in job["switches"]] == [("Stern", 2)]
    card = page.locator(".output-card", has_text="amber").first
    card.get_by_label("Side of it").select_option("")
    card.get_by_role("button", name="Save amber").click()
    refused = page.locator(".output-card", has_text="amber").first
    expect(refused).to_contain_text("two sides")
    expect(refused.get_by_label("Side of it")).to_have_value("")
    page.goto(f"{base}/review")
    expect(page.locator("#page")).to_contain_text("No stop is open")


def test_a_kit_serves_two_lamps(page: Page) -> None:
    base = new_job(page, "Kit")
    for name in ("Left lamp", "Right lamp"):
        add_accessory(page, base, name, "45", name)
    circuits = document(page, base)["circuits"]
    page.goto(f"{base}/build/found?circuit={circuits[0]['id']}&what=kit#state")
    for at in range(2):
        page.locator(f"#f-leads-{at}-name").fill(f"Lead {at + 1}")
        page.locator(f"#f-leads-{at}-start").select_option("relay_87")
        page.locator(f"#f-leads-{at}-end").select_option("plus")
        page.locator(f"#f-leads-{at}-size").select_option("10")
        page.locator(f"#f-leads-{at}-length_m").fill("9")
        page.locator(f"#f-leads-{at}-insulation_c").select_option("105")
    page.get_by_text("It also serves").click()
    page.get_by_label("Right lamp").check()
    page.get_by_role("button", name="Keep").click()
    plan = page.locator("#plan")
    expect(plan.locator("tr", has_text="Lead 1")).to_contain_text("Cut.")
    expect(plan.locator("tr", has_text="Lead 2")).to_contain_text("Cut.")
    assert document(page, base)["circuits"][0]["kit"]["also"] == [circuits[1]["id"]]
    page.goto(f"{base}/build")
    expect(page.locator("#page")).to_contain_text("Try the kit of Left lamp on the bench")


def test_a_copy_brings_everything_that_was_stated(page: Page) -> None:
    base = new_job(page, "Copies")
    add_accessory(page, base, "Bench lamp", "25", "Bench")
    page.goto(f"{base}/accessories")
    page.get_by_label("Copy Bench lamp").click()
    expect(page.get_by_label("Name", exact=True)).to_have_value("Bench lamp 2")
    page.get_by_role("button", name="Add, then state its run").click()
    page.wait_for_url("**/run")
    first, second = document(page, base)["accessories"]
    for field in ("id", "name"):
        first.pop(field), second.pop(field)
    assert first == second
