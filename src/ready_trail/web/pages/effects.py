"""The effect of each way out, reckoned before it is pressed.

A page does not wait for effects: it shows those that are known, and asks for the others when it
is there (``js/effects.js``). They are reckoned in the helper, a design for each, and kept.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass

from ready_trail.core.design import CircuitDesign, Finding
from ready_trail.core.design.memo import without_words
from ready_trail.core.edits import EDIT_ADAPTER, apply
from ready_trail.core.effect import effect_of
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Job
from ready_trail.core.supply.starts import starts_for
from ready_trail.store.recent import Recent
from ready_trail.web.context import Figures, designed
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


_TOLD: Recent[tuple[bytes, str], str] = Recent(4_000)
"""Effects told before, by what they were reckoned from and the edit's document."""


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
    state = _state_of(job, figures)
    told: dict[str, str] = {}
    pending: list[str] = []
    for edit in edits:
        words = _TOLD.get((state, edit))
        if words is None:
            pending.append(edit)
        else:
            told[edit] = words
    return told, pending


def keep_effects(job: Job, figures: Figures, told: dict[str, str]) -> None:
    """Keep effects that were reckoned elsewhere."""
    state = _state_of(job, figures)
    for edit, words in told.items():
        _TOLD.keep((state, edit), words)


def _state_of(job: Job, figures: Figures) -> bytes:
    """Names everything that effects are reckoned from, in a few bytes."""
    text = without_words(job).model_dump_json() + repr(figures)
    return hashlib.blake2b(text.encode(), digest_size=16).digest()


def reckon_effects(job: Job, figures: Figures, edits: tuple[str, ...]) -> dict[str, str]:
    """Return what each edit would change, in words, by its document.

    One that would be refused is told so: it is possible where offered, or says why not. What is
    no edit at all is left out.
    """
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
            after = designed(apply(job, edit), figures, job)
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
            (f"{s.channel.point}:{s.channel.position}",
             f"{s.name[:1].upper()}{s.name[1:]} {s.channel.position}".strip(), s.why)
            for s in starts_for(job, design.accessories[0], shell.design.plan.currents)
        ]  # fmt: skip
        known = {value.split(":")[0] for value, _, _ in others}
        others += [(f"{p.id}:", p.name, "does not fit as stated") for p in job.points
                   if p.id not in known]  # fmt: skip
    return (now, *(o for o in others if o[0].split(":")[0] != start.point))
