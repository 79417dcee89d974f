"""High beam on a vehicle that switches its headlamps on the earth side."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.control import (
    coil_end,
    control_back,
    control_fuse,
    control_past,
    headlamps,
    jumper_from_30,
    own_switch,
)
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.power import fused_lead, relay_contact, to_load_and_back


@dataclass(frozen=True, slots=True)
class HighBeamEarth(Defaults):
    """86 - headlamp common with its own fuse; 85 - own switch - high-beam wire."""

    key: str = "high_beam_earth"
    label: str = "High beam, earth-switched"
    when: str = "driving lights where the high-beam wire goes to earth when on"
    switch_role: SwitchRole = "own"
    coil_may_bridge_30: bool = True

    def proposal(self, ask: Ask) -> str:
        """Propose it for what goes with the high beam of such a vehicle."""
        if self.refusal(ask):
            return ""
        return "It goes with the high beam, which this vehicle switches on the earth side."

    def refusal(self, ask: Ask) -> str:
        """Needs a high-beam wire that goes to earth when on."""
        if ask.use.lights != "high":
            return "it does not follow the high beam"
        if ask.job.vehicle.headlamps != "earth":
            return "this vehicle's high-beam wire is live when on"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without its headlamps there is nothing to connect to."""
        return not self.refusal(ask)

    def coil_v(self, ask: Ask) -> float:
        """Return the vehicle's voltage, or the circuit's own where 30 feeds the coil."""
        if ask.circuit.coil_fed_from_30:
            return ask.tree.nominal_v(ask.circuit.start.point)
        return float(ask.job.vehicle.nominal_v)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to mind."""
        return (
            "Feeding 86 from 30 is often shown; through the filaments it can pull in with "
            "the lights off.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire the coil between the headlamp common (or 30, if stated) and the high-beam wire."""
        harness = Harness(bench)
        to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
        harness.devices.append(headlamps(bench.job))
        if bench.circuit.coil_fed_from_30:
            jumper_from_30(harness, coil_end(harness, "86"))
        else:
            common = control_fuse(harness, Terminal(device="HL", terminal="common"))
            control_past(harness, common, coil_end(harness, "86"))
        switched = own_switch(harness, coil_end(harness, "85"), from_relay=True)
        control_back(harness, switched, Terminal(device="HL", terminal="high"))
        return harness.parts()


SCHEME = HighBeamEarth()
