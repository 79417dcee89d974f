"""Edits of an accessory's outputs: a circuit for each, one for all, and which lead is which."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from ready_trail.core.edits.base import (
    Edit,
    next_number,
    rebuilt,
    with_switch,
    with_switch_of,
    without_idle_switches,
)
from ready_trail.core.edits.circuit import CircuitEdit
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import mapping
from ready_trail.core.job.accessory import Accessory, Channel, Use
from ready_trail.core.job.document import Job
from ready_trail.core.job.points import Switch


class SplitOutputs(Edit):
    """Give each output of an accessory a circuit of its own; they share one way back."""

    kind: Literal["split_outputs"] = "split_outputs"
    accessory_id: str
    uses: Annotated[tuple[Use | None, ...], Field(max_length=6)] = ()
    """When each is on, in their order; where nothing is said as the accessory, by a switch each."""

    def apply(self, job: Job) -> Job:
        """Return the job with one circuit an output. The first keeps the present circuit."""
        accessory = _find(job, self.accessory_id)
        circuits = job.circuits_of(accessory.id)
        if len(accessory.outputs) < 2:
            raise EditRefusedError("accessory_id", f"{accessory.name} has one output only")
        if len(circuits) != 1:
            raise EditRefusedError("accessory_id", "its outputs are on circuits of their own")
        was = circuits[0]
        if was.accessory_ids != (accessory.id,) or was.branches:
            raise EditRefusedError(
                "accessory_id", "its circuit feeds more than this; give it one of its own first"
            )
        stated = (*self.uses, *(None for _ in accessory.outputs))
        uses = [
            stated[at] or _use_of_output(job, accessory.use, output.name, at)
            for at, output in enumerate(accessory.outputs)
        ]
        like = job.switch(accessory.use.switch)
        for use in uses:
            if use.switch and job.switch(use.switch) is None:
                job = with_switch(job, use.switch, like)
        number = next_number(job) - 1
        made = []
        for at, (output, use) in enumerate(zip(accessory.outputs, uses, strict=True)):
            name = f"{accessory.name[:60]}, {output.name}"[:80]
            if at == 0:
                made.append(rebuilt(was, name=name, output=output.name, use=use))
                continue
            number += 1
            made.append(
                rebuilt(
                    was,
                    id=f"c{number}",
                    number=number,
                    name=name,
                    output=output.name,
                    use=use,
                    accepted=(),
                    start=Channel(point=was.start.point),
                )
            )
        place = job.circuits.index(was)
        circuits = (*job.circuits[:place], *made, *job.circuits[place + 1 :])
        return rebuilt(job, last_number=max(number, job.last_number), circuits=circuits)

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Give each output of {_find(job, self.accessory_id).name} a circuit"


class JoinOutputs(Edit):
    """Put all outputs of an accessory on one circuit, that of the first."""

    kind: Literal["join_outputs"] = "join_outputs"
    accessory_id: str

    def apply(self, job: Job) -> Job:
        """Return the job with one circuit for the whole accessory."""
        accessory = _find(job, self.accessory_id)
        circuits = job.circuits_of(accessory.id)
        if len(circuits) < 2:
            raise EditRefusedError("accessory_id", "its outputs are on one circuit already")
        first = circuits[0]
        if any(c.accessory_ids != (accessory.id,) or c.branches for c in circuits):
            raise EditRefusedError("accessory_id", "its circuits feed more than this")
        use = first.use or accessory.use
        gone = {c.id for c in circuits[1:]}
        whole = rebuilt(first, name=accessory.name, output="", use=None)
        waits = {u.while_on for u in job.uses()} & gone
        if waits:
            raise EditRefusedError("accessory_id", "something waits for one of these outputs")
        kept = tuple(
            whole
            if c.id == first.id
            else rebuilt(c, never_with=tuple(i for i in c.never_with if i not in gone))
            for c in job.circuits
            if c.id not in gone
        )
        last = max(job.last_number, next_number(job) - 1)
        accessories = tuple(
            rebuilt(a, use=use) if a.id == accessory.id else a for a in job.accessories
        )
        switches = [c.use.switch for c in circuits if c.use is not None]
        job = rebuilt(job, last_number=last, circuits=kept, accessories=accessories)
        return without_idle_switches(job, *switches)

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Put all outputs of {_find(job, self.accessory_id).name} on one circuit"


class SetCircuitUse(CircuitEdit):
    """State when one output's circuit is on, and by which switch."""

    kind: Literal["set_circuit_use"] = "set_circuit_use"
    use: Use
    switch: Switch | None = None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Lay what was typed over the use; a side that is named takes a switch with two of them."""
        stated = mapping(typed.get("use"))
        before = next((c.use for c in job.circuits if c.id == typed.get("circuit_id")), None)
        use = {**(before.model_dump() if before is not None else {}), **stated}
        switch = typed.get("switch")
        if switch is None:
            switch = _two_sided(job, str(use.get("switch") or ""), str(use.get("throw") or ""))
        return {**typed, "use": use, "switch": switch}

    def apply(self, job: Job) -> Job:
        """Return the job with that use."""
        circuit = self.circuit(job)
        if not circuit.output:
            raise EditRefusedError("circuit_id", "its accessory states when this circuit is on")
        before = circuit.use.switch if circuit.use is not None else ""
        job = with_switch_of(job, self.use, self.switch)
        circuits = tuple(
            rebuilt(c, use=self.use) if c.id == circuit.id else c for c in job.circuits
        )
        return without_idle_switches(rebuilt(job, circuits=circuits), before)

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Change when {self.circuit(job).name} is on"


def _two_sided(job: Job, name: str, throw: str) -> Switch | None:
    """The switch of an output with two sides, where a side is named: a new one, or one that works
    nothing else.
    """
    known = job.switch(name)
    if not name or not throw or (known is not None and known.throws == 2):
        return None
    if known is None:
        return rebuilt(Switch(name="S"), name=name, throws=2)
    if sum(use.switch == name for use in job.uses()) > 1:
        words = f"{name} has one side and works something else too: name another switch"
        raise EditRefusedError("use.throw", words)
    return known.model_copy(update={"throws": 2})


class ProveOutput(Edit):
    """Record which lead an output is, as a person saw it; or take that back."""

    kind: Literal["prove_output"] = "prove_output"
    accessory_id: str
    output: str
    lead: str = ""
    proved: bool = True

    def apply(self, job: Job) -> Job:
        """Return the job with the lead recorded."""
        accessory = _find(job, self.accessory_id)
        if all(o.name != self.output for o in accessory.outputs):
            raise EditRefusedError("output", f"{accessory.name} has no output {self.output}")
        outputs = tuple(
            rebuilt(o, lead=self.lead or o.lead, proved=self.proved) if o.name == self.output else o
            for o in accessory.outputs
        )
        changed = rebuilt(accessory, outputs=outputs)
        accessories = tuple(changed if a.id == accessory.id else a for a in job.accessories)
        return rebuilt(job, accessories=accessories)

    def title(self, job: Job) -> str:
        """Say which."""
        name = _find(job, self.accessory_id).name
        return f"{name}: {self.output} {'proved' if self.proved else 'not proved'}"


def _use_of_output(job: Job, use: Use, output: str, at: int) -> Use:
    """The first output keeps the switch; a second one takes its other side, or one of its own."""
    if at == 0 or not use.switch:
        return use
    known = job.switch(use.switch)
    if at == 1 and known is not None and known.throws == 2 and use.throw == "I":
        return use.model_copy(update={"throw": "II"})
    return use.model_copy(update={"switch": f"{use.switch[:45]} {output}"[:60], "throw": ""})


def _find(job: Job, accessory_id: str) -> Accessory:
    try:
        return job.accessory(accessory_id)
    except KeyError:
        raise EditRefusedError("accessory_id", "this accessory is no longer in the job") from None
