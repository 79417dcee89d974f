"""Relay whose coil a control unit earths: its output sinks, and may take little."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.kinds.controls import ControllerSpec
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.control import coil_end, control_to, key_feed, own_switch
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.power import fused_lead, relay_contact, to_load_and_back


def unit_contact(unit: str) -> str:
    """Return the name under which a control unit's output is switched on."""
    return f"{unit} on"


@dataclass(frozen=True, slots=True)
class RelayUnit(Defaults):
    """Fused feed - own switch, if any - 86; 85 - output of the control unit."""

    key: str = "relay_unit"
    label: str = "Relay, earthed by a control unit"
    when: str = "a fan or pump controller earths the coil"
    switch_role: SwitchRole = "own"

    def proposal(self, ask: Ask) -> str:
        """Propose it wherever a control unit is named."""
        if self.refusal(ask):
            return ""
        return f"{ask.use.unit} earths its coil."

    def refusal(self, ask: Ask) -> str:
        """Needs the control unit's output, and a feed that is live when on."""
        if not ask.use.unit:
            return "no control unit is stated that earths the coil"
        if ask.use.follows in ("low", "high") and ask.job.vehicle.headlamps == "earth":
            return "this vehicle's lamp wires go to earth when on; they cannot feed 86"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without the unit there is nothing to connect to."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what may hurt the unit."""
        return ("Ask the unit's maker what its output may take, and use a suppressed coil.",)

    def wiring(self, bench: Bench) -> Parts:
        """Wire the power path as usual, and the coil's earth to the control unit."""
        harness = Harness(bench)
        to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
        supply = own_switch(harness, key_feed(harness))
        control_to(harness, supply, coil_end(harness, "86"))
        unit, output = bench.use.unit, "sink"
        spec = ControllerSpec(
            outputs=(output,), grounded=(), low=(output,), contacts=(unit_contact(unit),)
        )
        ref = f"U{bench.number}"
        harness.add(ref, spec, unit, "its output goes to earth when on", name=unit)
        control_to(harness, coil_end(harness, "85"), Terminal(device=ref, terminal=output))
        return harness.parts()


SCHEME = RelayUnit()
