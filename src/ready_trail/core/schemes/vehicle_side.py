"""What the vehicle brings: battery, keyed feeds, lamp wires, as devices of the netlist.

Resistances of the vehicle's own wiring are house figures; coils barely load them.
"""

from __future__ import annotations

from ready_trail.core.job import Job
from ready_trail.core.loads import Load
from ready_trail.core.network import (
    BATTERY_POSITIVE,
    GROUND,
    Element,
    LoadElement,
    Resistor,
    Source,
    SwitchContact,
)
from ready_trail.core.states import (
    WITH_ACCESSORY,
    WITH_HEADLAMPS,
    WITH_HIGH,
    WITH_IGNITION,
    WITH_LOW,
    WITH_SIDE,
    Closed,
)
from ready_trail.core.wiring import Device, End

_FEED_OHM = 0.030
_LAMP_LOW_W, _LAMP_HIGH_W = 110.0, 120.0  # a pair of 55/60 W lamps
_LAMPS_ON_COMMON_W = 10.0  # other lamps that hang on a headlamp common (house)
_FEEDS: dict[str, tuple[str, str, str, Closed]] = {
    "accessory": ("ACC", "Accessory feed", "accessory", WITH_ACCESSORY),
    "run": ("IGN", "Ignition feed", "ignition", WITH_IGNITION),
    "side": ("SIDE", "Side-light feed", "illumination", WITH_SIDE),
}


def battery(job: Job) -> Device:
    """The battery, posts + and -."""
    stated = job.vehicle.battery
    return Device(
        ref="BAT",
        kind="battery",
        label="Battery",
        detail=f"{job.vehicle.nominal_v} V {stated.capacity_ah:g} Ah {stated.chemistry.upper()}",
        terminals=("+", "-"),
        at_m=0.0,
        elements=(
            Source(
                name="bat",
                a=BATTERY_POSITIVE,
                b=GROUND,
                ohm=stated.resistance_mohm * 1e-3,
            ),
        ),
    )


def known_wire(job: Job, function: str) -> str:
    """Words for the wire that the survey proved to have this function, or an empty text."""
    return next((k.words for k in job.survey.known if k.function == function), "")


def feed(job: Job, which: str) -> tuple[Device, End]:
    """A vehicle feed that is live in some states: accessory, run or side."""
    ref, label, function, closed = _FEEDS[which]
    end = End(device=ref, terminal="1")
    contact = SwitchContact(
        name=ref.lower(), a=BATTERY_POSITIVE, b=end.node, ohm=_FEED_OHM, closed=closed
    )
    device = Device(
        ref=ref, kind="feed", label=label,
        detail=known_wire(job, function) or "to be found and proved; a trigger only",
        terminals=("1",), elements=(contact,),
    )  # fmt: skip
    return device, end


def headlamps(job: Job) -> Device:
    """The headlamps with their low and high wires, switched on the side this vehicle does it."""
    vehicle = job.vehicle
    low_wire, high_wire, common = (f"hl_{terminal}" for terminal in ("low", "high", "common"))
    volts = float(vehicle.nominal_v)
    proved = [
        f"{name} {known_wire(job, function)}"
        for name, function in (("high beam", "high_beam"), ("low beam", "low_beam"))
        if known_wire(job, function)
    ]

    def lamp(name: str, watts: float, a: str, b: str) -> LoadElement:
        load = Load(model="filament", rated_a=watts / volts, rated_v=volts)
        return LoadElement(name=name, a=a, b=b, load=load)

    def contact(name: str, a: str, b: str, closed: Closed) -> SwitchContact:
        return SwitchContact(name=name, a=a, b=b, ohm=_FEED_OHM, closed=closed)

    elements: tuple[Element, ...]
    if vehicle.headlamps == "positive":
        terminals: tuple[str, ...] = ("low", "high")
        detail = "switched on the positive side"
        elements = (
            contact("hl_sw_low", BATTERY_POSITIVE, low_wire, WITH_LOW),
            contact("hl_sw_high", BATTERY_POSITIVE, high_wire, WITH_HIGH),
            lamp("hl_lamp_low", _LAMP_LOW_W, low_wire, GROUND),
            lamp("hl_lamp_high", _LAMP_HIGH_W, high_wire, GROUND),
        )
    else:
        terminals = ("common", "low", "high")
        detail = "switched on the earth side"
        always = vehicle.headlamp_common == "always"
        supply: Element = (
            Resistor(name="hl_feed", a=BATTERY_POSITIVE, b=common, ohm=_FEED_OHM, kind="vehicle")
            if always
            else contact("hl_feed", BATTERY_POSITIVE, common, WITH_HEADLAMPS)
        )
        elements = (
            supply,
            lamp("hl_other", _LAMPS_ON_COMMON_W, common, GROUND),
            lamp("hl_lamp_low", _LAMP_LOW_W, common, low_wire),
            lamp("hl_lamp_high", _LAMP_HIGH_W, common, high_wire),
            contact("hl_sw_low", low_wire, GROUND, WITH_LOW),
            contact("hl_sw_high", high_wire, GROUND, WITH_HIGH),
        )
    return Device(
        ref="HL", kind="headlamps", label="Headlamps", detail="; ".join((detail, *proved)),
        terminals=terminals, elements=elements,
    )  # fmt: skip
