"""The trail sheet of one circuit as a template sees it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from urllib.parse import urlencode

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign, Design, Finding
from ready_trail.core.inputs import InputReading, read_inputs
from ready_trail.core.installation import Device, Terminal, Wire
from ready_trail.core.leads import maker_lead
from ready_trail.core.profile import by_place
from ready_trail.core.sizing.records import PATH_EXTRA_RATIO
from ready_trail.core.truth import TruthTable, truth_table
from ready_trail.core.wording import lower_first
from ready_trail.drawing import words
from ready_trail.drawing.fan import Fan, draw_fan
from ready_trail.drawing.scene import Trail
from ready_trail.drawing.trail import draw_trail
from ready_trail.formats.wire_csv import own_wires
from ready_trail.web.pages.inspector import (
    HoldField,
    Inspector,
    colour_words,
    inspect,
    scheme_hold,
)

KEY_WORDS = {"off": "Key off", "accessory": "Accessory", "run": "Ignition", "cranking": "Cranking"}
SIGNAL_ROW_WORDS = {
    "brake": "Brake",
    "left": "Left turn",
    "right": "Right turn",
    "reverse": "Reverse",
    "charging": "Charging",
}
LIGHT_WORDS = {"off": "Lights off", "side": "Side", "low": "Low", "high": "High"}


@dataclass(frozen=True, slots=True, kw_only=True)
class PinRow:
    """One terminal of the relay: what goes on it."""

    terminal: str
    role: str
    wire: str
    colour: str
    goes_to: str
    older: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class TruthRow:
    """One light state (or all of them): on or off in each key state, by switch position."""

    label: str
    marks: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkRow:
    """One step of the walk from post to post: what it is, what it loses, and its share."""

    ref: str
    name: str
    detail: str
    drop: str
    share: float
    on_the_way_back: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """Everything on the sheet; ``truth`` is left out of a what-if redraw."""

    design: CircuitDesign
    job: Design
    trail: Trail | None
    fan: Fan | None
    inspector: Inspector
    scheme: HoldField
    pins: tuple[PinRow, ...]
    wires: tuple[Wire, ...]
    leads: Mapping[str, str]
    walk: tuple[WalkRow, ...]
    truth: tuple[TruthRow, ...]
    truth_switch: str
    inputs: tuple[InputReading, ...]
    unsolved: int
    key_words: tuple[str, ...]
    open_findings: tuple[Finding, ...]
    quiet_findings: tuple[Finding, ...]
    query: str

    @property
    def path_limit_v(self) -> float:
        """What the whole path may lose before it is a caution. [V]"""
        request = self.design.sizing.request
        return self.design.limit_v + PATH_EXTRA_RATIO * request.supply.nominal_v


OLDER = {"86": "1", "85": "2", "30": "3", "87a": "4", "87": "5"}
"""Numbers that older relays carry on the same pins (trade)."""

_PIN_ROLES = {
    "30": "supply in",
    "87": "output, made when energised",
    "87a": "output at rest",
    "85": "coil",
    "86": "coil",
    "+": "post, battery positive",
    "-": "post, battery negative",
    "M1": "motor lead one",
    "M2": "motor lead two",
    "in": "winds in",
    "out": "winds out",
}


@lru_cache(maxsize=16)
def _truth(design: CircuitDesign, job: Design) -> TruthTable | None:
    return truth_table(design, job.plan)


def sheet_of(
    design: CircuitDesign,
    job: Design,
    catalogue: Catalogue,
    *,
    selected: str = "",
    query: dict[str, str] | None = None,
    with_truth: bool = True,
) -> Sheet:
    """Return the view of a circuit's design with one piece selected."""
    table = _truth(design, job) if with_truth else None
    loud = tuple(f for f in design.findings if f.severity != "note" and f.is_open)
    wires = own_wires(design, job)
    return Sheet(
        design=design,
        job=job,
        trail=draw_trail(design, catalogue),
        fan=draw_fan(design),
        inspector=inspect(design, job, selected, catalogue),
        scheme=scheme_hold(design),
        pins=pin_rows(design, job, catalogue),
        wires=wires,
        leads={w.label: lead for w in wires if (lead := maker_lead(w, job))},
        walk=walk_rows(design, job),
        truth=truth_rows(table) if table else (),
        truth_switch=table.switch if table else "",
        inputs=read_inputs(design, job.plan) if with_truth else (),
        unsolved=table.unsolved if table else 0,
        key_words=tuple(KEY_WORDS.values()),
        open_findings=loud,
        quiet_findings=tuple(f for f in design.findings if f not in loud),
        query=urlencode(query or {}),
    )


def pin_rows(design: CircuitDesign, job: Design, catalogue: Catalogue) -> tuple[PinRow, ...]:
    """What goes on each terminal of the relay, from the installation itself."""
    device = design.relay_device
    if device is None:
        return ()
    return terminal_rows(device, job, catalogue, _PIN_ROLES)


def terminal_rows(
    device: Device, job: Design, catalogue: Catalogue, roles: Mapping[str, str]
) -> tuple[PinRow, ...]:
    """What goes on each terminal of a device of the job."""
    rows = []
    at: dict[str, list[tuple[Wire, Terminal]]] = {}
    for wire in job.installation.wires.values():
        for end, other in ((wire.start, wire.end), (wire.end, wire.start)):
            if end.device == device.ref:
                at.setdefault(end.terminal, []).append((wire, other))
    for terminal in device.terminals:
        touching = at.get(terminal, [])
        for wire, other in touching:
            rows.append(
                PinRow(
                    terminal=device.spec.terminal_words(terminal),
                    role=roles.get(terminal, ""),
                    wire=wire.label,
                    colour=f"{wire.colour} {colour_words(wire.colour, catalogue)}",
                    goes_to=job.installation.words(other),
                    older=OLDER.get(terminal, ""),
                )
            )
        if not touching:
            rows.append(
                PinRow(
                    terminal=device.spec.terminal_words(terminal),
                    role=roles.get(terminal, ""),
                    wire="—",
                    colour="leave empty, insulate",
                    goes_to="—",
                )
            )
    return tuple(rows)


def truth_rows(table: TruthTable) -> tuple[TruthRow, ...]:
    """Fold the solved states: one row where the lights change nothing."""
    rows = []
    light_rows = LIGHT_WORDS.items() if table.lights_matter else [("off", "Any lights")]
    for signal, lights, label in _states(table, tuple(light_rows)):
        marks = []
        for key in KEY_WORDS:
            on = table.cell(key, lights, switch_on=True, signal=signal)  # type: ignore[arg-type]
            off = on
            if table.has_switch:
                off = table.cell(key, lights, switch_on=False, signal=signal)  # type: ignore[arg-type]
            if on.chatters or off.chatters:
                marks.append("chatters")
            elif on.is_on and off.is_on:
                marks.append("on")
            elif on.is_on:
                marks.append("with switch")
            else:
                marks.append("off")
        rows.append(TruthRow(label=label, marks=tuple(marks)))
    if table.enabler:
        mark = "on" if table.on_without_enabler else "off"
        rows.append(TruthRow(label=f"{table.enabler} off", marks=(mark,) * len(KEY_WORDS)))
    return tuple(rows)


def _states(
    table: TruthTable, lights: tuple[tuple[str, str], ...]
) -> Iterator[tuple[str, str, str]]:
    """Each row: a signal or none, a light state, and what to call it."""
    for signal in ("", *table.signals):
        for light, label in lights:
            if not table.signals:
                yield signal, light, label
                continue
            name = f"{SIGNAL_ROW_WORDS[signal]}" if signal else "No signal"
            yield signal, light, name if len(lights) == 1 else f"{name}, {lower_first(label)}"


def walk_rows(design: CircuitDesign, job: Design) -> tuple[WalkRow, ...]:
    """The trail as a list, for a narrow screen and for a screen reader."""
    profile, installation = design.profile, design.installation
    if profile is None or installation is None:
        return ()
    sums = by_place(profile)
    most = max(sums.values(), default=0.0) or 1.0
    back = {step.place for step in profile.back}
    rows = []
    for ref, lost_v in sums.items():
        wire = installation.wires.get(ref)
        if wire is not None:
            name = f"{wire.conductor.label} {wire.colour}"
            ends = f"{installation.words(wire.start)} → {installation.words(wire.end)}"
            detail = f"{ends}, {words.metres(wire.length_m)}"
        else:
            device = installation.devices[ref]
            name, detail = device.label, device.detail
        rows.append(
            WalkRow(
                ref=ref,
                name=name,
                detail=detail,
                drop=words.drop(lost_v),
                share=max(0.0, lost_v / most),
                on_the_way_back=ref in back,
            )
        )
    return tuple(rows)


def legend(sheet: Sheet, catalogue: Catalogue) -> tuple[tuple[str, str], ...]:
    """Every reference on the drawing with what it is and where it sits."""
    design, job = sheet.design, sheet.job
    if design.installation is None:
        return ()
    shown = {*design.out, *design.back, design.end_ref}
    shown |= {d.ref for d in (design.planned.parts.devices if design.planned.parts else ())}
    rows = []
    for device in design.installation.devices.values():
        if device.ref not in shown and not (device.spec.is_post or device.spec.is_switch):
            continue
        zone = (
            lower_first(catalogue.zones[device.zone].label)
            if device.zone in catalogue.zones
            else ""
        )
        place = placed_words(job, design, device) or zone
        rows.append((device.ref, f"{device.label}, {device.detail}{', ' if place else ''}{place}"))
    return tuple(rows)


def placed_words(job: Design, design: CircuitDesign, device: Device) -> str:
    """The layout's own name of the place where a device sits, or an empty text."""
    layout = job.job.layout
    if layout is None:
        return ""
    stated = next((c for c in job.job.circuits if c.id == design.circuit.id), None)
    place = stated.place if stated is not None else None
    spot: str | None = None
    if device.owner in job.points:
        spot = job.points[device.owner].point.place
    elif device.spec.is_switch:
        switch = job.job.switch(device.name)
        spot = switch.place if switch is not None else None
    elif place is not None and device.spec.is_load and device.owner == design.circuit.id:
        spot = place.load
    elif place is not None and device.spec.is_relay and device.owner == design.circuit.id:
        spot = place.switching
    return next((p.name for p in layout.points if p.id == spot), "")
