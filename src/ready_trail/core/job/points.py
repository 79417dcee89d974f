"""Distribution points and switches: where current is shared out, and what works it.

A point takes current in at one terminal and gives it out at positions. It is fed by a circuit
whose load it is, or by the vehicle itself (factory bank, tapped circuit).
"""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import (
    AfterValidator,
    BeforeValidator,
    Field,
    StringConstraints,
    WithJsonSchema,
    model_validator,
)

from ready_trail.core.job.accessory import KeyUse, LightUse
from ready_trail.core.job.parts import (
    EndKind,
    Ident,
    Name,
    NominalVolts,
    Note,
    Number,
    Readable,
    ShortText,
    Stated,
    StudSize,
    TakesMm2,
    Throws,
    ZoneKey,
    _whole,
)
from ready_trail.core.job.vehicle import Battery
from ready_trail.core.kinds.points import (
    POINT_KINDS,
    PointKind,
    known_kind,
    vehicle_feed_ohm,
)

BATTERY = "battery"
"""Id of the vehicle's own battery, the root of every tree."""


PointKindName = Annotated[
    str, AfterValidator(known_kind), WithJsonSchema({"type": "string", "enum": list(POINT_KINDS)})
]
Amps = Annotated[float, Field(ge=0.5, le=1000)]
PositionName = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=12), Readable
]

SwitchName = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60), Readable
]


class Position(Stated):
    """One way out of a point: its name as printed on the thing, what it may carry.

    ``rating_a`` is the channel's own fuse or limit, or the largest fuse that the position takes.
    Of a switched channel, ``mode`` tells how its key works, ``memory`` what it does when the
    module wakes, ``wakes`` the key that it follows where that is another than its point's,
    ``lead`` and ``cavity`` the maker's colour of its wire and its place in the plug.
    """

    name: PositionName
    legend: ShortText = ""
    rating_a: Amps | None = None
    spare: bool = False
    mode: Literal["steady", "momentary", "flash"] = "steady"
    memory: Literal["", "off", "remembers"] = ""
    wakes: KeyUse | Literal[""] = ""
    lead: ShortText = ""
    cavity: Annotated[str, StringConstraints(strip_whitespace=True, max_length=12), Readable] = ""


class Point(Stated):
    """A distribution point with its limits.

    ``total_a`` is its own rating for all positions together; ``continuous_a`` that of a factory
    bank for loads that stay on, ``channel_ratio`` the share of a channel's fuse that its maker
    allows for them (the house's share where nothing is stated). ``together_a`` states what runs
    together, where a person knows better than the sum of what can be on in one state. ``key`` and
    ``lights`` tell when the vehicle feeds it, for a bank or a tapped circuit.
    ``pass_through_mohm`` is the resistance of one of the vehicle's own spare wires into the cabin,
    where a factory bank has such; ``pass_wires`` how many were proved, ``pass_mm2`` their area:
    each takes one channel. Of a disconnect, ``pulse_switch`` names the switch that works it (by
    hand where it is blank), ``vehicle_behind`` tells whether the vehicle itself hangs behind it,
    ``cranking_a`` and ``surge_a`` what it bears while the engine is cranked and for a minute.
    ``ends``, ``ends_stud`` and ``takes_mm2`` tell what its positions take, as the maker says.
    """

    id: Ident
    number: Number
    kind: PointKindName
    name: Name
    zone: ZoneKey = "engine_bay"
    positions: Annotated[tuple[Position, ...], Field(max_length=60)] = ()
    total_a: Amps | None = None
    continuous_a: Amps | None = None
    together_a: Annotated[float, Field(ge=0.1, le=1000)] | None = None
    earth_bus: bool = False
    key: KeyUse = "always"
    lights: LightUse = "any"
    fuse_a: Amps | None = None
    carries_a: Annotated[float, Field(ge=0, le=500)] = 0.0
    output_v: NominalVolts | None = None
    output_a: Amps | None = None
    efficiency_ratio: Annotated[float, Field(gt=0.3, le=1)] = 0.88
    pass_through_mohm: Annotated[float, Field(ge=0.1, le=1000)] | None = None
    pass_wires: Annotated[int, Field(ge=1, le=8), BeforeValidator(_whole)] = 1
    pass_mm2: Annotated[float, Field(ge=0.3, le=50)] | None = None
    pulse_switch: SwitchName | Literal[""] = ""
    vehicle_behind: bool = True
    surge_a: Annotated[float, Field(ge=1, le=10_000)] | None = None
    cranking_a: Annotated[float, Field(ge=1, le=10_000)] | None = None
    upright: bool = False
    doubled: bool = False
    ends: EndKind = ""
    ends_stud: StudSize = ""
    takes_mm2: TakesMm2 | None = None
    channel_ratio: Annotated[float, Field(ge=0.3, le=1)] | None = None
    cut_in_v: Annotated[float, Field(ge=3, le=100)] | None = None
    battery: Battery | None = None
    torque_nm: Annotated[float, Field(ge=0.2, le=100)] | None = None
    """What its maker states for its studs. [N·m]"""
    place: Ident | None = None
    item: Ident | None = None
    note: Note = ""

    @model_validator(mode="after")
    def _has_what_its_kind_needs(self) -> Self:
        names = [position.name for position in self.positions]
        for name in names:
            if names.count(name) > 1:
                raise ValueError(f"positions: {name} stands twice")
        for field, what in self.is_a.needs.items():
            if getattr(self, field) is None:
                raise ValueError(f"{field} is needed: {what}")
        return self

    @property
    def is_a(self) -> PointKind:
        """What its kind is and does."""
        return POINT_KINDS[self.kind]

    def position(self, name: str) -> Position | None:
        """Return a position by its printed name, or None."""
        return next((p for p in self.positions if p.name == name), None)

    @property
    def fed_by_vehicle(self) -> bool:
        """Whether the vehicle feeds it, so that no feeder of ours is needed."""
        return self.is_a.fed_by_vehicle

    @property
    def feed_ohm(self) -> float:
        """What stands between it and the battery, of what the vehicle feeds. [Ω]"""
        return self.is_a.feed_ohm or vehicle_feed_ohm(self.fuse_a)

    @property
    def opened(self) -> str:
        """What people do to it when they open it, as a name among what is on."""
        return f"{self.name} opened"

    @property
    def switches_its_positions(self) -> bool:
        """Whether a position is a protected, switched output by itself."""
        return self.is_a.switches_its_positions

    @property
    def is_one_stud(self) -> bool:
        """Whether all that starts there shares one stud."""
        return self.is_a.is_one_stud

    @property
    def copies_signals(self) -> bool:
        """Whether its outputs repeat lamp signals that it only senses."""
        return self.is_a.copies_signals

    @property
    def starts_a_system(self) -> bool:
        """Whether what is behind it has a voltage source of its own."""
        return self.is_a.starts_a_system


class PrintedPin(Stated):
    """What is printed on the switch beside one of its terminals, proved on the bench."""

    terminal: ShortText
    printed: ShortText


class Switch(Stated):
    """A hand switch: alone, or in a panel. Circuits that name the same switch share it."""

    name: SwitchName
    number: Number = 1
    rating_a: Annotated[float, Field(ge=0.1, le=500)] = 20.0
    surge_a: Annotated[float, Field(ge=0.1, le=5000)] | None = None
    throws: Throws = 1
    momentary: bool = False
    guarded: bool = False
    lamp: Literal["none", "side", "output", "both"] = "none"
    panel: Ident | None = None
    position: Annotated[str, StringConstraints(strip_whitespace=True, max_length=12), Readable] = ""
    place: Ident | None = None
    pins: Annotated[tuple[PrintedPin, ...], Field(max_length=12)] = ()

    @property
    def is_lit(self) -> bool:
        """Whether a lamp in it burns with the side lights."""
        return self.lamp in ("side", "both")

    @property
    def shows_on(self) -> bool:
        """Whether a lamp in it burns with its output."""
        return self.lamp in ("output", "both")

    @property
    def without_light(self) -> Switch:
        """The same switch, dark at night."""
        return self.model_copy(update={"lamp": "output" if self.shows_on else "none"})


VehicleSignal = Literal[
    "constant",
    "accessory",
    "run",
    "side",
    "low",
    "high",
    "brake",
    "left",
    "right",
    "reverse",
    "charging",
]


class SignalPlace(Stated):
    """Where one of the vehicle's own signals or feeds is picked up on the layout, and what it
    may give to a trigger, where that is known. [A]
    """

    signal: VehicleSignal
    place: Ident | None = None
    most_a: Annotated[float, Field(ge=0.001, le=100)] | None = None
