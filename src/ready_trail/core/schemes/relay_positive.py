"""Relay, switched on the positive side of its coil: the usual."""

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
class RelayPositive:
    """Fused feed - switch - 86; 85 - earth."""

    key: str = "relay_positive"
    label: str = "Relay, positive-switched"
    when: str = "the usual: a small switch works a heavy load"
    has_relay: bool = True
    switch_in_path: bool = False
    sizing_rule: str = "circuit"

    def refusal(self, job: Job, circuit: Circuit, accessories: tuple[Accessory, ...]) -> str:
        """Needs a switch of its own, and nothing from the lights."""
        use = accessories[0].use
        if use.lights != "any":
            return "it must follow the lights; take the scheme triggered by the vehicle"
        if not use.switch:
            return "there is no switch to work the coil"
        return ""

    def wiring(self, bench: Bench) -> Wiring:
        """Wire the power path through 30/87 and the coil from the keyed feed."""
        harness = Harness(bench)
        to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
        control_to(harness, through_switch(harness, key_feed(harness)), coil_end(harness, "86"))
        coil_to_earth(harness, coil_end(harness, "85"))
        return harness.wiring()


SCHEME = RelayPositive()
