"""The demo jobs, shipped as job files."""

from __future__ import annotations

from importlib.resources import files

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.job import Job
from ready_trail.formats.job_json import read_job


def demo_jobs(catalogue: Catalogue) -> tuple[Job, ...]:
    """Return the demo jobs, the main one first."""
    folder = files("ready_trail").joinpath("data", "demo")
    names = sorted(entry.name for entry in folder.iterdir() if entry.name.endswith(".json"))
    return tuple(read_job(folder.joinpath(name).read_bytes(), catalogue) for name in names)
