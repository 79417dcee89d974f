"""Letters of devices on drawings and prints, and what they stand for."""

from __future__ import annotations

from ready_trail.core.kinds.points import POINT_KINDS

_DEVICES = (
    ("BAT", "battery"),
    ("F", "fuse or breaker"),
    ("K", "relay"),
    ("S", "switch"),
    ("L", "accessory"),
    ("G", "earth point"),
    ("J", "joint"),
    ("D", "diode"),
    ("X", "controller of an accessory"),
    ("Q", "battery isolator"),
    ("HL", "headlamps"),
)


def device_letters() -> tuple[tuple[str, str], ...]:
    """Return each letter with what it stands for: devices first, then supply points."""
    found: dict[str, list[str]] = {letter: [words] for letter, words in _DEVICES}
    for kind in POINT_KINDS.values():
        words = found.setdefault(kind.letter, [])
        if kind.words not in words:
            words.append(kind.words)
    return tuple((letter, _either(words)) for letter, words in found.items())


def _either(words: list[str]) -> str:
    return ", ".join(words[:-1]) + (" or " if words[1:] else "") + words[-1]
