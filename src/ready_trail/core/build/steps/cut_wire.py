"""A wire of the vehicle is cut: both ends in reach, staggered, each insulated by itself."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.steps.base import Step, Yard


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each circuit that starts at a cut wire."""
    points = {p.id: p for p in yard.made.job.points if p.is_a.is_cut}
    for made in yard.made.circuits:
        point = points.get(made.circuit.start.point)
        wires = [w for w in made.wires if w.label in yard.wires and w.role == "power"]
        if point is None or not wires:
            continue
        yield Step(
            id=f"cut-wire:{made.circuit.id}",
            stage="control",
            site=yard.sites.of(wires[0].start.device),
            title=f"Cut {point.name}",
            doing=(
                f"Factory fuse of {point.fuse_a:g} A out; prove that it is the wire, and dead.",
                "Cut where both ends can be reached: the two splices a hand apart along the loom.",
                f"The fuse's end goes to {wires[0].label}, the far end to {wires[-1].label}; each "
                "splice under its own lined shrink, both ends labelled.",
            ),
            tools=("meter", "cutter", "crimper", "labels"),
            cautions=("Never a wire of airbag, brakes, steering or engine management.",),
            minutes=15.0,
            circuits=(made.circuit.id,),
        )
