"""On the bench: cut and label wire, size by size; mark blocks and panels."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.cuts import Spool
from ready_trail.core.build.kit import KitPlan
from ready_trail.core.build.steps.base import Step, Yard

_CUT_MINUTES = 1.5


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each size of wire, two for each kit, one for each block or panel."""
    yield from _cut(yard)
    for kit in yard.cuts.kits.values():
        yield from _of_kit(yard, kit)
    yield from _mark(yard)


def _cut(yard: Yard) -> Iterator[Step]:
    """Each size of wire, spool by spool."""
    by_size: dict[str, list[Spool]] = {}
    for spool in yard.cuts.spools:
        by_size.setdefault(spool.size, []).append(spool)
    for size, spools in by_size.items():
        cuts = [cut for spool in spools for cut in spool.cuts]
        yield Step(
            id=f"cut:{size.replace(' ', '-').lower()}",
            stage="bench",
            site=yard.sites.zone(""),
            title=f"Cut and label {len(cuts)} of {size}",
            doing=tuple(
                f"{s.colour_words.capitalize()}: "
                + ", ".join(
                    f"{c.label} {c.cut_m:.2f} m"
                    + (f" ×{c.conductor.count}" if c.conductor.count > 1 else "")
                    for c in s.cuts
                )
                for s in spools
            ),
            tools=("tape", "cutter", "labels"),
            minutes=_CUT_MINUTES * len(cuts),
            cuts=tuple(c.label for c in cuts),
            parts=tuple(s.key for s in spools),
        )


def _of_kit(yard: Yard, kit: KitPlan) -> Iterator[Step]:
    """A kit is tried before it is laid, and fitted to length."""
    made = yard.circuit(kit.circuit_id)
    name = made.circuit.name if made else kit.circuit_id
    pieces = [c for c in yard.cuts.cuts if c.source == "kit" and c.wire in kit.by_wire]
    yield Step(
        id=f"kit:{kit.circuit_id}",
        stage="bench",
        site=yard.sites.zone(""),
        title=f"Fit the kit of {name} to length",
        doing=(
            *(f"{p.lead.name}: {p.words}" for p in kit.leads),
            *(w for w in (kit.fuse_words, kit.relay_words) if w),
        ),
        tools=("tape", "cutter", "crimper", "caps"),
        minutes=3.0 * len(kit.leads),
        cuts=tuple(c.label for c in pieces),
        circuits=(kit.circuit_id,),
        parts=tuple(k.key for k in yard.lines if k.key == f"kit-{kit.circuit_id}"),
    )
    yield Step(
        id=f"kit-test:{kit.circuit_id}",
        stage="bench",
        site=yard.sites.zone(""),
        title=f"Try the kit of {name} on the bench",
        doing=(
            "Its accessory and a spare battery on the table, its own fuse in.",
            "Switch on: the relay clicks and the accessory works; off: all dead.",
            "What does not work now is found here, not behind a panel.",
        ),
        tools=("spare battery", "meter"),
        minutes=10.0,
        circuits=(kit.circuit_id,),
    )


def _mark(yard: Yard) -> Iterator[Step]:
    """Each block or panel, position by position."""
    refs = yard.made.plan.refs
    for point in yard.made.job.points:
        ref = refs[point.id]
        if ref not in yard.made.installation.devices or point.fed_by_vehicle or not point.positions:
            continue
        used = [
            (c.start.position, c.name)
            for c in yard.made.routed.circuits
            if c.start.point == point.id and c.start.position
        ]
        switches = [(s.position, s.name) for s in yard.made.job.switches if s.panel == point.id]
        yield Step(
            id=f"bench:{point.id}",
            stage="bench",
            site=yard.sites.zone(""),
            title=f"Mark {point.name}",
            doing=tuple(f"Position {at}: {name}" for at, name in sorted([*used, *switches])),
            tools=("labels",),
            minutes=8.0,
            circuits=(point.id,),
        )
