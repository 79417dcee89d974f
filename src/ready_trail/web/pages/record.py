"""What the record's pages show: hand-over, differences, care, visits of one vehicle."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, date, datetime

from ready_trail.core.build.progress import progress_of
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Job
from ready_trail.core.prove.progress import proof_of
from ready_trail.core.record.as_built import Difference, differences_of, is_of_layout, taken_over
from ready_trail.core.record.care import Due, due_of
from ready_trail.core.record.facts import HandedOver, Photographed, Visited
from ready_trail.core.record.hand_over import Handing, handing_of
from ready_trail.core.record.judged import why_not_left
from ready_trail.store import facts, jobs, readings, vehicles
from ready_trail.store.facts import StoredFact
from ready_trail.web.designs import designed
from ready_trail.web.pages.build import built, facts_of
from ready_trail.web.pages.prove import digest, known_plan
from ready_trail.web.pages.shell import Shell

LEFT_SHOWN = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class DifferenceRow:
    """A difference, whether a press can make it part of the design, and what stops it there.
    ``also`` names what such a press changes besides.
    """

    difference: Difference
    can_be_taken: bool
    is_of_layout: bool = False
    also: str = ""
    stop: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordView:
    """The record of one vehicle."""

    handings: tuple[Handing, ...]
    differences: tuple[DifferenceRow, ...]
    due: tuple[Due, ...]
    visits: tuple[Visited, ...]
    photos: tuple[Photographed, ...]
    facts: tuple[StoredFact, ...]
    today: date

    @property
    def handed(self) -> int:
        """Circuits that are handed over, and did not change since."""
        return sum(h.state == "handed" for h in self.handings)

    @property
    def open_differences(self) -> int:
        """Differences that nobody dealt with."""
        return sum(row.difference.is_open for row in self.differences)


def record_view(
    conn: sqlite3.Connection, shell: Shell, vehicle_id: int, *, with_handings: bool = True
) -> RecordView:
    """Return the record of one vehicle; where circuits stand takes every plan of tests, and may be
    left out.
    """
    stored = facts.list_facts(conn, vehicle_id)
    every = [f.fact for f in stored]
    differences = differences_of([(f.key, f.fact) for f in stored])
    stops = stops_by_key(shell, differences)
    return RecordView(
        handings=handings_of(conn, shell, vehicle_id, stored, differences, stops)
        if with_handings
        else (),
        differences=tuple(_row(d, shell, stops.get(d.key, "")) for d in differences),
        due=due_of(shell.design, every),
        visits=tuple(f for f in every if isinstance(f, Visited)),
        photos=tuple(f for f in every if isinstance(f, Photographed)),
        facts=stored,
        today=datetime.now(UTC).date(),
    )


def handings_of(
    conn: sqlite3.Connection,
    shell: Shell,
    vehicle_id: int,
    stored: Sequence[StoredFact],
    differences: Sequence[Difference],
    stops: Mapping[str, str],
) -> tuple[Handing, ...]:
    """Return where every circuit stands with its hand-over."""
    build = built(shell)
    progress = progress_of(build.steps, build.cuts.cuts, facts_of(conn, shell, vehicle_id))
    read = readings.list_readings(conn, vehicle_id)
    found = []
    for circuit in shell.design.circuits:
        own = circuit.circuit.id
        plan = known_plan(conn, shell, own)
        found.append(
            handing_of(
                circuit,
                digest=digest(shell, own),
                steps=build.steps,
                progress=progress,
                plan=plan,
                proof=proof_of(plan, read) if plan is not None else None,
                differences=differences,
                stops=stops,
                facts=[f.fact for f in stored],
            )
        )
    return tuple(found)


def subjects_of(shell: Shell) -> list[tuple[str, str]]:
    """Return everything that may differ in the vehicle: its subject, and it in words."""
    installed = shell.design.installation
    found = [
        (
            f"wire:{w.label}",
            f"{w.label}: {w.conductor.label} {w.colour}, {installed.words(w.start)} to "
            f"{installed.words(w.end)}",
        )
        for w in installed.wires.values()
    ]
    found += [(f"device:{d.ref}", f"{d.ref}: {d.title}") for d in installed.devices.values()]
    return found


def circuit_of(shell: Shell, subject: str) -> str:
    """Return the circuit that a subject belongs to, or an empty text."""
    sort, _, name = subject.partition(":")
    installed = shell.design.installation
    if sort == "circuit":
        return name
    if sort == "wire" and name in installed.wires:
        owner = installed.wires[name].owner
    elif sort == "device" and name in installed.devices:
        owner = installed.devices[name].owner
    else:
        return ""
    return owner if owner in shell.design.plan.circuits else ""


def stops_by_key(shell: Shell, differences: Sequence[Difference]) -> dict[str, str]:
    """Return what each difference that is so in the vehicle, open or left, may not stay for."""
    so = [d for d in differences if d.is_so]
    every = tuple(d.said for d in so)
    told = ((d.key, why_not_left(d.said, shell.design, shell.catalogue, every)) for d in so)
    return {key: why for key, why in told if why}


def _row(difference: Difference, shell: Shell, stop: str) -> DifferenceRow:
    job, after = shell.stored.job, None
    with suppress(CoreError, ValueError):
        edit = taken_over(difference.said, shell.design) if difference.is_open else None
        after = edit.apply(job) if edit is not None else None
    return DifferenceRow(
        difference=difference,
        can_be_taken=after is not None and after != job,
        is_of_layout=is_of_layout(difference.said, shell.design),
        also=_moved_besides(difference.said.circuit_id, job, after) if after is not None else "",
        stop=stop,
    )


def _moved_besides(own: str, before: Job, after: Job) -> str:
    """The circuit that changes places with another."""
    was = {c.id: c.start for c in before.circuits}
    moved = (c for c in after.circuits if c.id != own and c.start != was.get(c.id))
    return "; ".join(f"{c.name} goes to position {c.start.position}" for c in moved)


def care_of_all(conn: sqlite3.Connection) -> list[tuple[int, str, int, Due]]:
    """Return what is due on every vehicle: its job, its name, its id, and what. Only jobs with a
    hand-over are designed for that.
    """
    found = []
    for row in jobs.list_jobs(conn, archived=False):
        for vehicle in vehicles.list_vehicles(conn, row.job_id):
            every = [f.fact for f in facts.list_facts(conn, vehicle.vehicle_id)]
            if not any(isinstance(f, HandedOver) for f in every):
                continue
            stored = jobs.get_job(conn, row.job_id)
            made = designed(stored.job, stored.figures)
            name = vehicle.name or stored.job.name
            found += [(row.job_id, name, vehicle.vehicle_id, d) for d in due_of(made, every)]
    return found
