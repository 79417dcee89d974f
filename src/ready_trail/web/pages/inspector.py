"""The inspector: one selected piece of the trail, its figures, its reasons, its holds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from ready_trail.core.asking import ask_of
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import Action, CircuitDesign, Design
from ready_trail.core.edits import FitCoilResistor
from ready_trail.core.installation import Device, Wire
from ready_trail.core.job import Circuit
from ready_trail.core.kinds.base import DeviceKind
from ready_trail.core.loads import ENGINE_RUNNING_V, ENGINE_STOPPED_V
from ready_trail.core.netlist import Coil
from ready_trail.core.outcome import Outlet
from ready_trail.core.profile import by_place
from ready_trail.core.relays import with_coil_for
from ready_trail.core.schemes import ALL
from ready_trail.core.schemes.base import has_pins_for
from ready_trail.core.supply.tree import Tree
from ready_trail.drawing import words
from ready_trail.web.pages import why

Fact = tuple[str, str]
MODEL_WORDS = {
    "constant_power": "constant power",
    "filament": "filament lamp",
    "motor": "motor",
    "resistive": "heater or coil",
    "electronics": "radio, electronics",
    "winch": "winch",
}


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
    circuit_id: str = ""
    point_id: str = ""
    switch: str = ""
    shows_pins: bool = False
    branches: bool = False
    why_key: str = ""
    presses: tuple[Action, ...] = ()


_WHY = {"fuse": "fuse", "breaker": "fuse", "relay": "relay", "load": "current"}
"""The derivation that a piece of the circuit leads to; a wire's is its drop."""


def inspect(design: CircuitDesign, job: Design, ref: str, catalogue: Catalogue) -> Inspector:
    """Return the inspector for a wire or device; the wire to the accessory by default."""
    found = _inspect(design, job, ref, catalogue)
    parts = design.planned.parts
    if parts is None:
        return found
    kind = next((d.kind for d in parts.devices if d.ref == found.ref), "")
    key = "drop" if any(w.label == found.ref for w in parts.wires) else _WHY.get(kind, "")
    return replace(found, why_key=key)


def _inspect(design: CircuitDesign, job: Design, ref: str, catalogue: Catalogue) -> Inspector:
    installation = design.installation
    if installation is None:
        return _unwired(design, catalogue)
    if ref in installation.wires:
        return _wire(design, job, installation.wires[ref], catalogue)
    if ref in installation.devices:
        device = installation.devices[ref]
        return _teller(device.spec)(design, job, device, catalogue)
    wire = design.wire_on("power")
    return _wire(design, job, wire, catalogue) if wire else _unwired(design, catalogue)


def scheme_hold(design: CircuitDesign) -> HoldField:
    """The scheme as a choice that can be held."""
    ask = ask_of(design.job, Tree(design.job), design.circuit, design.current_a)
    options = tuple(
        (scheme.key, scheme.label)
        for scheme in ALL
        if not scheme.refusal(ask) or scheme == design.scheme
    )
    return HoldField(
        what="scheme",
        label="Scheme",
        options=options,
        now=design.scheme.key,
        held=design.circuit.held.scheme is not None,
    )


def _unwired(design: CircuitDesign, catalogue: Catalogue) -> Inspector:
    return Inspector(
        ref="",
        kicker="Nothing could be sized",
        heading=design.circuit.name,
        reasons=("The findings say which rule stands in the way, and the ways out.",),
        holds=_wire_holds(design, catalogue),
    )


def _wire(design: CircuitDesign, job: Design, wire: Wire, catalogue: Catalogue) -> Inspector:
    drops = by_place(design.profile) if design.profile else {}
    words_of = job.installation.words
    facts: list[Fact] = [
        ("Cut length", words.metres(wire.cut_length_m)),
        ("Along the route", f"{words.metres(wire.length_m)}{'' if wire.taped else ', estimated'}"),
    ]
    if wire.label in drops:
        facts.insert(0, ("Drop", words.drop(drops[wire.label])))
    if wire.tail_m:
        facts.append(("Its own cable covers", words.metres(min(wire.tail_m, wire.length_m))))
    if wire.mark:
        facts.append(("Marked with", wire.mark))
    kicker = f"{wire.label} · {words_of(wire.start)} → {words_of(wire.end)}"
    heading = f"{wire.conductor.label}, {colour_words(wire.colour, catalogue)}"
    if wire.is_control or wire.role == "function":
        rules = job.job.rules
        what = "It carries a function only" if wire.role == "function" else "It feeds only the coil"
        return Inspector(
            ref=wire.label,
            kicker=kicker,
            heading=heading,
            reasons=(
                f"{what}: the mechanical minimum decides.",
                f"A {rules.control_fuse_a} A fuse protects it.",
            )
            if wire.is_control
            else (f"{what}: the mechanical minimum decides.",),
            facts=tuple(facts),
            source=f"Ampacity {wire.conductor.ampacity_source}.",
        )
    if wire.branch and wire.owner == design.circuit.id:
        return _branch(design, wire, kicker, heading, tuple(facts))
    own = wire.owner == design.circuit.id
    sizing = design.sizing if own else job.circuit(wire.owner).sizing
    chosen = sizing.chosen
    if chosen is not None:
        facts.append(("Hottest at full load", f"{chosen.conductor_c:.0f} °C"))
        if chosen.pigtail is not None:
            facts.append(("Pigtail at the holder", f"{chosen.pigtail.label}, at most 150 mm"))
    return Inspector(
        ref=wire.label,
        kicker=kicker,
        heading=heading,
        reasons=why.wire_reasons(sizing),
        facts=tuple(facts),
        ladder=why.ladder_rows(sizing),
        holds=_wire_holds(design, catalogue) if own else (),
        source=why.wire_source(sizing),
        circuit_id="" if own else wire.owner,
    )


def _branch(
    design: CircuitDesign, wire: Wire, kicker: str, heading: str, facts: tuple[Fact, ...]
) -> Inspector:
    """A wire behind the joint: what it carries, and which rule decides its size."""
    sized = design.sizing.branches[wire.branch]
    branch = next(b for b in design.circuit.branches if b.id == wire.branch)
    more: tuple[Fact, ...] = (
        ("Carries", words.amps(sized.stretch.current_a)),
        (
            "Drop from the source to its end",
            f"{words.volts(sized.chosen.conductor_drop_v)} of "
            f"{words.volts(sized.stretch.drop_limit_v)}",
        ),
        ("Hottest at full load", f"{sized.chosen.conductor_c:.0f} °C"),
    )
    if design.sizing.worst is not sized and not branch.loads:
        more = (more[0], more[2])
    return Inspector(
        ref=wire.label,
        kicker=kicker,
        heading=heading,
        reasons=why.branch_reasons(sized, design.sizing),
        facts=(*facts, *more),
        ladder=why.rung_rows(sized.ladder, sized.chosen),
        source=why.wire_source(design.sizing),
        branches=True,
    )


def _wire_holds(design: CircuitDesign, catalogue: Catalogue) -> tuple[HoldField, ...]:
    held, chosen = design.circuit.held, design.sizing.chosen
    wire = design.sizing.request.wire
    sizes = catalogue.cables(wire.system, wire.kind)
    class_c = wire.insulation_c
    return (
        HoldField(
            what="size",
            label="Size",
            options=tuple((c.size, c.label) for c in sizes),
            now=chosen.conductor.size if chosen else (held.size or ""),
            held=held.size is not None,
        ),
        HoldField(
            what="insulation_c",
            label="Insulation",
            now=str(class_c),
            options=tuple((str(c), f"{c} °C") for c in (80, 90, 105, 125)),
            held=held.insulation_c is not None,
        ),
        HoldField(
            what="colour",
            label="Colour",
            options=colour_choices(design.colour, catalogue),
            now=design.colour,
            held=held.colour is not None,
        ),
    )


def colour_choices(now: str, catalogue: Catalogue) -> tuple[tuple[str, str], ...]:
    """Insulation colours with their words, the one of now first."""
    codes = [now] if now else []
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


def _fuse(design: CircuitDesign, job: Design, device: Device, catalogue: Catalogue) -> Inspector:
    owners = {c.circuit.id: c for c in job.circuits}
    circuit = owners.get(device.owner)
    spec = device.spec
    family = getattr(spec, "family", None)
    if circuit is None or family is None:
        return Inspector(
            ref=device.ref,
            kicker=f"{device.ref} · control fuse",
            heading=device.label,
            reasons=("It protects the thin wire to the coil, close to where it is tapped.",),
        )
    own = circuit.circuit.id == design.circuit.id
    circuit = design if own else circuit
    sizing = circuit.sizing
    fuse = sizing.fuse
    if fuse is None:
        return _plain(design, job, device, catalogue)
    colour = fuse.family.colours.get(fuse.rating_a)
    facts: list[Fact] = [("Family", fuse.family.label)]
    if colour:
        facts.append(("Body colour", f"{colour} (ISO 8820-3)"))
    facts.append(("Holder takes", f"{fuse.family.socket_max_mm2:g} mm²"))
    held = circuit.circuit.held
    holds = (
        ()
        if not own
        else (
            HoldField(
                what="fuse_a",
                label="Rating",
                now=f"{fuse.rating_a:g}",
                held=held.fuse_a is not None,
                options=tuple(
                    (f"{r:g}", f"{r:g} A")
                    for r in fuse.family.ratings_a
                    if r <= fuse.family.holder_a
                ),
            ),
            HoldField(
                what="family",
                label="Family",
                now=fuse.family.family,
                held=held.family is not None,
                options=tuple((f.family, f.label) for f in catalogue.fuse_families.values()),
            ),
        )
    )
    main = circuit.circuit.is_feeder
    return Inspector(
        ref=device.ref,
        kicker=f"{device.ref} · {'main' if main else 'branch'} "
        f"{'breaker' if fuse.family.is_breaker else 'fuse'}",
        heading=f"{words.rating(fuse.rating_a)}, {words.lower_first(fuse.family.label)}",
        reasons=why.fuse_reasons(sizing, is_feeder=main),
        facts=tuple(facts),
        holds=holds,
        source=f"{fuse.family.source}.",
        circuit_id="" if own else circuit.circuit.id,
    )


def _relay(design: CircuitDesign, job: Design, device: Device, catalogue: Catalogue) -> Inspector:
    relay, point = design.sizing.relay, design.operating
    if relay is None or device.owner != design.circuit.id:
        return _plain(design, job, device, catalogue)
    coil = next(e for e in device.elements() if isinstance(e, Coil))
    facts: list[Fact] = [
        ("Pulls in at", f"{coil.pull_in_v:.1f} V"),
        ("Coil", f"{coil.ohm:.0f} Ω"),
        ("Suppression", relay.suppression),
    ]
    if point is not None:
        facts.insert(0, ("Coil gets", words.volts(abs(point.between_v(coil.a, coil.b)))))
    options = tuple(
        (key, with_coil_for(r, design.sizing.request.coils_v).label)
        for key, r in catalogue.relays.items()
        if key == relay.key or has_pins_for(r, design.scheme)
    )
    hold = HoldField(
        what="relay",
        label="Relay",
        options=options,
        now=relay.key,
        held=design.circuit.held.relay is not None,
    )
    return Inspector(
        ref=device.ref,
        kicker=f"{device.ref} · relay",
        heading=relay.label,
        reasons=why.relay_reasons(design.sizing),
        facts=tuple(facts),
        holds=(hold,),
        source=f"Figures {relay.source}; the maker's datasheet wins.",
        shows_pins=True,
        presses=_coil_presses(design.circuit),
    )


def _coil_presses(circuit: Circuit) -> tuple[Action, ...]:
    if not circuit.coil_resistor:
        return ()
    off = FitCoilResistor(circuit_id=circuit.id, fitted=False)
    return (Action(label="Take the coil resistor off", edit=off),)


def _load(design: CircuitDesign, job: Design, device: Device, catalogue: Catalogue) -> Inspector:
    if device.owner != design.circuit.id:
        return _plain(design, job, device, catalogue)
    end = next((o for o in design.outlets if o.outlet.ref == device.ref), design.outlets[0])
    accessory = end.outlet.accessories[0]
    profile = end.profile
    facts: list[Fact] = [
        ("Label", device.detail),
        ("Load", MODEL_WORDS[accessory.model]),
        ("Duty", accessory.duty),
        ("Voltage drop", accessory.drop_class),
    ]
    if profile is not None:
        facts.insert(0, ("Gets", words.volts(profile.load_v)))
    return Inspector(
        ref=device.ref,
        kicker=f"{device.ref} · accessory",
        heading=device.label,
        reasons=(_current_reason(design, end.outlet),),
        facts=tuple(facts),
        accessory_id=accessory.id,
    )


def _current_reason(design: CircuitDesign, outlet: Outlet) -> str:
    accessory = outlet.accessories[0]
    current = words.amps(outlet.current_a)
    if accessory.model == "winch":
        return f"At 60 % of its rated pull it draws {current}; drop is judged there."
    if accessory.model != "constant_power" or accessory.watts is None:
        return f"It is designed for {current}, as its label states."
    low_v = ENGINE_RUNNING_V if accessory.use.engine_only else ENGINE_STOPPED_V
    low_v *= design.sizing.request.supply.nominal_v / 12
    when = "with the engine running" if accessory.use.engine_only else "on the battery alone"
    return (
        f"A constant-power load draws more as the voltage falls: {accessory.rated_w:.0f} W at "
        f"{low_v:g} V, {when}, is {current}."
    )


def _point(design: CircuitDesign, job: Design, device: Device, catalogue: Catalogue) -> Inspector:
    view = job.points.get(device.owner)
    if view is None:
        return _plain(design, job, device, catalogue)
    facts: list[Fact] = [("Runs together", words.amps(view.total_a))]
    if view.point.total_a is not None:
        facts.append(("Rated for", words.amps(view.point.total_a)))
    facts.append(("Circuits", str(len(view.members))))
    if view.point.positions:
        facts.append(("Positions", str(len(view.point.positions))))
    return Inspector(
        ref=device.ref,
        kicker=f"{device.ref} · {device.kind.replace('_', ' ')}",
        heading=device.title,
        facts=tuple(facts),
        point_id=device.owner,
        circuit_id=view.feeder_id or "" if view.feeder_id != design.circuit.id else "",
    )


def _switch(design: CircuitDesign, job: Design, device: Device, catalogue: Catalogue) -> Inspector:
    name = device.name
    users = [c.circuit.name for c in job.circuits if c.use.switch == name]
    switch = job.job.switch(name)
    facts: list[Fact] = [("Kind", device.detail)]
    if switch is not None:
        facts += [(f"Terminal {p.terminal}", f"printed {p.printed}") for p in switch.pins]
    return Inspector(
        ref=device.ref,
        kicker=f"{device.ref} · switch",
        heading=name,
        reasons=(f"It works {', '.join(users)}.",) if users else (),
        facts=tuple(facts),
        switch=name,
    )


def _plain(design: CircuitDesign, job: Design, device: Device, catalogue: Catalogue) -> Inspector:
    facts: list[Fact] = [("Detail", device.detail)]
    if device.zone in catalogue.zones:
        facts.append(("Zone", catalogue.zones[device.zone].label))
    return Inspector(ref=device.ref, kicker=device.ref, heading=device.title, facts=tuple(facts))


def _teller(
    spec: DeviceKind,
) -> Callable[[CircuitDesign, Design, Device, Catalogue], Inspector]:
    """Which facts are told of a device."""
    if spec.protects:
        return _fuse
    if spec.is_relay:
        return _relay
    if spec.is_load:
        return _load
    if spec.is_switch:
        return _switch
    return _point if spec.is_point else _plain
