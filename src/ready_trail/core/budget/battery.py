"""A battery as energy: how fast it empties (Peukert), how much it takes back, what charges it.

Rules and their sources: docs/rules/battery.md.
"""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job.vehicle import Battery

HALF = 0.5
"""Below half a starter battery ages fast and may not start the engine in the cold (house)."""

FLAT = 0.2
"""Below this the engine may not start at all (house)."""

PEUKERT: dict[str, float] = {"flooded": 1.2, "agm": 1.1, "lithium": 1.03}
_ACCEPTS: dict[str, float] = {"flooded": 0.2, "agm": 0.3, "lithium": 0.5}
_TAPER_FROM: dict[str, float] = {"flooded": 0.8, "agm": 0.8, "lithium": 0.95}
_EFFICIENCY: dict[str, float] = {"flooded": 0.85, "agm": 0.9, "lithium": 0.98}
_FLOAT = 0.02
"""Share of the ampere-hours that a battery takes per hour while charging, the state from which
it takes less, what of it stays, and what it still takes when full (typical)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Bank:
    """A battery that accessories live on. ``capacity_ah`` is at the twenty-hour rate."""

    capacity_ah: float
    chemistry: str

    @property
    def twenty_hour_a(self) -> float:
        """The current that empties it in twenty hours. [A]"""
        return self.capacity_ah / 20.0

    def falls_per_h(self, current_a: float) -> float:
        """Return the share of its charge that a discharge takes in an hour. [1/h]

        Peukert above the twenty-hour rate; below it no bonus is given (reasoning).

        Examples
        --------
        >>> round(Bank(capacity_ah=100, chemistry="agm").falls_per_h(5.0), 3)
        0.05
        """
        if current_a <= 0:
            return 0.0
        ratio = max(1.0, current_a / self.twenty_hour_a)
        by_peukert: float = ratio ** (PEUKERT[self.chemistry] - 1.0)
        return current_a / self.capacity_ah * by_peukert

    def hours_to(self, current_a: float, *, used: float = HALF) -> float | None:
        """Return the hours in which a current takes that share of it; None for no current. [h]"""
        falls = self.falls_per_h(current_a)
        return used / falls if falls > 0 else None

    def accepts_a(self, state: float) -> float:
        """Return the most that it takes at a state of charge from 0 to 1. [A]"""
        most = _ACCEPTS[self.chemistry]
        start = _TAPER_FROM[self.chemistry]
        if state <= start:
            return most * self.capacity_ah
        left = max(0.0, (1.0 - state) / (1.0 - start))
        return (_FLOAT + (most - _FLOAT) * left) * self.capacity_ah

    def rises_per_h(self, current_a: float) -> float:
        """Return the share that charging with a current adds in an hour. [1/h]"""
        return _EFFICIENCY[self.chemistry] * current_a / self.capacity_ah


def bank_of(battery: Battery) -> Bank:
    """Return a stated battery as a bank."""
    return Bank(capacity_ah=battery.capacity_ah, chemistry=battery.chemistry)
