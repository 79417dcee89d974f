"""A battery that was moved: its cable over the post where it stood, and the proof of both ways."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.steps.base import Step, Yard
from ready_trail.core.supply.own_load import starting_a

_JOINTS_V = 0.1
"""What four well pressed lugs lose together at a starter's current (house)."""


def steps(yard: Yard) -> Iterator[Step]:
    """Yield the battery's seat, the vehicle's cable on its post, and the test while cranking."""
    made = yard.made
    post = made.plan.tree.main_post
    feeder = made.plan.tree.feeders.get(post.id) if post is not None else None
    if post is None or feeder is None:
        return
    ref, cable = made.plan.refs[post.id], made.circuit(feeder.id)
    size = cable.sizing.chosen.conductor.label if cable.sizing.chosen is not None else "as thick"
    cranking_a = starting_a(made.job.vehicle)
    yield Step(
        id=f"seat:{ref}",
        stage="mount",
        site=yard.battery,
        title="Seat the battery in its new place",
        doing=(
            "A tray bolted to the structure, a clamp over the battery; it cannot shift in a crash.",
            f"Its negative on the body beside it by a cable of {size}, bright metal under it.",
            "A grommet at every sheet-metal hole; the cable clipped clear of exhaust and seats.",
        ),
        tools=("spanner", "drill", "wire brush"),
        cautions=(
            "Among people: a sealed one, or a box with a vent to the outside.",
            "The strap from engine to body carries all the cranking now: make it as thick.",
        ),
        minutes=60.0,
    )
    yield Step(
        id=f"vehicle:{ref}",
        stage="battery",
        site=yard.sites.of(ref),
        title=f"The vehicle's + cables on {post.name}",
        doing=(
            f"All that sat on the battery's + clamp goes on {ref}; boots over it.",
            "Both fuses of the long cable stay out until all else is done.",
        ),
        tools=("torque wrench",),
        torques=((f"{ref} stud", post.torque_nm),),
        cautions=("The alternator feeds this end: it is live while the engine runs.",),
        minutes=15.0,
        refs=(ref,),
    )
    yield Step(
        id=f"crank:{ref}",
        stage="first_power",
        site=yard.sites.of(ref),
        title="Crank over the long cable",
        doing=("Meter on both ends while someone cranks for three seconds.",),
        tools=("meter",),
        cautions=("Out of gear, hands and meter leads clear of belts and fan.",),
        expects=(
            (
                f"Battery + to {ref}, about {cranking_a:.0f} A flowing",
                f"at most {_lost_v(yard, feeder.id, cranking_a):.2f} V",
            ),
            ("Engine block to battery -, the same way", "at most 0.3 V"),
        ),
        minutes=5.0,
        refs=(ref,),
    )


def _lost_v(yard: Yard, feeder_id: str, cranking_a: float) -> float:
    """The most that cable, fuses and good joints lose while cranking. [V]"""
    cable = yard.made.circuit(feeder_id)
    if cable.profile is None or not cable.profile.current_a:
        return 0.5
    ways = sum(s.drop_v for s in cable.profile.outward if not s.is_made_by_hand)
    return ways * cranking_a / cable.profile.current_a + _JOINTS_V
