"""What every edit is, and the steps that edits share."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, ClassVar, TypeVar

from pydantic import BaseModel, ValidationError

from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job.accessory import Use
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Stated
from ready_trail.core.job.plain import plain_message
from ready_trail.core.job.points import Switch

M = TypeVar("M", bound=BaseModel)
KINDS: dict[str, type[Edit]] = {}
"""Every edit by its kind: each registers itself."""
_LAST_NUMBER = 99_999


class Edit(Stated):
    """One change to a job, with a readable name for the history.

    ``merges`` marks edits that may be applied although the job moved on by such edits alone:
    presses faster than the answer.
    """

    merges: ClassVar[bool] = False

    @classmethod
    def __pydantic_init_subclass__(cls, **more: Any) -> None:
        """Register an edit under its kind."""
        super().__pydantic_init_subclass__(**more)
        if "kind" in cls.model_fields:
            KINDS[str(cls.model_fields["kind"].default)] = cls

    def apply(self, job: Job) -> Job:
        """Return the job after this edit."""
        raise NotImplementedError

    def title(self, job: Job) -> str:
        """Return the revision's name, in the words of the job before the edit."""
        raise NotImplementedError

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Return the edit's document from what its form posted, by the edit's own field paths.

        An edit whose form shows a part only lays that over what stands. Raises EditRefusedError
        for what cannot be read.
        """
        return dict(typed)

    def press(self) -> str:
        """Return its document as short as it can be, for a page that has many of them."""
        stated = self.model_dump(mode="json", exclude_defaults=True)
        return json.dumps({"kind": type(self).model_fields["kind"].default, **stated})

    def added(self, after: Job) -> str:
        """Return the id of what it added, for the page that goes on with it."""
        return ""

    def continues(self, job: Job, kind: str, title: str) -> bool:
        """Return whether it only goes on with the newest revision: undo then takes back both."""
        return False


def rebuilt(model: M, **changes: Any) -> M:
    """Return a validated copy with changes; a refusal names the field."""
    try:
        return type(model).model_validate({**dict(model), **changes})
    except ValidationError as error:
        first = error.errors()[0]
        message = plain_message(first)
        named = message.split(" ")[0].rstrip(
            ":"
        )  # a rule over fields begins with the one to change
        field = ".".join(str(part) for part in first["loc"])
        if not field:
            field = named if named in type(model).model_fields else next(iter(changes))
        raise EditRefusedError(field, message) from error


def free_point_name(job: Job, name: str) -> str:
    """Return a point's name, with the first free number behind it where there is one of it."""
    names, free, at = {p.name for p in job.points}, name, 2
    while free in names:
        free, at = f"{name[:76]} {at}", at + 1
    return free


def find_circuit(job: Job, circuit_id: str) -> Circuit:
    """Return a circuit of the job, or refuse the edit."""
    try:
        return job.circuit(circuit_id)
    except KeyError:
        raise EditRefusedError("circuit_id", "this circuit is no longer in the job") from None


def with_circuit(job: Job, circuit: Circuit, **changes: Any) -> Job:
    """Return the job with one circuit changed."""
    changed = rebuilt(circuit, **changes)
    circuits = tuple(changed if c.id == circuit.id else c for c in job.circuits)
    return rebuilt(job, circuits=circuits)


def next_number(job: Job) -> int:
    """Return the next number that nobody had: ids never return. Refuses when they are used up."""
    used = [job.last_number]
    used += [c.number for c in job.circuits]
    used += [p.number for p in job.points] + [s.number for s in job.switches]
    ids = [accessory.id for accessory in job.accessories]
    ids += [c.id for c in job.circuits] + [p.id for p in job.points]
    for name in ids:
        digits = name[1:]
        if digits.isascii() and digits.isdigit() and len(digits) <= len(str(_LAST_NUMBER)):
            used.append(int(digits))
    number = max(used) + 1
    if number > _LAST_NUMBER:
        raise EditRefusedError("name", "this job has used up its numbers; start a new one")
    return number


def with_switch(job: Job, name: str, stated: Switch | None = None) -> Job:
    """Return the job with a switch of this name: as stated, as it is, or a plain new one."""
    known = job.switch(name)
    if known is None:
        number = next_number(job)
        plain = stated or Switch(name=name)
        new = plain.model_copy(update={"name": name, "number": number})
        return rebuilt(job, last_number=number, switches=(*job.switches, new))
    if stated is None:
        return job
    changed = rebuilt(
        known,
        rating_a=stated.rating_a,
        throws=stated.throws,
        momentary=stated.momentary,
        guarded=stated.guarded,
    )
    return rebuilt(job, switches=tuple(changed if s.name == name else s for s in job.switches))


def with_switch_of(
    job: Job, use: Use, stated: Switch | None = None, *, new_only: bool = False
) -> Job:
    """Return the job with the switch that a use names, and refuse a side that was not told.

    With ``new_only`` a switch that is there already stays as it is, whatever is stated of it.
    """
    if not use.switch:
        return job
    known = job.switch(use.switch)
    job = with_switch(job, use.switch, None if new_only and known is not None else stated)
    switch = job.switch(use.switch)
    if switch is not None and switch.throws == 2 and not use.throw:
        raise EditRefusedError("use.throw", f"{switch.name} has two sides: say which, I or II")
    return job


def without_idle_switches(job: Job, *names: str) -> Job:
    """Return the job without those of the named switches that nothing uses any more."""
    used = {use.switch for use in job.uses()}
    gone = {n for n in names if n and n not in used}
    if not gone:
        return job
    return rebuilt(job, switches=tuple(s for s in job.switches if s.name not in gone))
