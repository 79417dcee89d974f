"""The cautions that concern one circuit: short, in the imperative, where they matter."""

from __future__ import annotations

from ready_trail.core.asking import ask_of
from ready_trail.core.outcome import CircuitDesign
from ready_trail.core.supply.tree import Tree

AID = (
    "Figures are a design aid. Follow the vehicle and accessory makers' instructions and local "
    "rules on lighting, towing and modifications; have a qualified person check work you are "
    "unsure of."
)
_ALWAYS = (
    "Key out. Battery negative off first, on last; insulate the free lug.",
    "Fit the fuse before the wire leaves the source, and put the fuse in last of all.",
    "Never bridge a fuse, never fit a bigger one to stop it blowing.",
)


def cautions_of(design: CircuitDesign) -> tuple[str, ...]:
    """Return the cautions for building this circuit."""
    texts = list(_ALWAYS)
    zones = {s.zone for s in design.circuit.segments}
    if any(s.passes for s in design.circuit.segments):
        texts.append("Drill only after a look behind; use a stop collar, deburr, fit the grommet.")
    if "underbody" in zones:
        texts.append("Under the vehicle: stands on hard ground, never only a jack.")
    if "cabin" in zones:
        texts.append("Leave yellow (air-bag) looms alone; let their circuits discharge.")
    texts += design.scheme.cautions(
        ask_of(design.job, Tree(design.job), design.circuit, design.current_a)
    )
    if design.feeds is not None and (design.feeds.is_a.stores or design.feeds.is_a.charges):
        texts.append("Two batteries: both ends fused; isolate both before work.")
    if design.use.lights == "high" or "light" in design.circuit.name.lower():
        texts.append(
            "Lights brighter or higher than the legal limit are for off-road use only; driving "
            "lights go out with the high beam."
        )
    texts.append(
        "First power-up: one fuse at a time, extinguisher at hand; stop at smell or warmth."
    )
    return tuple(texts)
