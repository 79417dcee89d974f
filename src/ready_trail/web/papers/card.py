"""The glove-box card, cover labels of blocks, and the hand-over record for the owner."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.cautions import AID, cautions_of
from ready_trail.core.record.card import Card
from ready_trail.drawing.card_sheet import (
    A6_MM,
    CREDIT_MM,
    Side,
    cover_label,
    fuse_side,
    help_side,
    with_code,
)
from ready_trail.formats.paper import (
    Block,
    Paper,
    Picture,
    Points,
    Section,
    Sheet,
    Strong,
    Table,
    Words,
)
from ready_trail.web.pages.record import RecordView
from ready_trail.web.papers.common import Printing, drawn, paper_of

SIZES = {"a6": A6_MM, "credit": CREDIT_MM}


def card_paper(printed: Printing, card: Card, size: str, qr: str = "") -> Paper:
    """Return both sides of the card, a page each, exactly as large as it is; ``qr`` leads to the
    job, where there is room for it.
    """
    mm = SIZES.get(size, A6_MM)
    made = printed.shell.design
    title = f"{made.job.name}, revision {printed.shell.stored.revision}, {printed.day}"
    sides = (("Fuses", with_code(fuse_side(card, mm), qr)), ("Help", help_side(card, title, mm)))
    sections = [
        Section(
            [_picture(side, f"{name} of {made.job.name}")],
            Sheet(margin_mm=0.0, width_mm=side.width, height_mm=side.height),
        )
        for name, side in sides
    ]
    return Paper(f"{made.job.name}, card", sections, "", printed.sheet)


def covers_paper(printed: Printing, card: Card) -> Paper:
    """Return a label for each block's cover, to cut out."""
    blocks: list[Block] = [printed.head("Labels for covers", printed.job_words)]
    blocks += [_picture(cover_label(place, card), f"Cover of {place}") for place, _ in card.blocks]
    return paper_of(printed, "covers", [Section(blocks)])


def owner_paper(printed: Printing, view: RecordView, vehicle: str) -> Paper:
    """Return the hand-over record for the owner: what was fitted, proved, and is due."""
    return paper_of(printed, "hand-over", [Section(list(_owner(printed, view, vehicle)))])


def _picture(side: Side, said: str) -> Picture:
    return drawn("card", said, side, css="", width_mm=side.width)


def _owner(printed: Printing, view: RecordView, vehicle: str) -> Iterator[Block]:
    made = printed.shell.design
    yield printed.head("Hand-over record", f"{vehicle}; {printed.job_words}")
    handed = f"{view.handed} of {len(view.handings)} circuits are handed over."
    yield Words((Strong(handed), " This says what was fitted and read; it certifies nothing."))
    rows = []
    for handing in view.handings:
        circuit = made.circuit(handing.circuit_id)
        fuse = circuit.sizing.fuse
        when = handing.sealed.made_at[:10] if handing.sealed else "open"
        state = {"handed": when, "changed": f"changed since {when}"}.get(handing.state, "open")
        rows.append(
            (
                handing.name,
                f"{fuse.rating_a:g} A" if fuse is not None else "",
                circuit.scheme.label,
                str(handing.sealed.readings if handing.sealed else 0),
                state,
            )
        )
    head = ("Circuit", "Fuse", "Switched by", "Readings", "Handed over")
    yield Table(rows, ("1fr", "16mm", "52mm", "18mm", "34mm"), "What was fitted", head)
    left = [f"{h.name}: {what}, {why}" for h in view.handings for what, why in h.waived.items()]
    if left:
        yield Words((Strong("Left open, and why"),))
        yield Points(left)
    differences = [
        f"{row.difference.words}; {row.difference.settled.how.replace('_', ' ')}"
        if row.difference.settled
        else f"{row.difference.words}; open"
        for row in view.differences
    ]
    if differences:
        yield Words((Strong("Where the vehicle differed from the drawing"),))
        yield Points(differences)
    if view.due:
        due = [(d.care.what, d.due.isoformat(), f"{d.care.then_months} months") for d in view.due]
        yield Table(due, ("1fr", "28mm", "28mm"), "To be looked after", ("What", "Due", "Then"))
    cautions = list(dict.fromkeys(c for x in made.circuits for c in cautions_of(x)))
    if cautions:
        yield Words((Strong("Cautions"),))
        yield Points(cautions)
    yield Words(AID, "aid")
