"""Edits that a way out of a finding presses: several things that an installer does in one go."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ready_trail.core.edits.accessory import ChangeAccessory
from ready_trail.core.edits.base import Edit, find_circuit, free_point_name, rebuilt, with_circuit
from ready_trail.core.edits.circuit import CircuitEdit
from ready_trail.core.edits.output import SetCircuitUse
from ready_trail.core.edits.supply import (
    AddSupply,
    PointDraft,
    SetFeederUse,
    StartAt,
    find_point,
    positions,
)
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.accessory import Channel, Use
from ready_trail.core.job.circuit import Circuit, Return, Segment
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Ident
from ready_trail.core.job.points import BATTERY, Point

_OUTPUTS, _OUTPUT_A = 4, 10.0
_BESIDE_M = 0.1


class TriggerByIsolator(CircuitEdit):
    """Let a signal isolator copy the signal that a circuit follows, and trigger its relay.

    When the circuit is on stays as it was; what the vehicle's wire gives becomes milliamps.
    """

    kind: Literal["trigger_by_isolator"] = "trigger_by_isolator"

    def apply(self, job: Job) -> Job:
        """Return the job with a free output of an isolator as its trigger, a new one if need be."""
        circuit = self.circuit(job)
        use = job.use_of(circuit)
        if use.follows == "always" or use.also or use.channel is not None:
            raise EditRefusedError("circuit_id", "it follows no single signal of the vehicle")
        free = next((c for p in job.points if (c := free_output(job, p)) is not None), None)
        if free is None:
            draft = PointDraft(
                kind="isolator_box",
                name=free_point_name(job, "Signal isolator"),
                zone=circuit.run[0].zone,
                positions=positions(_OUTPUTS, _OUTPUT_A),
                total_a=3 * _OUTPUT_A,
            )
            job = AddSupply(point=draft).apply(job)
            free = Channel(point=job.points[-1].id, position="1")
        circuit = self.circuit(job)
        held = circuit.held.model_copy(update={"scheme": None})
        job = with_circuit(job, circuit, held=held)
        return with_use(job, self.circuit(job), use.model_copy(update={"channel": free}))

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Trigger {self.circuit(job).name} through a signal isolator"


class GatherAtStud(Edit):
    """Gather what starts at the battery's post on a stud behind one main fuse."""

    kind: Literal["gather_at_stud"] = "gather_at_stud"
    circuit_ids: Annotated[tuple[Ident, ...], Field(min_length=1, max_length=400)]

    def apply(self, job: Job) -> Job:
        """Return the job with the stud; each circuit keeps its own fuse and its way back."""
        moved = [find_circuit(job, i) for i in self.circuit_ids]
        if any(c.start.point != BATTERY for c in moved):
            raise EditRefusedError("circuit_ids", "one of them no longer starts at the battery")
        home = any(c.back.by_wire for c in moved)
        draft = PointDraft(
            kind="stud",
            name=free_point_name(job, "Battery stud"),
            earth_bus=home,
            zone=moved[0].run[0].zone,
            place=_beside_battery(job),
        )
        back = Return(kind="wire") if home else None
        job = AddSupply(point=draft, back=back).apply(job)
        stud = job.points[-1].id
        for circuit in moved:
            job = StartAt(circuit_id=circuit.id, start=Channel(point=stud)).apply(job)
            if circuit.back.by_wire:
                at_stud = find_circuit(job, circuit.id)
                job = with_circuit(job, at_stud, back=rebuilt(at_stud.back, kind="bus"))
        return job

    def title(self, job: Job) -> str:
        """Say how many."""
        return f"Gather {len(self.circuit_ids)} circuits on a stud"


class ReturnsToBus(Edit):
    """Give a point an earth bus, and bring the returns there that ran to the battery's post."""

    kind: Literal["returns_to_bus"] = "returns_to_bus"
    point_id: Ident

    def apply(self, job: Job) -> Job:
        """Return the job with one earth cable instead of many returns."""
        point = find_point(job, self.point_id)
        feeder = job.feeder_of(point.id)
        if feeder is None:
            raise EditRefusedError("point_id", f"{point.name} has no feeder beside which to return")
        points = tuple(rebuilt(p, earth_bus=True) if p.id == point.id else p for p in job.points)
        job = rebuilt(job, points=points)
        job = with_circuit(job, feeder, back=rebuilt(feeder.back, kind="wire"))
        for circuit in job.circuits:
            if circuit.start.point == point.id and circuit.back.by_wire:
                job = with_circuit(job, circuit, back=rebuilt(circuit.back, kind="bus"))
        return job

    def title(self, job: Job) -> str:
        """Say where."""
        return f"Bring returns to an earth bus at {find_point(job, self.point_id).name}"


class CoolStart(CircuitEdit):
    """Let fuse and relay sit out of the heat: the first stretch of the run lies in cooler air."""

    kind: Literal["cool_start"] = "cool_start"

    def apply(self, job: Job) -> Job:
        """Return the job with the run's first stretch in the engine bay. Refused on a layout."""
        circuit = self.circuit(job)
        if circuit.place is not None:
            raise EditRefusedError("circuit_id", "the layout leads it; move its parts there")
        until_m = min(circuit.switching_at_m + _BESIDE_M, circuit.run_m - 0.02)
        cool = Segment(
            zone="engine_bay",
            length_m=until_m,
            taped=False,
            loaded_conductors=circuit.run[0].loaded_conductors,
        )
        left, gone_m = [], 0.0
        for segment in circuit.run:
            end_m = gone_m + segment.length_m
            if end_m > until_m + 1e-6:
                kept_m = min(segment.length_m, end_m - until_m)
                left.append(rebuilt(segment, length_m=kept_m))
            gone_m = end_m
        return with_circuit(job, circuit, run=(cool, *left))

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Keep fuse and relay of {self.circuit(job).name} out of the heat"


class ChargeByCharger(CircuitEdit):
    """Put a charger of its own voltage ahead of the cable to a second battery."""

    kind: Literal["charge_by_charger"] = "charge_by_charger"
    output_a: Annotated[float, Field(ge=1, le=200)] = 30.0

    def apply(self, job: Job) -> Job:
        """Return the job with the charger; the cable from it to the battery stays as it is."""
        link = self.circuit(job)
        if link.feeds is None or find_point(job, link.feeds).battery is None:
            raise EditRefusedError("circuit_id", "this cable leads to no battery")
        battery = find_point(job, link.feeds)
        volts = battery.output_v or job.vehicle.nominal_v
        draft = PointDraft(
            kind="charger",
            name=free_point_name(job, f"Charger of {battery.name}"[:76]),
            zone=link.run[0].zone,
            key="run",
            output_v=volts,
            output_a=self.output_a,
        )
        job = AddSupply(point=draft, start=link.start).apply(job)
        charger = Channel(point=job.points[-1].id)
        held = link.held.model_copy(update={"scheme": None})
        job = with_circuit(job, link, start=charger, use=Use(key="always"), held=held)
        return job

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Charge by a charger: {self.circuit(job).name}"


def with_use(job: Job, circuit: Circuit, use: Use) -> Job:
    """Return the job with a circuit used that way: by its own use, or by its accessories'."""
    if circuit.use is not None or not circuit.accessory_ids:
        return with_circuit(job, circuit, use=use)
    accessories = tuple(
        rebuilt(a, use=use) if a.id in circuit.accessory_ids else a for a in job.accessories
    )
    return rebuilt(job, accessories=accessories)


def with_use_edit(job: Job, circuit: Circuit, use: Use) -> Edit:
    """Return the edit that does the same: of one output's circuit, of a feeder, of an accessory."""
    if circuit.feeds is not None:
        return SetFeederUse(circuit_id=circuit.id, use=use)
    if circuit.output:
        return SetCircuitUse(circuit_id=circuit.id, use=use)
    accessory = job.accessory(circuit.accessory_ids[0])
    return ChangeAccessory(accessory=accessory.model_copy(update={"use": use}))


def free_output(job: Job, point: Point) -> Channel | None:
    """An output of a signal isolator that nothing uses yet."""
    if not point.copies_signals:
        return None
    used = {c.start.position for c in job.circuits if c.start.point == point.id}
    used |= {
        u.channel.position
        for u in job.uses()
        if u.channel is not None and u.channel.point == point.id
    }
    name = next((p.name for p in point.positions if p.name not in used and not p.spare), None)
    return Channel(point=point.id, position=name) if name is not None else None


def _beside_battery(job: Job) -> str | None:
    """The point of the layout that is joined to the battery's by the shortest leg."""
    layout = job.layout
    if layout is None:
        return None
    legs = [leg for leg in layout.legs if layout.battery in (leg.a, leg.b)]
    legs = [leg for leg in legs if leg.rule != "forbidden"]
    if not legs:
        return None

    def away_m(spot: str) -> float:
        a, b = layout.point(layout.battery), layout.point(spot)
        return abs(a.x_m - b.x_m) + abs(a.y_m - b.y_m) + abs(a.z_m - b.z_m)

    ends = [leg.b if leg.a == layout.battery else leg.a for leg in legs]
    return min(ends, key=away_m)


__all__ = [
    "ChargeByCharger",
    "CoolStart",
    "GatherAtStud",
    "ReturnsToBus",
    "TriggerByIsolator",
    "with_use",
    "with_use_edit",
]
