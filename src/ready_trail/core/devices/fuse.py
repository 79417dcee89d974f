"""A fuse or breaker in its holder."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.devices.base import At
from ready_trail.core.fuses import FuseFamily, Gate
from ready_trail.core.network import Element, Resistor


@dataclass(frozen=True, slots=True, kw_only=True)
class FuseSpec:
    """A rating of a family; ``ohm`` is its cold resistance.

    ``on_bus`` is the node of the bus on which it sits: its source side is that bus. A control
    circuit's fuse has no ``family`` of its own choice, only the ``gates`` by which it opens.
    """

    rating_a: float
    ohm: float
    family: FuseFamily | None = None
    on_bus: str = ""
    gates: tuple[Gate, ...] = ()

    @property
    def opening_gates(self) -> tuple[Gate, ...]:
        """Return the times within which it opens, by multiples of its rating."""
        return self.family.gates if self.family is not None else self.gates

    @property
    def kind(self) -> str:
        """A breaker is drawn as one."""
        return "breaker" if self.family is not None and self.family.is_breaker else "fuse"

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
        return self.family.holder_a if self.family is not None else None


CONTROL_FAMILY = "blade"
CONTROL_FUSE_DROP_V = 0.10


def control_fuse_spec(rating_a: float, family: FuseFamily) -> FuseSpec:
    """Return the small blade fuse of a coil or lamp circuit; what it loses is the house's."""
    return FuseSpec(rating_a=rating_a, ohm=CONTROL_FUSE_DROP_V / rating_a, gates=family.gates)
