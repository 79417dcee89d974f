"""Relay, switched on the earth side of its coil."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.control import (
    coil_end,
    coil_to_earth,
    control_past,
    key_feed,
    own_switch,
)
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.power import fused_lead, relay_contact, to_load_and_back


@dataclass(frozen=True, slots=True)
class RelayEarth(Defaults):
    """86 - fused feed; 85 - switch - earth."""

    key: str = "relay_earth"
    label: str = "Relay, earth-switched"
    when: str = "one thin wire to the switch, and no live wire in the dash"
    switch_role: SwitchRole = "own"

    def proposal(self, ask: Ask) -> str:
        """Propose it where the house switches the earth of coils and a relay is wanted."""
        if ask.job.rules.coil_side != "earth" or self.refusal(ask) or ask.switch is None:
            return ""
        return "This house switches the earth side of coils." if ask.use.lights == "any" else ""

    def refusal(self, ask: Ask) -> str:
        """Needs a switch of its own, and nothing from the headlamps."""
        if ask.use.signal or ask.use.also:
            return "a lamp signal feeds 86 itself"
        if ask.use.lights in ("low", "high"):
            return "headlamp wires have schemes of their own"
        if not ask.use.switch:
            return "there is no switch to work the coil"
        return ""

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to mind."""
        return ("Where the wire from 85 to the switch chafes to earth, it switches on by itself.",)

    def wiring(self, bench: Bench) -> Parts:
        """Wire the coil from the feed and through the switch to earth."""
        harness = Harness(bench)
        to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
        control_past(harness, key_feed(harness), coil_end(harness, "86"))
        coil_to_earth(harness, own_switch(harness, coil_end(harness, "85"), from_relay=True))
        return harness.parts()


SCHEME = RelayEarth()
