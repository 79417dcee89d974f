"""Sizing one circuit: fuse, then relay, then the smallest wire for which every rule holds.

Families are tried in order; one is taken only if relay and wire work out with it.
"""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.errors import TableError
from ready_trail.core.fuses import prospective_short_a
from ready_trail.core.relays import (
    Relay,
    contact_rating_a,
    rest_contact_rating_a,
    with_coil_for,
)
from ready_trail.core.sizing.fuse_choice import fuse_candidates, lowest_under
from ready_trail.core.sizing.ladder import (
    SHOWN_ABOVE,
    climb,
    forget_ground,
    may_do,
    rung,
    survey_ground,
)
from ready_trail.core.sizing.records import (
    Ceiling,
    FuseChoice,
    Ground,
    PassedOver,
    Rung,
    Sizing,
    SizingRequest,
    Upstream,
)
from ready_trail.core.sizing.trunk import TrunkAndBranches, grow

EVERY = 99
"""Sizes above the chosen one: all that the tables have."""

_KEPT = 2048
"""Answers that are kept: a large job asks for some hundreds."""

NOTHING_AHEAD = Upstream(resistance_ohm=0.0, conductor_drop_v=0.0, path_drop_v=0.0)


def size(
    request: SizingRequest,
    catalogue: Catalogue,
    *,
    whole_ladder: bool = False,
    above: int = SHOWN_ABOVE,
    bare: bool = False,
) -> Sizing:
    """Return fuse, relay and wire for one circuit, with what governs the size.

    The same asked again is answered from before: rounds of routing, searches for the least copper
    and most edits ask for little that is new.

    Parameters
    ----------
    request : SizingRequest
        Load, legs and house rules.
    catalogue : Catalogue
        Tables to choose from.
    whole_ladder : bool
        Also work out the sizes above the chosen one (for the ladder on screen), ``above`` of
        them.
    bare : bool
        For a search that asks for sizes and copper alone: sizes that no share of the drop would
        help are left out of the ladders, and what governs is not told.

    Returns
    -------
    Sizing
        ``ok`` is False, with ``why``, when no family satisfies every rule; it then shows the
        first family that could hold the load.

    Source
    ------
    ABYC E-11 and ISO 10133 ampacities; ISO 8820 fuses; IEC 60949 withstand; house schools.
    """
    return _kept(request, catalogue, whole_ladder, above, bare)


@lru_cache(maxsize=_KEPT)
def _kept(
    request: SizingRequest, catalogue: Catalogue, whole_ladder: bool, above: int, bare: bool
) -> Sizing:
    ways = [request.path.legs, *(s.out for s in request.path.branches)]
    if any(leg.ambient_c >= request.wire.insulation_c for way in ways for leg in way):
        return Sizing(request=request, ok=False, why="insulation")
    first: Sizing | None = None
    sound: Sizing | None = None
    for in_pairs in (False, True):
        passed: list[PassedOver] = []
        for fuse in fuse_candidates(request, catalogue):
            made = _with_fuse(
                request, fuse, catalogue, whole_ladder, above, in_pairs=in_pairs, bare=bare
            )
            if made.ok and _is_wanted(made, request):
                return replace(made, passed_over=tuple(passed)) if passed else made
            if made.ok:  # the size that saves copper may need the next family's terminals
                sound = sound or (replace(made, passed_over=tuple(passed)) if passed else made)
            passed.append(PassedOver(family=fuse.family.label, why=_reason(made)))
            first = first or (None if made.ok else made)
        if sound is not None:
            return sound
        if first is None or first.why != "wire" or request.held.size or request.path.branches:
            break
    if first is not None:
        return first
    return Sizing(request=request, ok=False, why="held" if request.held.fuse_a else "fuse")


def forget() -> None:
    """Forget every answer, so that the next ones are worked out anew: to measure and to test."""
    _kept.cache_clear()
    forget_ground()


def _is_wanted(made: Sizing, request: SizingRequest) -> bool:
    """Whether a sizing has the size that saves copper behind it, as far as one is asked for."""
    if request.wanted is None or request.held.size or made.chosen is None:
        return True
    return made.chosen.conductor.size == request.wanted


def _with_fuse(
    request: SizingRequest,
    fuse: FuseChoice,
    catalogue: Catalogue,
    whole_ladder: bool,
    above: int,
    *,
    in_pairs: bool,
    bare: bool,
) -> Sizing:
    """Return relay and wire behind one fuse."""
    relay, rating_a = _choose_relay(request, fuse, catalogue)
    if request.switching is not None and relay is None:
        return Sizing(request=request, ok=False, why="relay", fuse=fuse)
    contact_ohm = relay.contact_mohm * 1e-3 if relay else 0.0
    ground = survey_ground(request, fuse, contact_ohm, catalogue)
    held_pair = (request.held.size or "").startswith("2x")
    listed = catalogue.cables if in_pairs or held_pair else catalogue.wires
    sizes = listed(request.wire.system, request.wire.kind)
    capped_by = _cap(request, fuse, rating_a)
    if request.path.branches:
        grown = grow(sizes, request, fuse, ground, catalogue, bare=bare)
        return _branched(grown, request, fuse, relay, rating_a, capped_by, ground)
    if bare and not request.held.size:
        sizes = tuple(c for c in sizes if may_do(c, request, fuse, ground))
    ladder, at = climb(
        sizes,
        lambda conductor: rung(conductor, request, fuse, ground),
        request.held.size,
        whole_ladder=whole_ladder,
        above=EVERY if request.wanted else above,
    )
    if at is None:
        return Sizing(
            request=request,
            ok=False,
            why="ceiling" if capped_by else "wire",
            fuse=fuse,
            relay=relay,
            relay_rating_a=rating_a,
            ladder=ladder,
            capped_by=capped_by,
        )
    least, at = at, _wanted(request, ladder, at)
    if request.wanted:
        ladder = ladder[: at + above + 1]
    governs = ("copper",) if at > least else ladder[at - 1].rejects if at else ("minimum",)
    sized = Sizing(
        request=request,
        ok=True,
        why=None,
        fuse=fuse,
        relay=relay,
        relay_rating_a=rating_a,
        ladder=ladder,
        governs=governs,
        capped_by=capped_by,
    )
    return _on_rung(sized, ladder[at], fuse, ground)


def _on_rung(sized: Sizing, chosen: Rung, fuse: FuseChoice, ground: Ground) -> Sizing:
    """The sizing with the wire that was chosen: whether it holds, and what it loses."""
    request = sized.request
    why = _failure(chosen, fuse, sized.capped_by)
    upstream_ohm = request.upstream.resistance_ohm if request.upstream else 0.0
    return replace(
        sized,
        ok=why is None,
        why=why,
        chosen=chosen,
        own_ohm=chosen.wire_ohm + ground.fixed_ohm - upstream_ohm,
        path_drop_v=_path_drop_v(request, chosen, ground),
        prospective_a=_prospective_a(request, fuse, upstream_ohm),
    )


def _wanted(request: SizingRequest, ladder: tuple[Rung, ...], at: int) -> int:
    """The place of the size that saves copper behind, if every rule holds for it."""
    if request.wanted is None or request.held.size:
        return at
    sound = (
        n
        for n, step in enumerate(ladder)
        if n > at and not step.rejects and step.conductor.size == request.wanted
    )
    return next(sound, at)


def _prospective_a(request: SizingRequest, fuse: FuseChoice, upstream_ohm: float) -> float:
    """What a short just behind the fuse draws; a source that limits itself gives no more. [A]"""
    short_a = prospective_short_a(
        open_circuit_v=request.supply.open_circuit_v,
        ahead_ohm=request.supply.ohm + upstream_ohm,
        fuse_ohm=fuse.resistance_ohm,
    )
    limit_a = request.supply.limit_a
    return short_a if limit_a is None else min(short_a, limit_a)


def _path_drop_v(request: SizingRequest, chosen: Rung, ground: Ground) -> float:
    """Conductor drop, and what everything else in the path loses. [V]"""
    upstream = request.upstream or NOTHING_AHEAD
    own_ohm = ground.fixed_ohm - upstream.resistance_ohm - request.path.chassis_ohm
    return (
        chosen.conductor_drop_v
        + upstream.path_drop_v
        - upstream.conductor_drop_v
        + request.current_a * own_ohm
        + request.returns_a * request.path.chassis_ohm
    )


def _branched(
    grown: TrunkAndBranches,
    request: SizingRequest,
    fuse: FuseChoice,
    relay: Relay | None,
    relay_a: float | None,
    capped_by: Ceiling | None,
    ground: Ground,
) -> Sizing:
    """A tree with its sizes; one that does not work out still shows its nearest."""
    chosen = grown.ladder[grown.at]
    why = "ceiling" if capped_by is not None else None
    if why is None and (chosen.rejects or not grown.holds):
        why = "wire"
    if why is None and not (fuse.meets_load and fuse.meets_inrush):
        why = "fuse"
    upstream = request.upstream or NOTHING_AHEAD
    own_ohm = chosen.wire_ohm + ground.fixed_ohm - upstream.resistance_ohm
    sizing = Sizing(
        request=request,
        ok=why is None,
        why=why,
        fuse=fuse,
        relay=relay,
        relay_rating_a=relay_a,
        chosen=chosen,
        ladder=grown.ladder,
        governs=grown.governs,
        own_ohm=own_ohm,
        prospective_a=_prospective_a(request, fuse, upstream.resistance_ohm),
        capped_by=capped_by,
        branches=grown.branches,
    )
    worst = sizing.worst
    if worst is None:
        return sizing
    to_joint_v = _path_drop_v(request, chosen, ground) - chosen.conductor_drop_v
    path_drop_v = worst.path_drop_v + to_joint_v
    return replace(sizing, path_drop_v=path_drop_v)


def _choose_relay(
    request: SizingRequest, fuse: FuseChoice, catalogue: Catalogue
) -> tuple[Relay | None, float | None]:
    """The first relay whose contact, in this air, does for the duty; or the held one."""
    switching, held = request.switching, request.held.relay
    if switching is None:
        return None, None
    rated = rest_contact_rating_a if switching.rest_contact else contact_rating_a
    least_a = request.rule.contact_least_a(fuse.rating_a)
    for key in (held,) if held is not None else switching.relays:
        if key not in catalogue.relays:
            raise TableError(f"no relay {key!r} in the catalogue")
        relay = catalogue.relays[key]
        rating_a = rated(relay, request.relay_c)
        if rating_a >= least_a or held is not None:
            return with_coil_for(relay, request.coils_v), rating_a
    return None, None


def _cap(request: SizingRequest, fuse: FuseChoice, relay_a: float | None) -> Ceiling | None:
    """The lowest element behind the fuse that is rated under what it has to bear, if any."""
    weak = relay_a is not None and relay_a < request.rule.contact_least_a(fuse.rating_a)
    if not weak or relay_a is None:
        return lowest_under(request, fuse)
    contact = Ceiling(element=request.rule.contact_name, limit_a=relay_a)
    return lowest_under(request, fuse, (contact,))


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
    wanted = made.request.wanted
    misfits = [r for r in made.ladder if r.rejects == ("fit",)]
    misfit = next((r for r in misfits if wanted in (None, r.conductor.size)), None)
    if misfit is not None:
        return f"{misfit.conductor.label} does not fit its {fuse.family.mount.split(' up to')[0]}"
    for rule, words in (
        ("clearing", "a far short does not clear it"),
        ("withstand", "the wire does not outlast a far short"),
    ):
        if any(rule in r.rejects for r in made.ladder[-1:]):
            return words
    return "no wire size satisfies every rule"
