"""What a difference in the vehicle is a stop for, before it may stay."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import lru_cache

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import design
from ready_trail.core.edits import apply
from ready_trail.core.errors import CoreError
from ready_trail.core.installation import Wire
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.outcome import Design, Finding
from ready_trail.core.record.as_built import bare, taken_over, wire_said
from ready_trail.core.record.facts import Different
from ready_trail.core.references import unknown_references


@lru_cache(maxsize=16)
def stops_of(said: Different, made: Design, catalogue: Catalogue) -> tuple[Finding, ...]:
    """Return the stops that a difference brings to the design: what is so in the vehicle may burn.

    What no press takes over (fuses and wires of coils, branches and kits in other wire) is held
    against each other: fuse against wire. Nothing where the design does not take it.
    """
    try:
        edit = taken_over(said, made)
        if edit is None:
            return tuple(_fuse_against_wire(said, made, catalogue))
        job = apply(made.job, edit)
        if [*unknown_references(job, catalogue)]:
            return ()
        after = design(job, catalogue)
    except CoreError:
        return ()
    known = {(f.code, f.place) for f in _stops(made)}
    return tuple(f for f in _stops(after) if (f.code, f.place) not in known)


def _stops(made: Design) -> Iterator[Finding]:
    for circuit in made.circuits:
        told = (f for f in circuit.findings if f.severity == "stop")
        yield from (f for f in told if f.is_open and not f.follows)


def _fuse_against_wire(said: Different, made: Design, catalogue: Catalogue) -> Iterator[Finding]:
    sort, _, name = said.subject.partition(":")
    installed = made.installation
    wire = installed.wires.get(name) if sort == "wire" else None
    device = installed.devices.get(name) if sort == "device" else None
    if wire is not None and said.what == "size":
        sizes = {c.size: c for c in catalogue.wires(*wire_said(said.value, wire))}
        fitted = sizes.get(bare(said.value))
        wires = [replace(wire, conductor=fitted)] if fitted is not None else []
        fuses_a = _ahead_a(wire, made)
    elif device is not None and said.what == "fuse_a" and _is_of_coil(device.spec):
        wires = [w for w in installed.of(device.owner) if w.is_control]
        fuses_a = [_number(said.value)]
    else:
        return
    least = min(wires, key=Wire.bears_a, default=None)
    if least is None or max(fuses_a, default=0.0) <= least.bears_a():
        return
    yield Finding(
        code="fuse_over_wire",
        area="protection",
        place=name,
        severity="stop",
        text=f"The {max(fuses_a):g} A {'control ' * least.is_control}fuse lets more through than "
        f"the {least.conductor.label} wire carries.",
        why="The wire overheats before the fuse opens.",
        found=f"{max(fuses_a):g} A",
        allowed=f"{least.bears_a():.1f} A",
    )


def _ahead_a(wire: Wire, made: Design) -> list[float]:
    """Ratings of the fuse ahead of a wire: its circuit's, or that of its coil."""
    if not wire.is_control:
        planned = made.plan.circuits.get(wire.owner)
        fuse = planned.sizing.fuse if planned is not None else None
        return [fuse.rating_a] if fuse is not None else []
    specs = [d.spec for d in made.installation.devices.values() if d.owner == wire.owner]
    return [s.rating_a for s in specs if isinstance(s, FuseSpec) and s.is_control]


def _is_of_coil(spec: object) -> bool:
    return isinstance(spec, FuseSpec) and spec.is_control


def _number(value: str) -> float:
    try:
        return float(bare(value))
    except ValueError:
        return 0.0
