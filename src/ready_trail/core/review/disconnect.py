"""Review of battery disconnects: what they bear, what works them, what they leave alive."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.budget.parting import Parting, parting
from ready_trail.core.edits import ChangePoint, ChangeSwitch
from ready_trail.core.job import Point
from ready_trail.core.outcome import Action, Design, Finding
from ready_trail.core.review.base import BudgetCheck

AREA = "source"
_SIZES_A = (50, 75, 100, 150, 200, 250, 300, 400, 500, 600, 800, 1000, 1200, 1600, 2000, 2500)
_NAMED_MOST = 4


def check_ratings(made: Design) -> Iterator[Finding]:
    """What flows for long, while winching and while cranking, against what it is rated for."""
    for point in _disconnects(made):
        found = _parting(made, point)
        ref = made.plan.refs[point.id]
        rows = (
            ("total_a", found.flows_a, point.total_a, "for long", "It heats and welds or melts."),
            (
                "surge_a",
                found.surges_a,
                point.surge_a or point.total_a,
                "while the winch pulls",
                "Its contact welds: it can never be opened again.",
            ),
            (
                "cranking_a",
                found.cranking_a or 0.0,
                point.cranking_a or point.surge_a or point.total_a,
                "while the engine is cranked",
                "Its contact welds, or the engine does not start.",
            ),
        )
        for field, flows_a, bears_a, when, why in rows:
            if not flows_a or (bears_a is not None and flows_a <= bears_a):
                continue
            stated = bears_a is not None
            code = "disconnect_rating" if stated else "disconnect_unrated"
            yield Finding(
                code=code,
                area=AREA,
                place=ref,
                severity="stop" if stated else "caution",
                text=f"{point.name} carries more {when} than it is rated for."
                if stated
                else f"Nobody has said what {point.name} bears {when}.",
                why=why,
                found=f"{flows_a:.0f} A",
                allowed=f"{bears_a:.0f} A" if bears_a is not None else "",
                actions=_larger(point, field, flows_a, when),
            )


def _larger(point: Point, field: str, flows_a: float, when: str) -> tuple[Action, ...]:
    size = next((s for s in _SIZES_A if s >= flows_a), None)
    if size is None:
        return ()
    edit = ChangePoint(point=point.model_copy(update={field: float(size)}))
    return (Action(label=f"Take one that bears {size} A {when}", edit=edit),)


def check_pulse(made: Design) -> Iterator[Finding]:
    """A coil that latches takes a pulse: its switch springs back, and nobody leans on it."""
    for point in _disconnects(made):
        switch = made.job.switch(point.pulse_switch)
        if switch is None:
            continue
        ref = made.plan.refs[f"switch {switch.name}"]
        if not switch.momentary:
            sprung = switch.model_copy(update={"momentary": True})
            yield Finding(
                code="pulse_latches",
                area=AREA,
                place=ref,
                severity="stop",
                text=f"{switch.name} stays where it is put; {point.name} is made for a pulse.",
                why="Its coil burns out within minutes of steady current.",
                actions=(
                    Action(
                        label="Take one that springs back",
                        edit=ChangeSwitch(was=switch.name, switch=sprung),
                    ),
                ),
            )
        if not switch.guarded:
            guarded = switch.model_copy(update={"guarded": True})
            yield Finding(
                code="pulse_unguarded",
                area=AREA,
                place=ref,
                severity="caution",
                text=f"{switch.name} can part the battery by accident.",
                why="Opened with the engine running, the alternator's surge can destroy "
                "electronics; on the road everything goes dark.",
                actions=(
                    Action(
                        label="Guard the switch",
                        edit=ChangeSwitch(was=switch.name, switch=guarded),
                    ),
                ),
            )


def check_alive(made: Design) -> Iterator[Finding]:
    """Say what is still live with the disconnect open: nobody should find out by touching it."""
    for point in _disconnects(made):
        found = _parting(made, point)
        names = [c.name for c in found.lives]
        more = f" and {len(names) - _NAMED_MOST} more" if len(names) > _NAMED_MOST else ""
        alive = ", ".join(names[:_NAMED_MOST]) + more
        if not made.plan.tree.parts_vehicle(point):
            alive = f"the vehicle itself{', ' if alive else ''}{alive}"
        yield Finding(
            code="disconnect_alive",
            area=AREA,
            place=made.plan.refs[point.id],
            severity="note",
            text=f"With {point.name} open, these stay live: {alive}."
            if alive
            else f"With {point.name} open, nothing stays live.",
            why="Work on them asks for the battery's negative clamp off."
            if alive
            else "Clocks, radios and alarms forget: what keeps a memory starts at the battery.",
        )


def _disconnects(made: Design) -> tuple[Point, ...]:
    return tuple(p for p in made.job.points if p.is_a.parts_battery)


def _parting(made: Design, point: Point) -> Parting:
    return parting(point, made.job, made.plan.tree, made.plan.currents)


CHECKS: tuple[BudgetCheck, ...] = (check_ratings, check_pulse, check_alive)
