"""Relay, switched on the positive side of its coil: the usual."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.control import coil_end, coil_to_earth, control_to, switched_feed
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.power import fused_lead, relay_contact, to_load_and_back


def wire_relay(bench: Bench) -> Parts:
    """Wire the power path through 30/87 and the coil from its switched feed."""
    harness = Harness(bench)
    to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
    control_to(harness, switched_feed(harness), coil_end(harness, "86"))
    coil_to_earth(harness, coil_end(harness, "85"))
    return harness.parts()


@dataclass(frozen=True, slots=True)
class RelayPositive(Defaults):
    """Fused feed - switch - 86; 85 - earth."""

    key: str = "relay_positive"
    label: str = "Relay, positive-switched"
    when: str = "the usual: a small switch works a heavy load"

    def proposal(self, ask: Ask) -> str:
        """Propose it for whatever has a switch that should not carry the load itself."""
        if self.refusal(ask) or ask.switch is None:
            return ""
        if ask.use.key != "always":
            return "It must follow the key and has a switch of its own."
        return (
            f"{ask.current_a:.1f} A on {ask.circuit.run_m:.1f} m is more than a switch alone "
            "should carry."
        )

    def refusal(self, ask: Ask) -> str:
        """Needs a switch of its own, and nothing from the lights."""
        if ask.use.lights != "any" or ask.use.signal:
            return "it must follow the lights; take the scheme triggered by the vehicle"
        if not ask.use.switch:
            return "there is no switch to work the coil"
        return ""

    def wiring(self, bench: Bench) -> Parts:
        """Wire it as its name says."""
        return wire_relay(bench)


SCHEME = RelayPositive()
