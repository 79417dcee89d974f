"""A factory bank's channel led into the cabin: a jumper onto the vehicle's own pass-through."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.kinds.passage import PassageSpec
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.harness import Harness, clip
from ready_trail.core.schemes.power import fused_lead, to_load_and_back

_JUMPER_M = 0.3


@dataclass(frozen=True, slots=True)
class ChannelPass(Defaults):
    """Bank - jumper - pass-through - load: no hole of its own through the firewall."""

    key: str = "channel_pass"
    label: str = "Factory channel through the cabin pass-through"
    when: str = "a device in the cabin on a factory channel whose lead ends in the engine bay"
    has_relay: bool = False
    switch_role: SwitchRole = "none"

    def refusal(self, ask: Ask) -> str:
        """Needs a factory bank with a spare wire into the cabin that no other circuit uses."""
        point = ask.start_point
        if point is None or not point.is_a.has_channel_bank or not ask.circuit.start.position:
            return "it does not start at a channel of a factory bank"
        if point.pass_through_mohm is None:
            return f"{point.name} has no pass-through stated"
        others = [
            c
            for c in ask.job.circuits
            if c.id != ask.circuit.id and c.start.point == point.id and c.held.scheme == self.key
        ]
        if len(others) >= point.pass_wires:
            names = ", ".join(c.name for c in others)
            proved = "the one spare wire" if point.pass_wires == 1 else "every spare wire"
            return f"{names} uses {proved} through the firewall; more need a new hole"
        if ask.circuit.branches:
            return "its units sit apart; lead the channel to a joint instead"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without its pass-through there is nothing to join."""
        return not self.refusal(ask)

    def path_ohm(self, ask: Ask) -> float:
        """Return the pass-through's resistance. [Ω]"""
        point = ask.start_point
        return (point.pass_through_mohm or 0.0) * 1e-3 if point is not None else 0.0

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to mind."""
        return (
            "Each proved spare wire takes one channel; another device in the cabin needs a hole.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire channel - jumper - pass-through - load; the run is what lies in the cabin."""
        harness = Harness(bench)
        point = bench.ask.start_point
        ohm = (point.pass_through_mohm or 1.0) * 1e-3 if point is not None else 0.001
        ref = f"P{bench.number}"
        jumper = clip(bench.run, 0.0, min(_JUMPER_M, bench.circuit.run_m / 2))
        harness.wire(
            "power",
            fused_lead(harness),
            Terminal(device=ref, terminal="bay"),
            jumper,
            colour=bench.colour,
            joints=("crimp", "crimp"),
        )
        harness.add(
            ref,
            PassageSpec(ohm=ohm),
            "Pass-through",
            "the vehicle's own lead",
            name="Pass-through",
            zone=bench.run[0].zone,
            on_the_way=True,
            at_m=min(_JUMPER_M, bench.circuit.run_m / 2),
        )
        to_load_and_back(harness, Terminal(device=ref, terminal="cabin"))
        return harness.parts()


SCHEME = ChannelPass()
