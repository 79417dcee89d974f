"""Why each size is what it is, in words: what governs, what the next size down would violate."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ready_trail.core.fuses import temperature_ratio
from ready_trail.core.sizing import (
    BranchSizing,
    FuseChoice,
    Rung,
    Sizing,
    WinchPull,
)
from ready_trail.drawing import words

RULE_WORDS = {
    "ampacity": "ampacity",
    "return": "what comes back through its earth wire",
    "short_time": "short-time ampacity",
    "drop": "conductor drop",
    "minimum": "mechanical minimum",
    "fit": "what the holder takes",
    "withstand": "short-circuit withstand",
    "clearing": "clearing a far short",
    "branches": "what its branches need",
    "copper": "the least copper of trunk and branches together",
    "twins": "wire as thick as that of equal units",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class LadderRow:
    """One size of the ladder; a figure with a reject mark is what rules it out."""

    size: str
    value: str
    carries: str
    carries_fails: bool
    drop: str
    drop_fails: bool
    mass: str
    other_fails: str
    chosen: bool


def governs_words(sizing: Sizing) -> str:
    """``Ampacity and conductor drop decide.``"""
    names = [RULE_WORDS[name] for name in sizing.governs]
    text = " and ".join(names) if len(names) < 3 else ", ".join(names[:-1]) + f" and {names[-1]}"
    return f"{text[:1].upper()}{text[1:]} {'decides' if len(names) == 1 else 'decide'}."


def wire_reasons(sizing: Sizing) -> tuple[str, ...]:
    """Sentences for the wire: what governs, and what one size down would do."""
    chosen, fuse = sizing.chosen, sizing.fuse
    if chosen is None or fuse is None:
        return ()
    reasons = []
    if sizing.request.held.size:
        reasons.append(f"{chosen.conductor.label} is held by hand.")
        if chosen.rejects:
            broken = ", ".join(RULE_WORDS[name] for name in chosen.rejects)
            reasons.append(f"It does not satisfy: {broken}.")
    else:
        reasons.append(governs_words(sizing))
    below = _below(sizing)
    if below is not None and sizing.governs == ("copper",):
        reasons.append(
            f"{below.conductor.label} would work too, but its branches would then take more copper "
            "than it saves."
        )
    elif below is not None:
        reasons.append(_failings(below, sizing, fuse))
    return tuple(reasons)


def _below(sizing: Sizing) -> Rung | None:
    for at, rung in enumerate(sizing.ladder):
        if sizing.chosen is rung:
            return sizing.ladder[at - 1] if at else None
    return None


def _failings(rung: Rung, sizing: Sizing, fuse: FuseChoice) -> str:
    request = sizing.request
    texts = {
        "ampacity": f"carries {words.amps(rung.ampacity_a)}, and the fuse lets "
        f"{words.rating(fuse.rating_a)} through",
        "return": f"carries less than the {words.amps(request.path.back_least_a)} that come back "
        "through its earth wire in a short",
        "short_time": f"carries {words.amps(rung.ampacity_a)} for the time of the pull",
        "drop": f"loses {words.volts(rung.conductor_drop_v)} of "
        f"{words.volts(request.drop_limit_v)} allowed",
        "minimum": f"is thinner than {request.wire.minimum_mm2:g} mm²",
        "fit": "does not fit the holder",
        "withstand": "does not outlast a short at its far end",
        "clearing": f"lets only {words.amps(rung.far_short_a)} flow in a far short",
        "branches": "leaves its branches no size that works",
    }
    parts = [texts[name] for name in rung.rejects]
    if not parts:
        return f"One size down, {rung.conductor.label}, would do as well."
    return f"One size down, {rung.conductor.label} {'; it '.join(parts)}."


def branch_reasons(sized: BranchSizing, sizing: Sizing) -> tuple[str, ...]:
    """Sentences for a branch: what governs, and what one size down would do."""
    fuse = sizing.fuse
    if fuse is None:
        return ()
    if sized.stretch.held is not None:
        return (f"{sized.chosen.conductor.label} is held by hand.",)
    if sized.governs == ("copper",):
        return ("A size down would work here; in all it would take more copper.",)
    if sized.governs == ("twins",):
        alone = next((r for r in sized.ladder if not r.rejects), sized.chosen)
        more = words.grams(sized.chosen.mass_g - alone.mass_g)
        return (
            f"Equal units get equal wire: {alone.conductor.label} would do here, and another of "
            f"them needs {sized.chosen.conductor.label}. That costs {more} of copper.",
        )
    names = " and ".join(RULE_WORDS[name] for name in sized.governs)
    verb = "decides" if len(sized.governs) == 1 else "decide"
    reasons = [f"{names[:1].upper()}{names[1:]} {verb}."]
    at = next((n for n, r in enumerate(sized.ladder) if r is sized.chosen), 0)
    if at:
        request = replace(
            sizing.request,
            drop_limit_v=sized.stretch.drop_limit_v,
            wire=replace(sizing.request.wire, minimum_mm2=sized.stretch.minimum_mm2),
        )
        reasons.append(_failings(sized.ladder[at - 1], replace(sizing, request=request), fuse))
    reasons.append(
        f"The {words.rating(fuse.rating_a)} fuse ahead of the joint protects it, so it carries "
        "that too."
    )
    return tuple(reasons)


def wire_source(sizing: Sizing) -> str:
    """Where the wire's figures come from."""
    chosen, request = sizing.chosen, sizing.request
    if chosen is None:
        return ""
    return (
        f"{request.wire.insulation_c} °C insulation; ampacity {chosen.conductor.ampacity_source}, "
        f"corrected for ambient and bundle; resistance {chosen.conductor.source}."
    )


def ladder_rows(sizing: Sizing, *, around: int = 2) -> tuple[LadderRow, ...]:
    """The sizes around the chosen one, thin to thick."""
    return rung_rows(sizing.ladder, sizing.chosen, around=around)


def rung_rows(
    ladder: tuple[Rung, ...], chosen: Rung | None, *, around: int = 2
) -> tuple[LadderRow, ...]:
    """The rungs around one of them, thin to thick."""
    if not ladder:
        return ()
    at = next((i for i, r in enumerate(ladder) if r is chosen), 0)
    low = max(0, min(at - around, len(ladder) - 2 * around - 1))
    rows = []
    for rung in ladder[low : low + 2 * around + 1]:
        others = [
            RULE_WORDS[r] for r in rung.rejects if r not in ("ampacity", "short_time", "drop")
        ]
        rows.append(
            LadderRow(
                size=rung.conductor.size,
                value=rung.conductor.label,
                carries=f"{rung.ampacity_a:.0f}",
                carries_fails="ampacity" in rung.rejects or "short_time" in rung.rejects,
                drop=f"{rung.conductor_drop_v:.2f}",
                drop_fails="drop" in rung.rejects,
                mass=f"{rung.mass_g:.0f}",
                other_fails=", ".join(others),
                chosen=rung is chosen,
            )
        )
    return tuple(rows)


def fuse_reasons(sizing: Sizing, *, is_feeder: bool = False) -> tuple[str, ...]:
    """Sentences for the fuse: floor, ceiling, short circuit."""
    fuse, request = sizing.fuse, sizing.request
    if fuse is None:
        return ()
    if isinstance(winch := request.rule, WinchPull):
        floor = (
            f"It holds the stall current of {words.amps(winch.stall_a)} for {winch.stall_s:g} s "
            f"and the rated pull of {words.amps(winch.full_a)} for {winch.on_s:g} s."
        )
    else:
        k_temp = temperature_ratio(request.fusing.holder_c)
        load = "What runs together behind it is" if is_feeder else "The load is"
        floor = (
            f"Of its {words.rating(fuse.rating_a)} it holds {words.amps(fuse.holds_a)}: "
            f"×{words.NBSP}{request.rule.share:.2f} for {request.rule.duty} duty, "
            f"×{words.NBSP}{k_temp:.2f} at {request.fusing.holder_c:.0f}{words.NBSP}°C. "
            f"{load} {words.amps(request.current_a)}."
        )
    reasons = [f"{words.rating(fuse.rating_a)} is held by hand." if request.held.fuse_a else floor]
    if request.held.fuse_a:
        reasons.append(floor)
    if fuse.below_rating_a is not None and fuse.below_reason != "minimum":
        what = {
            "load": "would not hold the load",
            "inrush": "might open at the start",
            "stall": "would open in a stall",
        }[fuse.below_reason]
        reasons.append(f"One rating down, {words.rating(fuse.below_rating_a)} {what}.")
    elif fuse.below_reason == "minimum":
        reasons.append("Smaller ratings hold it too; the house stocks nothing smaller.")
    reasons += [f"{p.family} was passed over: {p.why}." for p in sizing.passed_over]
    if fuse.by_maker:
        reasons.append("The maker's own largest fuse is taken: the maker knows the duty.")
    chosen = sizing.deciding
    if chosen is not None:
        behind = [f"the wire carries {words.amps(chosen.ampacity_a)}"]
        if sizing.relay_rating_a is not None:
            behind.append(f"the relay contact {words.amps(sizing.relay_rating_a)}")
        behind += [f"{c.element} {words.amps(c.limit_a)}" for c in request.fusing.ceilings]
        reasons.append(f"Behind it, {', '.join(behind)}.")
        reasons.append(
            f"A dead short at the far end draws {words.amps(chosen.far_short_a)} and opens it "
            f"within {_seconds(chosen.far_short_opens_s)}; the insulation lasts "
            f"{_seconds(chosen.withstand_s)}. Just behind the fuse it is "
            f"{words.amps(sizing.prospective_a)} of {fuse.family.interrupting_a:.0f} A."
        )
    return tuple(reasons)


def relay_reasons(sizing: Sizing) -> tuple[str, ...]:
    """Sentences for the relay."""
    relay, fuse, request = sizing.relay, sizing.fuse, sizing.request
    if relay is None or fuse is None or sizing.relay_rating_a is None:
        return ()
    relay_c, winch = request.relay_c, request.rule
    need_a, for_what = fuse.rating_a, "the fuse"
    if isinstance(winch, WinchPull):
        need_a, for_what = winch.full_a, "the rated pull"
    first = f"{relay.label} is held by hand. " if request.held.relay else ""
    if isinstance(winch, WinchPull) and winch.own_contactor and not request.held.relay:
        return ("The winch's own contactor counts as rated for it; it is drawn as one.",)
    return (
        f"{first}Its contact carries {words.amps(sizing.relay_rating_a)} at {relay_c:.0f} °C; "
        f"{for_what} asks for {words.rating(need_a)}.",
    )


def _seconds(value: float) -> str:
    if value > 3600:
        return "over an hour"
    return f"{value * 1000:.0f} ms" if value < 1 else f"{value:.1f} s"
