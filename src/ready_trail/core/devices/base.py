"""What a device is to the rest of the core: terminals, load path, elements, its own limit."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Protocol

from ready_trail.core.network import BATTERY_POSITIVE, GROUND, Element

BATTERY_DEVICE = "BAT"
At = Callable[[str], str]
"""Gives the node of one of the device's own terminals."""

_NODE_WORDS = {"+": "pos", "-": "neg"}  # signs mean something else in a SPICE deck


class DeviceSpec(Protocol):
    """One kind of device; a small module each beside this one."""

    @property
    def kind(self) -> str:
        """Name by which drawings look up its symbol."""

    def terminals(self) -> tuple[str, ...]:
        """Return the names of its terminals."""

    def passes(self) -> tuple[tuple[str, str], ...]:
        """Return the pairs of terminals that the load current takes."""

    def elements(self, at: At, name: str) -> Iterator[Element]:
        """Yield what it is electrically, between its terminals' nodes."""

    def limit_a(self, ambient_c: float) -> float | None:
        """Return the largest fuse ahead that it bears, or None where it sets no limit. [A]"""


def node_of(device: str, terminal: str) -> str:
    """Return the node of a terminal in the netlist."""
    if device == BATTERY_DEVICE:
        return BATTERY_POSITIVE if terminal == "+" else GROUND
    return f"{device}_{_NODE_WORDS.get(terminal, terminal)}".lower().replace(" ", "")
