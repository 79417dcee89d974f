"""Two feeds for one load: one at rest through 87a, the other while the coil is on through 87."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.job import BATTERY
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.kinds.point import BUS
from ready_trail.core.relays import CHANGEOVER_RELAYS
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.control import coil_end, coil_to_earth, control_to, switched_feed
from ready_trail.core.schemes.harness import Harness, base_colour, clip
from ready_trail.core.schemes.power import (
    add_relay,
    fuse_m,
    fused_lead,
    switching_m,
    to_load_and_back,
    wire_to,
)

_LEAD_M = 0.15


@dataclass(frozen=True, slots=True)
class TwoFeeds(Defaults):
    """Fuse - 87, other fuse - 87a, 30 - load; feed - switch - 86; 85 - earth."""

    key: str = "two_feeds"
    label: str = "Changeover between two feeds"
    when: str = "one thing lives on one of two sources, and never joins them"
    relays: tuple[str, ...] = CHANGEOVER_RELAYS
    chooses_output: bool = True

    def proposal(self, ask: Ask) -> str:
        """Propose it wherever a second feed is stated."""
        if self.refusal(ask):
            return ""
        return "It has a second feed at rest; the relay takes one or the other."

    def refusal(self, ask: Ask) -> str:
        """Needs a second feed of the same voltage that is fed, and something for the coil."""
        rest = ask.circuit.rest_start
        if rest is None:
            return "no second feed is stated"
        if not ask.tree.is_fed(rest.point):
            return "nothing reaches its second feed"
        if ask.tree.nominal_v(rest.point) != ask.tree.nominal_v(ask.circuit.start.point):
            return "its two feeds have different voltages"
        if not ask.use.switch and ask.use.follows == "always":
            return "nothing works the coil: name a switch, a key position or a signal"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without a second feed there is nothing to change over to."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what stays live."""
        return ("At rest it is live from its second feed; take out both fuses before work.",)

    def wiring(self, bench: Bench) -> Parts:
        """Wire both feeds to the relay, and 30 on to the load."""
        harness = Harness(bench)
        relay = f"K{bench.number}"
        wire_to(harness, fused_lead(harness), Terminal(device=relay, terminal="87"))
        add_relay(harness)
        self._second_feed(harness, relay)
        to_load_and_back(harness, Terminal(device=relay, terminal="30"))
        control_to(harness, switched_feed(harness), coil_end(harness, "86"))
        coil_to_earth(harness, coil_end(harness, "85"))
        return harness.parts()

    def _second_feed(self, harness: Harness, relay: str) -> None:
        """Lead the other feed, by a fuse of the same rating, to 87a over the same length."""
        bench = harness.bench
        rest = bench.circuit.rest_start
        if rest is None:
            raise ValueError("there is no second feed")
        start = Terminal(device="BAT", terminal="+")
        if rest.point != BATTERY:
            start = Terminal(device=bench.references[rest.point], terminal=BUS)
            harness.needs.append(rest.point)
        ref, fuse = f"F{bench.number}R", bench.fuse
        begin, out = Terminal(device=ref, terminal="1"), Terminal(device=ref, terminal="2")
        colour = base_colour(bench.colour)
        harness.wire(
            "feed",
            start,
            begin,
            clip(bench.run, 0.0, _LEAD_M),
            colour=colour,
            joints=("lug", "crimp"),
            branch="rest",
        )
        harness.add(
            ref,
            FuseSpec(rating_a=fuse.rating_a, ohm=fuse.resistance_ohm, family=fuse.family),
            f"{fuse.rating_a:g} A",
            f"{fuse.family.label}, of the second feed",
            zone=bench.run[0].zone,
            at_m=fuse_m(bench),
        )
        harness.wire(
            "power",
            out,
            Terminal(device=relay, terminal="87a"),
            clip(bench.run, 0.0, switching_m(bench)),
            colour=colour,
            joints=("crimp", "crimp"),
            branch="rest",
        )


SCHEME = TwoFeeds()
