"""What goes into sizing and what comes out of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal, NamedTuple, Protocol

from ready_trail.core.conductors import Conductor, WireKind
from ready_trail.core.errors import require_between
from ready_trail.core.fuses import AUTO_FAMILIES, FuseFamily
from ready_trail.core.loads import DropClass
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
    twins: str = ""
    """Equal for stretches that end at equal units: they get one size, unless held otherwise."""

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
class Path:
    """The way of the current: wire out, wire back, and what else it passes.

    Parameters
    ----------
    out, back : tuples of Leg, 0 to 100 m in total
        The outward run and the return wire (or the stub to the earth point). [m]
    branches : tuple of Stretch
        What hangs behind the joint at the end of the run; ``out`` and ``back`` are the trunk.
    back_least_a : float
        What the wire back has to carry, whatever the fuse: behind a converter it is not the
        fuse's. [A]
    chassis_ohm : float, 0 to 1
        Resistance of the body on the way back; 0 with a return wire. [Ω]
    crimps, lugs, connectors : int
        Joints on the way.
    fuses : int
        Fuses in the path: 2 in a link between two sources.
    switch_ohm : float
        Hand switch, channel or interlock in the path. [Ω]
    """

    out: tuple[Leg, ...] = ()
    back: tuple[Leg, ...] = ()
    branches: tuple[Stretch, ...] = ()
    back_least_a: float = 0.0
    chassis_ohm: float = 0.002
    crimps: int = 4
    lugs: int = 2
    connectors: int = 0
    fuses: int = 1
    switch_ohm: float = 0.0

    def __post_init__(self) -> None:
        require_between("run_m", sum(leg.length_m for leg in self.out), 0.0, 100.0, "m")
        require_between("return_m", sum(leg.length_m for leg in self.back), 0.0, 100.0, "m")

    @property
    def legs(self) -> tuple[Leg, ...]:
        """All legs, out and back."""
        return (*self.out, *self.back)

    @property
    def joints_ohm(self) -> float:
        """Crimps, lugs and sealed connector pairs of the path together. [Ω]"""
        plain_ohm = self.crimps * CRIMP_OHM + self.lugs * LUG_OHM
        return plain_ohm + self.connectors * CONNECTOR_PAIR_OHM


@dataclass(frozen=True, slots=True, kw_only=True)
class Supply:
    """Where the current comes from.

    ``limit_a`` is what it can give at most, into a short too (a converter). [A]
    """

    nominal_v: float = 12.0
    open_circuit_v: float = 12.7
    charging_v: float = 14.4
    ohm: float = 0.005
    limit_a: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class WireAsked:
    """Which wires are chosen from, and the mechanical minimum for the zones passed. [mm²]"""

    system: System = "awg"
    kind: WireKind = "copper"
    insulation_c: int = 125
    minimum_mm2: float = 0.75


@dataclass(frozen=True, slots=True, kw_only=True)
class Fusing:
    """Which families may hold the fuse, where it sits, and what it must not exceed.

    Parameters
    ----------
    families : tuple of str
        Tried in order.
    holder_c : float, -40 to 125
        Ambient where the fuse sits. [°C]
    ceilings : tuple of Ceiling
        Everything that the current passes behind the fuse, with what it bears.
    school : {"strict", "next_size"}
        How the wire's ampacity bounds the fuse.
    own_holder : bool
        Whether the fuse sits in a holder of its family; a channel has a place of its own.
    may_step_down : bool
        Whether a splice to a thinner piece may stand at the holder; never before the first fuse.
    """

    families: tuple[str, ...] = AUTO_FAMILIES
    holder_c: float = 70.0
    ceilings: tuple[Ceiling, ...] = ()
    school: CeilingSchool = "strict"
    own_holder: bool = True
    may_step_down: bool = True

    def __post_init__(self) -> None:
        require_between("holder_c", self.holder_c, -40.0, 125.0, "°C")


@dataclass(frozen=True, slots=True, kw_only=True)
class Switching:
    """The relay in the path: which ones to choose from, and where it sits.

    ``rest_contact``: 87a carries the load, alone or too. ``coil_v`` is the nominal voltage of
    what feeds its coil, ``place_c`` the ambient there: the circuit's own and the holder's when
    None.
    """

    relays: tuple[str, ...] = AUTO_RELAYS
    rest_contact: bool = False
    coil_v: float | None = None
    place_c: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SizingRequest:
    """Everything that sizing one circuit depends on.

    Parameters
    ----------
    current_a : float, 0.01 to 1000
        Design current; of a winch at 60 % pull. [A]
    back_a : float or None
        Current in the way back, where it is not this circuit's own alone. [A]
    path : Path
        What it passes.
    drop_limit_v : float, > 0
        Conductor drop allowed. [V]
    rule : FuseRule
        How this duty chooses its fuse, and what it asks of wire and contact.
    fusing : Fusing
        Families, place and ceilings of the fuse.
    switching : Switching or None
        The relay, where there is one in the path.
    supply : Supply
        Where the current comes from.
    wire : WireAsked
        Which wires are chosen from.
    upstream : Upstream or None
        A shared feeder ahead of it.
    wanted : str or None
        Size with which it takes the least copper together with what hangs behind it; taken
        where every rule holds.
    held : Held
        Choices fixed by hand.
    """

    current_a: float
    path: Path
    drop_limit_v: float
    rule: FuseRule
    back_a: float | None = None
    fusing: Fusing = Fusing()
    switching: Switching | None = Switching()
    supply: Supply = Supply()
    wire: WireAsked = WireAsked()
    upstream: Upstream | None = None
    wanted: str | None = None
    held: Held = Held()

    def __post_init__(self) -> None:
        require_between("current_a", self.current_a, 0.01, 1000.0, "A")
        require_between("drop_limit_v", self.drop_limit_v, 0.01, 48.0, "V")

    @property
    def coils_v(self) -> float:
        """Nominal voltage of what feeds the relay's coil. [V]"""
        stated_v = self.switching.coil_v if self.switching is not None else None
        return self.supply.nominal_v if stated_v is None else stated_v

    @property
    def relay_c(self) -> float:
        """Ambient where the relay sits. [°C]"""
        stated_c = self.switching.place_c if self.switching is not None else None
        return self.fusing.holder_c if stated_c is None else stated_c

    @property
    def returns_a(self) -> float:
        """Current in the way back. [A]"""
        return self.current_a if self.back_a is None else self.back_a

    @property
    def ahead_ohm(self) -> float:
        """What lies ahead of this circuit's own path, the source's inside included. [Ω]"""
        upstream_ohm = self.upstream.resistance_ohm if self.upstream is not None else 0.0
        return self.supply.ohm + upstream_ohm


class Still(NamedTuple):
    """One size of one request: what stays whatever lies ahead of it. A tuple is made fastest."""

    ampacity_a: float
    hottest_c: float
    out_ohm: float
    back_ohm: float
    drop_v: float
    limit_a2s: float
    pigtail: Conductor | None
    rejects: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """What every rung of one request shares, worked out once.

    ``out`` and ``back`` tell of each leg its length, its ambient and its derating. ``still`` keeps
    by size what does not depend on what lies ahead; grounds of one request that differ in that
    alone share it.
    """

    out: tuple[tuple[float, float, float], ...]
    back: tuple[tuple[float, float, float], ...]
    worst_ratio: float
    worst_ambient_ratio: float
    length_m: float
    fixed_ohm: float
    pigtail: Conductor | None
    still: dict[str, Still] = field(default_factory=dict)


class FuseRule(Protocol):
    """How one kind of duty chooses its fuse, and what it asks of wire and contact."""

    @property
    def duty(self) -> str:
        """The duty's word: continuous, intermittent, momentary, winch."""

    @property
    def is_steady(self) -> bool:
        """Whether the current flows long enough to count as heat; a pull of a minute does not."""

    @property
    def families(self) -> tuple[str, ...]:
        """The families that suit this duty; empty where those of the place do."""

    @property
    def contactors(self) -> tuple[str, ...]:
        """The relays that suit this duty; empty where the scheme's do."""

    @property
    def share(self) -> float:
        """Share of a fuse's rating that this duty may use."""

    @property
    def maker_max_a(self) -> float | None:
        """Largest fuse that the accessory's maker allows. [A]"""

    @property
    def makers_fuse_wins(self) -> bool:
        """Whether the maker's largest fuse is taken where the load asks for more: the maker knows
        a short duty.
        """

    @property
    def contact_name(self) -> str:
        """What the contact in the path is called."""

    def holds_a(self, rating_a: float, family: FuseFamily, holder_c: float) -> float:
        """Return the load that a rating may carry at this duty. [A]"""

    def meets_load(self, request: SizingRequest, family: FuseFamily, rating_a: float) -> bool:
        """Return whether a rating holds the load for as long as it lasts."""

    def meets_start(self, request: SizingRequest, family: FuseFamily, rating_a: float) -> bool:
        """Return whether a rating outlasts the load's start."""

    def rejection(self, request: SizingRequest, family: FuseFamily, rating_a: float) -> str | None:
        """Return why a rating is too small: minimum, load, inrush, stall. None where it is not."""

    def contact_least_a(self, rating_a: float) -> float:
        """Return what a contact behind a fuse of this rating must be rated for; 0 where the maker
        of the accessory answers for it. [A]
        """

    def carries(
        self,
        request: SizingRequest,
        fuse: FuseChoice,
        ampacity_a: float,
        current_a: float | None = None,
    ) -> bool:
        """Return whether a wire of this ampacity bears its fuse, or its pull. ``current_a`` is what
        a branch carries, where that is not all that the circuit does. [A]
        """

    def still(
        self, conductor: Conductor, request: SizingRequest, fuse: FuseChoice, ground: Ground
    ) -> Still:
        """Return one size's figures that stay whatever lies ahead of it."""

    def clears(
        self,
        request: SizingRequest,
        fuse: FuseChoice,
        short_a: float,
        opens_s: float,
        ampacity_a: float,
    ) -> bool:
        """Return whether a short at the far end opens the fuse fast enough."""


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
