"""Relay triggered by a vehicle signal: ignition, accessory, side lights or low beam."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.relay_positive import RelayPositive
from ready_trail.core.wiring import Wiring


@dataclass(frozen=True, slots=True)
class RelaySignal:
    """Signal - own switch, if any - 86; 85 - earth."""

    key: str = "relay_signal"
    label: str = "Relay, triggered by the vehicle"
    when: str = "the accessory follows the ignition, the side lights or the low beam"
    has_relay: bool = True
    switch_in_path: bool = False
    sizing_rule: str = "circuit"

    def refusal(self, job: Job, circuit: Circuit, accessories: tuple[Accessory, ...]) -> str:
        """Needs a signal that is positive when on; high beam has schemes of its own."""
        use = accessories[0].use
        if use.lights == "high":
            return "high beam has its own schemes"
        if use.lights == "low" and job.vehicle.headlamps == "earth":
            return "this vehicle's low-beam wire goes to earth when on; it cannot feed 86"
        if use.lights == "any" and use.key == "always":
            return "there is no vehicle signal to follow"
        return ""

    def wiring(self, bench: Bench) -> Wiring:
        """Wire as for a positive-switched coil; the feed itself is the signal."""
        return RelayPositive().wiring(bench)


SCHEME = RelaySignal()
