"""Fuses and breakers: families, opening times, temperature, interrupting (docs/rules/fuse.md)."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import dataclass

AUTO_FAMILIES = ("blade", "large_blade", "strip_m5", "strip_m8")
"""Families that the program picks from by itself, in this order."""
HIGH_VOLT_FAMILIES = ("blade_58v", "strip_m5_58v", "strip_m8_58v", "post_block")
"""Families besides for systems above 24 V, whose charging voltage the others do not bear."""

_HOLDER_REFERENCE_C = 25.0
_RERATE_PER_K = 0.0015


@dataclass(frozen=True, slots=True, kw_only=True)
class Gate:
    """Fastest and slowest opening time at one multiple of the rating."""

    multiple: float
    fastest_s: float
    slowest_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FuseFamily:
    """One family of fuse or breaker with its holder.

    ``closes_again`` tells that it closes by itself after it has cooled.
    """

    family: str
    label: str
    ratings_a: tuple[float, ...]
    holder_a: float
    max_v: float
    interrupting_a: float
    drop_at_rating_v: float
    gates_name: str
    gates: tuple[Gate, ...]
    socket_max_mm2: float
    clearing_x: float
    mount: str
    colours: Mapping[float, str]
    closes_again: bool
    stud: str
    """What it is bolted to; empty where it sits in a socket, and ``holder_end`` says what."""
    holder_end: str
    source: str

    def __hash__(self) -> int:
        return hash((self.family, self.holder_a, self.drop_at_rating_v))

    @property
    def is_breaker(self) -> bool:
        """Whether it is a breaker: it opens without being used up."""
        return self.gates_name == "breaker"

    def resistance_ohm(self, rating_a: float) -> float:
        """Return the cold resistance: the family's drop at its rating over the rating. [Ω]"""
        return self.drop_at_rating_v / rating_a


def families_for(nominal_v: float) -> tuple[str, ...]:
    """Return the families to pick from on a system of that nominal voltage. [V]"""
    return AUTO_FAMILIES + (HIGH_VOLT_FAMILIES if nominal_v > 24.0 else ())


def temperature_ratio(holder_c: float) -> float:
    """Return k_temp, what is left of a fuse's rating at the holder's ambient. [ratio]"""
    return 1.0 - _RERATE_PER_K * (holder_c - _HOLDER_REFERENCE_C)


def opening_time_s(gates: tuple[Gate, ...], multiple: float, *, slowest: bool) -> float:
    """Return the fastest or slowest opening time at a multiple of the rating. [s]

    Parameters
    ----------
    gates : tuple of Gate, ordered by multiple
    multiple : float, > 0
        Current over rating. [ratio]
    slowest : bool
        True for the slowest fuse of the family, False for the fastest.

    Returns
    -------
    float
        Seconds; infinity where the fuse does not open.

    Notes
    -----
    Log-log between gates; below the first multiple with a finite time it does not open;
    above the last one the let-through I²t stays constant.

    Source
    ------
    Gates after ISO 8820-3 and -5.
    """
    at = bisect_right(gates, multiple, key=lambda gate: gate.multiple) - 1
    if at < 0:
        return math.inf
    low = gates[at]
    low_s = low.slowest_s if slowest else low.fastest_s
    if math.isinf(low_s):
        return math.inf
    if at == len(gates) - 1:
        return low_s * (low.multiple / multiple) ** 2
    high = gates[at + 1]
    high_s = high.slowest_s if slowest else high.fastest_s
    share = math.log(multiple / low.multiple) / math.log(high.multiple / low.multiple)
    return float(low_s * (high_s / low_s) ** share)


def prospective_short_a(*, open_circuit_v: float, ahead_ohm: float, fuse_ohm: float) -> float:
    """Return the short-circuit current just behind the fuse. [A]

    ``ahead_ohm`` is battery plus cable up to the fuse.
    """
    return open_circuit_v / (ahead_ohm + fuse_ohm)
