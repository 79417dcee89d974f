"""Conductors, heat, fuses, relays and loads by hand-worked cases and at their limits."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ready_trail.core.conductors import (
    awg_area_mm2,
    bundle_ratio,
    conductor_temperature_c,
    wire_resistance_ohm,
)
from ready_trail.core.errors import OutOfRangeError
from ready_trail.core.fuses import opening_time_s, temperature_ratio
from ready_trail.core.heat import short_time_ampacity_a, withstand_constant
from ready_trail.core.loads import Load, design_current_a, load_current_a
from ready_trail.core.relays import coil_resistance_ohm, contact_rating_a, pull_in_v, with_coil_for
from support import CATALOGUE

BLADE = CATALOGUE.fuse_families["blade"]
MINI = CATALOGUE.relays["mini_no"]


@pytest.mark.parametrize(
    ("size", "area_mm2"), [("22", 0.326), ("10", 5.261), ("1/0", 53.49), ("4/0", 107.2)]
)
def test_awg_areas_are_those_of_the_standard(size: str, area_mm2: float) -> None:
    assert awg_area_mm2(size) == pytest.approx(area_mm2, rel=2e-3)


@pytest.mark.parametrize(
    ("loaded", "ratio"),
    [(1, 1.0), (2, 1.0), (3, 0.7), (4, 0.6), (6, 0.6), (7, 0.5), (24, 0.5), (25, 0.4), (60, 0.4)],
)
def test_bundle_steps(loaded: int, ratio: float) -> None:
    assert bundle_ratio(loaded) == ratio


def test_wire_at_full_ampacity_reaches_its_class() -> None:
    got = conductor_temperature_c(current_a=37.0, ampacity_a=37.0, insulation_c=125, ambient_c=70.0)
    assert got == pytest.approx(125.0)


@pytest.mark.parametrize("conductor_c", [-41.0, 251.0, math.nan])
def test_resistance_refuses_what_its_formula_does_not_cover(conductor_c: float) -> None:
    with pytest.raises(OutOfRangeError, match=r"conductor_c = .* is outside -40 to 250"):
        wire_resistance_ohm(r20_mohm_per_m=8.0, length_m=1.0, conductor_c=conductor_c)


def test_withstand_constant_of_pvc_from_70() -> None:
    # 226 * sqrt(ln(1 + 90 / 304.5)) = 115.0, by hand
    assert withstand_constant(insulation_c=105, start_c=70.0) == pytest.approx(115.0, abs=0.05)
    assert withstand_constant(insulation_c=105, start_c=160.0) == 0.0


def test_short_time_ampacity_falls_to_the_steady_one() -> None:
    common = {"ampacity_a": 100.0, "area_mm2": 10.0, "withstand_limit_a2s": 1e12}
    times = [short_time_ampacity_a(on_s=t, **common) for t in (1.0, 10.0, 100.0, 1e5)]
    assert times == sorted(times, reverse=True)
    assert times[-1] == pytest.approx(100.0)


@pytest.mark.parametrize(
    ("multiple", "slowest", "time_s"),
    [
        (1.0, True, math.inf),
        (1.2, True, math.inf),  # the gate at 1.10 has no slowest time
        (1.35, True, 600.0),
        (2.0, False, 0.15),
        (6.0, True, 0.1),
        (12.0, True, 0.025),  # constant I²t above the last gate
    ],
)
def test_blade_opening_times_at_its_gates(multiple: float, slowest: bool, time_s: float) -> None:
    assert opening_time_s(BLADE.gates, multiple, slowest=slowest) == pytest.approx(time_s)


@given(st.floats(1.36, 20), st.floats(1.001, 2), st.sampled_from(list(CATALOGUE.fuse_families)))
def test_more_current_never_opens_later(multiple: float, more: float, family: str) -> None:
    gates = CATALOGUE.fuse_families[family].gates
    for slowest in (True, False):
        at = opening_time_s(gates, multiple, slowest=slowest)
        assert opening_time_s(gates, multiple * more, slowest=slowest) <= at
    fastest = opening_time_s(gates, multiple, slowest=False)
    assert fastest <= opening_time_s(gates, multiple, slowest=True)


def test_fuse_holder_temperature() -> None:
    assert temperature_ratio(25.0) == 1.0
    assert temperature_ratio(70.0) == pytest.approx(0.9325)


def test_relay_contact_and_coil_at_temperature() -> None:
    assert contact_rating_a(MINI, 70.0) == pytest.approx(32.42, abs=0.01)
    assert contact_rating_a(MINI, 120.0) == 30.0
    assert contact_rating_a(MINI, -20.0) == 40.0
    assert pull_in_v(MINI, 70.0) == pytest.approx(9.47, abs=0.01)
    assert coil_resistance_ohm(MINI, 23.0) == 90.0


def test_24_volt_relay_is_rewound() -> None:
    relay = with_coil_for(MINI, 24.0)
    assert (relay.coil_ohm, relay.pull_in_v, relay.release_v) == (360.0, 16.0, 3.0)
    assert relay.max_v >= 32.0
    assert with_coil_for(MINI, 12.0) is MINI


@pytest.mark.parametrize(
    ("model", "voltage_v", "current_a"),
    [
        ("resistive", 6.0, 5.0),
        ("motor", 14.4, 12.0),
        ("filament", 12.0, 10.0),
        ("filament", 6.0, 10 * 0.5**0.55),
        ("constant_power", 10.0, 12.0),
        ("constant_power", 8.9, 0.0),
        ("electronics", 9.5, 10.0),
        ("electronics", 4.5, 5.0),
    ],
)
def test_load_models(model: str, voltage_v: float, current_a: float) -> None:
    load = Load(model=model, rated_a=10.0, rated_v=12.0)  # type: ignore[arg-type]
    assert load_current_a(load, voltage_v)[0] == pytest.approx(current_a)


@given(
    st.sampled_from(["resistive", "filament", "constant_power", "electronics"]),
    st.floats(0.7, 15.0).filter(lambda v: abs(v - 9.0) > 0.01 and abs(v - 0.6) > 0.01),
)
def test_slope_is_the_derivative(model: str, voltage_v: float) -> None:
    load = Load(model=model, rated_a=10.0, rated_v=12.0)  # type: ignore[arg-type]
    step = 1e-6
    rise = load_current_a(load, voltage_v + step)[0] - load_current_a(load, voltage_v - step)[0]
    assert load_current_a(load, voltage_v)[1] == pytest.approx(rise / (2 * step), abs=1e-3)


def test_design_current_of_constant_power_depends_on_the_engine() -> None:
    label = {"model": "constant_power", "watts": 280.0, "at_v": 13.5}
    running = design_current_a(engine_only=True, nominal_v=12, **label)  # type: ignore[arg-type]
    stopped = design_current_a(engine_only=False, nominal_v=12, **label)  # type: ignore[arg-type]
    on_24 = design_current_a(engine_only=False, nominal_v=24, **label)  # type: ignore[arg-type]
    assert (running, stopped, on_24) == pytest.approx((21.875, 23.333, 11.667), abs=1e-3)
