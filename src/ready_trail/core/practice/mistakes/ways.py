"""Ways of going wrong: a thing stated otherwise, or work added badly; each made for one finding."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ValidationError

from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSupply,
    Edit,
    GiveBranches,
    PointDraft,
    SplitOutputs,
)
from ready_trail.core.errors import CoreError
from ready_trail.core.job import BATTERY, Channel, Job, Return, Segment, Use
from ready_trail.core.outcome import CircuitDesign, Design

Puts = Mapping[str, object]
"""What is stated otherwise: ``"circuit.held.size"``, and its value, which may ask the circuit."""

_OF_THE_WHOLE = {"job", "vehicle", "rules", "scenario", "day"}
_Path = tuple[str | int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """One way to a finding: the jobs that it makes of a sound one, seen from one circuit; the same
    from every circuit where it is not ``of_circuit``.
    """

    code: str
    make: Callable[[Design, CircuitDesign], Iterator[Job]]
    of_circuit: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Scaled:
    """A figure as it is stated, times so much."""

    x: float


def put(code: str, changes: Puts, *, only: Callable[[CircuitDesign], bool] = bool) -> Way:
    """State things of a circuit otherwise, or of what it hangs on; ``only`` of some circuits."""

    def make(design: Design, made: CircuitDesign) -> Iterator[Job]:
        if not only(made):
            return
        asked = {k: v(made) if callable(v) else v for k, v in changes.items()}
        if None not in (v for k, v in asked.items() if callable(changes[k])):
            yield from _with(design.job, made.circuit.id, asked, _legs(design, made))

    roots = {path.partition(".")[0] for path in changes}
    return Way(code=code, make=make, of_circuit=not roots <= _OF_THE_WHOLE)


def is_winch(made: CircuitDesign) -> bool:
    """Whether a circuit is a winch's."""
    return made.scheme.for_winch


def is_converted(made: CircuitDesign) -> bool:
    """Whether a circuit starts at a point that makes a voltage of its own."""
    start = made.circuit.start.point
    return any(p.id == start and p.output_v is not None for p in made.job.points)


def added(
    code: str,
    accessory: Mapping[str, Any],
    *,
    run: tuple[Segment, ...] = (),
    back: str = "",
    branches: bool = False,
    split: bool = False,
    then: Puts | None = None,
) -> Way:
    """Add an accessory on a circuit of its own at the battery, and state the rest."""

    def make(design: Design, made: CircuitDesign) -> Iterator[Job]:
        job = design.job
        start = Channel(point=BATTERY)
        kind = Return.model_validate({"kind": back}) if back else None
        edit = AddAccessory(accessory=_label(job, accessory), start=start, run=run or None)
        after = _applied(job, edit.model_copy(update={"back": kind}))
        if after is not None and branches:
            after = _applied(after, GiveBranches(circuit_id=after.circuits[-1].id))
        if after is not None and split:
            after = _applied(after, SplitOutputs(accessory_id=after.accessories[-1].id))
        if after is not None:
            yield from _with(after, after.circuits[-1].id, then or {})

    return Way(code=code, make=make, of_circuit=False)


def supplied(
    code: str,
    point: Mapping[str, Any],
    *loads: Mapping[str, Any],
    wake: Use | None = None,
    then: Puts | None = None,
) -> Way:
    """Add a distribution point, loads that start there, and state the rest of the last of them."""

    def make(design: Design, made: CircuitDesign) -> Iterator[Job]:
        job = design.job
        given = {k: v(job) if callable(v) else v for k, v in point.items()}
        draft = PointDraft.model_validate({"name": "Extra point", **given})
        after = _applied(job, AddSupply(point=draft, wake=wake or Use(key="always")))
        names = [p.name for p in draft.positions]
        for n, load in enumerate(loads):
            if after is None:
                return
            own = dict(load)
            at = own.pop("position", names[n] if n < len(names) else "")
            start = Channel(point=after.points[-1].id, position=at)
            label = _label(after, {"name": f"Extra load {n + 1}", **own})
            way = (Segment(zone="cabin", length_m=1.5, taped=True),)
            after = _applied(after, AddAccessory(accessory=label, start=start, run=way))
        if after is not None and after.circuits:
            yield from _with(after, after.circuits[-1].id, then or {})

    return Way(code=code, make=make, of_circuit=False)


def edited(
    code: str,
    edits: Callable[[Design, CircuitDesign], Sequence[Edit]],
    *,
    then: Puts | None = None,
    last: bool = False,
) -> Way:
    """Do what edits do, and state the rest of the same circuit, or of the last one."""

    def make(design: Design, made: CircuitDesign) -> Iterator[Job]:
        after: Job | None = design.job
        for edit in edits(design, made):
            after = _applied(after, edit) if after is not None else None
        if after is not None and after is not design.job:
            circuit_id = after.circuits[-1].id if last else made.circuit.id
            yield from _with(after, circuit_id, then or {})

    return Way(code=code, make=make)


def _label(job: Job, stated: Mapping[str, Any]) -> AccessoryDraft:
    """A label for the vehicle's own voltage, unless it states one."""
    at_v = 13.5 * job.vehicle.nominal_v / 12.0
    name = {"winch": "Extra winch", "motor": "Extra motor"}.get(
        stated.get("model", ""), "Extra load"
    )
    return AccessoryDraft.model_validate({"name": name, "at_v": at_v, **stated})


def _applied(job: Job, edit: Edit) -> Job | None:
    try:
        return edit.apply(job)
    except (CoreError, ValidationError):
        return None


def _legs(design: Design, made: CircuitDesign) -> frozenset[str]:
    """The legs of the layout that a circuit takes."""
    route = design.routes.get(made.circuit.id)
    ways = (route.out, route.back, route.feed, route.control) if route is not None else ()
    return frozenset(leg for way in ways if way is not None for leg in way.legs)


def _with(
    job: Job, circuit_id: str, changes: Mapping[str, object], legs: frozenset[str] = frozenset()
) -> Iterator[Job]:
    """The job with changes, once for every place where they can stand."""
    roots = _roots(job, circuit_id, legs)
    named = list(dict.fromkeys(path.partition(".")[0] for path in changes))
    if any(not roots.get(name) for name in named):
        return
    for at in range(max((len(roots[name]) for name in named), default=1)):
        changed: Any = job
        for path, value in changes.items():
            root, _, rest = path.partition(".")
            places = roots[root]
            keys = (*places[min(at, len(places) - 1)], *(rest.split(".") if rest else ()))
            changed = _put(changed, keys, value)
            if changed is None:
                break
        else:
            try:
                yield Job.model_validate(changed.model_dump(warnings=False))
            except (ValidationError, TypeError, AttributeError):
                continue


def _put(thing: Any, keys: _Path, value: object) -> Any:
    """A copy of a record with a value far inside it; None where there is no such place."""
    if not keys:
        if isinstance(value, Scaled):
            return thing * value.x if isinstance(thing, (int, float)) else None
        return value
    key, rest = keys[0], keys[1:]
    if isinstance(thing, tuple) and isinstance(key, int):
        return tuple(_put(x, rest, value) if n == key else x for n, x in enumerate(thing))
    if not isinstance(thing, BaseModel) or str(key) not in type(thing).model_fields:
        return None
    inner = _put(getattr(thing, str(key)), rest, value)
    if inner is None and (rest or isinstance(value, Scaled)):
        return None
    return thing.model_copy(update={str(key): inner})


def _roots(job: Job, circuit_id: str, legs: frozenset[str]) -> dict[str, list[_Path]]:
    """Where things stand in the job, as seen from a circuit; some stand in several places."""
    at = next(n for n, c in enumerate(job.circuits) if c.id == circuit_id)
    circuit = job.circuits[at]
    points = {p.id: n for n, p in enumerate(job.points)}
    feeders = {c.feeds: n for n, c in enumerate(job.circuits) if c.feeds}
    own = [n for n, a in enumerate(job.accessories) if a.id in circuit.accessory_ids]
    use = circuit.use or (job.accessories[own[0]].use if own else None)
    switches = [n for n, s in enumerate(job.switches) if use is not None and s.name == use.switch]
    found: dict[str, list[_Path]] = {
        "job": [()],
        "vehicle": [("vehicle",)],
        "rules": [("rules",)],
        "circuit": [("circuits", at)],
        "segment": [("circuits", at, "run", n) for n in range(len(circuit.run))],
        "branch": [("circuits", at, "branches", n) for n in range(len(circuit.branches))],
        "accessory": [("accessories", n) for n in own],
        "switch": [("switches", n) for n in switches],
        "scenario": [("scenarios", n) for n in range(len(job.scenarios))],
        "day": [("day", n) for n in range(len(job.day))],
        "leg": [],
        "start": [],
        "position": [],
        "feeder": [],
        "pulse": [],
        "output": [],
    }
    for n in own:
        found["output"] += [
            ("accessories", n, "outputs", k) for k in range(len(job.accessories[n].outputs))
        ]
    if job.layout is not None:
        found["leg"] = [
            ("layout", "legs", n) for n, leg in enumerate(job.layout.legs) if leg.id in legs
        ]
    if circuit.start.point in points:
        start = points[circuit.start.point]
        found["start"] = [("points", start)]
        found["position"] = [
            ("points", start, "positions", n)
            for n, p in enumerate(job.points[start].positions)
            if p.name == circuit.start.position
        ]
        pulse = job.points[start].pulse_switch
        found["pulse"] = [("switches", n) for n, s in enumerate(job.switches) if s.name == pulse]
        if circuit.start.point in feeders:
            found["feeder"] = [("circuits", feeders[circuit.start.point])]
    return found


__all__ = [
    "Puts",
    "Scaled",
    "Way",
    "added",
    "edited",
    "is_converted",
    "is_winch",
    "put",
    "supplied",
]
