"""The vehicle as stated, and the house rules that a job is designed under."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ready_trail.core.conductors import WireKind
from ready_trail.core.job.parts import ControlFuse, InsulationClass, NominalVolts, Stated, StudSize

VehicleKind = Literal["pickup", "wagon", "saloon", "van", "lorry", "motorcycle", "side_by_side"]


class Battery(Stated):
    """A battery as its label and a meter tell it."""

    capacity_ah: Annotated[float, Field(ge=2, le=2000)] = 70.0
    resistance_mohm: Annotated[float, Field(ge=0.3, le=100)] = 5.0
    chemistry: Literal["flooded", "agm", "lithium"] = "agm"
    torque_nm: Annotated[float, Field(ge=0.2, le=100)] | None = None
    """What its maker states for its studs. [N·m]"""
    stud: StudSize = ""
    """Its posts' studs, M8 where nothing is stated."""


class Vehicle(Stated):
    """What kind of vehicle it is and how its electrics behave.

    ``base_a`` is what it draws itself with the engine running, ``parked_ma`` what it draws while
    it is parked, ``starting_a`` what its starter takes; left out, they follow from its kind.
    ``strap_a`` is what its earth strap from battery to body bears, where somebody knows;
    ``second_strap`` tells that a second one as thick goes beside it.
    """

    kind: VehicleKind = "pickup"
    drive: Literal["left", "right"] = "left"
    nominal_v: NominalVolts = 12
    battery: Battery = Battery()
    charging_a: Annotated[float, Field(ge=0, le=600)] = 100.0
    base_a: Annotated[float, Field(ge=0, le=300)] | None = None
    parked_ma: Annotated[float, Field(ge=0, le=5000)] | None = None
    starting_a: Annotated[float, Field(ge=20, le=3000)] | None = None
    strap_a: Annotated[float, Field(ge=10, le=2000)] | None = None
    second_strap: bool = False
    body: Literal["steel", "composite"] = "steel"
    headlamps: Literal["positive", "earth"] = "positive"
    headlamp_common: Literal["always", "with_lights"] = "always"
    data_bus: Literal["plain", "supervised"] = "plain"

    @property
    def has_cabin(self) -> bool:
        """Whether there is a place inside, with its places and holes."""
        return self.kind != "motorcycle"

    @property
    def has_blower(self) -> bool:
        """Whether a fan warms or cools who drives."""
        return self.kind not in ("motorcycle", "side_by_side")


ColourSchool = Literal["circuit", "function", "few", "two"]
"""By what the colour of a wire is chosen."""


class HouseRules(Stated):
    """Choices between schools; both sides of each, its default and why stand in ``core/house``.

    From ``joints`` to ``mounting`` they are practices: the design does not follow from them, the
    sheets print them. The last four are how pages and papers say things.
    """

    system: Literal["awg", "metric"] = "awg"
    wire_kind: WireKind = "copper"
    insulation_c: InsulationClass = 105
    k_cont: Annotated[float, Field(ge=0.5, le=1)] = 0.8
    ceiling: Literal["strict", "next_size"] = "strict"
    fuse_min_a: Annotated[float, Field(ge=0, le=10)] = 3.0
    unprotected_m: Annotated[float, Field(ge=0.02, le=1)] = 0.18
    control_fuse_a: ControlFuse = 3
    control_mm2: Annotated[float, Field(ge=0, le=6)] = 0.0
    """Coil and signal wires are no thinner, whatever their place allows. [mm²]"""
    winch_protection: Literal["both", "isolator"] = "both"
    colours: ColourSchool = "circuit"
    parked_days: Annotated[float, Field(ge=0, le=365)] = 7.0
    drop: Literal["by_kind", "three_ten", "three"] = "by_kind"
    earth: Literal["nearest", "home"] = "nearest"
    coil_side: Literal["positive", "earth"] = "positive"
    panel_feed: Literal["keyed", "constant"] = "keyed"
    joints: Literal["crimp", "solder", "crimp_solder", "lever"] = "crimp"
    last_joint: Literal["battery", "fuse"] = "battery"
    shelter: Literal["sealed", "seat"] = "sealed"
    switch_memory: Literal["off", "remember"] = "off"
    mounting: Literal["bolt", "tape"] = "bolt"
    lengths: Literal["metres", "feet"] = "metres"
    temperatures: Literal["celsius", "fahrenheit"] = "celsius"
    earth_word: Literal["earth", "ground"] = "earth"
    paper: Literal["A4", "letter"] = "A4"
