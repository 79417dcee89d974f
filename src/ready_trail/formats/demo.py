"""The demo jobs, shipped as job files, and a shelf that is stocked for them."""

from __future__ import annotations

from importlib.resources import files

from ready_trail.core.buy.stock import Part
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.job import Job
from ready_trail.formats.build_csv import read_shelf
from ready_trail.formats.job_json import read_job


def demo_jobs(catalogue: Catalogue) -> tuple[Job, ...]:
    """Return the demo jobs, the main one first."""
    folder = files("ready_trail").joinpath("data", "demo")
    names = sorted(entry.name for entry in folder.iterdir() if entry.name.endswith(".json"))
    return tuple(read_job(folder.joinpath(name).read_bytes(), catalogue) for name in names)


def demo_shelf() -> tuple[tuple[Part, str], ...]:
    """Return the parts of the demo's shelf with stock and price, and the rows they stand for."""
    path = files("ready_trail").joinpath("data", "demo", "shelf.csv")
    return read_shelf(path.read_bytes())
