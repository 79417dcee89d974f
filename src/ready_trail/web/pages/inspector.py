"""The inspector: one selected piece of the trail, its figures, its reasons, its holds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign
from ready_trail.core.loads import ENGINE_RUNNING_V, ENGINE_STOPPED_V
from ready_trail.core.network import Coil
from ready_trail.core.profile import by_place
from ready_trail.core.relays import for_nominal
from ready_trail.core.schemes import ALL
from ready_trail.core.wiring import Device, Wire
from ready_trail.drawing import words
from ready_trail.web.pages import why

Fact = tuple[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class HoldField:
    """A derived choice that can be held: its options, and what stands now."""

    what: str
    label: str
    options: tuple[tuple[str, str], ...]
    now: str
    held: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Inspector:
    """What the inspector shows of the selected piece."""

    ref: str
    kicker: str
    heading: str
    reasons: tuple[str, ...] = ()
    facts: tuple[Fact, ...] = ()
    ladder: tuple[why.LadderRow, ...] = ()
    holds: tuple[HoldField, ...] = ()
    source: str = ""
    accessory_id: str = ""
    shows_pins: bool = False


def inspect(design: CircuitDesign, ref: str, catalogue: Catalogue) -> Inspector:
    """Return the inspector for a wire or device; the wire to the accessory by default."""
    wiring = design.wiring
    if wiring is None:
        return _unwired(design, catalogue)
    for wire in wiring.wires:
        if wire.label == ref:
            return _wire(design, wire, catalogue)
    for device in wiring.devices:
        if device.ref == ref:
            return _DEVICES.get(device.kind, _plain)(design, device, catalogue)
    own = [w for w in wiring.wires if w.role == "power" and w.label.startswith("C")]
    return _wire(design, own[-1], catalogue)


def scheme_hold(design: CircuitDesign) -> HoldField:
    """The scheme as a choice that can be held."""
    options = tuple(
        (scheme.key, scheme.label)
        for scheme in ALL
        if not scheme.refusal(design.job, design.circuit, design.accessories)
        or scheme.key == design.scheme_key
    )
    return HoldField(what="scheme", label="Scheme", options=options, now=design.scheme_key,
                     held=design.circuit.held.scheme is not None)  # fmt: skip


def _unwired(design: CircuitDesign, catalogue: Catalogue) -> Inspector:
    return Inspector(
        ref="", kicker="Nothing could be sized", heading=design.circuit.name,
        reasons=("The findings say which rule stands in the way, and the ways out.",),
        holds=_wire_holds(design, catalogue),
    )  # fmt: skip


def _wire(design: CircuitDesign, wire: Wire, catalogue: Catalogue) -> Inspector:
    drops = by_place(design.profile) if design.profile else {}
    facts: list[Fact] = [
        ("Cut length", words.metres(wire.cut_length_m)),
        ("Along the route", f"{words.metres(wire.length_m)}{'' if wire.taped else ', estimated'}"),
    ]
    if wire.label in drops:
        facts.insert(0, ("Drop", words.drop(drops[wire.label])))
    feeder = design.feeder
    holds: tuple[HoldField, ...] = ()
    if wire.label.startswith("B") and feeder is not None:
        sizing, ladder = feeder.sizing, why.ladder_rows(feeder.sizing)
    elif wire.role in ("control", "control_return"):
        rules = design.job.rules
        return Inspector(
            ref=wire.label, kicker=f"{wire.label} · {wire.start} → {wire.end}",
            heading=f"{wire.conductor.label}, {colour_words(wire.colour, catalogue)}",
            reasons=(
                "It feeds only the coil: the mechanical minimum decides.",
                f"Its own {rules.control_fuse_a} A fuse protects it.",
            ),
            facts=tuple(facts), source=f"Ampacity {wire.conductor.ampacity_source}.",
        )  # fmt: skip
    else:
        sizing, holds = design.sizing, _wire_holds(design, catalogue)
        ladder = why.ladder_rows(design.sizing)
    chosen = sizing.chosen
    if chosen is not None:
        facts.append(("Hottest at full load", f"{chosen.conductor_c:.0f} °C"))
        if chosen.pigtail is not None:
            facts.append(("Pigtail at the holder", f"{chosen.pigtail.label}, at most 150 mm"))
    return Inspector(
        ref=wire.label,
        kicker=f"{wire.label} · {wire.start} → {wire.end}",
        heading=f"{wire.conductor.label}, {colour_words(wire.colour, catalogue)}",
        reasons=why.wire_reasons(sizing),
        facts=tuple(facts),
        ladder=ladder,
        holds=holds,
        source=why.wire_source(sizing),
    )


def _wire_holds(design: CircuitDesign, catalogue: Catalogue) -> tuple[HoldField, ...]:
    held, chosen = design.circuit.held, design.sizing.chosen
    rules = design.job.rules
    sizes = catalogue.wires(rules.system, rules.wire_kind)
    return (
        HoldField(
            what="size", label="Size", options=tuple((c.size, c.label) for c in sizes),
            now=chosen.conductor.size if chosen else (held.size or ""), held=held.size is not None,
        ),
        HoldField(
            what="colour", label="Colour", options=_colours(design.colour, catalogue),
            now=design.colour, held=held.colour is not None,
        ),
    )  # fmt: skip


def _colours(now: str, catalogue: Catalogue) -> tuple[tuple[str, str], ...]:
    codes = [now]
    for base in ("RD", "OG", "YE", "WH", "BU", "GN"):
        codes.append(base)
        codes += [f"{base}/{tracer}" for tracer in ("BK", "WH", "YE", "BU", "GN") if tracer != base]
    return tuple(
        (code, f"{code}, {colour_words(code, catalogue)}") for code in dict.fromkeys(codes)
    )


def colour_words(code: str, catalogue: Catalogue) -> str:
    """``red with white`` for ``RD/WH``."""
    names = [catalogue.wire_colours[part].name for part in code.split("/")]
    return " with ".join(names)


def _fuse(design: CircuitDesign, device: Device, catalogue: Catalogue) -> Inspector:
    if device.ref.endswith("T"):
        return Inspector(
            ref=device.ref, kicker=f"{device.ref} · control fuse", heading=device.label,
            reasons=("It protects the thin wire to the coil, close to where it is tapped.",),
        )  # fmt: skip
    feeder = design.feeder if device.ref == "F0" else None
    sizing = feeder.sizing if feeder else design.sizing
    fuse = sizing.fuse
    if fuse is None:
        return _plain(design, device, catalogue)
    colour = fuse.family.colours.get(fuse.rating_a)
    facts: list[Fact] = [("Family", fuse.family.label)]
    if colour:
        facts.append(("Body colour", f"{colour} (ISO 8820-3)"))
    facts.append(("Holder takes", f"{fuse.family.socket_max_mm2:g} mm²"))
    held = design.circuit.held
    holds = () if feeder else (
        HoldField(
            what="fuse_a", label="Rating", now=f"{fuse.rating_a:g}", held=held.fuse_a is not None,
            options=tuple((f"{r:g}", f"{r:g} A") for r in fuse.family.ratings_a
                          if r <= fuse.family.holder_a),
        ),
        HoldField(
            what="family", label="Family", now=fuse.family.family, held=held.family is not None,
            options=tuple((f.family, f.label) for f in catalogue.fuse_families.values()),
        ),
    )  # fmt: skip
    return Inspector(
        ref=device.ref,
        kicker=f"{device.ref} · {'main fuse' if feeder else 'branch fuse'}",
        heading=f"{words.rating(fuse.rating_a)}, {words.lower_first(fuse.family.label)}",
        reasons=why.fuse_reasons(sizing),
        facts=tuple(facts),
        holds=holds,
        source=f"{fuse.family.source}.",
    )


def _relay(design: CircuitDesign, device: Device, catalogue: Catalogue) -> Inspector:
    relay, point = design.sizing.relay, design.operating
    if relay is None:
        return _plain(design, device, catalogue)
    coil = next(e for e in device.elements if isinstance(e, Coil))
    facts: list[Fact] = [
        ("Pulls in at", f"{coil.pull_in_v:.1f} V"),
        ("Coil", f"{coil.ohm:.0f} Ω"),
        ("Suppression", relay.suppression),
    ]
    if point is not None:
        facts.insert(0, ("Coil gets", words.volts(abs(point.between_v(coil.a, coil.b)))))
    options = tuple(
        (key, for_nominal(r, design.job.vehicle.nominal_v).label)
        for key, r in catalogue.relays.items()
    )
    hold = HoldField(what="relay", label="Relay", options=options, now=relay.key,
                     held=design.circuit.held.relay is not None)  # fmt: skip
    return Inspector(
        ref=device.ref, kicker=f"{device.ref} · relay", heading=relay.label,
        reasons=why.relay_reasons(design.sizing), facts=tuple(facts), holds=(hold,),
        source=f"Figures {relay.source}; the maker's datasheet wins.", shows_pins=True,
    )  # fmt: skip


def _load(design: CircuitDesign, device: Device, catalogue: Catalogue) -> Inspector:
    accessory = design.accessories[0]
    profile = design.profile
    facts: list[Fact] = [
        ("Label", device.detail),
        ("Model", accessory.model.replace("_", " ")),
        ("Duty", accessory.duty),
        ("Drop class", accessory.drop_class),
    ]
    if profile is not None:
        facts.insert(0, ("Gets", words.volts(profile.load_v)))
    return Inspector(
        ref=device.ref, kicker=f"{device.ref} · accessory", heading=device.label,
        reasons=(_current_reason(design),), facts=tuple(facts), accessory_id=accessory.id,
    )  # fmt: skip


def _current_reason(design: CircuitDesign) -> str:
    accessory = design.accessories[0]
    current = words.amps(design.current_a)
    if accessory.model == "winch":
        return f"At 60 % of its rated pull it draws {current}; drop is judged there."
    if accessory.model != "constant_power" or accessory.watts is None:
        return f"It is designed for {current}, as its label states."
    low_v = ENGINE_RUNNING_V if accessory.use.engine_only else ENGINE_STOPPED_V
    low_v *= design.job.vehicle.nominal_v / 12
    when = "with the engine running" if accessory.use.engine_only else "on the battery alone"
    return (
        f"A constant-power load draws more as the voltage falls: {accessory.rated_w:.0f} W at "
        f"{low_v:g} V, {when}, is {current}."
    )


def _plain(design: CircuitDesign, device: Device, catalogue: Catalogue) -> Inspector:
    facts: list[Fact] = [("Detail", device.detail)]
    if device.zone in catalogue.zones:
        facts.append(("Zone", catalogue.zones[device.zone].label))
    return Inspector(ref=device.ref, kicker=device.ref, heading=device.label, facts=tuple(facts))


_DEVICES: dict[str, Callable[[CircuitDesign, Device, Catalogue], Inspector]] = {
    "fuse": _fuse,
    "relay": _relay,
    "load": _load,
}
