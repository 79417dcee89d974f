"""Where a circuit may start: what fits best, with the reason, and the next best."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job.accessory import Accessory, Channel
from ready_trail.core.job.document import Job
from ready_trail.core.job.points import BATTERY, Point
from ready_trail.core.supply.currents import Currents, load_currents_a
from ready_trail.core.supply.tree import Tree

SMALL_A = 10.0
"""Up to here a load behind a point that already follows the key needs no relay (house)."""

CUT_RATIO = 0.8
"""Share of its factory fuse that a cut wire is asked to carry (trade)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Start:
    """A place where a circuit may start, why, and how well it fits (smaller is better)."""

    channel: Channel
    name: str
    why: str
    rank: int


def starts_for(
    job: Job, accessory: Accessory, currents: Currents | None = None
) -> tuple[Start, ...]:
    """Return the places that fit an accessory, best first; the battery is always among them.

    ``currents`` are those of the job, where they are known already.
    """
    tree = Tree(job)
    currents = currents or Currents(tree)
    battery_fits = accessory.bears_v(job.vehicle.nominal_v)
    found = [
        Start(
            channel=Channel(point=BATTERY),
            name="the battery",
            why="Straight from the battery, with its own fuse there.",
            rank=40 if battery_fits else 90,
        )
    ]
    if accessory.model == "winch":
        return tuple(found)
    for point in job.points:
        start = _at(point, accessory, tree, currents)
        if start is not None:
            found.append(start)
    return tuple(sorted(found, key=lambda s: s.rank))


def best_start(job: Job, accessory: Accessory) -> Channel:
    """Return where a new accessory's circuit starts unless somebody says otherwise."""
    return starts_for(job, accessory)[0].channel


def free_position(job: Job, point: Point) -> str | None:
    """Return the first position that nothing uses and that is not kept as a spare."""
    used = {c.start.position for c in job.circuits if c.start.point == point.id}
    for position in point.positions:
        if position.name not in used and not position.spare:
            return position.name
    return None


def _at(point: Point, accessory: Accessory, tree: Tree, currents: Currents) -> Start | None:
    if not tree.is_fed(point.id):
        return None
    nominal_v = tree.nominal_v(point.id)
    if not accessory.bears_v(nominal_v):
        return None
    position = free_position(tree.job, point)
    if point.positions and position is None:
        return None
    amps = sum(load_currents_a((accessory,), nominal_v))
    if point.is_a.is_cut:
        fits = point.fuse_a is not None and amps <= CUT_RATIO * point.fuse_a
        why = "The factory fuse stays; a relay of ours stands in front of what it fed."
        at_cut = Channel(point=point.id, position=position or "")
        return Start(channel=at_cut, name=point.name, rank=60, why=why) if fits else None
    waking, use = tree.waking(point.id), accessory.use
    if waking.sleeps and not waking.gives(use):
        return None
    at = Channel(point=point.id, position=position or "")
    room_a = None if point.total_a is None else point.total_a - currents.total_a(point)
    if room_a is not None and amps > room_a:
        return None
    if point.is_a.keeps_output_v:
        return Start(
            channel=at,
            name=point.name,
            rank=30,
            why=f"It gives {nominal_v:g} V, which this accessory needs.",
        )
    if point.is_a.taps_a_circuit:
        fits = (
            point.fuse_a is not None
            and point.carries_a + currents.total_a(point) + amps <= 0.8 * point.fuse_a
        )
        return (
            Start(
                channel=at,
                name=point.name,
                rank=15,
                why="A proved feed with room, which follows the key by itself.",
            )
            if (fits and amps <= 2.0)
            else None
        )
    if point.is_a.is_block and waking.sleeps and amps <= SMALL_A:
        return Start(
            channel=at,
            name=point.name,
            rank=10,
            why="It wakes with the key, so a small load needs no relay.",
        )
    if point.is_a.is_block and not waking.sleeps:
        why = "One feeder serves the block; each circuit has its own fuse there."
        return Start(channel=at, name=point.name, rank=20, why=why)
    if point.is_a.is_block:
        return Start(channel=at, name=point.name, rank=25, why="The block follows the same key.")
    return None
