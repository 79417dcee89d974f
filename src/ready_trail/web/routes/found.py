"""Kits and circuits as found: their leads, what becomes of each, what to redo first."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.build.found import changed, redo_plan
from ready_trail.core.build.kit import kit_plans
from ready_trail.core.edits.found import typed_leads
from ready_trail.core.forms import mapping
from ready_trail.core.house import MATTERS
from ready_trail.core.job.kit import SPOT_WORDS
from ready_trail.store import jobs
from ready_trail.web.again import Refusal
from ready_trail.web.context import Conn, JobId, page
from ready_trail.web.pages.build import built
from ready_trail.web.pages.effects import effects_of_all
from ready_trail.web.pages.inspector import colour_choices
from ready_trail.web.pages.shell import shell_of

router = APIRouter(prefix="/jobs/{job_id}/build/found", include_in_schema=False)

SYSTEMS = ("awg", "metric")
_FIRST_LEADS = (
    {"name": "", "start": "fuse", "end": "relay_30"},
    {"name": "", "start": "relay_87", "end": "plus"},
    {"name": "", "start": "minus", "end": "earth"},
    {"name": "", "start": "switch_out", "end": "relay_86"},
)
"""What most kits have, to start from."""
_WIRE_KINDS = next(m for m in MATTERS if m.field == "wire_kind")


def _as_row(lead: Mapping[str, Any]) -> dict[str, Any]:
    """A lead as its row of the form has it."""
    wire = {"wire": f"{lead['system']} {lead['size']}"} if "size" in lead else {}
    return {**lead, **wire}


@router.get("")
def show_found(
    request: Request,
    conn: Conn,
    job_id: JobId,
    told: Refusal,
    circuit: str = "",
    what: str = "kit",
) -> Response:
    """Show every circuit with what is there of it; one may be open to be stated."""
    shell = shell_of(jobs.get_job(conn, job_id), "build")
    made, rules = shell.design, shell.design.job.rules
    opened = next((c for c in made.circuits if c.circuit.id == circuit), None)
    kit: Mapping[str, Any] = {"leads": _FIRST_LEADS, "relay": "mini_no"}
    record: Mapping[str, Any] = {}
    if opened is not None:
        kit = opened.circuit.kit.model_dump() if opened.circuit.kit else kit
        record = opened.circuit.found.model_dump() if opened.circuit.found else record
        if record.get("size"):
            record = {**record, "wire": f"{record['system'] or rules.system} {record['size']}"}
    typed = mapping(told.of("set_kit").get("kit"))
    redo = redo_plan(made)
    systems = sorted(SYSTEMS, key=lambda s: s != rules.system)  # the house's sizes first
    return page(
        request,
        "pages/build_found.html",
        shell=shell,
        tab="found",
        opened=opened,
        what="found" if what == "found" else "kit",
        plans=kit_plans(made, shell.catalogue),
        redo=redo,
        changed=changed(made),
        kit={**(typed or kit), "leads": typed_leads(typed) or [_as_row(x) for x in kit["leads"]]},
        record=mapping(told.of("record_found").get("found")) or record,
        errors={},
        spots=list(SPOT_WORDS.items()),
        cut_count=len(built(shell).cuts.there),
        effects=effects_of_all(shell, tuple(r.finding for r in redo)),
        wires=[
            (f"{c.system} {c.size}", c.label) for s in systems for c in shell.catalogue.wires(s)
        ],
        sold=[(s.value, s.label) for s in _WIRE_KINDS.sides],
        wire_kinds=[
            ("" if s.value == rules.wire_kind else s.value, s.label) for s in _WIRE_KINDS.sides
        ],
        colours=list(colour_choices(str(record.get("colour") or ""), shell.catalogue)),
        relays=[(k, r.label) for k, r in shell.catalogue.relays.items()],
        families=[(k, f.label) for k, f in shell.catalogue.fuse_families.items()],
    )
