"""Low beam kept on with high: a relay feeds the low-beam wire while the high beam is on."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.relay_positive import wire_relay


@dataclass(frozen=True, slots=True)
class LowBeamKept(Defaults):
    """Fuse - 30/87 - factory low-beam wire; high-beam wire - 86; 85 - earth."""

    key: str = "low_beam_kept"
    label: str = "Low beam kept on with high"
    when: str = "a vehicle drops its low beam on high, and it should stay on"

    def proposal(self, ask: Ask) -> str:
        """Propose it for the factory's own low-beam lamps."""
        if self.refusal(ask):
            return ""
        return "It feeds the low beam, which the vehicle lets go, while the high beam is on."

    def refusal(self, ask: Ask) -> str:
        """Needs the factory's low-beam lamps, the high beam as trigger, and a positive side."""
        if any(a.own_feed != "low_beam" for a in ask.accessories) or not ask.accessories:
            return "what it feeds is not the factory's low beam"
        if ask.use.lights != "high":
            return "it does not follow the high beam"
        if ask.job.vehicle.headlamps != "positive":
            return "this vehicle's lamp wires go to earth when on; nothing may feed them"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without the high-beam wire there is nothing to connect to."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to look at."""
        return (
            "Both beams together heat the lamps, their plugs and the factory wire: ask whether the "
            "maker allows it, and whether your rules do.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire the coil from the high-beam wire, and 87 into the low-beam wire."""
        return wire_relay(bench)


SCHEME = LowBeamKept()
