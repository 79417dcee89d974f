"""A bought harness against the design: what each of its leads is good for.

A lead stands for the wires between its two ends; a fuse holder may sit in between. Nothing of a
kit is taken that is thinner than what the design asks for.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import UNKNOWN_CLASS_C, Conductor, sold_as
from ready_trail.core.edits import Edit, HoldChoice, SetKit
from ready_trail.core.installation import Device, Terminal, Wire
from ready_trail.core.job.kit import SPOT_WORDS, KitLead
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.layout.loom_network import HOT_ZONE_C
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.wording import lower_first

Verdict = Literal["as_is", "cut", "extend", "cap", "replace", "spare"]
OVERLAP_M = 0.10
"""What a splice takes of an extension. [m]"""

LEAVE_M = 0.25
"""So much too long may stay as slack; more is cut off. [m]"""


@dataclass(frozen=True, slots=True, kw_only=True)
class LeadPlan:
    """What becomes of one lead. ``wires`` are those of the design that it stands for.

    ``need_m`` is their cut length, ``extend_m`` what has to be spliced on. [m]
    """

    lead: KitLead
    verdict: Verdict
    words: str
    wires: tuple[str, ...] = ()
    need_m: float = 0.0
    extend_m: float = 0.0
    instead: Edit | None = None
    instead_words: str = ""

    @property
    def serves(self) -> bool:
        """Whether it is built in."""
        return self.verdict in ("as_is", "cut", "extend")


@dataclass(frozen=True, slots=True, kw_only=True)
class KitPlan:
    """A kit against its circuit: its leads, its relay and fuse, and the wires that it lacks."""

    circuit_id: str
    leads: tuple[LeadPlan, ...]
    missing: tuple[str, ...]
    relay_words: str
    fuse_words: str

    @property
    def by_wire(self) -> Mapping[str, LeadPlan]:
        """The lead that serves each wire of the design."""
        return {w: plan for plan in self.leads if plan.serves for w in plan.wires}


def kit_plans(made: Design, catalogue: Catalogue) -> dict[str, KitPlan]:
    """Return the plan of every circuit that has a kit, by its id."""
    return {
        c.circuit.id: plan_kit(c, made, catalogue)
        for c in made.circuits
        if c.circuit.kit is not None and c.planned.parts is not None
    }


def plan_kit(circuit: CircuitDesign, made: Design, catalogue: Catalogue) -> KitPlan:
    """Return what each lead of a circuit's kit is good for.

    Raises ValueError when the circuit has no kit.
    """
    kit = circuit.circuit.kit
    if kit is None:
        raise ValueError(f"circuit {circuit.circuit.id} has no kit")
    taken: set[str] = set()
    plans = []
    for lead in kit.leads:
        plan = _lead(lead, circuit, made, catalogue, taken)
        if plan.serves:
            taken |= set(plan.wires)
        plans.append(plan)
    own = (*circuit.wires, *_of_others(circuit, made))
    missing = tuple(w.label for w in own if w.label not in taken)
    return KitPlan(
        circuit_id=circuit.circuit.id,
        leads=_with_reuse(tuple(plans), circuit, made, catalogue, set(missing)),
        missing=missing,
        relay_words=_relay(circuit, catalogue),
        fuse_words=_fuse(circuit, tuple(plans), made),
    )


def _lead(
    lead: KitLead, circuit: CircuitDesign, made: Design, catalogue: Catalogue, taken: set[str]
) -> LeadPlan:
    if "nowhere" in (lead.start, lead.end):
        words = "Goes nowhere here: cap both ends, or take it out of the loom."
        return LeadPlan(lead=lead, verdict="cap", words=words)
    wires = _between(lead, circuit, made, taken) or _between(lead, circuit, made, set())
    if not wires:
        ends = f"{SPOT_WORDS[lead.start]} and {SPOT_WORDS[lead.end]}"
        words = f"This circuit has no wire between {ends}: cap it, or take it out."
        return LeadPlan(lead=lead, verdict="cap", words=words)
    labels = tuple(w.label for w in wires)
    need_m = round(sum(w.cut_length_m for w in wires), 2)
    plan: Callable[..., LeadPlan] = partial(LeadPlan, lead=lead, wires=labels, need_m=need_m)
    if set(labels) & taken:
        return plan(verdict="spare", words="Another lead serves here already: leave it out.")
    sold = catalogue.wires(lead.system, sold_as(lead.system, lead.wire_kind))
    have = next((c for c in sold if c.size == lead.size), None)
    thickest = min((w.conductor for w in wires), key=lambda c: c.r20_mohm_per_m)
    if have is None or have.r20_mohm_per_m > thickest.r20_mohm_per_m * 1.01:
        edit, words = _would_do(have, circuit, wires)
        thin = f"Too thin: {have.label if have else lead.size} where {thickest.label} is needed."
        return plan(
            verdict="replace", instead=edit, instead_words=words, words=f"{thin} Lay a new wire."
        )
    weak = _too_weak(lead, have, circuit, wires, made)
    if weak:
        return plan(verdict="replace", words=f"{weak} Lay a new wire.")
    short_m = need_m - lead.length_m
    if short_m > 0.005:
        extend_m = round(short_m + OVERLAP_M, 2)
        more = f"{extend_m:.2f} m of {thickest.label} {_splice_place(lead, wires, catalogue)}"
        return plan(
            verdict="extend",
            extend_m=extend_m,
            words=f"Too short by {short_m:.2f} m: splice on {more}.",
        )
    if -short_m > LEAVE_M:
        return plan(verdict="cut", words=f"Cut to {need_m:.2f} m; {-short_m:.2f} m comes off.")
    return plan(verdict="as_is", words=f"Use it as it is; {need_m:.2f} m are needed.")


def _with_reuse(
    plans: tuple[LeadPlan, ...],
    circuit: CircuitDesign,
    made: Design,
    catalogue: Catalogue,
    missing: set[str],
) -> tuple[LeadPlan, ...]:
    """The same plans; a lead with nothing to do where it is said to run is offered elsewhere."""
    kit, devices = circuit.circuit.kit, made.installation.devices
    found = []
    for plan in plans:
        if plan.verdict in ("cap", "spare") and kit is not None:
            wires = [w for w in _reached(circuit, made) if w.label in missing]
            for wire in sorted(wires, key=lambda w: -w.conductor.area_mm2):
                spots = [spot_of(t, devices) for t in (wire.start, wire.end)]
                if not all(s in SPOT_WORDS for s in spots):
                    continue
                lead = plan.lead.model_copy(update={"start": spots[0], "end": spots[1]})
                if not _lead(lead, circuit, made, catalogue, set()).serves:
                    continue
                missing = missing - {wire.label}
                leads = tuple(lead if x is plan.lead else x for x in kit.leads)
                edit = SetKit(
                    circuit_id=circuit.circuit.id, kit=kit.model_copy(update={"leads": leads})
                )
                words = f"Use it from {SPOT_WORDS[spots[0]]} to {SPOT_WORDS[spots[1]]}"
                plan = replace(plan, instead=edit, instead_words=f"{words}: {wire.label}")
                break
        found.append(plan)
    return tuple(found)


def _too_weak(
    lead: KitLead, have: Conductor, circuit: CircuitDesign, wires: tuple[Wire, ...], made: Design
) -> str:
    """Why a lead of the right size still does not serve: its class in that heat, or its holder."""
    needed = _fuse_on(wires, made)
    if lead.fuse_a is not None and needed is not None and lead.fuse_a < needed.rating_a:
        return (
            f"Its holder is made for {lead.fuse_a:g} A, and {needed.rating_a:g} A are needed: "
            "never put a larger fuse in."
        )
    chosen = circuit.sizing.fuse
    if chosen is None or all(w.is_control or w.role == "function" for w in wires):
        return ""
    class_c = lead.insulation_c or UNKNOWN_CLASS_C
    carries_a = min(replace(w, conductor=have).bears_a(class_c) for w in wires)
    if carries_a >= chosen.rating_a:
        return ""
    known = "" if lead.insulation_c else ", as nothing on it tells its class"
    return (
        f"At {class_c} °C{known} it carries {carries_a:.0f} A there, under the "
        f"{chosen.rating_a:g} A fuse."
    )


def _fuse_on(wires: tuple[Wire, ...], made: Design) -> FuseSpec | None:
    """The design's fuse that sits in a lead, or at its end."""
    for wire in wires:
        for terminal in (wire.start, wire.end):
            device = made.installation.devices.get(terminal.device)
            if device is not None and isinstance(device.spec, FuseSpec):
                return device.spec
    return None


def _of_others(circuit: CircuitDesign, made: Design) -> tuple[Wire, ...]:
    """The wires of the circuits that a kit serves besides its own."""
    kit = circuit.circuit.kit
    also = set(kit.also) if kit is not None else set()
    return tuple(w for c in made.circuits if c.circuit.id in also for w in c.wires)


def _reached(circuit: CircuitDesign, made: Design) -> tuple[Wire, ...]:
    """The wires that a kit's leads may stand for: of its circuits, and of their shared switches."""
    kit = circuit.circuit.kit
    ids = {circuit.circuit.id, *(kit.also if kit is not None else ())}
    found = [*circuit.wires, *_of_others(circuit, made)]
    points = set(made.points)
    for other in made.circuits:
        parts = other.planned.parts if other.circuit.id in ids else None
        for need in parts.needs if parts is not None else ():
            if need in made.shared and need not in points:
                found += made.shared[need].wires
    return tuple(dict.fromkeys(found))


_SAME = {"source": {"source", "channel", "converter"}}
"""What else counts as a place that a kit's paper names."""


def _is_at(
    stated: str, terminal: Terminal, devices: Mapping[str, Device], units: list[str]
) -> bool:
    """Whether a terminal is the place that a lead's end names; units count in their order."""
    name, _, rank = stated.partition("_")
    if name in ("plus", "minus") and rank:
        at = int(rank) - 1
        if at >= len(units) or units[at] != terminal.device:
            return False
        stated = name
    return spot_of(terminal, devices) in _SAME.get(stated, {stated})


def _between(
    lead: KitLead, circuit: CircuitDesign, made: Design, taken: set[str]
) -> tuple[Wire, ...]:
    """The fewest wires from one end of a lead to the other, of those that are not taken."""
    devices = made.installation.devices
    at: dict[Terminal, list[tuple[Wire, Terminal]]] = {}
    wires = [w for w in _reached(circuit, made) if w.label not in taken]
    for wire in wires:
        at.setdefault(wire.start, []).append((wire, wire.end))
        at.setdefault(wire.end, []).append((wire, wire.start))
    ends = (t.device for w in _reached(circuit, made) for t in (w.start, w.end))
    units = [r for r in dict.fromkeys(ends) if r in devices and devices[r].spec.is_load]
    starts = [t for t in at if _is_at(lead.start, t, devices, units)]
    seen = set(starts)
    front: list[tuple[Terminal, tuple[Wire, ...]]] = [(t, ()) for t in starts]
    while front:
        after: list[tuple[Terminal, tuple[Wire, ...]]] = []
        for terminal, way in front:
            for wire, far in at.get(terminal, ()):
                if wire in way:
                    continue
                gone = (*way, wire)
                if _is_at(lead.end, far, devices, units):
                    return gone
                for onward in (far, *_through(far, devices)):
                    if onward not in seen and _may_pass(far, devices):
                        seen.add(onward)
                        after.append((onward, gone))
        front = after
    return ()


def _may_pass(terminal: Terminal, devices: Mapping[str, Device]) -> bool:
    device = devices.get(terminal.device)
    return device is not None and (device.spec.protects or device.spec.is_joint)


def _through(terminal: Terminal, devices: Mapping[str, Device]) -> tuple[Terminal, ...]:
    device = devices.get(terminal.device)
    if device is None or not device.spec.protects:
        return ()
    other = "2" if terminal.terminal == "1" else "1"
    return (Terminal(device=terminal.device, terminal=other),)


def spot_of(terminal: Terminal, devices: Mapping[str, Device]) -> str:
    """Return what a kit's paper would call a terminal, or an empty text."""
    device = devices.get(terminal.device)
    if device is None:
        return ""
    return device.spec.spot(terminal.terminal)


def _would_do(
    have: Conductor | None, circuit: CircuitDesign, wires: tuple[Wire, ...]
) -> tuple[Edit | None, str]:
    """Holding the lead's own size, where every rule would allow it on this circuit."""
    sizing = circuit.sizing
    main = all(w.role in ("feed", "power", "return") and not w.branch for w in wires)
    if have is None or sizing.chosen is None or not main:
        return None, ""
    for rung in sizing.ladder:
        if rung.conductor == have and not rung.rejects:
            edit = HoldChoice(circuit_id=circuit.circuit.id, what="size", value=have.size)
            return edit, f"Hold {have.label} for this circuit: every rule allows it"
    return None, ""


def _splice_place(lead: KitLead, wires: tuple[Wire, ...], catalogue: Catalogue) -> str:
    """Where the lead ends, in words; moved back out of what is hot, and clear of sheet metal."""
    gone_m, last = 0.0, None
    for piece in (p for w in wires for p in w.pieces):
        begins_m = gone_m
        gone_m += piece.length_m
        zone = (
            lower_first(catalogue.zones[piece.zone].label) if piece.zone in catalogue.zones else ""
        )
        if piece.ambient_c < HOT_ZONE_C:
            last = (zone, begins_m, gone_m)
        if gone_m >= lead.length_m - OVERLAP_M:
            break
    if last is None:
        return "where it stays cool and within reach"
    zone, begins_m, ends_m = last
    at_m = max(min(lead.length_m - OVERLAP_M, ends_m - OVERLAP_M), begins_m)
    words = f"in the {zone}" if zone else "on its way"
    return f"{words}, about {max(at_m, 0.0):.1f} m from {SPOT_WORDS[lead.start]}"


def _relay(circuit: CircuitDesign, catalogue: Catalogue) -> str:
    kit = circuit.circuit.kit
    needed = circuit.sizing.relay
    if kit is None or (kit.relay is None and needed is None):
        return ""
    if kit.relay is None:
        return f"The kit has no relay; add {needed.label if needed else 'one'}."
    brought = catalogue.relays[kit.relay]
    if needed is None:
        return f"{brought.label} is not needed here: leave it out."
    if brought.key == needed.key:
        return f"{brought.label}: use it."
    if brought.contact_a_85c >= needed.contact_a_85c and brought.form == needed.form:
        return f"{brought.label} carries as much as the {needed.label}: hold it, and look."
    return f"Replace the {brought.label}: the design asks for {needed.label}."


def _fuse(circuit: CircuitDesign, plans: tuple[LeadPlan, ...], made: Design) -> str:
    """What becomes of each lead's fuse: each by the design's fuse in that lead, never raised."""
    chosen = circuit.sizing.fuse
    fused = [p for p in plans if p.lead.fuse_a is not None]
    if chosen is None:
        return ""
    if not fused:
        return f"The kit has no fuse holder; add {chosen.rating_a:g} A at the source."
    wires = {w.label: w for w in _reached(circuit, made)}
    told = []
    for plan in fused:
        needed = _fuse_on(tuple(wires[w] for w in plan.wires), made)
        name, brought_a = plan.lead.name, plan.lead.fuse_a or 0.0
        if not plan.serves or needed is None:
            told.append(f"{name}: its {brought_a:g} A fuse is not used.")
        elif needed.rating_a == brought_a:
            told.append(f"{name}: {brought_a:g} A, use its fuse.")
        else:  # a smaller one only: a lead whose holder is too small does not serve
            told.append(f"{name}: put {needed.rating_a:g} A in place of its {brought_a:g} A.")
    if all(not p.serves for p in fused):
        told.append(f"Add a holder with {chosen.rating_a:g} A at the source.")
    return " ".join(told)
