"""The meter that the demo brings: it measures the demo's vehicles; one is built wrongly."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from pathlib import Path
from threading import Event, Thread

from ready_trail.bench_meter import serve
from ready_trail.core.datasheet import catalogue_with
from ready_trail.core.design import design
from ready_trail.core.prove.simulated import NotThereError, SimulatedVehicle
from ready_trail.store import db, jobs, shelf
from ready_trail.web.meter import SETTING

BUILT_WRONG: dict[str, tuple[str, ...]] = {"Marmot": ("rusty.g27_body:G27@0.3",)}
"""What is hidden in which job: the wiper rest's earth, fastened over paint."""

_PATIENCE_S = 5.0


def start_demo_meter(database: Path) -> str:
    """Start a simulated meter beside the server and name it to the pages; return its address,
    empty where no port is free. It ends with the process.
    """
    known: list[int] = []
    ready = Event()

    def told(port: int) -> None:
        known.append(port)
        ready.set()

    def run() -> None:
        try:
            asyncio.run(serve(_vehicles(database), 0, told))
        except OSError:
            ready.set()

    Thread(target=run, daemon=True).start()
    ready.wait(_PATIENCE_S)
    if not known:
        return ""
    address = f"TCPIP::127.0.0.1::{known[0]}::SOCKET"
    conn = db.connect(database)
    try:
        named = shelf.get_setting(conn, SETTING)
        if not named or "127.0.0.1" in named:  # else it is somebody's own
            with db.transaction(conn):
                shelf.set_setting(conn, SETTING, address)
    finally:
        conn.close()
    return address


def _vehicles(database: Path) -> Callable[[str], SimulatedVehicle | None]:
    """The vehicle of each job by its name, as its design is now; what was mended stays mended."""
    kept: dict[str, tuple[int, SimulatedVehicle]] = {}

    def vehicle(name: str) -> SimulatedVehicle | None:
        conn = db.connect(database)
        try:
            row = next((r for r in jobs.list_jobs(conn) if r.name == name), None)
            if row is None:
                return None
            stored = jobs.get_job(conn, row.job_id)
            was = kept.get(name)
            if was is not None and was[0] == stored.revision:
                return was[1]
            hidden = was[1].hidden if was is not None else BUILT_WRONG.get(name, ())
            made = design(stored.job, catalogue_with(shelf.list_figures(conn)))
            try:
                found = SimulatedVehicle(design=made, hidden=hidden)
            except NotThereError:  # the part that was built wrongly is gone
                found = SimulatedVehicle(design=made)
            kept[name] = stored.revision, found
            return found
        finally:
            conn.close()

    return vehicle
