"""Stage Survey: the probe sheet, filled while going around the vehicle."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.core.edits import AddSupply, PointDraft, RenamePoint
from ready_trail.core.forms import mapping
from ready_trail.core.job import Position
from ready_trail.core.job.accessory import KeyUse
from ready_trail.core.job.survey import PROBE_STATES, SurveyItem
from ready_trail.core.kinds.finds import FIND_KINDS
from ready_trail.core.kinds.points import POINT_KINDS
from ready_trail.core.states import SIGNALS
from ready_trail.core.survey import classify, room
from ready_trail.store import jobs
from ready_trail.web.again import Refusal
from ready_trail.web.context import Conn, JobId, page
from ready_trail.web.fields import nested, taken, texts
from ready_trail.web.pages.shell import Shell, shell_of

router = APIRouter(prefix="/jobs/{job_id}/survey", include_in_schema=False)

NEXT_LEVEL = {None: "lit", "lit": "dark", "dark": "dim", "dim": None}
SHEET_STATES = (*PROBE_STATES, "unplugged")


@router.get("")
def show_survey(
    request: Request, conn: Conn, job_id: JobId, told: Refusal, change: str = ""
) -> Response:
    """Show the probe sheet with a verdict for each wire.

    ``change`` names a find whose facts the form has; what is on the form already, under
    ``item.``, stays on it while another kind is chosen.
    """
    shell = shell_of(jobs.get_job(conn, job_id), "survey")
    job = shell.stored.job
    posted = taken((k, v) for k, v in request.query_params.multi_items() if k.startswith("item."))
    item = mapping((told.of("note_item") or nested(posted)).get("item"))
    if change and not item:
        item = next((i.model_dump() for i in job.survey.items if i.id == change), {})
    lines = []
    for probe in job.survey.probes:
        verdict = classify(
            probe,
            nominal_v=job.vehicle.nominal_v,
            supervised=job.vehicle.data_bus == "supervised",
        )
        values = {r.state: r.value for r in probe.readings}
        cells = []
        for state in SHEET_STATES:
            value = probe.unplugged if state == "unplugged" else values.get(state)  # type: ignore[call-overload]
            after = NEXT_LEVEL.get(value) if not isinstance(value, float) else None
            edit = {"kind": "read_probe", "probe_id": probe.id, "state": state, "value": after}
            cells.append((state, value, edit))
        known = any(k.probe_id == probe.id for k in job.survey.known)
        lines.append((probe, verdict, cells, known))
    return page(
        request,
        "pages/survey.html",
        shell=shell,
        rows=lines,
        finds=FIND_KINDS,
        items=[(item, room(item), uses_of(item, shell)) for item in job.survey.items],
        states=SHEET_STATES,
        signal_states=(*SIGNALS, "fuse_out"),
        told=told,
        item=texts(item) if told.typed or posted else item,
        errors={},
    )


def uses_of(item: SurveyItem, shell: Shell) -> tuple[tuple[str, str], ...]:
    """Return what a found thing can become elsewhere: words and the edit, so nothing is typed
    twice.
    """
    job = shell.stored.job
    taken = {p.item for p in job.points}
    found: list[tuple[str, str]] = []
    becomes = POINT_KINDS.get(item.is_a.becomes) if item.id not in taken else None
    knows = item.carries_a is not None or not item.is_a.serves_already
    if becomes is not None and becomes.taps_a_circuit and item.fuse_a and knows:
        draft = PointDraft(
            kind="tapped",
            name=item.name,
            zone="cabin",
            fuse_a=item.fuse_a,
            carries_a=item.carries_a or 0.0,
            item=item.id,
            key=_key_of(item),
        )
        found.append(("Start circuits here", AddSupply(point=draft).model_dump_json()))
    if becomes is not None and becomes.has_channel_bank and item.fuse_a:
        draft = PointDraft(
            kind="factory_bank",
            name=item.name,
            zone="cabin",
            key=_key_of(item),
            item=item.id,
            continuous_a=item.limit_a,
            positions=(Position(name="1", rating_a=item.fuse_a),),
        )
        found.append(("Make it a channel", AddSupply(point=draft).model_dump_json()))
    if becomes is not None and becomes.keeps_output_v and item.limit_a:
        volts = 12 if job.vehicle.nominal_v != 12 else 24
        draft = PointDraft.model_validate(
            {
                "kind": "converter",
                "name": item.name,
                "zone": "cabin",
                "output_v": volts,
                "output_a": item.limit_a,
                "item": item.id,
            }
        )
        found.append(("Make it a point", AddSupply(point=draft).model_dump_json()))
    if item.is_a.is_earth and item.drop_mv_at_10_a and job.layout is not None:
        mohm = round(item.drop_mv_at_10_a / 10, 2)
        named = [p for p in job.layout.points if p.is_earth and _alike(p.name, item.name)]
        for spot in named[:1]:
            if spot.measured_mohm != mohm:
                edit = RenamePoint(
                    point_id=spot.id, name=spot.name, is_earth=True, measured_mohm=mohm
                )
                found.append((f"Use its {mohm:g} mΩ at {spot.name}", edit.model_dump_json()))
    return tuple(found)


def _key_of(item: SurveyItem) -> KeyUse:
    """When a found feed is live: as stated, else as far as its note says so."""
    if item.key:
        return item.key
    note = f"{item.name} {item.note}".lower()
    if "constant" in note or "always" in note:
        return "always"
    return "accessory" if "accessory" in note else "run"


def _alike(a: str, b: str) -> bool:
    """Whether two names of earth points mean one place: what tells points apart must agree."""
    words_a, words_b = (set(name.lower().split()) - {"earth", "point", "the"} for name in (a, b))
    return bool(words_a) and (words_a == words_b or len(words_a & words_b) >= 2)
