"""The trail sheet of one circuit as a template sees it."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign, Finding
from ready_trail.core.profile import by_place
from ready_trail.core.sizing.records import PATH_EXTRA_RATIO
from ready_trail.core.truth import TruthTable, truth_table
from ready_trail.core.wiring import Wire
from ready_trail.drawing import words
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

KEY_WORDS = {"off": "Key off", "accessory": "Accessory", "run": "Run", "cranking": "Cranking"}
LIGHT_WORDS = {"off": "Lights off", "side": "Side", "low": "Low", "high": "High"}


@dataclass(frozen=True, slots=True, kw_only=True)
class PinRow:
    """One terminal of the relay: what goes on it."""

    terminal: str
    role: str
    wire: str
    colour: str
    goes_to: str


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
    trail: Trail | None
    inspector: Inspector
    scheme: HoldField
    pins: tuple[PinRow, ...]
    wires: tuple[Wire, ...]
    walk: tuple[WalkRow, ...]
    truth: tuple[TruthRow, ...]
    key_words: tuple[str, ...]
    open_findings: tuple[Finding, ...]
    quiet_findings: tuple[Finding, ...]
    query: str

    @property
    def path_limit_v(self) -> float:
        """What the whole path may lose before it is a caution. [V]"""
        request = self.design.sizing.request
        return request.drop_limit_v + PATH_EXTRA_RATIO * request.nominal_v


_PIN_ROLES = {
    "30": "supply in",
    "87": "output, made when energised",
    "87a": "output at rest",
    "85": "coil",
    "86": "coil",
}


def sheet_of(
    design: CircuitDesign,
    catalogue: Catalogue,
    *,
    selected: str = "",
    query: dict[str, str] | None = None,
    with_truth: bool = True,
) -> Sheet:
    """Return the view of a circuit's design with one piece selected."""
    table = truth_table(design) if with_truth else None
    loud = tuple(f for f in design.findings if f.severity != "note" and f.is_open)
    return Sheet(
        design=design,
        trail=draw_trail(design, catalogue),
        inspector=inspect(design, selected, catalogue),
        scheme=scheme_hold(design),
        pins=pin_rows(design, catalogue),
        wires=own_wires(design),
        walk=walk_rows(design),
        truth=truth_rows(table) if table else (),
        key_words=tuple(KEY_WORDS.values()),
        open_findings=loud,
        quiet_findings=tuple(f for f in design.findings if f not in loud),
        query=urlencode(query or {}),
    )


def pin_rows(design: CircuitDesign, catalogue: Catalogue) -> tuple[PinRow, ...]:
    """What goes on each terminal of the relay, from the wiring itself."""
    if design.wiring is None:
        return ()
    ref = f"K{design.circuit.number}"
    device = next((d for d in design.wiring.devices if d.ref == ref), None)
    if device is None:
        return ()
    rows = []
    for terminal in device.terminals:
        touching = [
            (wire, wire.end if str(wire.start) == f"{ref} {terminal}" else wire.start)
            for wire in design.wiring.wires
            if f"{ref} {terminal}" in (str(wire.start), str(wire.end))
        ]
        for wire, other in touching:
            rows.append(
                PinRow(terminal=terminal, role=_PIN_ROLES.get(terminal, ""), wire=wire.label,
                       colour=f"{wire.colour} {colour_words(wire.colour, catalogue)}",
                       goes_to=str(other))
            )  # fmt: skip
        if not touching:
            rows.append(PinRow(terminal=terminal, role=_PIN_ROLES.get(terminal, ""), wire="—",
                               colour="leave empty, insulate", goes_to="—"))  # fmt: skip
    return tuple(rows)


def truth_rows(table: TruthTable) -> tuple[TruthRow, ...]:
    """Fold the solved states: one row where the lights change nothing."""
    rows = []
    for lights, label in LIGHT_WORDS.items() if table.lights_matter else [("off", "Any lights")]:
        marks = []
        for key in KEY_WORDS:
            on = table.cell(key, lights, switch_on=True)  # type: ignore[arg-type]
            off = table.cell(key, lights, switch_on=False) if table.has_switch else on  # type: ignore[arg-type]
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


def walk_rows(design: CircuitDesign) -> tuple[WalkRow, ...]:
    """The trail as a list, for a narrow screen and for a screen reader."""
    profile, wiring = design.profile, design.wiring
    if profile is None or wiring is None:
        return ()
    wires = {w.label: w for w in wiring.wires}
    devices = {d.ref: d for d in wiring.devices}
    sums = by_place(profile)
    most = max(sums.values(), default=0.0) or 1.0
    back = {step.place for step in profile.back}
    rows = []
    for ref, lost_v in sums.items():
        if ref in wires:
            wire = wires[ref]
            name = f"{wire.conductor.label} {wire.colour}"
            detail = f"{wire.start} → {wire.end}, {words.metres(wire.length_m)}"
        else:
            device = devices[ref]
            name, detail = device.label, device.detail
        rows.append(
            WalkRow(ref=ref, name=name, detail=detail, drop=words.drop(lost_v),
                    share=max(0.0, lost_v / most), on_the_way_back=ref in back)
        )  # fmt: skip
    return tuple(rows)


def legend(design: CircuitDesign) -> tuple[tuple[str, str], ...]:
    """Every reference on the drawing with what it is and where it sits."""
    if design.wiring is None:
        return ()
    rows = []
    for device in design.wiring.devices:
        place = f", {device.zone.replace('_', ' ')}" if device.zone else ""
        rows.append((device.ref, f"{device.label}, {device.detail}{place}"))
    return tuple(rows)
