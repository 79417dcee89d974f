"""What a switching scheme is, what it is asked, and the bench on which it builds a circuit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal, Protocol

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import Conductor
from ready_trail.core.installation import Parts, Piece, Terminal
from ready_trail.core.job import Accessory, Branch, Circuit, Job, Point, Switch, Use
from ready_trail.core.relays import AUTO_RELAYS, Relay
from ready_trail.core.sizing import FuseChoice, Sizing
from ready_trail.core.supply.tree import Tree, Waking

SwitchRole = Literal["none", "feed", "own", "path"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Ask:
    """A circuit that asks for a scheme: how it is used, what it carries, where it starts."""

    job: Job
    tree: Tree
    circuit: Circuit
    accessories: tuple[Accessory, ...]
    use: Use
    current_a: float

    @property
    def switch(self) -> Switch | None:
        """The hand switch that works it, if any."""
        return self.job.switch(self.use.switch) if self.use.switch else None

    @property
    def waking(self) -> Waking:
        """When the place where it starts is live."""
        return self.tree.waking_of(self.circuit)

    @property
    def start_point(self) -> Point | None:
        """The point at which it starts; None for the battery."""
        return self.tree.points.get(self.circuit.start.point)

    @property
    def feeds_vehicle(self) -> bool:
        """Whether the vehicle itself hangs on it, its battery moved away."""
        point = self.tree.points.get(self.circuit.feeds or "")
        return point is not None and point.is_a.holds_vehicle

    @property
    def has_winch(self) -> bool:
        """Whether a winch hangs on it."""
        return any(accessory.model == "winch" for accessory in self.accessories)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limb:
    """The wire of one branch, out and back, at working temperature."""

    conductor: Conductor
    run: tuple[Piece, ...]
    back: tuple[Piece, ...]
    chassis_ohm: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Bench:
    """One sized circuit, ready to be wired.

    ``run`` is the outward run in pieces at working temperature; ``back`` the return wire or
    stub. ``start`` and ``negative`` are the terminals at which the circuit begins and, with a
    return wire, ends. ``load`` is the reference of what it feeds; ``joint_m`` tells
    where branches begin that are joined on a device instead of at the run's end. [m]
    ``at_rest``: its relay's 87a carries the load.
    """

    ask: Ask
    catalogue: Catalogue
    sizing: Sizing
    fuse: FuseChoice
    conductor: Conductor
    control_conductor: Conductor
    insulation_c: int
    colour: str
    control_colour: str
    run: tuple[Piece, ...]
    back: tuple[Piece, ...]
    relay_c: float
    chassis_ohm: float
    load_currents_a: tuple[float, ...]
    nominal_v: float
    start: Terminal
    negative: Terminal
    channel: bool
    references: Mapping[str, str]
    at_rest: bool = False
    joint_m: float | None = None
    limbs: Mapping[str, Limb] = field(default_factory=dict)

    @property
    def job(self) -> Job:
        """The job."""
        return self.ask.job

    @property
    def circuit(self) -> Circuit:
        """The circuit as stated, with its routed run."""
        return self.ask.circuit

    @property
    def accessories(self) -> tuple[Accessory, ...]:
        """What it powers."""
        return self.ask.accessories

    @property
    def use(self) -> Use:
        """When it is on."""
        return self.ask.use

    @property
    def relay(self) -> Relay:
        """The sized relay; only schemes with a relay may ask."""
        if self.sizing.relay is None:
            raise ValueError(f"circuit {self.circuit.id} was sized without a relay")
        return self.sizing.relay

    @property
    def number(self) -> int:
        """The circuit's number, part of every reference."""
        return self.circuit.number

    @property
    def load(self) -> str:
        """Reference of what it feeds: its accessories, or a point."""
        return self.references[self.circuit.feeds or self.circuit.id]

    @property
    def leader(self) -> Circuit:
        """The circuit whose return its accessory uses: its own, but for a further output."""
        return self.job.leader(self.circuit)

    def loads_on(self, branch: Branch) -> tuple[tuple[Accessory, str], ...]:
        """Return the units on a branch, each with the terminal that feeds them."""
        by_id = {a.id: a for a in self.accessories}
        return tuple((by_id[s.accessory].only(units=s.units), "+") for s in branch.loads)


class Scheme(Protocol):
    """One way to switch a circuit; one module each, listed in ``schemes.ALL``."""

    @property
    def key(self) -> str:
        """Stable name in files."""

    @property
    def label(self) -> str:
        """Name on screen and paper."""

    @property
    def when(self) -> str:
        """One sentence: when it is the fitting scheme."""

    @property
    def has_relay(self) -> bool:
        """Whether a relay contact carries the load."""

    @property
    def switch_role(self) -> SwitchRole:
        """What the hand switch does: it feeds the coil, sits in its earth, or carries the load."""

    @property
    def for_winch(self) -> bool:
        """Whether winch rules size it."""

    @property
    def coil_may_bridge_30(self) -> bool:
        """Whether its coil is often fed from 30, which may then pull in through lamps."""

    @property
    def relays(self) -> tuple[str, ...]:
        """Keys of the relays to choose from, in order."""

    @property
    def works_charging(self) -> bool:
        """Whether it is on only while its source is being charged."""

    @property
    def chooses_output(self) -> bool:
        """Whether it feeds one of two outputs at a time, the larger one when on."""

    @property
    def at_rest(self) -> bool:
        """Whether the load is on while the coil is off, and off while it pulls."""

    def proposal(self, ask: Ask) -> str:
        """Return why it fits this use, or an empty text where another scheme does."""

    def refusal(self, ask: Ask) -> str:
        """Return why this scheme cannot serve the circuit, or an empty text."""

    def can_be_wired(self, ask: Ask) -> bool:
        """Whether what it connects to is there at all, even where it is refused."""

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Return cautions that concern this scheme, short and in the imperative."""

    def coil_v(self, ask: Ask) -> float:
        """Return the nominal voltage of what feeds its coil. [V]"""

    def path_ohm(self, ask: Ask) -> float:
        """Return what it puts into the load's path besides fuse, relay and switch. [Ω]"""

    def wiring(self, bench: Bench) -> Parts:
        """Return devices and wires."""


@dataclass(frozen=True, slots=True)
class Defaults:
    """What most schemes say of themselves."""

    has_relay: bool = True
    switch_role: SwitchRole = "feed"
    for_winch: bool = False
    coil_may_bridge_30: bool = False
    relays: tuple[str, ...] = AUTO_RELAYS
    works_charging: bool = False
    chooses_output: bool = False
    at_rest: bool = False

    def proposal(self, ask: Ask) -> str:
        """Propose nothing by itself."""
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Be wired, and let the review speak."""
        return True

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say nothing special."""
        return ()

    def coil_v(self, ask: Ask) -> float:
        """Return that of the key feed or channel, or of the panel in which its switch sits."""
        return trigger_v(ask) if self.switch_role == "feed" else signal_v(ask)

    def path_ohm(self, ask: Ask) -> float:
        """Add nothing."""
        return 0.0


def has_pins_for(relay: Relay, scheme: Scheme) -> bool:
    """Return whether a relay has the contacts that a scheme leads the load over."""
    made = relay.has_make_contact or scheme.at_rest
    rest = relay.has_rest_contact or not (scheme.at_rest or scheme.chooses_output)
    return made and rest


def signal_v(ask: Ask) -> float:
    """Return the nominal voltage of a trigger: of the channel, or of the vehicle itself. [V]"""
    channel = ask.use.channel
    if channel is not None and channel.point in ask.tree.points:
        return ask.tree.nominal_v(channel.point)
    return float(ask.job.vehicle.nominal_v)


def trigger_v(ask: Ask) -> float:
    """Return the same behind a hand switch, which a panel may feed. [V]"""
    panel = ask.tree.panel_feed(ask.switch, ask.use) if ask.switch is not None else None
    return ask.tree.nominal_v(panel.id) if panel is not None else signal_v(ask)


def fed_and_earthed(accessories: tuple[Accessory, ...]) -> bool:
    """Whether the vehicle feeds and earths all of these too, so that no return of ours is laid."""
    return bool(accessories) and all(a.own_feed for a in accessories)


__all__ = [
    "Ask",
    "Bench",
    "Defaults",
    "Limb",
    "Scheme",
    "SwitchRole",
    "fed_and_earthed",
    "has_pins_for",
    "signal_v",
    "trigger_v",
]
