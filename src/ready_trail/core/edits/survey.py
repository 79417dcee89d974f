"""Edits of the survey: probes, their readings, and wires that become known."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal, get_args

from pydantic import Field

from ready_trail.core.edits.base import Edit, rebuilt
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import mapping, merged
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Ident, Name, ShortText
from ready_trail.core.job.survey import (
    KnownFunction,
    KnownWire,
    Level,
    Probe,
    ProbeReading,
    ProbeState,
    SurveyItem,
    Volts,
)
from ready_trail.core.survey import classify

_KNOWN_FUNCTIONS = frozenset(get_args(KnownFunction))


class AddProbe(Edit):
    """Put a candidate wire on the probe sheet."""

    kind: Literal["add_probe"] = "add_probe"
    name: Name
    colour: ShortText = ""
    place: ShortText = ""
    cavity: ShortText = ""

    def apply(self, job: Job) -> Job:
        """Return the job with the candidate."""
        ids = [p.id for p in job.survey.probes] + [k.probe_id for k in job.survey.known]
        used = [int(i[1:]) for i in ids if i[1:].isascii() and i[1:].isdigit()]
        probe = Probe(
            id=f"w{max((job.survey.last_probe, *used)) + 1}",
            name=self.name,
            colour=self.colour,
            place=self.place,
            cavity=self.cavity,
        )
        for other in job.survey.probes:
            if (other.place, other.cavity, other.colour, other.name) == (
                probe.place,
                probe.cavity,
                probe.colour,
                probe.name,
            ):
                raise EditRefusedError(
                    "name", "this wire is on the sheet already; tell it apart by place or cavity"
                )
        survey = rebuilt(
            job.survey, probes=(*job.survey.probes, probe), last_probe=int(probe.id[1:])
        )
        return rebuilt(job, survey=survey)

    def title(self, job: Job) -> str:
        """Say its name."""
        return f"Probe {self.name}"


class ReadProbe(Edit):
    """Note what a wire reads in one state; ``None`` takes the reading back.

    ``lamp_left`` is what is left under a 21 W lamp from battery positive to the wire. [V]
    """

    merges: ClassVar[bool] = True
    kind: Literal["read_probe"] = "read_probe"
    probe_id: Ident
    state: ProbeState | Literal["unplugged", "lamp_left"]
    value: Level | Volts | None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Take volts with a decimal comma too."""
        value = typed.get("value")
        if isinstance(value, str) and value not in get_args(Level):
            try:
                value = float(value.strip().replace(",", ".")[:20])
            except ValueError:
                words = "Type the volts, such as 12.4."
                raise EditRefusedError("value", words) from None
        return {**typed, "value": value}

    def apply(self, job: Job) -> Job:
        """Return the job with the reading."""
        probe = _probe(job, self.probe_id)
        if self.state == "unplugged":
            changed = rebuilt(probe, unplugged=self.value)
        elif self.state == "lamp_left":
            changed = rebuilt(probe, lamp_left_v=self.value)
        else:
            readings = [r for r in probe.readings if r.state != self.state]
            if self.value is not None:
                readings.append(ProbeReading(state=self.state, value=self.value))
            changed = rebuilt(probe, readings=tuple(readings))
        return _replaced(job, changed)

    def continues(self, job: Job, kind: str, title: str) -> bool:
        """A run of presses on one wire is one step back."""
        name = _probe(job, self.probe_id).name
        return kind == self.kind and title.startswith(f"{name} reads ")

    def title(self, job: Job) -> str:
        """Say state and value."""
        value = "nothing" if self.value is None else self.value
        unit = " V" if isinstance(self.value, float) else ""
        if self.state == "lamp_left":
            return f"{_probe(job, self.probe_id).name}: {value}{unit} left under a lamp"
        return f"{_probe(job, self.probe_id).name} reads {value}{unit} at {self.state}"


class NoteFuse(Edit):
    """Note which fuse was pulled for the reading with its fuse out, and its rating."""

    merges: ClassVar[bool] = True
    kind: Literal["note_fuse"] = "note_fuse"
    probe_id: Ident
    fuse: ShortText
    fuse_a: Annotated[float, Field(ge=0.5, le=500)] | None = None

    def apply(self, job: Job) -> Job:
        """Return the job with the fuse."""
        changed = rebuilt(_probe(job, self.probe_id), fuse=self.fuse, fuse_a=self.fuse_a)
        return _replaced(job, changed)

    def title(self, job: Job) -> str:
        """Say which."""
        return f"{_probe(job, self.probe_id).name}: fuse {self.fuse} was out"


class SetSignalLimit(Edit):
    """State what one of the vehicle's signals may give to a trigger; ``None`` takes it back."""

    kind: Literal["set_signal_limit"] = "set_signal_limit"
    signal: str
    most_a: Annotated[float, Field(ge=0.001, le=100)] | None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Take milliamps; blank takes the limit back."""
        stated = dict(typed)
        if "most_ma" not in stated:
            return stated
        text = str(stated.pop("most_ma")).strip().replace(",", ".")[:20]
        try:
            most_ma = float(text) if text else None
        except ValueError:
            raise EditRefusedError("most_ma", "Type milliamps, such as 100.") from None
        if most_ma is not None and not 1 <= most_ma <= 100_000:
            raise EditRefusedError("most_ma", "Must be from 1 to 100,000 mA.")
        return {**stated, "most_a": None if most_ma is None else most_ma / 1000}

    def apply(self, job: Job) -> Job:
        """Return the job with the limit; the signal's place stays."""
        place = job.signal_place(self.signal)
        others = tuple(s for s in job.signals if s.signal != self.signal)
        if place is None and self.most_a is None:
            return rebuilt(job, signals=others)
        stated = {"signal": self.signal, "place": place, "most_a": self.most_a}
        return rebuilt(job, signals=(*others, stated))

    def title(self, job: Job) -> str:
        """Say which."""
        limit = "no limit" if self.most_a is None else f"{self.most_a * 1000:.0f} mA"
        return f"The {self.signal} signal may give {limit}"


class RemoveProbe(Edit):
    """Take a wire off the sheet; what it became stays known."""

    kind: Literal["remove_probe"] = "remove_probe"
    probe_id: Ident

    def apply(self, job: Job) -> Job:
        """Return the job without it."""
        gone = _probe(job, self.probe_id)
        number = int(gone.id[1:]) if gone.id[1:].isascii() and gone.id[1:].isdigit() else 0
        survey = rebuilt(
            job.survey,
            last_probe=max(job.survey.last_probe, number),
            probes=tuple(p for p in job.survey.probes if p.id != gone.id),
        )
        return rebuilt(job, survey=survey)

    def title(self, job: Job) -> str:
        """Say which one."""
        return f"Take {_probe(job, self.probe_id).name} off the probe sheet"


_LIVE_WITH: dict[str, Literal["always", "accessory", "run"]] = {
    "constant": "always",
    "accessory": "accessory",
    "ignition": "run",
}
"""The feeds that a probed wire can be, by when they are live."""


class UseProbe(Edit):
    """Make a decided wire a feed or trigger of this job."""

    kind: Literal["use_probe"] = "use_probe"
    probe_id: Ident

    def apply(self, job: Job) -> Job:
        """Return the job that knows the wire; a beam wire also tells how headlights switch."""
        probe = _probe(job, self.probe_id)
        verdict = classify(
            probe,
            nominal_v=job.vehicle.nominal_v,
            supervised=job.vehicle.data_bus == "supervised",
        )
        if not verdict.usable or verdict.function not in _KNOWN_FUNCTIONS:
            raise EditRefusedError("probe_id", "its readings do not name it yet")
        where = ", ".join(part for part in (probe.place, probe.cavity) if part)
        words = f"{probe.name} {probe.colour}".strip() + (f" at {where}" if where else "")
        known = KnownWire(
            id=probe.id,
            function=verdict.function,  # type: ignore[arg-type]
            switched_on_earth=verdict.switched_on_earth,
            probe_id=probe.id,
            words=words[:80],
            fuse=verdict.fuse[:60],
        )
        others = tuple(k for k in job.survey.known if k.function != known.function)
        survey = rebuilt(job.survey, known=(*others, known))
        vehicle = job.vehicle
        if verdict.function in ("high_beam", "low_beam"):
            side = "earth" if verdict.switched_on_earth else "positive"
            vehicle = rebuilt(vehicle, headlamps=side)
            if verdict.switched_on_earth:
                off = next((r.value for r in probe.readings if r.state in ("off", "run")), None)
                woken = off in ("dark", None) or (isinstance(off, float) and off < 2)
                vehicle = rebuilt(vehicle, headlamp_common="with_lights" if woken else "always")
        job = rebuilt(job, survey=survey, vehicle=vehicle)
        if not (verdict.fuse and probe.fuse_a and verdict.function in _LIVE_WITH):
            return job
        item = SurveyItem(
            id="new",
            kind="tapped_circuit",
            name=f"{verdict.words}, {probe.fuse}",
            place=probe.place,
            fuse_a=probe.fuse_a,
            key=_LIVE_WITH[verdict.function],
        )
        return NoteItem(item=item).apply(job)

    def title(self, job: Job) -> str:
        """Say what it becomes."""
        return f"Use {_probe(job, self.probe_id).name} in this job"


class NoteItem(Edit):
    """Note something found on the vehicle, or change what was noted."""

    kind: Literal["note_item"] = "note_item"
    item: SurveyItem

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Lay what was typed over what was noted."""
        stated = mapping(typed.get("item"))
        before = next((i for i in job.survey.items if i.id == stated.get("id")), None)
        return {**typed, "item": merged(before.model_dump() if before else {}, stated)}

    def apply(self, job: Job) -> Job:
        """Return the job with the item; the id ``new`` asks for a place of its own."""
        items = job.survey.items
        if self.item.id != "new":
            if self.item.id not in {i.id for i in items}:
                raise EditRefusedError("item", "this is no longer in the survey")
            changed = tuple(self.item if i.id == self.item.id else i for i in items)
            return rebuilt(job, survey=rebuilt(job.survey, items=changed))
        used = [int(i.id[1:]) for i in items if i.id[1:].isascii() and i.id[1:].isdigit()]
        used += [int(p.item[1:]) for p in job.points if p.item and p.item[1:].isdigit()]
        item = rebuilt(self.item, id=f"s{max(used, default=0) + 1}")
        return rebuilt(job, survey=rebuilt(job.survey, items=(*items, item)))

    def title(self, job: Job) -> str:
        """Say its name."""
        return f"Survey: {self.item.name}"


class RemoveItem(Edit):
    """Take something off the survey."""

    kind: Literal["remove_item"] = "remove_item"
    item_id: Ident

    def apply(self, job: Job) -> Job:
        """Return the job without it."""
        items = tuple(i for i in job.survey.items if i.id != self.item_id)
        return rebuilt(job, survey=rebuilt(job.survey, items=items))

    def title(self, job: Job) -> str:
        """Say which one."""
        names = [i.name for i in job.survey.items if i.id == self.item_id]
        return f"Survey: remove {names[0] if names else 'an entry'}"


def _probe(job: Job, probe_id: str) -> Probe:
    for probe in job.survey.probes:
        if probe.id == probe_id:
            return probe
    raise EditRefusedError("probe_id", "this wire is no longer on the sheet")


def _replaced(job: Job, changed: Probe) -> Job:
    return _with_probes(job, tuple(changed if p.id == changed.id else p for p in job.survey.probes))


def _with_probes(job: Job, probes: tuple[Probe, ...]) -> Job:
    return rebuilt(job, survey=rebuilt(job.survey, probes=probes))
