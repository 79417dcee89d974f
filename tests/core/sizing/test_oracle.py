"""Sizing against a second, plain program that reads the tables by itself and tries everything.

It shares no code with the core: rows come straight from the CSV files, formulas are written out
again, and the choice is a search over all families, ratings and sizes.
"""

from __future__ import annotations

import csv
import itertools
import math
from dataclasses import dataclass
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ready_trail.formats.size_json import SizeInputs, size_inputs
from support import CATALOGUE

TABLES = Path(__file__).parents[3] / "src" / "ready_trail" / "data" / "tables"
FAMILIES = ("blade", "large_blade", "strip_m5", "strip_m8")
RELAYS = ("mini_no", "maxi_no", "maxi80_no", "contactor_200", "contactor_400")
LIMIT = {"critical": 0.36, "normal": 0.60, "tolerant": 1.20}


def rows(table: str) -> list[dict[str, str]]:
    with (TABLES / f"{table}.csv").open(encoding="utf-8") as lines:
        return list(csv.DictReader(lines))


@dataclass
class Wire:
    size: str
    area: float
    r20: float
    table_a: dict[int, float]


def wires(system: str) -> list[Wire]:
    amps = {(r["system"], r["size"]): r for r in rows("ampacity")}
    found = []
    for row in rows("conductors"):
        if row["system"] != system:
            continue
        size = row["size"]
        if system == "awg":
            number = 1 - int(size[0]) if "/" in size else int(size)
            diameter = 0.127 * 92 ** ((36 - number) / 39)
            area = math.pi * diameter**2 / 4
            r20 = 17.241 / area * 1.02
        else:
            area, r20 = float(row["area_mm2"]), float(row["r20_mohm_per_m"])
        table = {c: float(amps[system, size][f"class_{c}"]) for c in (80, 90, 105, 125)}
        found.append(Wire(size, area, r20 / 1000, table))
    return found


def opening(gates: str, multiple: float, column: str) -> float:
    points = [
        (float(r["multiple"]), float(r[column])) for r in rows("fuse_gates") if r["gates"] == gates
    ]
    if multiple < points[0][0]:
        return math.inf
    for (m1, t1), (m2, t2) in itertools.pairwise(points):
        if m1 <= multiple < m2:
            if math.isinf(t1):
                return math.inf
            at = math.log(multiple / m1) / math.log(m2 / m1)
            return math.exp(math.log(t1) + at * (math.log(t2) - math.log(t1)))
    return points[-1][1] * (points[-1][0] / multiple) ** 2


FUSES = {r["family"]: r for r in rows("fuses")}
WIRES = {system: wires(system) for system in ("awg", "metric")}
CONTACTS = {r["key"]: r for r in rows("relays")}


def oracle(i: SizeInputs) -> dict[str, object]:
    """Every family in order, first with single sizes, then with pairs in parallel."""
    if i.ambient_c >= i.insulation_c:
        return {"ok": False}
    for count in (1, 2):
        for family in FAMILIES:
            rating = floor(i, family)
            found = behind(i, family, rating, count) if rating else None
            if found:
                return found
    return {"ok": False}


def share_of(i: SizeInputs) -> float:
    """What a load may use of a fuse, and of the wire where that is thinner."""
    return i.k_cont if i.duty == "continuous" else 1.0


def floor(i: SizeInputs, family: str) -> float | None:
    row = FUSES[family]
    k_load, k_temp = share_of(i), 1 - 0.0015 * (i.ambient_c - 25)
    for rating in sorted(float(r) for r in row["ratings_a"].split()):
        if rating > float(row["holder_a"]) or rating * k_load * k_temp < i.current_a:
            continue
        if i.inrush_x > 1 and i.inrush_s > 0:
            fastest = opening(row["gates"], i.inrush_x * i.current_a / rating, "fastest_s")
            if fastest < 1.5 * i.inrush_s:
                continue
        return rating
    return None


def behind(i: SizeInputs, family: str, rating: float, count: int) -> dict[str, object] | None:
    relay, contact = None, 0.0
    if i.relay == "auto":
        for key in RELAYS:
            cold, hot = (float(CONTACTS[key][f"contact_a_{t}c"]) for t in (23, 85))
            at = min(1.0, max(0.0, (i.ambient_c - 23) / 62))
            if cold + (hot - cold) * at >= rating:
                relay, contact = key, float(CONTACTS[key]["contact_mohm"]) / 1000
                break
        if relay is None:
            return None
    bundle = next(
        k
        for most, k in ((2, 1.0), (3, 0.7), (6, 0.6), (24, 0.5), (1e9, 0.4))
        if i.loaded_conductors <= most
    )
    k_amb = math.sqrt((i.insulation_c - i.ambient_c) / (i.insulation_c - 30))
    length = i.run_m + (i.run_m if i.return_kind == "wire" else i.return_m or 0.5)
    fixed = float(FUSES[family]["drop_at_rating_v"]) / rating + contact + 4 * 0.0003 + 2 * 0.0002
    fixed += 0.002 if i.return_kind == "chassis" else 0.0
    final = 250.0 if i.insulation_c == 125 else 160.0
    socket = float(FUSES[family]["socket_max_mm2"])
    thin = [w for w in WIRES[i.system] if w.area <= socket]
    pigtail = thin and thin[-1].table_a[i.insulation_c] * k_amb >= rating
    ratings = sorted(float(r) for r in FUSES[family]["ratings_a"].split())
    for wire in WIRES[i.system]:
        if count == 2 and wire.area < 50:
            continue
        share = 1.0 if count == 1 else 1 / 0.6
        i_z = wire.table_a[i.insulation_c] * k_amb * bundle * share
        warm = min(250, i.ambient_c + (i.insulation_c - i.ambient_c) * (i.current_a / i_z) ** 2)
        ohm = wire.r20 / count * length * (1 + 0.00393 * (warm - 20))
        short = 12.7 / (0.005 + ohm + fixed)
        slow = opening(FUSES[family]["gates"], short / rating, "slowest_s")
        heat = math.log(1 + (final - warm) / (234.5 + warm)) if warm < final else 0.0
        carries = rating <= i_z
        if not carries and i.ceiling == "next_size":
            carries = rating <= 1.5 * i_z and not [r for r in ratings if i_z <= r < rating]
            carries = carries and i.current_a <= share_of(i) * i_z
        holds = (
            carries
            and i.current_a * ohm <= LIMIT[i.drop_class]
            and wire.area * count >= 0.75
            and (wire.area <= socket or pigtail)
            and short**2 * slow <= 226**2 * heat * (wire.area * count) ** 2
            and short >= float(FUSES[family]["clearing_x"]) * rating
        )
        if holds:
            return {
                "ok": True,
                "fuse_a": rating,
                "family": family,
                "relay": relay,
                "size": wire.size if count == 1 else f"2x{wire.size}",
                "conductor_drop_v": i.current_a * ohm,
                "path_drop_v": i.current_a * (ohm + fixed),
                "far_short_a": short,
                "ampacity_a": i_z,
                "conductor_c": warm,
            }
    return None


@st.composite
def inputs(draw: st.DrawFn) -> SizeInputs:
    return SizeInputs(
        current_a=draw(st.floats(0.2, 260).map(lambda v: round(v, 2))),
        run_m=draw(st.floats(0.3, 15).map(lambda v: round(v, 2))),
        return_kind=draw(st.sampled_from(["chassis", "wire"])),
        return_m=draw(st.sampled_from([0.3, 0.5, 1.5])),
        drop_class=draw(st.sampled_from(["critical", "normal", "tolerant"])),
        duty=draw(st.sampled_from(["continuous", "intermittent", "momentary"])),
        ambient_c=draw(st.sampled_from([25.0, 50.0, 70.0, 85.0, 104.0])),
        loaded_conductors=draw(st.integers(1, 30)),
        insulation_c=draw(st.sampled_from([80, 90, 105, 125])),
        system=draw(st.sampled_from(["awg", "metric"])),
        inrush_x=draw(st.sampled_from([1.0, 3.0, 7.0])),
        inrush_s=draw(st.sampled_from([0.0, 0.01, 0.15])),
        k_cont=draw(st.sampled_from([0.7, 0.75, 0.8])),
        ceiling=draw(st.sampled_from(["strict", "next_size"])),
        relay=draw(st.sampled_from(["auto", None])),
    )


@given(inputs())
@settings(max_examples=250, deadline=None)
def test_a_second_program_comes_to_the_same_sizes(i: SizeInputs) -> None:
    want, got = oracle(i), size_inputs(i, CATALOGUE)
    assert got["ok"] == want["ok"]
    if not want["ok"]:
        return
    for name in ("fuse_a", "family", "relay", "size"):
        assert got[name] == want[name], name
    for name in ("conductor_drop_v", "path_drop_v", "far_short_a", "ampacity_a", "conductor_c"):
        assert got[name] == pytest.approx(want[name], rel=1e-3, abs=0.06), name
