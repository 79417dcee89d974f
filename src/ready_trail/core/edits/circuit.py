"""Edits of one circuit: its run, its return, held choices, accepted findings."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal, Self

from pydantic import Field

from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.edits.base import Edit, find_circuit, rebuilt, with_circuit
from ready_trail.core.edits.off_layout import is_routed
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import mapping, merged, rows
from ready_trail.core.job.circuit import (
    AcceptedFinding,
    Circuit,
    HeldChoices,
    Penetration,
    Return,
    Segment,
)
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Name, ShortText, ZoneKey
from ready_trail.core.schemes import BY_KEY

Holdable = Literal["scheme", "family", "fuse_a", "relay", "size", "insulation_c", "colour"]
HOLDABLE_WORDS: dict[str, str] = {
    "scheme": "scheme",
    "family": "fuse family",
    "fuse_a": "fuse",
    "relay": "relay",
    "size": "wire size",
    "insulation_c": "insulation",
    "colour": "wire colour",
}


def held_words(what: Holdable, value: str | float) -> str:
    """Return a held choice as the tables name it."""
    catalogue, key = load_catalogue(), str(value)
    if what == "family" and key in catalogue.fuse_families:
        return catalogue.fuse_families[key].label
    if what == "relay" and key in catalogue.relays:
        return catalogue.relays[key].label
    if what == "scheme" and key in BY_KEY:
        return BY_KEY[key].label
    return f"{value:g} A" if isinstance(value, float) else key


class CircuitEdit(Edit):
    """An edit that concerns one circuit."""

    circuit_id: str

    def circuit(self, job: Job) -> Circuit:
        """Return the circuit it is about."""
        return find_circuit(job, self.circuit_id)


class RenameCircuit(CircuitEdit):
    """Give a circuit another name."""

    kind: Literal["rename_circuit"] = "rename_circuit"
    name: Name

    def apply(self, job: Job) -> Job:
        """Return the job with the circuit renamed."""
        return with_circuit(job, self.circuit(job), name=self.name)

    def title(self, job: Job) -> str:
        """Say both names."""
        return f"Rename {self.circuit(job).name} to {self.name}"


def typed_run(typed: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Return the segments of a form: a row without length and panel is blank, a panel without a
    name is none.
    """
    run = []
    for row in rows(typed.get("run")):
        panel = mapping(row.get("passes"))
        if row.get("length_m") or panel.get("name"):
            run.append({**row, "passes": panel if panel.get("name") else None})
    return run


class SetRun(CircuitEdit):
    """State the run in segments, the return, and where fuse and switching sit."""

    kind: Literal["set_run"] = "set_run"
    run: tuple[Segment, ...]
    back: Return
    fuse_at_m: float
    switching_at_m: float
    control_m: float

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Leave out blank segments; what the layout gives is not typed."""
        if is_routed(job, str(typed.get("circuit_id", ""))):
            words = "The layout gives this run: change it there, or type it instead."
            raise EditRefusedError("form", words)
        return {**typed, "run": typed_run(typed)}

    def apply(self, job: Job) -> Job:
        """Return the job with this run."""
        return with_circuit(
            job,
            self.circuit(job),
            run=self.run,
            back=self.back,
            fuse_at_m=self.fuse_at_m,
            switching_at_m=self.switching_at_m,
            control_m=self.control_m,
        )

    def title(self, job: Job) -> str:
        """Say the new length."""
        length_m = sum(segment.length_m for segment in self.run)
        return f"Set run of {self.circuit(job).name}: {length_m:.2f} m"


class SetReturn(CircuitEdit):
    """Change the way back."""

    kind: Literal["set_return"] = "set_return"
    back: Return

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Lay what was typed over the way back."""
        kept = find_circuit(job, str(typed.get("circuit_id", ""))).back.model_dump()
        return {**typed, "back": merged(kept, mapping(typed.get("back")))}

    @classmethod
    def turned(cls, job: Job, circuit_id: str, kind: Literal["wire", "bus"]) -> Self:
        """Return the edit that brings a circuit back another way; what was stated and measured of
        its earth stays known.
        """
        back = find_circuit(job, circuit_id).back
        return cls(circuit_id=circuit_id, back=rebuilt(back, kind=kind))

    def apply(self, job: Job) -> Job:
        """Return the job with this return."""
        return with_circuit(job, self.circuit(job), back=self.back)

    def title(self, job: Job) -> str:
        """Say which way."""
        ways = {
            "wire": "a return wire",
            "bus": "its block's earth bus",
            "chassis": "an earth point",
        }
        return f"Give {self.circuit(job).name} {ways[self.back.kind]}"


class MoveFuse(CircuitEdit):
    """Put the fuse elsewhere on the run."""

    kind: Literal["move_fuse"] = "move_fuse"
    fuse_at_m: Annotated[float, Field(ge=0, le=30)]

    def apply(self, job: Job) -> Job:
        """Return the job with the fuse moved; the relay stays behind it."""
        circuit = self.circuit(job)
        return with_circuit(
            job,
            circuit,
            fuse_at_m=self.fuse_at_m,
            switching_at_m=max(circuit.switching_at_m, self.fuse_at_m),
        )

    def title(self, job: Job) -> str:
        """Say where to."""
        return f"Move the fuse of {self.circuit(job).name} to {self.fuse_at_m * 1000:.0f} mm"


class FitGrommet(CircuitEdit):
    """Fit a grommet or gland where a segment passes a panel."""

    kind: Literal["fit_grommet"] = "fit_grommet"
    segment: Annotated[int, Field(ge=0, le=59)]
    branch_id: str = ""

    def apply(self, job: Job) -> Job:
        """Return the job with the hole protected."""
        circuit = self.circuit(job)
        runs = {"": circuit.run} | {b.id: b.run for b in circuit.branches}
        run = list(runs.get(self.branch_id, ()))
        if self.segment >= len(run) or run[self.segment].passes is None:
            raise EditRefusedError("segment", "no panel is passed there any more")
        passes = run[self.segment].passes
        name = passes.name if passes else ""
        run[self.segment] = rebuilt(run[self.segment], passes=Penetration(name=name, grommet=True))
        if not self.branch_id:
            return with_circuit(job, circuit, run=tuple(run))
        branches = tuple(
            rebuilt(b, run=tuple(run)) if b.id == self.branch_id else b for b in circuit.branches
        )
        return with_circuit(job, circuit, branches=branches)

    def title(self, job: Job) -> str:
        """Say where."""
        return f"Fit a grommet on {self.circuit(job).name}"


class SleeveAgainstHeat(CircuitEdit):
    """Sleeve what a circuit has in a hot zone; where a layout leads it, every leg there."""

    kind: Literal["sleeve_against_heat"] = "sleeve_against_heat"
    zone: ZoneKey

    def apply(self, job: Job) -> Job:
        """Return the job with the sleeve stated."""
        circuit = self.circuit(job)
        branches = tuple(rebuilt(b, run=self._sleeved(b.run)) for b in circuit.branches)
        changed = with_circuit(job, circuit, run=self._sleeved(circuit.run), branches=branches)
        if job.layout is None:
            return changed
        legs = tuple(
            rebuilt(leg, heat_sleeve=True) if leg.zone == self.zone else leg
            for leg in job.layout.legs
        )
        return rebuilt(changed, layout=rebuilt(job.layout, legs=legs))

    def _sleeved(self, run: tuple[Segment, ...]) -> tuple[Segment, ...]:
        return tuple(rebuilt(s, heat_sleeve=True) if s.zone == self.zone else s for s in run)

    def title(self, job: Job) -> str:
        """Say what."""
        return f"Sleeve {self.circuit(job).name} against heat"


class SeparateRun(CircuitEdit):
    """Route the circuit apart, so that nothing loaded shares its loom."""

    kind: Literal["separate_run"] = "separate_run"

    def apply(self, job: Job) -> Job:
        """Return the job with one loaded conductor on every segment."""
        circuit = self.circuit(job)
        run = tuple(rebuilt(segment, loaded_conductors=1) for segment in circuit.run)
        branches = tuple(
            rebuilt(b, run=tuple(rebuilt(s, loaded_conductors=1) for s in b.run))
            for b in circuit.branches
        )
        return with_circuit(job, circuit, run=run, branches=branches)

    def title(self, job: Job) -> str:
        """Say which circuit."""
        return f"Route {self.circuit(job).name} apart from the loom"


class FeedCoilFromCommon(CircuitEdit):
    """Choose whether 86 is fed from the headlamp common or from 30."""

    kind: Literal["feed_coil_from_common"] = "feed_coil_from_common"
    from_common: bool = True

    def apply(self, job: Job) -> Job:
        """Return the job with the coil fed that way."""
        return with_circuit(job, self.circuit(job), coil_fed_from_30=not self.from_common)

    def title(self, job: Job) -> str:
        """Say which way."""
        feed = "the headlamp common" if self.from_common else "30"
        return f"Feed the coil of {self.circuit(job).name} from {feed}"


class FitCoilResistor(CircuitEdit):
    """Put a resistor across the coil of a relay without suppression, or take it off."""

    kind: Literal["fit_coil_resistor"] = "fit_coil_resistor"
    fitted: bool = True

    def apply(self, job: Job) -> Job:
        """Return the job with the coil so."""
        return with_circuit(job, self.circuit(job), coil_resistor=self.fitted)

    def title(self, job: Job) -> str:
        """Say which coil."""
        what = "Put a resistor across" if self.fitted else "Take the resistor off"
        return f"{what} the coil of {self.circuit(job).name}"


class MoveRelay(CircuitEdit):
    """Put the relay or switch elsewhere on the run; the fuse stays ahead of it."""

    kind: Literal["move_relay"] = "move_relay"
    switching_at_m: Annotated[float, Field(ge=0, le=60)]

    def apply(self, job: Job) -> Job:
        """Return the job with the relay moved. A layout that places it is refused."""
        circuit = self.circuit(job)
        if circuit.place is not None and circuit.place.switching is not None:
            raise EditRefusedError("switching_at_m", "the layout says where it sits; move it there")
        at_m = max(circuit.fuse_at_m, self.switching_at_m)
        if at_m >= circuit.run_m:
            raise EditRefusedError("switching_at_m", "the run ends before that")
        return with_circuit(job, circuit, switching_at_m=at_m)

    def title(self, job: Job) -> str:
        """Say where to."""
        return f"Move the relay of {self.circuit(job).name} to {self.switching_at_m:.2f} m"


def _with_its_wire(circuit: Circuit, what: str) -> dict[str, object]:
    """What goes with another class of insulation: of a wire as found in another system, its size,
    for a new wire is one of the house's.
    """
    kept = circuit.kept
    goes = what == "insulation_c" and kept is not None and kept.system is not None
    return {"size": None} if goes else {}


class HoldChoice(CircuitEdit):
    """Fix a derived choice by hand."""

    kind: Literal["hold_choice"] = "hold_choice"
    what: Holdable
    value: str | float
    note: ShortText = ""
    """Why, in the words of who holds it; left empty, what stands stays."""

    def apply(self, job: Job) -> Job:
        """Return the job with the choice held."""
        circuit = self.circuit(job)
        value: str | float = self.value
        if self.what == "fuse_a":
            try:
                value = float(self.value)
            except ValueError:
                raise EditRefusedError("value", "a fuse rating is a number of amps") from None
        found = circuit.found
        alike = self.what == "size" and found and found.size == value and not circuit.kept
        if alike and found and found.system not in (None, job.rules.system):
            words = f"{value} is the number of the wire that was found, in another system"
            raise EditRefusedError("value", f"{words}: take the size beside it")
        changes: dict[str, object] = {**_with_its_wire(circuit, self.what), self.what: value}
        held = rebuilt(circuit.held, **changes | ({"note": self.note} if self.note else {}))
        return with_circuit(job, circuit, held=held)

    def title(self, job: Job) -> str:
        """Say what is held."""
        words = held_words(self.what, self.value)
        return f"Hold {HOLDABLE_WORDS[self.what]} of {self.circuit(job).name}: {words}"


class ReleaseChoice(CircuitEdit):
    """Let a choice follow again; ``all`` lets every one go."""

    kind: Literal["release_choice"] = "release_choice"
    what: Holdable | Literal["all"]

    def apply(self, job: Job) -> Job:
        """Return the job with the choice derived again."""
        circuit = self.circuit(job)
        held = HeldChoices() if self.what == "all" else self._less(circuit)
        if all(getattr(held, name) is None for name in HOLDABLE_WORDS):
            held = HeldChoices()  # nothing is left that its note could be of
        return with_circuit(job, circuit, held=held)

    def _less(self, circuit: Circuit) -> HeldChoices:
        return rebuilt(circuit.held, **_with_its_wire(circuit, self.what), **{self.what: None})

    def title(self, job: Job) -> str:
        """Say what was let go."""
        what = "all choices" if self.what == "all" else HOLDABLE_WORDS[self.what]
        return f"Release {what} of {self.circuit(job).name}"


class AcceptFinding(CircuitEdit):
    """Accept a finding with a written reason."""

    kind: Literal["accept_finding"] = "accept_finding"
    accepted: AcceptedFinding

    def apply(self, job: Job) -> Job:
        """Return the job with the reason on record; a newer reason replaces an older."""
        circuit = self.circuit(job)
        others = _without(circuit, self.accepted.code, self.accepted.place)
        return with_circuit(job, circuit, accepted=(*others, self.accepted))

    def title(self, job: Job) -> str:
        """Say which finding."""
        return f"Accept {self.accepted.code} on {self.circuit(job).name}"


class WithdrawAcceptance(CircuitEdit):
    """Open an accepted finding again."""

    kind: Literal["withdraw_acceptance"] = "withdraw_acceptance"
    code: str
    place: str

    def apply(self, job: Job) -> Job:
        """Return the job with the finding open."""
        circuit = self.circuit(job)
        return with_circuit(job, circuit, accepted=_without(circuit, self.code, self.place))

    def title(self, job: Job) -> str:
        """Say which finding."""
        return f"Open {self.code} again on {self.circuit(job).name}"


def _without(circuit: Circuit, code: str, place: str) -> tuple[AcceptedFinding, ...]:
    return tuple(a for a in circuit.accepted if (a.code, a.place) != (code, place))
