"""A battery disconnect: the main cable over it, and the proof that it parts what it should."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.budget.parting import parting
from ready_trail.core.build.steps.base import Step, Yard

_SPARK = "Nothing is fused here: tools taped, rings off, no wire free to touch metal."
_RUNNING = "Never open it with the engine running: the surge can destroy electronics."
_PARTED_V, _JOINED_V = "under 0.5 V", "at most 0.05 V"


def steps(yard: Yard) -> Iterator[Step]:
    """Yield the main cable's step and the disconnect's own test."""
    made = yard.made
    for point in made.job.points:
        if not point.is_a.parts_battery:
            continue
        ref = made.plan.refs[point.id]
        found = parting(point, made.job, made.plan.tree, made.plan.currents)
        takes_cable = point.vehicle_behind and made.plan.tree.main_post is None
        link = f"A link as thick as the battery cable: battery's + post to {ref} battery post."
        cable = (
            f"The vehicle's + cable off its post and on {ref} battery cable.",
            link,
        )
        yield Step(
            id=f"battery:{ref}",
            stage="battery",
            site=yard.sites.of(ref),
            title=f"Main cable over {point.name}",
            doing=(
                *(cable if takes_cable else (link,)),
                "Open it before the battery goes on; boots on both studs.",
                *(("It sits upright, as its maker wants.",) if point.upright else ()),
            ),
            tools=("torque wrench",),
            torques=((f"{ref} studs", point.torque_nm),),
            cautions=(_SPARK, "Out of reach of knees, luggage and passengers."),
            minutes=20.0,
            refs=(ref,),
            parts=tuple(k for k in yard.keys_of_ref.get(ref, ()) if k == "battery-link"),
        )
        how = (
            f"Pulse {point.pulse_switch} I closes it, II opens it; it clicks and stays."
            if point.pulse_switch
            else "By hand: it snaps, and stays."
        )
        alive = ", ".join(c.name for c in found.lives)
        yield Step(
            id=f"part:{ref}",
            stage="first_power",
            site=yard.sites.of(ref),
            title=f"Prove {point.name}",
            doing=(how, f"Open, these stay live: {alive}." if alive else "Open, nothing is live."),
            tools=("meter",),
            cautions=(_RUNNING,),
            expects=(
                (f"Open, {ref} battery cable to the battery's negative", _PARTED_V),
                (f"Closed, across {ref} with a few amps on", _JOINED_V),
            ),
            minutes=5.0,
            refs=(ref,),
        )
