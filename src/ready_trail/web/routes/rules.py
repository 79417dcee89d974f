"""House rules: every question with both sides, what a change would do, sets of the shop."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import BaseModel, StringConstraints
from starlette.responses import Response

from ready_trail.core.buy.quote import Cost
from ready_trail.core.difference import Difference, difference
from ready_trail.core.edits import SetHouseRules
from ready_trail.core.errors import CoreError
from ready_trail.core.house import MATTERS, differences
from ready_trail.core.job import HouseRules
from ready_trail.core.measures import as_figure
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.rules_json import read_rules
from ready_trail.store import jobs, rule_sets
from ready_trail.store.db import transaction
from ready_trail.web.context import Conn, Form, JobId, Upload, go, page
from ready_trail.web.designs import designed
from ready_trail.web.fields import FieldsRefusedError, build
from ready_trail.web.pages.buy import change_in_cost
from ready_trail.web.pages.shell import Shell, shell_of

router = APIRouter(prefix="/jobs/{job_id}/rules", include_in_schema=False)


class _SetName(BaseModel):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]


@router.get("")
def show_rules(request: Request, conn: Conn, job_id: JobId) -> Response:
    """Show every question; ``try`` and ``value`` tell what one answer would change."""
    asked = request.query_params
    changes = {asked["try"]: asked.get("value", "")} if asked.get("try") else {}
    return _rules(request, conn, job_id, changes=changes, set_name=asked.get("set", ""))


def _rules(
    request: Request,
    conn: sqlite3.Connection,
    job_id: int,
    *,
    changes: Mapping[str, str] | None = None,
    set_name: str = "",
    errors: Mapping[str, str] | None = None,
    status: int = 200,
) -> Response:
    shell = shell_of(jobs.get_job(conn, job_id), "rules")
    told, tried = dict(errors or {}), None
    rules = shell.stored.job.rules
    try:
        if set_name:
            tried = rule_sets.get_set(conn, set_name).rules
        elif changes:
            tried = _changed(rules, changes)
    except FieldsRefusedError as refused:
        told |= refused.errors
        status = 422
    effect, cost, trouble = (None, None, "")
    if tried is not None and tried != rules:
        effect, cost, trouble = _effect(conn, shell, tried)
    groups: dict[str, list[object]] = {}
    for matter in MATTERS:
        groups.setdefault(matter.group, []).append(matter)
    return page(
        request,
        "pages/rules.html",
        status=status,
        shell=shell,
        rules=rules,
        groups=groups,
        tried=tried if tried != rules else None,
        effect=effect,
        cost=cost,
        trouble=trouble,
        errors=told,
        asked=dict(changes or {}),
        set_name=set_name,
        sets=rule_sets.list_sets(conn),
        tried_words=differences(rules, tried) if tried is not None else (),
    )


def _changed(rules: HouseRules, changes: Mapping[str, str]) -> HouseRules:
    for name in changes:
        if name not in HouseRules.model_fields:
            raise FieldsRefusedError({"form": "There is no such rule."})
    typed = {name: as_figure(name, value) for name, value in changes.items()}
    return build(HouseRules, {**rules.model_dump(), **typed})


def _effect(
    conn: sqlite3.Connection, shell: Shell, tried: HouseRules
) -> tuple[Difference | None, Cost | None, str]:
    """What the rules would change and what that costs, or why the job cannot be designed so."""
    try:
        after = SetHouseRules(rules=tried).apply(shell.stored.job)
        made = designed(after, shell.stored.figures)
    except CoreError as error:
        return None, None, str(error)
    return difference(shell.design, made), change_in_cost(conn, shell.design, made), ""


@router.post("/sets")
def change_sets(request: Request, conn: Conn, job_id: JobId, form: Form) -> Response:
    """Save the job's rules as a set, make one the shop's own, or take one away."""
    part = form.get("part", "")
    try:
        with transaction(conn):
            if part == "save":
                name = build(_SetName, {"name": form.get("name", "")}).name
                rule_sets.save_set(conn, name, jobs.get_job(conn, job_id).job.rules)
                if form.get("shops") == "true":
                    rule_sets.make_shops(conn, name)
            elif part == "shops":
                rule_sets.make_shops(conn, form.get("name", ""))
            elif part == "remove":
                rule_sets.delete_set(conn, form.get("name", ""))
            else:
                raise FieldsRefusedError({"form": "There is no such change."})
    except FieldsRefusedError as refused:
        return _rules(request, conn, job_id, errors=refused.errors, status=422)
    return go(f"/jobs/{job_id}/rules#sets")


@router.post("/file")
def take_file(request: Request, conn: Conn, job_id: JobId, data: Upload) -> Response:
    """Take rules from a file: shown first with what they change, kept by a press."""
    try:
        if not data:
            raise FileRefusedError("", "choose a file of house rules first")
        rules = read_rules(data)
    except FileRefusedError as refused:
        return _rules(
            request,
            conn,
            job_id,
            errors={"file": f"The file was not taken: {refused}."},
            status=422,
        )
    name = "From file"
    with transaction(conn):
        rule_sets.save_set(conn, name, rules)
    return go(f"/jobs/{job_id}/rules?set=From%20file#effect")
