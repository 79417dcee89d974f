"""The job document: only what a person stated, validated once at the border.

This is the one Pydantic model of the core; everything derived lives in frozen dataclasses.
Ranges are limits of sense, wide enough for any road vehicle; outside them a figure is a slip.
"""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import (
    BeforeValidator,
    Field,
    StringConstraints,
    model_validator,
)

from ready_trail.core.conductors import WireKind
from ready_trail.core.job.layout import Layout, Placement
from ready_trail.core.job.parts import Ident, Name, Note, Stated
from ready_trail.core.job.survey import Survey
from ready_trail.core.loads import DropClass, Duty, LoadModel

SCHEMA_VERSION: Literal[1] = 1


def _whole(value: object) -> object:
    """Take digits typed into a form for the whole number that they are."""
    return int(value) if isinstance(value, str) and value.isdigit() else value


NominalVolts = Annotated[Literal[12, 24], BeforeValidator(_whole)]
InsulationClass = Annotated[Literal[80, 90, 105, 125], BeforeValidator(_whole)]
ControlFuse = Annotated[Literal[2, 3, 5], BeforeValidator(_whole)]
ColourCode = Annotated[str, StringConstraints(pattern=r"^[A-Z]{2}(/[A-Z]{2})?$")]
SegmentMetres = Annotated[float, Field(gt=0, le=30)]
SegmentAmbient = Annotated[float, Field(ge=-40, le=120)]


class Battery(Stated):
    """The battery as its label and a meter tell it."""

    capacity_ah: Annotated[float, Field(ge=2, le=2000)] = 70.0
    resistance_mohm: Annotated[float, Field(ge=0.3, le=100)] = 5.0
    chemistry: Literal["flooded", "agm", "lithium"] = "agm"


class Vehicle(Stated):
    """What kind of vehicle it is and how its electrics behave."""

    kind: Literal["pickup", "wagon", "van", "lorry", "motorcycle", "side_by_side"] = "pickup"
    nominal_v: NominalVolts = 12
    battery: Battery = Battery()
    charging_a: Annotated[float, Field(ge=0, le=600)] = 100.0
    body: Literal["steel", "composite"] = "steel"
    headlamps: Literal["positive", "earth"] = "positive"
    headlamp_common: Literal["always", "with_lights"] = "always"
    data_bus: Literal["plain", "supervised"] = "plain"


class HouseRules(Stated):
    """Choices between schools; each default has its reason on the house rules page."""

    system: Literal["awg", "metric"] = "awg"
    wire_kind: WireKind = "copper"
    insulation_c: InsulationClass = 125
    k_cont: Annotated[float, Field(ge=0.5, le=1)] = 0.8
    ceiling: Literal["strict", "next_size"] = "strict"
    fuse_min_a: Annotated[float, Field(ge=0, le=10)] = 3.0
    unprotected_m: Annotated[float, Field(ge=0.02, le=1)] = 0.18
    control_fuse_a: ControlFuse = 3


class Use(Stated):
    """How an accessory is used: what must be on for it, and which switch works it."""

    key: Literal["always", "accessory", "run"] = "run"
    lights: Literal["any", "side", "low", "high"] = "any"
    engine_only: bool = False
    while_on: Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9]{0,15})?$")] = ""
    switch: Annotated[str, StringConstraints(strip_whitespace=True, max_length=60)] = ""
    switch_a: Annotated[float, Field(ge=0.1, le=500)] = 20.0
    momentary: bool = False
    guarded: bool = False


class InputWire(Stated):
    """A function wire of an accessory, and how the controller output on it rests."""

    name: Name
    active: Literal["high", "low"] = "high"
    must_float: bool = False
    rests: Literal["open", "ground"] = "open"
    diode: bool = False


class Accessory(Stated):
    """A thing to be powered, as its label states it."""

    id: Ident
    name: Name
    model: LoadModel = "constant_power"
    watts: Annotated[float, Field(gt=0, le=10_000)] | None = None
    amps: Annotated[float, Field(ge=0.01, le=1000)] | None = None
    at_v: Annotated[float, Field(ge=5, le=60)] = 13.5
    quantity: Annotated[int, Field(ge=1, le=50)] = 1
    duty: Duty = "continuous"
    drop_class: DropClass = "normal"
    inrush_x: Annotated[float, Field(ge=1, le=50)] = 1.0
    inrush_s: Annotated[float, Field(ge=0, le=10)] = 0.0
    fuse_max_a: Annotated[float, Field(ge=0.5, le=1000)] | None = None
    min_v: Annotated[float, Field(ge=3, le=60)] | None = None
    idle_a: Annotated[float, Field(ge=0, le=300)] | None = None
    tail_m: Annotated[float, Field(ge=0, le=20)] = 0.0
    tail_end: Literal["bare", "ring", "sealed"] = "bare"
    inputs: Annotated[tuple[InputWire, ...], Field(max_length=12)] = ()
    memory_wire: bool = False
    use: Use = Use()
    note: Note = ""

    @model_validator(mode="after")
    def _watts_or_amps(self) -> Self:
        if (self.watts is None) == (self.amps is None):
            raise ValueError("state either watts or amps, not both and not neither")
        return self

    @property
    def rated_a(self) -> float:
        """Current at the stated voltage, all units together. [A]"""
        each_a = self.amps if self.amps is not None else (self.watts or 0.0) / self.at_v
        return each_a * self.quantity

    @property
    def rated_w(self) -> float:
        """Power at the stated voltage, all units together. [W]"""
        return self.rated_a * self.at_v


class Panel(Stated):
    """A panel that a run passes at the end of a segment; ``leg`` is set where a layout gave it."""

    name: Name
    grommet: bool = True
    leg: Ident | None = None


class Segment(Stated):
    """Part of a run inside one zone, with what shares its loom there."""

    zone: Annotated[str, StringConstraints(pattern=r"^[a-z_]{2,20}$")]
    length_m: SegmentMetres
    taped: bool = False
    ambient_c: SegmentAmbient | None = None
    loaded_conductors: Annotated[int, Field(ge=1, le=60)] = 1
    passes: Panel | None = None


class Return(Stated):
    """The way back: a stub to a chassis point, or a wire all the way."""

    kind: Literal["chassis", "wire"] = "chassis"
    stub_m: Annotated[float, Field(gt=0, le=30)] = 0.5
    taped: bool = False
    path: Literal["bonded", "poor"] = "bonded"


class HeldChoices(Stated):
    """Derived choices that were fixed by hand and are checked instead of chosen."""

    scheme: str | None = None
    family: str | None = None
    fuse_a: Annotated[float, Field(gt=0, le=1000)] | None = None
    relay: str | None = None
    size: str | None = None
    colour: ColourCode | None = None


class AcceptedFinding(Stated):
    """A finding that somebody accepted, with the reason in writing."""

    code: Name
    place: Name
    reason: Annotated[str, StringConstraints(strip_whitespace=True, min_length=3, max_length=300)]


class Circuit(Stated):
    """A fuse and everything behind it: which accessories, and the way to them."""

    id: Ident
    number: Annotated[int, Field(ge=1, le=999)]
    name: Name
    accessory_ids: Annotated[tuple[Ident, ...], Field(min_length=1, max_length=20)]
    source: Literal["battery", "block"] = "battery"
    run: Annotated[tuple[Segment, ...], Field(min_length=1, max_length=60)]
    back: Return = Return()
    fuse_at_m: Annotated[float, Field(ge=0, le=30)] = 0.15
    switching_at_m: Annotated[float, Field(ge=0, le=60)] = 0.5
    control_m: Annotated[float, Field(ge=0.1, le=60)] = 3.0
    control_switch_m: Annotated[float, Field(ge=0.02, le=60)] | None = None
    """Where along the control run the hand switch sits; half way unless it is known. [m]"""
    coil_fed_from_30: bool = False
    place: Placement | None = None
    never_with: Annotated[tuple[Ident, ...], Field(max_length=50)] = ()
    held: HeldChoices = HeldChoices()
    accepted: Annotated[tuple[AcceptedFinding, ...], Field(max_length=50)] = ()

    @property
    def run_m(self) -> float:
        """Length of the outward run, one way. [m]"""
        return sum(segment.length_m for segment in self.run)

    @model_validator(mode="after")
    def _devices_on_the_run(self) -> Self:
        if not self.fuse_at_m < self.run_m:
            raise ValueError(f"fuse_at_m must be under the run's {self.run_m:g} m")
        if not self.fuse_at_m <= self.switching_at_m < self.run_m:
            raise ValueError(
                f"switching_at_m must lie from the fuse ({self.fuse_at_m:g} m) "
                f"to under the run's {self.run_m:g} m"
            )
        return self


class FuseBlock(Stated):
    """A fuse block near the battery, fed through one main fuse or breaker."""

    name: Name = "Fuse block"
    positions: Annotated[int, Field(ge=1, le=60)] = 8
    together_a: Annotated[float, Field(ge=1, le=500)] = 60.0
    feeder: Annotated[tuple[Segment, ...], Field(min_length=1, max_length=12)]
    main_at_m: Annotated[float, Field(ge=0, le=30)] = 0.15
    main_family: str = "breaker_manual"
    main_a: Annotated[float, Field(gt=0, le=1000)] | None = None


class Job(Stated):
    """One vehicle's work."""

    schema_version: Literal[1] = SCHEMA_VERSION
    name: Name
    place: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)] = ""
    note: Note = ""
    vehicle: Vehicle = Vehicle()
    rules: HouseRules = HouseRules()
    block: FuseBlock | None = None
    survey: Survey = Survey()
    layout: Layout | None = None
    accessories: Annotated[tuple[Accessory, ...], Field(max_length=400)] = ()
    circuits: Annotated[tuple[Circuit, ...], Field(max_length=400)] = ()

    @model_validator(mode="after")
    def _references_hold(self) -> Self:
        accessory_ids = [accessory.id for accessory in self.accessories]
        _require_distinct("accessories", accessory_ids)
        _require_distinct("circuits", [circuit.id for circuit in self.circuits])
        _require_distinct("circuit numbers", [str(c.number) for c in self.circuits])
        used: list[str] = []
        for circuit in self.circuits:
            for accessory_id in circuit.accessory_ids:
                if accessory_id not in accessory_ids:
                    raise ValueError(
                        f"circuit {circuit.id} names accessory {accessory_id}, "
                        "which this job does not have"
                    )
                used.append(accessory_id)
            if circuit.source == "block" and self.block is None:
                raise ValueError(f"circuit {circuit.id} is fed from a block, but there is none")
        _require_distinct("accessories on circuits", used)
        self._places_hold()
        return self

    def _places_hold(self) -> None:
        points = {p.id for p in self.layout.points} if self.layout else set()
        for circuit in self.circuits:
            place = circuit.place
            if place is None:
                continue
            for point in (place.load, place.switching, place.control, place.earth, *place.via):
                if point is not None and point not in points:
                    raise ValueError(
                        f"circuit {circuit.id} is placed at {point}, which is not a point"
                    )

    def accessory(self, accessory_id: str) -> Accessory:
        """Return one accessory; KeyError when the job has none of that id."""
        for accessory in self.accessories:
            if accessory.id == accessory_id:
                return accessory
        raise KeyError(accessory_id)

    def circuit(self, circuit_id: str) -> Circuit:
        """Return one circuit; KeyError when the job has none of that id."""
        for circuit in self.circuits:
            if circuit.id == circuit_id:
                return circuit
        raise KeyError(circuit_id)

    def circuit_of(self, accessory_id: str) -> Circuit | None:
        """Return the circuit that feeds an accessory, or None."""
        for circuit in self.circuits:
            if accessory_id in circuit.accessory_ids:
                return circuit
        return None


def _require_distinct(what: str, values: list[str]) -> None:
    for value in values:
        if values.count(value) > 1:
            raise ValueError(f"{what}: {value} stands twice")
