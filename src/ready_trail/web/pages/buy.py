"""What the buying pages show: plans of spools with their price, and the one that is looked at."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, Field, TypeAdapter

from ready_trail.core.build.bill import Line, parts_list
from ready_trail.core.build.cutouts import Cutout, usual_cutouts
from ready_trail.core.build.cuts import cut_list, owner_name
from ready_trail.core.buy.plans import Kept, Offer, Offers, kept, offers_of
from ready_trail.core.buy.prices import metre_price, one_price
from ready_trail.core.buy.quote import Cost, Terms, cost_change
from ready_trail.core.buy.stock import Part
from ready_trail.core.catalogue import Catalogue, load_catalogue
from ready_trail.core.datasheet import Figure, catalogue_with
from ready_trail.core.design import Design, design
from ready_trail.core.job import Job
from ready_trail.core.job.parts import ShortText
from ready_trail.drawing.spool_plot import SpoolPlot, draw_spools
from ready_trail.store import shelf
from ready_trail.store.jobs import StoredJob
from ready_trail.store.works import Work
from ready_trail.web.fields import FieldsRefusedError
from ready_trail.web.pages.shell import Shell
from ready_trail.web.work import Made, Report, start

COLOURS = {
    "circuit": "a colour for each circuit",
    "function": "a colour for each function",
    "few": "three colours and sleeves",
    "two": "two colours and sleeves",
}
"""The sets of colours in words."""
WAITS_MOST = 24
"""Circuits of which a page waits for the plans; those of more are solved beside it."""
_OFFERS = TypeAdapter(Offers)
FAIR_MORE = 0.10
"""Copper over the design's for which few spools are a fair deal (house)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SpoolRow:
    """A spool of a plan: its label, the metres that are cut, what the shelf has. [m]"""

    label: str
    cut_m: float
    shelf_m: float

    @property
    def is_there(self) -> bool:
        """Whether the shelf has enough."""
        return self.shelf_m >= self.cut_m > 0


@dataclass(frozen=True, slots=True, kw_only=True)
class SpoolsView:
    """The plans, and the chosen one as it would be kept; ``price`` by plan where all is priced."""

    offers: Offers
    plot: SpoolPlot
    chosen: Offer | None
    kept: Kept | None
    rows: tuple[SpoolRow, ...]
    price: Mapping[str, float]
    words: Mapping[str, str]


def shelf_metres(conn: sqlite3.Connection, job_id: int) -> dict[str, float]:
    """Return the wire that needs not be bought: what is on the shelf, and what the job took. [m]"""
    taken = shelf.taken_for(conn, job_id)
    return {
        p.part.key: round(p.part.stock + taken.get(p.part.key, 0.0), 3)
        for p in shelf.list_parts(conn)
        if p.part.key.startswith("wire-") and p.part.stock + taken.get(p.part.key, 0.0) > 0
    }


def start_plans(database: Path, stored: StoredJob, there: Mapping[str, float]) -> Work:
    """Start solving the plans beside the answer, or return what runs or is done for the same.

    Raises TooMuchWorkError.
    """
    document = stored.job.model_dump_json()
    facts = f"spools {document} {stored.figures!r} {sorted(there.items())!r}"
    key = hashlib.sha256(facts.encode()).hexdigest()
    return start(
        database, key, "Plans of spools", make_plans, document, stored.figures, dict(there)
    )


def make_plans(
    _: sqlite3.Connection,
    document: str,
    figures: tuple[Figure, ...],
    there: dict[str, float],
    *,
    report: Report,
) -> Made:
    """Return the plans as JSON: in the process."""
    catalogue = catalogue_with(figures)
    made = design(Job.model_validate_json(document), catalogue)

    def told(done: int, total: int) -> None:
        report(done, total, "the least copper for every number of spools")

    offers = offers_of(made, cut_list(made, catalogue), catalogue, there, told)
    return Made(data=_OFFERS.dump_json(offers))


def offers_in(data: bytes) -> Offers:
    """Return plans that were solved beside the answer."""
    return _OFFERS.validate_json(data)


def offers_now(shell: Shell, there: Mapping[str, float]) -> Offers:
    """Return the plans of a job, solved while the page waits; equal jobs share them."""
    return _offers(shell.design, shell.catalogue, frozenset(there.items()))


def spools_of(
    conn: sqlite3.Connection, shell: Shell, offers: Offers, key: str, there: Mapping[str, float]
) -> SpoolsView:
    """Return the plans of a job, with the one of that key looked at closely."""
    parts = {p.part.key: p.part for p in shelf.list_parts(conn)}
    key = key or _suggested(offers)
    chosen = next((o for o in offers.every if o.key == key), None)
    looked = _kept(shell.design, shell.catalogue, _Chosen(chosen)) if chosen else None
    return SpoolsView(
        offers=offers,
        plot=draw_spools(
            {
                colours: [
                    (o.key, o.plan.to_buy, o.more, f"{o.plan.to_buy} spools, {COLOURS[colours]}")
                    for o in line
                ]
                for colours, line in offers.by_colours.items()
            }
        ),
        chosen=chosen,
        kept=looked,
        rows=_rows(looked, there) if looked is not None else (),
        price={o.key: p for o in offers.every if (p := _price(o, parts)) is not None},
        words=COLOURS,
    )


def _suggested(offers: Offers) -> str:
    """The plan of fewest spools for a tenth more copper."""
    fair = [o for o in offers.every if o.more <= FAIR_MORE]
    return min(fair, key=lambda o: (o.plan.to_buy, o.more)).key if fair else ""


@lru_cache(maxsize=8)
def _offers(made: Design, catalogue: Catalogue, there: frozenset[tuple[str, float]]) -> Offers:
    return offers_of(made, cut_list(made, catalogue), catalogue, dict(there))


class _Chosen:
    """An offer as the key of what is kept: by what it chooses."""

    def __init__(self, offer: Offer) -> None:
        self.offer = offer
        self._is = (offer.dress, tuple(sorted(offer.plan.chosen.items())))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Chosen) and self._is == other._is

    def __hash__(self) -> int:
        return hash(self._is)


@lru_cache(maxsize=32)
def _kept(made: Design, catalogue: Catalogue, chosen: _Chosen) -> Kept:
    return kept(made, chosen.offer, catalogue)


def _rows(looked: Kept, there: Mapping[str, float]) -> tuple[SpoolRow, ...]:
    return tuple(
        SpoolRow(label=s.label, cut_m=s.total_m, shelf_m=there.get(s.key, 0.0))
        for s in looked.spools
    )


def _price(offer: Offer, parts: Mapping[str, Part]) -> float | None:
    """What the wire costs: by its own price, or that of the same size in another colour."""
    total = 0.0
    for spool, length_m in offer.plan.spools.items():
        price = metre_price(spool, parts)
        if price is None:
            return None
        total += price * length_m
    return total


def prices_of(conn: sqlite3.Connection, lines: Iterable[Line]) -> dict[str, float]:
    """Return what one of each part costs, where that is known: wire of a colour that has no price
    goes by another of its size.
    """
    parts = {p.part.key: p.part for p in shelf.list_parts(conn)}
    found = {line.key: one_price(line.key, parts) for line in lines}
    return {key: price for key, price in found.items() if price is not None}


def change_in_cost(conn: sqlite3.Connection, before: Design, after: Design) -> Cost:
    """Return what the parts of two designs cost."""
    parts = {p.part.key: p.part for p in shelf.list_parts(conn)}
    catalogue = load_catalogue()
    was, now = (parts_list(d, cut_list(d, catalogue), catalogue) for d in (before, after))
    return cost_change(was, now, lambda key: one_price(key, parts))


def owner_of(shell: Shell, owner: str) -> str:
    """Return whom parts are for, in words."""
    return owner_name(owner, shell.design) if owner else "Spares, reserve, and what all share"


_TERMS = "quote"


class StatedTerms(BaseModel):
    """The terms of the workshop as its form states them; margin and tax in percent."""

    rate_per_h: Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)] = 0.0
    margin: Annotated[float, Field(ge=0, le=1_000, allow_inf_nan=False)] = 0.0
    tax: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] = 0.0
    note: ShortText = ""

    @property
    def terms(self) -> Terms:
        """The same as ratios."""
        return Terms(rate_per_h=self.rate_per_h, margin=self.margin / 100.0, tax=self.tax / 100.0)


def kept_terms(conn: sqlite3.Connection) -> StatedTerms:
    """Return the terms that the workshop stated last."""
    kept_as = shelf.get_setting(conn, _TERMS)
    return StatedTerms.model_validate_json(kept_as) if kept_as else StatedTerms()


def keep_terms(conn: sqlite3.Connection, stated: StatedTerms) -> None:
    """Keep the terms for every job."""
    shelf.set_setting(conn, _TERMS, stated.model_dump_json())


_CUTOUTS = "cutout"
_MOST_MM = 600.0


def kept_cutouts(conn: sqlite3.Connection) -> dict[str, Cutout]:
    """Return the measures of every kind of part: the workshop's own before the usual ones."""
    own = json.loads(shelf.get_setting(conn, _CUTOUTS) or "{}")
    return {
        key: replace(cutout, **{n: v for n, v in own.get(key, {}).items() if n in cutout.fields})
        for key, cutout in usual_cutouts().items()
    }


def keep_cutout(conn: sqlite3.Connection, form: Mapping[str, str]) -> None:
    """Keep the measures of one kind of part. Raises FieldsRefusedError."""
    usual = usual_cutouts().get(form.get("cutout", ""))
    if usual is None:
        raise FieldsRefusedError({"form": "There is no such part."})
    stated: dict[str, float] = {}
    errors: dict[str, str] = {}
    for name in usual.fields:
        typed = form.get(name, "").strip().replace(",", ".")
        try:
            value = float(typed) if typed else getattr(usual, name)
        except ValueError:
            value = -1.0
        if not 0.0 < value <= _MOST_MM:
            errors[f"{usual.key}.{name}"] = f"Millimetres, more than 0 and up to {_MOST_MM:g}."
        stated[name] = value
    if usual.pitch_mm and usual.width_mm and stated["pitch_mm"] <= stated["width_mm"]:
        errors.setdefault(f"{usual.key}.pitch_mm", "Two openings would run into each other.")
    if errors:
        raise FieldsRefusedError(errors)
    own = json.loads(shelf.get_setting(conn, _CUTOUTS) or "{}")
    own[usual.key] = {n: v for n, v in stated.items() if v != getattr(usual, n)}
    shelf.set_setting(conn, _CUTOUTS, json.dumps(own))
