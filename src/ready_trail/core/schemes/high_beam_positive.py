"""High beam on a vehicle that switches its headlamps on the positive side."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.relay_positive import RelayPositive
from ready_trail.core.wiring import Wiring


@dataclass(frozen=True, slots=True)
class HighBeamPositive:
    """High-beam wire - own switch - 86; 85 - earth."""

    key: str = "high_beam_positive"
    label: str = "High beam, positive-switched vehicle"
    when: str = "driving lights that go out with the high beam"
    has_relay: bool = True
    switch_in_path: bool = False
    sizing_rule: str = "circuit"

    def refusal(self, job: Job, circuit: Circuit, accessories: tuple[Accessory, ...]) -> str:
        """Needs a high-beam wire that is live when on."""
        if accessories[0].use.lights != "high":
            return "it does not follow the high beam"
        if job.vehicle.headlamps != "positive":
            return "this vehicle's high-beam wire goes to earth when on"
        return ""

    def wiring(self, bench: Bench) -> Wiring:
        """Wire the coil from the high-beam wire."""
        return RelayPositive().wiring(bench)


SCHEME = HighBeamPositive()
