"""Circuits as found: what of them stays, and what to redo first."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.conductors import Conductor, sold_as
from ready_trail.core.installation import Device, Wire
from ready_trail.core.job import Circuit, HouseRules
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.outcome import CircuitDesign, Design, Finding

_SEVERITY = ("stop", "caution", "note")
_FIRST = ("protection", "wire", "source", "relay", "switch", "routing")
"""Areas of the review in the order in which a mistake does harm (reasoning)."""

_UNITS = {"awg": " AWG", "metric": " mm²"}
_MAIN = ("feed", "power", "return")


@dataclass(frozen=True, slots=True, kw_only=True)
class Redo:
    """One thing to put right in a circuit as found."""

    circuit: CircuitDesign
    finding: Finding


@dataclass(frozen=True, slots=True, kw_only=True)
class Changed:
    """What was found beside what the design now takes."""

    circuit: CircuitDesign
    what: str
    found: str
    now: str


def wire_is_there(wire: Wire, made: Design) -> bool:
    """Whether a wire is in the vehicle already, and stays."""
    circuit = _found_circuit(wire.owner, made)
    if wire.role == "return" and _keeps_its_way_back(circuit, made):
        return True
    if circuit is None or circuit.found is None:
        return False
    if wire.role in _MAIN and not wire.branch and circuit.found.size is not None:
        return _stays(wire.conductor, wire.insulation_c, circuit, made.job.rules)
    return True


def _stays(conductor: Conductor, class_c: int, circuit: Circuit, rules: HouseRules) -> bool:
    """Whether the wire that was found does: the one that is held, or one that came out the same.

    Numbers of both systems look alike; a class that nobody read is taken for the house's.
    """
    found = circuit.found
    if circuit.kept or found is None:
        return True
    system = found.system or rules.system
    sold = sold_as(system, found.wire_kind or rules.wire_kind)
    same = (conductor.system, conductor.kind, conductor.size) == (system, sold, found.size)
    return same and class_c <= (found.insulation_c or rules.insulation_c)


def _keeps_its_way_back(circuit: Circuit | None, made: Design) -> bool:
    """Whether a circuit feeds something of the vehicle over a cut wire: it stays as it is."""
    points = {p.id: p for p in made.job.points}
    start = points.get(circuit.start.point) if circuit is not None else None
    return start is not None and start.is_a.is_cut


def device_is_there(device: Device, made: Design) -> bool:
    """Whether a device is in the vehicle already, and stays."""
    circuit = _found_circuit(device.owner, made)
    its = device.spec.is_load or (device.spec.is_earth and not device.of_coil)
    if its and _keeps_its_way_back(circuit, made):
        return True
    if circuit is None or circuit.found is None:
        return False
    found, spec = circuit.found, device.spec
    if isinstance(spec, FuseSpec) and not spec.is_control:
        if found.unfused:
            return False
        same_rating = found.fuse_a in (None, spec.rating_a)
        return same_rating and found.family in (None, spec.family.family)
    relay = getattr(spec, "relay", None)
    if relay is not None:
        return found.relay in (None, relay.key)
    return True


def redo_plan(made: Design) -> tuple[Redo, ...]:
    """Return what is wrong with circuits as found, the most harmful first."""
    found = [
        Redo(circuit=c, finding=f)
        for c in made.circuits
        if c.circuit.found is not None
        for f in c.findings
        if f.is_open and f.severity != "note"
    ]
    return tuple(sorted(found, key=_rank))


def changed(made: Design) -> tuple[Changed, ...]:
    """Return where the design takes something else than was found: that is to be replaced."""
    rows = []
    for circuit in made.circuits:
        found, sizing = circuit.circuit.found, circuit.sizing
        if found is None:
            continue
        chosen = sizing.chosen.conductor if sizing.chosen is not None else None
        class_c = sizing.request.wire.insulation_c
        stays = chosen is not None and _stays(chosen, class_c, circuit.circuit, made.job.rules)
        pairs = [
            (
                "wire",
                found.size,
                found.size if stays else None,
                f"{chosen.label}, {class_c} °C" if chosen else "",
            ),
            (
                "fuse",
                found.fuse_a,
                sizing.fuse.rating_a if sizing.fuse else None,
                f"{sizing.fuse.rating_a:g} A" if sizing.fuse else "",
            ),
            (
                "relay",
                found.relay,
                sizing.relay.key if sizing.relay else None,
                sizing.relay.label if sizing.relay else "none",
            ),
        ]
        for what, was, now, words in pairs:
            if what == "fuse" and found.unfused:
                rows.append(Changed(circuit=circuit, what=what, found="none", now=words))
            elif was is not None and was != now:
                system = found.system or made.job.rules.system
                unit = " A" if what == "fuse" else _UNITS[system] * (what == "wire")
                told = f"{was:g}" if isinstance(was, float) else str(was)
                rows.append(Changed(circuit=circuit, what=what, found=f"{told}{unit}", now=words))
    return tuple(rows)


def _found_circuit(owner: str, made: Design) -> Circuit | None:
    planned = made.plan.circuits.get(owner)
    return planned.circuit if planned is not None else None


def _rank(redo: Redo) -> tuple[int, int, int]:
    area = redo.finding.area
    at = _FIRST.index(area) if area in _FIRST else len(_FIRST)
    return _SEVERITY.index(redo.finding.severity), at, redo.circuit.circuit.number
