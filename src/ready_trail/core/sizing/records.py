"""What goes into sizing and what comes out of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from ready_trail.core.conductors import Conductor, WireKind
from ready_trail.core.errors import require_between
from ready_trail.core.fuses import AUTO_FAMILIES, FuseFamily
from ready_trail.core.loads import DropClass, Duty
from ready_trail.core.relays import AUTO_RELAYS, Relay

CeilingSchool = Literal["strict", "next_size"]
System = Literal["awg", "metric"]

DROP_LIMIT_RATIO: dict[DropClass, float] = {"critical": 0.03, "normal": 0.05, "tolerant": 0.10}
"""Conductor drop allowed, as a share of the nominal voltage, by drop class (house)."""

DROP_SCHOOLS: dict[str, dict[DropClass, float]] = {
    "by_kind": DROP_LIMIT_RATIO,
    "three_ten": {"critical": 0.03, "normal": 0.10, "tolerant": 0.10},
    "three": {"critical": 0.03, "normal": 0.03, "tolerant": 0.03},
}
"""The same by house rule: by kind of load; 3 % for what minds and 10 % for the rest; 3 % all."""

PATH_EXTRA_RATIO = 0.03
"""What fuses, contacts, joints and chassis may add to it before it is a caution (house)."""

SWITCH_CONTACT_OHM = 0.010
CRIMP_OHM = 0.0003
LUG_OHM = 0.0002
CONNECTOR_PAIR_OHM = 0.003


@dataclass(frozen=True, slots=True, kw_only=True)
class Leg:
    """The part of a wire inside one zone. ``length_m`` is one way."""

    length_m: float
    ambient_c: float
    loaded_conductors: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Ceiling:
    """An element behind the fuse that the fuse must not exceed."""

    element: str
    limit_a: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Upstream:
    """A shared feeder ahead of this circuit, carrying the current that runs together."""

    resistance_ohm: float
    conductor_drop_v: float
    path_drop_v: float


@dataclass(frozen=True, slots=True, kw_only=True)
class WinchDuty:
    """What a winch asks of its cables: rated pull for a while, stall for a moment.

    A contactor that comes with the winch counts as rated for it (``own_contactor``).
    """

    full_a: float
    on_s: float = 60.0
    stall_a: float
    stall_s: float = 10.0
    own_contactor: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """One wire of a tree with its way back: from a joint to units, or to the next joint.

    ``ahead`` names the stretch at whose end it begins, empty the trunk. ``back`` is the stub to
    an earth of its own (``chassis_ohm`` is then the body's resistance), or the wire back to the
    joint. Only what ends at units has a drop limit that counts.
    """

    id: str
    ahead: str = ""
    current_a: float
    out: tuple[Leg, ...]
    back: tuple[Leg, ...] = ()
    back_a: float | None = None
    chassis_ohm: float | None = None
    joints_ohm: float = 0.0
    minimum_mm2: float = 0.75
    drop_limit_v: float = 0.6
    held: str | None = None

    @property
    def returns_a(self) -> float:
        """Current in the way back. [A]"""
        return self.current_a if self.back_a is None else self.back_a


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """Choices fixed by hand; each one left out is derived."""

    family: str | None = None
    fuse_a: float | None = None
    relay: str | None = None
    size: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SizingRequest:
    """Everything that sizing one circuit depends on.

    Parameters
    ----------
    current_a : float, 0.01 to 1000
        Design current. [A]
    out, back : tuples of Leg, 0 to 100 m in total
        The outward run and the return wire (or the stub to the earth point). [m]
    chassis_ohm : float, 0 to 1
        Resistance of the body on the way back; 0 with a return wire. [Ω]
    drop_limit_v : float, > 0
        Conductor drop allowed. [V]
    holder_c : float, -40 to 125
        Ambient where fuse and relay sit. [°C]
    relay : {"auto"} or None
        Whether there is a relay in the path.
    relays : tuple of str
        Keys of the relays to choose from; ``rest_contact``: 87a carries the load too.
    relay_c : float or None
        Ambient where the relay sits; the holder's when None. [°C]
    minimum_mm2 : float
        Mechanical minimum area for the zones passed. [mm²]
    back_a : float or None
        Current in the way back, where it is not this circuit's own alone. [A]
    branches : tuple of Stretch
        What hangs behind the joint at the end of the run; ``out`` and ``back`` are the trunk.
    fuses : int
        Fuses in the path: 2 in a link between two sources.
    maker_max_a : float or None
        Largest fuse that the accessory's maker allows. A short-duty load that asks for more
        takes this one: the maker knows the duty. [A]
    coil_v : float or None
        Nominal voltage of what feeds the relay's coil; the circuit's own when None. [V]
    own_holder : bool
        Whether the fuse sits in a holder of its family; a channel has a place of its own.
    may_step_down : bool
        Whether a splice to a thinner piece may stand at the holder; never before the first fuse.
    source_limit_a : float or None
        What the source can give at most, into a short too (a converter). [A]
    wanted : str or None
        Size with which it takes the least copper together with what hangs behind it; taken
        where every rule holds.
    winch : WinchDuty or None
        Short-time duty; ``current_a`` is then the current at 60 % pull.
    """

    current_a: float
    out: tuple[Leg, ...]
    back: tuple[Leg, ...]
    drop_limit_v: float
    back_a: float | None = None
    branches: tuple[Stretch, ...] = ()
    duty: Duty = "continuous"
    chassis_ohm: float = 0.002
    holder_c: float = 70.0
    relay_c: float | None = None
    insulation_c: int = 125
    system: System = "awg"
    wire_kind: WireKind = "copper"
    inrush_x: float = 1.0
    inrush_s: float = 0.0
    k_cont: float = 0.8
    ceiling: CeilingSchool = "strict"
    relay: Literal["auto"] | None = "auto"
    relays: tuple[str, ...] = AUTO_RELAYS
    rest_contact: bool = False
    families: tuple[str, ...] = AUTO_FAMILIES
    fuse_min_a: float = 0.0
    ceilings: tuple[Ceiling, ...] = ()
    maker_max_a: float | None = None
    source_limit_a: float | None = None
    battery_ohm: float = 0.005
    open_circuit_v: float = 12.7
    charging_v: float = 14.4
    nominal_v: float = 12.0
    coil_v: float | None = None
    crimps: int = 4
    lugs: int = 2
    connectors: int = 0
    fuses: int = 1
    switch_ohm: float = 0.0
    minimum_mm2: float = 0.75
    upstream: Upstream | None = None
    winch: WinchDuty | None = None
    wanted: str | None = None
    held: Held = Held()
    own_holder: bool = True
    may_step_down: bool = True

    def __post_init__(self) -> None:
        require_between("current_a", self.current_a, 0.01, 1000.0, "A")
        require_between("run_m", sum(leg.length_m for leg in self.out), 0.0, 100.0, "m")
        require_between("return_m", sum(leg.length_m for leg in self.back), 0.0, 100.0, "m")
        require_between("holder_c", self.holder_c, -40.0, 125.0, "°C")
        require_between("k_cont", self.k_cont, 0.5, 1.0, "ratio")
        require_between("drop_limit_v", self.drop_limit_v, 0.01, 48.0, "V")

    @property
    def coils_v(self) -> float:
        """Nominal voltage of what feeds the relay's coil. [V]"""
        return self.nominal_v if self.coil_v is None else self.coil_v

    @property
    def load_ratio(self) -> float:
        """Share of a fuse's rating that this duty may use: full for short duty, any school."""
        return self.k_cont if self.duty == "continuous" else 1.0

    @property
    def returns_a(self) -> float:
        """Current in the way back. [A]"""
        return self.current_a if self.back_a is None else self.back_a

    @property
    def joints_ohm(self) -> float:
        """Crimps, lugs and sealed connector pairs of the path together. [Ω]"""
        plain_ohm = self.crimps * CRIMP_OHM + self.lugs * LUG_OHM
        return plain_ohm + self.connectors * CONNECTOR_PAIR_OHM


@dataclass(frozen=True, slots=True, kw_only=True)
class FuseChoice:
    """The fuse: its rating, what it holds where it sits, and why not one smaller."""

    family: FuseFamily
    rating_a: float
    holds_a: float
    meets_load: bool
    meets_inrush: bool
    by_maker: bool = False
    below_rating_a: float | None
    below_reason: str
    next_rating_a: float | None

    @property
    def resistance_ohm(self) -> float:
        """Cold resistance of the fuse. [Ω]"""
        return self.family.resistance_ohm(self.rating_a)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """One wire size on the ladder with its figures, and the rules that reject it.

    ``rejects`` holds names out of: ampacity, short_time, drop, minimum, fit, withstand, clearing.
    """

    conductor: Conductor
    ampacity_a: float
    single_ampacity_a: float
    conductor_c: float
    wire_ohm: float
    back_ohm: float = 0.0
    conductor_drop_v: float
    far_short_a: float
    far_short_opens_s: float
    withstand_s: float
    mass_g: float
    pigtail: Conductor | None
    rejects: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class BranchSizing:
    """The wire of one branch. Its rungs' drop counts from the source; ``path_drop_v`` adds its
    joints and its own earth to that, from the trunk's end on. [V]
    """

    stretch: Stretch
    chosen: Rung
    ladder: tuple[Rung, ...]
    governs: tuple[str, ...]
    path_drop_v: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PassedOver:
    """A fuse family that could hold the load, and why it was not taken."""

    family: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Sizing:
    """A sized circuit, or the reason why there is none.

    ``ok`` means that every rule holds for what was chosen (or held). ``why`` is then None,
    else one of: insulation, fuse, held, relay, ceiling, wire. ``own_ohm`` is the path of this
    circuit alone, out and back, without what lies ahead of it.
    """

    request: SizingRequest
    ok: bool
    why: str | None
    fuse: FuseChoice | None = None
    relay: Relay | None = None
    relay_rating_a: float | None = None
    chosen: Rung | None = None
    ladder: tuple[Rung, ...] = ()
    governs: tuple[str, ...] = ()
    passed_over: tuple[PassedOver, ...] = ()
    own_ohm: float = 0.0
    path_drop_v: float = 0.0
    prospective_a: float = 0.0
    capped_by: Ceiling | None = None
    branches: Mapping[str, BranchSizing] = field(default_factory=dict)

    @property
    def worst(self) -> BranchSizing | None:
        """The branch that uses up most of its allowed drop; None without branches."""
        limbs = {b.stretch.ahead for b in self.branches.values()}
        ends = [b for b in self.branches.values() if b.stretch.id not in limbs]
        return max(
            ends, key=lambda b: b.chosen.conductor_drop_v / b.stretch.drop_limit_v, default=None
        )

    @property
    def deciding(self) -> Rung | None:
        """The rung whose drop decides: the worst branch's, or the circuit's own."""
        worst = self.worst
        return worst.chosen if worst is not None else self.chosen


@dataclass(frozen=True, slots=True, kw_only=True)
class WayOut:
    """A change to the request that was tried and works."""

    kind: str
    text: str
    result: Sizing
