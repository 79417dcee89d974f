"""Edits of what sits where on the layout, and of what never runs together."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ready_trail.core.edits.base import Edit, find_circuit, rebuilt, with_circuit
from ready_trail.core.edits.layout import find_spot
from ready_trail.core.edits.off_layout import with_runs_kept
from ready_trail.core.edits.supply import find_point
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import rows
from ready_trail.core.job.branch import Branch
from ready_trail.core.job.circuit import Circuit
from ready_trail.core.job.document import Job
from ready_trail.core.job.layout import Placement
from ready_trail.core.job.parts import Ident
from ready_trail.core.job.points import SignalPlace

SIGNAL_WORDS = {
    "accessory": "accessory feed",
    "run": "ignition feed",
    "side": "side-light feed",
    "low": "low-beam wire",
    "high": "high-beam wire",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing:
    """Something that can sit on the layout: what it is, its name, where it sits now."""

    what: str
    name: str
    words: str
    place: str | None

    @property
    def key(self) -> str:
        """Its name in a form."""
        return f"{self.what}:{self.name}"


def things_to_place(job: Job) -> tuple[Thing, ...]:
    """Return accessories, points, switches and the signals that this job uses."""
    found = [
        Thing(what="circuit", name=c.id, words=c.name, place=c.place.load if c.place else None)
        for c in job.circuits
        if not c.is_feeder
    ]
    found += [
        Thing(what="branch", name=f"{c.id} {b.id}", words=b.name, place=b.place)
        for c in job.circuits
        for b in c.branches
    ]
    found += [Thing(what="point", name=p.id, words=p.name, place=p.place) for p in job.points]
    found += [
        Thing(what="switch", name=s.name, words=s.name, place=s.place)
        for s in job.switches
        if s.panel is None or s.place is not None
    ]
    used = {u.follows for u in job.uses()} - {"always"}
    found += [
        Thing(what="signal", name=name, words=words, place=job.signal_place(name))
        for name, words in SIGNAL_WORDS.items()
        if name in used
    ]
    return tuple(found)


def spot_words(job: Job) -> dict[str, str]:
    """By point of the layout: its name; where two have the same one, with what tells them apart."""
    points = job.layout.points if job.layout else ()
    names = [p.name.casefold() for p in points]
    return {
        p.id: p.name if names.count(p.name.casefold()) == 1 else f"{p.name} ({p.id})"
        for p in points
    }


class PlaceThing(Edit):
    """Say where a point, a switch or a vehicle signal sits on the layout."""

    merges: ClassVar[bool] = True
    kind: Literal["place_thing"] = "place_thing"
    what: Literal["point", "switch", "signal", "branch"]
    name: str
    place: Ident | None

    def apply(self, job: Job) -> Job:
        """Return the job with it placed, or taken off the layout."""
        if job.layout is None and self.place is not None:
            raise EditRefusedError("layout", "this job has no layout yet")
        if self.what == "point":
            point = find_point(job, self.name)
            placed = rebuilt(point, place=self.place)
            return rebuilt(job, points=tuple(placed if p.id == point.id else p for p in job.points))
        if self.what == "switch":
            switch = job.switch(self.name)
            if switch is None:
                raise EditRefusedError("name", "this switch is no longer in the job")
            moved = rebuilt(switch, place=self.place)
            return rebuilt(
                job, switches=tuple(moved if s.name == switch.name else s for s in job.switches)
            )
        if self.what == "branch":
            circuit, branch = _find_branch(job, self.name)
            there = rebuilt(branch, place=self.place)
            branches = tuple(there if b.id == branch.id else b for b in circuit.branches)
            return with_circuit(job, circuit, branches=branches)
        others = tuple(s for s in job.signals if s.signal != self.name)
        most_a = job.signal_most_a(self.name)
        if self.place is None and most_a is None:
            return rebuilt(job, signals=others)
        try:
            new = SignalPlace(signal=self.name, place=self.place, most_a=most_a)  # type: ignore[arg-type]
        except ValueError:
            raise EditRefusedError("name", "there is no such signal") from None
        return rebuilt(job, signals=(*others, new))

    def title(self, job: Job) -> str:
        """Say what, and where."""
        name = find_point(job, self.name).name if self.what == "point" else self.name
        if self.what == "branch":
            name = _find_branch(job, self.name)[1].name
        if self.place is None or job.layout is None:
            return f"Take {name} off the layout"
        spot = next((p.name for p in job.layout.points if p.id == self.place), self.place)
        return f"Place {name} at {spot}"


class PlaceCircuit(Edit):
    """Say where a circuit's accessory, relay and earth sit, and which way its wires go."""

    merges: ClassVar[bool] = True
    kind: Literal["place_circuit"] = "place_circuit"
    circuit_id: Ident
    place: Placement | None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Send the circuit past ``past``, or no longer where it was."""
        if "past" not in typed:
            return dict(typed)
        past = str(typed["past"])
        place = find_circuit(job, str(typed.get("circuit_id", ""))).place
        if place is None:
            raise EditRefusedError("circuit_id", "Place this circuit first.")
        via = tuple(v for v in place.via if v != past)
        via = via if past in place.via else (*via, past)
        document = {**place.model_dump(), "via": via}
        return {"circuit_id": typed.get("circuit_id"), "place": document}

    def apply(self, job: Job) -> Job:
        """Return the job with the circuit placed, or typed again."""
        if job.layout is None and self.place is not None:
            raise EditRefusedError("layout", "this job has no layout yet")
        after = self.bare(job)
        return with_runs_kept(job, after) if self.place is None else after

    def bare(self, job: Job) -> Job:
        """Return the job with the circuit placed, its typed run as it was."""
        return with_circuit(job, find_circuit(job, self.circuit_id), place=self.place)

    def title(self, job: Job) -> str:
        """Say where."""
        name = find_circuit(job, self.circuit_id).name
        if self.place is None or job.layout is None or self.place.load is None:
            return f"Take {name} off the layout" if self.place is None else f"Route {name}"
        return f"Place {name} at {find_spot(job.layout, self.place.load).name}"


class PlaceMany(Edit):
    """Place several circuits, points, switches and signals at once: one revision for all."""

    merges: ClassVar[bool] = True
    kind: Literal["place_many"] = "place_many"
    places: Annotated[tuple[PlaceCircuit, ...], Field(max_length=400)] = ()
    things: Annotated[tuple[PlaceThing, ...], Field(max_length=600)] = ()

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Take the rows of the table that differ from the job, or one thing and its spot."""
        if "key" in typed:
            return _one(job, typed)
        if "rows" not in typed and not any("key" in row for row in rows(typed.get("things"))):
            return dict(typed)
        spots = {
            str(row.get("key")): _spot_of(job, f"things.{at}.place", row.get("place"))
            for at, row in enumerate(rows(typed.get("things")))
        }
        things = [
            {"what": thing.what, "name": thing.name, "place": spots[thing.key]}
            for thing in things_to_place(job)
            if thing.key in spots and spots[thing.key] != thing.place
        ]
        return {"places": _places(job, rows(typed.get("rows"))), "things": things}

    def apply(self, job: Job) -> Job:
        """Return the job with all of them placed."""
        if job.layout is None and any(step.place is not None for step in self.places):
            raise EditRefusedError("layout", "this job has no layout yet")
        after = job
        for step in self.places:
            after = step.bare(after)
        for thing in self.things:
            after = thing.apply(after)
        return with_runs_kept(job, after)

    def title(self, job: Job) -> str:
        """Say how many."""
        steps = (*self.places, *self.things)
        if len(steps) == 1:
            return steps[0].title(job)
        return f"Place {len(steps)} things on the layout"


class KeepApart(Edit):
    """State which circuits never run together with this one."""

    kind: Literal["keep_apart"] = "keep_apart"
    circuit_id: Ident
    never_with: tuple[Ident, ...]

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """State it of ``other_id``, or take it back where it was stated."""
        if "other_id" not in typed:
            return dict(typed)
        other = str(typed["other_id"])
        circuit = find_circuit(job, str(typed.get("circuit_id", "")))
        if circuit.id == other:
            raise EditRefusedError("other_id", "Choose two different circuits.")
        known = circuit.never_with
        others = tuple(c for c in known if c != other) if other in known else (*known, other)
        return {"circuit_id": circuit.id, "never_with": others}

    def apply(self, job: Job) -> Job:
        """Return the job with the statement."""
        circuit = find_circuit(job, self.circuit_id)
        others = tuple(c.id for c in job.circuits if c.id in self.never_with and c != circuit)
        return with_circuit(job, circuit, never_with=others)

    def title(self, job: Job) -> str:
        """Say which circuit."""
        return f"State what never runs with {find_circuit(job, self.circuit_id).name}"


def _spot_of(job: Job, field: str, text: object) -> str | None:
    """The point that is meant by what was typed or chosen; None for a blank."""
    wanted = str(text or "").strip().casefold()
    if not wanted:
        return None
    for key, words in spot_words(job).items():
        if wanted in (key.casefold(), words.casefold()):
            return key
    raise EditRefusedError(field, f"No point is called {text}; choose one of the list.")


def _places(job: Job, listed: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """The circuits whose row says another place than the job."""
    places: list[dict[str, Any]] = []
    for at, row in enumerate(listed):
        circuit = next((c for c in job.circuits if c.id == row.get("circuit_id")), None)
        if circuit is None:
            continue
        now = circuit.place.model_dump() if circuit.place else {}
        names = ("load", "switching", "earth")
        wanted = {k: _spot_of(job, f"rows.{at}.{k}", row.get(k)) for k in names}
        placed = bool(wanted["load"]) or (circuit.is_feeder and any(wanted.values()))
        place = {**now, **wanted, "via": now.get("via", ())} if placed else None
        if place != (now or None):
            places.append({"circuit_id": circuit.id, "place": place})
    return places


def _one(job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
    """One thing on a spot: picked, then pressed or dropped on the drawing."""
    what, _, name = str(typed["key"]).partition(":")
    spot = str(typed.get("place", "")) or None
    if what != "circuit":
        return {"things": [{"what": what, "name": name, "place": spot}]}
    circuit = next((c for c in job.circuits if c.id == name), None)
    if circuit is None:
        raise EditRefusedError("key", "Pick what to place first.")
    now = circuit.place.model_dump() if circuit.place else {}
    place = {**now, "load": spot} if spot else None
    return {"places": [{"circuit_id": name, "place": place}]}


def _find_branch(job: Job, name: str) -> tuple[Circuit, Branch]:
    """Return the branch that ``circuit branch`` names, or refuse the edit."""
    circuit_id, _, branch_id = name.partition(" ")
    circuit = find_circuit(job, circuit_id)
    for branch in circuit.branches:
        if branch.id == branch_id:
            return circuit, branch
    raise EditRefusedError("name", "this branch is no longer there")
