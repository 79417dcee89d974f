"""The cross-section of a loom's leg, to scale."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.layout.packing import pack
from ready_trail.core.looms import Loom
from ready_trail.drawing.band import split_colour

SIZE = 220.0
_MARGIN = 12.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SectionWire:
    """One wire, round."""

    label: str
    title: str
    x: float
    y: float
    radius: float
    base: str
    tracer: str
    is_loaded: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Section:
    """Wires inside their sleeve; ``mm_px`` is the length of a millimetre."""

    size: float
    sleeve_radius: float
    sleeve_label: str
    wires: tuple[SectionWire, ...]
    mm_px: float


def draw_section(loom: Loom) -> Section | None:
    """Return the section of a leg, or None where no wire runs."""
    if not loom.wires:
        return None
    numbered = {f"{i}": wire for i, wire in enumerate(loom.wires)}
    discs, around_mm = pack(tuple((key, w.diameter_mm) for key, w in numbered.items()))
    inside_mm = max(loom.bundle_mm, around_mm)
    scale = (SIZE - 2 * _MARGIN) / inside_mm
    scale = min(scale, 26.0)
    middle = SIZE / 2
    wires = []
    for disc in discs:
        wire = numbered[disc.label]
        base, tracer = split_colour(wire.colour)
        loaded = "loaded" if wire.is_loaded else "lightly loaded"
        wires.append(
            SectionWire(
                label=wire.label,
                title=f"{wire.label} {wire.circuit_name}: {wire.size} {wire.colour}, {loaded}",
                x=middle + disc.x_mm * scale,
                y=middle + disc.y_mm * scale,
                radius=disc.diameter_mm / 2 * scale,
                base=base,
                tracer=tracer,
                is_loaded=wire.is_loaded,
            )
        )
    sleeve = loom.sleeve
    return Section(
        size=SIZE,
        sleeve_radius=inside_mm / 2 * scale + 4,
        sleeve_label=f"{sleeve.kind} {sleeve.size_mm:g} mm" if sleeve else "tape or clips only",
        wires=tuple(wires),
        mm_px=scale,
    )
