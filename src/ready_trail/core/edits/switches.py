"""Edits of the hand switches."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from ready_trail.core.edits.base import Edit, rebuilt, with_switch, without_idle_switches
from ready_trail.core.edits.supply import find_point
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import mapping, rows, without_blanks
from ready_trail.core.job.accessory import InputWire, Use
from ready_trail.core.job.document import Job
from ready_trail.core.job.points import Switch


class AddSwitch(Edit):
    """Add a hand switch that circuits may name."""

    kind: Literal["add_switch"] = "add_switch"
    switch: Switch

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Leave out a blank rating, and terminals without a print."""
        return {**typed, "switch": _switch_of(typed)}

    def apply(self, job: Job) -> Job:
        """Return the job with the switch."""
        if job.switch(self.switch.name) is not None:
            raise EditRefusedError("switch.name", "there is a switch of this name")
        return with_switch(job, self.switch.name, self.switch)

    def title(self, job: Job) -> str:
        """Say its name."""
        return f"Add switch {self.switch.name}"


class ChangeSwitch(Edit):
    """Change a switch: name, rating, kind, panel, terminals. Its name follows everywhere."""

    kind: Literal["change_switch"] = "change_switch"
    was: str
    switch: Switch

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Lay what was typed over the switch."""
        before = job.switch(str(typed.get("was", "")))
        kept = before.model_dump() if before is not None else {}
        return {**typed, "switch": {**kept, **_switch_of(typed)}}

    def apply(self, job: Job) -> Job:
        """Return the job with the switch changed."""
        before = job.switch(self.was)
        if before is None:
            raise EditRefusedError("was", "this switch is no longer in the job")
        after = rebuilt(self.switch, number=before.number)
        if after.name != before.name and job.switch(after.name) is not None:
            raise EditRefusedError("switch.name", "there is a switch of this name")
        if after.panel is not None:
            find_point(job, after.panel)
        changes: dict[str, Any] = {
            "switches": tuple(after if s.name == before.name else s for s in job.switches)
        }
        if after.name != before.name or after.throws != before.throws:

            def moved(use: Use) -> Use:
                if use.switch != before.name:
                    return use
                throw = (use.throw or "I") if after.throws == 2 else ""
                return use.model_copy(update={"switch": after.name, "throw": throw})

            def ended(wire: InputWire) -> InputWire:
                at_it = wire.ends == "switch" and wire.at == before.name
                return wire.model_copy(update={"at": after.name}) if at_it else wire

            changes["accessories"] = tuple(
                a.model_copy(
                    update={"use": moved(a.use), "inputs": tuple(ended(w) for w in a.inputs)}
                )
                for a in job.accessories
            )
            changes["points"] = tuple(
                rebuilt(p, pulse_switch=after.name) if p.pulse_switch == before.name else p
                for p in job.points
            )
            changes["circuits"] = tuple(
                c if c.use is None else c.model_copy(update={"use": moved(c.use)})
                for c in job.circuits
            )
        return rebuilt(job, **changes)

    def title(self, job: Job) -> str:
        """Say which one."""
        if self.switch.name != self.was:
            return f"Rename switch {self.was} to {self.switch.name}"
        return f"Change switch {self.was}"


class RemoveSwitch(Edit):
    """Remove a switch that nothing uses."""

    kind: Literal["remove_switch"] = "remove_switch"
    name: str

    def apply(self, job: Job) -> Job:
        """Return the job without it."""
        if job.switch(self.name) is None:
            raise EditRefusedError("name", "this switch is no longer in the job")
        users = [a.name for a in job.accessories if a.use.switch == self.name]
        users += [c.name for c in job.circuits if c.use is not None and c.use.switch == self.name]
        if users:
            raise EditRefusedError("name", f"{self.name} still works {users[0]}")
        return without_idle_switches(job, self.name)

    def title(self, job: Job) -> str:
        """Say which one."""
        return f"Remove switch {self.name}"


def _switch_of(typed: Mapping[str, Any]) -> dict[str, Any]:
    """A switch as typed."""
    stated = without_blanks(mapping(typed.get("switch")), "rating_a")
    if "pins" in stated:
        stated["pins"] = [row for row in rows(stated["pins"]) if row.get("printed")]
    return stated
