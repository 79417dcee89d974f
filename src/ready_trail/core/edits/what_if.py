"""What if: a few quantities of one circuit changed together, to look at or to keep."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ready_trail.core.edits.base import rebuilt, with_circuit
from ready_trail.core.edits.circuit import CircuitEdit
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.accessory import Accessory
from ready_trail.core.job.circuit import Circuit, Segment
from ready_trail.core.job.document import Job


class WhatIf(CircuitEdit):
    """Load, length, ambient and bundle of one circuit, all at once.

    The preview and the kept change are this same edit. ``ambient_c`` is that of the hottest
    segments, ``loaded_conductors`` that of the fullest; the run is stretched in proportion.
    """

    kind: Literal["what_if"] = "what_if"
    load_w: Annotated[float, Field(gt=0, le=20_000)] | None = None
    run_m: Annotated[float, Field(gt=0, le=100)] | None = None
    ambient_c: Annotated[float, Field(ge=-40, le=120)] | None = None
    loaded_conductors: Annotated[int, Field(ge=1, le=60)] | None = None
    ambients_c: tuple[float, ...] = ()

    def apply(self, job: Job) -> Job:
        """Return the job with these quantities."""
        circuit = self.circuit(job)
        if self.load_w is not None:
            job = _with_load(job, circuit, self.load_w)
        run = circuit.run
        changes: dict[str, object] = {}
        if self.run_m is not None:
            ratio = self.run_m / circuit.run_m
            run = tuple(rebuilt(s, length_m=round(s.length_m * ratio, 3), taped=False) for s in run)
            least_m = max(0.02, sum(s.length_m for s in run) - 0.01)
            changes["fuse_at_m"] = min(circuit.fuse_at_m, least_m / 2)
            changes["switching_at_m"] = min(circuit.switching_at_m, least_m)
        if self.ambient_c is not None and self.ambients_c:
            hottest_c = max(self.ambients_c)
            run = tuple(
                rebuilt(s, ambient_c=self.ambient_c) if was_c == hottest_c else s
                for s, was_c in zip(run, self.ambients_c, strict=False)
            )
        if self.loaded_conductors is not None:
            run = _with_bundle(run, self.loaded_conductors)
        return with_circuit(job, circuit, run=run, **changes)

    def title(self, job: Job) -> str:
        """List what is kept."""
        parts = []
        if self.load_w is not None:
            parts.append(f"{self.load_w:g} W")
        if self.run_m is not None:
            parts.append(f"{self.run_m:g} m")
        if self.ambient_c is not None:
            parts.append(f"{self.ambient_c:g} °C")
        if self.loaded_conductors is not None:
            parts.append(f"{self.loaded_conductors} loaded")
        return f"Keep what-if of {self.circuit(job).name}: {', '.join(parts)}"


def _with_load(job: Job, circuit: Circuit, load_w: float) -> Job:
    if circuit.is_feeder:
        raise EditRefusedError("load_w", "a feeder's load follows from what hangs on its point")
    accessories = list(job.loads_of(circuit))
    ratio = load_w / sum(a.rated_w for a in accessories)
    changed = {
        i: _scaled_part(job.accessory(i), circuit.output, ratio) for i in circuit.accessory_ids
    }
    return rebuilt(job, accessories=tuple(changed.get(a.id, a) for a in job.accessories))


def _scaled_part(accessory: Accessory, output: str, ratio: float) -> Accessory:
    """Scale what a circuit feeds: all outputs of an accessory, or one of them."""
    outputs = tuple(
        rebuilt(o, watts=_scaled(o.watts, ratio), amps=_scaled(o.amps, ratio))
        if output in ("", o.name)
        else o
        for o in accessory.outputs
    )
    if not outputs:
        return rebuilt(
            accessory, watts=_scaled(accessory.watts, ratio), amps=_scaled(accessory.amps, ratio)
        )
    watts = None if accessory.watts is None else sum(o.watts or 0.0 for o in outputs)
    amps = None if accessory.amps is None else sum(o.amps or 0.0 for o in outputs)
    return rebuilt(accessory, watts=watts, amps=amps, outputs=outputs)


def _scaled(value: float | None, ratio: float) -> float | None:
    return None if value is None else round(value * ratio, 4)


def _with_bundle(run: tuple[Segment, ...], loaded: int) -> tuple[Segment, ...]:
    fullest = max(s.loaded_conductors for s in run)
    return tuple(
        rebuilt(s, loaded_conductors=loaded) if s.loaded_conductors == fullest else s for s in run
    )
