"""The keypad of a power module: it tells the module what to switch, over a cable of its own."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import ClassVar

from ready_trail.core.kinds.around import POINTS, Around, Part, slug
from ready_trail.core.kinds.base import DeviceKind


@dataclass(frozen=True, slots=True, kw_only=True)
class KeypadSpec(DeviceKind):
    """A keypad: its cable comes with it, and carries no load."""

    kind: str = "keypad"
    gets_label: ClassVar[bool] = True

    def terminals(self) -> tuple[str, ...]:
        """Return none: its cable plugs in."""
        return ()

    def parts(self, around: Around) -> Iterator[Part]:
        """Yield the keypad with its cable."""
        yield Part(
            key=f"keypad-{slug(around.title)}",
            group=POINTS,
            label=f"{around.title}, with its cable, as supplied",
        )
