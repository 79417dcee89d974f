"""What the vehicle brings: keyed feeds and lamp wires.

Resistances of the vehicle's own wiring are house figures; coils barely load them.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from ready_trail.core.kinds.base import At, DeviceKind
from ready_trail.core.loads import Load
from ready_trail.core.netlist import (
    GROUND,
    VEHICLE_POSITIVE,
    Element,
    LoadElement,
    Resistor,
    SwitchContact,
)
from ready_trail.core.states import WITH_HEADLAMPS, WITH_HIGH, WITH_LOW, Closed

_FEED_OHM = 0.030
_LAMP_LOW_W, _LAMP_HIGH_W = 110.0, 120.0  # a pair of 55/60 W lamps
_LAMPS_ON_COMMON_W = 10.0  # other lamps that hang on a headlamp common (house)


@dataclass(frozen=True, slots=True, kw_only=True)
class FeedSpec(DeviceKind):
    """A vehicle feed that is live in some states."""

    closed: Closed
    signal: str
    kind: str = "feed"

    @property
    def signals(self) -> tuple[str, ...]:
        """Return the one that it is."""
        return (self.signal,)

    def terminals(self) -> tuple[str, ...]:
        """Return where it is picked up."""
        return ("1",)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield the vehicle's own switch and wiring."""
        yield SwitchContact(
            name=name, a=VEHICLE_POSITIVE, b=at("1"), ohm=_FEED_OHM, closed=self.closed
        )

    def spot(self, terminal: str) -> str:
        """Return a trigger."""
        return "trigger"


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadlampsSpec(DeviceKind):
    """The headlamps with their low and high wires, switched on one side."""

    side: Literal["positive", "earth"]
    common_always: bool
    nominal_v: float
    kind: str = "headlamps"

    @property
    def signals(self) -> tuple[str, ...]:
        """Return both beams."""
        return ("high", "low")

    def terminals(self) -> tuple[str, ...]:
        """Return the wires that can be tapped."""
        return ("low", "high") if self.side == "positive" else ("common", "low", "high")

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield lamps and the vehicle's light switch."""
        low, high = at("low"), at("high")
        if self.side == "positive":
            yield self._contact(f"{name}_sw_low", VEHICLE_POSITIVE, low, WITH_LOW)
            yield self._contact(f"{name}_sw_high", VEHICLE_POSITIVE, high, WITH_HIGH)
            yield self._lamp(f"{name}_lamp_low", _LAMP_LOW_W, low, GROUND)
            yield self._lamp(f"{name}_lamp_high", _LAMP_HIGH_W, high, GROUND)
            return
        common = at("common")
        if self.common_always:
            yield Resistor(
                name=f"{name}_feed", a=VEHICLE_POSITIVE, b=common, ohm=_FEED_OHM, kind="vehicle"
            )
        else:
            yield self._contact(f"{name}_feed", VEHICLE_POSITIVE, common, WITH_HEADLAMPS)
        yield self._lamp(f"{name}_other", _LAMPS_ON_COMMON_W, common, GROUND)
        yield self._lamp(f"{name}_lamp_low", _LAMP_LOW_W, common, low)
        yield self._lamp(f"{name}_lamp_high", _LAMP_HIGH_W, common, high)
        yield self._contact(f"{name}_sw_low", low, GROUND, WITH_LOW)
        yield self._contact(f"{name}_sw_high", high, GROUND, WITH_HIGH)

    def _lamp(self, name: str, watts: float, a: str, b: str) -> LoadElement:
        load = Load(model="filament", rated_a=watts / self.nominal_v, rated_v=self.nominal_v)
        return LoadElement(name=name, a=a, b=b, load=load)

    def _contact(self, name: str, a: str, b: str, closed: Closed) -> SwitchContact:
        return SwitchContact(name=name, a=a, b=b, ohm=_FEED_OHM, closed=closed)

    def spot(self, terminal: str) -> str:
        """Return a trigger."""
        return "trigger"
