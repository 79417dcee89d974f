"""Wire colours: a base and a tracer for each circuit, violet for coils."""

from __future__ import annotations

TRACERS = ("WH", "YE", "BU", "GN", "BK", "VT", "GY", "PK", "BN")
_POWER_BASES = ("RD", "OG")
_CONTROL_BASE = "VT"


def power_colour(number: int) -> str:
    """Return the colour of a circuit's switched wire: its base with a tracer of its own."""
    base = _POWER_BASES[((number - 1) // len(TRACERS)) % len(_POWER_BASES)]
    return f"{base}/{TRACERS[(number - 1) % len(TRACERS)]}"


def control_colour(number: int) -> str:
    """Return the colour of a circuit's coil wires, with the same tracer where it shows."""
    tracer = TRACERS[(number - 1) % len(TRACERS)]
    return "GY/VT" if tracer == _CONTROL_BASE else f"{_CONTROL_BASE}/{tracer}"
