"""Thin wires of what circuits share: same owner, same zone, same air, one conductor."""

from __future__ import annotations

from dataclasses import dataclass, field

from ready_trail.core.colours import dressed
from ready_trail.core.conductors import Conductor
from ready_trail.core.installation import Duty, Piece, Terminal, Wire
from ready_trail.core.job import Job


@dataclass(frozen=True, slots=True, kw_only=True)
class ThinWires:
    """Wires as they are drawn one by one, numbered in their order behind ``ref``."""

    job: Job
    owner: str
    ref: str
    zone: str
    ambient_c: float
    conductor: Conductor
    insulation_c: int
    made: list[Wire] = field(default_factory=list)

    def add(
        self, role: Duty, start: Terminal, end: Terminal, length_m: float, own: str = "BK"
    ) -> None:
        """Draw one more, in its own colour as the house dresses that. [m]"""
        colour, mark = dressed(self.job, role, own)
        piece = Piece(
            zone=self.zone,
            ambient_c=self.ambient_c,
            conductor_c=self.ambient_c,
            length_m=length_m,
            loaded_conductors=1,
        )
        self.made.append(
            Wire(
                label=f"{self.ref}-W{len(self.made) + 1}",
                owner=self.owner,
                role=role,
                start=start,
                end=end,
                conductor=self.conductor,
                insulation_c=self.insulation_c,
                pieces=(piece,),
                colour=colour,
                mark=mark,
            )
        )
