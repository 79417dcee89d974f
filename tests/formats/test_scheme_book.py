"""The book of schemes: a sound page for every scheme, and the printed book is the present one."""

from __future__ import annotations

import importlib.util
from pathlib import Path

import pytest

from ready_trail.core.compare import scheme_choices
from ready_trail.core.design import design
from ready_trail.core.edits import HoldChoice, apply
from ready_trail.core.job import Use
from ready_trail.core.schemes import ALL
from ready_trail.formats.scheme_book import Entry, entries
from support import CATALOGUE, job_with

ROOT = Path(__file__).parents[2]
BOOK = {entry.key: entry for entry in entries()}


def test_every_scheme_has_its_page_and_uses_itself() -> None:
    assert {s.key for s in ALL} == {k for k, e in BOOK.items() if e.is_scheme}
    for key, entry in BOOK.items():
        if entry.is_scheme:
            assert entry.circuit.scheme.key == key


@pytest.mark.parametrize("entry", BOOK.values(), ids=BOOK)
def test_what_the_book_shows_is_sound_work(entry: Entry) -> None:
    loud = [
        (f.severity, f.code) for c in entry.job.circuits for f in c.findings if f.severity != "note"
    ]
    assert loud == []
    assert entry.circuit.profile is not None


def test_the_printed_book_is_the_present_one() -> None:
    """Run `make schemes` where this fails."""
    spec = importlib.util.spec_from_file_location("book", ROOT / "scripts" / "write_schemes.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    files = module.book()
    for name, text in files.items():
        assert (ROOT / "docs" / name).read_text(encoding="utf-8") == text, name
    printed = {f"schemes/{p.name}" for p in (ROOT / "docs" / "schemes").iterdir()}
    assert printed == set(files) - {"schemes.md"}


def test_a_comparison_tells_what_holding_each_scheme_then_does() -> None:
    job = job_with(use=Use(key="run", switch="S1"), kit=True, watts=300)
    made = design(job, CATALOGUE)
    choices = {c.key: c for c in scheme_choices(made, "c1", CATALOGUE)}
    assert choices["relay_positive"].is_now
    assert choices["high_beam_earth"].refusal
    for key in ("relay_earth", "direct"):
        told = choices[key]
        if told.refusal:
            continue
        hold = HoldChoice(circuit_id="c1", what="scheme", value=key)
        held = design(apply(job, hold), CATALOGUE).circuit("c1")
        assert told.wires == len(held.wires)
        assert told.copper_g == pytest.approx(sum(w.mass_g for w in held.wires))
        assert told.stops == held.count("stop")
    assert "kept" in choices["relay_earth"].kit
