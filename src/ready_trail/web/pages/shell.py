"""What surrounds every page of a job: stages, readiness, undo."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.design import CircuitDesign, Design
from ready_trail.core.outcome import Severity
from ready_trail.store.jobs import StoredJob
from ready_trail.web.context import designed


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage of the spine with its state mark."""

    key: str
    label: str
    icon: str
    url: str
    mark: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Shell:
    """The frame of a job's page."""

    stored: StoredJob
    design: Design
    stages: tuple[Stage, ...]
    current: str

    @property
    def base(self) -> str:
        """Address of the job."""
        return f"/jobs/{self.stored.job_id}"

    @property
    def vehicle_words(self) -> str:
        """One line about the vehicle."""
        vehicle = self.stored.job.vehicle
        parts = [
            VEHICLE_WORDS[vehicle.kind],
            f"{vehicle.nominal_v} V",
            f"headlights switched on the {vehicle.headlamps} side",
        ]
        if vehicle.data_bus == "supervised":
            parts.append("data-bus supervised")
        if vehicle.body == "composite":
            parts.append("composite body")
        return ", ".join(parts)


VEHICLE_WORDS = {
    "pickup": "pickup",
    "wagon": "wagon",
    "van": "van",
    "lorry": "box lorry",
    "motorcycle": "motorcycle",
    "side_by_side": "side-by-side",
}


def shell_of(stored: StoredJob, current: str) -> Shell:
    """Return the frame for a job, with one stage marked as current."""
    made = designed(stored.job)
    base = f"/jobs/{stored.job_id}"
    accessories = bool(stored.job.accessories)
    stages = (
        Stage(key="brief", label="Brief", icon="clipboard", url=f"{base}/brief", mark="ready"),
        Stage(key="accessories", label="Accessories", icon="lamp", url=f"{base}/accessories",
              mark="ready" if accessories else "empty"),
        Stage(key="survey", label="Survey", icon="probe", url=f"{base}/survey",
              mark="ready" if stored.job.survey.known else "empty"),
        Stage(key="layout", label="Layout", icon="map", url=f"{base}/layout",
              mark="ready" if stored.job.layout else "empty"),
        Stage(key="circuits", label="Circuits", icon="route", url=f"{base}/circuits",
              mark=worst(made) if made.circuits else "empty"),
        Stage(key="history", label="History", icon="history", url=f"{base}/history", mark="none"),
    )  # fmt: skip
    return Shell(stored=stored, design=made, stages=stages, current=current)


def worst(made: Design | CircuitDesign) -> str:
    """Return the worst open severity, or ready."""
    severities: tuple[Severity, ...] = ("stop", "caution")
    for severity in severities:
        if made.count(severity):
            return severity
    return "ready"
