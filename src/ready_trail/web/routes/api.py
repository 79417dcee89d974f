"""The JSON API: jobs, designs, sizing; described at ``/api/openapi.json``."""

from __future__ import annotations

import asyncio
import json
import sqlite3
from pathlib import Path
from typing import Annotated, Any
from uuid import uuid4

from fastapi import APIRouter, Body, HTTPException, Request
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import Design
from ready_trail.core.edits import AnyEdit
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Job, lifted
from ready_trail.core.references import unknown_references
from ready_trail.formats.design_json import circuit_to_json, design_to_json
from ready_trail.formats.job_json import job_schema
from ready_trail.formats.size_json import SizeInputs, size_inputs
from ready_trail.store import jobs, shelf, works
from ready_trail.store.db import transaction
from ready_trail.store.works import Work
from ready_trail.web.commit import commit
from ready_trail.web.context import Conn, JobId, Tables
from ready_trail.web.designs import designed
from ready_trail.web.importing import LARGE_BYTES, start_import

router = APIRouter(prefix="/api", tags=["jobs"])
_LOOK_S = 0.05


@router.get("/jobs")
def api_jobs(conn: Conn) -> list[dict[str, Any]]:
    """List the jobs that are not put aside."""
    return [
        {"job_id": r.job_id, "name": r.name, "revision": r.head, "circuits": r.circuits}
        for r in jobs.list_jobs(conn)
    ]


@router.post("/jobs", status_code=201)
async def api_new_job(
    request: Request, conn: Conn, tables: Tables, document: dict[str, Any]
) -> dict[str, int]:
    """Store a job document as a new job; one of an older version is lifted.

    A large one is read and designed beside the server; the answer waits for that.
    """
    data = await run_in_threadpool(lambda: json.dumps(document).encode())
    if len(data) < LARGE_BYTES:
        return await run_in_threadpool(_new_job, conn, tables, document)
    figures = await run_in_threadpool(shelf.list_figures, conn)
    database: Path = request.app.state.database
    begun = await run_in_threadpool(start_import, database, data, figures, uuid4().hex)
    work: Work | None = begun
    while work is not None and work.state == "running":
        await asyncio.sleep(_LOOK_S)
        work = await run_in_threadpool(works.get, conn, begun.work_id)
    if work is None or work.state != "done":
        raise HTTPException(422, work.words if work is not None else "It is no longer known.")
    return {"job_id": int(work.leads_to.rpartition("/")[2]), "revision": 1}


def _new_job(
    conn: sqlite3.Connection, tables: Catalogue, document: dict[str, Any]
) -> dict[str, int]:
    job = _job(document)
    for path, message in unknown_references(job, tables):
        raise HTTPException(422, f"{path}: {message}")
    try:
        designed(job, shelf.list_figures(conn))
    except CoreError as error:
        raise HTTPException(422, f"this cannot be designed: {error}") from error
    with transaction(conn):
        job_id = jobs.create_job(conn, job, kind="api", title=f"Start job {job.name}")
    return {"job_id": job_id, "revision": 1}


def _job(document: dict[str, Any]) -> Job:
    try:
        return Job.model_validate_json(json.dumps(lifted(document)))
    except ValidationError as error:
        detail = [{"loc": list(d["loc"]), "msg": d["msg"]} for d in error.errors()[:50]]
        raise HTTPException(422, detail) from error
    except (AttributeError, TypeError) as error:
        raise HTTPException(422, "the document's parts are not what they should be") from error


@router.get("/jobs/{job_id}")
def api_job(conn: Conn, job_id: JobId) -> dict[str, Any]:
    """Return a job's document at its head."""
    stored = jobs.get_job(conn, job_id)
    return {"revision": stored.revision, "job": stored.job.model_dump(mode="json")}


@router.post("/jobs/{job_id}/edits")
def api_edit(
    conn: Conn, job_id: JobId, revision: int, edit: Annotated[AnyEdit, Body()]
) -> dict[str, int]:
    """Apply a typed edit on the revision that the caller saw; 409 when the job moved on."""
    commit(conn, job_id, revision, edit)
    return {"revision": jobs.get_job(conn, job_id).revision}


@router.get("/jobs/{job_id}/design")
def api_design(conn: Conn, job_id: JobId) -> dict[str, Any]:
    """Return what follows from a job."""
    return design_to_json(_designed(conn, job_id))


@router.get("/jobs/{job_id}/circuits/{circuit_id}")
def api_circuit(conn: Conn, job_id: JobId, circuit_id: str) -> dict[str, Any]:
    """Return one circuit's design."""
    made = _designed(conn, job_id)
    for circuit in made.circuits:
        if circuit.circuit.id == circuit_id:
            return circuit_to_json(circuit, made)
    raise HTTPException(404, f"this job has no circuit {circuit_id}")


def _designed(conn: sqlite3.Connection, job_id: int) -> Design:
    stored = jobs.get_job(conn, job_id)
    return designed(stored.job, stored.figures)


@router.post("/size")
def api_size(tables: Tables, inputs: SizeInputs) -> dict[str, Any]:
    """Size one circuit without a job."""
    return size_inputs(inputs, tables)


@router.get("/job-schema")
def api_schema() -> dict[str, Any]:
    """Return the JSON Schema of a job file."""
    return job_schema()
