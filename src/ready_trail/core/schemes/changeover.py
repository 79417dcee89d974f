"""Changeover: one feed, two outputs of an accessory; 87a at rest, 87 when the coil is on."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.relays import CHANGEOVER_RELAYS
from ready_trail.core.schemes.base import Ask, Bench, Defaults
from ready_trail.core.schemes.control import coil_end, coil_to_earth, control_to, switched_feed
from ready_trail.core.schemes.ends import add_load
from ready_trail.core.schemes.harness import Harness, clip
from ready_trail.core.schemes.power import (
    fused_lead,
    relay_contact,
    switching_m,
    way_back,
)


@dataclass(frozen=True, slots=True)
class Changeover(Defaults):
    """Fuse - 30; 87 and 87a - the two outputs; feed - switch - 86; 85 - earth."""

    key: str = "changeover"
    label: str = "Changeover, 87 and 87a"
    when: str = (
        "one feed, and a switch that chooses between two outputs: dim or bright, two colours"
    )
    relays: tuple[str, ...] = CHANGEOVER_RELAYS
    chooses_output: bool = True

    def proposal(self, ask: Ask) -> str:
        """Propose it where a switch chooses between the outputs."""
        if self.refusal(ask) or not ask.job.accessory(ask.circuit.accessory_ids[0]).one_at_a_time:
            return ""
        return "Its switch chooses between the two outputs; one of them is always on with its feed."

    def refusal(self, ask: Ask) -> str:
        """Needs one accessory with two outputs, a switch, and a start that sleeps."""
        if len(ask.circuit.accessory_ids) != 1 or ask.circuit.is_feeder:
            return "it works one accessory with two outputs"
        accessory = ask.job.accessory(ask.circuit.accessory_ids[0])
        if len(accessory.outputs) != 2 or ask.circuit.output:
            return "its accessory has no two outputs on this one circuit"
        if not ask.use.switch or ask.circuit.branches:
            return (
                "there is no switch that chooses"
                if not ask.use.switch
                else ("its units sit apart; a changeover feeds one place")
            )
        if not ask.waking.sleeps:
            return "87a is live at rest: start it where the key or the lights already rule"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without two outputs and a switch there is nothing to wire."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to mind."""
        return (
            "87a is live whenever 30 is: both outputs can never be off together while the "
            "feed is on.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire 30 from the fuse, and each output to its contact; the larger one to 87."""
        harness = Harness(bench)
        made = relay_contact(harness, fused_lead(harness))
        accessory = bench.job.accessory(bench.circuit.accessory_ids[0])
        first, second = ordered_outputs(bench.ask)
        rest = clip(bench.run, switching_m(bench), bench.circuit.run_m)
        load = bench.load
        harness.wire(
            "power",
            made,
            Terminal(device=load, terminal=first),
            rest,
            colour=bench.colour,
            joints=("crimp", "crimp"),
        )
        at_rest = Terminal(device=made.device, terminal="87a")
        harness.wire(
            "power",
            at_rest,
            Terminal(device=load, terminal=second),
            rest,
            colour=bench.colour,
            joints=("crimp", "crimp"),
            branch="rest",
        )
        parts = tuple((accessory.only(output=name), name) for name in (first, second))
        add_load(harness, load, parts, bench.circuit.name, bench.run[-1].zone, bench.circuit.run_m)
        way_back(harness, Terminal(device=load, terminal="-"), "crimp")
        control_to(harness, switched_feed(harness), coil_end(harness, "86"))
        coil_to_earth(harness, coil_end(harness, "85"))
        return harness.parts()


def ordered_outputs(ask: Ask) -> tuple[str, str]:
    """Return the names of the two outputs, the larger first."""
    accessory = ask.job.accessory(ask.circuit.accessory_ids[0])
    outputs = sorted(accessory.outputs, key=lambda o: -((o.watts or 0.0) + (o.amps or 0.0)))
    return outputs[0].name, outputs[1].name


SCHEME = Changeover()
