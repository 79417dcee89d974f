"""What is too large, too deep or not to be printed is refused early, and nothing odd leaves."""

from __future__ import annotations

import csv
import io
import json
import tracemalloc
import xml.etree.ElementTree as ElementTree

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from ready_trail.core.build import build_of
from ready_trail.core.buy.stock import Part
from ready_trail.core.design import design
from ready_trail.core.edits import ChangeAccessory, RenameCircuit, RenameJob, apply
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.job import Job
from ready_trail.core.job.document import SEGMENTS_MOST
from ready_trail.core.job.lift import cleaned
from ready_trail.drawing.sheet import draw_sheet
from ready_trail.formats.accessory_csv import write_accessories
from ready_trail.formats.build_csv import cut_list_csv, shelf_csv
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import read_job
from ready_trail.formats.rendering import environment
from ready_trail.formats.spice import spice_deck
from ready_trail.formats.wire_csv import wire_list_csv
from support import CATALOGUE, demo, job_with, segment


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b'{"circuits": [' + b"{}," * 900_000 + b"{}]}", "150,000 parts"),
        (b'{"x": ' + b"[" * 60 + b"]" * 60 + b"}", "nested more than"),
        (json.dumps({"circuits": [[{}] * 900 for _ in range(900)]}).encode(), "parts"),
        (b"[" * 500_000, "parts"),
        (b'{"circuits": [' + b"{}," * 9_000 + b"{}]}", "list of over 1,000"),
        (b"[" * 50_000, "nested more than 40"),
        (b'{"x": "' + b'{,[\\"' * 500_000 + b'"}', "Extra|missing|Fill|required|name"),
    ],
)
def test_monsters_are_refused_before_anything_is_built_from_them(data: bytes, words: str) -> None:
    tracemalloc.start()
    with pytest.raises(FileRefusedError, match=words):
        read_job(data, CATALOGUE)
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert peak < 40e6


def test_a_thousand_wrong_entries_tell_one_mistake() -> None:
    document = {"name": "x", "circuits": [{"id": "?"}] * 400, "accessories": [{"id": 1}] * 400}
    with pytest.raises(ValidationError) as told:
        Job.model_validate(document)
    assert told.value.error_count() < 20


def test_more_segments_than_the_program_carries_are_refused() -> None:
    job = job_with()
    long = (segment("cabin", 0.1),) * 60
    circuits = tuple(
        job.circuits[0].model_copy(
            update={"id": f"c{n}", "number": n, "run": long, "accessory_ids": (f"a{n}",)}
        )
        for n in range(1, SEGMENTS_MOST // 60 + 3)
    )
    accessories = tuple(
        job.accessories[0].model_copy(update={"id": f"a{n}"}) for n in range(1, len(circuits) + 1)
    )
    document = {**dict(job), "circuits": circuits, "accessories": accessories}
    with pytest.raises(ValidationError, match="segments of runs"):
        Job.model_validate(document)


@given(st.text(st.characters(codec=None), min_size=1, max_size=30))
@settings(max_examples=80, deadline=None)
def test_any_name_leaves_whole_files(name: str) -> None:
    """What a name may hold is refused, or stands in SVG, CSV and deck without breaking them."""
    job = demo("Kestrel")
    try:
        job = apply(job, RenameJob(name=name))
        job = apply(job, RenameCircuit(circuit_id=job.circuits[-1].id, name=name))
        accessory = job.accessories[0].model_copy(
            update={"name": name.strip() or "x", "note": name}
        )
        job = apply(job, ChangeAccessory(accessory=accessory))
        job = Job.model_validate_json(job.model_dump_json())
    except (EditRefusedError, ValidationError, ValueError):
        return
    made = design(job, CATALOGUE)
    template = environment().get_template("drawing/sheet_file.svg.html")
    ElementTree.fromstring(template.render(sheet=draw_sheet(made), css=""))
    build = build_of(made, CATALOGUE)
    part = Part(key="k", label=name, group=name, order_ref=name)
    for text in (
        write_accessories(job),
        wire_list_csv(made),
        cut_list_csv(build.cuts),
        shelf_csv([(part, "")]),
    ):
        for row in csv.reader(io.StringIO(text, newline="")):
            for cell in row:
                assert not cell.startswith(("=", "+", "@", "\t", "\r")) or _is_number(cell)
                assert not cell.startswith("-") or _is_number(cell)
    circuit = next(c for c in made.circuits if c.network is not None)
    assert circuit.network is not None
    assert circuit.operating is not None
    deck = spice_deck(name, circuit.network, circuit.operating)
    assert deck.splitlines()[0].startswith("*") or "\n" not in deck.splitlines()[0]


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def test_stored_documents_with_unprintable_names_are_cleaned_not_locked() -> None:
    document = demo("Kestrel").model_dump(mode="json")
    document["switches"][1]["name"] = "Mar\x0bker"
    for accessory in document["accessories"]:
        if accessory["use"]["switch"] == "Marker":
            accessory["use"]["switch"] = "Mar\x0bker"
    with pytest.raises(ValidationError, match="cannot be printed"):
        Job.model_validate(document)
    assert Job.model_validate(cleaned(document)).switches[1].name == "Mar ker"
