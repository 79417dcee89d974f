"""A relay that sits in its fuse and relay block: one wire from the dash works it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.kinds.point import BUS
from ready_trail.core.kinds.relay import RelaySpec
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.control import coil_end, coil_to_earth, control_piece, own_switch
from ready_trail.core.schemes.harness import Harness, base_colour, clip
from ready_trail.core.schemes.power import fused_lead, switching_m, to_load_and_back

_LINK_M = 0.05


@dataclass(frozen=True, slots=True)
class RelayInBlock(Defaults):
    """Bus - fuse - 30/87 - load, all inside; 86 on the bus; 85 - switch - earth."""

    key: str = "relay_in_block"
    label: str = "Relay in its block, earth-switched"
    when: str = "a fuse and relay block, wired inside: one thin wire a relay from the dash"
    switch_role: SwitchRole = "own"

    def proposal(self, ask: Ask) -> str:
        """Propose it for what starts at such a block and follows the block's own key."""
        if self.refusal(ask):
            return ""
        name = ask.start_point.name if ask.start_point is not None else "The block"
        return f"{name} holds its relay: one wire from the dash works it."

    def refusal(self, ask: Ask) -> str:
        """Needs a block that holds relays, a switch, and the block's own key."""
        point = ask.start_point
        if point is None or not point.is_a.holds_relays:
            return "it does not start at a block that holds relays"
        if not ask.use.switch:
            return "there is no switch to work the coil"
        if not ask.waking.gives(ask.use):
            return "its coil hangs on the block's bus, which is live in other states"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without the block there is nothing to plug it into."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to mind."""
        return (
            "Prove the block's links with a meter before a relay goes in: 30 and 86 on the bus.",
            "Where the wire from 85 to the switch chafes to earth, it switches on by itself.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire what is ours: 87 to the load, 85 by way of the switch; the rest is the block's."""
        inside = bench.circuit.model_copy(update={"switching_at_m": 0.0})
        bench = replace(bench, ask=replace(bench.ask, circuit=inside))
        harness = Harness(bench)
        relay = f"K{bench.number}"
        at_m = switching_m(bench)
        harness.wire(
            "power",
            fused_lead(harness),
            Terminal(device=relay, terminal="30"),
            clip(bench.run, 0.0, at_m),
            colour=base_colour(bench.colour),
            joints=("crimp", "crimp"),
            supplied=True,
        )
        harness.add(
            relay,
            RelaySpec(relay=bench.relay, ambient_c=bench.relay_c, in_block=True),
            bench.relay.label,
            f"in its block; coil suppression: {bench.relay.suppression}",
            zone=bench.run[0].zone,
            at_m=at_m,
            on_the_way=True,
        )
        to_load_and_back(harness, Terminal(device=relay, terminal="87"))
        harness.wire(
            "control",
            Terminal(device=bench.start.device, terminal=BUS),
            coil_end(harness, "86"),
            (control_piece(bench, _LINK_M),),
            colour=bench.control_colour,
            supplied=True,
        )
        coil_to_earth(harness, own_switch(harness, coil_end(harness, "85"), from_relay=True))
        return harness.parts()


SCHEME = RelayInBlock()
