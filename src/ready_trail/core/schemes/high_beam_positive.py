"""High beam on a vehicle that switches its headlamps on the positive side."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.relay_positive import wire_relay


@dataclass(frozen=True, slots=True)
class HighBeamPositive(Defaults):
    """High-beam wire - own switch - 86; 85 - earth."""

    key: str = "high_beam_positive"
    label: str = "High beam, positive-switched"
    when: str = "driving lights that go out with the high beam"

    def proposal(self, ask: Ask) -> str:
        """Propose it for what goes with the high beam of such a vehicle."""
        if self.refusal(ask):
            return ""
        return "It goes with the high beam, which this vehicle switches on the positive side."

    def refusal(self, ask: Ask) -> str:
        """Needs a high-beam wire that is live when on."""
        if ask.use.lights != "high":
            return "it does not follow the high beam"
        if ask.job.vehicle.headlamps != "positive":
            return "this vehicle's high-beam wire goes to earth when on"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without its headlamps there is nothing to connect to."""
        return not self.refusal(ask)

    def wiring(self, bench: Bench) -> Parts:
        """Wire the coil from the high-beam wire."""
        return wire_relay(bench)


SCHEME = HighBeamPositive()
