"""What an edit would change, told before it is pressed: sizes, findings, copper."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.outcome import CircuitDesign, Design


@dataclass(frozen=True, slots=True, kw_only=True)
class Effect:
    """Changes in a few words each; ``worse`` lists stops and cautions that would be new."""

    changes: tuple[str, ...]
    gone: tuple[str, ...]
    worse: tuple[str, ...]
    copper_g: float

    @property
    def words(self) -> str:
        """All of it in one line."""
        parts = list(self.changes)
        if abs(self.copper_g) >= 1.0:
            parts.append(f"{'+' if self.copper_g > 0 else '−'}{abs(self.copper_g):.0f} g of copper")
        if self.gone:
            parts.append(f"{len(self.gone)} finding{'' if len(self.gone) == 1 else 's'} gone")
        parts += [f"new: {text}" for text in self.worse]
        return "; ".join(parts) if parts else "nothing else changes"


def effect_of(before: Design, after: Design) -> Effect:
    """Compare two designs of one job, circuit by circuit."""
    was = {c.circuit.id: c for c in before.circuits}
    changes: list[str] = []
    for circuit in after.circuits:
        old = was.pop(circuit.circuit.id, None)
        if old is None:
            changes.append(f"adds {circuit.circuit.name}")
            continue
        told = _sizes(old, circuit)
        if told:
            changes.append(f"{circuit.circuit.name}: {told}")
    changes += [f"removes {c.circuit.name}" for c in was.values()]
    loud_before, loud_after = _loud(before), _loud(after)
    return Effect(
        changes=tuple(changes[:4]) + ((f"{len(changes) - 4} more",) if len(changes) > 4 else ()),
        gone=tuple(t for k, t in loud_before.items() if k not in loud_after),
        worse=tuple(t for k, t in loud_after.items() if k not in loud_before)[:2],
        copper_g=copper_g(after) - copper_g(before),
    )


def copper_g(made: Design) -> float:
    """Return the copper in all cut lengths of a job. [g]"""
    return sum(wire.mass_g for wire in made.installation.wires.values())


def _sizes(old: CircuitDesign, new: CircuitDesign) -> str:
    parts = []
    for label, a, b in (
        ("fuse", _fuse(old), _fuse(new)),
        ("relay", _relay(old), _relay(new)),
        ("wire", _wire(old), _wire(new)),
        ("scheme", old.scheme.label, new.scheme.label),
        ("starts at", _start(old), _start(new)),
    ):
        if a != b:
            parts.append(f"{label} {a} → {b}")
    return ", ".join(parts)


def _fuse(c: CircuitDesign) -> str:
    fuse = c.sizing.fuse
    return f"{fuse.rating_a:g} A {fuse.family.family.replace('_', ' ')}" if fuse else "none"


def _relay(c: CircuitDesign) -> str:
    return c.sizing.relay.label if c.sizing.relay is not None else "none"


def _wire(c: CircuitDesign) -> str:
    chosen = c.sizing.chosen
    return f"{chosen.conductor.label}" if chosen is not None else "none"


def _start(c: CircuitDesign) -> str:
    start = c.circuit.start
    name = next((p.name for p in c.job.points if p.id == start.point), "the battery")
    return f"{name} {start.position}".strip()


def _loud(made: Design) -> dict[tuple[str, str, str], str]:
    sits = [(c.circuit.id, f) for c in made.circuits for f in c.findings]
    sits += [("", f) for f in made.findings]
    return {(at, f.code, f.place): f.text for at, f in sits if f.severity != "note" and f.is_open}
