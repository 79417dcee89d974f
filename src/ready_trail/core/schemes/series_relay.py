"""A relay or a switch in a cut wire of the vehicle: in front of what the vehicle feeds."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.relay_positive import wire_relay


@dataclass(frozen=True, slots=True)
class SeriesRelay(Defaults):
    """Factory fuse - cut end - 30/87 - the other end; switch - 86; 85 - earth."""

    key: str = "series_relay"
    label: str = "Relay in a cut wire of the vehicle"
    when: str = "something that the vehicle feeds should be on only when a switch of ours allows it"

    def proposal(self, ask: Ask) -> str:
        """Propose it for what starts at a cut wire."""
        if self.refusal(ask):
            return ""
        name = ask.start_point.name if ask.start_point is not None else "The wire"
        return f"{name} is cut: the factory fuse stays, the relay stands between the two ends."

    def refusal(self, ask: Ask) -> str:
        """Needs a cut wire, and something that works its coil."""
        point = ask.start_point
        if point is None or not point.is_a.is_cut or not ask.circuit.start.position:
            return "it does not start at a cut wire of the vehicle"
        if not ask.use.switch and ask.use.channel is None:
            return "nothing works its coil: name a switch or a channel"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without a cut there is nothing to stand between."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say how a wire is cut."""
        return (
            "Factory fuse out before the cut. Cut where both ends can be reached, the two splices "
            "a hand apart, each insulated by itself; label both ends.",
            "Never in a wire of airbag, brakes, steering or engine management.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire the relay between both ends; what it feeds keeps its own way back."""
        return wire_relay(bench)


SCHEME = SeriesRelay()
