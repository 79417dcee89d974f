"""How figures read: sensible digits, and a unit that never breaks away from its figure."""

from __future__ import annotations

NBSP = "\u00a0"


def amps(value: float) -> str:
    """``21.9 A``; whole amps from 100 up."""
    return f"{value:.0f}{NBSP}A" if abs(value) >= 100 else f"{value:.1f}{NBSP}A"


def rating(value: float) -> str:
    """A standard rating: ``7.5 A``, ``30 A``."""
    return f"{value:g}{NBSP}A"


def volts(value: float) -> str:
    """``0.53 V``."""
    return f"{value:.2f}{NBSP}V"


def drop(value: float) -> str:
    """Millivolts below 0.1 V, else volts."""
    return f"{value * 1000:.0f}{NBSP}mV" if abs(value) < 0.0995 else f"{value:.2f}{NBSP}V"


def metres(value: float) -> str:
    """``0.30 m``, ``2.4 m``."""
    return f"{value:.2f}{NBSP}m" if value < 1 or round(value * 100) % 10 else f"{value:.1f}{NBSP}m"


def lower_first(text: str) -> str:
    """A label inside a sentence: ``standard blade (type C)``."""
    return text[:1].lower() + text[1:]


def coord(value: float) -> str:
    """Two decimals, no trailing zeros, no minus zero: the same drawing, the same bytes."""
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
