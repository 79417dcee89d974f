"""Accessories as their labels state them, and how each is used."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from ready_trail.core.job.parts import (
    EndKind,
    Ident,
    Name,
    Note,
    Readable,
    ShortText,
    Stated,
    StudSize,
    TakesMm2,
    WireName,
)
from ready_trail.core.loads import DropClass, Duty, LoadModel

KeyUse = Literal["always", "accessory", "run"]
LightUse = Literal["any", "side", "low", "high"]
SignalUse = Literal["", "brake", "left", "right", "reverse", "charging"]
Trigger = Literal[
    "", "accessory", "run", "side", "low", "high", "brake", "left", "right", "reverse", "charging"
]
Unless = Literal["", "side", "low", "high", "brake", "left", "right", "reverse", "charging"]
"""What the vehicle says: its key, its lights, and lamp wires that a controller may supervise."""


_VOLT_CLASSES = ((17.0, (9.0, 16.0)), (34.0, (18.0, 32.0)), (60.0, (36.0, 60.0)))
"""Range of a device by the voltage on its label, where the label gives one figure (house). [V]"""
_LIVE_X = 1.05
"""A system at rest over its nominal voltage."""


class Channel(Stated):
    """A position of a distribution point, as printed on the thing; ``point:position`` for short."""

    point: Ident
    position: Annotated[str, StringConstraints(strip_whitespace=True, max_length=12), Readable] = ""

    @model_validator(mode="before")
    @classmethod
    def _from_short(cls, stated: object) -> object:
        if not isinstance(stated, str):
            return stated
        point, _, position = stated.partition(":")
        return {"point": point, "position": position}


class Use(Stated):
    """When something is on: key, lights, another circuit, and which switch works it.

    ``signal`` is a vehicle signal that it follows instead of key and lights; ``also`` a second
    trigger that may switch it on by itself; ``unless`` one that takes it off; ``unit`` a control
    unit's output that earths the coil, and what that may take. [A] ``while_by`` tells whether an
    interlock is taken from the enabling circuit's output, or from its switch.

    ``switch`` is the name of one of the job's switches; ``throw`` tells which side of an
    off-I-II switch. ``channel`` is a panel's or bank's output that triggers it instead.
    """

    key: KeyUse = "run"
    lights: LightUse = "any"
    signal: SignalUse = ""
    also: Trigger = ""
    unless: Unless = ""
    unit: ShortText = ""
    unit_most_a: Annotated[float, Field(ge=0.001, le=100)] | None = None
    engine_only: bool = False
    while_on: Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9]{0,15})?$")] = ""
    while_by: Literal["output", "switch"] = "output"
    switch: ShortText = ""
    throw: Literal["", "I", "II"] = ""
    channel: Channel | None = None

    @property
    def follows(self) -> str:
        """Name of the vehicle signal that it follows: a lamp's, the lights', or the key."""
        return self.signal or (self.lights if self.lights != "any" else self.key)

    @property
    def contact(self) -> str:
        """Name of the switch contact that must be closed, or an empty text."""
        return f"{self.switch} {self.throw}".strip() if self.switch else ""


class InputWire(Stated):
    """A function wire of an accessory: when it acts, and where its other end goes.

    ``ends`` at a controller's output (which rests open, at ground or at the supply), a hand
    switch, a vehicle signal, another accessory's wire of the same kind, or capped. ``at`` names
    the switch, the signal, or the accessory and its wire ("a18 Sync"). ``lead`` is the maker's
    colour. ``backwards`` records a diode that was found fitted the wrong way round. ``powers_w``
    tells that it feeds its function itself, instead of signalling. [W]
    """

    name: WireName
    active: Literal["high", "low"] = "high"
    must_float: bool = False
    ends: Literal["controller", "switch", "signal", "accessory", "cap"] = "controller"
    at: ShortText = ""
    rests: Literal["open", "ground", "supply"] = "open"
    diode: bool = False
    backwards: bool = False
    lead: ShortText = ""
    powers_w: Annotated[float, Field(gt=0, le=60)] | None = None


class Mode(Stated):
    """One line of the maker's mode table: which inputs give which pattern, held or tapped, from
    ``seconds`` on and up to ``most_s``. [s]
    """

    name: Name
    wires: Annotated[tuple[WireName, ...], Field(min_length=1, max_length=12)]
    how: Literal["hold", "tap"] = "hold"
    seconds: Annotated[float, Field(ge=0, le=60)] | None = None
    most_s: Annotated[float, Field(ge=0, le=60)] | None = None

    @property
    def window(self) -> str:
        """For how long it is held or tapped: from, and up to. [s]"""
        if self.most_s is not None:
            return f"{self.seconds or 0:g} to {self.most_s:g} s"
        return f"{self.seconds:g} s" if self.seconds is not None else ""


class Output(Stated):
    """One of several outputs of an accessory, in the label's own measure.

    ``lead`` is the maker's colour of its lead; ``proved`` tells that a person saw which lead
    it is, since colour alone misleads.
    """

    name: WireName
    watts: Annotated[float, Field(gt=0, le=10_000)] | None = None
    amps: Annotated[float, Field(ge=0.01, le=1000)] | None = None
    lead: ShortText = ""
    proved: bool = False


class Post(Stated):
    """A post of a motor or box as its maker's paper tells it: the lead's colour, its torque, and
    whether the nut below is held while the upper one is tightened.
    """

    name: WireName
    lead: ShortText = ""
    torque_nm: Annotated[float, Field(ge=0.2, le=100)] | None = None
    hold: bool = True


class Accessory(Stated):
    """A thing to be powered, as its label states it.

    ``low_v`` and ``high_v`` are its own voltage range; where the label gives one voltage only,
    they follow from ``at_v``. ``hazard`` marks what may hurt if it comes on by accident: it
    needs an interlock or a guarded switch. ``one_at_a_time`` tells that a switch chooses between
    its outputs, so that they are never on together. ``own_feed`` tells what the vehicle feeds it
    by besides this circuit, over a wire and an earth of its own; ``kit`` that it came with a
    harness, fuse, relay and switch. ``standby_ma`` is drawn from a feed that is always live while
    it is not in use. ``ends``, ``stud`` and ``takes_mm2`` tell what its own terminals take, where
    it has no lead. Of a winch, ``remote`` tells what remote its box brings, ``remote_keyed`` that
    a thin wire of it wants a keyed feed, ``field_posts`` that a series motor has three posts and an
    earth stud; ``posts`` what its maker says of each. ``lead`` and ``lead_minus`` the maker's
    colours of its leads.
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
    standby_ma: Annotated[float, Field(ge=0, le=5000)] | None = None
    own_contactor: bool = True
    remote: Literal["", "wired", "wireless"] = ""
    remote_keyed: bool = False
    field_posts: bool = False
    posts: Annotated[tuple[Post, ...], Field(max_length=8)] = ()
    tail_m: Annotated[float, Field(ge=0, le=20)] = 0.0
    torque_nm: Annotated[float, Field(ge=0.2, le=100)] | None = None
    """What its maker states for its studs. [N·m]"""
    lead_bears_a: Annotated[float, Field(ge=0.5, le=1000)] | None = None
    """The largest fuse that its own lead bears, where its label or its wire tells. [A]"""
    tail_end: Literal["bare", "ring", "sealed"] = "bare"
    ends: EndKind = ""
    stud: StudSize = ""
    takes_mm2: TakesMm2 | None = None
    outputs: Annotated[tuple[Output, ...], Field(max_length=6)] = ()
    one_at_a_time: bool = False
    inputs: Annotated[tuple[InputWire, ...], Field(max_length=12)] = ()
    modes: Annotated[tuple[Mode, ...], Field(max_length=40)] = ()
    memory_wire: bool = False
    own_feed: Literal["", "low_beam", "controller"] = ""
    kit: bool = False
    lead: ShortText = ""
    lead_minus: ShortText = ""
    hazard: bool = False
    use: Use = Use()
    note: Note = ""

    @model_validator(mode="after")
    def _watts_or_amps(self) -> Self:
        if (self.watts is None) == (self.amps is None):
            raise ValueError("state either watts or amps, not both and not neither")
        for problem in self._outputs_fail():
            raise ValueError(f"outputs: {problem}")
        for problem in self._wires_fail():
            raise ValueError(problem)
        if self.low_v is not None and self.high_v is not None and self.low_v >= self.high_v:
            raise ValueError("high_v must be above low_v, the lowest voltage of its range")
        return self

    def _wires_fail(self) -> Iterator[str]:
        names = [wire.name for wire in self.inputs]
        if len(set(names)) < len(names):
            yield "inputs: two function wires have one name"
        for wire in self.inputs:
            if wire.ends in ("switch", "signal", "accessory") and not wire.at:
                yield f"inputs: say at which {wire.ends} {wire.name} ends"
        for mode in self.modes:
            for name in mode.wires:
                if name not in names:
                    yield f"modes: {mode.name} names {name}, which is no wire of it"

    def _outputs_fail(self) -> Iterator[str]:
        if not self.outputs:
            return
        names = [o.name.casefold() for o in self.outputs]
        if len(names) == 1:
            yield "one output is no choice; name two, or none"
        if len(set(names)) < len(names):
            yield "two have one name"
        measure, unit = ("watts", "W") if self.watts is not None else ("amps", "A")
        each = [getattr(o, measure) for o in self.outputs]
        if None in each:
            yield f"state each in {measure}, as the label's total is"
            return
        whole = float(getattr(self, measure))
        if abs(sum(each) - whole) > 0.02 * whole:
            told = " + ".join(f"{v:g}" for v in each)
            yield f"{told} {unit} is {sum(each):g} {unit}, but its label says {whole:g} {unit}"

    @property
    def main_output(self) -> str:
        """The largest output of those that are on one at a time; empty for anything else."""
        if not self.one_at_a_time or not self.outputs:
            return ""
        return max(self.outputs, key=lambda o: (o.watts or 0.0) + (o.amps or 0.0)).name

    def only(self, *, output: str = "", units: int | None = None) -> Accessory:
        """Return the part of it that one circuit or branch feeds."""
        changes: dict[str, object] = {}
        part = next((o for o in self.outputs if o.name == output), None)
        if part is not None:
            changes |= {"watts": part.watts, "amps": part.amps, "outputs": ()}
        if units is not None and units != self.quantity:
            changes["quantity"] = units
        return self.model_copy(update=changes) if changes else self

    @property
    def range_v(self) -> tuple[float, float]:
        """Its own voltage range: as stated, or that of its label's 12, 24 or 48 V class. [V]"""
        low_v, high_v = next(
            (span for most_v, span in _VOLT_CLASSES if self.at_v <= most_v), _VOLT_CLASSES[-1][1]
        )
        return self.low_v or low_v, self.high_v or high_v

    def bears_v(self, nominal_v: float) -> bool:
        """Whether a system of a nominal voltage lies in its own range. [V]"""
        low_v, high_v = self.range_v
        return low_v <= nominal_v * _LIVE_X <= high_v

    @property
    def rated_a(self) -> float:
        """Current at the stated voltage, all units together. [A]"""
        each_a = self.amps if self.amps is not None else (self.watts or 0.0) / self.at_v
        return each_a * self.quantity

    @property
    def rated_w(self) -> float:
        """Power at the stated voltage, all units together. [W]"""
        return self.rated_a * self.at_v
