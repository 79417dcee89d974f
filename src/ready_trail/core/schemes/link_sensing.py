"""Second battery by a voltage-sensing relay: joined while one of the two is being charged."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.kinds.sensing import SensingSpec
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.control import coil_end, coil_to_earth
from ready_trail.core.schemes.harness import Harness, piece_at
from ready_trail.core.schemes.power import fused_lead, to_load_and_back, wire_to


@dataclass(frozen=True, slots=True)
class LinkSensing(Defaults):
    """Battery - fuse - 30/87 - fuse - battery; it senses at 30, 85 - earth."""

    key: str = "link_sensing"
    label: str = "Battery link, voltage-sensing"
    when: str = "a second battery that is charged whenever the first one is, without a signal"
    switch_role: SwitchRole = "none"
    works_charging: bool = True

    def proposal(self, ask: Ask) -> str:
        """Propose it wherever two batteries would else be joined for good."""
        root = ask.tree.root(ask.circuit)
        if self.refusal(ask) or (root is not None and root.battery is None):
            return ""
        return "Two batteries are joined through something that can part them."

    def refusal(self, ask: Ask) -> str:
        """Needs a second battery of the same voltage at its end, and no switch."""
        point = ask.tree.points.get(ask.circuit.feeds or "")
        if point is None or not point.is_a.stores:
            return "it feeds no second battery"
        if ask.use.switch:
            return "a sensing relay has no switch; take it out of the use"
        if ask.use.follows != "always":
            return "it follows the charging voltage, not the key; let it live always"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without a second battery there is nothing to join."""
        return not self.refusal(ask)

    def coil_v(self, ask: Ask) -> float:
        """Return the circuit's own: it senses at its 30."""
        return ask.tree.nominal_v(ask.circuit.start.point)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to mind."""
        return ("Two batteries feed one cable: fuse both ends, and isolate both before work.",)

    def wiring(self, bench: Bench) -> Parts:
        """Wire the link through the sensing relay, and its earth."""
        harness = Harness(bench)
        ref, circuit = f"K{bench.number}", bench.circuit
        wire_to(harness, fused_lead(harness), Terminal(device=ref, terminal="30"))
        harness.add(
            ref,
            SensingSpec(relay=bench.relay, nominal_v=bench.nominal_v),
            "Voltage-sensing relay",
            f"{bench.relay.contact_a_23c:.0f} A, joins while charging",
            zone=piece_at(bench.run, circuit.switching_at_m).zone,
            at_m=circuit.switching_at_m,
            on_the_way=True,
        )
        to_load_and_back(harness, Terminal(device=ref, terminal="87"))
        coil_to_earth(harness, coil_end(harness, "85"))
        return harness.parts()


SCHEME = LinkSensing()
