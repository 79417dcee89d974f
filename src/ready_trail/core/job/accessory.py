"""Accessories as their labels state them, and how each is used."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from ready_trail.core.job.parts import Ident, Name, Note, ShortText, Stated, WireName
from ready_trail.core.loads import DropClass, Duty, LoadModel

KeyUse = Literal["always", "accessory", "run"]
LightUse = Literal["any", "side", "low", "high"]


_VOLT_CLASSES = ((17.0, (9.0, 16.0)), (34.0, (18.0, 32.0)), (60.0, (36.0, 60.0)))
"""Range of a device by the voltage on its label, where the label gives one figure (house). [V]"""


class Channel(Stated):
    """A position of a distribution point, as printed on the thing."""

    point: Ident
    position: Annotated[str, StringConstraints(strip_whitespace=True, max_length=12)] = ""


class Use(Stated):
    """When something is on: key, lights, another circuit, and which switch works it.

    ``switch`` is the name of one of the job's switches; ``throw`` tells which side of an
    off-I-II switch. ``channel`` is a panel's or bank's output that triggers it instead.
    """

    key: KeyUse = "run"
    lights: LightUse = "any"
    engine_only: bool = False
    while_on: Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9]{0,15})?$")] = ""
    switch: ShortText = ""
    throw: Literal["", "I", "II"] = ""
    channel: Channel | None = None

    @property
    def contact(self) -> str:
        """Name of the switch contact that must be closed, or an empty text."""
        return f"{self.switch} {self.throw}".strip() if self.switch else ""


class InputWire(Stated):
    """A function wire of an accessory, and how the controller output on it rests."""

    name: WireName
    active: Literal["high", "low"] = "high"
    must_float: bool = False
    rests: Literal["open", "ground"] = "open"
    diode: bool = False


class Accessory(Stated):
    """A thing to be powered, as its label states it.

    ``low_v`` and ``high_v`` are its own voltage range; where the label gives one voltage only,
    they follow from ``at_v``. ``hazard`` marks what may hurt if it comes on by accident: it
    needs an interlock or a guarded switch.
    """

    id: Ident
    name: Name
    model: LoadModel = "constant_power"
    watts: Annotated[float, Field(gt=0, le=10_000)] | None = None
    amps: Annotated[float, Field(ge=0.01, le=1000)] | None = None
    at_v: Annotated[float, Field(ge=5, le=60)] = 13.5
    low_v: Annotated[float, Field(ge=3, le=100)] | None = None
    high_v: Annotated[float, Field(ge=3, le=100)] | None = None
    quantity: Annotated[int, Field(ge=1, le=50)] = 1
    duty: Duty = "continuous"
    drop_class: DropClass = "normal"
    inrush_x: Annotated[float, Field(ge=1, le=50)] = 1.0
    inrush_s: Annotated[float, Field(ge=0, le=10)] = 0.0
    fuse_max_a: Annotated[float, Field(ge=0.5, le=1000)] | None = None
    min_v: Annotated[float, Field(ge=3, le=60)] | None = None
    idle_a: Annotated[float, Field(ge=0, le=300)] | None = None
    own_contactor: bool = True
    tail_m: Annotated[float, Field(ge=0, le=20)] = 0.0
    tail_end: Literal["bare", "ring", "sealed"] = "bare"
    inputs: Annotated[tuple[InputWire, ...], Field(max_length=12)] = ()
    memory_wire: bool = False
    hazard: bool = False
    use: Use = Use()
    note: Note = ""

    @model_validator(mode="after")
    def _watts_or_amps(self) -> Self:
        if (self.watts is None) == (self.amps is None):
            raise ValueError("state either watts or amps, not both and not neither")
        if self.low_v is not None and self.high_v is not None and self.low_v >= self.high_v:
            raise ValueError("high_v must be above low_v, the lowest voltage of its range")
        return self

    @property
    def range_v(self) -> tuple[float, float]:
        """Its own voltage range: as stated, or that of its label's 12, 24 or 48 V class. [V]"""
        low_v, high_v = next(
            (span for most_v, span in _VOLT_CLASSES if self.at_v <= most_v), _VOLT_CLASSES[-1][1]
        )
        return self.low_v or low_v, self.high_v or high_v

    @property
    def rated_a(self) -> float:
        """Current at the stated voltage, all units together. [A]"""
        each_a = self.amps if self.amps is not None else (self.watts or 0.0) / self.at_v
        return each_a * self.quantity

    @property
    def rated_w(self) -> float:
        """Power at the stated voltage, all units together. [W]"""
        return self.rated_a * self.at_v
