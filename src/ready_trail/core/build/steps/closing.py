"""Close up, then the battery: positive leads first, negatives, the clamp last."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.steps.base import Step, Yard, circuits_of, end_words
from ready_trail.core.build.steps.joining import at_battery

COVERS, TIDY, CLAMP = "covers", "tidy", "battery:clamp"
_GAS = "Batteries give off explosive gas: no sparks, eye protection."


def steps(yard: Yard) -> Iterator[Step]:
    """Yield covers, the last look, then the battery."""
    yield Step(
        id=COVERS,
        stage="covers",
        site=yard.sites.zone(""),
        title="Covers on, nothing bare",
        doing=(
            "Boots on every stud; lids on blocks; free ends capped.",
            "Tug every crimp; continuity end to end at most 0.5 Ω, lead zeroed.",
            "Feed to body is no short, with the fuses out.",
        ),
        tools=("meter",),
        minutes=20.0,
    )
    spares = tuple(line.key for line in yard.lines if line.spare and line.unit == "pc")
    yield Step(
        id=TIDY,
        stage="covers",
        site=yard.sites.zone(""),
        title="Labels, legend, spares",
        doing=(
            "Both ends of every wire carry its label; blocks and panels their legends.",
            "Fuse map and spare fuses and relays with the vehicle's papers.",
        ),
        minutes=10.0,
        parts=spares,
    )
    for side, title in (("+", "Positive leads to the battery"), ("-", "Negative leads")):
        wires = [w for w in yard.wires.values() if at_battery(yard, w) == side]
        if not wires:
            continue
        ends = [yard.end_at(w, yard.second_end(w)) for w in wires]
        yield Step(
            id=f"battery:{side}",
            stage="battery",
            site=yard.battery,
            title=title,
            doing=tuple(end_words(yard, w, yard.second_end(w)) for w in wires),
            tools=("torque wrench",),
            torques=yard.torques(ends),
            cautions=("Every fuse is out.", _GAS),
            minutes=3.0 * len(wires) + 5.0,
            second=tuple(w.label for w in wires),
            circuits=circuits_of(wires),
            parts=tuple(
                dict.fromkeys(k for w in wires for k in yard.keys_at(w, yard.second_end(w)))
            ),
        )
    yield Step(
        id=CLAMP,
        stage="battery",
        site=yard.battery,
        title="Battery negative on, last of all leads",
        doing=("Fuses out, switches off, key out; then the negative clamp.",),
        tools=("spanner",),
        cautions=(_GAS, "A spark here means that something draws: stop."),
        minutes=5.0,
    )
