"""The control lane: the coil's path as one line, and the relay's base."""

from __future__ import annotations

from collections.abc import Sequence

from ready_trail.core.design import CircuitDesign
from ready_trail.core.installation import Device, Installation, Terminal, Wire
from ready_trail.drawing.band import split_colour
from ready_trail.drawing.labels import Rows, Wanted
from ready_trail.drawing.scene import Lane, LaneWire, Part, Pin

WIDTH, HEIGHT, LINE_Y = 460.0, 96.0, 44.0
_WIDTHS = {
    "relay": 60.0,
    "reversing": 60.0,
    "diode": 28.0,
    "controller": 40.0,
    "switch": 48.0,
    "fuse": 36.0,
    "feed": 40.0,
    "headlamps": 40.0,
    "battery": 40.0,
    "load": 40.0,
}
_POINT_WIDTH = 40.0
_MARGIN = 6.0
_FOOT_ROWS = (LINE_Y + 33.0, LINE_Y + 47.0)
_HEAD_ROWS = (LINE_Y - 27.0,)
_PIN_ROW = LINE_Y - 22.0

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
    return _drawn(design, control_chain(design))


def draw_side_lane(design: CircuitDesign) -> Lane | None:
    """Place what else feeds the same coil, up to where it joins; None where nothing does."""
    return _drawn(design, side_chain(design))


def _drawn(design: CircuitDesign, chain: list[Wire | Device]) -> Lane | None:
    installation = design.installation
    if not chain or installation is None:
        return None
    wires = [item for item in chain if isinstance(item, Wire)]
    fixed = sum(_width(item) for item in chain if isinstance(item, Device))
    gap = max(8.0, (WIDTH - 2 * _MARGIN - fixed) / max(1, len(wires)))
    x = _MARGIN
    lane_wires: list[LaneWire] = []
    parts: list[Part] = []
    wanted: list[Wanted] = []
    live = design.operating is not None and not design.operating.chatter
    for at, item in enumerate(chain):
        if isinstance(item, Wire):
            base, tracer = split_colour(item.colour)
            title = (
                f"Wire {item.label}, {installation.words(item.start)} to "
                f"{installation.words(item.end)}: {item.conductor.label} {item.colour}"
            )
            lane_wires.append(
                LaneWire(
                    label=item.label,
                    title=title,
                    x0=x,
                    x1=x + gap,
                    base=base,
                    tracer=tracer,
                    is_live=live,
                )
            )
            x += gap
            continue
        width = _width(item)
        entry = _touch(chain, at, before=True, device=item)
        leave = _touch(chain, at, before=False, device=item)
        title = f"{item.title}: {item.label}, {item.detail}"
        parts.append(
            Part(
                ref=item.ref,
                kind=_drawn_as(item, at),
                title=title,
                x=x,
                y=LINE_Y,
                width=width,
                is_live=live,
            )
        )
        wanted += _words(item, x, width, entry, leave)
        x += width
    labels = Rows(2.0, WIDTH - 2.0).place(wanted)
    return Lane(
        width=WIDTH,
        height=HEIGHT,
        y=LINE_Y,
        wires=tuple(lane_wires),
        parts=tuple(parts),
        labels=labels,
    )


def draw_pins(design: CircuitDesign) -> tuple[Pin, ...]:
    """Place the relay's blades with the wire that goes on each."""
    relay, device, installation = design.sizing.relay, design.relay_device, design.installation
    if installation is None or device is None or relay is None or relay.stud:
        return ()
    pins = []
    for terminal in device.terminals:
        wires = [
            w.label
            for w in installation.wires.values()
            if any((e.device, e.terminal) == (device.ref, terminal) for e in (w.start, w.end))
        ]
        x, y, upright = _PIN_PLACES[terminal]
        pins.append(
            Pin(
                terminal=terminal,
                x=x,
                y=y,
                upright=upright,
                wire=", ".join(wires),
                used=bool(wires),
            )
        )
    return tuple(pins)


def control_chain(design: CircuitDesign) -> list[Wire | Device]:
    """Return the coil's path from its feed to its end, through switches and fuses on the way."""
    installation, relay = design.installation, design.relay_device
    if installation is None or relay is None:
        return []
    control = [w for w in installation.wires.values() if w.is_control]
    before = _follow(installation, control, Terminal(device=relay.ref, terminal=relay.spec.coil))
    after = _follow(installation, control, Terminal(device=relay.ref, terminal="85"))
    return [*reversed(before), relay, *after] if before or after else []


def side_chain(design: CircuitDesign) -> list[Wire | Device]:
    """Return a second path to the coil, from its feed to the device at which it joins the first."""
    installation = design.installation
    main = control_chain(design)
    if installation is None or not main:
        return []
    told = {item.label for item in main if isinstance(item, Wire)}
    left = [w for w in installation.wires.values() if w.is_control and w.label not in told]
    for wire in (item for item in main if isinstance(item, Wire)):
        for end in (wire.start, wire.end):
            device = installation.devices[end.device]
            beside = [w for w in left if end in (w.start, w.end)]
            if beside and (device.spec.is_switch or device.spec.is_relay):
                return [*reversed(_follow(installation, left, end)), device]
    return []


def _follow(installation: Installation, control: list[Wire], at: Terminal) -> list[Wire | Device]:
    """Walk control wires away from a terminal, to the first device that they do not pass."""
    found: list[Wire | Device] = []
    left = list(control)
    while True:
        wire = next((w for w in left if at in (w.start, w.end)), None)
        if wire is None:
            return found
        left.remove(wire)
        end = wire.end if wire.start == at else wire.start
        device = installation.devices[end.device]
        found += [wire, device]
        if not device.spec.lets_control_pass:
            return found
        beyond = (e for w in left for e in (w.start, w.end) if e.device == device.ref)
        at = next((e for e in beyond if e.terminal != end.terminal), end)


def _drawn_as(item: Device, at: int) -> str:
    """Which symbol stands for a device: of a relay its coil, or its own 30 that feeds it."""
    if item.spec.is_relay:
        return "coil" if at else "tap"
    return "point" if item.spec.is_point else item.kind


def _words(item: Device, x: float, width: float, entry: str, leave: str) -> list[Wanted]:
    middle = x + (0 if item.spec.is_earth else width / 2)
    names = (item.title, item.ref) if item.name else (item.ref,)
    found = [Wanted(x=middle, texts=names, rows=_FOOT_ROWS, look="strong")]
    if item.spec.sits_in_holder:
        found.append(Wanted(x=middle, texts=(item.label,), rows=_HEAD_ROWS, look="plain"))
    several = item.spec.is_switch and leave in "I II"
    if item.spec.is_relay or item.spec.is_load or len(item.spec.signals) > 1 or several:
        for terminal, at in ((entry, x + 4), (leave, x + width - 4)):
            if terminal:
                found.append(Wanted(x=at, texts=(terminal,), rows=(_PIN_ROW,), look="pin"))
    return found


def _touch(chain: list[Wire | Device], at: int, *, before: bool, device: Device) -> str:
    """The terminal where the control path enters or leaves a device."""
    other = at - 1 if before else at + 1
    if not 0 <= other < len(chain):
        return ""
    wire = chain[other]
    if not isinstance(wire, Wire):
        return ""
    end = wire.end if before else wire.start
    return end.terminal if end.device == device.ref else ""


def _width(device: Device) -> float:
    return 8.0 if device.spec.is_earth else _WIDTHS.get(device.kind, _POINT_WIDTH)


def face_pins(letters: Sequence[tuple[str, str]]) -> tuple[Pin, ...]:
    """Return a base with a letter on each terminal instead of its number."""
    pins = []
    for letter, terminal in letters:
        x, y, upright = _PIN_PLACES[terminal]
        pins.append(Pin(terminal=letter, x=x, y=y, upright=upright, wire="", used=True))
    return tuple(pins)
