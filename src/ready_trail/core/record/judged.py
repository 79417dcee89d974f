"""What a difference in the vehicle is a stop for, before it may stay."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from functools import lru_cache

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import design
from ready_trail.core.edits import Edit, apply
from ready_trail.core.edits.as_built import HoldAsBuilt
from ready_trail.core.edits.off_layout import typed_as_routed
from ready_trail.core.errors import CoreError
from ready_trail.core.installation import Wire
from ready_trail.core.job import Job
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.outcome import Design, Finding
from ready_trail.core.record.as_built import edit_of
from ready_trail.core.record.facts import Different
from ready_trail.core.record.said import amperes, bare, said_plainly, why_no_figure, wire_said
from ready_trail.core.references import unknown_references


def why_unread(said: Different, made: Design, catalogue: Catalogue) -> str:
    """Return why nothing can be judged by what was said, or an empty text: figures that nobody
    can read, and positions that are not there.
    """
    why = why_no_figure(said, made, catalogue)
    if why or said.what != "position":
        return why
    edit = edit_of(said, made)
    if edit is None:
        return "Only what starts at a block has a position: pick its fuse, or say it in words."
    try:
        apply(made.job, edit)
    except CoreError as refused:
        return said_plainly(refused)
    return ""


def why_not_left(
    said: Different, made: Design, catalogue: Catalogue, others: tuple[Different, ...] = ()
) -> str:
    """Return why a difference may not stay in the vehicle, or an empty text. ``others`` are what
    else differs there: a larger fuse and a thinner wire may each be well by itself.
    """
    unread = why_unread(said, made, catalogue)
    if unread:
        return unread
    beside = tuple(
        o
        for o in others
        if o.circuit_id == said.circuit_id and (o.subject, o.what) != (said.subject, said.what)
    )
    try:
        stops = stops_of(said, made, catalogue, beside)
    except CoreError as refused:
        if said.what == "colour":  # whatever it is called: it burns nothing
            return ""
        return f"It cannot be judged: {said_plainly(refused)}"
    return stops[0].text if stops else ""


@lru_cache(maxsize=16)
def stops_of(
    said: Different, made: Design, catalogue: Catalogue, others: tuple[Different, ...] = ()
) -> tuple[Finding, ...]:
    """Return the stops that a difference brings to the design, with others of its circuit: what
    is so in the vehicle may burn.

    What no press takes over (fuses and wires of coils, branches and kits in other wire, ratings
    that no family has) is held against each other: fuse against wire. Raises CoreError for what
    does not go into the design at all.
    """
    before = made
    for other in others:
        with suppress(CoreError):  # that is told of it
            before = _with(other, before, catalogue) or before
    after = _with(said, before, catalogue)
    if after is None:
        return tuple(_fuse_against_wire(said, others, made, catalogue))
    known = {(f.code, f.place) for each in (made, before) for f in _stops(each)}
    return tuple(f for f in _stops(after) if (f.code, f.place) not in known)


def _with(said: Different, made: Design, catalogue: Catalogue) -> Design | None:
    """The design with a difference in it, or None where it cannot be taken over."""
    edit = edit_of(said, made)
    job = _as_built(edit, made) if edit is not None else None
    if job is None or [*unknown_references(job, catalogue)]:
        return None
    return design(job, catalogue)


def _as_built(edit: Edit, made: Design) -> Job:
    """The job with a difference in it; a length stands against those that its layout would give."""
    if not isinstance(edit, HoldAsBuilt) or not edit.longer:
        return apply(made.job, edit)
    job = typed_as_routed(made.job, (p.circuit for p in made.plan.circuits.values()))
    return apply(job, edit).model_copy(update={"layout": None})


def _stops(made: Design) -> Iterator[Finding]:
    for circuit in made.circuits:
        told = (f for f in circuit.findings if f.severity == "stop")
        yield from (f for f in told if f.is_open and not f.follows)


def _fuse_against_wire(
    said: Different, others: Sequence[Different], made: Design, catalogue: Catalogue
) -> Iterator[Finding]:
    """A fuse that lets more through than a wire behind it carries, both as they are."""
    installed, about = made.installation, said.subject.partition(":")[2]
    fitted = _fitted((*others, said), made, catalogue)
    rated_a = {_name(d): amperes(d.value) or 0.0 for d in (*others, said) if d.what == "fuse_a"}
    wire = installed.wires.get(about) if said.what == "size" else None
    fuse = installed.devices.get(about) if said.what == "fuse_a" else None
    if wire is not None:
        wires = [fitted[about]] if about in fitted else []
        fuses_a = _ahead_a(wire, made, rated_a)
    elif fuse is not None and isinstance(fuse.spec, FuseSpec):
        of_coil = fuse.spec.is_control
        behind = (w for w in installed.of(fuse.owner) if w.role != "feed")
        wires = [fitted.get(w.label, w) for w in behind if w.is_control == of_coil]
        fuses_a = [rated_a[about]]
    else:
        return
    least = min(wires, key=Wire.bears_a, default=None)
    if least is None or max(fuses_a, default=0.0) <= least.bears_a():
        return
    yield Finding(
        code="fuse_over_wire",
        area="protection",
        place=about,
        severity="stop",
        text=f"The {max(fuses_a):g} A {'control ' * least.is_control}fuse lets more through than "
        f"the {least.conductor.label} wire carries.",
        why="The wire overheats before the fuse opens.",
        found=f"{max(fuses_a):g} A",
        allowed=f"{least.bears_a():.1f} A",
    )


def _name(said: Different) -> str:
    return said.subject.partition(":")[2]


def _fitted(every: Sequence[Different], made: Design, catalogue: Catalogue) -> Mapping[str, Wire]:
    """Wires as they are in the vehicle, by label, where their size was said."""
    found = {}
    for each in every:
        wire = made.installation.wires.get(_name(each)) if each.what == "size" else None
        for conductor in catalogue.wires(*wire_said(each.value, wire)) if wire is not None else ():
            if wire is not None and conductor.size == bare(each.value):
                found[wire.label] = replace(wire, conductor=conductor)
    return found


def _ahead_a(wire: Wire, made: Design, rated_a: Mapping[str, float]) -> list[float]:
    """Ratings of the fuse ahead of a wire: its circuit's, or that of its coil."""
    devices = [d for d in made.installation.devices.values() if d.owner == wire.owner]
    found = [
        rated_a.get(d.ref, d.spec.rating_a)
        for d in devices
        if isinstance(d.spec, FuseSpec) and d.spec.is_control == wire.is_control
    ]
    planned = made.plan.circuits.get(wire.owner)
    fuse = planned.sizing.fuse if planned is not None and not wire.is_control else None
    return found or ([fuse.rating_a] if fuse is not None else [])
