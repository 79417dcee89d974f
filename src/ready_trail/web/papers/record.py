"""The test record on paper: what was read of a vehicle, with what, against what."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ready_trail.core.cautions import AID
from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.prove.progress import Reading
from ready_trail.formats.paper import Block, Paper, Section, Strong, Table, Words
from ready_trail.web.pages.prove import ProveView
from ready_trail.web.papers.common import Printing, paper_of


def record_paper(
    printed: Printing, view: ProveView, readings: Sequence[Reading], vehicle: str
) -> Paper:
    """Return the test record of one vehicle."""
    blocks = list(_blocks(printed, view, readings, vehicle))
    return paper_of(printed, "test record", [Section(blocks)])


def _blocks(
    printed: Printing, view: ProveView, readings: Sequence[Reading], vehicle: str
) -> Iterator[Block]:
    yield printed.head("Test record", f"{vehicle}; {printed.job_words}")
    failing = f", {view.failing} failing" if view.failing else ""
    yield Words(
        (
            Strong(f"{view.done} of {view.total} must tests are read and in order{failing}."),
            " The latest reading of each test counts; every reading that was taken stands in the "
            "files beside this one.",
        )
    )
    for row in view.rows:
        proof = row.proof
        if proof is None:
            continue
        rows = []
        for stand in proof.stands.values():
            r = stand.reading
            if r is None:
                continue
            asked = (*r.asked.split("\n"), "", "", "", "")[:4]
            shown = r.skipped if r.value is None else INSTRUMENTS[r.instrument].shown(r.value)
            where = asked[1] if r.instrument != "eye" else "seen"
            rows.append(
                (
                    asked[0],
                    f"{where}. {asked[2]}",
                    asked[3],
                    shown,
                    stand.standing,
                    f"{r.made_at[:16].replace('T', ' ')}{f', {r.who}' if r.who else ''}",
                )
            )
        title = f"{row.circuit.circuit.name}: {proof.must_done} of {proof.must_total}"
        if rows:
            yield Table(
                rows,
                ("1.2fr", "1.8fr", "26mm", "24mm", "16mm", "28mm"),
                title,
                ("Test", "Where and set", "Sound reads", "Read", "", "When (UTC)"),
            )
        else:
            yield Words(f"{title}. Nothing was read yet.", "small")
    mended = [r for r in readings if r.value is None and r.test.startswith("mended:")]
    if mended:
        told = [(r.made_at[:16].replace("T", " "), r.skipped, r.who) for r in mended]
        yield Table(told, ("32mm", "1fr", "30mm"), "Mended", ("When (UTC)", "What", "By"))
    yield Words(AID, "aid")
