"""What was stated of a circuit and of what it hangs on, in words: all that a mistake may be in."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from pydantic import BaseModel

from ready_trail.core.job import Circuit, Job
from ready_trail.core.outcome import CircuitDesign

_UNITS = {
    "a": "A",
    "v": "V",
    "w": "W",
    "m": "m",
    "s": "s",
    "c": "°C",
    "ma": "mA",
    "mm": "mm",
    "mm2": "mm²",
    "ah": "Ah",
    "mohm": "mΩ",
    "nm": "N·m",
    "x": "times",
}
_ELSEWHERE = """
id number name place note accepted schema_version last_number stated pins lead lead_minus legend
cavity by_switch_m control_switch_m output accessory_ids posts survey signals layout points switches
accessories circuits scenarios day never_with colour loads positions point feeds panel position leg
"""
_UNTOLD = frozenset(_ELSEWHERE.split())
"""What tells nothing of a mistake, or stands elsewhere on the page."""

_ALWAYS = frozenset(
    ("key", "kind", "momentary", "guarded", "rating_a", "duty", "fuse_at_m", "minutes", "engine")
)
"""What is told though it is as usual: many mistakes are in just these."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What was stated of one thing: its name, and each fact with its value."""

    of: str
    facts: tuple[tuple[str, str], ...]


def stated(job: Job, made: CircuitDesign | None) -> tuple[Told, ...]:
    """Return what was stated: of a circuit with its accessory, switch and start, then of the
    vehicle; of all points and scenarios where it is about the whole vehicle.
    """
    points = [p for p in job.points if made is None or _is_of(p.id, made.circuit)]
    switches = {p.pulse_switch for p in points if p.pulse_switch}
    things: list[tuple[str, BaseModel]] = []
    if made is not None:
        switches.add(made.use.switch)
        things += [(a.name, a) for a in made.accessories]
        things.append((f"Circuit {made.circuit.name}", made.circuit))
    things += [(f"Switch {s.name}", s) for s in job.switches if s.name in switches]
    for point in points:
        things.append((point.name, point))
        if made is not None and point.id == made.circuit.start.point:
            own = [p for p in point.positions if p.name == made.circuit.start.position]
            things += [(f"{point.name}, {p.name}", p) for p in own]
        feeder = job.feeder_of(point.id)
        if feeder is not None and (made is None or feeder.id != made.circuit.id):
            things.append((feeder.name, feeder))
    things += [("The vehicle", job.vehicle), ("House rules", job.rules)]
    if made is None:
        things += [(f"Scenario {s.name}", s) for s in job.scenarios]
        things += [("A part of the day", part) for part in job.day]
    names = {a.id: a.name for a in job.accessories} | {c.id: c.name for c in job.circuits}
    names |= {p.id: p.name for p in job.points} | {s.id: s.name for s in job.scenarios}
    told = [Told(of=of, facts=tuple(_facts(thing, names))) for of, thing in things]
    return tuple(t for t in told if t.facts)


def _is_of(point_id: str, circuit: Circuit) -> bool:
    return point_id in (circuit.start.point, circuit.feeds)


def _facts(
    thing: BaseModel, names: Mapping[str, str], before: str = ""
) -> Iterator[tuple[str, str]]:
    for name, field in type(thing).model_fields.items():
        value = getattr(thing, name)
        if name in _UNTOLD or value in (None, "", ()):
            continue
        words, unit = _words(name)
        if isinstance(value, BaseModel):
            yield from _facts(value, names, f"{words}: ")
            continue
        if value == field.get_default(call_default_factory=True) and name not in _ALWAYS:
            continue
        if isinstance(value, tuple):
            for n, each in enumerate(value, 1):
                own = getattr(each, "name", "") or n
                yield f"{before}{words} {own}", _inner(each, names)
        else:
            told = names.get(str(value), value) if isinstance(value, str) else value
            yield f"{before}{words}", _value(told, unit)


def _inner(each: object, names: Mapping[str, str]) -> str:
    if not isinstance(each, BaseModel):
        return str(each)
    return "; ".join(f"{what} {value}" for what, value in _facts(each, names)) or "as usual"


def _words(name: str) -> tuple[str, str]:
    """A field's name in words, and its unit: ``fuse_at_m`` is "fuse at", in m."""
    head, _, last = name.rpartition("_")
    unit = _UNITS.get(last, "") if head else ""
    return (head if unit else name).replace("_", " "), unit


def _value(value: object, unit: str) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, (int, float)):
        return f"{value:g} {unit}".strip()
    return re.sub(r"(?<=[a-z])_(?=[a-z])", " ", str(value))
