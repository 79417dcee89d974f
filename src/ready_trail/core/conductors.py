"""Conductors: size, resistance, ampacity and working temperature (docs/rules/wire.md)."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from ready_trail.core.errors import require_between

COPPER_ALPHA_20C_PER_K = 0.00393
"""Temperature coefficient of annealed copper at 20 °C, IEC 60028. [1/K]"""

COPPER_DENSITY_G_PER_CM3 = 8.89
_RESISTIVITY_MOHM_MM2_PER_M = 17.241  # IEC 60028 annealed copper
_STRANDING_LAY = 1.02
_TABLE_AMBIENT_C = 30.0
_BUNDLE_STEPS = ((2, 1.00), (3, 0.70), (6, 0.60), (24, 0.50))
_BUNDLE_LARGEST = 0.40

WireSystem = Literal["awg", "metric"]
WireKind = Literal["copper", "sae", "cca"]
UNKNOWN_CLASS_C = 80
"""What wire without a word on its jacket is taken for. [°C]"""
PAIR_LEAST_MM2 = 50.0
PAIR_SHARE_RATIO = 0.6
_PAIR_MARK = "2x"
_FORMULA_MOST_C = 250.0
HEAVY_MM2 = 13.0
"""From 6 AWG / 16 mm² on, cable is sold in red and black only (trade)."""
SAE_RESISTANCE_RATIO = 1.12
CCA_RESISTANCE_RATIO = 1.6
CCA_SIZES_LESS = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Conductor:
    """One stocked wire size with its resistance and its table ampacities."""

    system: str
    size: str
    area_mm2: float
    r20_mohm_per_m: float
    outside_diameter_mm: float
    ampacity_by_class_a: Mapping[int, float]
    source: str
    ampacity_source: str
    kind: WireKind = "copper"
    count: int = 1
    gauge_mm2: float = 0.0
    """What its gauge is called after, where it has less copper than that. [mm²]"""

    def __hash__(self) -> int:
        return hash((self.system, self.size, self.kind, self.area_mm2))

    @property
    def label(self) -> str:
        """The size as the trade writes it: ``10 AWG``, ``6 mm²``, ``10 SAE``, ``2 × 1/0 AWG``."""
        return f"{self.count} × {self.one_label}" if self.count > 1 else self.one_label

    @property
    def one_label(self) -> str:
        """The size of one cable of it."""
        one = self.size.removeprefix(_PAIR_MARK)
        unit = "AWG" if self.system == "awg" else "mm²"
        return f"{one} {_UNITS.get(self.kind, unit)}{_AFTER.get(self.kind, '')}"

    @property
    def is_plain(self) -> bool:
        """Whether it is one cable of copper by its area."""
        return self.kind not in _MADE_FROM and self.count == 1

    @property
    def lug_mm2(self) -> float:
        """What one terminal has to take: of a pair, each cable has its own lug. [mm²]"""
        return self.area_mm2 / self.count


def paired(conductor: Conductor) -> Conductor:
    """Return two equal cables in parallel, same length and lugs, as one conductor.

    They never share exactly: each must carry 60 % of the whole (trade).
    """
    return replace(
        conductor,
        size=f"{_PAIR_MARK}{conductor.size}",
        count=2,
        area_mm2=2 * conductor.area_mm2,
        r20_mohm_per_m=conductor.r20_mohm_per_m / 2,
        outside_diameter_mm=conductor.outside_diameter_mm * math.sqrt(2),
        ampacity_by_class_a={
            c: a / PAIR_SHARE_RATIO for c, a in conductor.ampacity_by_class_a.items()
        },
    )


def sold_as(system: WireSystem, wire_kind: WireKind) -> WireKind:
    """Return how wire of a system is sold: SAE gauges are of AWG's numbers alone."""
    return "copper" if (system, wire_kind) == ("metric", "sae") else wire_kind


def of_kind(sizes: tuple[Conductor, ...], kind: WireKind) -> tuple[Conductor, ...]:
    """Return the same sizes as sold in another kind of wire.

    SAE gauge is about 12 % smaller than AWG (metric sizes have no such twin). Copper-clad
    aluminium has 1.6 times the resistance and the ampacity of two sizes less, so the two
    thinnest sizes fall away.
    """
    make = _MADE_FROM.get(kind)
    return make(sizes) if make is not None else sizes


def _as_sae(sizes: tuple[Conductor, ...]) -> tuple[Conductor, ...]:
    return tuple(
        replace(
            c,
            kind="sae",
            area_mm2=c.area_mm2 / SAE_RESISTANCE_RATIO,
            r20_mohm_per_m=c.r20_mohm_per_m * SAE_RESISTANCE_RATIO,
            gauge_mm2=c.area_mm2,
        )
        if c.system == "awg"
        else c
        for c in sizes
    )


def _as_clad(sizes: tuple[Conductor, ...]) -> tuple[Conductor, ...]:
    return tuple(
        replace(
            c,
            kind="cca",
            r20_mohm_per_m=c.r20_mohm_per_m * CCA_RESISTANCE_RATIO,
            ampacity_by_class_a=thinner.ampacity_by_class_a,
        )
        for thinner, c in zip(sizes, sizes[CCA_SIZES_LESS:], strict=False)
    )


_MADE_FROM: Mapping[WireKind, Callable[[tuple[Conductor, ...]], tuple[Conductor, ...]]] = {
    "sae": _as_sae,
    "cca": _as_clad,
}
_UNITS: Mapping[WireKind, str] = {"sae": "SAE"}
_AFTER: Mapping[WireKind, str] = {"cca": " CCA"}


def awg_number(size: str) -> int:
    """Return the AWG number of a size label: ``"10"`` is 10, ``"1/0"`` 0, ``"4/0"`` -3."""
    return 1 - int(size.removesuffix("/0")) if size.endswith("/0") else int(size)


def awg_area_mm2(size: str) -> float:
    """Return the copper area of an AWG size. [mm²]

    Notes
    -----
    ``d = 0.127 mm * 92 ** ((36 - n) / 39)``; valid for 4/0 to 36.

    Source
    ------
    ASTM B258.

    Examples
    --------
    >>> round(awg_area_mm2("10"), 3)
    5.261
    """
    diameter_mm: float = 0.127 * 92.0 ** ((36 - awg_number(size)) / 39)
    return math.pi * diameter_mm**2 / 4


def copper_r20_mohm_per_m(area_mm2: float) -> float:
    """Return the resistance per length at 20 °C of stranded copper. [mΩ/m]

    Source
    ------
    Resistivity IEC 60028; stranding lay 2 %, house.
    """
    require_between("area_mm2", area_mm2, 0.01, 1000.0, "mm²")
    return _RESISTIVITY_MOHM_MM2_PER_M / area_mm2 * _STRANDING_LAY


def wire_resistance_ohm(*, r20_mohm_per_m: float, length_m: float, conductor_c: float) -> float:
    """Return the DC resistance of one copper wire at its working temperature. [Ω]

    Parameters
    ----------
    r20_mohm_per_m : float, 0.01 to 1000
        Resistance per length at 20 °C. [mΩ/m]
    length_m : float, 0 to 100
        Length of this wire alone; the return path is a wire of its own. [m]
    conductor_c : float, -40 to 250
        Temperature of the conductor, not of the air around it. [°C]

    Notes
    -----
    ``R = r20 * length * (1 + alpha * (T - 20))``; terminations are not included.

    Source
    ------
    alpha: IEC 60028. Limits of range: house.

    Examples
    --------
    >>> round(wire_resistance_ohm(r20_mohm_per_m=8.0, length_m=5.0, conductor_c=70.0), 5)
    0.04786
    """
    require_between("r20_mohm_per_m", r20_mohm_per_m, 0.01, 1000.0, "mΩ/m")
    require_between("length_m", length_m, 0.0, 100.0, "m")
    require_between("conductor_c", conductor_c, -40.0, 250.0, "°C")
    return r20_mohm_per_m * 1e-3 * length_m * resistance_ratio(conductor_c)


def resistance_ratio(conductor_c: float) -> float:
    """Return resistance at ``conductor_c`` over resistance at 20 °C. [ratio]"""
    return 1.0 + COPPER_ALPHA_20C_PER_K * (conductor_c - 20.0)


LIGHTLY_LOADED_RATIO = 0.30
"""A conductor that carries at most this share of its single-wire ampacity counts as unloaded."""


def ambient_ratio(*, insulation_c: float, ambient_c: float) -> float:
    """Return k_amb, the ampacity left at this ambient; 0 means: may not be used there.

    Source
    ------
    Heat balance of the 30 °C table: ``sqrt((T_max - T_amb) / (T_max - 30))``.
    """
    return math.sqrt(max(0.0, insulation_c - ambient_c) / (insulation_c - _TABLE_AMBIENT_C))


def bundle_ratio(loaded_conductors: int) -> float:
    """Return k_bundle for the number of loaded conductors that share a loom. [ratio]

    Source
    ------
    Bundling table after ABYC E-11: 1-2 1.00, 3 0.70, 4-6 0.60, 7-24 0.50, 25 and more 0.40.
    """
    for most, ratio in _BUNDLE_STEPS:
        if loaded_conductors <= most:
            return ratio
    return _BUNDLE_LARGEST


def ampacity_a(
    conductor: Conductor, *, insulation_c: int, ambient_c: float, loaded_conductors: int
) -> float:
    """Return the derated ampacity I_z of one wire on one segment. [A]

    Source
    ------
    Table of the conductor (ABYC E-11, ISO 10133), times k_amb and k_bundle.
    """
    return (
        conductor.ampacity_by_class_a[insulation_c]
        * ambient_ratio(insulation_c=insulation_c, ambient_c=ambient_c)
        * bundle_ratio(loaded_conductors)
    )


def conductor_temperature_c(
    *, current_a: float, ampacity_a: float, insulation_c: float, ambient_c: float
) -> float:
    """Return the working temperature; the rise is proportional to the current squared. [°C]

    Held at 250 °C, the end of the resistance formula's range: insulation is long gone there.
    """
    if ampacity_a <= 0.0:
        return float(insulation_c)
    rise_c = (insulation_c - ambient_c) * (current_a / ampacity_a) ** 2
    return min(_FORMULA_MOST_C, ambient_c + rise_c)
