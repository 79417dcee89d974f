"""If it does not work: what each circuit's faults look like, and where to look first."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence

from ready_trail.formats.paper import Block, Paper, Section, Table, Title, Words
from ready_trail.web.pages.faults import SYMPTOM_WORDS, FaultGroup, FaultLine, grouped
from ready_trail.web.papers.common import Printing, paper_of

_TITLE = "If it does not work"
_RUNGS = ("bad0.05", "bad1", "bad1000")
"""Joints of one resistance each: on paper a bad joint stands for them."""
_MOST_SIGNS = 260
"""Causes in one cell of the table; more are counted."""


def faults_paper(printed: Printing, data: bytes | None) -> Paper:
    """Return the whole list as a document of its own."""
    return paper_of(printed, "faults", faults_sections(printed, data))


def faults_sections(printed: Printing, data: bytes | None) -> list[Section]:
    """Return the list by circuit; without what was worked out, a word how to get it."""
    if data is None:
        words = "Not worked out yet: open Drawing, Faults once, and print again."
        return [Section([printed.head(_TITLE), Words(words)])]
    return [Section(list(_blocks(printed, [FaultLine(**line) for line in json.loads(data)])))]


def _blocks(printed: Printing, lines: Sequence[FaultLine]) -> Iterator[Block]:
    yield printed.head(_TITLE)
    yield Words(
        "One fault at a time, everything else sound. Find the circuit and what is seen; the "
        "causes stand beside it. Measure before anything is replaced.",
        "small",
    )
    for circuit in printed.shell.design.circuits:
        own = [x for x in lines if x.circuit == circuit.circuit.id and x.seen != "nothing"]
        own = [x for x in own if x.key.partition(":")[0] not in _RUNGS]
        if not own:
            continue
        yield Title(circuit.circuit.name)
        rows = [(f"{SYMPTOM_WORDS[g.seen]}: {g.gist}", _causes(g)) for g in grouped(own)]
        yield Table(rows, ("62mm", "1fr"), "", ("What is seen", "It may be that"))


def _causes(group: FaultGroup) -> str:
    """The causes of a group in words; many are cut with their count."""
    said: list[str] = []
    for at, subject in enumerate(group.subjects):
        ways = " or ".join(words for words, _, _ in subject.ways)
        said.append(f"{subject.words} {ways}".strip())
        if sum(map(len, said)) > _MOST_SIGNS and at + 1 < len(group.subjects):
            return f"{'; '.join(said)}; and {len(group.subjects) - at - 1} more like these"
    return "; ".join(said)
