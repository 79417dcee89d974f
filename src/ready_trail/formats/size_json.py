"""Quick size as JSON: one object of plain inputs in, one object of figures out."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import WireKind
from ready_trail.core.fuses import families_for
from ready_trail.core.job.parts import InsulationClass, NominalVolts
from ready_trail.core.relays import relays_for
from ready_trail.core.sizing import (
    DROP_LIMIT_RATIO,
    Fusing,
    Held,
    Leg,
    Path,
    Sizing,
    SizingRequest,
    Steady,
    Supply,
    Switching,
    WireAsked,
    size,
)

_RELAY_LEGS_CRIMPS, _RELAY_LEGS_LUGS = 4, 2
Amps = Annotated[float, Field(ge=0.01, le=1000)]
Metres = Annotated[float, Field(ge=0, le=100)]


class SizeInputs(BaseModel):
    """One circuit without a job; every input but the current and the run has a default."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)

    current_a: Amps
    run_m: Annotated[float, Field(gt=0, le=100)]
    return_kind: Literal["chassis", "wire"] = "chassis"
    return_m: Metres | None = None
    drop_class: Literal["critical", "normal", "tolerant"] = "critical"
    duty: Literal["continuous", "intermittent", "momentary"] = "continuous"
    ambient_c: Annotated[float, Field(ge=-40, le=120)] = 70.0
    holder_c: Annotated[float, Field(ge=-40, le=120)] | None = None
    loaded_conductors: Annotated[int, Field(ge=1, le=100)] = 1
    insulation_c: InsulationClass = 125
    system: Literal["awg", "metric"] = "awg"
    wire_kind: WireKind = "copper"
    inrush_x: Annotated[float, Field(ge=1, le=50)] = 1.0
    inrush_s: Annotated[float, Field(ge=0, le=10)] = 0.0
    k_cont: Annotated[float, Field(ge=0.5, le=1)] = 0.8
    ceiling: Literal["strict", "next_size"] = "strict"
    relay: str | None = "auto"
    families: tuple[str, ...] | None = None
    battery_mohm: Annotated[float, Field(gt=0, le=1000)] = 5.0
    chassis_mohm: Annotated[float, Field(ge=0, le=1000)] = 2.0
    crimps: Annotated[int, Field(ge=0, le=100)] = _RELAY_LEGS_CRIMPS
    lugs: Annotated[int, Field(ge=0, le=100)] = _RELAY_LEGS_LUGS
    nominal_v: NominalVolts = 12
    open_circuit_v: Annotated[float, Field(gt=6, le=60)] | None = None
    fuse_min_a: Annotated[float, Field(ge=0, le=30)] = 0.0
    minimum_mm2: Annotated[float, Field(ge=0.3, le=10)] = 0.75

    def to_request(self) -> SizingRequest:
        """Return the sizing request that these inputs state."""
        return_m = self.return_m if self.return_m is not None else 0.5
        if self.return_kind == "wire":
            return_m = self.run_m
        legs = [
            Leg(length_m=m, ambient_c=self.ambient_c, loaded_conductors=self.loaded_conductors)
            for m in (self.run_m, return_m)
        ]
        held = Held(relay=self.relay) if self.relay not in (None, "auto") else Held()
        volts = self.nominal_v / 12
        return SizingRequest(
            current_a=self.current_a,
            path=Path(
                out=(legs[0],),
                back=(legs[1],),
                chassis_ohm=self.chassis_mohm * 1e-3 if self.return_kind == "chassis" else 0.0,
                crimps=self.crimps,
                lugs=self.lugs,
            ),
            drop_limit_v=DROP_LIMIT_RATIO[self.drop_class] * self.nominal_v,
            rule=Steady(
                duty=self.duty,
                k_cont=self.k_cont,
                least_a=self.fuse_min_a,
                inrush_x=self.inrush_x,
                inrush_s=self.inrush_s,
            ),
            fusing=Fusing(
                families=families_for(self.nominal_v) if self.families is None else self.families,
                holder_c=self.ambient_c if self.holder_c is None else self.holder_c,
                school=self.ceiling,
            ),
            switching=Switching(relays=relays_for(self.nominal_v), coil_v=float(self.nominal_v))
            if self.relay is not None
            else None,
            supply=Supply(
                nominal_v=float(self.nominal_v),
                open_circuit_v=self.open_circuit_v or 12.7 * volts,
                charging_v=14.4 * volts,
                ohm=self.battery_mohm * 1e-3,
            ),
            wire=WireAsked(
                system=self.system,
                kind=self.wire_kind,
                insulation_c=self.insulation_c,
                minimum_mm2=self.minimum_mm2,
            ),
            held=held,
        )


def size_to_json(sizing: Sizing) -> dict[str, Any]:
    """Return the figures of one sizing.

    One that breaks a rule says ``ok: false`` and ``why``, with its figures as far as it has any.
    """
    fuse, rung = sizing.fuse, sizing.chosen
    if fuse is None or rung is None:
        answer: dict[str, Any] = {"ok": False, "why": sizing.why}
        if sizing.capped_by:
            answer["capped_by"] = sizing.capped_by.element
        return answer
    figures = {
        "ok": sizing.ok,
        "fuse_a": fuse.rating_a,
        "family": fuse.family.family,
        "relay": sizing.relay.key if sizing.relay else None,
        "size": rung.conductor.size,
        "governs": list(sizing.governs),
        "ampacity_a": round(rung.ampacity_a, 2),
        "conductor_c": round(rung.conductor_c, 1),
        "conductor_drop_v": round(rung.conductor_drop_v, 4),
        "path_drop_v": round(sizing.path_drop_v, 4),
        "drop_limit_v": sizing.request.drop_limit_v,
        "far_short_a": round(rung.far_short_a, 1),
        "pigtail": rung.pigtail.size if rung.pigtail else None,
        "passed_over": [{"family": p.family, "why": p.why} for p in sizing.passed_over],
    }
    if not sizing.ok:
        figures["why"] = sizing.why
        figures["rejected_by"] = list(rung.rejects)
        if sizing.capped_by:
            figures["capped_by"] = sizing.capped_by.element
    return figures


def size_inputs(inputs: SizeInputs, catalogue: Catalogue) -> dict[str, Any]:
    """Size one set of inputs and return its figures."""
    return size_to_json(size(inputs.to_request(), catalogue))
