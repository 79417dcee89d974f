"""A fuse or breaker in its holder."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.conductors import Conductor
from ready_trail.core.fuses import FuseFamily, Gate
from ready_trail.core.kinds.around import FUSES, Around, Part, slug
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.netlist import Element, Resistor
from ready_trail.core.wording import lower_first

BLOCK_PIN = Seat(kind="blade_6_3", usual_torque=True)
"""What most blocks take at a position."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FuseSpec(DeviceKind):
    """A rating of a family; ``ohm`` is its cold resistance.

    ``on_bus`` is the node of the bus on which it sits: its source side is that bus. A control
    circuit's fuse (``is_control``) is of no choice of its own. ``in_block`` tells what the block's
    positions take, where its maker says.
    """

    rating_a: float
    ohm: float
    family: FuseFamily
    on_bus: str = ""
    is_control: bool = False
    in_block: Seat | None = None
    protects: ClassVar[bool] = True
    gets_label: ClassVar[bool] = True
    is_bought: ClassVar[bool] = True

    @property
    def kind(self) -> str:  # type: ignore[override]
        """A breaker is drawn as one."""
        return "breaker" if self.family.is_breaker else "fuse"

    @property
    def sits_in_holder(self) -> bool:  # type: ignore[override]
        """A fuse does, a breaker is mounted itself."""
        return not self.family.is_breaker

    @property
    def opening_gates(self) -> tuple[Gate, ...]:
        """Return the times within which it opens, by multiples of its rating."""
        return self.family.gates

    def terminals(self) -> tuple[str, ...]:
        """Return source side and load side."""
        return ("1", "2")

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return its one way through."""
        return (("1", "2"),)

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield its resistance."""
        yield Resistor(name=name, a=self.on_bus or at("1"), b=at("2"), ohm=self.ohm, kind="fuse")

    def limit_a(self, ambient_c: float) -> float | None:
        """Return the holder's rating."""
        return None if self.is_control else self.family.holder_a

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return a ring on its stud, a blade of its block, or the end that its holder takes."""
        if self.family.stud and not self.is_control:
            return Seat(kind="ring", stud=self.family.stud, usual_torque=True)
        if self.on_bus and not self.is_control:
            return self.in_block or BLOCK_PIN
        return Seat(kind=self.family.holder_end, usual_torque=True)

    def spot(self, terminal: str) -> str:
        """Return fuse."""
        return "fuse"

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield fuse, spare and holder; a breaker is both and does not wear."""
        family, rating = self.family, f"{self.rating_a:g}"
        colour = family.colours.get(self.rating_a, "")
        yield Part(
            key=f"fuse-{slug(family.family)}-{rating}",
            group=FUSES,
            label=f"{family.label}, {rating} A{f', {colour}' if colour else ''}",
            spare=0.0 if family.is_breaker else 1.0,
            catalogue_key=f"fuse:{family.family}",
        )
        if not family.is_breaker and not self.on_bus:
            yield Part(
                key=f"holder-{slug(family.family)}",
                group=FUSES,
                label=f"Holder for {lower_first(family.label)}, covered",
            )

    def spare(self) -> Iterator[Part]:
        """Yield a spare of a fuse that a kit brings; the holder is the kit's own."""
        family = self.family
        if not family.is_breaker:
            yield Part(
                key=f"fuse-{slug(family.family)}-{self.rating_a:g}",
                group=FUSES,
                label=f"{family.label}, {self.rating_a:g} A",
                quantity=0.0,
                spare=1.0,
                catalogue_key=f"fuse:{family.family}",
            )


CONTROL_FUSE_DROP_V = 0.10


def control_fuse_spec(rating_a: float, family: FuseFamily) -> FuseSpec:
    """Return the small blade fuse of a coil or lamp circuit; what it loses is the house's."""
    ohm = CONTROL_FUSE_DROP_V / rating_a
    return FuseSpec(rating_a=rating_a, ohm=ohm, family=family, is_control=True)
