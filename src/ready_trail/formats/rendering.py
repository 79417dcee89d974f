"""The one Jinja environment: screen, print and export share its templates and filters."""

from __future__ import annotations

import math
from functools import lru_cache
from importlib.resources import files
from pathlib import Path
from typing import Any
from uuid import uuid4

from jinja2 import Environment, FileSystemLoader, StrictUndefined, Template

from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.letters import device_letters
from ready_trail.core.units import feet_of_m
from ready_trail.drawing import words
from ready_trail.formats.saying import PLAIN, now, said, saying_of


class SaidTemplate(Template):
    """A template whose page says things as the house of its job does, or as ``house`` tells."""

    def render(self, *args: Any, **context: Any) -> str:
        """Return the page; ``shell`` names its job, ``house`` its rules where there is none."""
        shell, house = context.get("shell"), context.get("house")
        job = shell.design.job if shell is not None else None
        rules = job.rules if job is not None else house
        saying = saying_of(rules, job) if rules is not None else PLAIN
        with said(saying):
            return saying.html(super().render(*args, **context))


TEMPLATES = Path(str(files("ready_trail").joinpath("templates")))


def wire_colours() -> tuple[tuple[str, str], ...]:
    """Return the codes of insulation colours with their names."""
    colours = load_catalogue().wire_colours.values()
    return tuple((c.colour, c.name) for c in colours)


@lru_cache(maxsize=1)
def environment() -> Environment:
    """Return the environment; a figure that is missing fails instead of printing as nothing."""
    env = Environment(
        loader=FileSystemLoader(TEMPLATES),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    env.template_class = SaidTemplate
    env.filters.update(
        amps=words.amps,
        rating=words.rating,
        volts=words.volts,
        drop=words.drop,
        metres=words.metres,
        coord=words.coord,
        signed_amps=words.signed_amps,
        duration=words.duration,
        points=points,
        rounded=rounded,
        feet=lambda m: f"{feet_of_m(m):.1f}{words.NBSP}ft",
        grams=words.grams,
        celsius=lambda c: f"{c:.0f}{words.NBSP}°C",
        plain=plain_number,
        in_unit=in_unit,
        unit_words=lambda unit: now().unit(unit),
        lower_first=words.lower_first,
        zip_labels=lambda keys, table: [(key, table[key].label) for key in keys],
        day=lambda text: text[:16].replace("T", " "),
    )
    env.globals["device_letters"] = device_letters
    env.globals["wire_colours"] = wire_colours
    env.globals["form_key"] = lambda: uuid4().hex
    env.globals["panels_of"] = lambda job: [
        (p.id, p.name) for p in job.points if p.is_a.has_switches
    ]
    return env


def points(pairs: tuple[tuple[float, float], ...]) -> str:
    """Return the d attribute of a line through points."""
    return "M" + "L".join(f"{words.coord(x)} {words.coord(y)}" for x, y in pairs)


def rounded(pairs: tuple[tuple[float, float], ...], radius: float) -> str:
    """Return the d attribute of a closed outline with its corners rounded."""
    if len(pairs) < 3:
        return ""
    parts = []
    for at, (x, y) in enumerate(pairs):
        before, after = pairs[at - 1], pairs[(at + 1) % len(pairs)]
        ends = []
        for ox, oy in (before, after):
            far = math.hypot(ox - x, oy - y) or 1.0
            share = min(radius, far / 2) / far
            ends.append((x + (ox - x) * share, y + (oy - y) * share))
        (ax, ay), (bx, by) = ends
        move = "M" if at == 0 else "L"
        parts.append(
            f"{move}{words.coord(ax)} {words.coord(ay)}Q{words.coord(x)} {words.coord(y)} "
            f"{words.coord(bx)} {words.coord(by)}"
        )
    return "".join(parts) + "Z"


def in_unit(value: Any, unit: str = "") -> str:
    """Return a figure for a form field, in the unit in which the house says it."""
    told = now().value(value, unit) if unit else None
    return plain_number(value) if told is None else told


def plain_number(value: Any) -> str:
    """Return a figure for a form field: no unit, no trailing zeros; nothing for None."""
    if value is None:
        return ""
    return f"{value:.10g}" if isinstance(value, float) else str(value)
