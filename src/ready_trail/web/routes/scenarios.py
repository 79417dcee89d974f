"""Stage Scenarios: what runs together, for how long, and what the battery makes of it."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.budget.proposals import may_propose
from ready_trail.core.edits import (
    Edit,
    ProposeScenarios,
    RemoveScenario,
    SaveScenario,
    SetDay,
    SetRunning,
)
from ready_trail.core.explain import explain_scenario
from ready_trail.core.job import Job
from ready_trail.store import jobs
from ready_trail.store.errors import NotFoundError
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, go, page
from ready_trail.web.fields import FieldsRefusedError, build, nested, rows
from ready_trail.web.pages.effects import job_effects_of
from ready_trail.web.pages.scenarios import ENGINE_WORDS, KEY_WORDS, LIGHT_WORDS, scenarios_of
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/scenarios", include_in_schema=False)


@router.get("")
def show_scenarios(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Show the matrix and the plot; ``edit`` opens one scenario, ``show`` plots one."""
    return _scenarios(request, conn, job_id, asked=dict(request.query_params))


def _scenarios(
    request: Request,
    conn: sqlite3.Connection,
    job_id: int,
    *,
    asked: Mapping[str, str],
    typed: Mapping[str, Any] | None = None,
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "scenarios")
    told = dict(errors or {})
    try:
        view = scenarios_of(shell, asked)
    except FieldsRefusedError as refused:
        told |= refused.errors
        status = 422
        view = scenarios_of(shell, {k: v for k, v in asked.items() if k in ("show", "edit")})
    opened = asked.get("edit", "")
    picked = next((s for s in shell.stored.job.scenarios if s.id == opened), None)
    shown = dict(typed or (picked.model_dump() if picked is not None else {}))
    return page(
        request,
        "pages/scenarios.html",
        status=status,
        shell=shell,
        view=view,
        picked=picked,
        adding=opened == "new",
        shown=shown,
        errors=told,
        key_words=KEY_WORDS,
        light_words=LIGHT_WORDS,
        engine_words=ENGINE_WORDS,
        names=_names(shell.stored.job),
        effects=job_effects_of(shell),
        may_propose=may_propose(shell.stored.job),
        day_rows=_day_rows(shell.stored.job, typed, opened),
    )


def _names(job: Job) -> dict[str, str]:
    return {a.id: a.name for a in job.accessories}


def _day_rows(job: Job, typed: Mapping[str, Any] | None, opened: str) -> list[dict[str, Any]]:
    """The parts of the day as typed or stored, with an empty line at the end."""
    kept: list[dict[str, Any]] = [p.model_dump() for p in job.day]
    if typed is not None and opened == "day":
        kept = rows(typed.get("parts"))
    return [*kept, {"scenario": "", "minutes": ""}]


@router.get("/{scenario_id}/why")
def explain_figures(request: Request, conn: Conn, job_id: JobId, scenario_id: str) -> Response:
    """Show how a scenario's battery figures came about."""
    shell = shell_of(jobs.get_job(conn, job_id), "scenarios")
    budget = shell.design.budget
    found = next((s for s in budget.scenarios if s.scenario.id == scenario_id), None)
    if found is None:
        raise NotFoundError("scenario", scenario_id)
    told = explain_scenario(found, budget, shell.stored.job.vehicle.charging_a)
    return page(
        request,
        "pages/why.html",
        shell=shell,
        heading=found.scenario.name,
        derivations=(told,),
        back=f"{shell.base}/scenarios?show={scenario_id}",
        pdf="",
    )


@router.post("/save")
def save_scenario(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Add a scenario or change one, with what runs in it."""
    typed = nested({k: v for k, v in form.items() if k not in ("revision", "back")})
    scenario_id = str(typed.pop("scenario_id", "") or "")
    try:
        document = {**typed, "scenario_id": scenario_id or None}
        document.pop("running", None)
        if scenario_id:
            document["running"] = _running(typed)
        commit(conn, job_id, seen_revision(form), build(SaveScenario, document))
    except FieldsRefusedError as refused:
        return _scenarios(
            request,
            conn,
            job_id,
            asked={"edit": scenario_id or "new"},
            typed=typed,
            errors=_plain(refused.errors),
            status=422,
        )
    job = jobs.get_job(conn, job_id).job
    at = scenario_id or (job.scenarios[-1].id if job.scenarios else "")
    return go(f"/jobs/{job_id}/scenarios?show={at}")


def _running(typed: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Lines in use, with shares typed in per cent."""
    found = []
    for at, row in enumerate(rows(typed.get("running"))):
        if str(row.get("on", "")).lower() != "true":
            continue
        text = str(row.get("percent") or "100")
        try:
            ratio = float(text.removesuffix("%")) / 100.0
        except ValueError:
            ratio = -1.0
        if not 0.01 <= ratio <= 1.0:
            message = "Type a share of the time from 1 to 100 per cent."
            raise FieldsRefusedError({f"running.{at}.percent": message})
        found.append(
            {"accessory": row.get("accessory"), "output": row.get("output", ""), "ratio": ratio}
        )
    return found


def _plain(errors: Mapping[str, str]) -> dict[str, str]:
    """A refusal of the scenario as a whole stands at the top of its form."""
    return {("form" if k == "running" else k): v for k, v in errors.items()}


@router.post("/day")
def save_day(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Put a day together; a line without a scenario is left out."""
    typed = nested({k: v for k, v in form.items() if k not in ("revision", "back")})
    try:
        parts = [r for r in rows(typed.get("parts")) if r.get("scenario")]
        stored = jobs.get_job(conn, job_id).job
        usual = {s.id: s.minutes for s in stored.scenarios}
        for row in parts:
            row["minutes"] = row.get("minutes") or usual.get(str(row["scenario"]), 60.0)
        commit(conn, job_id, seen_revision(form), build(SetDay, {"parts": parts}))
    except FieldsRefusedError as refused:
        return _scenarios(
            request,
            conn,
            job_id,
            asked={"edit": "day"},
            typed=typed,
            errors=refused.errors,
            status=422,
        )
    return go(f"/jobs/{job_id}/scenarios?show=day#course")


@router.post("/{part}")
def change_scenarios(
    request: Request, conn: Conn, job_id: JobId, part: str, form: Form
) -> Response:
    """Propose, remove, or press one cell of the matrix."""
    typed = nested({k: v for k, v in form.items() if k not in ("revision", "back")})
    show = str(typed.pop("show", "") or "")
    try:
        commit(conn, job_id, seen_revision(form), _edit(part, typed))
    except FieldsRefusedError as refused:
        return _scenarios(
            request, conn, job_id, asked={"show": show}, errors=_plain(refused.errors), status=422
        )
    return go(f"/jobs/{job_id}/scenarios{f'?show={show}' if show else ''}")


def _edit(part: str, typed: dict[str, Any]) -> Edit:
    if part == "propose":
        return ProposeScenarios()
    if part == "remove":
        return build(RemoveScenario, typed)
    if part == "running":
        return build(SetRunning, typed)
    raise FieldsRefusedError({"form": "There is no such change."})
