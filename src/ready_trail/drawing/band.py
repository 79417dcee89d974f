"""The band of the trail sheet: the outward path on top, the return beneath."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign
from ready_trail.core.installation import Device, Installation, Piece, Wire
from ready_trail.core.profile import by_place
from ready_trail.core.supply.tree import Tree
from ready_trail.drawing import words
from ready_trail.drawing.columns import Column, total_m, x_at_run
from ready_trail.drawing.labels import CHAR_PX, Rows, Wanted
from ready_trail.drawing.scene import Band, Hole, Part, WireRun, ZoneBand

WIDTH, HEIGHT = 760.0, 214.0
OUT_Y, BODY_Y, WIRE_BACK_Y = 96.0, 178.0, 170.0
BATTERY_X, BATTERY_W = 8.0, 66.0
LOAD_W = 74.0
AXIS_X0, AXIS_X1 = BATTERY_X + BATTERY_W, WIDTH - 8.0 - LOAD_W
TOP_ROWS = (OUT_Y - 24.0, OUT_Y - 38.0, OUT_Y - 52.0)
FOOT_ROWS = (OUT_Y + 24.0, OUT_Y + 38.0, OUT_Y + 52.0)
_LOAD_SYMBOLS = {
    "filament": "lamp",
    "constant_power": "driver",
    "motor": "motor",
    "winch": "motor",
    "resistive": "heater",
    "electronics": "box",
}
_STUB_PX_PER_ROOT_M = 75.0


def draw_band(design: CircuitDesign, columns: tuple[Column, ...], catalogue: Catalogue) -> Band:
    """Place zones, wires, devices, holes and the way back of one circuit."""
    installation = design.installation
    if installation is None:
        raise ValueError("a circuit without wiring has no band")
    drops = by_place(design.profile) if design.profile else {}
    piece_drops = _piece_drops(design)
    runs: list[WireRun] = []
    holes: list[Hole] = []
    parts: list[Part] = [_source(design, installation)]
    for column in columns:
        if column.is_wire:
            wire = installation.wires[column.ref]
            runs.append(_run(wire, column, piece_drops, installation))
            piece = wire.pieces[column.at]
            if piece.passes:
                holes.append(Hole(x=column.x1, y=OUT_Y, label=piece.passes, grommet=piece.grommet))
        else:
            parts.append(_device(installation.devices[column.ref], column))
    joints = tuple(_joints(design, columns, installation))
    parts += joints
    parts.append(_load(design, installation))
    back_runs, back_parts, body, body_note = _way_back(design, columns, drops, piece_drops)
    rows = Rows(AXIS_X0 + 2, AXIS_X1 - 2)
    for run in back_runs:  # captions of a wire back reach into the lowest row
        half = len(run.caption) * CHAR_PX / 2
        middle = (run.x0 + run.x1) / 2
        rows.block(FOOT_ROWS[-1], middle - half, middle + half)
    wanted = [
        *(Wanted(x=j.x, texts=(j.ref,), rows=TOP_ROWS[1:], look="strong") for j in joints),
        *_device_words(columns, installation, drops),
        *_wire_words(columns, installation, piece_drops),
        *(Wanted(x=h.x, texts=(h.label,), rows=FOOT_ROWS, look="dim") for h in holes),
    ]
    return Band(
        width=WIDTH,
        height=HEIGHT,
        out_y=OUT_Y,
        back_y=back_y(design),
        zones=_zones(columns, catalogue),
        wires=tuple(runs + back_runs),
        parts=tuple(parts + back_parts),
        holes=tuple(holes),
        labels=rows.place(wanted),
        body=body,
        body_note=body_note,
    )


def _joints(
    design: CircuitDesign, columns: tuple[Column, ...], installation: Installation
) -> Iterator[Part]:
    """Where the way shown leaves the trunk, or one branch for the next."""
    before = None
    for column in columns:
        wire = installation.wires.get(column.ref)
        if wire is not None and wire.branch and (before is None or wire.label != before.label):
            ref = wire.start.device
            if installation.devices[ref].spec.is_joint:
                label = installation.devices[ref].label
                yield Part(
                    ref=ref,
                    kind="joint",
                    title=f"{ref}: {label}",
                    x=column.x0,
                    y=OUT_Y,
                    width=0.0,
                    is_live=True,
                    frame="dot",
                )
        before = wire


def stroke_px(area_mm2: float) -> float:
    """Width of a wire on the drawing, by gauge."""
    return min(15.0, 3.0 + 1.9 * math.sqrt(area_mm2))


def back_y(design: CircuitDesign) -> float:
    """Where the way back is drawn: a return wire leaves room for its words beneath."""
    return BODY_Y if _ends_on_body(design) else WIRE_BACK_Y


def _ends_on_body(design: CircuitDesign) -> bool:
    """Whether the way back shown ends at an earth point on the body."""
    devices = design.installation.devices if design.installation is not None else {}
    return any(name in devices and devices[name].spec.is_earth for name in design.back)


def split_colour(colour: str) -> tuple[str, str]:
    """Base and tracer of a colour code."""
    base, _, tracer = colour.partition("/")
    return base, tracer


def _device_words(
    columns: tuple[Column, ...], installation: Installation, drops: dict[str, float]
) -> Iterator[Wanted]:
    """Name and rating above each device, its drop beneath; names first, they matter most."""
    for column in columns:
        if column.is_wire:
            continue
        device = installation.devices[column.ref]
        x = column.middle
        if device.spec.protects:
            yield Wanted(x=x, texts=(device.label,), rows=TOP_ROWS, look="plain")
            yield Wanted(x=x, texts=(device.ref,), rows=TOP_ROWS[1:] + TOP_ROWS[:1], look="strong")
        else:
            texts = (device.title, device.ref)
            yield Wanted(x=x, texts=texts, rows=TOP_ROWS[1:] + TOP_ROWS[:1], look="strong")
        lost_v = drops.get(device.ref)
        if lost_v is not None and not device.spec.is_point:
            rows = FOOT_ROWS[1:] if device.spec.has_contact else FOOT_ROWS
            yield Wanted(x=x, texts=(words.drop(lost_v),), rows=rows, look="drop")


def _wire_words(
    columns: tuple[Column, ...],
    installation: Installation,
    piece_drops: dict[tuple[str, int], float],
) -> Iterator[Wanted]:
    """Size and colour above each piece, drop and length beneath, as far as there is room."""
    for column in columns:
        if not column.is_wire:
            continue
        wire = installation.wires[column.ref]
        room = column.x1 - column.x0 - 4
        full = f"{wire.conductor.label} {wire.colour}"
        yield Wanted(
            x=column.middle,
            texts=(full, wire.conductor.label),
            rows=TOP_ROWS[:1],
            look="caption",
            most_px=room,
        )
        lost_v = piece_drops.get((wire.label, column.at))
        if lost_v is not None:
            yield Wanted(
                x=column.middle,
                texts=(words.drop(lost_v),),
                rows=FOOT_ROWS[1:],
                look="drop",
                most_px=room,
            )
        yield Wanted(
            x=column.middle,
            texts=(words.metres(wire.pieces[column.at].length_m),),
            rows=FOOT_ROWS[:1],
            look="dim",
            most_px=room,
        )


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
        bands[-1] = ZoneBand(
            zone=last.zone,
            label=last.label,
            ambient_c=last.ambient_c,
            x=last.x,
            width=WIDTH - 2.0 - last.x,
        )
    return tuple(bands)


def _zone(catalogue: Catalogue, column: Column, x: float, width: float) -> ZoneBand:
    label = catalogue.zones[column.zone].label
    return ZoneBand(zone=column.zone, label=label, ambient_c=column.ambient_c, x=x, width=width)


def _run(
    wire: Wire,
    column: Column,
    piece_drops: dict[tuple[str, int], float],
    installation: Installation,
) -> WireRun:
    drop_v = piece_drops.get((wire.label, column.at))
    length = words.metres(wire.pieces[column.at].length_m)
    note = length if drop_v is None else f"{length} · {words.drop(drop_v)}"
    base, tracer = split_colour(wire.colour)
    mark = f", marked {wire.mark}" if wire.mark else ""
    return WireRun(
        label=wire.label,
        title=f"Wire {wire.label}, {installation.words(wire.start)} to "
        f"{installation.words(wire.end)}: {wire.conductor.label} {wire.colour}{mark}, {note}",
        x0=column.x0,
        x1=column.x1,
        y=OUT_Y,
        stroke=stroke_px(wire.conductor.area_mm2),
        base=base,
        tracer=tracer,
        is_live=True,
    )


def _longest_that_fits(texts: tuple[str, ...], width: float) -> str:
    return next((text for text in texts if len(text) * CHAR_PX <= width), "")


def _source(design: CircuitDesign, installation: Installation) -> Part:
    """The battery at the left edge, or the converter or second battery of its own system."""
    profile = design.profile
    root = Tree(design.job).root(design.circuit)
    own = [
        d
        for d in installation.devices.values()
        if root is not None and root.starts_a_system and d.owner == root.id and d.spec.is_point
    ]
    device = own[0] if own else installation.devices["BAT"]
    posts = words.volts(profile.posts_v) if profile else ""
    capacity = f"{design.job.vehicle.battery.capacity_ah:g} Ah"
    return Part(
        ref=device.ref,
        kind="battery",
        title=f"{device.title}, {device.detail}",
        x=BATTERY_X,
        y=OUT_Y,
        width=BATTERY_W,
        lines=(posts, device.ref if device.ref != "BAT" else capacity),
        is_live=True,
        frame="source",
    )


def _load(design: CircuitDesign, installation: Installation) -> Part:
    profile = design.profile
    device = installation.devices[design.end_ref]
    lines = (
        words.amps(design.current_a if profile is None else profile.current_a),
        words.volts(profile.load_v) if profile else "",
    )
    symbol = "point"
    if design.accessories:
        symbol = _LOAD_SYMBOLS.get(design.accessories[0].model, "box")
    return Part(
        ref=device.ref,
        kind="load",
        title=f"{device.title}: {device.detail}",
        x=AXIS_X1,
        y=OUT_Y,
        width=LOAD_W,
        lines=lines,
        is_live=True,
        symbol=symbol,
        frame="end",
    )


def _device(device: Device, column: Column) -> Part:
    terminals = device.spec.passes()[0] if device.spec.is_relay else ("", "")
    return Part(
        ref=device.ref,
        kind="point"
        if device.spec.is_point
        else ("break_contact" if device.spec.opens_by_coil else device.kind),
        title=f"{device.ref}: {device.label}, {device.detail}",
        x=column.x0,
        y=OUT_Y,
        width=column.x1 - column.x0,
        lines=(),
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
        if step.is_wire:
            at = counts.get(step.place, 0)
            drops[(step.place, at)] = step.drop_v
            counts[step.place] = at + 1
    return drops


def _earth(ref: str, x: float, y: float) -> Part:
    """An earth point on the body, at the end of the way back."""
    title = f"{ref}: earth point on the body"
    return Part(ref=ref, kind="earth", title=title, x=x, y=y, width=0.0, lines=(ref,), frame="stub")


def _run_back(
    wire: Wire,
    piece: Piece,
    ends: str,
    span: tuple[float, float],
    drop_v: float | None,
    stub_px: float,
) -> WireRun:
    """One piece of a return wire, with what fits of its words."""
    x_from, x_to = span
    base, tracer = split_colour(wire.colour)
    length = words.metres(piece.length_m)
    drop = words.drop(drop_v) if drop_v is not None else ""
    full = f"{wire.conductor.label} {wire.colour}"
    width = abs(x_from - x_to)
    told = " · ".join(w for w in (length, drop) if w)
    return WireRun(
        label=wire.label,
        title=f"Wire {wire.label}, {ends}: {full}, {told}",
        x0=x_to,
        x1=x_from,
        y=0.0,
        stroke=stroke_px(wire.conductor.area_mm2),
        base=base,
        tracer=tracer,
        caption=_longest_that_fits((full, wire.conductor.label), width - 4),
        length=_longest_that_fits((length,), width - stub_px),
        drop=_longest_that_fits((drop,), width - stub_px) if drop else "",
        note_x=(x_from + x_to + stub_px) / 2,
        is_live=False,
    )


def _way_back(
    design: CircuitDesign,
    columns: tuple[Column, ...],
    drops: dict[str, float],
    piece_drops: dict[tuple[str, int], float],
) -> tuple[list[WireRun], list[Part], tuple[float, float] | None, str]:
    installation = design.installation
    if installation is None or not design.back:
        return [], [], None, ""
    y = back_y(design)
    runs: list[WireRun] = []
    parts: list[Part] = []
    body: tuple[float, float] | None = None
    note = ""
    spans = dict(back_spans(design, columns))
    stub_px = 14.0 if _ends_on_body(design) else 0.0  # room for the earth symbol
    for name in design.back:
        wire = installation.wires.get(name)
        if wire is None:
            device = installation.devices[name]
            if not device.spec.is_earth:
                continue  # a box that the current passes on its way out too
            x = min((span[1] for span in spans.values()), default=AXIS_X1)
            parts.append(_earth(device.ref, x, y))
            poor = "poor body path" if design.circuit.back.path == "poor" else "body"
            body, note = (AXIS_X0, x), f"{poor} · {words.drop(drops.get(device.ref, 0.0))}"
            continue
        ends = f"{installation.words(wire.start)} to {installation.words(wire.end)}"
        for at, piece in enumerate(wire.pieces):
            drop_v = piece_drops.get((wire.label, at))
            run = _run_back(wire, piece, ends, spans[(wire.label, at)], drop_v, stub_px)
            runs.append(replace(run, y=y))
    return runs, parts, body, note


def back_spans(
    design: CircuitDesign, columns: tuple[Column, ...]
) -> Iterator[tuple[tuple[str, int], tuple[float, float]]]:
    """Yield ``(wire, piece)`` with ``(from, to)`` abscissae, from the accessory back."""
    installation = design.installation
    if installation is None:
        return
    at_m = total_m(columns)
    x_from = AXIS_X1
    names = [name for name in design.back if name in installation.wires]
    for number, name in enumerate(names):
        wire = installation.wires[name]
        ends_on_body = installation.devices[wire.end.device].spec.is_earth
        if ends_on_body:
            width = min(150.0, max(72.0, _STUB_PX_PER_ROOT_M * math.sqrt(wire.length_m)))
            x_to = max(AXIS_X0 + 24.0, x_from - width)
            for at in range(len(wire.pieces)):
                yield (wire.label, at), (x_from, x_to)
            x_from = x_to
            continue
        for at, piece in enumerate(wire.pieces):
            at_m -= piece.length_m
            last = number == len(names) - 1 and at == len(wire.pieces) - 1
            x_to = AXIS_X0 if last else x_at_run(columns, max(0.0, at_m), default=AXIS_X0)
            yield (wire.label, at), (x_from, min(x_from, x_to))
            x_from = min(x_from, x_to)
