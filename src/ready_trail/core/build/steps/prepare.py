"""Prepare: prove the vehicle's wires while it still has power, then make it dead; gather."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.found import changed
from ready_trail.core.build.steps.base import Step, Yard
from ready_trail.core.outcome import CircuitDesign

OFF = "off"
GATHER = "gather"
AIR_BAGS = "Leave yellow (air-bag) looms alone; let their circuits discharge."
_PACK_V = 48


def _unrecorded(circuit: CircuitDesign) -> Iterator[str]:
    """What nobody wrote down of a circuit as found, beside what the design reckons with."""
    found, sizing = circuit.circuit.found, circuit.sizing
    if found is None:
        return
    if found.size is None and sizing.chosen is not None:
        yield f"Wire not recorded: it must be {sizing.chosen.conductor.label} or thicker."
    if found.insulation_c is None and sizing.chosen is not None:
        class_c = sizing.request.wire.insulation_c
        yield f"Insulation not recorded: its jacket must name {class_c} °C or more."
    if found.fuse_a is None and sizing.fuse is not None:
        yield f"Fuse not recorded: it must be {sizing.fuse.rating_a:g} A."
    if found.relay is None and sizing.relay is not None:
        yield f"Relay not recorded: it must be {sizing.relay.label}, or carry as much."


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each vehicle wire to prove, then the dead vehicle, then the parts."""
    yield from _prove(yard)
    yield _make_dead(yard)
    yield from _look_over(yard)
    yield from _take_out(yard)
    yield from _gather(yard)


def _prove(yard: Yard) -> Iterator[Step]:
    """Each wire of the vehicle that something follows, while it still has power."""
    for device in yard.made.installation.devices.values():
        if not device.spec.is_signal:
            continue
        yield Step(
            id=f"prove:{device.ref}",
            stage="prepare",
            site=yard.sites.of(device.ref),
            title=f"Find and prove: {device.title}",
            doing=(
                device.detail,
                "Meter in every key and light state; mark the wire with a label.",
            ),
            tools=("meter", "label"),
            cautions=(AIR_BAGS,),
            minutes=10.0,
            refs=(device.ref,),
        )


def _make_dead(yard: Yard) -> Step:
    """Take the battery off."""
    cautions = [
        "Negative off first, on last; insulate the free lug. Remove rings.",
        AIR_BAGS,
        "Batteries give off explosive gas: no sparks, eye protection.",
    ]
    if yard.made.job.vehicle.nominal_v >= _PACK_V:
        cautions.append("48 V: maker's procedure, no bare tools, licensed practice where required.")
    if any(p.is_a.stores for p in yard.made.job.points):
        cautions.append("Two batteries: isolate both before work.")
    return Step(
        id=OFF,
        stage="prepare",
        site=yard.battery,
        title="Make the vehicle dead",
        doing=(
            "Key out, lights off, wait as the maker says.",
            "Take off the battery negative and cover its lug.",
        ),
        tools=("spanner", "insulating cap"),
        cautions=tuple(cautions),
        minutes=10.0,
    )


def _look_over(yard: Yard) -> Iterator[Step]:
    """Each circuit that was there."""
    for circuit in yard.made.circuits:
        if circuit.circuit.found is None:
            continue
        there = [c for c in yard.cuts.there if c.owner == circuit.circuit.id]
        yield Step(
            id=f"look:{circuit.circuit.id}",
            stage="prepare",
            site=yard.sites.by_ref.get(circuit.end_ref, yard.battery),
            title=f"Look over, as found: {circuit.circuit.name}",
            doing=(
                "Tug every joint; look for green, for heat, for bare copper and missing covers.",
                *_unrecorded(circuit),
                *(
                    f"{c.label}: {c.from_words} to {c.to_words}, {c.conductor.label} {c.colour}"
                    for c in there
                ),
            ),
            tools=("lamp", "labels"),
            minutes=10.0 + len(there),
            circuits=(circuit.circuit.id,),
        )


def _take_out(yard: Yard) -> Iterator[Step]:
    """What something else comes in the place of."""
    for old in changed(yard.made):
        circuit = old.circuit
        if old.found == "none":
            continue
        yield Step(
            id=f"out:{circuit.circuit.id}:{old.what}",
            stage="prepare",
            site=yard.sites.by_ref.get(circuit.end_ref, yard.battery),
            title=f"Take out the old {old.what} of {circuit.circuit.name}",
            doing=(
                f"Out: {old.found}. In its place comes {old.now}.",
                "Nothing dead is left in the loom; what cannot come out is capped at both ends.",
            ),
            tools=("cutter", "caps", "labels"),
            minutes=10.0,
            circuits=(circuit.circuit.id,),
        )


def _gather(yard: Yard) -> Iterator[Step]:
    """Everything that is to be got."""
    to_get = [line for line in yard.lines if line.to_get]
    yield Step(
        id=GATHER,
        stage="bench",
        site=yard.sites.zone(""),
        title="Lay out the parts",
        doing=(f"Check {len(to_get)} kinds of parts against the parts list.",),
        minutes=15.0,
        parts=tuple(line.key for line in to_get if line.group == "Labels"),
    )
