"""A relay that takes its load off: 30 from the feed, 87a to the load, its coil by a signal."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.relays import REST_RELAYS
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.control import (
    coil_end,
    coil_to_earth,
    control_fuse,
    control_to,
    signal_terminal,
)
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.power import fused_lead, relay_contact, to_load_and_back


@dataclass(frozen=True, slots=True)
class RelayCuts(Defaults):
    """Fuse - 30, 87a - load; signal that takes it off - 86; 85 - earth."""

    key: str = "relay_cuts"
    label: str = "Relay, normally closed (87a)"
    when: str = "something is on with its feed, and goes off while a lamp or the charging is on"
    relays: tuple[str, ...] = REST_RELAYS
    at_rest: bool = True

    def proposal(self, ask: Ask) -> str:
        """Propose it wherever something is stated that takes the load off."""
        if self.refusal(ask):
            return ""
        return f"It is on with its feed, and the {ask.use.unless} signal takes it off."

    def refusal(self, ask: Ask) -> str:
        """Needs a signal that is live when on, and a feed that is on just when the load is."""
        use = ask.use
        if not use.unless:
            return "nothing is stated that takes it off"
        if use.unless in ("low", "high") and ask.job.vehicle.headlamps == "earth":
            return "this vehicle's lamp wires go to earth when on; they cannot feed 86"
        if use.switch or use.also or use.unit or use.while_on or use.channel or use.signal:
            return "87a is live with its feed: no switch and no other signal can work it besides"
        if (ask.waking.key, ask.waking.lights) != (use.key, use.lights):
            return "87a is live with its feed: start it where the same key and lights rule"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without a signal that takes it off there is nothing for the coil."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what fails on."""
        return (
            "With the relay out, its coil broken or its small fuse blown, the load stays on: "
            "never for what must surely go off.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire the power path through 30 and 87a, the coil from what takes it off."""
        harness = Harness(bench)
        to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
        fused = control_fuse(harness, signal_terminal(harness, bench.use.unless))
        control_to(harness, fused, coil_end(harness, "86"))
        coil_to_earth(harness, coil_end(harness, "85"))
        return harness.parts()


SCHEME = RelayCuts()
