"""A relay beside a factory feed: what the vehicle switches by itself gets a second way on."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.relay_positive import wire_relay


@dataclass(frozen=True, slots=True)
class KeptFeed(Defaults):
    """Fuse - 30/87 - the accessory's own wire, spliced; coil as its switch or key wants."""

    key: str = "kept_feed"
    label: str = "Relay beside the factory feed"
    when: str = "a fan that the vehicle also runs by itself"

    def proposal(self, ask: Ask) -> str:
        """Propose it for what has a controller's feed of its own."""
        if self.refusal(ask):
            return ""
        return "The vehicle feeds it too: an open contact keeps the two feeds apart."

    def refusal(self, ask: Ask) -> str:
        """Needs a factory feed beside it, and something that works the coil."""
        if not ask.accessories or any(a.own_feed != "controller" for a in ask.accessories):
            return "the vehicle does not feed it by itself"
        if not ask.use.switch and ask.use.follows == "always":
            return "nothing works the coil: name a switch, a key position or a signal"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without anything that works the coil there is nothing to wire."""
        return bool(ask.use.switch) or ask.use.follows != "always"

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to prove."""
        return (
            "A coasting fan makes voltage by itself: read its wire only when it stands still, and "
            "keep hands away; it may start at any time.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire the relay as usual; its 87 ends in a splice on the factory wire."""
        return wire_relay(bench)


SCHEME = KeptFeed()
