"""High beam on a vehicle that switches its headlamps on the earth side."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.parts import (
    Harness,
    coil_end,
    control_fuse,
    control_to,
    fused_lead,
    relay_contact,
    through_switch,
    to_load_and_back,
)
from ready_trail.core.schemes.vehicle_side import headlamps
from ready_trail.core.wiring import End, Wiring


@dataclass(frozen=True, slots=True)
class HighBeamEarth:
    """86 - headlamp common with its own fuse; 85 - own switch - high-beam wire."""

    key: str = "high_beam_earth"
    label: str = "High beam, earth-switched vehicle"
    when: str = "driving lights where the high-beam wire goes to earth when on"
    has_relay: bool = True
    switch_in_path: bool = False
    sizing_rule: str = "circuit"

    def refusal(self, job: Job, circuit: Circuit, accessories: tuple[Accessory, ...]) -> str:
        """Needs a high-beam wire that goes to earth when on."""
        if accessories[0].use.lights != "high":
            return "it does not follow the high beam"
        if job.vehicle.headlamps != "earth":
            return "this vehicle's high-beam wire is live when on"
        return ""

    def wiring(self, bench: Bench) -> Wiring:
        """Wire the coil between the headlamp common (or 30, if stated) and the high-beam wire."""
        harness = Harness(bench)
        supply = fused_lead(harness)
        to_load_and_back(harness, relay_contact(harness, supply))
        harness.add(headlamps(bench.job))
        from_30 = bench.circuit.coil_fed_from_30
        common = coil_end(harness, "30") if from_30 else End(device="HL", terminal="common")
        control_to(harness, control_fuse(harness, common), coil_end(harness, "86"))
        switched = through_switch(harness, coil_end(harness, "85"))
        control_to(harness, switched, End(device="HL", terminal="high"))
        return harness.wiring()


SCHEME = HighBeamEarth()
