"""The band of the trail sheet: the outward path on top, the return beneath."""

from __future__ import annotations

import math

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign
from ready_trail.core.profile import by_place
from ready_trail.core.wiring import Device, Wire
from ready_trail.drawing import words
from ready_trail.drawing.columns import Column, x_at_run
from ready_trail.drawing.scene import Band, Hole, Part, WireRun, ZoneBand

WIDTH, HEIGHT = 760.0, 214.0
OUT_Y, BODY_Y, WIRE_BACK_Y = 96.0, 178.0, 170.0
BATTERY_X, BATTERY_W = 8.0, 66.0
LOAD_W = 74.0
AXIS_X0, AXIS_X1 = BATTERY_X + BATTERY_W, WIDTH - 8.0 - LOAD_W
_LOAD_SYMBOLS = {
    "filament": "lamp", "constant_power": "driver", "motor": "motor", "winch": "motor",
    "resistive": "heater", "electronics": "box",
}  # fmt: skip
_STUB_PX_PER_ROOT_M = 75.0
_CHAR = 7.1  # advance of a figure in the drawing's mono type at 12 px


def draw_band(design: CircuitDesign, columns: tuple[Column, ...], catalogue: Catalogue) -> Band:
    """Place zones, wires, devices, holes and the way back of one circuit."""
    wiring = design.wiring
    if wiring is None:
        raise ValueError("a circuit without wiring has no band")
    drops = by_place(design.profile) if design.profile else {}
    piece_drops = _piece_drops(design)
    wires = {w.label: w for w in wiring.wires}
    devices = {d.ref: d for d in wiring.devices}
    runs: list[WireRun] = []
    holes: list[Hole] = []
    parts: list[Part] = [_battery(design, devices["BAT"])]
    for column in columns:
        if column.kind == "wire":
            wire = wires[column.ref]
            runs.append(_run(wire, column, piece_drops))
            piece = wire.pieces[column.at]
            if piece.passes:
                holes.append(Hole(x=column.x1, y=OUT_Y, label=piece.passes, grommet=piece.grommet))
        else:
            parts.append(_device(devices[column.ref], column, drops))
    parts.append(_load(design, devices[f"L{design.circuit.number}"]))
    back_runs, back_parts, body, body_note = _way_back(design, columns, drops, piece_drops)
    return Band(
        width=WIDTH,
        height=HEIGHT,
        out_y=OUT_Y,
        back_y=back_y(design),
        zones=_zones(columns, catalogue),
        wires=tuple(runs + back_runs),
        parts=tuple(parts + back_parts),
        holes=tuple(holes),
        body=body,
        body_note=body_note,
    )


def stroke_px(area_mm2: float) -> float:
    """Width of a wire on the drawing, by gauge."""
    return min(15.0, 3.0 + 1.9 * math.sqrt(area_mm2))


def back_y(design: CircuitDesign) -> float:
    """Where the way back is drawn: a return wire leaves room for its words beneath."""
    return WIRE_BACK_Y if design.circuit.back.kind == "wire" else BODY_Y


def split_colour(colour: str) -> tuple[str, str]:
    """Base and tracer of a colour code."""
    base, _, tracer = colour.partition("/")
    return base, tracer


def _zones(columns: tuple[Column, ...], catalogue: Catalogue) -> tuple[ZoneBand, ...]:
    bands: list[ZoneBand] = []
    for column in columns:
        last = bands[-1] if bands else None
        if last and (last.zone, last.ambient_c) == (column.zone, column.ambient_c):
            bands[-1] = _zone(catalogue, column, last.x, column.x1 - last.x)
        else:
            begin = 2.0 if last is None else column.x0
            bands.append(_zone(catalogue, column, begin, column.x1 - begin))
    if bands:
        last = bands[-1]
        bands[-1] = ZoneBand(zone=last.zone, label=last.label, ambient_c=last.ambient_c,
                             x=last.x, width=WIDTH - 2.0 - last.x)  # fmt: skip
    return tuple(bands)


def _zone(catalogue: Catalogue, column: Column, x: float, width: float) -> ZoneBand:
    label = catalogue.zones[column.zone].label
    return ZoneBand(zone=column.zone, label=label, ambient_c=column.ambient_c, x=x, width=width)


def _run(wire: Wire, column: Column, piece_drops: dict[tuple[str, int], float]) -> WireRun:
    piece = wire.pieces[column.at]
    width = column.x1 - column.x0
    size = wire.conductor.label
    drop_v = piece_drops.get((wire.label, column.at))
    length = words.metres(piece.length_m)
    full = f"{size} {wire.colour}"
    note = length if drop_v is None else f"{length} · {words.drop(drop_v)}"
    base, tracer = split_colour(wire.colour)
    return WireRun(
        label=wire.label,
        title=f"Wire {wire.label}, {wire.start} to {wire.end}: {full}, {note}",
        x0=column.x0,
        x1=column.x1,
        y=OUT_Y,
        stroke=stroke_px(wire.conductor.area_mm2),
        base=base,
        tracer=tracer,
        caption=_longest_that_fits((full, size), width - 4),
        length=_longest_that_fits((length,), width + 4),
        drop=_longest_that_fits((words.drop(drop_v),), width + 4) if drop_v is not None else "",
        note_x=column.middle,
        is_live=True,
    )


def _longest_that_fits(texts: tuple[str, ...], width: float) -> str:
    return next((text for text in texts if len(text) * _CHAR <= width), "")


def _battery(design: CircuitDesign, device: Device) -> Part:
    profile = design.profile
    posts = words.volts(profile.posts_v) if profile else ""
    capacity = f"{design.job.vehicle.battery.capacity_ah:g} Ah"
    return Part(
        ref="BAT", kind="battery", title=f"{device.label}, {device.detail}",
        x=BATTERY_X, y=OUT_Y, width=BATTERY_W, lines=(posts, capacity), is_live=True,
    )  # fmt: skip


def _load(design: CircuitDesign, device: Device) -> Part:
    profile = design.profile
    lines = (
        words.amps(design.current_a if profile is None else profile.current_a),
        words.volts(profile.load_v) if profile else "",
    )
    return Part(
        ref=device.ref, kind="load", title=f"{device.label}: {device.detail}",
        x=AXIS_X1, y=OUT_Y, width=LOAD_W, lines=lines, is_live=True,
        symbol=_LOAD_SYMBOLS.get(design.accessories[0].model, "box"),
    )  # fmt: skip


def _device(device: Device, column: Column, drops: dict[str, float]) -> Part:
    lines = {
        "fuse": (device.ref, device.label),
        "block": (device.ref,),
        "relay": (device.ref,),
        "switch": (device.ref,),
    }.get(device.kind, (device.ref,))
    terminals = ("30", "87") if device.kind == "relay" else ("", "")
    drop_v = drops.get(device.ref)
    return Part(
        ref=device.ref,
        kind=device.kind,
        title=f"{device.ref}: {device.label}, {device.detail}",
        x=column.x0,
        y=OUT_Y,
        width=column.x1 - column.x0,
        lines=lines,
        note="" if drop_v is None or device.kind == "block" else words.drop(drop_v),
        left_terminal=terminals[0],
        right_terminal=terminals[1],
        is_live=True,
    )


def _piece_drops(design: CircuitDesign) -> dict[tuple[str, int], float]:
    """Solved drop of each piece of wire, by wire label and place in the wire."""
    profile = design.profile
    counts: dict[str, int] = {}
    drops: dict[tuple[str, int], float] = {}
    for step in (*profile.outward, *profile.back) if profile else ():
        if step.kind == "wire":
            at = counts.get(step.place, 0)
            drops[(step.place, at)] = step.drop_v
            counts[step.place] = at + 1
    return drops


def _way_back(
    design: CircuitDesign,
    columns: tuple[Column, ...],
    drops: dict[str, float],
    piece_drops: dict[tuple[str, int], float],
) -> tuple[list[WireRun], list[Part], tuple[float, float] | None, str]:
    wiring = design.wiring
    if wiring is None:
        return [], [], None, ""
    wire = next(w for w in wiring.wires if w.role == "return")
    spans = back_spans(design, columns)
    stub_px = 14.0 if design.circuit.back.kind == "chassis" else 0.0  # room for the earth symbol
    runs = []
    for at, (x_from, x_to) in enumerate(spans):
        piece = wire.pieces[at]
        base, tracer = split_colour(wire.colour)
        drop_v = piece_drops.get((wire.label, at))
        length = words.metres(piece.length_m)
        note = length if drop_v is None else f"{length} · {words.drop(drop_v)}"
        full = f"{wire.conductor.label} {wire.colour}"
        width = abs(x_from - x_to)
        runs.append(
            WireRun(
                label=wire.label,
                title=f"Wire {wire.label}, {wire.start} to {wire.end}: {full}, {note}",
                x0=x_to, x1=x_from, y=back_y(design),
                stroke=stroke_px(wire.conductor.area_mm2), base=base, tracer=tracer,
                caption=_longest_that_fits((full, wire.conductor.label), width - 4),
                length=_longest_that_fits((length,), width - stub_px),
                drop=_longest_that_fits((words.drop(drop_v),), width - stub_px)
                if drop_v is not None else "",
                note_x=(x_from + x_to + stub_px) / 2, is_live=False,
            )
        )  # fmt: skip
    if design.circuit.back.kind == "wire":
        return runs, [], None, ""
    ref = f"G{design.circuit.number}"
    earth_x = spans[-1][1]
    part = Part(ref=ref, kind="earth", title=f"{ref}: earth point on the body", x=earth_x,
                y=BODY_Y, width=0.0, lines=(ref,))  # fmt: skip
    note = "poor body path" if design.circuit.back.path == "poor" else "body"
    return runs, [part], (AXIS_X0, earth_x), f"{note} · {words.drop(drops.get(ref, 0.0))}"


def back_spans(
    design: CircuitDesign, columns: tuple[Column, ...]
) -> tuple[tuple[float, float], ...]:
    """Return ``(from, to)`` abscissae of the return wire's pieces, from the accessory back."""
    wiring = design.wiring
    if wiring is None:
        return ()
    wire = next(w for w in wiring.wires if w.role == "return")
    if design.circuit.back.kind == "chassis":
        width = max(72.0, _STUB_PX_PER_ROOT_M * math.sqrt(wire.length_m))
        return ((AXIS_X1, AXIS_X1 - min(width, 150.0)),)
    spans = []
    at_m = design.circuit.run_m
    x_from = AXIS_X1
    for at, piece in enumerate(wire.pieces):
        at_m -= piece.length_m
        last = at == len(wire.pieces) - 1
        x_to = AXIS_X0 if last else x_at_run(columns, at_m, default=AXIS_X0)
        spans.append((x_from, x_to))
        x_from = x_to
    return tuple(spans)
