"""Winch: battery, bolt-down fuse, contactor, motor, with its own pair of cables."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.relay_positive import RelayPositive
from ready_trail.core.wiring import Wiring


@dataclass(frozen=True, slots=True)
class Winch:
    """The contactor is drawn in one direction; its other half mirrors it."""

    key: str = "winch"
    label: str = "Winch contactor"
    when: str = "a winch on its own pair of cables"
    has_relay: bool = True
    switch_in_path: bool = False
    sizing_rule: str = "winch"

    def refusal(self, job: Job, circuit: Circuit, accessories: tuple[Accessory, ...]) -> str:
        """Only for winches, and only with a switch."""
        if any(accessory.model != "winch" for accessory in accessories):
            return "this scheme is for winches only"
        if not accessories[0].use.switch:
            return "there is no switch to work the contactor"
        return ""

    def wiring(self, bench: Bench) -> Wiring:
        """Wire as a positive-switched coil; the contactor stands for the relay."""
        return RelayPositive().wiring(bench)


SCHEME = Winch()
