"""The one address that every edit of a job is posted to, a press and a form alike.

``edit`` has what the page knows of it; every other field is named by its path in the edit and
laid over that. ``page`` is the page that the form stands on: it is shown again with what was
refused. ``then`` is where to go on to instead, ``NEW`` in it is what the edit added.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter
from starlette.responses import Response

from ready_trail.core.edits import KINDS, Edit
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import merged
from ready_trail.core.job import Job
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.limits import require_modest_text
from ready_trail.store import jobs
from ready_trail.web.again import Again, Told
from ready_trail.web.commit import commit, seen_revision
from ready_trail.web.context import Conn, Form, JobId, go
from ready_trail.web.fields import FieldsRefusedError, build, nested

router = APIRouter(prefix="/jobs/{job_id}", include_in_schema=False)

_NOT_OF_IT = ("revision", "page", "then", "edit")


@router.get("/edit")
def show_job(job_id: JobId) -> Response:
    """Send on to the job: a browser that was shown a refused form here reloads it."""
    return go(f"/jobs/{job_id}")


@router.post("/edit")
def post_edit(conn: Conn, job_id: JobId, form: Form) -> Response:
    """Make one edit, or show its page again with what was refused."""
    known = _known(form)
    typed = nested({k: v for k, v in form.items() if k not in _NOT_OF_IT})
    page = own_page(form.get("page", ""), job_id)
    seen = seen_revision(form)
    try:
        edit = edit_of(jobs.get_job(conn, job_id).job, known, typed)
        after = commit(conn, job_id, seen, edit)
    except FieldsRefusedError as refused:
        if not page:
            raise
        errors = {_field_of(path, form): words for path, words in refused.errors.items()}
        document = merged(known, typed)
        return Again(page, Told(edit=str(document.get("kind", "")), typed=document, errors=errors))
    then = own_page(form.get("then", ""), job_id) or page or f"/jobs/{job_id}"
    added = edit.added(after)
    return go(then.replace("NEW", added) if added else then)


def _field_of(path: str, form: Mapping[str, str]) -> str:
    """The form's field that a refusal is of: the job's rules name it by its place in the job, and
    an edit may name it without the thing that it belongs to.
    """
    parts = path.split(".")
    for at in range(len(parts)):
        tail = ".".join(parts[at:])
        if tail in form:
            return tail
    ending = [name for name in form if name.endswith(f".{parts[-1]}")]
    return ending[0] if len(ending) == 1 else path


def edit_of(job: Job, known: Mapping[str, Any], typed: Mapping[str, Any]) -> Edit:
    """Return the edit of a press, which the page knows whole, or of a form, which the edit reads.

    Raises FieldsRefusedError by field path.
    """
    document = merged(known, typed)
    change = KINDS.get(str(document.get("kind", "")))
    if change is None:
        raise FieldsRefusedError({"form": "There is no such change."})
    try:
        return build(change, change.of_form(job, document) if typed else document)
    except EditRefusedError as error:
        raise FieldsRefusedError({error.field: error.message}) from error


def _known(form: Mapping[str, str]) -> dict[str, Any]:
    """What the page knew of the edit."""
    try:
        text = form.get("edit", "{}")
        require_modest_text(text.encode("utf-8", "replace"))
        document = json.loads(text)
    except (ValueError, RecursionError, FileRefusedError) as error:
        raise FieldsRefusedError({"edit": "This is not an edit."}) from error
    if not isinstance(document, dict):
        raise FieldsRefusedError({"edit": "This is not an edit."})
    return document


def own_page(url: str, job_id: int) -> str:
    """Return an address to go to if it is one of this job, else nothing."""
    return url if url.startswith(f"/jobs/{job_id}/") and "\\" not in url else ""
