"""Distribution points: a bus, perhaps with switched channels, a converter or a battery."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.fuses import Gate
from ready_trail.core.kinds.around import POINTS, Around, Part, point_key
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.kinds.points import PointKind
from ready_trail.core.netlist import (
    BATTERY_POSITIVE,
    GROUND,
    VEHICLE_POSITIVE,
    ConverterInput,
    Element,
    Resistor,
    Source,
    SwitchContact,
)
from ready_trail.core.states import Closed

BUS = "bus"
EARTH = "earth"
MODULE_EARTH = "module earth"
"""Where a module's own electronics are earthed."""

PULSES, COIL = ("on", "off"), "coil"
"""Where a pulse closes and opens a disconnect that latches, and the other end of both coils."""

_MODULE_OHM = 60_000.0
"""What a module's electronics draw asleep: 0.2 mA at 12 V (typical). [Ω]"""

_CHANNEL_OHM = 0.010
_SOURCE_OHM = 0.010
_SENSE_OHM = 10_000.0
"""What an isolator draws from a lamp signal, or a converter from its enable wire (house). [Ω]"""


@dataclass(frozen=True, slots=True, kw_only=True)
class ChannelSpec:
    """One switched output of a point: what closes it, and the fuse that it has of its own.

    An electronic limit counts as the next standard fuse: its own curve is in no label.
    """

    position: str
    closed: Closed
    fuse_ohm: float = 0.0
    rating_a: float = 0.0
    gates: tuple[Gate, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class PointSpec(DeviceKind):
    """A bus with what feeds it.

    ``vehicle_feed`` is set for what the vehicle feeds; ``converter`` for what starts a new
    system from its input; ``battery_ohm`` for a second battery on the bus; ``senses`` for the
    terminals at which an isolator follows lamp signals, or a converter is enabled;
    ``stated`` for what its positions take, as the maker says; ``pulse_ohm`` for the coils of a
    disconnect that latches.
    """

    is_a: PointKind
    channels: tuple[ChannelSpec, ...] = ()
    has_earth: bool = False
    vehicle_feed: Closed | None = None
    feed_ohm: float = 0.0
    converter: ConverterSpec | None = None
    battery_ohm: float | None = None
    battery_v: float = 12.7
    senses: tuple[str, ...] = ()
    pulse_ohm: float | None = None
    vehicle_behind: bool = False
    stated: Seat | None = None
    is_point: ClassVar[bool] = True

    @property
    def kind(self) -> str:  # type: ignore[override]
        """The kind of point."""
        return self.is_a.key

    @property
    def carries_vehicle(self) -> bool:  # type: ignore[override]
        """Whether it parts the vehicle itself from its battery."""
        return self.is_a.holds_vehicle or (self.is_a.parts_battery and self.vehicle_behind)

    @property
    def gets_label(self) -> bool:  # type: ignore[override]
        """As its kind says."""
        return self.is_a.gets_label

    def terminals(self) -> tuple[str, ...]:
        """Return input, bus, channels and earth, as far as it has them."""
        into = ("in",) if self.converter is not None else ()
        earth = (EARTH,) if self.has_earth else ()
        channels = (channel_terminal(c.position) for c in self.channels)
        pulses = (*PULSES, COIL) if self.pulse_ohm is not None else ()
        module = (MODULE_EARTH,) if self.is_a.own_earth else ()
        return (*into, BUS, *channels, *self.senses, *pulses, *module, *earth)

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return bus to each channel."""
        return tuple((BUS, channel_terminal(c.position)) for c in self.channels)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield feeds, sources and channels."""
        yield from self._sources(at, name)
        yield from self._inputs(at, name)
        for number, channel in enumerate(self.channels, start=1):
            out = at(channel_terminal(channel.position))
            middle = f"{out}_f"
            yield SwitchContact(
                name=f"{name}_ch{number}",
                a=at(BUS),
                b=middle,
                ohm=_CHANNEL_OHM,
                closed=channel.closed,
            )
            yield Resistor(
                name=f"{name}_ch{number}_f", a=middle, b=out, ohm=channel.fuse_ohm, kind="fuse"
            )

    def _sources(self, at: At, name: str) -> Iterator[Element]:
        """What gives current to the bus: the vehicle, a battery, a converter."""
        ground = at(EARTH)
        if self.vehicle_feed is not None:
            yield SwitchContact(
                name=f"{name}_feed",
                a=BATTERY_POSITIVE if self.is_a.parts_battery else VEHICLE_POSITIVE,
                b=at(BUS),
                ohm=self.feed_ohm,
                closed=self.vehicle_feed,
            )
        if self.battery_ohm is not None:
            yield Source(
                name=f"{name}_bat", a=at(BUS), b=ground, ohm=self.battery_ohm, set_v=self.battery_v
            )
        if self.converter is not None:
            made = self.converter
            yield ConverterInput(
                name=f"{name}_in",
                a=at("in"),
                b=ground,
                efficiency_ratio=made.efficiency_ratio,
                cut_in_v=made.cut_in_v,
                enabled=made.enabled,
            )
            yield Source(
                name=f"{name}_out",
                a=at(BUS),
                b=ground,
                ohm=_SOURCE_OHM,
                set_v=made.set_v,
                limit_a=made.limit_a,
                fed_by=f"{name}_in",
            )

    def _inputs(self, at: At, name: str) -> Iterator[Element]:
        """What its own coil, its electronics and its sense wires draw."""
        if self.pulse_ohm is not None:
            for pulse in PULSES:
                yield Resistor(
                    name=f"{name}_{pulse}",
                    a=at(pulse),
                    b=at(COIL),
                    ohm=self.pulse_ohm,
                    kind="vehicle",
                )
        if self.is_a.own_earth:
            yield Resistor(
                name=f"{name}_own",
                a=at(BUS),
                b=at(MODULE_EARTH),
                ohm=_MODULE_OHM,
                kind="vehicle",
            )
        for number, terminal in enumerate(self.senses, start=1):
            yield Resistor(
                name=f"{name}_sense{number}",
                a=at(terminal),
                b=GROUND,
                ohm=_SENSE_OHM,
                kind="vehicle",
            )

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return what its kind has there; a coil has small blades, a module an own lead."""
        if terminal == MODULE_EARTH:
            return Seat()
        is_position = terminal not in ("in", EARTH, *PULSES, COIL)
        if self.stated is not None and is_position and (terminal != BUS or self.is_a.is_one_stud):
            return self.stated
        return Seat(kind="blade_6_3") if terminal in (*PULSES, COIL) else self.is_a.seat(terminal)

    def terminal_words(self, terminal: str) -> str:
        """Return a bus by what people call it."""
        return self.is_a.bus_words if terminal == BUS else terminal

    def spot(self, terminal: str) -> str:
        """Return channel, converter, another source, or earth."""
        if terminal in ("-", EARTH, MODULE_EARTH, COIL):
            return "earth"
        if any(terminal == channel_terminal(c.position) for c in self.channels):
            return "channel"
        return "converter" if self.converter is not None and terminal == BUS else "source"

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield the point; one that belongs to the vehicle is there already."""
        if around.point is None or self.is_a.is_there:
            yield around.on_vehicle()
            return
        name, words = around.point
        yield Part(key=point_key(name), group=POINTS, label=f"{name}: {words}, {around.detail}")
        if self.is_a.parts_battery:
            yield Part(
                key="battery-link",
                group=POINTS,
                label=f"Link from the battery's post to {name}, as thick as the battery cable",
            )
        if self.is_a.holds_vehicle:
            yield Part(
                key="battery-earth",
                group=POINTS,
                label=f"Earth cable from the moved battery to the body, as thick as that to {name}",
            )


@dataclass(frozen=True, slots=True, kw_only=True)
class ConverterSpec:
    """What a converter or charger does: set voltage, current limit, efficiency, cut-in."""

    set_v: float
    limit_a: float
    efficiency_ratio: float
    cut_in_v: float
    enabled: Closed


def channel_terminal(position: str) -> str:
    """Return the terminal of a channel."""
    return f"out {position}"
