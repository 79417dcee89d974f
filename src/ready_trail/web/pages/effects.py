"""The effect of each way out, reckoned before it is pressed.

A page does not wait for effects: it shows those that are known, and asks for the others when it
is there (``js/effects.js``). They are reckoned in a process of their own,
a design for each, and kept.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from ready_trail.core.datasheet import catalogue_with
from ready_trail.core.design import CircuitDesign, Finding, design
from ready_trail.core.edits import EDIT_ADAPTER, apply
from ready_trail.core.effect import effect_of
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Job
from ready_trail.core.supply.starts import starts_for
from ready_trail.store import db, jobs
from ready_trail.web.designs import Figures, designed, digest_of
from ready_trail.web.pages.shell import Shell

MOST_EFFECTS, MOST_ON_REVIEW = 8, 24
ASKED_MOST = 6
"""Effects that a page asks for at a time: the first ones stand there soon."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Effects:
    """What is known of a page's ways out, and the edits that it should ask for."""

    told: dict[str, str]
    pending: tuple[str, ...]

    def get(self, edit: str) -> str:
        """Return the effect of an edit's document in words; empty where it is not known."""
        return self.told.get(edit, "")


NO_EFFECTS = Effects(told={}, pending=())


@lru_cache(maxsize=128)
def _told_of(_: bytes) -> dict[str, str]:
    """The effects that were told of one state, by the edit's document: filled as they are told."""
    return {}


def effects_of(shell: Shell, design: CircuitDesign) -> Effects:
    """Return what each way out on a sheet would change."""
    return _of(shell, design.findings, MOST_EFFECTS)


def job_effects_of(shell: Shell) -> Effects:
    """Return what each way out of the budget's findings would change."""
    return _of(shell, shell.design.findings, MOST_EFFECTS)


def effects_of_all(shell: Shell, findings: Iterable[Finding]) -> Effects:
    """Return what each way out of a list of findings would change, the worst first."""
    order = {"stop": 0, "caution": 1, "note": 2}
    return _of(shell, sorted(findings, key=lambda f: order[f.severity]), MOST_ON_REVIEW)


def _of(shell: Shell, findings: Iterable[Finding], most: int) -> Effects:
    edits = dict.fromkeys(
        action.edit.model_dump_json()
        for finding in findings
        if finding.is_open and finding.severity != "note"
        for action in finding.actions
    )
    told, pending = known_effects(shell.stored.job, shell.stored.figures, list(edits)[:most])
    return Effects(told=told, pending=tuple(pending))


def known_effects(
    job: Job, figures: Figures, edits: Iterable[str]
) -> tuple[dict[str, str], list[str]]:
    """Return the effects that are known of some edits' documents, and those that are not."""
    known, asked = _told_of(digest_of(job, figures)), list(edits)
    told = {edit: known[edit] for edit in asked if edit in known}
    return told, [edit for edit in asked if edit not in told]


def keep_effects(job: Job, figures: Figures, told: dict[str, str]) -> None:
    """Keep effects that were reckoned elsewhere."""
    _told_of(digest_of(job, figures)).update(told)


def reckon_effects(
    database: Path, job_id: int, revision: int, edits: tuple[str, ...]
) -> dict[str, str] | None:
    """Return what each edit would change, in words, by its document; None once the job moved on.

    One that would be refused is told so: it is possible where offered, or says why not. What is
    no edit at all is left out.
    """
    conn = db.connect(database)
    try:
        stored = jobs.get_job(conn, job_id)
    finally:
        conn.close()
    if stored.revision != revision:
        return None
    job, figures = stored.job, stored.figures
    try:
        before = designed(job, figures)
    except CoreError:  # then nothing is offered either
        return {}
    told: dict[str, str] = {}
    for document in edits:
        try:
            edit = EDIT_ADAPTER.validate_json(document)
        except (ValueError, RecursionError):
            continue
        try:
            after = design(apply(job, edit), catalogue_with(figures))
        except CoreError as error:
            told[document] = f"not possible now: {error}"
            continue
        told[document] = effect_of(before, after).words
    return told


def start_choices(shell: Shell, design: CircuitDesign) -> tuple[tuple[str, str, str], ...]:
    """Return the places where a circuit may start: value, words, and why."""
    start = design.circuit.start
    job = shell.stored.job
    name = next((p.name for p in job.points if p.id == start.point), "Battery")
    now = (f"{start.point}:{start.position}", f"{name} {start.position}".strip(), "where it starts")
    if not design.accessories:
        others = [("battery:", "Battery", "")]
        others += [(f"{p.id}:", p.name, "") for p in job.points if p.id != design.circuit.feeds]
    else:
        others = [
            (
                f"{s.channel.point}:{s.channel.position}",
                f"{s.name[:1].upper()}{s.name[1:]} {s.channel.position}".strip(),
                s.why,
            )
            for s in starts_for(job, design.accessories[0], shell.design.plan.currents)
        ]
        known = {value.split(":")[0] for value, _, _ in others}
        others += [
            (f"{p.id}:", p.name, "does not fit as stated") for p in job.points if p.id not in known
        ]
    return (now, *(o for o in others if o[0].split(":")[0] != start.point))
