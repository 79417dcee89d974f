"""What surrounds every page of a job: stages, readiness, undo."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.datasheet import catalogue_with
from ready_trail.core.design import CircuitDesign, Design, Finding
from ready_trail.core.job import Job
from ready_trail.core.outcome import Severity
from ready_trail.store.jobs import StoredJob
from ready_trail.web.designs import designed_or_bare


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage of the spine with its state mark. ``at_hand`` ones stay in a phone's bar."""

    key: str
    label: str
    icon: str
    url: str
    mark: str
    at_hand: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Stages that belong together by what a person is doing."""

    label: str
    stages: tuple[Stage, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Shell:
    """The frame of a job's page. ``trouble`` says why the job could not be designed."""

    stored: StoredJob
    design: Design
    groups: tuple[Group, ...]
    current: str
    trouble: str = ""

    @property
    def catalogue(self) -> Catalogue:
        """The tables that it was designed with."""
        return catalogue_with(self.stored.figures)

    @property
    def base(self) -> str:
        """Address of the job."""
        return f"/jobs/{self.stored.job_id}"

    @property
    def stages(self) -> tuple[Stage, ...]:
        """All stages in order."""
        return tuple(stage for group in self.groups for stage in group.stages)

    @property
    def busiest(self) -> tuple[str, float, float, str] | None:
        """The feeder nearest to its main: name, amps, the main's rating, the worst scenario."""
        found = [
            (
                f.feeds.name,
                f.current_a,
                f.sizing.fuse.rating_a,
                self.design.points[f.feeds.id].worst,
            )
            for f in self.design.feeders
            if f.feeds is not None and f.sizing.fuse is not None and not f.feeds.is_a.has_switches
        ]
        return max(found, key=lambda x: x[1] / x[2], default=None)

    @property
    def vehicle_words(self) -> str:
        """One line about the vehicle."""
        vehicle = self.stored.job.vehicle
        parts = [
            VEHICLE_WORDS[vehicle.kind],
            f"{vehicle.nominal_v} V",
            f"headlamps switched on the {vehicle.headlamps} side",
        ]
        if vehicle.drive == "right":
            parts.insert(1, "right-hand drive")
        if vehicle.data_bus == "supervised":
            parts.append("data-bus supervised")
        if vehicle.body == "composite":
            parts.append("composite body")
        return ", ".join(parts)


VEHICLE_WORDS = {
    "pickup": "pickup",
    "wagon": "wagon",
    "saloon": "saloon car",
    "van": "van",
    "lorry": "box lorry",
    "motorcycle": "motorcycle",
    "side_by_side": "side-by-side",
}


_STAGES = (
    (
        "State it",
        (
            ("brief", "Brief", "clipboard"),
            ("rules", "House rules", "rules"),
            ("accessories", "Accessories", "lamp"),
            ("survey", "Survey", "probe"),
            ("layout", "Layout", "map"),
        ),
    ),
    (
        "Design it",
        (
            ("supply", "Supply", "supply"),
            ("scenarios", "Scenarios", "battery"),
            ("circuits", "Circuits", "route"),
        ),
    ),
    (
        "Do it",
        (
            ("drawing", "Drawing", "drawing"),
            ("build", "Build", "build"),
            ("prove", "Prove", "prove"),
            ("record", "Record", "record"),
        ),
    ),
    ("Look it up", (("review", "Review", "review"), ("history", "History", "history"))),
)
"""Each group's stages: address, name, icon."""

_AT_HAND = frozenset({"accessories", "survey", "circuits", "build", "prove"})
"""What a phone has at hand without its menu."""


def _marks(made: Design, job: Job) -> dict[str, str]:
    """How each stage stands."""
    there = {False: "empty", True: "ready"}
    wired = there[bool(made.circuits)]
    worst_one = worst(made) if made.circuits else "empty"
    return {
        "brief": "ready",
        "rules": "ready",
        "accessories": there[bool(job.accessories)],
        "survey": there[bool(job.survey.known)],
        "layout": there[job.layout is not None],
        "supply": worst_of(made.feeders) if made.feeders else there[bool(job.points)],
        "scenarios": mark_of(made.findings) if job.scenarios else "empty",
        "circuits": worst_one,
        "drawing": wired,
        "build": wired,
        "prove": wired,
        "record": wired,
        "review": worst_one,
        "history": "none",
    }


def shell_of(stored: StoredJob, current: str) -> Shell:
    """Return the frame for a job, with one stage marked as current."""
    made, trouble = designed_or_bare(stored.job, stored.figures)
    marks = _marks(made, stored.job)
    groups = tuple(
        Group(
            label=label,
            stages=tuple(
                Stage(
                    key=key,
                    label=name,
                    icon=icon,
                    url=f"/jobs/{stored.job_id}/{key}",
                    mark=marks[key],
                    at_hand=key in _AT_HAND,
                )
                for key, name, icon in stages
            ),
        )
        for label, stages in _STAGES
    )
    return Shell(stored=stored, design=made, groups=groups, current=current, trouble=trouble)


def worst(made: Design | CircuitDesign) -> str:
    """Return the worst open severity, or ready."""
    severities: tuple[Severity, ...] = ("stop", "caution")
    for severity in severities:
        if made.count(severity):
            return severity
    return "ready"


def mark_of(findings: tuple[Finding, ...]) -> str:
    """Return the worst open severity of some findings, or ready."""
    found = {f.severity for f in findings if f.is_open}
    return next((m for m in ("stop", "caution") if m in found), "ready")


def worst_of(circuits: tuple[CircuitDesign, ...]) -> str:
    """Return the worst open severity of several circuits, or ready."""
    marks = [worst(c) for c in circuits]
    return next((m for m in ("stop", "caution") if m in marks), "ready")
