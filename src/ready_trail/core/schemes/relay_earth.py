"""Relay, switched on the earth side of its coil."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.parts import (
    Harness,
    coil_end,
    coil_to_earth,
    control_to,
    fused_lead,
    key_feed,
    relay_contact,
    through_switch,
    to_load_and_back,
)
from ready_trail.core.wiring import Wiring


@dataclass(frozen=True, slots=True)
class RelayEarth:
    """86 - fused feed; 85 - switch - earth."""

    key: str = "relay_earth"
    label: str = "Relay, earth-switched"
    when: str = "one thin wire to the switch, and no live wire in the dash"
    has_relay: bool = True
    switch_in_path: bool = False
    sizing_rule: str = "circuit"

    def refusal(self, job: Job, circuit: Circuit, accessories: tuple[Accessory, ...]) -> str:
        """Needs a switch of its own, and nothing from the headlamps."""
        use = accessories[0].use
        if use.lights in ("low", "high"):
            return "headlamp wires have schemes of their own"
        if not use.switch:
            return "there is no switch to work the coil"
        return ""

    def wiring(self, bench: Bench) -> Wiring:
        """Wire the coil from the feed and through the switch to earth."""
        harness = Harness(bench)
        to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
        control_to(harness, key_feed(harness), coil_end(harness, "86"))
        coil_to_earth(harness, through_switch(harness, coil_end(harness, "85")))
        return harness.wiring()


SCHEME = RelayEarth()
