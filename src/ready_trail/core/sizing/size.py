"""Sizing one circuit: fuse, then relay, then the smallest wire for which every rule holds.

Families are tried in order; one is taken only if relay and wire work out with it.
"""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.errors import TableError
from ready_trail.core.fuses import prospective_short_a
from ready_trail.core.relays import AUTO_RELAYS, Relay, contact_rating_a, for_nominal
from ready_trail.core.sizing.fuse_choice import fuse_candidates
from ready_trail.core.sizing.ladder import climb, rung, survey_ground
from ready_trail.core.sizing.records import (
    Ceiling,
    FuseChoice,
    PassedOver,
    Rung,
    Sizing,
    SizingRequest,
)
from ready_trail.core.sizing.winch import size_winch


def size(request: SizingRequest, catalogue: Catalogue, *, whole_ladder: bool = False) -> Sizing:
    """Return fuse, relay and wire for one circuit, with what governs the size.

    Parameters
    ----------
    request : SizingRequest
        Load, legs and house rules.
    catalogue : Catalogue
        Tables to choose from.
    whole_ladder : bool
        Also work out the sizes above the chosen one (for the ladder on screen).

    Returns
    -------
    Sizing
        ``ok`` is False, with ``why``, when no family satisfies every rule; it then shows the
        first family that could hold the load.

    Source
    ------
    ABYC E-11 and ISO 10133 ampacities; ISO 8820 fuses; IEC 60949 withstand; house schools.
    """
    if any(leg.ambient_c >= request.insulation_c for leg in (*request.out, *request.back)):
        return Sizing(request=request, ok=False, why="insulation")
    if request.winch is not None:
        return size_winch(request, catalogue, whole_ladder=whole_ladder)
    first: Sizing | None = None
    for in_pairs in (False, True):
        passed: list[PassedOver] = []
        for fuse in fuse_candidates(request, catalogue):
            made = _with_fuse(request, fuse, catalogue, whole_ladder, in_pairs=in_pairs)
            if made.ok:
                return replace(made, passed_over=tuple(passed))
            passed.append(PassedOver(family=fuse.family.label, why=_reason(made)))
            first = first or made
        if first is None or first.why != "wire" or request.held.size:
            break
    if first is not None:
        return first
    return Sizing(request=request, ok=False, why="held" if request.held.fuse_a else "fuse")


def _with_fuse(
    request: SizingRequest,
    fuse: FuseChoice,
    catalogue: Catalogue,
    whole_ladder: bool,
    *,
    in_pairs: bool,
) -> Sizing:
    """Return relay and wire behind one fuse."""
    relay, rating_a = _choose_relay(request, fuse, catalogue)
    if request.relay is not None and relay is None:
        return Sizing(request=request, ok=False, why="relay", fuse=fuse)
    contact_ohm = relay.contact_mohm * 1e-3 if relay else 0.0
    ground = survey_ground(request, fuse, contact_ohm, catalogue)
    held_pair = (request.held.size or "").startswith("2x")
    sizes = catalogue.cables if in_pairs or held_pair else catalogue.wires
    ladder, at = climb(
        sizes(request.system, request.wire_kind),
        lambda conductor: rung(conductor, request, fuse, ground),
        request.held.size,
        whole_ladder=whole_ladder,
    )
    capped_by = _cap(request, fuse, rating_a)
    if at is None:
        return Sizing(
            request=request, ok=False, why="ceiling" if capped_by else "wire", fuse=fuse,
            relay=relay, relay_rating_a=rating_a, ladder=ladder, capped_by=capped_by,
        )  # fmt: skip
    chosen = ladder[at]
    why = _failure(chosen, fuse, capped_by)
    current_a = request.current_a
    upstream_drop_v = request.upstream.path_drop_v if request.upstream else 0.0
    upstream_ohm = request.upstream.resistance_ohm if request.upstream else 0.0
    return Sizing(
        request=request,
        ok=why is None,
        why=why,
        fuse=fuse,
        relay=relay,
        relay_rating_a=rating_a,
        chosen=chosen,
        ladder=ladder,
        governs=ladder[at - 1].rejects if at else ("minimum",),
        own_ohm=chosen.wire_ohm + ground.fixed_ohm - upstream_ohm,
        path_drop_v=(
            upstream_drop_v + current_a * (chosen.wire_ohm + ground.fixed_ohm - upstream_ohm)
        ),
        prospective_a=prospective_short_a(
            open_circuit_v=request.open_circuit_v,
            ahead_ohm=request.battery_ohm + upstream_ohm,
            fuse_ohm=fuse.resistance_ohm,
        ),
        capped_by=capped_by,
    )


def _choose_relay(
    request: SizingRequest, fuse: FuseChoice, catalogue: Catalogue
) -> tuple[Relay | None, float | None]:
    """The first relay whose contact, in this air, is at least the fuse; or the held one."""
    if request.relay is None:
        return None, None
    relay_c = request.holder_c if request.relay_c is None else request.relay_c
    if request.held.relay is not None:
        if request.held.relay not in catalogue.relays:
            raise TableError(f"no relay {request.held.relay!r} in the catalogue")
        held = for_nominal(catalogue.relays[request.held.relay], request.nominal_v)
        return held, contact_rating_a(held, relay_c)
    for key in AUTO_RELAYS:
        relay = catalogue.relays[key]
        rating_a = contact_rating_a(relay, relay_c)
        if rating_a >= fuse.rating_a:
            return for_nominal(relay, request.nominal_v), rating_a
    return None, None


def _cap(request: SizingRequest, fuse: FuseChoice, relay_a: float | None) -> Ceiling | None:
    """The lowest element behind the fuse that is rated under it, if any."""
    ceilings = list(request.ceilings)
    if relay_a is not None:
        ceilings.append(Ceiling(element="relay contact", limit_a=relay_a))
    over = [c for c in ceilings if c.limit_a < fuse.rating_a]
    return min(over, key=lambda c: c.limit_a) if over else None


def _failure(chosen: Rung, fuse: FuseChoice, capped_by: Ceiling | None) -> str | None:
    if capped_by is not None:
        return "ceiling"
    if chosen.rejects:
        return "wire"
    if not (fuse.meets_load and fuse.meets_inrush):
        return "fuse"
    return None


def _reason(made: Sizing) -> str:
    """Why a family was passed over, in a few words."""
    fuse = made.fuse
    if fuse is None or made.why == "relay":
        return "no relay contact is rated for its fuse"
    if made.capped_by is not None:
        return f"{fuse.rating_a:g} A is above the {made.capped_by.element}"
    misfit = next((r for r in made.ladder if r.rejects == ("fit",)), None)
    if misfit is not None:
        return f"{misfit.conductor.label} does not fit its {fuse.family.mount.split(' up to')[0]}"
    for rule, words in (("clearing", "a far short does not clear it"),
                        ("withstand", "the wire does not outlast a far short")):  # fmt: skip
        if any(rule in r.rejects for r in made.ladder[-1:]):
            return words
    return "no wire size satisfies every rule"
