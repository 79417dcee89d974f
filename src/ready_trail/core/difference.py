"""Two designs side by side: facts changed, sizes, parts, copper, findings gone and new."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ready_trail.core.effect import copper_g
from ready_trail.core.house import differences
from ready_trail.core.job import Job
from ready_trail.core.outcome import CircuitDesign, Design, Finding

_FACTS_MOST = 80


@dataclass(frozen=True, slots=True, kw_only=True)
class Changed:
    """One thing that differs: what it is, on the one side and on the other; empty for nothing."""

    what: str
    was: str
    now: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitDifference:
    """What differs of one circuit; ``kind`` tells whether it stands on both sides."""

    circuit_id: str
    name: str
    kind: str
    changes: tuple[Changed, ...]
    copper_g: float
    gone: tuple[Finding, ...]
    new: tuple[Finding, ...]

    @property
    def is_new_or_gone(self) -> bool:
        """Whether the other side has no such circuit."""
        return self.kind != "changed"


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """Everything that differs between two designs. ``facts`` are what people stated."""

    facts: tuple[Changed, ...]
    more_facts: int
    circuits: tuple[CircuitDifference, ...]
    parts: tuple[Changed, ...]
    gone: tuple[Finding, ...]
    new: tuple[Finding, ...]
    copper_was_g: float
    copper_now_g: float
    ready_was: tuple[int, int]
    ready_now: tuple[int, int]
    stops: tuple[int, int]
    cautions: tuple[int, int]

    @property
    def is_none(self) -> bool:
        """Whether nothing differs at all."""
        return not (self.facts or self.circuits or self.parts or self.gone or self.new)


def difference(before: Design, after: Design) -> Difference:
    """Compare two designs, the one as it was and the other as it is."""
    was = {c.circuit.id: c for c in before.circuits}
    now = {c.circuit.id: c for c in after.circuits}
    circuits = [_circuit(was.get(i), now.get(i)) for i in dict.fromkeys((*was, *now))]
    gone, new = _findings(before.findings, after.findings)
    facts = tuple(_facts(before.job, after.job))
    return Difference(
        facts=facts[:_FACTS_MOST],
        more_facts=max(0, len(facts) - _FACTS_MOST),
        circuits=tuple(c for c in circuits if c.changes or c.gone or c.new),
        parts=tuple(_parts(before, after)),
        gone=gone,
        new=new,
        copper_was_g=copper_g(before),
        copper_now_g=copper_g(after),
        ready_was=(before.ready_count, len(before.circuits)),
        ready_now=(after.ready_count, len(after.circuits)),
        stops=(before.count("stop"), after.count("stop")),
        cautions=(before.count("caution"), after.count("caution")),
    )


def have_something_in_common(one: Job, other: Job) -> bool:
    """Whether two jobs can be compared: they share a circuit, an accessory or a point."""

    def named(job: Job) -> set[tuple[str, str]]:
        found = {(c.id, c.name) for c in job.circuits} | {(p.id, p.name) for p in job.points}
        return found | {(a.id, a.name) for a in job.accessories}

    a, b = named(one), named(other)
    return bool(a & b) or not a or not b


def _circuit(old: CircuitDesign | None, new: CircuitDesign | None) -> CircuitDifference:
    shown = new or old
    assert shown is not None
    gone, came = _findings(old.findings if old else (), new.findings if new else ())
    if old is None or new is None:
        was, now = (_summary(c) if c else "" for c in (old, new))
        kind = "added" if new else "removed"
        changes: tuple[Changed, ...] = (Changed(what="", was=was, now=now),)
    else:
        a, b = told(old), told(new)
        kind = "changed"
        changes = tuple(
            Changed(what=what, was=a.get(what, ""), now=b.get(what, ""))
            for what in dict.fromkeys((*a, *b))
            if a.get(what, "") != b.get(what, "")
        )
    return CircuitDifference(
        circuit_id=shown.circuit.id,
        name=shown.circuit.name,
        kind=kind,
        changes=changes,
        copper_g=_mass_g(new) - _mass_g(old),
        gone=gone,
        new=came,
    )


def told(made: CircuitDesign) -> dict[str, str]:
    """Return what a person would compare of a circuit, in words by what it is."""
    sizing, circuit = made.sizing, made.circuit
    start = next((p.name for p in made.job.points if p.id == circuit.start.point), "the battery")
    fuse, relay, chosen = sizing.fuse, sizing.relay, sizing.chosen
    found = {
        "name": circuit.name,
        "starts at": f"{start} {circuit.start.position}".strip(),
        "scheme": made.scheme.label,
        "current": f"{made.current_a:.1f} A",
        "fuse": f"{fuse.rating_a:g} A {fuse.family.label}" if fuse else "none",
        "relay": relay.label if relay is not None else "none",
        "wire": chosen.conductor.label if chosen is not None else "none",
        "colours": ", ".join(dict.fromkeys(w.colour for w in made.wires)),
        "run": f"{circuit.run_m:.2f} m",
        "way back": circuit.back.kind,
    }
    for branch in made.sizing.branches.values():
        found[f"wire of {branch.stretch.id}"] = branch.chosen.conductor.label
    deciding = sizing.deciding
    if deciding is not None:
        found["drop in copper"] = f"{deciding.conductor_drop_v:.2f} V"
    return found


def _summary(made: CircuitDesign) -> str:
    words = told(made)
    return f"{words['scheme']}, {words['fuse']}, {words['wire']}"


def _mass_g(made: CircuitDesign | None) -> float:
    return sum(w.mass_g for w in made.wires) if made is not None else 0.0


def _findings(
    before: tuple[Finding, ...], after: tuple[Finding, ...]
) -> tuple[tuple[Finding, ...], tuple[Finding, ...]]:
    """Findings that end, and those that come; one that was accepted counts as another."""
    was = {(f.code, f.place, f.is_open) for f in before}
    now = {(f.code, f.place, f.is_open) for f in after}
    gone = tuple(f for f in before if (f.code, f.place, f.is_open) not in now)
    return gone, tuple(f for f in after if (f.code, f.place, f.is_open) not in was)


def _parts(before: Design, after: Design) -> Iterator[Changed]:
    """What has to be bought besides wire, counted; then wire by size."""
    a, b = _bought(before), _bought(after)
    for label in sorted(a.keys() | b.keys()):
        if a[label] != b[label]:
            yield Changed(what=label, was=str(a[label]), now=str(b[label]))
    for label in sorted({*_wire(before), *_wire(after)}):
        was, now = _wire(before).get(label, 0.0), _wire(after).get(label, 0.0)
        if abs(was - now) >= 0.05:
            yield Changed(what=f"{label} wire", was=f"{was:.1f} m", now=f"{now:.1f} m")


def _bought(made: Design) -> Counter[str]:
    return Counter(
        f"{d.label} {d.kind}" if d.spec.protects else d.label
        for d in made.installation.devices.values()
        if d.spec.is_bought
    )


def _wire(made: Design) -> dict[str, float]:
    found: dict[str, float] = {}
    for wire in made.installation.wires.values():
        label = wire.conductor.label
        found[label] = found.get(label, 0.0) + wire.cut_length_m
    return found


def _facts(one: Job, other: Job) -> Iterator[Changed]:
    """What was stated differently, in words; house rules by their question."""
    for title, was, now in differences(one.rules, other.rules):
        yield Changed(what=f"house rule: {title.lower()}", was=was, now=now)
    skipped = {"rules", "last_number", "schema_version"}
    a, b = one.model_dump(exclude=skipped), other.model_dump(exclude=skipped)
    yield from _walk("", a, b)


def _walk(path: str, a: Any, b: Any) -> Iterator[Changed]:
    if a == b:
        return
    if isinstance(a, Mapping) and isinstance(b, Mapping):
        for key in dict.fromkeys((*a, *b)):
            if key not in ("id", "number"):
                yield from _walk(_join(path, str(key)), a.get(key), b.get(key))
    elif _named(a) and _named(b):
        was, now = {_key(x): x for x in a}, {_key(x): x for x in b}
        for key in dict.fromkeys((*was, *now)):
            name = str((now.get(key) or was[key]).get("name") or key)
            if key not in was:
                yield Changed(what=_join(path, name), was="", now="added")
            elif key not in now:
                yield Changed(what=_join(path, name), was="removed", now="")
            else:
                yield from _walk(_join(path, name), was[key], now[key])
    else:
        yield Changed(what=path, was=_value(a), now=_value(b))


def _named(value: Any) -> bool:
    """Whether a list holds things that have a name of their own."""
    return isinstance(value, (list, tuple)) and all(
        isinstance(x, Mapping) and ("id" in x or "name" in x) for x in value
    )


def _key(thing: Mapping[str, Any]) -> str:
    return str(thing.get("id") or thing.get("name"))


def _join(path: str, name: str) -> str:
    words = name.replace("_", " ")
    return f"{path}: {words}" if path else words


def _value(value: Any) -> str:
    if value is None or value in ("", (), []):
        return "–"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, (list, tuple)):
        return f"{len(value)} of them"
    if isinstance(value, Mapping):
        parts = [
            f"{k.replace('_', ' ')} {_value(v)}"
            for k, v in value.items()
            if v not in (None, "", (), [])
        ]
        return ", ".join(parts[:4])
    return str(value)
