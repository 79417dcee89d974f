"""What the build pages show: steps with where they stand, cuts, parts beside the shelf."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from ready_trail.core.build import STAGES, Build, Site, Stage, Step, build_of
from ready_trail.core.build.cuts import owner_name
from ready_trail.core.build.progress import (
    Progress,
    Standing,
    Tick,
    asked_of_cut,
    asked_of_step,
    print_of_cut,
    progress_of,
)
from ready_trail.core.buy.stock import Shopping, shopping
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import Design
from ready_trail.core.wording import lower_first
from ready_trail.drawing.where import Where, where_of
from ready_trail.store import shelf, ticks
from ready_trail.web.pages.shell import Shell


def built(shell: Shell) -> Build:
    """Return the build of a job's design; equal jobs share one."""
    return _built(shell.design, shell.catalogue)


@lru_cache(maxsize=8)
def _built(made: Design, catalogue: Catalogue) -> Build:
    return build_of(made, catalogue)


@dataclass(frozen=True, slots=True, kw_only=True)
class StepView:
    """A step with where it stands. ``waits`` are the titles of what it waits for and is open."""

    step: Step
    standing: Standing
    asked: str
    number: int
    waits: tuple[tuple[str, str], ...]
    is_next: bool
    cut_count: tuple[int, int] | None


@dataclass(frozen=True, slots=True, kw_only=True)
class StepGroup:
    """Steps under one heading: a stage, or a place."""

    key: str
    label: str
    why: str
    steps: tuple[StepView, ...]

    @property
    def done(self) -> int:
        """How many of them are done."""
        return sum(v.standing.state == "done" for v in self.steps)

    @property
    def state(self) -> str:
        """The mark of the group."""
        if any(v.standing.state == "redo" for v in self.steps):
            return "caution"
        return "ready" if self.done == len(self.steps) else "empty"


@dataclass(frozen=True, slots=True, kw_only=True)
class StepsView:
    """The page of steps."""

    build: Build
    progress: Progress
    groups: tuple[StepGroup, ...]
    by: str
    show: str
    where: Where | None

    @property
    def total(self) -> int:
        """How many steps there are."""
        return len(self.build.steps)


def steps_of(shell: Shell, facts: tuple[Tick, ...], *, by: str, show: str) -> StepsView:
    """Return the steps by stage or by place; ``show`` "open" leaves out what is done."""
    build = built(shell)
    progress = progress_of(build.steps, build.cuts.cuts, facts)
    views = _views(build, progress)
    groups = _by_place(views) if by == "place" else _by_stage(views)
    if show == "open":
        groups = tuple(
            StepGroup(
                key=g.key,
                label=g.label,
                why=g.why,
                steps=tuple(v for v in g.steps if v.standing.state != "done"),
            )
            for g in groups
        )
    return StepsView(
        build=build,
        progress=progress,
        groups=tuple(g for g in groups if g.steps),
        by=by,
        show=show,
        where=where_of(shell.design),
    )


def _views(build: Build, progress: Progress) -> tuple[StepView, ...]:
    titles = {s.id: s.title for s in build.steps}
    places = {s.id: s.site.name for s in build.steps}
    next_id = next((s.id for s in build.steps if progress.steps[s.id].state != "done"), "")
    found = []
    for number, step in enumerate(build.steps, start=1):
        waits = [
            (f"{titles[i]}, {lower_first(places[i])}", why)
            for i, why in step.after
            if progress.steps[i].state != "done"
        ]
        cuts = None
        if step.cuts:
            cuts = (sum(progress.cuts[c].state == "done" for c in step.cuts), len(step.cuts))
        found.append(
            StepView(
                step=step,
                standing=progress.steps[step.id],
                asked=asked_of_step(step),
                number=number,
                waits=tuple(waits),
                is_next=step.id == next_id,
                cut_count=cuts,
            )
        )
    return tuple(found)


def _by_stage(views: tuple[StepView, ...]) -> tuple[StepGroup, ...]:
    def of(stage: Stage) -> tuple[StepView, ...]:
        return tuple(v for v in views if v.step.stage == stage.key)

    return tuple(
        StepGroup(key=s.key, label=s.label, why=s.why, steps=of(s)) for s in STAGES if of(s)
    )


def _by_place(views: tuple[StepView, ...]) -> tuple[StepGroup, ...]:
    sites: dict[str, Site] = {}
    for view in views:
        sites.setdefault(view.step.site.key, view.step.site)
    return tuple(
        StepGroup(
            key=key.replace(":", "-"),
            label=site.name,
            why="",
            steps=tuple(v for v in views if v.step.site.key == key),
        )
        for key, site in sorted(sites.items(), key=lambda x: x[1].rank)
    )


def items_of(shell: Shell) -> dict[str, tuple[str, str]]:
    """Return every item that can be ticked now, with its digest and its words."""
    build = built(shell)
    found = {f"step:{s.id}": (s.print, asked_of_step(s)) for s in build.steps}
    found |= {f"cut:{c.label}": (print_of_cut(c), asked_of_cut(c)) for c in build.cuts.cuts}
    return found


def progress_json(shell: Shell, facts: tuple[Tick, ...]) -> dict[str, object]:
    """Return where everything stands, for the page to paint."""
    build = built(shell)
    progress = progress_of(build.steps, build.cuts.cuts, facts)
    states = {f"step:{i}": s.state for i, s in progress.steps.items()}
    states |= {f"cut:{i}": s.state for i, s in progress.cuts.items()}
    return {
        "states": states,
        "done": progress.done,
        "redo": progress.redo,
        "total": len(build.steps),
        "left": minutes_words(progress.minutes_left),
    }


def minutes_words(minutes: float) -> str:
    """Return minutes as people say them: 45 min, 3 h 20 min, 31 h."""
    whole = round(minutes / 5) * 5 if minutes > 60 else round(minutes)
    if whole < 60:
        return f"{whole} min"
    hours, rest = divmod(whole, 60)
    return f"{hours} h" if hours >= 10 or not rest else f"{hours} h {rest} min"


def facts_of(
    conn: sqlite3.Connection, shell: Shell, vehicle: int | None = None
) -> tuple[Tick, ...]:
    """Return the ticks of one of a job's vehicles, of its first by default."""
    return ticks.list_ticks(conn, shell.stored.job_id, vehicle)


def shopping_of(conn: sqlite3.Connection, shell: Shell) -> Shopping:
    """Return the job's parts beside the shelf."""
    build = built(shell)
    parts = {p.part.key: p.part for p in shelf.list_parts(conn)}
    return shopping(build.parts, parts, shelf.taken_for(conn, shell.stored.job_id))


def owner_words(shell: Shell, by_owner: Mapping[str, float]) -> list[tuple[str, float]]:
    """Return cost by circuit in words, dearest first; switches and points go by their name."""
    found: dict[str, float] = {}
    for owner, cost in by_owner.items():
        name = "Spares and reserve" if not owner else owner_name(owner, shell.design)
        found[name] = found.get(name, 0.0) + cost
    return sorted(((n, c) for n, c in found.items() if c > 0.005), key=lambda x: -x[1])
