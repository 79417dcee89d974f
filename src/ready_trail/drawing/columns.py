"""The shared horizontal axis: every wire piece and device on the way out gets a column.

It begins at the true source and passes every point. Lengths are compressed (square root), so
that a hand's width and five metres both show.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ready_trail.core.design import CircuitDesign
from ready_trail.core.installation import Device, Piece, Wire

_DEVICE_WIDTHS = {
    "fuse": 36.0,
    "breaker": 36.0,
    "relay": 48.0,
    "switch": 48.0,
    "reversing": 56.0,
    "isolator": 40.0,
    "passage": 36.0,
}
_POINT_WIDTH = 24.0
_LEAST_PIECE = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """One stretch of the axis: a piece of wire, or a device. Distances count from the source."""

    is_wire: bool
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
    installation = design.installation
    if installation is None:
        return []
    return [
        installation.wires[name] if name in installation.wires else installation.devices[name]
        for name in design.out
    ]


def lay_columns(design: CircuitDesign, x0: float, x1: float) -> tuple[Column, ...]:
    """Place the outward chain between two abscissae."""
    chain = outward_chain(design)
    devices = [item for item in chain if isinstance(item, Device)]
    pieces = [p for item in chain if isinstance(item, Wire) for p in item.pieces]
    fixed = sum(_device_width(item) for item in devices)
    least = min(_LEAST_PIECE, max(6.0, (x1 - x0 - fixed) / max(1, len(pieces))))
    squeeze = min(1.0, (x1 - x0 - least * len(pieces)) / fixed) if fixed else 1.0
    spare = x1 - x0 - fixed * squeeze - least * len(pieces)
    weight = sum(math.sqrt(p.length_m) for p in pieces) or 1.0
    columns: list[Column] = []
    x, along_m = x0, 0.0
    zone, ambient_c = _first_zone(pieces)
    for item in chain:
        if isinstance(item, Device):
            width = _device_width(item) * squeeze
            columns.append(
                Column(
                    is_wire=False,
                    ref=item.ref,
                    at=0,
                    x0=x,
                    x1=x + width,
                    zone=zone,
                    ambient_c=ambient_c,
                    run_from_m=along_m,
                    run_to_m=along_m,
                )
            )
            x += width
            continue
        for at, piece in enumerate(item.pieces):
            width = least + max(0.0, spare) * math.sqrt(piece.length_m) / weight
            zone, ambient_c = piece.zone, piece.ambient_c
            after_m = along_m + piece.length_m
            columns.append(
                Column(
                    is_wire=True,
                    ref=item.label,
                    at=at,
                    x0=x,
                    x1=x + width,
                    zone=zone,
                    ambient_c=ambient_c,
                    run_from_m=along_m,
                    run_to_m=after_m,
                )
            )
            x, along_m = x + width, after_m
    return tuple(columns)


def total_m(columns: tuple[Column, ...]) -> float:
    """Return the whole way from the source to the end. [m]"""
    return max((c.run_to_m for c in columns), default=0.0)


def x_at_run(columns: tuple[Column, ...], run_m: float, *, default: float) -> float:
    """Return the abscissa of a distance from the source."""
    x = default
    for column in columns:
        if column.is_wire and column.run_to_m > column.run_from_m:
            if run_m >= column.run_to_m - 1e-9:
                x = column.x1
            elif run_m >= column.run_from_m - 1e-9:
                share = (run_m - column.run_from_m) / (column.run_to_m - column.run_from_m)
                return column.x0 + share * (column.x1 - column.x0)
    return x


def _device_width(device: Device) -> float:
    return _DEVICE_WIDTHS.get(device.kind, _POINT_WIDTH)


def _first_zone(pieces: list[Piece]) -> tuple[str, float]:
    return (pieces[0].zone, pieces[0].ambient_c) if pieces else ("", 0.0)
