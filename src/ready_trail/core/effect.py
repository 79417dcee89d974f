"""What an edit would change, told before it is pressed: sizes, behaviour, findings, copper."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.states import KEY_WORDS, LIGHT_WORDS, KeyState, LightState
from ready_trail.core.truth import TruthCell, TruthTable, truth_table

_State = tuple[KeyState, LightState, str]
"""Key, lights, and the signal that is live."""

_SHOWN = 2
"""Findings and changes that are told by name; the rest is counted."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Effect:
    """Changes in a few words each; ``worse`` lists every stop and caution that would be new.

    ``behaviour`` tells of each circuit that would be on in other states, or whose switch would
    be another: what it does now, and then.
    """

    changes: tuple[str, ...]
    behaviour: tuple[str, ...] = ()
    gone: tuple[str, ...]
    worse: tuple[str, ...]
    copper_g: float

    @property
    def words(self) -> str:
        """All of it in one line; what would get worse is counted in full."""
        parts = [*self.behaviour, *_counted(self.changes, 4, "more change", "more changes")]
        if abs(self.copper_g) >= 1.0:
            parts.append(f"{'+' if self.copper_g > 0 else '−'}{abs(self.copper_g):.0f} g of copper")
        if self.gone:
            parts.append(f"{len(self.gone)} finding{'' if len(self.gone) == 1 else 's'} gone")
        if self.worse:
            count = f"{len(self.worse)} new: " if len(self.worse) > 1 else "new: "
            parts.append(count + " ".join(_counted(self.worse, _SHOWN, "more", "more")))
        return "; ".join(parts) if parts else "nothing else changes"


def _counted(texts: tuple[str, ...], most: int, one: str, many: str) -> list[str]:
    left = len(texts) - most
    return [*texts[:most], *([f"{left} {one if left == 1 else many}"] if left > 0 else [])]


def effect_of(before: Design, after: Design) -> Effect:
    """Compare two designs of one job, circuit by circuit."""
    was = {c.circuit.id: c for c in before.circuits}
    changes: list[str] = []
    behaviour: list[str] = []
    for circuit in after.circuits:
        old = was.pop(circuit.circuit.id, None)
        if old is None:
            changes.append(f"adds {circuit.circuit.name}")
            continue
        told = _sizes(old, circuit)
        if told:
            changes.append(f"{circuit.circuit.name}: {told}")
        behaviour += [
            f"{circuit.circuit.name} {words}" for words in _behaves(old, before, circuit, after)
        ]
    changes += [f"removes {c.circuit.name}" for c in was.values()]
    loud_before, loud_after = _loud(before), _loud(after)
    return Effect(
        changes=tuple(changes),
        behaviour=tuple(behaviour),
        gone=tuple(t for k, t in loud_before.items() if k not in loud_after),
        worse=tuple(t for k, t in loud_after.items() if k not in loud_before),
        copper_g=copper_g(after) - copper_g(before),
    )


def copper_g(made: Design) -> float:
    """Return the copper in all cut lengths of a job. [g]"""
    return sum(wire.mass_g for wire in made.installation.wires.values())


def _behaves(
    old: CircuitDesign, before: Design, new: CircuitDesign, after: Design
) -> Iterator[str]:
    """How a circuit would behave otherwise: when it is on, and what works it.

    Tables are solved only where something changed that they could follow from.
    """
    if new.circuit.is_feeder or (old.planned is new.planned and old.use == new.use):
        return
    yield from _switch_words(old, before, new, after)
    if _decides(old) == _decides(new):
        return
    was, now = truth_table(old, before.plan), truth_table(new, after.plan)
    if was is not None and now is not None:
        yield from on_words(was, now)


def _decides(c: CircuitDesign) -> tuple[object, ...]:
    """What decides when a circuit is on."""
    return (c.use, c.scheme.key, c.circuit.start.point, c.circuit.coil_fed_from_30, c.ahead)


def on_words(was: TruthTable, now: TruthTable) -> Iterator[str]:
    """Tell in which states something is on that was off, and the reverse, with its switch on."""
    before, then = _on(was), _on(now)
    known = {key for key, _ in _states(was)} & {key for key, _ in _states(now)}
    for more, words in ((then - before, "comes on"), (before - then, "no longer comes on")):
        shown = list(dict.fromkeys(_plain(k) for k in sorted(more & known)))
        if shown:
            yield f"{words} with {', '.join(_counted(tuple(shown), 3, 'more', 'more'))}"


def _states(table: TruthTable) -> Iterator[tuple[_State, TruthCell]]:
    for cell in table.cells:
        if cell.switch_on:
            yield (cell.key, cell.lights, cell.signal), cell


def _on(table: TruthTable) -> set[_State]:
    return {key for key, cell in _states(table) if cell.is_on}


def _plain(state: _State) -> str:
    key, lights, signal = state
    return f"{KEY_WORDS[key]}, {LIGHT_WORDS[lights]}{f', {signal}' if signal else ''}"


def _switch_words(
    old: CircuitDesign, before: Design, new: CircuitDesign, after: Design
) -> Iterator[str]:
    was = before.job.switch(old.use.switch) if old.use.switch else None
    now = after.job.switch(new.use.switch) if new.use.switch else None
    if was is not None and now is None:
        yield f"loses its switch {was.name}"
    elif was is None and now is not None:
        yield f"gets the switch {now.name}"
    elif was is not None and now is not None and was != now:
        parts = []
        for name, words in (
            ("guarded", ("guarded", "no longer guarded")),
            ("momentary", ("springs back", "latches")),
        ):
            if getattr(was, name) != getattr(now, name):
                parts.append(words[0] if getattr(now, name) else words[1])
        if was.rating_a != now.rating_a:
            parts.append(f"{was.rating_a:g} A → {now.rating_a:g} A")
        if parts:
            yield f"has its switch {', '.join(parts)}"


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
    return f"{fuse.rating_a:g} A {fuse.family.label}" if fuse else "none"


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
