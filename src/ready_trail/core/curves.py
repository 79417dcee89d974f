"""Currents of all ports of a network at once: loads, diodes and converter inputs as arrays."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ready_trail.core.loads import (
    DIODE_OFF_S,
    DIODE_OHM,
    DIODE_V,
    FILAMENT_COLD_SHARE,
    FILAMENT_EXPONENT,
    filament_cold_ohm,
)
from ready_trail.core.netlist import ConverterInput, Diode, LoadElement

Floats = NDArray[np.float64]
Port = LoadElement | Diode | ConverterInput


@dataclass(frozen=True, slots=True, kw_only=True)
class Curves:
    """The ports by kind: places in the list of ports, and their figures.

    The same pieces as ``load_current_a`` and ``diode_current_a``, except that a constant power
    under its cut-in falls in a straight line to zero while it is iterated; who stays under it
    drops out.
    """

    slope_s: Floats
    filament: NDArray[np.intp]
    filament_a: Floats
    filament_v: Floats
    cold_s: Floats
    power: NDArray[np.intp]
    power_w: Floats
    cut_in_v: Floats
    constant: NDArray[np.intp]
    constant_a: Floats
    constant_v: Floats
    diode: NDArray[np.intp]
    converters: tuple[tuple[int, str], ...]
    drops_under_v: Floats
    """Voltage under which each port draws nothing; minus infinity where it always conducts."""

    @classmethod
    def of(cls, ports: Sequence[Port]) -> Curves:
        """Sort ports by kind."""
        slope = np.zeros(len(ports))
        under = np.full(len(ports), -np.inf)
        filament: list[tuple[float, ...]] = []
        power: list[tuple[float, ...]] = []
        constant: list[tuple[float, ...]] = []
        diode: list[int] = []
        converters: list[tuple[int, str]] = []
        for at, port in enumerate(ports):
            if isinstance(port, Diode):
                slope[at] = DIODE_OFF_S
                diode.append(at)
            elif isinstance(port, ConverterInput):
                converters.append((len(power), port.name))
                power.append((at, 0.0, port.cut_in_v))
                under[at] = port.cut_in_v
            elif port.load.model in ("resistive", "motor"):
                slope[at] = port.load.rated_a / port.load.rated_v
            elif port.load.model == "filament":
                load = port.load
                filament.append((at, load.rated_a, load.rated_v, 1.0 / filament_cold_ohm(load)))
            elif port.load.model == "constant_power":
                power.append((at, port.load.power_w, port.load.cut_in_v))
                under[at] = port.load.cut_in_v
            else:
                constant.append((at, port.load.rated_a, port.load.cut_in_v))
        lamp, watt, held = _columns(filament, 4), _columns(power, 3), _columns(constant, 3)
        return cls(
            slope_s=slope,
            filament=lamp[0].astype(np.intp),
            filament_a=lamp[1],
            filament_v=lamp[2],
            cold_s=lamp[3],
            power=watt[0].astype(np.intp),
            power_w=watt[1],
            cut_in_v=watt[2],
            constant=held[0].astype(np.intp),
            constant_a=held[1],
            constant_v=held[2],
            diode=np.array(diode, dtype=np.intp),
            converters=tuple(converters),
            drops_under_v=under,
        )

    def currents(
        self, port_v: Floats, taken_w: Mapping[str, float], off: NDArray[np.bool_]
    ) -> tuple[Floats, Floats]:
        """Return current and slope of every port at its voltage; those ``off`` draw nothing.

        ``taken_w`` is what each converter takes by its name. ([A], [A/V])
        """
        amps, slope = self.slope_s * port_v, self.slope_s.copy()
        if self.filament.size:
            at, v = self.filament, port_v[self.filament]
            size_v = np.abs(v)
            cold = size_v <= FILAMENT_COLD_SHARE * self.filament_v
            size_v = np.where(cold, 1.0, size_v)
            hot_a = self.filament_a * (size_v / self.filament_v) ** FILAMENT_EXPONENT
            amps[at] = np.where(cold, self.cold_s * v, np.copysign(hot_a, v))
            slope[at] = np.where(cold, self.cold_s, FILAMENT_EXPONENT * hot_a / size_v)
        if self.power.size:
            at, v, watts = self.power, port_v[self.power], self.power_w
            if self.converters:
                watts = watts.copy()
                for place, name in self.converters:
                    watts[place] = taken_w.get(name, 0.0)
            under = v < self.cut_in_v
            line = watts / self.cut_in_v**2
            safe_v = np.where(under, 1.0, v)
            amps[at] = np.where(under, line * v, watts / safe_v)
            slope[at] = np.where(under, line, -watts / safe_v**2)
        if self.constant.size:
            at, v = self.constant, port_v[self.constant]
            under = v < self.constant_v
            line = self.constant_a / self.constant_v
            amps[at] = np.where(under, line * np.maximum(0.0, v), self.constant_a)
            slope[at] = np.where(under & (v > 0), line, 0.0)
        if self.diode.size:
            over_v = port_v[self.diode] - DIODE_V
            live = over_v > 0
            amps[self.diode] += np.where(live, over_v / DIODE_OHM, 0.0)
            slope[self.diode] += np.where(live, 1 / DIODE_OHM, 0.0)
        amps[off] = 0.0
        slope[off] = 0.0
        return amps, slope


def _columns(rows: Sequence[tuple[float, ...]], width: int) -> Floats:
    return np.array(rows, dtype=np.float64).reshape(len(rows), width).T
