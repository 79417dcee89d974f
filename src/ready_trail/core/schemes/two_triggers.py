"""Two triggers for one relay, each through a diode, so that neither feeds the other back."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.kinds.controls import DiodeSpec
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.control import (
    coil_end,
    coil_to_earth,
    control_fuse,
    control_to,
    control_wire,
    own_switch,
    signal_terminal,
)
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.power import fused_lead, relay_contact, to_load_and_back

_TO_DIODE_M = 0.3


@dataclass(frozen=True, slots=True)
class TwoTriggers(Defaults):
    """Signal - diode, other signal - diode, both - own switch - 86; 85 - earth."""

    key: str = "two_triggers"
    label: str = "Relay, two triggers through diodes"
    when: str = "either of two signals switches it on, and neither may feed the other"
    switch_role: SwitchRole = "own"

    def proposal(self, ask: Ask) -> str:
        """Propose it wherever a second trigger is stated."""
        if self.refusal(ask):
            return ""
        return f"Either {ask.use.follows} or {ask.use.also} switches it on, each through a diode."

    def refusal(self, ask: Ask) -> str:
        """Needs two different signals that are live when on."""
        use = ask.use
        if not use.also:
            return "no second trigger is stated"
        if use.follows == "always":
            return "its first trigger is always live; state the signal that it follows"
        if use.follows == use.also:
            return "both triggers are the same"
        if {"low", "high"} & {use.follows, use.also} and ask.job.vehicle.headlamps == "earth":
            return "this vehicle's lamp wires go to earth when on; they cannot feed 86"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without two signals there is nothing to connect to."""
        return not self.refusal(ask)

    def wiring(self, bench: Bench) -> Parts:
        """Wire the power path as usual, and the coil from both signals."""
        harness = Harness(bench)
        to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
        coil = coil_end(harness, "86")
        switch = bench.ask.switch
        joined = coil
        if switch is not None:
            joined = Terminal(device=bench.references[f"switch {switch.name}"], terminal="1")
        for letter, signal in (("A", bench.use.follows), ("B", bench.use.also)):
            fused = control_fuse(harness, signal_terminal(harness, signal), suffix=f"T{letter}")
            ref = f"D{bench.number}{letter}"
            harness.add(ref, DiodeSpec(), "Blocking diode", "1 A, cathode to the coil")
            control_wire(harness, fused, Terminal(device=ref, terminal="A"), _TO_DIODE_M)
            control_wire(harness, Terminal(device=ref, terminal="K"), joined, _TO_DIODE_M)
        if switch is not None:
            control_to(harness, own_switch(harness, None), coil)
        coil_to_earth(harness, coil_end(harness, "85"))
        return harness.parts()


SCHEME = TwoTriggers()
