"""What a kind of device is to everything else: one module a kind stands beside this one.

A kind overrides what differs from a plain thing with two wires. Nobody else compares a kind's
name: they ask it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar

from ready_trail.core.netlist import BATTERY_POSITIVE, GROUND, Element

if TYPE_CHECKING:
    from ready_trail.core.conductors import Conductor
    from ready_trail.core.kinds.around import Around, Part

BATTERY_DEVICE = "BAT"
At = Callable[[str], str]
"""Gives the node of one of the device's own terminals."""

_GIVES = frozenset({"2", "87", "87a", "85", "-", "I", "II", "K", "M1", "M2", "cabin", "lamp"})

_NODE_WORDS = {"+": "pos", "-": "neg"}  # signs mean something else in a SPICE deck


@dataclass(frozen=True, slots=True, kw_only=True)
class Seat:
    """What a wire ends in at a terminal: a kind of the table of terminals, and a ring's stud.

    ``usual_torque`` tells that the stud is of steel in a holder, a bar or the body, and takes the
    stud's usual torque; a battery's soft post, a motor's or a contactor's stud want what their
    maker says. ``most_mm2`` is what the terminal takes at most, where that is stated.
    """

    kind: str = "butt"
    stud: str = ""
    usual_torque: bool = False
    most_mm2: float | None = None


ENDS: dict[str, str] = {
    "ferrule": "a ferrule",
    "fork": "a fork",
    "ring": "a ring on its stud",
    "blade_6_3": "a blade of 6.3 mm",
    "blade_9_5": "a blade of 9.5 mm",
    "butt": "a splice to its lead",
}
"""What a maker may say that a wire ends in."""


def stated_seat(end: str, stud: str, most_mm2: float | None, usual: Seat) -> Seat:
    """Return a seat as a maker states it; what is not stated is as usual."""
    if not end and not stud and most_mm2 is None:
        return usual
    kind = end or ("ring" if stud else usual.kind)
    return Seat(
        kind=kind,
        stud=(stud or usual.stud or "M6") if kind == "ring" else "",
        usual_torque=usual.usual_torque and kind == "ring" and stud in ("", usual.stud),
        most_mm2=most_mm2,
    )


class DeviceKind:
    """One kind of device. What it holds is frozen; what it answers follows from that."""

    __slots__ = ()
    kind: str
    """Name by which drawings look up its symbol."""

    is_load: ClassVar[bool] = False
    """Whether it is what is powered."""
    is_earth: ClassVar[bool] = False
    """Whether it is a place on the body."""
    is_post: ClassVar[bool] = False
    """Whether it is a battery with posts."""
    is_joint: ClassVar[bool] = False
    """Whether wires only meet at it."""
    is_switch: ClassVar[bool] = False
    """Whether a hand works it in the dash or on a panel."""
    is_isolator: ClassVar[bool] = False
    """Whether it takes a circuit out for good, by hand."""
    is_passage: ClassVar[bool] = False
    """Whether it is a lead of the vehicle through a panel."""
    is_point: ClassVar[bool] = False
    """Whether circuits start at it."""
    protects: ClassVar[bool] = False
    """Whether it opens on too much current."""
    sits_in_holder: ClassVar[bool] = False
    """Whether it is put in last, into a holder that is mounted."""
    blocks: ClassVar[bool] = False
    """Whether it lets current pass one way alone."""
    drives: ClassVar[bool] = False
    """Whether it gives a signal by itself."""
    coil: ClassVar[str] = ""
    """The terminal at which it is told to close; empty where nothing tells it."""
    coil_apart: ClassVar[bool] = False
    """Whether its coil is drawn apart from its contact, each on its own line."""
    opens_by_coil: ClassVar[bool] = False
    """Whether its coil opens the way of the load instead of closing it."""
    carries_vehicle: ClassVar[bool] = False
    """Whether the vehicle's own wiring hangs behind it."""
    gets_label: ClassVar[bool] = False
    """Whether it has a label of its own."""
    is_bought: ClassVar[bool] = False
    """Whether it is a part to compare and to buy by what it is."""

    @property
    def signals(self) -> tuple[str, ...]:
        """Which of the vehicle's signals can be picked up at it."""
        return ()

    @property
    def is_signal(self) -> bool:
        """Whether it is a wire of the vehicle that is listened to."""
        return bool(self.signals)

    @property
    def is_relay(self) -> bool:
        """Whether a coil works it."""
        return bool(self.coil)

    @property
    def has_contact(self) -> bool:
        """Whether a contact in it opens and closes."""
        return self.is_relay or self.is_switch or self.is_isolator

    @property
    def lets_control_pass(self) -> bool:
        """Whether a control wire's way goes on at its other side."""
        return self.is_switch or self.protects or self.blocks

    def terminals(self) -> tuple[str, ...]:
        """Return the names of its terminals."""
        return ("1", "2")

    def gives(self, terminal: str) -> bool:
        """Return whether current leaves it there, so that it is drawn on the far side."""
        return self.drives or terminal in _GIVES

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return the pairs of terminals that the load current takes."""
        return ()

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield what it is electrically, between its terminals' nodes."""
        return iter(())

    def limit_a(self, ambient_c: float) -> float | None:
        """Return the largest fuse ahead that it bears, or None where it sets no limit. [A]"""
        return None

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return what a wire of that size ends in at a terminal."""
        return Seat()

    def spliced(self, terminal: str) -> bool:
        """Return whether a wire goes bare into a splice there."""
        return False

    def terminal_words(self, terminal: str) -> str:
        """Return what people call a terminal."""
        return terminal

    def spot(self, terminal: str) -> str:
        """Return what a kit's paper would call a terminal, or an empty text."""
        return ""

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield what it takes to buy: itself, what it sits in, a spare where it wears."""
        yield around.on_vehicle()


def node_of(device: str, terminal: str) -> str:
    """Return the node of a terminal in the netlist."""
    if device == BATTERY_DEVICE:
        return BATTERY_POSITIVE if terminal == "+" else GROUND
    return f"{device}_{_NODE_WORDS.get(terminal, terminal)}".lower().replace(" ", "")
