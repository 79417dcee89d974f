"""Pages in feet, °F and "ground": our words change, what people typed stays."""

from __future__ import annotations

import csv
import io
import re

import pytest

from ready_trail.core.design import design
from ready_trail.core.job import HouseRules, Job
from ready_trail.formats.saying import Saying, saying_of
from ready_trail.formats.wire_csv import wire_list_csv
from support import CATALOGUE, demo

HOUSE = HouseRules(lengths="feet", temperatures="fahrenheit", earth_word="ground", paper="letter")
ALL = Saying(feet=True, fahrenheit=True, ground=True, kept=("Earth drill", "near earth"))


@pytest.mark.parametrize(
    ("written", "said"),
    [
        ("an earth point", "a ground point"),
        ("An earthed bus", "A grounded bus"),
        ("EARTH", "GROUND"),
        ("Earths", "Grounds"),
        ("unearthed", "unearthed"),
        ("Earth drill at an earth", "Earth drill at a ground"),
        ("1.60 m of wire", "5' 3\" of wire"),
        ("0.18\u00a0m", '7 1/16"'),
        ("3.81 m (12.5 ft)", "12' 6\""),
        ("1.20, 0.30, 0.50 m", '3\' 11 1/4", 11 13/16", 1\' 7 11/16"'),
        ("8 N·m", "8 N·m"),
        ("2.5 mm²", "2.5 mm²"),
        ("5 m²", "5 m²"),
        ("5 mΩ/m", "5 mΩ/m"),
        ("5 min", "5 min"),
        ("at 70 °C", "at 158\u00a0°F"),
        ("−20\u00a0°C", "−4\u00a0°F"),
        ("105 °C wire", "105 °C (221\u00a0°F) wire"),
        ("M6", "M6"),
        ('<p title="an earth">1.60 m</p>', '<p title="a ground">5\' 3"</p>'),
        ('<a href="/earth?x=1 m">x</a>', '<a href="/earth?x=1 m">x</a>'),
        ('<input name="earth" value="earth 1.6 m">', '<input name="earth" value="earth 1.6 m">'),
        ("<script>earth = '1 m'</script>", "<script>earth = '1 m'</script>"),
        ("<title>Earth</title>", "<title>Ground</title>"),
    ],
)
def test_words_and_figures(written: str, said: str) -> None:
    assert ALL.html(written) == said
    assert Saying().html(written) == written


def test_the_wire_list_has_feet_under_ft() -> None:
    def rows(job: Job) -> list[dict[str, str]]:
        return list(csv.DictReader(io.StringIO(wire_list_csv(design(job, CATALOGUE)))))

    job = demo()
    metric = rows(job)
    feet = rows(
        job.model_copy(
            update={
                "rules": job.rules.model_copy(
                    update=HOUSE.model_dump(
                        include={"lengths", "temperatures", "earth_word", "paper"}
                    )
                )
            }
        )
    )
    assert "cut_length_ft" in feet[0]
    assert "cut_length_m" not in feet[0]
    for one, other in zip(metric, feet, strict=True):
        assert float(other["length_ft"]) == pytest.approx(float(one["length_m"]) / 0.3048, abs=0.01)
    assert not re.search(r"\bearth", str(feet), re.IGNORECASE)


def test_names_that_hold_our_words_are_kept() -> None:
    job = demo()
    named = job.accessories[0].model_copy(update={"name": "Earth & moon"})
    job = job.model_copy(update={"accessories": (named, *job.accessories[1:])})
    saying = saying_of(HOUSE, job)
    assert saying.html("<p>Earth &amp; moon: earth</p>") == "<p>Earth &amp; moon: ground</p>"
