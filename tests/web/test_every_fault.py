"""Every fault of a job is pressed; its state on the drawing shows what its line says."""

from __future__ import annotations

import json
import sqlite3
from contextlib import closing
from typing import Any
from urllib.parse import parse_qs

import pytest
from starlette.testclient import TestClient

from ready_trail.core.design import Design, design
from ready_trail.web.pages.faults import FaultLine, make_faults
from support import CATALOGUE, typed_demo

JOB = typed_demo()


def silent(done: int, total: int, words: str) -> None:
    """Nobody waits for it."""


def reckoned() -> bytes:
    """What the page's work gives for the job; it asks nothing of the database."""
    with closing(sqlite3.connect(":memory:")) as nothing:
        return make_faults(nothing, JOB.model_dump_json(), (), report=silent).data


@pytest.fixture(scope="module")
def lines() -> list[FaultLine]:
    made = json.loads(reckoned())
    return [FaultLine(**line) for line in made]


def asked(client: TestClient, address: str) -> dict[str, Any]:
    answer = client.get(f"/jobs/1/drawing/state?{address}")
    assert answer.status_code == 200, address
    return dict(answer.json())


def sound_of(address: str) -> str:
    """The same state with nothing broken."""
    kept = [part for part in address.split("&") if not part.startswith(("fault=", "blown="))]
    return "&".join(kept)


def seen_v(load: dict[str, Any]) -> float:
    """Volts of what runs; what draws nothing may float at any."""
    return float(load["v"]) if abs(load["a"]) > 0.01 else 0.0


def wrong(line: FaultLine, made: Design, now: dict[str, Any], before: dict[str, Any]) -> str:
    """What the drawing shows otherwise than the line says, or an empty text."""
    circuit = made.circuit(line.circuit)
    if now["chatter"] or now["trouble"] or line.seen == "unsure":
        return ""  # beside others that run it may be steady, or not
    own = {o.ref for o in circuit.planned.outlets}
    lit = {n: seen_v(x) for n, x in enumerate(now["loads"]) if x["ref"] in own}
    was = {n: seen_v(x) for n, x in enumerate(before["loads"]) if x["ref"] in own}
    worst = min((lit.get(r, 0.0) / v for r, v in was.items() if v > 1), default=1.0)
    match line.seen:
        case "dead":
            return "" if worst <= 0.25 else f"still has {worst:.0%}"
        case "weak":
            return "" if 0.15 < worst < 0.97 else f"has {worst:.0%}"
        case "part":
            still = any(lit.get(r, 0.0) > 0.5 * v for r, v in was.items() if v > 1)
            return "" if still and worst <= 0.25 else f"{lit}, before {was}"
        case "fuse":
            named = line.says.split(" ")[0]
            return "" if now["fuses"] or "vehicle's own" in line.says else f"{named} stays whole"
        case "burns":
            most = max(abs(a) for a in now["wires"].values())
            return "" if most > 2 * max(map(abs, before["wires"].values())) else f"{most:.0f} A"
        case "on":
            unasked = [x for x in now["loads"] if x["on"]]
            return "" if unasked or now["fuses"] else "nothing runs"
        case _:
            less = {r for r, v in was.items() if v > 1 and lit.get(r, 0.0) < 0.9 * v}
            return "" if not less else f"loses {less}"


def test_what_a_fitter_sees_is_what_the_list_says(
    client: TestClient, lines: list[FaultLine]
) -> None:
    made = design(JOB, CATALOGUE)
    sound: dict[str, dict[str, Any]] = {}
    told: list[tuple[str, str, str, str]] = []
    first = {(x.key, x.seen): x for x in reversed(lines)}
    feeders = {c.circuit.number for c in made.circuits if c.circuit.is_feeder}
    for line in list(first.values())[::3]:  # each kind of fault is among any third
        assert parse_qs(line.address)["fault"]
        bare = sound_of(line.address)
        if bare not in sound:
            sound[bare] = asked(client, bare)
        problem = wrong(line, made, asked(client, line.address), sound[bare])
        # on a feeder a line counts what usually runs beside it; the headlamps are seen themselves
        whole = f"{line.words} {line.says} "
        ahead = "Headlamps" in whole or any(
            f"{letter}{number}{end}" in whole
            for number in feeders
            for letter, end in (("C", "-"), ("K", " "), ("F", " "))
        )
        if problem and not ahead:
            told.append((line.circuit, line.words, line.seen, problem))
    assert len(first) > 500
    assert told == []
