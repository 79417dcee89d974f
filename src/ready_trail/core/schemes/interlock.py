"""Interlock: the coil is fed from the output of another circuit, so it works only with that."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ready_trail.core.installation import Parts, Terminal
from ready_trail.core.job import Circuit
from ready_trail.core.kinds.switch import output_of
from ready_trail.core.schemes.base import (
    Ask,
    Bench,
    Defaults,
    SwitchRole,
    signal_v,
    trigger_v,
)
from ready_trail.core.schemes.control import (
    coil_end,
    coil_to_earth,
    control_fuse,
    control_to,
    own_switch,
)
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.power import fused_lead, relay_contact, to_load_and_back
from ready_trail.core.schemes.refs import first_unit


def enabler_of(ask: Ask) -> Circuit | None:
    """Return the circuit that an interlocked one waits for."""
    wanted = ask.use.while_on
    return next((c for c in ask.job.circuits if wanted and c.id == wanted), None)


def _enabling(harness: Harness, enabler: Circuit) -> Terminal:
    """Where the enabling feed is taken: at the other's output, or behind its switch."""
    bench = harness.bench
    use = bench.job.use_of(enabler)
    switch = bench.job.switch(use.switch) if use.switch else None
    if bench.use.while_by == "switch" and switch is not None:
        ref = bench.references[f"switch {switch.name}"]
        harness.needs.append(ref)
        return Terminal(device=ref, terminal=output_of(switch.throws, use.throw))
    return Terminal(
        device=first_unit(bench.references[enabler.id], enabler),
        terminal=bench.job.plus_of(enabler),
    )


@dataclass(frozen=True, slots=True)
class Interlock(Defaults):
    """Output of the enabling circuit - fuse - own switch - 86; 85 - earth."""

    key: str = "interlock"
    label: str = "Relay, interlocked"
    when: str = "only while another thing is on, such as a hoist with its beacon"
    switch_role: SwitchRole = "own"

    def proposal(self, ask: Ask) -> str:
        """Propose it for whatever waits for another circuit."""
        if not ask.use.while_on:
            return ""
        enabler = enabler_of(ask)
        return f"It works only while {enabler.name if enabler else 'another'} is on."

    def refusal(self, ask: Ask) -> str:
        """Needs another circuit of the job that is not itself interlocked."""
        enabler = enabler_of(ask)
        if not ask.use.while_on:
            return "no other circuit is stated that enables it"
        if enabler is None:
            return "the circuit that enables it is no longer in the job"
        if enabler.id == ask.circuit.id:
            return "a circuit cannot enable itself"
        if enabler.is_feeder:
            return "a feeder feeds many things; name the accessory that enables it"
        if ask.use.while_by == "switch" and not ask.job.use_of(enabler).switch:
            return "the circuit that enables it has no switch; take its output"
        if ask.job.use_of(enabler).while_on:
            return "the circuit that enables it is interlocked itself"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without its enabler there is nothing to connect to."""
        return not self.refusal(ask)

    def coil_v(self, ask: Ask) -> float:
        """Return the voltage of the enabling circuit's output, or of what feeds its switch."""
        enabler = enabler_of(ask)
        if enabler is None:
            return signal_v(ask)
        if ask.use.while_by == "switch":
            return trigger_v(replace(ask, circuit=enabler, use=ask.job.use_of(enabler)))
        return ask.tree.nominal_v(enabler.start.point)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to prove."""
        return ("Prove it: with the enabling circuit off, its own switch must do nothing.",)

    def wiring(self, bench: Bench) -> Parts:
        """Wire the power path as usual and the coil from the enabling circuit's output."""
        harness = Harness(bench)
        to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
        enabler = bench.job.circuit(bench.use.while_on)
        harness.needs.append(enabler.id)
        output = _enabling(harness, enabler)
        supply = own_switch(harness, control_fuse(harness, output))
        control_to(harness, supply, coil_end(harness, "86"))
        coil_to_earth(harness, coil_end(harness, "85"))
        return harness.parts()


SCHEME = Interlock()
