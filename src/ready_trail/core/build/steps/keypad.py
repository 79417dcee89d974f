"""A keypad's cable: as supplied, through the firewall, away from what carries current."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.steps.base import Step, Yard


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each module with a keypad."""
    made = yard.made
    for point in made.job.points:
        if not point.is_a.has_keypad:
            continue
        ref = made.plan.refs[point.id]
        pad = f"{ref}K"
        named = ((p.name, made.job.legend(point, p)) for p in point.positions)
        legends = tuple(f"{name}: {legend}" for name, legend in named if legend)
        through = "" if point.zone == "cabin" else ", through the firewall by a grommet of its size"
        yield Step(
            id=f"keypad:{pad}",
            stage="control",
            site=yard.sites.of(pad),
            title=f"Keypad cable of {point.name}",
            doing=(
                f"The cable as supplied from {ref} to {pad}{through}.",
                "Neither cut nor spliced; what is over lies in a loose coil; plugs in last.",
                *((f"Legends: {', '.join(legends)}.",) if legends else ()),
            ),
            cautions=("On the other side from heavy feeds where there is a choice.",),
            minutes=15.0,
            refs=(pad,),
        )
