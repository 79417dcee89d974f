"""One circuit on the bench: its network as it is proved, alone, and the vehicles like it."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from ready_trail.core.design.solved import root_nodes
from ready_trail.core.faults import Fault, FaultError, faulted
from ready_trail.core.installation import Installation, Terminal
from ready_trail.core.kinds.base import BATTERY_DEVICE
from ready_trail.core.netlist import (
    Coil,
    Element,
    LoadElement,
    Network,
    RelayContact,
    Resistor,
    SwitchContact,
)
from ready_trail.core.opening import Protection, protections
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.prove.batch import Batch
from ready_trail.core.prove.records import Setting
from ready_trail.core.states import (
    CHARGING_V,
    KEY_STATES,
    LIGHT_STATES,
    REST_V,
    VehicleState,
)
from ready_trail.core.supply.currents import quiet_a
from ready_trail.core.sweep import other_states, resting_state
from ready_trail.core.working import working_state

WIRE_RATIO, LOAD_RATIO, CONTACT_X, BATTERY_V = 0.10, 0.10, 2.0, 0.2
"""How far sound vehicles differ: copper and loads by so much either way, contacts by half to
twice, the battery's rest voltage on 12 V (house)."""

_Change = Callable[[Element], Element]

NEGATIVE = Terminal(device=BATTERY_DEVICE, terminal="-")
POSITIVE = Terminal(device=BATTERY_DEVICE, terminal="+")


@dataclass(frozen=True, kw_only=True)
class Bench:
    """A circuit with everything that its tests are read on."""

    design: Design
    made: CircuitDesign
    installation: Installation

    @cached_property
    def working(self) -> Setting:
        """The setting in which it works, the engine off unless it needs that."""
        charging = self.made.scheme.works_charging or "charging" in (
            self.made.use.signal,
            self.made.use.also,
        )
        volts = (CHARGING_V if charging else REST_V) * self.nominal_v / 12.0
        state = working_state(self.design.plan, self.made.circuit, emf_v=volts)
        return Setting(state=state, idling=charging)

    @cached_property
    def resting(self) -> Setting:
        """The setting in which it should be off: its switch open, or the key out."""
        state = self._plain(resting_state(self.design, self.made))
        return Setting(state=state, idling=self.working.idling)

    @cached_property
    def parked(self) -> Setting:
        """Key out, everything off."""
        return Setting(state=VehicleState())

    @cached_property
    def others(self) -> tuple[Setting, ...]:
        """Every other state that its network tells apart, and what a wrong feed would: it is on,
        with the key, and the lights, elsewhere. Without cranking.
        """
        working = self.working.state
        known = {working, self.resting.state}
        states = [self._plain(s) for s in other_states(self.design, self.made)]
        states += [replace(working, key=key) for key in KEY_STATES]
        if any(isinstance(e, SwitchContact) and e.closed.lights for e in self.sound.elements):
            states += [replace(working, lights=lights) for lights in LIGHT_STATES]
        return tuple(
            Setting(state=s, idling=self.working.idling)
            for s in dict.fromkeys(states)
            if s not in known and s.key != "cranking"
        )

    def _plain(self, state: VehicleState) -> VehicleState:
        """The same state on the voltage at which the circuit is proved."""
        return replace(state, emf_v=self.working.state.emf_v)

    @property
    def nominal_v(self) -> float:
        """Nominal voltage of the vehicle. [V]"""
        return float(self.design.job.vehicle.nominal_v)

    @cached_property
    def roots(self) -> tuple[str, str]:
        """The nodes of its source."""
        return root_nodes(self.design.plan, self.made.circuit)

    @cached_property
    def fuses(self) -> tuple[Protection, ...]:
        """What opens by itself in its network."""
        return tuple(protections(self.installation))

    @cached_property
    def clamps(self) -> Mapping[str, tuple[str, ...]]:
        """The elements of each wire that a clamp fits round."""
        return {
            label: _halves_of(tuple(e.name for e in self.installation.elements_of(label)))
            for label in self.installation.wires
        }

    @cached_property
    def terminals(self) -> Mapping[str, Terminal]:
        """Every terminal at which a probe can be put, by its node."""
        found = {POSITIVE.node: POSITIVE, NEGATIVE.node: NEGATIVE}
        for wire in self.installation.wires.values():
            for terminal in (wire.start, wire.end):
                found.setdefault(terminal.node, terminal)
        return found

    @cached_property
    def sound(self) -> Network:
        """The circuit as it should be, each accessory at rest as it is when first switched on."""
        return self._network(lambda e: e)

    def faulty(self, faults: Iterable[Fault]) -> Network | None:
        """The same with something wrong; None where its network does not have that."""
        try:
            return faulted(self.sound, faults)
        except FaultError:
            return None

    def drawn(self, seed: int) -> tuple[Network, float]:
        """A sound vehicle as it may come, and how far its battery is from the book. [V]"""
        chance = np.random.default_rng(seed)

        def other(e: Element) -> Element:
            near = 1.0 + chance.uniform(-WIRE_RATIO, WIRE_RATIO)
            touch = math.exp(chance.uniform(-math.log(CONTACT_X), math.log(CONTACT_X)))
            match e:
                case Resistor(kind="joint") | SwitchContact() | RelayContact():
                    return replace(e, ohm=e.ohm * touch)
                case Resistor(kind="wire" | "fuse" | "chassis") | Coil():
                    return replace(e, ohm=e.ohm * near)
                case LoadElement(load=load):
                    return replace(e, load=replace(load, rated_a=load.rated_a * near))
                case _:
                    return e

        offset_v = chance.uniform(-BATTERY_V, BATTERY_V) * self.nominal_v / 12.0
        return self._network(other), float(offset_v)

    def batch(self, networks: list[Network], offset_v: list[float] | None = None) -> Batch:
        """Return several of its vehicles as one batch."""
        return Batch(
            networks,
            terminals=tuple(self.terminals),
            clamps=self.clamps,
            fuses=self.fuses,
            offset_v=np.array(offset_v) if offset_v is not None else None,
        )

    def _network(self, change: _Change) -> Network:
        """Its elements, each wire as two halves that meet where it may touch the body."""
        elements: dict[str, Element] = {}
        quiet = self._quiet
        for ref in self.installation.devices:
            for e in self.installation.elements_of(ref):
                if isinstance(e, LoadElement) and e.name in quiet:
                    e = replace(e, load=replace(e.load, rated_a=quiet[e.name]))
                elements.setdefault(e.name, change(e))
        for label in self.installation.wires:
            for e in _halves([change(e) for e in self.installation.elements_of(label)]):
                elements.setdefault(e.name, e)
        return Network(nominal_v=self.nominal_v, elements=tuple(elements.values()))

    @cached_property
    def _quiet(self) -> Mapping[str, float]:
        return {
            name: load_a
            for outlet in self.made.planned.outlets
            for name in outlet.amps
            if (load_a := quiet_a(outlet.accessories)) is not None
        }


def bench_of(design: Design, circuit_id: str) -> Bench | None:
    """Return a circuit's bench, or None where it could not be wired."""
    made = next((c for c in design.circuits if c.circuit.id == circuit_id), None)
    if made is None or made.installation is None or made.network is None:
        return None
    return Bench(design=design, made=made, installation=made.installation)


def _halves(links: list[Element]) -> Iterator[Element]:
    """A wire as its first joint and all the rest; what a diode or one piece is, as it is."""
    plain = [e for e in links if isinstance(e, Resistor)]
    if len(links) <= 2 or len(plain) < len(links):
        yield from links
        return
    first, rest = plain[0], plain[1:]
    yield first
    yield replace(rest[-1], a=first.b, ohm=sum(e.ohm for e in rest))


def _halves_of(names: tuple[str, ...]) -> tuple[str, ...]:
    return names if len(names) <= 2 else (names[0], names[-1])


__all__ = ["Bench", "bench_of"]
