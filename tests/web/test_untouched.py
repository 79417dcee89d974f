"""A form that is opened and saved untouched changes nothing, whatever the job holds."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import quote

import pytest
from starlette.testclient import TestClient

from ready_trail.core.edits import RecordFound, SetKit, apply
from ready_trail.core.job import (
    Battery,
    HouseRules,
    InputWire,
    Job,
    Point,
    Position,
    Switch,
)
from ready_trail.core.job.accessory import Mode, Post
from ready_trail.core.job.kit import Found, Kit, KitLead
from ready_trail.store import jobs
from ready_trail.store.db import connect, transaction
from support import demo, typed_demo
from web_support import form_of

ERRORS = re.compile(r"(?:help is-danger|is-light)[^>]*>([^<]*)")


HOUSE_IN_FEET = HouseRules(
    lengths="feet", temperatures="fahrenheit", earth_word="ground", paper="letter"
)


def full() -> Job:
    """A job in which everything that its forms ask for is stated, and nothing as is usual."""
    job = demo()
    bar = job.accessories[0]
    stated = bar.model_copy(
        update={
            "low_v": 9.0,
            "high_v": 32.0,
            "fuse_max_a": 40.0,
            "min_v": 10.0,
            "standby_ma": 2.0,
            "tail_m": 0.3,
            "torque_nm": 7.5,
            "lead_bears_a": 33.0,
            "tail_end": "ring",
            "ends": "fork",
            "stud": "M6",
            "takes_mm2": 6.0,
            "remote": "wired",
            "remote_keyed": True,
            "field_posts": True,
            "posts": (Post(name="F1", lead="red", torque_nm=8.0, hold=False),),
            "kit": True,
            "memory_wire": True,
            "lead": "RD",
            "lead_minus": "BK",
            "note": "By hand",
            "idle_a": 3.0,
            "inputs": (
                InputWire(
                    name="Dim",
                    active="low",
                    must_float=True,
                    ends="cap",
                    rests="open",
                    diode=True,
                    lead="GN",
                    powers_w=6.0,
                ),
            ),
            "modes": (Mode(name="Soft", wires=("Dim",), how="tap", seconds=2.0, most_s=4.0),),
        }
    )
    box = Point(
        id="p90",
        number=90,
        kind="battery",
        name="House",
        zone="load_bed",
        output_a=60.0,
        battery=Battery(capacity_ah=90, resistance_mohm=6, chemistry="lithium", torque_nm=9),
        torque_nm=4.5,
        total_a=80.0,
        note="Under the bed",
        positions=(
            Position(name="1", legend="Fridge", rating_a=20.0),
            Position(name="2", legend="", spare=True),
        ),
    )
    parting = Point(
        id="p91",
        number=91,
        kind="disconnect",
        name="Main off",
        total_a=250.0,
        surge_a=600.0,
        cranking_a=900.0,
        pulse_switch="Main off",
        vehicle_behind=False,
        upright=True,
        ends="ring",
        ends_stud="M10",
        takes_mm2=95.0,
    )
    pulse = Switch(
        name="Main off", number=92, throws=2, momentary=True, guarded=True, lamp="both", rating_a=5
    )
    module = Point(
        id="p93",
        number=93,
        kind="power_panel",
        name="Module",
        channel_ratio=0.7,
        positions=(
            Position(
                name="1",
                rating_a=20.0,
                mode="momentary",
                memory="remembers",
                wakes="run",
                lead="BN",
                cavity="A3",
            ),
        ),
    )
    vehicle = job.vehicle.model_copy(
        update={
            "starting_a": 450.0,
            "strap_a": 200.0,
            "second_strap": True,
            "base_a": 31.0,
            "parked_ma": 20.0,
            "battery": job.vehicle.battery.model_copy(update={"torque_nm": 8.0, "stud": "M6"}),
        }
    )
    panelled = tuple(
        s.model_copy(update={"surge_a": 77.0, "lamp": "side"}) if n == 0 else s
        for n, s in enumerate(job.switches)
    )
    job = job.model_copy(
        update={
            "accessories": (stated, *job.accessories[1:]),
            "points": (*job.points, box, parting, module),
            "vehicle": vehicle,
            "switches": (*panelled, pulse),
        }
    )
    lead = KitLead(
        name="Red",
        start="fuse",
        end="relay_30",
        system="metric",
        size="4",
        length_m=1.2,
        fuse_a=30,
        insulation_c=90,
    )
    kitted, found = [c.id for c in job.circuits if not c.is_feeder][:2]
    job = apply(job, SetKit(circuit_id=kitted, kit=Kit(leads=(lead,), relay="mini_no", note="Old")))
    return apply(
        job,
        RecordFound(
            circuit_id=found,
            found=Found(
                size="14",
                fuse_a=20,
                fit_fuse=True,
                family="blade",
                relay="mini_no",
                colour="BU/WH",
                insulation_c=80,
                note="Seen",
            ),
        ),
    )


def pages(job: Job, base: str) -> Iterator[tuple[str, str]]:
    """Each form that shows a part of the job: where it stands, and where it is sent."""
    yield f"{base}/brief", f"{base}/brief/name"
    yield f"{base}/brief", f"{base}/brief/vehicle"
    for a in job.accessories:
        yield f"{base}/accessories/{a.id}", f"{base}/accessories"
    for p in job.points:
        yield f"{base}/supply?point={p.id}", f"{base}/supply/points/{p.id}"
    for s in job.switches:
        yield f"{base}/supply?switch={quote(s.name)}", f"{base}/supply/switches"
    for c in job.circuits:
        if job.layout is None and not c.branches:
            yield f"{base}/circuits/{c.id}/run", f"{base}/circuits/{c.id}/run"
        if c.kit is not None:
            yield f"{base}/build/found?circuit={c.id}", f"{base}/build/found/kit"
        if c.found is not None:
            yield f"{base}/build/found?circuit={c.id}&what=found", f"{base}/build/found/record"


@pytest.mark.parametrize("name", ["full", "in feet", "typed", "Marmot", "Bluebell", "Kestrel"])
def test_what_is_saved_untouched_stays_as_it_was(
    client: TestClient, database: Path, name: str
) -> None:
    before = (
        full() if name in ("full", "in feet") else typed_demo() if name == "typed" else demo(name)
    )
    if name == "in feet":
        before = before.model_copy(update={"rules": HOUSE_IN_FEET})
    conn = connect(database)
    with transaction(conn):
        number = jobs.create_job(conn, before, kind="demo", title="Demo job")
    lost: list[tuple[str, list[str]]] = []
    for page, action in pages(before, f"/jobs/{number}"):
        answer = client.post(action, data=form_of(client, page, action))
        assert answer.status_code == 200, (
            page,
            ERRORS.findall(answer.text),
            form_of(client, page, action),
        )
        after = jobs.get_job(conn, number).job
        if after != before:
            lost.append((page, list(differences(before.model_dump(), after.model_dump()))))
        before = after
    assert lost == []


def differences(was: Any, now: Any, path: str = "") -> Iterator[str]:
    if isinstance(was, dict) and isinstance(now, dict):
        for key in {**was, **now}:
            yield from differences(was.get(key), now.get(key), f"{path}.{key}")
    elif isinstance(was, list | tuple) and isinstance(now, list | tuple) and len(was) == len(now):
        for n, (one, other) in enumerate(zip(was, now, strict=True)):
            yield from differences(one, other, f"{path}.{n}")
    elif was != now:
        yield f"{path}: {was!r} became {now!r}"
