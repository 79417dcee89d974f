"""Interlock: the coil is fed from the output of another circuit, so it works only with that."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.parts import (
    Harness,
    coil_end,
    coil_to_earth,
    control_fuse,
    control_to,
    fused_lead,
    relay_contact,
    through_switch,
    to_load_and_back,
)
from ready_trail.core.wiring import Device, End, Wiring


@dataclass(frozen=True, slots=True)
class Interlock:
    """Output of the enabling circuit - fuse - own switch - 86; 85 - earth."""

    key: str = "interlock"
    label: str = "Relay, interlocked"
    when: str = "only while another thing is on, such as a locker with its compressor"
    has_relay: bool = True
    switch_in_path: bool = False
    sizing_rule: str = "circuit"

    def refusal(self, job: Job, circuit: Circuit, accessories: tuple[Accessory, ...]) -> str:
        """Needs another circuit of the job that is not itself interlocked."""
        wanted = accessories[0].use.while_on
        enabler = next((c for c in job.circuits if c.id == wanted), None)
        if not wanted:
            return "no other circuit is stated that enables it"
        if enabler is None:
            return "the circuit that enables it is no longer in the job"
        if enabler.id == circuit.id:
            return "a circuit cannot enable itself"
        if job.accessory(enabler.accessory_ids[0]).use.while_on:
            return "the circuit that enables it is interlocked itself"
        return ""

    def wiring(self, bench: Bench) -> Wiring:
        """Wire the power path as usual and the coil from the enabling circuit's output."""
        harness = Harness(bench)
        to_load_and_back(harness, relay_contact(harness, fused_lead(harness)))
        enabler = bench.job.circuit(bench.accessories[0].use.while_on)
        output = End(device=f"L{enabler.number}", terminal="+")
        harness.add(
            Device(
                ref=output.device,
                kind="feed",
                label=f"Output of {enabler.name}",
                detail="joined at the accessory",
                terminals=("+",),
            )
        )
        supply = through_switch(harness, control_fuse(harness, output))
        control_to(harness, supply, coil_end(harness, "86"))
        coil_to_earth(harness, coil_end(harness, "85"))
        return harness.wiring()


SCHEME = Interlock()
