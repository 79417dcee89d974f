"""Whole systems through the pages: a disconnect, a module, a winch, a lamp with two sides."""

from __future__ import annotations

from typing import Any

from playwright.sync_api import Locator, Page, expect


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


def press(page: Page, button: Locator) -> None:
    """Press what stores something, and wait until it is stored."""
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        button.click()


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
    page.get_by_label("or amps", exact=True).fill("210")
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
        page.locator(f"#f-kit-leads-{at}-name").fill(f"Lead {at + 1}")
        page.locator(f"#f-kit-leads-{at}-start").select_option("relay_87")
        page.locator(f"#f-kit-leads-{at}-end").select_option("plus")
        page.locator(f"#f-kit-leads-{at}-wire").select_option("awg 10")
        page.locator(f"#f-kit-leads-{at}-length_m").fill("9")
        page.locator(f"#f-kit-leads-{at}-insulation_c").select_option("105")
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


def test_a_moved_battery_and_a_charging_lead_are_points_like_any_other(page: Page) -> None:
    base = new_job(page, "Moved battery")
    add_accessory(page, base, "Bench lamp", "25", "Bench")
    add_point(page, base, "Battery moved away: main post where it stood")
    post = document(page, base)["points"][0]
    feeder = next(c for c in document(page, base)["circuits"] if c["feeds"] == post["id"])
    assert (post["kind"], feeder["end_fuse"]) == ("main_post", True)
    page.goto(f"{base}/circuits/{feeder['id']}/run")
    page.locator("#run-0-length").fill("4.5")
    page.get_by_role("button", name="Save the run").click()
    add_point(page, base, "Charging lead of the alternator")
    page.get_by_label("The factory's lead").select_option(label="stays: this one beside it")
    page.get_by_role("button", name="Save").click()
    page.goto(f"{base}/review")
    expect(page.locator("#page")).to_contain_text("No stop is open")
    page.goto(f"{base}/build?view=steps")
    expect(page.locator("#page")).to_contain_text("Seat the battery in its new place")
    page.goto(f"{base}/drawing?key=run")
    expect(page.locator("#page")).to_contain_text("Main post")


def test_a_relay_stands_in_a_cut_wire_of_the_vehicle(page: Page) -> None:
    base = new_job(page, "Cut wire")
    add_point(page, base, "Cut wire behind a 15 A factory fuse")
    add_accessory(page, base, "Step lamps", "20", "Steps")
    circuit = document(page, base)["circuits"][0]
    point = document(page, base)["points"][0]
    page.goto(f"{base}/supply")
    page.get_by_text("Move a circuit by list").click()
    page.locator("#move-circuit").select_option(circuit["id"])
    page.locator("#move-start").select_option(f"{point['id']}:1")
    page.get_by_role("button", name="Move it", exact=True).click()
    page.goto(f"{base}/circuits/{circuit['id']}")
    expect(page.locator("#page")).to_contain_text("Relay in a cut wire of the vehicle")
    page.goto(f"{base}/review")
    expect(page.locator("#page")).to_contain_text("No stop is open")


def test_a_relay_block_holds_its_relays_and_counts_its_fuses(page: Page) -> None:
    base = new_job(page, "Relay block")
    add_point(page, base, "Fuse and relay block of four")
    for name in ("Dome lamps", "Step lamps"):
        add_accessory(page, base, name, "90", name)
    job = document(page, base)
    starts = [c["start"]["point"] for c in job["circuits"] if c["accessory_ids"]]
    assert starts == [job["points"][0]["id"]] * 2
    page.goto(f"{base}/supply")
    box = page.locator(f"#box-{job['points'][0]['id']}")
    expect(box).to_contain_text("Fuses 30 A in sum")
    page.goto(f"{base}/build?view=parts")
    expect(page.locator("#page")).not_to_contain_text("Socket for mini relay")


def test_a_wire_may_feed_its_function_and_the_table_says_so(page: Page) -> None:
    base = new_job(page, "Function wires")
    page.goto(f"{base}/accessories?add=1#form")
    page.get_by_label("Name", exact=True).fill("Row flasher")
    page.get_by_label("Watts", exact=True).fill("24")
    page.locator("#behaves > summary").click()
    page.get_by_label("Wire", exact=True).first.fill("Steady")
    page.get_by_label("Feeds itself").first.fill("12")
    page.get_by_role("button", name="Add, then state its run").click()
    page.wait_for_url("**/run")
    wire = document(page, base)["accessories"][0]["inputs"][0]
    assert (wire["name"], wire["powers_w"]) == ("Steady", 12)
    page.goto(f"{base}/accessories/{document(page, base)['accessories'][0]['id']}#form")
    page.locator("#behaves > summary").click()
    page.get_by_label("Pattern", exact=True).first.fill("Slow")
    page.get_by_label("Wires, with commas").first.fill("Steady")
    page.get_by_label("up to").first.fill("3")
    press(page, page.get_by_role("button", name="Save", exact=True))
    mode = document(page, base)["accessories"][0]["modes"][0]
    assert (mode["wires"], mode["most_s"]) == (["Steady"], 3)


def test_a_trailer_socket_goes_on_the_isolator_that_is_there(page: Page) -> None:
    base = new_job(page, "Trailer")
    page.goto(f"{base}/brief")
    page.get_by_label("Electrical system").select_option("supervised")
    page.get_by_role("button", name="Save vehicle").click()
    add_point(page, base, "Signal isolator with four outputs")
    page.goto(f"{base}/accessories?preset=trailer_socket#form")
    expect(page.locator("#f-outputs-2-on_with")).to_have_value("brake")
    page.get_by_role("button", name="Add, then state its run").click()
    page.wait_for_url("**/accessories/**")
    uses = {c["output"]: c["use"] for c in document(page, base)["circuits"] if c["output"]}
    assert {n: u["signal"] or u["lights"] for n, u in uses.items()} == {
        "left": "left",
        "right": "right",
        "brake": "brake",
        "left tail": "side",
        "right tail": "side",
    }
    page.goto(f"{base}/review")
    first = page.locator(".finding", has_text="The coil draws on the brake-light wire").first
    press(page, first.get_by_role("button", name="Move it to"))
    job = document(page, base)
    brake = next(c for c in job["circuits"] if c["output"] == "brake")
    assert brake["start"]["point"] == job["points"][0]["id"]


def test_one_press_gives_the_whole_job_one_earth_strategy(page: Page) -> None:
    base = new_job(page, "Earths")
    for name in ("Left lamp", "Right lamp"):
        add_accessory(page, base, name, "40", name)
    page.goto(f"{base}/supply")
    page.get_by_text("One way of earthing for all accessories").click()
    press(page, page.get_by_role("button", name="Home to the battery"))
    backs = [c["back"]["kind"] for c in document(page, base)["circuits"]]
    assert backs == ["wire", "wire"]


def test_what_a_maker_says_of_a_terminal_reaches_the_cut_list(page: Page) -> None:
    base = new_job(page, "Ends")
    page.goto(f"{base}/accessories?add=1#form")
    page.get_by_label("Name", exact=True).fill("Echo board")
    page.get_by_label("Watts", exact=True).fill("240")
    page.locator("#behaves > summary").click()
    page.get_by_label("At its own terminals").select_option("ferrule")
    page.get_by_label("Takes at most").fill("0,5")
    page.get_by_role("button", name="Add, then state its run").click()
    page.wait_for_url("**/run")
    page.goto(f"{base}/review")
    expect(page.locator("#page")).to_contain_text("does not take this wire")
