"""Documents of version 1 are lifted: nothing stated is lost, and they can be designed."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from ready_trail.core.design import design
from ready_trail.core.job import Job
from ready_trail.formats.job_json import read_job, write_job
from support import CATALOGUE, OLD_DIR

OLD = sorted(OLD_DIR.glob("*.json"))


def old(path: Path) -> dict[str, Any]:
    return dict(json.loads(path.read_text(encoding="utf-8")))


def lifted(path: Path) -> Job:
    return read_job(path.read_bytes(), CATALOGUE)


@pytest.mark.parametrize("path", OLD, ids=lambda p: p.stem)
def test_an_old_file_keeps_all_that_was_stated(path: Path) -> None:
    before, job = old(path), lifted(path)
    assert job.schema_version == 2
    assert (job.name, job.place, job.note) == tuple(
        before.get(k, "") for k in ("name", "place", "note")
    )
    assert [a.name for a in job.accessories] == [a["name"] for a in before["accessories"]]
    for was, now in zip(before["accessories"], job.accessories, strict=True):
        use = was.get("use", {})
        assert now.use.switch == use.get("switch", "")
        assert now.use.key == use.get("key", "run")
        if use.get("switch"):
            switch = job.switch(use["switch"])
            assert switch is not None
            assert switch.rating_a == use.get("switch_a", 20.0)
            assert switch.guarded == use.get("guarded", False)
    own = {c["id"]: c for c in before["circuits"]}
    for circuit in job.circuits:
        if circuit.is_feeder:
            continue
        was = own[circuit.id]
        assert circuit.run_m == pytest.approx(sum(s["length_m"] for s in was["run"]))
        assert list(circuit.accessory_ids) == was["accessory_ids"]
        assert (circuit.start.point == "battery") == (was.get("source", "battery") == "battery")
        assert [a.code for a in circuit.accepted] == [a["code"] for a in was.get("accepted", [])]
    assert len([c for c in job.circuits if not c.is_feeder]) == len(own)
    assert len(job.survey.probes) == len(before.get("survey", {}).get("probes", []))


@pytest.mark.parametrize("path", OLD, ids=lambda p: p.stem)
def test_an_old_block_becomes_a_point_with_its_feeder(path: Path) -> None:
    before, job = old(path), lifted(path)
    block = before.get("block")
    blocks = [p for p in job.points if p.kind == "fuse_block"]
    assert len(blocks) == (1 if block else 0)
    if block:
        feeder = job.feeder_of(blocks[0].id)
        assert feeder is not None
        assert blocks[0].name == block["name"]
        assert feeder.run_m == pytest.approx(sum(s["length_m"] for s in block["feeder"]))


@pytest.mark.parametrize("path", OLD, ids=lambda p: p.stem)
def test_a_lifted_job_is_designed_and_saved_as_any_other(path: Path) -> None:
    job = lifted(path)
    made = design(job, CATALOGUE)
    assert len(made.circuits) == len(job.circuits)
    assert read_job(write_job(job).encode(), CATALOGUE) == job
