"""A panel's or bank's channel: carrying the load itself, or triggering a relay."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.power import fused_lead, to_load_and_back
from ready_trail.core.schemes.relay_positive import wire_relay


@dataclass(frozen=True, slots=True)
class ChannelDirect(Defaults):
    """Channel - load: fuse and switching sit in the panel's module or the factory bank."""

    key: str = "channel"
    label: str = "Panel channel, direct"
    when: str = "the channel carries the load with margin"
    has_relay: bool = False
    switch_role: SwitchRole = "none"

    def proposal(self, ask: Ask) -> str:
        """Propose it for what starts at a channel."""
        if self.refusal(ask):
            return ""
        point = ask.start_point
        return f"{point.name if point else 'The panel'} protects and switches this position itself."

    def refusal(self, ask: Ask) -> str:
        """Needs to start at a position that is protected and switched by itself."""
        point = ask.start_point
        if point is None or not point.switches_its_positions or not ask.circuit.start.position:
            return "it does not start at a channel of a panel or bank"
        if point.is_a.is_cut and ask.use.switch:
            return "the cut wire goes on by itself; a switch there wants a relay between its ends"
        if ask.has_winch:
            return "a winch takes more than any channel"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without a channel there is nothing to start from."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to ask of the panel."""
        return (
            "Find out what the panel does at the next start: it remembers its last state, or comes "
            "up off.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire channel - load."""
        harness = Harness(bench)
        to_load_and_back(harness, fused_lead(harness))
        return harness.parts()


@dataclass(frozen=True, slots=True)
class ChannelTrigger(Defaults):
    """Panel channel - 86; 85 - earth; the power path has its own fuse and relay."""

    key: str = "channel_trigger"
    label: str = "Relay, triggered by a panel channel"
    when: str = "the channel is too small for the load, or the harness with its relay is kept"

    def proposal(self, ask: Ask) -> str:
        """Propose it where a channel is named as the trigger."""
        if self.refusal(ask):
            return ""
        return "A panel's channel works its relay."

    def refusal(self, ask: Ask) -> str:
        """Needs a channel that triggers it."""
        channel = ask.use.channel
        if channel is None:
            return "no panel channel is stated that triggers it"
        point = ask.tree.points.get(channel.point)
        if point is None or not point.switches_its_positions:
            return "what triggers it has no switched channels"
        if point.position(channel.position) is None:
            return f"{point.name} has no channel {channel.position}"
        if ask.has_winch:
            return "a winch has its own contactor"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without a channel there is nothing to trigger it."""
        return not self.refusal(ask)

    def wiring(self, bench: Bench) -> Parts:
        """Wire as a relay whose coil the channel feeds."""
        return wire_relay(bench)


DIRECT, TRIGGER = ChannelDirect(), ChannelTrigger()
