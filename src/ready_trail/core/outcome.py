"""What follows from a job: the design and its parts, all frozen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from ready_trail.core.edits.base import Edit
from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.layout.routing import Route
from ready_trail.core.network import Network
from ready_trail.core.sizing import Sizing, Upstream
from ready_trail.core.solver import OperatingPoint
from ready_trail.core.wiring import Wiring

Severity = Literal["stop", "caution", "note"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Action:
    """A way out of a finding: an edit with the words for its button."""

    label: str
    edit: Edit


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

    @property
    def drop_v(self) -> float:
        """Voltage lost over this element. [V]"""
        return self.before_v - self.after_v


@dataclass(frozen=True, slots=True, kw_only=True)
class Profile:
    """Voltage along the way out and back, solved; ``current_a`` flows in the load."""

    outward: tuple[ProfileStep, ...]
    back: tuple[ProfileStep, ...]
    current_a: float
    posts_v: float
    load_v: float
    conductor_drop_v: float
    path_drop_v: float
    steepest: ProfileStep | None
    at_design_current: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FeederDesign:
    """The feeder to the fuse block, sized."""

    sizing: Sizing
    wiring: Wiring
    upstream: Upstream


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitDesign:
    """One circuit: its scheme, sizes, wiring, netlist and findings.

    ``wiring``, ``network``, ``operating`` and ``profile`` are None where nothing could be
    sized; the findings then say why.
    """

    job: Job
    circuit: Circuit
    accessories: tuple[Accessory, ...]
    scheme_key: str
    scheme_label: str
    scheme_reason: str
    scheme_refusal: str
    load_currents_a: tuple[float, ...]
    sizing: Sizing
    colour: str
    feeder: FeederDesign | None = None
    wiring: Wiring | None = None
    network: Network | None = None
    operating: OperatingPoint | None = None
    profile: Profile | None = None
    findings: tuple[Finding, ...] = ()

    @property
    def current_a(self) -> float:
        """Design current. [A]"""
        return sum(self.load_currents_a)

    def count(self, severity: Severity) -> int:
        """Open findings of one severity."""
        return sum(1 for f in self.findings if f.severity == severity and f.is_open)

    @property
    def is_ready(self) -> bool:
        """Whether no stop is open."""
        return self.count("stop") == 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Design:
    """The whole job, designed.

    ``job`` is what was stated; ``routed`` the same with the runs that the layout gives. Where
    there is no layout they are one. ``loaded`` counts loaded conductors by leg.
    """

    job: Job
    routed: Job
    feeder: FeederDesign | None
    circuits: tuple[CircuitDesign, ...]
    routes: Mapping[str, Route]
    loaded: Mapping[str, int]
    lightly_loaded: frozenset[str]

    def circuit(self, circuit_id: str) -> CircuitDesign:
        """Return one circuit's design; KeyError when there is none of that id."""
        for circuit in self.circuits:
            if circuit.circuit.id == circuit_id:
                return circuit
        raise KeyError(circuit_id)

    @property
    def ready_count(self) -> int:
        """How many circuits are ready."""
        return sum(circuit.is_ready for circuit in self.circuits)

    def count(self, severity: Severity) -> int:
        """Open findings of one severity over all circuits."""
        return sum(circuit.count(severity) for circuit in self.circuits)
