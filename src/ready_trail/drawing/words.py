"""How figures read: sensible digits, and a unit that never breaks away from its figure."""

from __future__ import annotations

from ready_trail.core.wording import lower_first as lower_first

NBSP = "\u00a0"


def amps(value: float) -> str:
    """``21.9 A``; whole amps from 100 up."""
    return f"{value:.0f}{NBSP}A" if abs(value) >= 100 else f"{value:.1f}{NBSP}A"


def rating(value: float) -> str:
    """A standard rating: ``7.5 A``, ``30 A``."""
    return f"{value:g}{NBSP}A"


def volts(value: float) -> str:
    """``0.53 V``; what rounds to nothing has no sign."""
    return f"{0.0 if abs(value) < 0.005 else value:.2f}{NBSP}V"


def drop(value: float) -> str:
    """Millivolts below 0.1 V, else volts."""
    return f"{value * 1000:.0f}{NBSP}mV" if abs(value) < 0.0995 else f"{value:.2f}{NBSP}V"


def metres(value: float) -> str:
    """``0.30 m``, ``2.4 m``."""
    return f"{value:.2f}{NBSP}m" if value < 1 or round(value * 100) % 10 else f"{value:.1f}{NBSP}m"


def signed_amps(value: float) -> str:
    """``+12.0 A`` into a battery, ``−3.4 A`` out of it."""
    sign = "+" if value > 0.05 else "−" if value < -0.05 else ""
    return f"{sign}{amps(abs(value))}"


def duration(minutes: float) -> str:
    """``45 min``, ``2.5 h``, ``3 days``."""
    if minutes < 90:
        return f"{minutes:.0f}{NBSP}min"
    hours = minutes / 60.0
    return f"{round(hours, 1):g}{NBSP}h" if hours < 100 else f"{hours / 24:.0f}{NBSP}days"


def coord(value: float) -> str:
    """Two decimals, no trailing zeros, no minus zero: the same drawing, the same bytes."""
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def grams(mass_g: float) -> str:
    """Return copper as it is said: ``38 g``, ``1.20 kg``."""
    return f"{mass_g:.0f} g" if mass_g < 995 else f"{mass_g / 1000:.2f} kg"
