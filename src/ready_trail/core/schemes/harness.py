"""Collecting the devices and wires of one circuit, numbering the wires as they come."""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.colours import dressed
from ready_trail.core.conductors import HEAVY_MM2, Conductor
from ready_trail.core.installation import (
    Device,
    Duty,
    Joint,
    Parts,
    Piece,
    Terminal,
    Way,
    Wire,
)
from ready_trail.core.kinds.base import DeviceKind
from ready_trail.core.schemes.base import Bench


class Harness:
    """One circuit's parts while they are being made.

    Wires and devices that carry the load are noted in the order in which current meets them.
    """

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self.owner = bench.circuit.id
        self.devices: list[Device] = []
        self.wires: list[Wire] = []
        self.out: list[str] = []
        self.back: list[str] = []
        self.needs: list[str] = []
        self.ways: list[Way] = []
        self.backs: dict[str, tuple[str, str]] = {}
        """The return of each unit or joint: its wire, and the earth or joint where that ends."""
        self._wire_number = 0

    def add(
        self,
        ref: str,
        spec: DeviceKind,
        label: str,
        detail: str,
        *,
        name: str = "",
        zone: str = "",
        at_m: float | None = None,
        on_the_way: bool = False,
        shared: bool = False,
        branch: str = "",
        of_coil: bool = False,
    ) -> None:
        """Add a device; one that is ``shared`` belongs to the vehicle."""
        self.devices.append(
            Device(
                ref=ref,
                spec=spec,
                owner="" if shared else self.owner,
                label=label,
                detail=detail,
                name=name,
                zone=zone,
                at_m=at_m,
                branch=branch,
                of_coil=of_coil,
            )
        )
        if on_the_way:
            self.out.append(ref)

    def wire(
        self,
        role: Duty,
        start: Terminal,
        end: Terminal,
        pieces: tuple[Piece, ...],
        *,
        colour: str,
        joints: tuple[Joint | None, Joint | None] = (None, None),
        tail_m: float = 0.0,
        conductor: Conductor | None = None,
        branch: str = "",
        supplied: bool = False,
    ) -> str:
        """Add the next wire of the circuit, in its own size or another; return its label."""
        bench = self.bench
        self._wire_number += 1
        control = role in ("control", "control_return", "function")
        conductor = conductor or (bench.control_conductor if control else bench.conductor)
        mark = ""
        if not control and conductor.lug_mm2 >= HEAVY_MM2:
            plain = "BK" if role == "return" else "RD"
            mark, colour = ("" if colour == plain else colour), plain
        else:
            held = bench.circuit.held.colour is not None
            colour, mark = dressed(bench.job, role, colour, held=held and not control)
        wire = Wire(
            label=f"C{bench.number}-W{self._wire_number}",
            owner=self.owner,
            role=role,
            start=start,
            end=end,
            conductor=conductor,
            insulation_c=bench.insulation_c,
            colour=colour,
            pieces=pieces,
            start_joint=joints[0],
            end_joint=joints[1],
            mark=mark,
            tail_m=tail_m,
            branch=branch,
            supplied=supplied,
        )
        self.wires.append(wire)
        if role in ("feed", "power") and not branch:
            self.out.append(wire.label)
        elif role == "return" and not branch:
            self.back.append(wire.label)
        return wire.label

    def _way_back(self, ref: str) -> tuple[str, ...]:
        """From units over joints to an earth, or on with the trunk's own return."""
        found: list[str] = []
        while ref in self.backs:
            label, at = self.backs[ref]
            found.append(label)
            ref = at
            if at.startswith("G"):
                return (*found, at)
        return (*found, *self.back)

    def parts(self) -> Parts:
        """Return what was collected."""
        ways = tuple(replace(way, back=self._way_back(way.ref)) for way in self.ways)
        return Parts(
            ways=ways,
            owner=self.owner,
            devices=tuple(self.devices),
            wires=tuple(self.wires),
            out=tuple(self.out),
            back=tuple(self.back),
            needs=tuple(dict.fromkeys(self.needs)),
        )


def base_colour(colour: str) -> str:
    """The base of a colour code: ``RD`` of ``RD/YE``."""
    return colour.split("/")[0]


def clip(pieces: tuple[Piece, ...], from_m: float, to_m: float) -> tuple[Piece, ...]:
    """Return the pieces of a run between two distances from its start."""
    cut: list[Piece] = []
    begin_m = 0.0
    for piece in pieces:
        end_m = begin_m + piece.length_m
        length_m = min(end_m, to_m) - max(begin_m, from_m)
        if length_m > 1e-9:
            passes = piece.passes if end_m <= to_m + 1e-9 else ""
            cut.append(replace(piece, length_m=length_m, passes=passes))
        begin_m = end_m
    return tuple(cut)


def piece_at(pieces: tuple[Piece, ...], at_m: float) -> Piece:
    """Return the piece that holds a distance from the run's start."""
    end_m = 0.0
    for piece in pieces:
        end_m += piece.length_m
        if at_m < end_m:
            return piece
    return pieces[-1]
