"""Figures as people type them, everywhere alike."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ready_trail.core.measures import as_figure, feet_and_inches, measure_of


@pytest.mark.parametrize(
    ("name", "text", "value"),
    [
        ("run_m", "1.5 m", 1.5),
        ("run_m", "1,5", 1.5),
        ("run_m", "150 cm", 1.5),
        ("run_m", "1500mm", 1.5),
        ("run_m", "5′3″", 1.6002),
        ("run_m", "5' 3 1/2\"", 1.6129),
        ("run_m", "5'3", 1.6002),
        ("run_m", "7 ft 10 in", 2.3876),
        ("run_m", "7'10''", 2.3876),
        ("run_m", "3/4 in", 0.01905),
        ("run_m", '63 1/2"', 1.6129),
        ("run_m", "5.25 ft", 1.6002),
        ("run_m", "5 feet 3 inches", 1.6002),
        ("run.0.length_m", "1\u00a0m", 1.0),
        ("run_m", "5’ 3 1/2”", 1.6129),
        ("diameter_mm", '1"', 25.4),
        ("diameter_mm", "2.5 cm", 25),
        ("fuse_a", "10 A", 10),
        ("fuse_a", "500 mA", 0.5),
        ("standby_ma", "0,02 A", 20),
        ("watts", "280 W", 280),
        ("watts", "0,28 kW", 280),
        ("amps", "7.5 amps", 7.5),
        ("at_v", "13.5 V", 13.5),
        ("at_v", "13,5V", 13.5),
        ("ambient_c", "70 °C", 70),
        ("ambient_c", "158 °F", 70),
        ("ambient_c", "-4F", -20),
        ("ambient_c", "−20", -20),
        ("resistance_mohm", "0.005 Ω", 5),
        ("resistance_mohm", "5 mΩ", 5),
        ("torque_nm", "8 Nm", 8),
        ("torque_nm", "8 N·m", 8),
        ("torque_nm", "71 in-lb", 8.021935),
        ("capacity_ah", "95 Ah", 95),
        ("inrush_s", "200 ms", 0.2),
        ("minutes", "1.5 h", 90),
        ("inrush_x", "6×", 6),
        ("k_cont", "80 %", 0.8),
        ("outputs.0.value", "18 W", 18),
        ("z_m", '-3"', -0.0762),
        ("y_m", "-5' 3 1/2\"", -1.6129),
        ("y_m", '- 1 1/2"', -0.0381),
    ],
)
def test_what_is_taken(name: str, text: str, value: float) -> None:
    assert float(as_figure(name, text)) == pytest.approx(value, rel=1e-7)


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("run_m", "plenty"),
        ("run_m", "1.234,5 m"),
        ("run_m", "1 m 20"),
        ("run_m", "3\" 5'"),
        ("run_m", "5 A"),
        ("run_m", "5' 5'"),
        ("fuse_a", "10 V"),
        ("watts", "280 W 3 W"),
        ("run_m", ""),
        ("run_m", "1/0 in x"),
        ("ambient_c", "warm"),
        ("run_m", "1 2 m"),
        ("run_m", "--5"),
        ("name", "10 A"),
        ("note", "1,5"),
        ("run_m", "m"),
        ("run_m", "1e5 m"),
    ],
)
def test_what_is_left_for_the_field_to_refuse(name: str, text: str) -> None:
    assert as_figure(name, text) == text
    if measure_of(name) is not None:
        with pytest.raises(ValueError, match="could not convert"):
            float(as_figure(name, text))


@given(st.integers(-100 * 12 * 16, 100 * 12 * 16))
def test_a_tape_in_inches_is_read_back(sixteenths: int) -> None:
    length_m = sixteenths * 0.0254 / 16
    assert float(as_figure("run_m", feet_and_inches(length_m))) == pytest.approx(length_m, abs=1e-9)


@given(st.text(max_size=20))
def test_any_text_is_answered(text: str) -> None:
    for name in ("run_m", "fuse_a", "ambient_c", "minutes"):
        assert isinstance(as_figure(name, text), str)
