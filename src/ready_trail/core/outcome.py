"""What follows from a job: the design and its parts, all frozen."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from ready_trail.core.budget.budget import Budget
from ready_trail.core.edits.base import Edit
from ready_trail.core.installation import Device, Installation, Parts, Wire
from ready_trail.core.job import Accessory, Circuit, Job, Point, Use
from ready_trail.core.kinds.base import DeviceKind
from ready_trail.core.layout.routing import Route
from ready_trail.core.netlist import Network
from ready_trail.core.schemes.base import Scheme
from ready_trail.core.sizing import Sizing, SizingRequest, Upstream
from ready_trail.core.sizing.shares import Shared
from ready_trail.core.solver import OperatingPoint
from ready_trail.core.supply.currents import Currents
from ready_trail.core.supply.tree import Tree

Severity = Literal["stop", "caution", "note"]
Altered = Literal["when", "guard", "rating", "fuse"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Action:
    """A way out of a finding: an edit with the words for its button.

    ``alters`` names what its words say that it changes besides mending: ``when`` something is on,
    a ``guard``, a switch's ``rating``, a ``fuse`` that gets larger. Anything else stays.
    """

    label: str
    edit: Edit
    alters: tuple[Altered, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What is wrong, where, with the figure found against the figure allowed."""

    code: str
    area: str
    place: str
    severity: Severity
    text: str
    why: str
    found: str = ""
    allowed: str = ""
    actions: tuple[Action, ...] = ()
    accepted_reason: str = ""
    lapsed: str = ""
    """What was accepted of it before it got worse, and why, in words."""
    follows: str = ""
    """Name of the circuit whose stop causes it, where one does."""

    @property
    def is_open(self) -> bool:
        """Whether nobody has accepted it."""
        return not self.accepted_reason


@dataclass(frozen=True, slots=True, kw_only=True)
class ProfileStep:
    """One element on the way, with the voltage on both of its sides."""

    element: str
    place: str
    kind: str
    length_m: float
    before_v: float
    after_v: float
    is_made_by_hand: bool = False
    """Whether it is a crimp, lug or connector; copper and fuses lose by their makers' figures."""

    @property
    def is_wire(self) -> bool:
        """Whether it is copper."""
        return self.kind == "wire"

    @property
    def is_body(self) -> bool:
        """Whether it is the vehicle's body."""
        return self.kind == "chassis"

    @property
    def drop_v(self) -> float:
        """Voltage lost over this element. [V]"""
        return self.before_v - self.after_v


@dataclass(frozen=True, slots=True, kw_only=True)
class Profile:
    """Voltage along the way out and back, solved; ``current_a`` flows in the load.

    ``steepest`` names the wire or device that loses most, and how much.
    """

    outward: tuple[ProfileStep, ...]
    back: tuple[ProfileStep, ...]
    current_a: float
    posts_v: float
    load_v: float
    conductor_drop_v: float
    path_drop_v: float
    steepest: tuple[str, float] | None
    at_design_current: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PointDesign:
    """A distribution point: what runs together behind it, and the way to it.

    ``together_a`` is what runs in the worst scenario, named ``worst``, or what can be on in one
    state where none is stated; ``total_a`` what was taken (stated, or that). ``by_scenario`` tells
    each scenario's total by its id, ``possible_a`` what could be on at once whatever anybody says.
    ``out`` and ``back`` are what the feeders up to here add to a circuit behind it.
    """

    point: Point
    ref: str
    total_a: float
    together_a: float
    input_a: float
    nominal_v: float
    members: tuple[str, ...]
    feeder_id: str | None
    is_fed: bool
    worst: str = ""
    possible_a: float = 0.0
    by_scenario: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlet:
    """Units that a circuit ends at: ``branch`` is empty where it has only one end.

    ``amps`` holds the design current of each load by its element's name. [A]
    """

    ref: str
    branch: str
    plus: str
    accessories: tuple[Accessory, ...]
    amps: Mapping[str, float]

    @property
    def current_a(self) -> float:
        """Design current of all its loads. [A]"""
        return sum(self.amps.values())


@dataclass(frozen=True, slots=True, kw_only=True)
class OutletDesign:
    """One end of a circuit, solved: the whole way to it from the true source, and back."""

    outlet: Outlet
    name: str
    out: tuple[str, ...]
    back: tuple[str, ...]
    limit_v: float
    profile: Profile | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """One circuit chosen, sized and wired, before anything is solved.

    ``out_ahead`` and ``back_ahead`` tell what it adds to circuits behind it, on its way out
    and on its way back.
    """

    circuit: Circuit
    accessories: tuple[Accessory, ...]
    use: Use
    scheme: Scheme
    reason: str
    refusal: str
    load_currents_a: tuple[float, ...]
    current_a: float
    sizing: Sizing
    colour: str
    trouble: str = ""
    outlets: tuple[Outlet, ...] = ()
    parts: Parts | None = None
    out_ahead: Upstream
    back_ahead: Upstream


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """All circuits of a routed job, planned; and the parts that they share.

    ``requests`` holds what sizing was asked of each circuit with nothing ahead of it, without
    those that lie outside every formula; ``least``, by its first feeder, each tree that was sized
    for the least copper.
    """

    job: Job
    tree: Tree
    currents: Currents
    refs: Mapping[str, str]
    requests: Mapping[str, SizingRequest]
    circuits: Mapping[str, Planned]
    shared: Mapping[str, Parts]
    least: Mapping[str, Shared]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class CircuitDesign:
    """One circuit: its scheme, sizes, wiring, netlist and findings.

    ``installation`` is its own part of the job, with everything ahead of it and around its
    control; it, ``network``, ``operating`` and ``profile`` are None where nothing could be
    sized, or nothing feeds it; the findings then say why. ``out`` and ``back`` list the wires
    and devices that its load current takes, from the true source on; of several ``outlets`` to
    the one that loses most of what it may, and ``profile`` is that one's.
    """

    job: Job
    planned: Planned
    feeds: Point | None = None
    load_ref: str
    ahead: tuple[str, ...] = ()
    out: tuple[str, ...] = ()
    back: tuple[str, ...] = ()
    installation: Installation | None = None
    network: Network | None = None
    operating: OperatingPoint | None = None
    profile: Profile | None = None
    outlets: tuple[OutletDesign, ...] = ()
    unsolved: str = ""
    own_findings: tuple[Finding, ...] = ()
    findings: tuple[Finding, ...] = ()

    @property
    def circuit(self) -> Circuit:
        """The circuit as stated, with its routed run."""
        return self.planned.circuit

    @property
    def accessories(self) -> tuple[Accessory, ...]:
        """What it powers; empty for a feeder."""
        return self.planned.accessories

    @property
    def use(self) -> Use:
        """When it is on."""
        return self.planned.use

    @property
    def scheme(self) -> Scheme:
        """How it is switched."""
        return self.planned.scheme

    @property
    def sizing(self) -> Sizing:
        """Fuse, relay and wire."""
        return self.planned.sizing

    @property
    def colour(self) -> str:
        """Colour of its switched wire."""
        return self.planned.colour

    @property
    def current_a(self) -> float:
        """Design current. [A]"""
        return self.planned.current_a

    @property
    def wires(self) -> tuple[Wire, ...]:
        """The wires that this circuit brought."""
        return self.planned.parts.wires if self.planned.parts is not None else ()

    def device(self, fits: Callable[[DeviceKind], bool]) -> Device | None:
        """Return this circuit's own first device that answers yes."""
        devices = self.planned.parts.devices if self.planned.parts is not None else ()
        own = (d for d in devices if d.owner == self.circuit.id)
        return next((d for d in own if fits(d.spec)), None)

    @property
    def fuse_device(self) -> Device | None:
        """Its own fuse or breaker."""
        return self.device(lambda spec: spec.protects)

    @property
    def relay_device(self) -> Device | None:
        """Its own relay, or box of relays."""
        return self.device(lambda spec: spec.is_relay)

    def wire_on(self, role: str) -> Wire | None:
        """Return this circuit's last wire of a role; with branches the trunk's."""
        return next((w for w in reversed(self.wires) if w.role == role and not w.branch), None)

    @property
    def end_ref(self) -> str:
        """Reference of what stands at the end of ``out``: its units, or the point it feeds."""
        return next((o.outlet.ref for o in self.outlets if o.out == self.out), self.load_ref)

    @property
    def limit_v(self) -> float:
        """What may be lost in copper up to there. [V]"""
        limit_v = self.sizing.request.drop_limit_v
        return next((o.limit_v for o in self.outlets if o.out == self.out), limit_v)

    @property
    def chosen(self) -> str:
        """The branch to which ``out``, ``back`` and ``profile`` lead; empty without branches."""
        return next((o.outlet.branch for o in self.outlets if o.out == self.out), "")

    def count(self, severity: Severity) -> int:
        """Open findings of one severity."""
        return sum(1 for f in self.findings if f.severity == severity and f.is_open)

    @property
    def is_ready(self) -> bool:
        """Whether no stop is open."""
        return self.count("stop") == 0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Design:
    """The whole job, designed. It is the same as itself alone, so that what follows can be kept.

    ``job`` is what was stated; ``routed`` the same with the runs that the layout gives. Where
    there is no layout they are one. ``loaded`` counts loaded conductors by leg. ``shared``
    holds the parts of switches and points, by owner. ``findings`` sit at no circuit: they are
    about the budget.
    """

    job: Job
    routed: Job
    circuits: tuple[CircuitDesign, ...]
    points: Mapping[str, PointDesign]
    shared: Mapping[str, Parts]
    installation: Installation
    routes: Mapping[str, Route]
    loaded: Mapping[str, float]
    lightly_loaded: frozenset[str]
    budget: Budget
    findings: tuple[Finding, ...] = ()
    plan: Plan = field(repr=False, compare=False)

    def circuit(self, circuit_id: str) -> CircuitDesign:
        """Return one circuit's design; KeyError when there is none of that id."""
        for circuit in self.circuits:
            if circuit.circuit.id == circuit_id:
                return circuit
        raise KeyError(circuit_id)

    @property
    def is_ready(self) -> bool:
        """Whether no stop is open anywhere, in a circuit or in the budget."""
        return self.count("stop") == 0

    @property
    def feeders(self) -> tuple[CircuitDesign, ...]:
        """The circuits that feed points."""
        return tuple(c for c in self.circuits if c.circuit.is_feeder)

    @property
    def ready_count(self) -> int:
        """How many circuits are ready."""
        return sum(circuit.is_ready for circuit in self.circuits)

    def count(self, severity: Severity) -> int:
        """Open findings of one severity over all circuits and the budget; each cause once."""
        every = (*self.findings, *(f for c in self.circuits for f in c.findings))
        return sum(1 for f in every if f.severity == severity and f.is_open and not f.follows)
