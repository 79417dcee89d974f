"""The design: what follows from a job."""

from ready_trail.core.design.design import design, job_network, what_if
from ready_trail.core.design.solved import choose_outlet
from ready_trail.core.outcome import (
    Action,
    CircuitDesign,
    Design,
    Finding,
    PointDesign,
    Profile,
    ProfileStep,
)

__all__ = [
    "Action",
    "CircuitDesign",
    "Design",
    "Finding",
    "PointDesign",
    "Profile",
    "ProfileStep",
    "choose_outlet",
    "design",
    "job_network",
    "what_if",
]
