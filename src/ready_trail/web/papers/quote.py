"""The quotation on paper."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.buy.quote import Quote
from ready_trail.core.cautions import AID
from ready_trail.formats.paper import Block, Paper, Section, Strong, Table, Words
from ready_trail.web.pages.build import minutes_words
from ready_trail.web.pages.buy import owner_of
from ready_trail.web.papers.common import Printing, paper_of


def quote_paper(printed: Printing, quote: Quote, *, note: str = "") -> Paper:
    """Return the quotation of a job: by circuit, then hours, then the sum."""
    return paper_of(printed, "quotation", [Section(list(_blocks(printed, quote, note)))])


def _blocks(printed: Printing, quote: Quote, note: str) -> Iterator[Block]:
    shell = printed.shell
    yield printed.head("Quotation", printed.job_words)
    if note:
        yield Words(note)
    rows = [(owner_of(shell, line.owner), f"{line.parts:.2f}") for line in quote.lines]
    yield Table(rows, ("1fr", "32mm"), "Parts", ("For", "Price"))
    terms = quote.terms
    sums = [("Parts", f"{quote.parts:.2f}")]
    if quote.labour:
        hours = f"Work, {minutes_words(quote.minutes)} at {terms.rate_per_h:.2f} an hour"
        sums.append((hours, f"{quote.labour:.2f}"))
    if quote.tax:
        sums += [("Together", f"{quote.net:.2f}"), (f"Tax {terms.tax:.1%}", f"{quote.tax:.2f}")]
    yield Table(sums, ("1fr", "32mm"), "Sum")
    yield Words((Strong(f"To pay {quote.total:.2f}"),))
    if quote.unpriced:
        names = ", ".join(line.label for line in quote.unpriced[:12])
        more = len(quote.unpriced) - 12
        rest = f" and {more} more" if more > 0 else ""
        yield Words(f"Not in this sum, for want of a price: {names}{rest}.")
    yield Words(AID, "aid")
