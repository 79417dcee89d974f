"""The effect of each way out, reckoned before it is pressed."""

from __future__ import annotations

from collections.abc import Iterable

from ready_trail.core.design import CircuitDesign, Finding
from ready_trail.core.edits import apply
from ready_trail.core.effect import effect_of
from ready_trail.core.errors import CoreError
from ready_trail.core.supply.starts import starts_for
from ready_trail.web.context import designed
from ready_trail.web.pages.shell import Shell

MOST_EFFECTS, MOST_ON_REVIEW = 8, 24


def effects_of(shell: Shell, design: CircuitDesign) -> dict[str, str]:
    """Return what each way out on a sheet would change, by its edit."""
    return _told(shell, design.findings)


def job_effects_of(shell: Shell) -> dict[str, str]:
    """Return what each way out of the budget's findings would change, by its edit."""
    return _told(shell, shell.design.findings)


def effects_of_all(shell: Shell, findings: Iterable[Finding]) -> dict[str, str]:
    """Return what each way out of a list of findings would change, the worst first."""
    order = {"stop": 0, "caution": 1, "note": 2}
    return _told(shell, sorted(findings, key=lambda f: order[f.severity]), most=MOST_ON_REVIEW)


def _told(shell: Shell, findings: Iterable[Finding], most: int = MOST_EFFECTS) -> dict[str, str]:
    """One that would be refused is told so: it is possible where offered, or says why not."""
    told: dict[str, str] = {}
    for finding in findings:
        for action in finding.actions if finding.is_open and finding.severity != "note" else ():
            if len(told) >= most:
                return told
            edit = action.edit
            try:
                after = designed(apply(shell.stored.job, edit), shell.stored.figures)
            except CoreError as error:
                told[edit.model_dump_json()] = f"not possible now: {error}"
                continue
            told[edit.model_dump_json()] = effect_of(shell.design, after).words
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
            for s in starts_for(job, design.accessories[0])
        ]  # fmt: skip
        known = {value.split(":")[0] for value, _, _ in others}
        others += [(f"{p.id}:", p.name, "does not fit as stated") for p in job.points
                   if p.id not in known]  # fmt: skip
    return (now, *(o for o in others if o[0].split(":")[0] != start.point))
