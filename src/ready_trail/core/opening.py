"""What opens by itself when it carries too much: fuses, breakers, the outputs of a point."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.fuses import Gate, opening_time_s
from ready_trail.core.installation import Installation
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.kinds.point import PointSpec
from ready_trail.core.netlist import Resistor
from ready_trail.core.solver import OperatingPoint


@dataclass(frozen=True, slots=True, kw_only=True)
class FuseReading:
    """What a fuse carries, and within which times it opens there (infinite: it does not). [s]

    ``ref`` names it; ``device`` is what it is in, which is the fuse itself or a point with outputs.
    """

    ref: str
    device: str
    amps: float
    rating_a: float
    fastest_s: float
    slowest_s: float

    @property
    def opens(self) -> bool:
        """Whether it opens at all at this current."""
        return self.slowest_s < float("inf")


@dataclass(frozen=True, slots=True, kw_only=True)
class Protection:
    """Something that opens by itself: a fuse, a breaker, a channel's own; and its element."""

    ref: str
    device: str
    element: str
    rating_a: float
    gates: tuple[Gate, ...]

    def read(self, point: OperatingPoint) -> FuseReading:
        """Return what it carries and when that opens it."""
        amps = abs(point.branch_a.get(self.element, 0.0))
        fastest_s = slowest_s = math.inf
        if self.gates and self.rating_a > 0:
            multiple = max(1e-9, amps / self.rating_a)
            fastest_s = opening_time_s(self.gates, multiple, slowest=False)
            slowest_s = opening_time_s(self.gates, multiple, slowest=True)
        return FuseReading(
            ref=self.ref,
            device=self.device,
            amps=amps,
            rating_a=self.rating_a,
            fastest_s=fastest_s,
            slowest_s=slowest_s,
        )


def protections(installation: Installation) -> Iterator[Protection]:
    """Return everything that opens by itself."""
    for ref, device in installation.devices.items():
        spec = device.spec
        if not isinstance(spec, FuseSpec | PointSpec):
            continue
        names = [
            e.name for e in installation.elements_of(ref) if isinstance(e, Resistor) and e.is_fuse
        ]
        if isinstance(spec, FuseSpec):
            yield Protection(
                ref=ref,
                device=ref,
                element=names[0],
                rating_a=spec.rating_a,
                gates=spec.opening_gates,
            )
            continue
        for channel, name in zip(spec.channels, names, strict=True):
            yield Protection(
                ref=f"{ref} {channel.position}",
                device=ref,
                element=name,
                rating_a=channel.rating_a,
                gates=channel.gates,
            )
