"""The control lane: the coil's path as one line, and the relay's base."""

from __future__ import annotations

from ready_trail.core.design import CircuitDesign
from ready_trail.core.wiring import Device, Wire
from ready_trail.drawing.band import split_colour
from ready_trail.drawing.scene import Lane, LaneWire, Part, Pin

WIDTH, HEIGHT, LINE_Y = 460.0, 82.0, 38.0
_WIDTHS = {
    "relay": 64.0,
    "switch": 48.0,
    "fuse": 36.0,
    "feed": 66.0,
    "headlamps": 70.0,
    "battery": 58.0,
}
_MARGIN = 6.0

# Base of a mini relay seen on its pins (ISO 7588-1, layout A), on a 100 by 100 field.
_PIN_PLACES = {
    "87": (50.0, 20.0, False),
    "87a": (50.0, 46.0, False),
    "86": (18.0, 46.0, True),
    "85": (82.0, 46.0, True),
    "30": (50.0, 80.0, False),
}


def draw_lane(design: CircuitDesign) -> Lane | None:
    """Place the control path from its feed to its end; None without a relay."""
    chain = _chain(design)
    if not chain:
        return None
    wires = [item for item in chain if isinstance(item, Wire)]
    fixed = sum(_width(item) for item in chain if isinstance(item, Device))
    gap = (WIDTH - 2 * _MARGIN - fixed) / max(1, len(wires))
    x = _MARGIN
    lane_wires: list[LaneWire] = []
    parts: list[Part] = []
    live = design.operating is not None and not design.operating.chatter
    for at, item in enumerate(chain):
        if isinstance(item, Wire):
            base, tracer = split_colour(item.colour)
            lane_wires.append(
                LaneWire(label=item.label, x0=x, x1=x + gap, base=base, tracer=tracer,
                         is_live=live)
            )  # fmt: skip
            x += gap
            continue
        width = _width(item)
        entry, leave = _terminals(item, design)
        kind = "coil" if item.kind == "relay" else str(item.kind)
        if at == 0:
            entry = ""
        elif at == len(chain) - 1:
            leave = ""
        if at == 0 and kind == "coil":  # the coil is fed from this relay's own 30
            kind, entry, leave = "tap", "", "30"
        parts.append(
            Part(
                ref=item.ref, kind=kind,
                title=f"{item.ref}: {item.label}, {item.detail}", x=x, y=LINE_Y, width=width,
                lines=_lines(item), left_terminal=entry, right_terminal=leave, is_live=live,
            )
        )  # fmt: skip
        x += width
    return Lane(width=WIDTH, height=HEIGHT, y=LINE_Y, wires=tuple(lane_wires), parts=tuple(parts))


def draw_pins(design: CircuitDesign) -> tuple[Pin, ...]:
    """Place the relay's blades with the wire that goes on each."""
    wiring, relay = design.wiring, design.sizing.relay
    if wiring is None or relay is None or "studs" in relay.terminals:
        return ()
    ref = f"K{design.circuit.number}"
    device = next(d for d in wiring.devices if d.ref == ref)
    pins = []
    for terminal in device.terminals:
        wires = [w.label for w in wiring.wires if _touches(w, ref, terminal)]
        x, y, upright = _PIN_PLACES[terminal]
        pins.append(
            Pin(terminal=terminal, x=x, y=y, upright=upright, wire=", ".join(wires),
                used=bool(wires))
        )  # fmt: skip
    return tuple(pins)


def _chain(design: CircuitDesign) -> list[Wire | Device]:
    wiring = design.wiring
    if wiring is None:
        return []
    devices = {d.ref: d for d in wiring.devices}
    control = [w for w in wiring.wires if w.role in ("control", "control_return")]
    chain: list[Wire | Device] = []
    for wire in control:
        if not chain:
            chain.append(devices[wire.start.device])
        chain += [wire, devices[wire.end.device]]
    return chain


def _terminals(device: Device, design: CircuitDesign) -> tuple[str, str]:
    """The numbers where the control path enters and leaves a device."""
    if device.kind == "relay":
        return "86", "85"
    wiring = design.wiring
    if wiring is None or device.kind not in ("headlamps", "switch", "battery"):
        return "", ""
    control = [w for w in wiring.wires if w.role in ("control", "control_return")]
    entry = next((w.end.terminal for w in control if w.end.device == device.ref), "")
    leave = next((w.start.terminal for w in control if w.start.device == device.ref), "")
    return entry, leave


def _lines(device: Device) -> tuple[str, ...]:
    words = {
        "fuse": (device.ref, device.label),
        "switch": (device.ref,),
        "relay": (device.ref,),
        "feed": ("Output", f"of {device.ref}")
        if device.ref.startswith("L")
        else (device.label.replace(" feed", ""), "feed"),
        "headlamps": ("Headlamps",),
        "battery": ("Battery",),
        "earth": (device.ref,),
    }
    return words.get(device.kind, (device.ref,))


def _width(device: Device) -> float:
    return 8.0 if device.kind == "earth" else _WIDTHS.get(device.kind, 48.0)


def _touches(wire: Wire, ref: str, terminal: str) -> bool:
    return any((e.device, e.terminal) == (ref, terminal) for e in (wire.start, wire.end))
