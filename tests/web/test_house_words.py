"""A job of a house that says feet, °F and ground: every page of it does."""

from __future__ import annotations

import io
import re
from pathlib import Path

import pytest
from pypdf import PdfReader
from starlette.testclient import TestClient

from ready_trail.core.edits import AccessoryDraft, AddAccessory, apply
from ready_trail.core.job import HouseRules
from ready_trail.store import jobs
from ready_trail.store.db import connect, transaction
from support import demo

HOUSE = HouseRules(lengths="feet", temperatures="fahrenheit", earth_word="ground", paper="letter")
PAGES = (
    "brief",
    "accessories",
    "supply",
    "survey",
    "layout",
    "rules",
    "scenarios",
    "review",
    "drawing",
    "drawing/faults",
    "build",
    "build/cut",
    "build/parts",
    "build/labels",
    "circuits/{c}",
    "circuits/{c}/run",
    "circuits/{c}/why",
    "drawing.svg",
    "layout.svg",
    "wires.csv",
    "build/cut.csv",
)
_TEXT = re.compile(r"(?s)<(script|style|textarea)\b.*?</\1>|<(?:\"[^\"]*\"|'[^']*'|[^'\">])*>")


@pytest.fixture
def job(database: Path) -> str:
    made = demo().model_copy(update={"rules": HOUSE})
    drill = AccessoryDraft(name="Earth auger 1.5 m", watts=20)
    made = apply(made, AddAccessory(accessory=drill))
    conn = connect(database)
    with transaction(conn):
        number = jobs.create_job(conn, made, kind="demo", title="Demo")
    conn.close()
    return f"/jobs/{number}"


@pytest.mark.parametrize("page", PAGES)
def test_every_page_says_it_the_houses_way(client: TestClient, job: str, page: str) -> None:
    answer = client.get(f"{job}/{page.format(c='c15')}")
    assert answer.status_code == 200
    words = _TEXT.sub("\n", answer.text) if "<" in answer.text else answer.text
    words = words.replace("\u00a0", " ").replace("Earth auger 1.5 m", "")
    words = words.replace("Bed front earth point", "")  # a name that somebody typed

    if page == "rules":  # where both ways are offered
        words = words.partition("The way back to the body")[0]
    assert not re.findall(r".{0,30}\bearth\w*.{0,20}", words, re.IGNORECASE)
    metres = re.findall(r".{0,30}(?<![\w.])\d+(?:\.\d+)? m\b.{0,10}", words)
    assert page == "rules" or not metres
    in_c = re.findall(r"(?<![\w.])(\d+)(?:\.\d+)? °C(?! \()", words)
    assert page == "rules" or not in_c


def test_names_stay_as_they_were_typed(client: TestClient, job: str) -> None:
    assert "Earth auger 1.5 m" in client.get(f"{job}/accessories").text
    assert "Earth auger 1.5 m" in client.get(f"{job}/wires.csv").text


def test_papers_are_the_houses(client: TestClient, job: str) -> None:
    def width_of(address: str) -> float:
        return float(PdfReader(io.BytesIO(client.get(address).content)).pages[0].mediabox[2])

    sheet = f"{job}/circuits/c15/sheet.pdf"
    assert width_of(sheet) in (pytest.approx(612), pytest.approx(792))
    assert width_of(f"{sheet}?paper=A4") not in (pytest.approx(612), pytest.approx(792))
    assert "PDF, Letter</a>" in client.get(f"{job}/circuits/c15").text
