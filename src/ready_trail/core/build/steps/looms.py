"""Lay the wires from their dead ends back, then sleeve and clip, leg by leg."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.cuts import sleeve_words
from ready_trail.core.build.steps.base import Step, Yard, by_site, circuits_of, end_words
from ready_trail.core.looms import Loom

_LAY_MINUTES, _END_MINUTES = 2.0, 3.0
_UNDER = "Under the vehicle: stands on hard ground, never only a jack."
_HEAT = "Keep away from exhaust, edges and what moves; slack, but no coil in a corner."


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each place where wires have their dead ends, then the sleeves."""
    groups = by_site(yard, ((w, yard.first_end(w)) for w in yard.wires.values()))
    for key, (site, wires) in groups.items():
        ends = [yard.end_at(w, yard.first_end(w)) for w in wires]
        ways = dict.fromkeys(
            yard.cuts.loom_names[leg] for w in wires for leg in yard.cut_of[w.label].looms
        )
        doing = [end_words(yard, w, yard.first_end(w)) for w in wires]
        if ways:
            doing.append("Lead back by: " + "; ".join(ways))
        zones = {p.zone for w in wires for p in w.pieces}
        cautions = (_HEAT, *((_UNDER,) if "underbody" in zones else ()))
        yield Step(
            id=f"lay:{key}",
            stage="looms",
            site=site,
            title=f"First ends here, then lay {len(wires)} wire{'s' if len(wires) > 1 else ''}",
            doing=tuple(doing),
            tools=("crimper", *sorted({e.die for e in ends if e.count})),
            torques=yard.torques(ends),
            cautions=cautions,
            minutes=(_LAY_MINUTES + _END_MINUTES) * len(wires),
            circuits=circuits_of(wires),
            first=tuple(w.label for w in wires),
            lays=tuple(w.label for w in wires),
            parts=tuple(
                dict.fromkeys(k for w in wires for k in yard.keys_at(w, yard.first_end(w)))
            ),
        )


def sleeve_steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each zone with looms, and one for sleeves where there is no layout."""
    in_looms = set()
    by_zone: dict[str, list[int]] = {}
    for at, loom in enumerate(yard.cuts.looms):
        by_zone.setdefault(loom.leg.zone, []).append(at)
    soft = [line.key for line in yard.lines if line.key.startswith("sleeve-") or line.key == "clip"]
    for zone, places in by_zone.items():
        looms = [yard.cuts.looms[at] for at in places]
        inside = tuple(
            dict.fromkeys(w.label for loom in looms for w in loom.wires if w.label in yard.wires)
        )
        in_looms |= set(inside)
        yield Step(
            id=f"sleeve:{zone}",
            stage="sleeves",
            site=yard.sites.zone(zone),
            title=f"Sleeve and clip {len(looms)} leg{'s' if len(looms) > 1 else ''}",
            doing=tuple(
                f"{yard.cuts.loom_names[x.leg.id]}: {len(x.wires)} wires, "
                f"{sleeve_words(x) or 'no sleeve, tied'}, {x.length_m:.2f} m, {x.clips} clips"
                for x in looms
            ),
            tools=("clips", "scissors"),
            minutes=sum(2.0 + 3.0 * x.length_m for x in looms),
            sleeves=inside,
            parts=tuple(k for k in soft if _used(k, looms, yard)),
        )
    bare = tuple(label for label in yard.wires if label not in in_looms)
    if yard.made.job.layout is None and bare:
        yield Step(
            id="sleeve:all",
            stage="sleeves",
            site=yard.sites.zone(""),
            title="Sleeve and clip the looms",
            tools=("clips", "scissors"),
            doing=("Close the sleeves; a clip at least every 250 mm.",),
            minutes=20.0,
            sleeves=bare,
            parts=tuple(soft),
        )


def _used(key: str, looms: list[Loom], yard: Yard) -> bool:
    """Whether a sleeve or clip of the parts list goes on some legs."""
    if key == "clip":
        return True
    if key == "sleeve-heat":
        return any(x.leg.heat_sleeve for x in looms) or any(
            s.heat_sleeve for c in yard.made.routed.circuits for s in c.segments
        )
    return any(key.endswith(f"-{x.sleeve.size_mm:g}") for x in looms if x.sleeve is not None)
