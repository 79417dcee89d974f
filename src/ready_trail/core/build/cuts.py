"""The cut list: every wire with its length, its ends, its sleeve, by spool and by loom."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from ready_trail.core.build.ends import ends_of, pigtail_of, thickest_into
from ready_trail.core.build.found import wire_is_there
from ready_trail.core.build.kit import OVERLAP_M, KitPlan, LeadPlan, kit_plans
from ready_trail.core.build.sites import Site, Sites
from ready_trail.core.build.terminals import End, end_without, terminal_end
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import Conductor
from ready_trail.core.installation import Terminal, Wire, lamps_owner
from ready_trail.core.leads import maker_lead
from ready_trail.core.looms import Loom, looms
from ready_trail.core.outcome import Design

Source = Literal["spool", "kit", "supplied", "there"]
RESERVE_RATIO = 0.10
"""What a spool holds beyond the cut list (house)."""

NO_FIT = "too thick for this pin, and no thinner piece carries its fuse: take a part that fits"
"""What an end says for which there is no terminal."""

PIGTAIL_M = 0.15
"""At most, at a holder or socket that is too small for the wire. [m]"""

"""Terminals of which one pin takes one: further wires there go into the same crimp."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Cut:
    """One piece of wire to cut. ``wire`` is the design's label of it; a pigtail's is its wire's.

    ``from_words`` and ``to_words`` name device and terminal; ``looms`` are the legs that it runs
    in, ``route_m`` its way and ``cut_m`` what to cut, for each cable of a pair. [m]
    ``source`` tells whether it comes off a spool, out of a kit, with what it joins, or is in the
    vehicle already.
    """

    label: str
    wire: str
    owner: str
    circuit: str
    role: str
    from_words: str
    to_words: str
    from_site: Site
    to_site: Site
    conductor: Conductor
    insulation_c: int
    colour: str
    colour_words: str
    mark: str
    route_m: float
    cut_m: float
    taped: bool
    start: End
    end: End
    looms: tuple[str, ...] = ()
    sleeve: str = ""
    lead: str = ""
    source: Source = "spool"
    kit_words: str = ""

    @property
    def spool(self) -> str:
        """Key of the spool it is cut from: size, colour and insulation class."""
        size = f"{self.conductor.system}-{self.conductor.label}".lower()
        size = size.replace(f"{self.conductor.count} × ", "")
        colour = self.colour.replace("/", "-").lower()
        return f"wire-{_slug(size)}-{colour}-{self.insulation_c}"

    @property
    def total_m(self) -> float:
        """What it takes from the spool: twice its length for a pair. [m]"""
        return self.cut_m * self.conductor.count


@dataclass(frozen=True, slots=True, kw_only=True)
class Spool:
    """One spool and what is cut from it."""

    key: str
    size: str
    colour: str
    colour_words: str
    insulation_c: int
    cuts: tuple[Cut, ...]

    @property
    def label(self) -> str:
        """The wire as one asks for it."""
        return f"{self.size} {self.colour_words}, {self.insulation_c} °C"

    @property
    def total_m(self) -> float:
        """Sum of the cuts. [m]"""
        return sum(cut.total_m for cut in self.cuts)

    @property
    def buy_m(self) -> float:
        """The sum with its reserve, rounded up to the decimetre. [m]"""
        return math.ceil(round(self.total_m * (1 + RESERVE_RATIO) * 10, 6)) / 10


@dataclass(frozen=True, slots=True, kw_only=True)
class LoomCuts:
    """One leg of the looms, or one place without, with the wires in it."""

    key: str
    name: str
    length_m: float
    sleeve: str
    clips: int
    cuts: tuple[Cut, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class CutList:
    """Every wire of the job: ``cuts`` to make, and those that are ``there`` already."""

    cuts: tuple[Cut, ...]
    there: tuple[Cut, ...]
    kits: Mapping[str, KitPlan]
    looms: tuple[Loom, ...]
    loom_names: Mapping[str, str]

    def by_wire(self, label: str) -> tuple[Cut, ...]:
        """Return the pieces of one wire of the design."""
        return tuple(cut for cut in self.cuts if cut.wire == label)

    @property
    def spools(self) -> tuple[Spool, ...]:
        """The pieces by spool, thick to thin."""
        by_key: dict[str, list[Cut]] = {}
        for cut in self.cuts:
            if cut.source != "spool":
                continue
            by_key.setdefault(cut.spool, []).append(cut)
        found = [
            Spool(
                key=key,
                size=_one_size(cuts[0].conductor),
                colour=cuts[0].colour,
                colour_words=cuts[0].colour_words,
                insulation_c=cuts[0].insulation_c,
                cuts=tuple(sorted(cuts, key=lambda c: -c.cut_m)),
            )
            for key, cuts in by_key.items()
        ]
        areas = {s.key: s.cuts[0].conductor.lug_mm2 for s in found}
        return tuple(sorted(found, key=lambda s: (-areas[s.key], s.colour, s.insulation_c)))

    @property
    def by_loom(self) -> tuple[LoomCuts, ...]:
        """The pieces by the leg in which they begin; what runs in none stands by its place."""
        groups: dict[str, list[Cut]] = {}
        for cut in self.cuts:
            groups.setdefault(cut.looms[0] if cut.looms else cut.from_site.key, []).append(cut)
        named = {loom.leg.id: loom for loom in self.looms}
        found = []
        for key, cuts in groups.items():
            loom = named.get(key)
            found.append(
                LoomCuts(
                    key=key,
                    name=self.loom_names[key] if loom else f"Short wires, {cuts[0].from_site.name}",
                    length_m=loom.length_m if loom else 0.0,
                    sleeve=sleeve_words(loom) if loom else "",
                    clips=loom.clips if loom else 0,
                    cuts=tuple(cuts),
                )
            )
        return tuple(found)


def _whole(
    wire: Wire, ends: tuple[End, End], sites: Sites, made: Design, catalogue: Catalogue
) -> Cut:
    """A wire in one piece, as it is drawn."""
    start, end = (
        _true_step(e, wire, terminal, made, catalogue)
        for e, terminal in zip(ends, (wire.start, wire.end), strict=True)
    )
    return Cut(
        label=wire.label,
        wire=wire.label,
        owner=wire.owner,
        circuit=owner_name(wire.owner, made),
        role=wire.role,
        from_words=made.installation.words(wire.start),
        to_words=made.installation.words(wire.end),
        from_site=sites.of(wire.start.device),
        to_site=sites.of(wire.end.device),
        conductor=wire.conductor,
        insulation_c=wire.insulation_c,
        colour=wire.colour,
        colour_words=colour_words(wire.colour, catalogue),
        mark=wire.mark,
        route_m=wire.length_m,
        cut_m=wire.cut_length_m,
        taped=wire.taped,
        start=start,
        end=end,
        lead=maker_lead(wire, made),
    )


def cut_list(made: Design, catalogue: Catalogue) -> CutList:
    """Return every wire of the design as pieces to cut, each wire once and its pigtails."""
    sites = Sites(made, catalogue)
    legs_used = tuple(loom for loom in looms(made, catalogue) if loom.wires)
    in_looms: dict[str, list[str]] = {}
    for loom in legs_used:
        for inside in loom.wires:
            in_looms.setdefault(inside.label, []).append(loom.leg.id)
    sleeves = {loom.leg.id: sleeve_words(loom) for loom in legs_used}
    cuts: list[Cut] = []
    there: list[Cut] = []
    kits = kit_plans(made, catalogue)
    of_kits = {label: plan for kit in kits.values() for label, plan in kit.by_wire.items()}
    ends = _with_shared_pins(
        {w.label: ends_of(w, made) for w in made.installation.wires.values()}, made
    )
    for wire in made.installation.wires.values():
        legs = tuple(in_looms.get(wire.label, ()))
        cut = replace(
            _whole(wire, ends[wire.label], sites, made, catalogue),
            looms=legs,
            sleeve=next((sleeves[leg] for leg in legs if sleeves.get(leg)), ""),
        )
        if wire_is_there(wire, made):
            there.append(replace(cut, source="there"))
            continue
        if wire.supplied:
            words = "comes with it, ends and all"
            cuts.append(
                replace(
                    cut,
                    source="supplied",
                    start=_own(cut.start),
                    end=_own(cut.end),
                    kit_words=words,
                )
            )
            continue
        if wire.label in of_kits:
            cuts.extend(_from_kit(cut, of_kits[wire.label]))
            continue
        cuts.append(cut)
        cuts.extend(_pigtails(cut, wire, made, catalogue))
    names = {loom.leg.id: loom_name(loom, made) for loom in legs_used}
    return CutList(
        cuts=tuple(cuts), there=tuple(there), kits=kits, looms=legs_used, loom_names=names
    )


def _own(end: End) -> End:
    """An end that a supplied lead has already: nothing to buy or crimp, a stud to tighten."""
    return replace(end, key="", label="its own lug, as supplied", count=0, shrink=None)


def _true_step(end: End, wire: Wire, terminal: Terminal, made: Design, catalogue: Catalogue) -> End:
    """An end as it is; one that no safe step down fits says so instead of naming a terminal."""
    if not end.step_down or thickest_into(end, wire, terminal, made, catalogue) is not None:
        return end
    return end_without(wire.conductor, NO_FIT)


def _from_kit(cut: Cut, plan: LeadPlan) -> Iterable[Cut]:
    """A wire that a kit's lead serves, with the piece that is spliced on where it is too short.

    The lead keeps its own ends where it is not cut; what is cut off is cut at its last end.
    """
    brought = end_without(cut.conductor, "as the kit brings it")
    is_last = cut.wire == plan.wires[-1]
    length_m = cut.cut_m
    end = cut.end if plan.verdict == "cut" and is_last else brought
    tail = f"{cut.label}x"
    if plan.verdict == "extend" and is_last:
        end = end_without(cut.conductor, f"into the splice of {tail}")
        length_m = max(0.0, round(cut.cut_m - plan.extend_m + OVERLAP_M, 2))
    yield replace(
        cut,
        source="kit",
        cut_m=length_m,
        start=brought,
        end=end,
        kit_words=f"{plan.lead.name}: {plan.words}",
    )
    if plan.verdict == "extend" and is_last:
        yield replace(
            cut,
            label=tail,
            from_words=f"{cut.label}, end of the kit's lead",
            cut_m=plan.extend_m,
            route_m=plan.extend_m,
            start=terminal_end(cut.conductor, "butt", wet=True),
            lead="",
        )


def _pigtails(cut: Cut, wire: Wire, made: Design, catalogue: Catalogue) -> Iterable[Cut]:
    """The short thinner pieces where the wire itself does not fit: holders, relay sockets."""
    for side, terminal, end, at in (
        ("a", wire.start, cut.start, (cut.from_site, cut.from_words)),
        ("b", wire.end, cut.end, (cut.to_site, cut.to_words)),
    ):
        thin = pigtail_of(wire, terminal, made)
        if thin is None and end.step_down:
            thin = thickest_into(end, wire, terminal, made, catalogue)
        if thin is None:
            continue
        device = made.installation.devices[terminal.device]
        seat = device.spec.seat(terminal.terminal, thin)
        site, words = at
        yield replace(
            cut,
            label=f"{cut.label}{side}",
            conductor=thin,
            route_m=PIGTAIL_M,
            cut_m=PIGTAIL_M,
            taped=True,
            from_words=words,
            to_words=f"{cut.label}, stepped up",
            from_site=site,
            to_site=site,
            start=terminal_end(thin, seat.kind, stud=seat.stud),
            end=end_without(thin, f"bare, into the splice of {cut.label}"),
            looms=(),
            lead="",
            sleeve="",
        )


def _with_shared_pins(
    ends: Mapping[str, tuple[End, End]], made: Design
) -> dict[str, tuple[End, End]]:
    """Put wires that meet on one pin into one crimp: the thickest brings the terminal."""
    at: dict[Terminal, list[tuple[Wire, int]]] = {}
    for wire in made.installation.wires.values():
        for side, terminal in enumerate((wire.start, wire.end)):
            if ends[wire.label][side].takes_one and not _has_two(terminal, made):
                at.setdefault(terminal, []).append((wire, side))
    found = dict(ends)
    for met in at.values():
        if len(met) < 2:
            continue
        met.sort(key=lambda x: (-x[0].conductor.lug_mm2, x[0].label))
        (first, side), others = met[0], met[1:]
        kind = ends[first.label][side].kind
        both = terminal_end(
            first.conductor, kind, with_mm2=sum(w.conductor.lug_mm2 for w, _ in others)
        )
        found[first.label] = _put(found[first.label], side, both)
        for wire, its in others:
            bare = end_without(wire.conductor, f"into the crimp of {first.label}")
            found[wire.label] = _put(found[wire.label], its, bare)
    return found


def _has_two(terminal: Terminal, made: Design) -> bool:
    """Whether the pin is there twice, as on a relay with two joined 87."""
    device = made.installation.devices[terminal.device]
    return device.terminals.count(terminal.terminal) > 1


def _put(pair: tuple[End, End], side: int, end: End) -> tuple[End, End]:
    return (end, pair[1]) if side == 0 else (pair[0], end)


def sleeve_words(loom: Loom) -> str:
    """Return a loom's sleeve as one asks for it, or an empty text."""
    return f"{loom.sleeve.kind} {loom.sleeve.size_mm:g} mm" if loom.sleeve else ""


def owner_name(owner: str, made: Design) -> str:
    """Return whom a wire or device belongs to: its circuit, switch or point, in words."""
    for circuit in made.routed.circuits:
        if circuit.id == owner:
            return circuit.name
    for switch in made.job.switches:
        if owner in (f"S{switch.number}", lamps_owner(f"S{switch.number}")):
            return f"Switch {switch.name}"
    for point in made.job.points:
        if owner in (point.id, f"{made.plan.refs[point.id]}L"):
            return point.name
    return "Vehicle"


def colour_words(code: str, catalogue: Catalogue) -> str:
    """Return a wire colour in words: ``OG/VT`` is orange with violet."""
    names = [
        catalogue.wire_colours[c].name.lower() if c in catalogue.wire_colours else c
        for c in code.split("/")
    ]
    return " with ".join(names)


def loom_name(loom: Loom, made: Design) -> str:
    """Return a leg by the two places that it joins."""
    layout = made.job.layout
    if layout is None:
        return loom.leg.id
    return f"{layout.point(loom.leg.a).name} to {layout.point(loom.leg.b).name}"


def _one_size(conductor: Conductor) -> str:
    return conductor.one_label


def _slug(text: str) -> str:
    return text.replace("mm²", "").replace("/", "-").strip().replace(" ", "-")
