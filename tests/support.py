"""What tests share: jobs built through the edits that the application uses."""

from __future__ import annotations

import atexit
import shutil
import tempfile
from dataclasses import fields
from functools import lru_cache
from pathlib import Path
from typing import Any

from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.design import CircuitDesign, Design, design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSwitch,
    ChangeAccessory,
    Edit,
    SetRun,
    apply,
)
from ready_trail.core.job import Job, Penetration, Return, Segment, Switch, Use, Vehicle
from ready_trail.core.kinds.fuse import FuseSpec
from ready_trail.core.kinds.point import PointSpec
from ready_trail.core.sizing.shares import forget_sizes
from ready_trail.core.sweep import FaultEffect, effects
from ready_trail.core.truth import TruthTable, truth_table
from ready_trail.formats.demo import demo_jobs
from ready_trail.formats.job_json import read_job
from ready_trail.store import db, jobs

CATALOGUE = load_catalogue()
DEMO_DIR = Path(__file__).parent.parent / "src" / "ready_trail" / "data" / "demo"
MARMOT_FILE = DEMO_DIR / "1-marmot.json"
SMALL_DIR = Path(__file__).parent / "data" / "jobs"
OLD_DIR = Path(__file__).parent / "data" / "v1"
"""Documents of version 1, kept as they were saved."""


def demo(name: str = "Marmot") -> Job:
    return next(job for job in demo_jobs(CATALOGUE) if job.name == name)


def small(name: str) -> Job:
    """One of the small vehicles, by what it proves."""
    return read_job((SMALL_DIR / f"{name}.json").read_bytes(), CATALOGUE)


def typed_demo() -> Job:
    """The main demo job without its layout: every run typed as the layout had it."""
    job = design(demo(), CATALOGUE).routed

    def by_itself(run: tuple[Segment, ...]) -> tuple[Segment, ...]:
        return tuple(
            s.model_copy(update={"passes": s.passes and s.passes.model_copy(update={"leg": None})})
            for s in run
        )

    circuits = tuple(
        c.model_copy(
            update={
                "place": None,
                "run": by_itself(c.run),
                "branches": tuple(
                    b.model_copy(update={"place": None, "earth": None, "run": by_itself(b.run)})
                    for b in c.branches
                ),
            }
        )
        for c in job.circuits
    )
    points = tuple(p.model_copy(update={"place": None}) for p in job.points)
    switches = tuple(s.model_copy(update={"place": None}) for s in job.switches)
    return job.model_copy(
        update={
            "layout": None,
            "circuits": circuits,
            "points": points,
            "switches": switches,
            "signals": (),
        }
    )


def large_job(count: int) -> Job:
    """A job of that many lamps, each on its own circuit."""
    job = Job(name="Large")
    for number in range(count):
        draft = AccessoryDraft(name=f"Lamp {number}", watts=20 + number % 60)
        job = apply(job, AddAccessory(accessory=draft))
    return job


def circuit_named(job: Job, name: str) -> str:
    """Id of the circuit of that name."""
    return next(c.id for c in job.circuits if c.name == name)


def filled_database(folder: Path) -> Path:
    """A database with the main demo job twice: its runs typed, and routed."""
    return Path(shutil.copy(_filled(), folder / "t.db"))


@lru_cache(maxsize=1)
def _filled() -> Path:
    """That database once for all tests of a process, which take copies."""
    folder = tempfile.mkdtemp(prefix="ready-trail-test-")
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    path = Path(folder) / "t.db"
    db.initialise(path)
    conn = db.connect(path)
    with db.transaction(conn):
        jobs.create_job(conn, typed_demo(), kind="demo", title="Demo job")
        routed = demo().model_copy(update={"name": "Marmot routed"})
        jobs.create_job(conn, routed, kind="demo", title="Demo job")
    conn.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    conn.close()
    return path


def segment(zone: str, length_m: float, loaded: int = 1, **more: Any) -> Segment:
    passes = more.pop("passes", None)
    panel = Penetration(name=passes, grommet=more.pop("grommet", True)) if passes else None
    return Segment(zone=zone, length_m=length_m, loaded_conductors=loaded, passes=panel, **more)


def job_with(
    *,
    use: Use | None = None,
    switch: Switch | None = None,
    vehicle: Vehicle | None = None,
    run: tuple[Segment, ...] = (),
    back: Return | None = None,
    edits: tuple[Edit, ...] = (),
    fuse_at_m: float = 0.15,
    **accessory: Any,
) -> Job:
    """A job with one accessory on circuit c1, a 280 W LED bar unless told otherwise.

    Its use may name a switch; ``switch`` says what kind it is.
    """
    label: dict[str, Any] = {"name": "Light bar", "inrush_x": 5, "inrush_s": 0.002, **accessory}
    if "watts" not in label and "amps" not in label:
        label["watts"] = 280
    used = use or Use(key="run", engine_only=True, switch="S1 dash")
    job = Job(name="Test", vehicle=vehicle or Vehicle())
    way = run or (segment("engine_bay", 1.2), segment("cabin", 2.0))
    job = apply(job, AddAccessory(accessory=AccessoryDraft(**label), run=way, back=back))
    if used.switch:
        job = apply(job, AddSwitch(switch=switch or Switch(name=used.switch)))
    changed = job.accessories[0].model_copy(update={"use": used})
    job = apply(job, ChangeAccessory(accessory=changed))
    moved = SetRun(
        circuit_id="c1",
        run=way,
        back=job.circuits[0].back,
        fuse_at_m=fuse_at_m,
        switching_at_m=max(0.5, fuse_at_m),
        control_m=3.0,
    )
    job = apply(job, moved)
    for edit in edits:
        job = apply(job, edit)
    return job


def table_of(job: Job, circuit_id: str = "c1") -> TruthTable:
    """The solved truth table of one circuit."""
    made = design(job, CATALOGUE)
    table = truth_table(made.circuit(circuit_id), made.plan)
    assert table is not None
    return table


def burning(made: Design) -> list[FaultEffect]:
    """The faults that burn a wire of a circuit without stops, though a fuse is ahead of them.

    Between a source and its first fuse nothing can open, from whichever end it comes; a winch
    that nothing stops any more is not what its short-time cables were chosen for; and a coil's
    thin earth wire is not made for a load that hands put on 85.
    """
    sound = {c.circuit.id for c in made.circuits if not c.count("stop")}
    found = [e for e in effects(made, everywhere=True) if e.burns and e.circuit_id in sound]
    found = [e for e in found if not e.fault.key.startswith("pins85.")]
    return [e for e in found if not _is_ahead_of_fuses(e, made) and not _is_winch(e, made)]


def _is_ahead_of_fuses(effect: FaultEffect, made: Design) -> bool:
    wire = made.installation.wires.get(effect.fault.subject)
    if wire is None:
        return False
    start, end = (made.installation.devices[t.device].spec for t in (wire.start, wire.end))
    from_source = isinstance(end, FuseSpec) and wire.end.terminal == "1"
    to_battery = isinstance(end, PointSpec) and end.battery_ohm is not None
    return from_source or (isinstance(start, FuseSpec) and to_battery)


def _is_winch(effect: FaultEffect, made: Design) -> bool:
    owner = made.installation.wires[effect.burns].owner
    stuck = effect.fault.key.startswith(("welded.", "wrong"))
    return stuck and not made.circuit(owner).sizing.request.rule.is_steady


def facts(made: Design) -> tuple[object, ...]:
    """Everything in a design, so that two of them can be compared."""
    circuits = [tuple(getattr(c, f.name) for f in fields(c) if f.compare) for c in made.circuits]
    whole = tuple(getattr(made, f.name) for f in fields(made) if f.compare and f.name != "circuits")
    return (*whole, circuits)


def afresh(job: Job) -> tuple[object, ...]:
    """Everything in the design of a job, with nothing that was kept from before."""
    forget_sizes()
    return facts(design(job, CATALOGUE))


def only_circuit(job: Job) -> CircuitDesign:
    return design(job, CATALOGUE).circuits[0]


def codes(made: CircuitDesign, severity: str | None = None) -> set[str]:
    return {f.code for f in made.findings if severity in (None, f.severity)}
