"""What is said of a difference, read: sizes, lengths, ratings, and what cannot be read."""

from __future__ import annotations

import re

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import WireKind, WireSystem, sold_as
from ready_trail.core.errors import CoreError, EditRefusedError
from ready_trail.core.installation import Device, Wire
from ready_trail.core.measures import MEASURES, as_figure
from ready_trail.core.outcome import Design
from ready_trail.core.record.facts import Different

_UNIT = re.compile(r"\s*(awg|sae|mm²|mm2|mm\^2|sq\.? ?mm|a|amps?|amperes?)$", re.IGNORECASE)
_BEFORE = re.compile(r"^(awg|sae)\s*(.+)$", re.IGNORECASE)
_LONGEST_M, _LARGEST_A = 30.0, 1000.0


def bare(value: str) -> str:
    """Return a size or rating without its unit: ``AWG 10`` is 10, ``7,5 A`` is 7.5."""
    return _UNIT.sub("", _turned(value)).strip().replace(",", ".")


def _turned(value: str) -> str:
    """A size with its unit behind it: ``AWG 10`` is ``10 AWG``."""
    before = _BEFORE.match(value.strip())
    return f"{before[2]} {before[1]}" if before else value.strip()


def wire_said(value: str, wire: Wire) -> tuple[WireSystem, WireKind]:
    """Return system and kind of wire that a size was said in; the design's without a unit."""
    unit = _UNIT.search(_turned(value))
    told = unit[1].lower() if unit else ""
    own = wire.conductor
    if told.startswith(("mm", "sq")):
        return "metric", sold_as("metric", own.kind)
    if told == "sae":
        return "awg", "sae"
    if told == "awg":  # full gauge, or clad as the design's is
        return "awg", sold_as("metric", own.kind)
    return ("awg" if own.system == "awg" else "metric"), own.kind


def said_plainly(refused: CoreError) -> str:
    """Return a refusal as a sentence, without the name of a field."""
    text = str(refused.message if isinstance(refused, EditRefusedError) else refused)
    return f"{text[:1].upper()}{text[1:].rstrip('.')}."


def metres(value: str) -> float | None:
    """Return a length as it is said, ``60 cm`` or ``2' 3"``, or None for what is none. [m]"""
    return _figure("length_m", value, _LONGEST_M)


def amperes(value: str) -> float | None:
    """Return a rating as it is said, or None for what is none. [A]"""
    return _figure("fuse_a", bare(value), _LARGEST_A)


def _figure(name: str, value: str, most: float) -> float | None:
    try:
        found = float(as_figure(name, value))
    except ValueError:
        return None
    return found if 0 < found <= most else None


def things_of(said: Different, made: Design) -> tuple[Wire | None, Device | None]:
    """Return the wire or the device that a difference is of; neither where it is there no more."""
    sort, _, name = said.subject.partition(":")
    wire = made.installation.wires.get(name) if sort == "wire" else None
    device = made.installation.devices.get(name) if sort == "device" else None
    return wire, device


def why_no_figure(said: Different, made: Design, catalogue: Catalogue) -> str:
    """Return why a size, length or rating cannot be read as it was said, or an empty text.

    What nobody can read may not stay unjudged: a thin wire behind a large fuse is the worst that
    this record could pass over.
    """
    wire, device = things_of(said, made)
    if wire is None and device is None:
        return ""  # it is in the design no more
    if said.what in ("size", "length_m"):
        if wire is None:
            return "Only a wire has a size and a length: pick the wire."
        return (
            _why_no_size(said.value, wire, catalogue)
            if said.what == "size"
            else _why_no_length(said.value)
        )
    if said.what == "fuse_a":
        if device is None or not device.spec.protects:
            return "Only a fuse or breaker has a rating: pick it."
        if amperes(said.value) is None:
            return f"“{said.value}” is no rating: say it in amperes, as 30 or 7.5 A."
    return ""


def _why_no_size(value: str, wire: Wire, catalogue: Catalogue) -> str:
    sizes = [c.size for c in catalogue.wires(*wire_said(value, wire))]
    if bare(value) in sizes:
        return ""
    if re.search(r"\d\s*mm$", value, re.IGNORECASE):
        return f"“{value}” may be a diameter: say its area, as 4 mm², or its gauge, as 12 AWG."
    return (
        f"“{value}” is no wire size here: say it as 12 AWG, 12 SAE or 4 mm². Sizes are "
        f"{', '.join(sizes)}."
    )


def _why_no_length(value: str) -> str:
    if metres(value) is not None:
        return ""
    example = MEASURES["m"].example
    return f"“{value}” is no length up to {_LONGEST_M:g} m: say it as it was cut, as {example}."
