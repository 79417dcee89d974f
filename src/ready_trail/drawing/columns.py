"""The shared horizontal axis: every wire piece and device on the way out gets a column.

Lengths are compressed (square root), so that a hand's width and five metres both show.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ready_trail.core.design import CircuitDesign
from ready_trail.core.wiring import Device, Piece, Wire

_DEVICE_WIDTHS = {"fuse": 36.0, "relay": 48.0, "switch": 48.0, "block": 24.0}
_LEAST_PIECE = 24.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """One stretch of the axis: a piece of wire, or a device."""

    kind: Literal["wire", "device"]
    ref: str
    at: int
    x0: float
    x1: float
    zone: str
    ambient_c: float
    run_from_m: float
    run_to_m: float

    @property
    def middle(self) -> float:
        """Middle of the column."""
        return (self.x0 + self.x1) / 2


def outward_chain(design: CircuitDesign) -> list[Wire | Device]:
    """Return wires and devices in the order in which current meets them on the way out."""
    wiring = design.wiring
    if wiring is None:
        return []
    devices = {d.ref: d for d in wiring.devices}
    chain: list[Wire | Device] = []
    for wire in wiring.wires:
        if wire.role not in ("feed", "power"):
            continue
        begin = devices[wire.start.device]
        if begin.kind != "battery" and begin not in chain:
            chain.append(begin)
        if wire.label.startswith("C") and design.feeder and not _has(chain, "block"):
            chain.append(devices["B1"])
        chain.append(wire)
    if design.feeder is not None:
        chain = _block_before_fuse(chain, devices["B1"])
    return chain


def lay_columns(design: CircuitDesign, x0: float, x1: float) -> tuple[Column, ...]:
    """Place the outward chain between two abscissae."""
    chain = outward_chain(design)
    fixed = sum(_device_width(item) for item in chain if isinstance(item, Device))
    pieces = [p for item in chain if isinstance(item, Wire) for p in item.pieces]
    spare = x1 - x0 - fixed - _LEAST_PIECE * len(pieces)
    weight = sum(math.sqrt(p.length_m) for p in pieces) or 1.0
    columns: list[Column] = []
    x, along_m = x0, 0.0
    zone, ambient_c = _first_zone(pieces)
    for item in chain:
        if isinstance(item, Device):
            width = _device_width(item)
            columns.append(
                Column(kind="device", ref=item.ref, at=0, x0=x, x1=x + width, zone=zone,
                       ambient_c=ambient_c, run_from_m=along_m, run_to_m=along_m)
            )  # fmt: skip
            x += width
            continue
        own = item.label.startswith("C")
        for at, piece in enumerate(item.pieces):
            width = _LEAST_PIECE + max(0.0, spare) * math.sqrt(piece.length_m) / weight
            zone, ambient_c = piece.zone, piece.ambient_c
            after_m = along_m + piece.length_m if own else along_m
            columns.append(
                Column(kind="wire", ref=item.label, at=at, x0=x, x1=x + width, zone=zone,
                       ambient_c=ambient_c, run_from_m=along_m, run_to_m=after_m)
            )  # fmt: skip
            x, along_m = x + width, after_m
    return tuple(columns)


def x_at_run(columns: tuple[Column, ...], run_m: float, *, default: float) -> float:
    """Return the abscissa of a distance along the circuit's own run."""
    x = default
    for column in columns:
        if column.kind == "wire" and column.run_to_m > column.run_from_m:
            if run_m >= column.run_to_m - 1e-9:
                x = column.x1
            elif run_m >= column.run_from_m - 1e-9:
                share = (run_m - column.run_from_m) / (column.run_to_m - column.run_from_m)
                return column.x0 + share * (column.x1 - column.x0)
    return x


def _device_width(device: Device) -> float:
    return _DEVICE_WIDTHS.get(device.kind, 40.0)


def _has(chain: list[Wire | Device], kind: str) -> bool:
    return any(isinstance(item, Device) and item.kind == kind for item in chain)


def _block_before_fuse(chain: list[Wire | Device], block: Device) -> list[Wire | Device]:
    """The branch fuse sits on the block's bus: put the block right before it."""
    rest = [item for item in chain if item is not block]
    at = next(
        i
        for i, item in enumerate(rest)
        if isinstance(item, Device) and item.kind == "fuse" and item.ref != "F0"
    )
    return [*rest[:at], block, *rest[at:]]


def _first_zone(pieces: list[Piece]) -> tuple[str, float]:
    return (pieces[0].zone, pieces[0].ambient_c) if pieces else ("", 0.0)
