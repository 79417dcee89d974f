"""How far a build is: ticks are facts, steps follow from the design, this joins the two.

A tick holds what was asked when it was made, so that a change of the design can say what to do
again; a tick whose step is gone stays told, because something was done to the vehicle.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from ready_trail.core.build.cuts import Cut
from ready_trail.core.build.steps import Step

State = Literal["open", "done", "redo"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """A fact: an item was done, or taken back, at a time, perhaps by somebody.

    ``item`` is "step" or "cut" with the id; ``print`` the digest of what was asked, ``asked``
    its words.
    """

    item: str
    done: bool
    print: str
    asked: str = ""
    who: str = ""
    made_at: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """Where one step or cut stands. ``was`` are lines that were asked when it was done and are
    asked no more, ``now`` those that are new.
    """

    state: State
    who: str = ""
    made_at: str = ""
    was: tuple[str, ...] = ()
    now: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """Where every step and cut stands, and what was done that is asked no more."""

    steps: Mapping[str, Standing]
    cuts: Mapping[str, Standing]
    gone: tuple[Tick, ...] = ()
    minutes_left: float = 0.0

    @property
    def done(self) -> int:
        """How many steps are done."""
        return sum(s.state == "done" for s in self.steps.values())

    @property
    def redo(self) -> int:
        """How many steps are to be looked at again."""
        return sum(s.state == "redo" for s in self.steps.values())

    @property
    def ratio(self) -> float:
        """Share of the steps that is done; 0 without steps."""
        return self.done / len(self.steps) if self.steps else 0.0


def asked_of_step(step: Step) -> str:
    """Return what a step asks, as lines."""
    expects = (f"{what}: {value}" for what, value in step.expects)
    return "\n".join((step.title, *step.doing, *expects))


def asked_of_cut(cut: Cut) -> str:
    """Return what a cut asks, as one line."""
    count = f" ×{cut.conductor.count}" if cut.conductor.count > 1 else ""
    return f"{cut.label}: {cut.conductor.label} {cut.colour}, {cut.cut_m:.2f} m{count}"


def print_of_cut(cut: Cut) -> str:
    """Return a cut's digest: size, colour and length count."""
    return hashlib.sha256(asked_of_cut(cut).encode()).hexdigest()[:12]


def progress_of(steps: tuple[Step, ...], cuts: tuple[Cut, ...], ticks: Iterable[Tick]) -> Progress:
    """Return where a build stands; the newest tick of an item counts.

    A cutting step is done when all its pieces are.
    """
    newest: dict[str, Tick] = {}
    for tick in sorted(ticks, key=lambda t: t.made_at):
        newest[tick.item] = tick
    at_cuts = {
        c.label: _standing(newest.get(f"cut:{c.label}"), print_of_cut(c), asked_of_cut(c))
        for c in cuts
    }
    at_steps: dict[str, Standing] = {}
    for step in steps:
        found = _standing(newest.get(f"step:{step.id}"), step.print, asked_of_step(step))
        if step.cuts and found.state != "redo":
            states = {at_cuts[label].state for label in step.cuts if label in at_cuts}
            if states == {"done"}:
                found = Standing(state="done")
            elif "redo" in states:
                found = Standing(
                    state="redo",
                    now=tuple(
                        line
                        for label in step.cuts
                        if label in at_cuts
                        for line in at_cuts[label].now
                    ),
                )
        at_steps[step.id] = found
    known = {f"step:{s.id}" for s in steps} | {f"cut:{c.label}" for c in cuts}
    gone = tuple(t for item, t in newest.items() if t.done and item not in known)
    left = sum(s.minutes for s in steps if at_steps[s.id].state != "done")
    return Progress(steps=at_steps, cuts=at_cuts, gone=gone, minutes_left=left)


def _standing(tick: Tick | None, print_now: str, asked_now: str) -> Standing:
    if tick is None or not tick.done:
        return Standing(state="open")
    if tick.print == print_now:
        return Standing(state="done", who=tick.who, made_at=tick.made_at)
    before, now = tick.asked.splitlines(), asked_now.splitlines()
    return Standing(
        state="redo",
        who=tick.who,
        made_at=tick.made_at,
        was=tuple(line for line in before if line not in now),
        now=tuple(line for line in now if line not in before),
    )
