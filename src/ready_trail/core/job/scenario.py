"""Scenarios as stated: what runs together in one state of the vehicle, for how long; and a day."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ready_trail.core.job.parts import Ident, Name, ShortText, Stated

Engine = Literal["off", "idle", "cruise"]
Minutes = Annotated[float, Field(ge=1, le=20_160)]


class Running(Stated):
    """An accessory, or one output of it, that is in use.

    ``ratio`` is the share of the time in which it draws its full current: transmit share of a
    radio, pull of a winch, on-time of a fridge. Feeders are sized for all of it at once; only
    the battery sees the share.
    """

    accessory: Ident
    output: ShortText = ""
    ratio: Annotated[float, Field(ge=0.01, le=1)] = 1.0


class Scenario(Stated):
    """A named state of key, lights and engine, what is in use then, and for how long. [min]

    ``mains`` tells that a charger on the mains is plugged in, ``sun_ratio`` the share of what a
    solar controller can give at most, on the average.
    """

    id: Ident
    name: Name
    key: Literal["off", "accessory", "run"] = "run"
    lights: Literal["off", "side", "low", "high"] = "off"
    engine: Engine = "cruise"
    blower: bool = False
    minutes: Minutes = 60.0
    mains: bool = False
    sun_ratio: Annotated[float, Field(ge=0, le=1)] = 0.0
    running: Annotated[tuple[Running, ...], Field(max_length=400)] = ()

    @model_validator(mode="after")
    def _state_is_possible(self) -> Self:
        if self.engine != "off" and self.key != "run":
            raise ValueError("engine: it runs only with the ignition on")
        named = [(r.accessory, r.output) for r in self.running]
        if len(set(named)) < len(named):
            raise ValueError("running: one stands twice")
        return self

    def share_of(self, accessory_id: str, output: str = "") -> float | None:
        """Return the share of an accessory or its output; None when it is not in use."""
        for item in self.running:
            if item.accessory == accessory_id and item.output in ("", output):
                return item.ratio
        return None


class DayPart(Stated):
    """A stretch of a day: a scenario, and how long it lasts. [min]"""

    scenario: Ident
    minutes: Minutes
