"""A joint: splice, junction box, double lug, double 87 or bus. Wires meet at its two sides."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import ClassVar, Literal

from ready_trail.core.conductors import Conductor
from ready_trail.core.kinds.around import ON_VEHICLE, POINTS, TERMINALS, Around, Part, slug
from ready_trail.core.kinds.base import At, DeviceKind, Seat
from ready_trail.core.netlist import Element

JointKind = Literal["splice", "junction_box", "double_lug", "double_87", "bus"]
JOINT_WORDS: Mapping[JointKind, str] = {
    "splice": "splice",
    "junction_box": "junction box",
    "double_lug": "double lug",
    "double_87": "double 87",
    "bus": "bus bar",
}
"""What each kind of joint is called."""
BOLTED: frozenset[JointKind] = frozenset({"double_lug", "bus"})
"""Those at which wires end in lugs."""


def is_bolted(how: JointKind) -> bool:
    """Whether wires end in lugs there."""
    return how in BOLTED


@dataclass(frozen=True, slots=True, kw_only=True)
class JointSpec(DeviceKind):
    """Where branches meet: "+" for the feed, "-" for returns that are shared.

    Its contacts are counted at the wires' ends, so it has no element of its own.
    """

    how: JointKind
    kind: str = "joint"
    is_joint: ClassVar[bool] = True
    gets_label: ClassVar[bool] = True
    is_bought: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return its two sides."""
        return ("+", "-")

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield nothing."""
        return iter(())

    def seat(self, terminal: str, conductor: Conductor) -> Seat:
        """Return what goes into a box, on a bolt, on the relay's own blades, or a splice."""
        return _SEATS.get(self.how, Seat(usual_torque=True))

    def spliced(self, terminal: str) -> bool:
        """Return whether that side is a splice: returns beside a double 87 are spliced too."""
        return self.how == "splice" or (self.how == "double_87" and terminal == "-")

    def spot(self, terminal: str) -> str:
        """Return joint."""
        return "joint"

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield a splice for each side that is one, or the box, bolt or bar."""
        sides = [side for side in around.used if self.spliced(side)]
        if sides:
            thick_mm2 = around.thickest_mm2
            yield Part(
                key=f"splice-branch-{thick_mm2:.1f}",
                group=TERMINALS,
                label=f"Branch splice for up to {thick_mm2:.1f} mm², lined",
                quantity=float(len(sides)),
            )
        elif self.how == "double_87":
            yield Part(
                key="joint-on-relay", group=ON_VEHICLE, label="Joint on the relay's own two 87"
            )
        else:
            yield Part(key=f"joint-{slug(around.label)}", group=POINTS, label=around.label)


_SEATS = {
    "junction_box": Seat(kind="ferrule", usual_torque=True),
    "double_lug": Seat(kind="ring", stud="M6", usual_torque=True),
    "bus": Seat(kind="ring", stud="M6", usual_torque=True),
    "double_87": Seat(kind="base_6_3", usual_torque=True),
}
