"""Stage Scenarios: what runs together, for how long, and what the battery makes of it."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.budget.proposals import may_propose
from ready_trail.core.explain import explain_scenario
from ready_trail.core.forms import rows
from ready_trail.store import jobs
from ready_trail.store.errors import NotFoundError
from ready_trail.web.again import Refusal
from ready_trail.web.context import Conn, JobId, page
from ready_trail.web.fields import FieldsRefusedError
from ready_trail.web.pages.effects import job_effects_of
from ready_trail.web.pages.scenarios import ENGINE_WORDS, KEY_WORDS, LIGHT_WORDS, scenarios_of
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/scenarios", include_in_schema=False)


@router.get("")
def show_scenarios(request: Request, conn: Conn, job_id: JobId, told: Refusal) -> Response:
    """Show the matrix and the plot; ``edit`` opens one scenario, ``show`` plots one."""
    shell = shell_of(jobs.get_job(conn, job_id), "scenarios")
    asked = dict(request.query_params)
    errors: dict[str, str] = {}
    try:
        view = scenarios_of(shell, asked)
    except FieldsRefusedError as refused:
        errors = refused.errors
        view = scenarios_of(shell, {k: v for k, v in asked.items() if k in ("show", "edit")})
    job, opened = shell.stored.job, asked.get("edit", "")
    picked = next((s for s in job.scenarios if s.id == opened), None)
    typed = told.of("save_scenario")
    day: list[dict[str, Any]] = rows(told.of("set_day").get("parts"))
    return page(
        request,
        "pages/scenarios.html",
        status=422 if errors else 200,
        shell=shell,
        view=view,
        picked=picked,
        adding=opened == "new",
        shown=typed or (picked.model_dump() if picked is not None else {}),
        typed_shares={(r.get("accessory"), r.get("output")): r for r in rows(typed.get("running"))},
        errors=errors,
        key_words=KEY_WORDS,
        light_words=LIGHT_WORDS,
        engine_words=ENGINE_WORDS,
        names={a.id: a.name for a in job.accessories},
        effects=job_effects_of(shell),
        may_propose=may_propose(job),
        day_rows=[*(day or [p.model_dump() for p in job.day]), {"scenario": "", "minutes": ""}],
    )


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
