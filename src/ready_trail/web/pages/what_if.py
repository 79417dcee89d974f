"""The what-if sliders: where they stand, how far they go, and the edit that they mean."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated

from pydantic import BaseModel, Field

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign
from ready_trail.core.edits import WhatIf
from ready_trail.core.job.zones import zone_ambient_c
from ready_trail.web.fields import build


class _Feed(BaseModel):
    feed_v: Annotated[float, Field(ge=6, le=60)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Slider:
    """One slider. ``value`` is where it stands, ``base`` what the job states."""

    name: str
    label: str
    unit: str
    low: float
    high: float
    step: float
    base: float
    value: float

    @property
    def moved(self) -> bool:
        """Whether it stands elsewhere than the job; a browser snaps it to the nearest step."""
        return abs(self.value - self.base) > self.step * 0.51


@dataclass(frozen=True, slots=True, kw_only=True)
class WhatIfView:
    """All sliders of a circuit. ``feed_v`` is None while the feed is as designed."""

    sliders: tuple[Slider, ...]
    edit: WhatIf | None
    feed_v: float | None
    is_placed: bool = False

    @property
    def active(self) -> bool:
        """Whether anything differs from the job."""
        return self.edit is not None or self.feed_v is not None

    @property
    def can_be_kept(self) -> bool:
        """Whether keeping would last: a layout gives the run anew, so only the load would."""
        if self.edit is None or not self.is_placed:
            return self.edit is not None
        edit = self.edit
        return edit.run_m is None and edit.ambient_c is None and edit.loaded_conductors is None

    @property
    def query(self) -> dict[str, str]:
        """The moved sliders as a query."""
        return {s.name: f"{s.value:g}" for s in self.sliders if s.moved}


def what_if_of(design: CircuitDesign, catalogue: Catalogue, asked: Mapping[str, str]) -> WhatIfView:
    """Return the sliders for a circuit as the query sets them.

    Raises FieldsRefusedError for a figure that is not one, or out of range.
    """
    circuit = design.circuit
    ambients = tuple(zone_ambient_c(s, catalogue) for s in circuit.run)
    base = {
        "load_w": sum(a.rated_w for a in design.accessories) or 1.0,
        "run_m": circuit.run_m,
        "ambient_c": max(ambients),
        "loaded_conductors": float(max(s.loaded_conductors for s in circuit.run)),
    }
    stated = {name: asked[name] for name in base if asked.get(name)}
    edit = build(WhatIf, {"circuit_id": circuit.id, "ambients_c": ambients, **stated})
    values = {n: float(getattr(edit, n)) if n in stated else base[n] for n in base}
    scale = design.sizing.request.supply.nominal_v / 12
    posts_v = round((design.profile.posts_v if design.profile else 12.7 * scale), 1)
    feed = build(_Feed, {"feed_v": asked["feed_v"]}).feed_v if asked.get("feed_v") else None
    feed_v = feed if feed is not None else posts_v
    sliders = _sliders(design, base, values, posts_v=posts_v, feed_v=feed_v)
    moved = {s.name for s in sliders if s.moved}
    kept = edit.model_copy(update={n: None for n in base if n not in moved})
    changed = bool(moved - {"feed_v"})
    return WhatIfView(
        sliders=sliders,
        edit=kept if changed else None,
        feed_v=feed if "feed_v" in moved else None,
        is_placed=circuit.place is not None,
    )


def _slider(
    name: str,
    label: str,
    unit: str,
    base: Mapping[str, float],
    values: Mapping[str, float],
    low: float,
    high: float,
    *,
    step: float,
) -> Slider:
    """A slider from a share to a multiple of what the job states, on whole steps."""
    if base[name] < 10 and step >= 1:
        step = 0.1
    least = max(step, round(base[name] * low / step) * step)
    most = max(least + step, round(base[name] * high / step) * step)
    if values[name] != base[name]:
        least, most = min(least, values[name]), max(most, values[name])
    return Slider(
        name=name,
        label=label,
        unit=unit,
        low=round(least, 3),
        high=round(most, 3),
        step=step,
        base=round(base[name], 2),
        value=round(values[name], 2),
    )


def _sliders(
    design: CircuitDesign,
    base: Mapping[str, float],
    values: Mapping[str, float],
    *,
    posts_v: float,
    feed_v: float,
) -> tuple[Slider, ...]:
    """What can be moved of a circuit. [V]"""
    scale = design.sizing.request.supply.nominal_v / 12
    sliders: tuple[Slider, ...] = (
        _slider("load_w", "Load", "W", base, values, 0.2, 2.5, step=1.0),
        _slider("run_m", "Run out", "m", base, values, 0.2, 3.0, step=0.1),
        Slider(
            name="ambient_c",
            label="Hottest air",
            unit="°C",
            low=0,
            high=115,
            step=1,
            base=base["ambient_c"],
            value=values["ambient_c"],
        ),
        Slider(
            name="loaded_conductors",
            label="In the loom",
            unit="",
            low=1,
            high=12,
            step=1,
            base=base["loaded_conductors"],
            value=values["loaded_conductors"],
        ),
        Slider(
            name="feed_v",
            label="Feed",
            unit="V",
            low=9.5 * scale,
            high=15 * scale,
            step=0.1,
            base=posts_v,
            value=feed_v,
        ),
    )
    if design.feeds is not None:  # a feeder's load follows from what hangs on its point
        return sliders[1:]
    return sliders
