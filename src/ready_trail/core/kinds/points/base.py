"""What a kind of distribution point is to everything else; one module a kind stands beside."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from ready_trail.core.forms import Asked
from ready_trail.core.kinds.base import ENDS, Seat

_BUS, _POSITION = Seat(kind="ring", stud="M6"), Seat(kind="ferrule")
_BUS_TERMINALS = frozenset({"bus", "in", "earth"})


@dataclass(frozen=True, slots=True, kw_only=True)
class PointKind:
    """One kind of point.

    Parameters
    ----------
    key, letter, words : str
        Its name in documents, what its references begin with, and what people call it.
    needs : mapping of str
        Fields without which it cannot be designed, with what each one is.
    fed_by_vehicle : bool
        The vehicle feeds it, so that no feeder of ours is needed.
    parts_battery : bool
        It stands in the battery's main cable and parts what hangs behind from it; it is bought.
    holds_vehicle : bool
        The vehicle itself hangs on it, and the battery is elsewhere.
    feed_ohm : float or None
        What stands between it and the battery, where that does not follow from a fuse. [Ω]
    bus_words : str
        What people call its bus.
    switches_its_positions : bool
        A position is a protected, switched output by itself.
    gives_back : bool
        It gives current to where its lead begins, and takes none: a source of its own.
    gives_by : str
        What it gives its current from, where that is not the engine: ``mains`` or ``sun``.
    is_fitted : bool
        It is there already; its lead alone is ours.
    is_cut : bool
        It is a wire of the vehicle whose two ends something of ours joins; its fuse stays.
    copies_signals : bool
        Its outputs repeat lamp signals that it only senses.
    is_one_stud : bool
        All that starts there shares one stud.
    holds_fuses, blades_only : bool
        Fuses sit in it; blades alone where it takes no other family.
    holds_relays : bool
        Relays plug into it, wired to its own bus.
    has_switches : bool
        Hand switches sit in it, which feed little by themselves.
    has_channel_bank : bool
        Its channels share limits that its maker states.
    taps_a_circuit : bool
        It is a circuit of the vehicle's that others hang on already.
    output_12_v : float or None
        What its output holds on a 12 V system, where it makes a voltage of its own. [V]
    keeps_output_v : bool
        Its output has a nominal voltage of its own.
    charges : bool
        It charges what hangs on it.
    stores : bool
        It is a battery.
    bus, position, earth : Seat
        What wires end in at its bus and input, at its positions, and at its earth: as the bus
        where nothing is said.
    may_have_earth : bool
        An earth bus may sit beside its positive one.
    has_keypad : bool
        A keypad in the cabin tells it what to switch, over a cable of its own.
    own_earth : bool
        Its electronics want an earth lead of their own.
    has_legends : bool
        Its positions are shown by their legends.
    gets_label : bool
        It has a label of its own.
    asks : tuple of Asked
        What is stated of it besides what is stated of every point.
    """

    key: str
    letter: str
    words: str
    needs: Mapping[str, str] = field(default_factory=dict)
    fed_by_vehicle: bool = False
    parts_battery: bool = False
    holds_vehicle: bool = False
    feed_ohm: float | None = None
    bus_words: str = "bus"
    switches_its_positions: bool = False
    gives_back: bool = False
    gives_by: str = ""
    is_fitted: bool = False
    is_cut: bool = False
    copies_signals: bool = False
    is_one_stud: bool = False
    holds_fuses: bool = False
    holds_relays: bool = False
    blades_only: bool = False
    has_switches: bool = False
    has_channel_bank: bool = False
    taps_a_circuit: bool = False
    output_12_v: float | None = None
    keeps_output_v: bool = False
    charges: bool = False
    stores: bool = False
    bus: Seat = _BUS
    position: Seat = _POSITION
    earth: Seat | None = None
    has_keypad: bool = False
    own_earth: bool = False
    has_legends: bool = False
    may_have_earth: bool = False
    gets_label: bool = True
    asks: tuple[Asked, ...] = ()

    @property
    def fields(self) -> tuple[Asked, ...]:
        """Everything that its form asks, its own first."""
        return (*self.asks, *EVERY_POINT)

    @property
    def has_channels(self) -> bool:
        """Whether a hand switches each position by itself, in the modes that its maker states."""
        return self.switches_its_positions and not (self.copies_signals or self.is_cut)

    @property
    def is_there(self) -> bool:
        """Whether it is a part of the vehicle: nobody buys or mounts it."""
        return self.is_fitted or (self.fed_by_vehicle and not self.parts_battery)

    @property
    def cutout(self) -> str:
        """What is cut or drilled for it, by its row among the cut-outs; empty for nothing."""
        if self.is_there or self.stores:
            return ""
        if self.has_switches:
            return "rocker"
        if self.is_block or self.holds_relays:
            return "block"
        return "stud" if self.is_one_stud else "box"

    @property
    def is_block(self) -> bool:
        """Whether it is a block of fuses and nothing else."""
        return self.blades_only and not self.has_switches

    @property
    def converts(self) -> bool:
        """Whether it makes a voltage of its own from what feeds it."""
        return self.output_12_v is not None

    @property
    def starts_a_system(self) -> bool:
        """Whether what is behind it has a voltage source of its own."""
        return self.converts or self.stores

    def seat(self, terminal: str) -> Seat:
        """Return what a wire ends in at a terminal."""
        if terminal == "earth" and self.earth is not None:
            return self.earth
        return self.bus if terminal in _BUS_TERMINALS else self.position


EVERY_POINT = (
    Asked(
        path="ends",
        title="A wire ends there in",
        choices=(("", "as usual for it"), *ENDS.items()),
    ),
    Asked(
        path="ends_stud",
        title="Its studs",
        choices=(("", "as usual"), ("M5", "M5"), ("M6", "M6"), ("M8", "M8"), ("M10", "M10")),
    ),
    Asked(path="takes_mm2", title="Takes at most", unit="mm²", blank="as its kind"),
    Asked(path="total_a", title="Rated for, all together", unit="A"),
    Asked(path="torque_nm", title="Its studs, tightened to", unit="N·m", blank="not stated"),
    Asked(path="together_a", title="Runs together, if you know better", unit="A"),
    Asked(path="note", title="Note"),
)
OUTPUT_CHOICES = ((12, "12 V"), (24, "24 V"))
CHANNEL_RATIO = Asked(
    path="channel_ratio",
    title="Of its fuse, a channel carries",
    hint="the maker's share, such as 0.8 or 80 %; blank: the house's",
)
WAKE_CHOICES = (("always", "always"), ("accessory", "accessory key"), ("run", "ignition"))
MAKES_VOLTS = (
    Asked(path="output_v", title="Output", choices=OUTPUT_CHOICES),
    Asked(path="output_a", title="Gives at most", unit="A"),
    Asked(path="efficiency_ratio", title="Efficiency", usual=0.88, hint="0.88 or 88 %"),
    Asked(path="cut_in_v", title="Cuts in at", unit="V"),
    Asked(path="key", title="Enabled with", choices=WAKE_CHOICES),
)
"""What a converter and a charger are asked."""

CONVERTER_SET_V = 13.2
CHARGER_SET_V = 14.4
"""What a converter's and a charger's output holds on a 12 V system (typical)."""

BLOCK_BUS = Seat(kind="ring", stud="M6", usual_torque=True)
BLOCK_POSITION = Seat(kind="ring", stud="M5", usual_torque=True)
"""The bolts of blocks, of steel."""
OUTPUT = {"output_a": "what this one gives at most"}

_UNKNOWN_FEED_OHM = 0.010
_FEED_DROP_V = 0.15
"""The vehicle's own wiring up to a bank or a tapped circuit, at its own fuse (house). [V]"""


def vehicle_feed_ohm(fuse_a: float | None) -> float:
    """Resistance of the vehicle's own feed to a bank or tapped circuit behind a fuse. [Ω]"""
    return _FEED_DROP_V / fuse_a if fuse_a else _UNKNOWN_FEED_OHM
