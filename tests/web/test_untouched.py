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
from web_support import Forms, kind_of

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
        wire_kind="cca",
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
                size="2.5",
                system="metric",
                wire_kind="cca",
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


NOT_TYPED = {"revision", "page", "then", "edit"}
PICKED = {"point_id", "circuit_id"}
"""Where a form asks which thing is meant, it shows nothing of it."""

# fmt: off
STATES = frozenset((
    "rename_job", "set_vehicle", "change_accessory", "set_circuit_use", "change_point",
    "change_switch", "set_run", "set_return", "set_feeder_use", "change_branch",
    "save_scenario", "set_day", "change_leg", "move_point", "rename_point", "set_kit",
    "record_found", "note_item", "note_fuse", "set_signal_limit", "set_joint", "move_branch",
    "start_at", "set_rest_start",
))
# fmt: on
"""Edits whose form shows what stands: sent as it is, it changes nothing."""


def pages(job: Job) -> Iterator[str]:
    """Each page with forms that show a part of the job."""
    yield from ("brief", "survey", "scenarios", "layout")
    yield from (f"accessories/{a.id}" for a in job.accessories)
    yield from (f"supply?point={p.id}" for p in job.points)
    yield from (f"supply?switch={quote(s.name)}" for s in job.switches)
    yield from (f"survey?change={i.id}" for i in job.survey.items)
    yield from (f"scenarios?edit={s.id}" for s in job.scenarios)
    if job.layout is not None:
        yield from (f"layout?leg={leg.id}" for leg in job.layout.legs[:5])
        yield from (f"layout?point={p.id}" for p in job.layout.points[:5])
    for c in job.circuits:
        yield f"circuits/{c.id}/run"
        if c.is_feeder or c in job.circuits[-2:]:
            yield f"circuits/{c.id}"
        if c.branches:
            yield f"circuits/{c.id}/branches"
        if c.kit is not None:
            yield f"build/found?circuit={c.id}"
        if c.found is not None:
            yield f"build/found?circuit={c.id}&what=found"


@pytest.mark.parametrize("name", ["full", "in feet", "typed", "Bluebell", "Kestrel"])
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
    sent: set[tuple[str, ...]] = set()
    kinds: set[str] = set()
    for page in pages(before):
        shown = Forms()
        shown.feed(client.get(f"/jobs/{number}/{page}").text)
        for _, form in shown.forms:
            kind = kind_of(form)
            is_new = form.get("item.id") == "new" or '"scenario_id": null' in form.get("edit", "")
            same = (*sorted(form), *sorted(form.values()))
            typed = set(form) - NOT_TYPED
            if kind not in STATES or is_new or same in sent or not typed or typed & PICKED:
                continue
            sent.add(same)
            kinds.add(kind)
            answer = client.post(f"/jobs/{number}/edit", data=form)
            after = jobs.get_job(conn, number).job
            changed = list(differences(before.model_dump(), after.model_dump()))
            assert changed == [], (page, kind, form)
            assert answer.status_code == 200, (page, kind, ERRORS.findall(answer.text), form)
    assert len(kinds) > 10, kinds


def differences(was: Any, now: Any, path: str = "") -> Iterator[str]:
    if isinstance(was, dict) and isinstance(now, dict):
        for key in {**was, **now}:
            yield from differences(was.get(key), now.get(key), f"{path}.{key}")
    elif isinstance(was, list | tuple) and isinstance(now, list | tuple) and len(was) == len(now):
        for n, (one, other) in enumerate(zip(was, now, strict=True)):
            yield from differences(one, other, f"{path}.{n}")
    elif was != now:
        yield f"{path}: {was!r} became {now!r}"
