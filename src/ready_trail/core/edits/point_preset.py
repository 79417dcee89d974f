"""A usual point, as the list of presets offers it."""

from __future__ import annotations

from typing import Any

from ready_trail.core.catalogue import PointPreset
from ready_trail.core.edits.base import free_point_name
from ready_trail.core.edits.supply import AddSupply, PointDraft
from ready_trail.core.job.accessory import Use
from ready_trail.core.job.document import Job
from ready_trail.core.job.points import Position, Switch
from ready_trail.core.job.vehicle import Battery
from ready_trail.core.kinds.points import POINT_KINDS


def from_preset(preset: PointPreset, job: Job) -> AddSupply:
    """Return the edit that adds a preset's point."""
    ratings = preset.ratings_a
    positions = tuple(
        Position(
            name=str(at + 1),
            rating_a=ratings[at] if at < len(ratings) else (ratings[-1] if ratings else None),
        )
        for at in range(preset.positions)
    )
    kind = POINT_KINDS[preset.kind]
    name = free_point_name(job, preset.name)
    document: dict[str, Any] = {
        "kind": preset.kind,
        "name": name,
        "zone": preset.zone,
        "positions": positions,
        "total_a": preset.total_a,
        "continuous_a": preset.continuous_a,
        "fuse_a": preset.fuse_a,
        "earth_bus": preset.earth_bus,
        "output_v": int(preset.output_v or 0) or None,
        "output_a": preset.output_a,
        **preset.states,
    }
    if not job.vehicle.has_cabin and preset.zone in ("cabin", "engine_bay"):
        document["zone"] = "engine_bay"
    if kind.stores:
        document["battery"] = Battery(capacity_ah=100, resistance_mohm=5)
    if kind.fed_by_vehicle or kind.charges:
        document["key"] = preset.wake
    switches = (
        tuple(
            Switch.model_validate(
                {
                    "name": f"{name} {p.name}"[:60],
                    "rating_a": preset.switch_a or 20.0,
                    "lamp": preset.lamp or "none",
                },
            )
            for p in positions
        )
        if preset.switch_a
        else ()
    )
    asleep = not kind.fed_by_vehicle
    woken = preset.wake
    if kind.has_switches:
        woken = "run" if job.rules.panel_feed == "keyed" else "always"
    wake = Use.model_validate({"key": woken if asleep else "always"})
    return AddSupply(point=PointDraft.model_validate(document), wake=wake, new_switches=switches)
