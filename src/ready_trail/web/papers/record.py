"""The test record on paper: what was read of a vehicle, with what, against what."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ready_trail.core.cautions import AID
from ready_trail.core.instruments import INSTRUMENTS
from ready_trail.core.prove.progress import Reading, Standing, is_mended
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
    reckoned = (
        ""
        if view.reckoned
        else (
            " Some circuits' plans are not worked out yet: their tests are not counted, and what "
            "was read of them stands as it was judged then."
        )
    )
    yield Words(
        (
            Strong(f"{view.done} of {view.total} must tests are read and in order{failing}."),
            " The latest reading of each test counts; every reading that was taken stands in the "
            f"files beside this one.{reckoned}",
        )
    )
    told: set[int] = set()
    for row in view.rows:
        name, proof = row.circuit.circuit.name, row.proof
        if proof is None:
            continue
        stands = [(s.reading, s.standing) for s in proof.stands.values() if s.reading is not None]
        told |= {id(r) for r in readings if r.circuit_id == row.circuit.circuit.id}
        title = f"{name}: {proof.must_done} of {proof.must_total}"
        if stands:
            yield _table(title, stands)
        else:
            yield Words(f"{title}. Nothing was read yet.", "small")
        if proof.gone:
            yield _table(f"{name}, no longer asked", [(r, r.verdict) for r in proof.gone])
    others: dict[str, dict[str, Reading]] = {}
    for r in readings:
        if id(r) not in told and not is_mended(r):
            others.setdefault(r.circuit_id, {})[r.test] = r
    names = {row.circuit.circuit.id: row.circuit.circuit.name for row in view.rows}
    for circuit_id, latest in others.items():
        title = names.get(circuit_id, f"{circuit_id}, no longer in the design")
        yield _table(title, [(r, r.verdict) for r in latest.values()])
    mended = [
        (r.made_at[:16].replace("T", " "), r.skipped, r.who) for r in readings if is_mended(r)
    ]
    if mended:
        yield Table(mended, ("32mm", "1fr", "30mm"), "Mended", ("When (UTC)", "What", "By"))
    yield Words(AID, "aid")


def _table(title: str, read: Sequence[tuple[Reading, Standing]]) -> Table:
    """Readings with where they stand."""
    return Table(
        [_row(r, standing) for r, standing in read],
        ("1.2fr", "1.8fr", "26mm", "24mm", "16mm", "28mm"),
        title,
        ("Test", "Where and set", "Sound reads", "Read", "", "When (UTC)"),
    )


def _row(r: Reading, standing: Standing) -> tuple[str, ...]:
    title, where, setting, expected = (*r.asked.split("\n"), "", "", "", "")[:4]
    shown = r.skipped if r.value is None else INSTRUMENTS[r.instrument].shown(r.value)
    by = f", {r.who}" if r.who else ""
    when = f"{r.made_at[:16].replace('T', ' ')}{by}"
    return title, f"{where}. {setting}", expected, shown, standing, when
