"""What somebody new hangs on any point without a second thought: each stop has a way out."""

from __future__ import annotations

import pytest

from ready_trail.core.catalogue import PointPreset
from ready_trail.core.design import design
from ready_trail.core.edits import AccessoryDraft, AddAccessory, StartAt, apply
from ready_trail.core.edits.point_preset import from_preset
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Channel, Job, Vehicle
from ready_trail.core.outcome import Finding
from support import CATALOGUE

LOADS_A = (22.0, 16.0, 9.0, 30.0)
CASES = [
    (preset, nominal_v)
    for preset in CATALOGUE.point_presets.values()
    for nominal_v in (12, 24)
    if preset.for_v in (None, nominal_v)
]


def heaped(preset: PointPreset, nominal_v: int) -> Job:
    """Everything starts at the one point that was added, whatever that is made for."""
    job = Job(name="New", vehicle=Vehicle(nominal_v=nominal_v))
    job = apply(job, from_preset(preset, job))
    point = job.points[-1].id
    for at, amps in enumerate(LOADS_A):
        load = AccessoryDraft(name=f"Load {at + 1}", amps=amps, at_v=1.1 * nominal_v)
        job = apply(job, AddAccessory(accessory=load))
        try:
            start = StartAt(circuit_id=job.circuits[-1].id, start=Channel(point=point))
            job = apply(job, start)
        except CoreError:
            continue  # refused with words: a point that gives nothing, or has no place left
    return job


def stops(job: Job) -> list[Finding]:
    made = design(job, CATALOGUE)
    found = [f for c in made.circuits for f in c.findings] + list(made.findings)
    return [f for f in found if f.severity == "stop" and not f.follows]


@pytest.mark.parametrize(("preset", "nominal_v"), CASES, ids=lambda x: getattr(x, "key", x))
def test_every_stop_has_a_way_out_that_leads_on(preset: PointPreset, nominal_v: int) -> None:
    job = heaped(preset, nominal_v)
    for finding in stops(job):
        assert finding.actions, (finding.code, finding.text)
    for _ in range(12):
        told = stops(job)
        if not told:
            return
        tries = [apply(job, a.edit) for f in told for a in f.actions]
        job = min(tries, key=lambda one: len(stops(one)))
    assert stops(job) == []
