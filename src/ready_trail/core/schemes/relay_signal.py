"""Relay triggered by a vehicle signal: ignition, accessory, side lights or low beam."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.relay_positive import wire_relay


@dataclass(frozen=True, slots=True)
class RelaySignal(Defaults):
    """Signal - own switch, if any - 86; 85 - earth."""

    key: str = "relay_signal"
    label: str = "Relay, triggered by the vehicle"
    when: str = "the accessory follows the ignition, the side lights or the low beam"

    def proposal(self, ask: Ask) -> str:
        """Propose it for what follows a vehicle signal by itself."""
        if ask.use.lights in ("side", "low"):
            return f"It follows the vehicle's {ask.use.lights} lights."
        if self.refusal(ask):
            return ""
        if ask.use.signal:
            return f"It follows the vehicle's {ask.use.signal} signal."
        return "It follows the key by itself, without a switch."

    def refusal(self, ask: Ask) -> str:
        """Needs a signal that is positive when on; high beam has schemes of its own."""
        use = ask.use
        if use.signal:
            return ""
        if use.lights == "high":
            return "high beam has its own schemes"
        if use.lights == "low" and ask.job.vehicle.headlamps == "earth":
            return "this vehicle's low-beam wire goes to earth when on; it cannot feed 86"
        if use.lights == "any" and use.key == "always":
            return "there is no vehicle signal to follow"
        return ""

    def wiring(self, bench: Bench) -> Parts:
        """Wire as for a positive-switched coil; the feed itself is the signal."""
        return wire_relay(bench)


SCHEME = RelaySignal()
