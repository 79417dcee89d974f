"""What the shelf has of a parts list, what is to buy, what it costs; what stock would allow."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ready_trail.core.build.bill import Line
from ready_trail.core.buy.packs import Pack

_WIRE_AS = "wire-"


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A part of the shop's shelf: how many there are, its price, its packs, and from whom."""

    key: str
    label: str
    group: str
    unit: str = "pc"
    price: float | None = None
    order_ref: str = ""
    supplier: str = ""
    packs: tuple[Pack, ...] = ()
    stock: float = 0.0
    least: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Alternative:
    """A part that is on the shelf and would serve, with what it changes."""

    part: Part
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Needed:
    """One line of the parts list beside the shelf.

    ``taken`` is what this job took already, ``on_shelf`` what the shelf still has of the rest;
    ``too_many`` was taken and is not needed any more.
    """

    line: Line
    part: Part | None
    taken: float
    too_many: float
    on_shelf: float
    missing: float
    cost: float | None
    alternatives: tuple[Alternative, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Shopping:
    """The parts list beside the shelf, with its sums; ``unneeded`` was taken for what is no
    longer in the design.

    ``cost`` is what everything costs that has a price; ``unpriced`` counts lines without.
    """

    needed: tuple[Needed, ...]
    cost: float
    cost_missing: float
    unpriced: int
    by_owner: Mapping[str, float]
    unneeded: tuple[tuple[Part, float], ...] = ()

    def surplus(self) -> dict[str, float]:
        """Return what was taken beyond what the design needs, by part."""
        found = {part.key: quantity for part, quantity in self.unneeded}
        return found | {n.line.key: n.too_many for n in self.needed if n.too_many}


def shopping(
    lines: Iterable[Line], shelf: Mapping[str, Part], taken: Mapping[str, float] | None = None
) -> Shopping:
    """Return the parts to get beside what the shelf has, and what was ``taken`` for the job."""
    had = taken or {}
    needed = []
    by_owner: dict[str, float] = {}
    for line in lines:
        if not line.to_get:
            continue
        part = shelf.get(line.key)
        has = had.get(line.key, 0.0)
        to_get = max(0.0, round(line.buy - has, 3))
        on_shelf = min(to_get, max(part.stock, 0.0)) if part is not None else 0.0
        missing = max(0.0, round(to_get - on_shelf, 3))
        cost = part.price * line.buy if part is not None and part.price is not None else None
        if part is not None and part.price is not None:
            for owner, quantity in line.by_owner.items():
                by_owner[owner] = by_owner.get(owner, 0.0) + quantity * part.price
            by_owner[""] = by_owner.get("", 0.0) + line.spare * part.price
        needed.append(
            Needed(
                line=line,
                part=part,
                taken=has,
                too_many=max(0.0, round(has - line.buy, 3)),
                on_shelf=on_shelf,
                missing=missing,
                cost=cost,
                alternatives=_alternatives(line, shelf, missing) if missing else (),
            )
        )
    listed = {n.line.key for n in needed}
    unneeded = tuple(
        (shelf[key], q) for key, q in had.items() if key not in listed and key in shelf
    )
    priced = [n for n in needed if n.cost is not None]
    return Shopping(
        needed=tuple(needed),
        cost=sum(n.cost or 0.0 for n in priced),
        cost_missing=sum(n.missing * (n.part.price or 0.0) for n in priced if n.part),
        unpriced=len(needed) - len(priced),
        by_owner=by_owner,
        unneeded=unneeded,
    )


def _alternatives(line: Line, shelf: Mapping[str, Part], missing: float) -> tuple[Alternative, ...]:
    """Other parts of the shelf that would do for what is missing."""
    found = []
    for part in shelf.values():
        if part.key == line.key or part.stock < missing or part.unit != line.unit:
            continue
        words = _instead(line, part)
        if words:
            found.append(Alternative(part=part, words=words))
    return tuple(sorted(found, key=lambda a: a.part.label)[:3])


def _instead(line: Line, part: Part) -> str:
    """What changes when a part is taken instead, or an empty text where it does not serve."""
    if line.key.startswith(_WIRE_AS) and part.key.startswith(_WIRE_AS):
        wanted, has = line.key.rsplit("-", 1), part.key.rsplit("-", 1)
        size, colour = size_and_colour(wanted[0])
        other_size, other_colour = size_and_colour(has[0])
        if other_size == size and int(has[1]) >= int(wanted[1]) and other_colour != colour:
            return f"same size, another colour ({other_colour}): mark both ends, change the drawing"
        if other_size == size and other_colour == colour and int(has[1]) > int(wanted[1]):
            return "the same wire in a warmer insulation class"
    if line.key.startswith("shrink-") and part.key.startswith("shrink-"):
        wanted_mm, has_mm = float(line.key[7:]), float(part.key[7:])
        if wanted_mm < has_mm <= wanted_mm * 1.5:
            return "one size larger: check that it closes on the wire"
    if line.key.startswith("sleeve-split-tube-") and part.key.startswith("sleeve-split-tube-"):
        wanted_mm, has_mm = float(line.key[18:]), float(part.key[18:])
        if wanted_mm < has_mm <= wanted_mm * 1.5:
            return "one size larger: takes more room in clips and holes"
    if line.key == "relay-mini-no" and part.key in ("relay-mini-no-r", "relay-mini-co"):
        return "same base; its coil resistor or its 87a changes the circuit: hold it and look"
    return ""


def size_and_colour(key: str) -> tuple[str, str]:
    """Return what a spool's key says without its class: ``wire-awg-10-awg-og-vt`` is
    ("awg-10-awg", "OG/VT").
    """
    parts = key.removeprefix(_WIRE_AS).split("-")
    at = len(parts)
    while at > 1 and len(parts[at - 1]) == 2 and parts[at - 1].isalpha():
        at -= 1
    return "-".join(parts[:at]), "/".join(parts[at:]).upper()
