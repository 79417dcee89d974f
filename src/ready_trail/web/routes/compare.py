"""Two states of a job side by side: revisions, an edit that is not kept, rules, a twin job."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass

from fastapi import APIRouter, Request
from pydantic import ValidationError
from starlette.responses import Response

from ready_trail.core.buy.quote import Cost
from ready_trail.core.design import Design
from ready_trail.core.difference import Difference, difference, have_something_in_common
from ready_trail.core.edits import EDIT_ADAPTER, SetHouseRules, apply
from ready_trail.core.errors import CoreError
from ready_trail.core.job import HouseRules, Job
from ready_trail.store import jobs, rule_sets
from ready_trail.store.errors import NotFoundError
from ready_trail.web.context import Conn, JobId, page
from ready_trail.web.designs import Figures, designed
from ready_trail.web.fields import FieldsRefusedError, whole_number
from ready_trail.web.pages.buy import change_in_cost
from ready_trail.web.pages.shell import Shell, shell_of

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Side:
    """One side of the comparison: how the address names it, its words, its job."""

    key: str
    label: str
    job: Job


@router.get("/compare")
def show_comparison(
    request: Request, conn: Conn, job_id: JobId, a: str = "", b: str = "now", edit: str = ""
) -> Response:
    """Compare two states. Each is a revision's number, ``now``, ``rules:name`` or ``job:number``;
    ``edit`` is a change that is tried on the second.
    """
    shell = shell_of(jobs.get_job(conn, job_id), "history")
    revisions = jobs.list_revisions(conn, job_id)
    errors: dict[str, str] = {}
    found: tuple[Side, Side] | None = None
    told: Difference | None = None
    cost: Cost | None = None
    try:
        parents = {r.number: r.parent for r in revisions}
        before = a or ("now" if edit else str(parents[shell.stored.revision] or "now"))
        found = (_side(conn, shell, before), _tried(_side(conn, shell, b), edit))
        if not have_something_in_common(found[0].job, found[1].job):
            raise FieldsRefusedError(
                {"b": "These two have no circuit, accessory or point in common."}
            )
        made = [_designed(side, shell.stored.figures) for side in found]
        told, cost = difference(*made), change_in_cost(conn, *made)
    except FieldsRefusedError as refused:
        errors = refused.errors
    others = [row for row in jobs.list_jobs(conn, archived=False) if row.job_id != job_id]
    return page(
        request,
        "pages/difference.html",
        status=422 if errors else 200,
        shell=shell,
        revisions=revisions,
        sides=found,
        effect=told,
        cost=cost,
        errors=errors,
        a=a,
        b=b,
        edit=edit,
        sets=rule_sets.list_sets(conn),
        others=others,
    )


def _side(conn: sqlite3.Connection, shell: Shell, key: str) -> Side:
    """Return one side as the address names it."""
    job = shell.stored.job
    if key in ("", "now"):
        return Side(key="now", label=f"now, revision {shell.stored.revision}", job=job)
    kind, _, name = key.partition(":")
    try:
        if kind == "rules":
            rules = HouseRules() if not name else rule_sets.get_set(conn, name).rules
            label = f"now, under the rules {name or 'that are usual'}"
            return Side(key=key, label=label, job=SetHouseRules(rules=rules).apply(job))
        number = whole_number(name if kind == "job" else key)
        if number is None or number < 1:
            raise FieldsRefusedError({"a": "Name a revision by its number."})
        if kind == "job":
            other = jobs.get_job(conn, number)
            return Side(key=key, label=f"the job {other.job.name}", job=other.job)
        revision, then = jobs.get_revision(conn, shell.stored.job_id, number)
        return Side(key=key, label=f"revision {number}: {revision.title}", job=then)
    except NotFoundError as error:
        raise FieldsRefusedError({"a": f"There is {error}."}) from error
    except ValidationError as error:
        raise FieldsRefusedError({"a": "That revision's document is damaged."}) from error
    except CoreError as error:
        raise FieldsRefusedError({"a": f"{error}."}) from error


def _tried(side: Side, edit: str) -> Side:
    """The same side with a change that is not kept."""
    if not edit:
        return side
    try:
        change = EDIT_ADAPTER.validate_python(json.loads(edit))
        after = apply(side.job, change)
    except (ValueError, RecursionError) as error:
        raise FieldsRefusedError({"edit": "This is not an edit."}) from error
    except CoreError as error:
        raise FieldsRefusedError({"edit": f"{error}."}) from error
    return Side(key=side.key, label=f"if: {change.title(side.job)}", job=after)


def _designed(side: Side, figures: Figures) -> Design:
    try:
        return designed(side.job, figures)
    except CoreError as error:
        raise FieldsRefusedError({"b": f"{side.label} cannot be designed: {error}."}) from error
