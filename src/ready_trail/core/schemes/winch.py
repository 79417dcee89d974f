"""Winch: battery, bolt-down fuse, contactor, motor, with its own pair of cables."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.relay_positive import wire_relay


@dataclass(frozen=True, slots=True)
class Winch(Defaults):
    """The contactor is drawn in one direction; its other half mirrors it."""

    key: str = "winch"
    label: str = "Winch contactor"
    when: str = "a winch on its own pair of cables"
    for_winch: bool = True

    def proposal(self, ask: Ask) -> str:
        """Propose it for a winch alone."""
        if not ask.has_winch:
            return ""
        return "A winch is fed straight from the battery through a contactor."

    def refusal(self, ask: Ask) -> str:
        """Only for a winch alone, and only with a switch."""
        if any(accessory.model != "winch" for accessory in ask.accessories):
            return "this scheme is for winches only"
        if not ask.use.switch:
            return "there is no switch to work the contactor"
        if ask.use.lights in ("low", "high") and ask.job.vehicle.headlamps == "earth":
            return "a headlamp wire switched to earth cannot feed its contactor"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """What it refuses has nothing sensible to draw."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say how a winch is worked."""
        return (
            "Winch: keep hands off the fairlead, wear gloves, nobody in the bight, damper on "
            "the line; let the motor cool.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire as a positive-switched coil; the contactor stands for the relay."""
        return wire_relay(bench)


SCHEME = Winch()
