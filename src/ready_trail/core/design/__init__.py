"""The design: what follows from a job."""

from ready_trail.core.design.circuit import design_circuit
from ready_trail.core.design.design import design, job_feeder, job_network, redesign
from ready_trail.core.outcome import (
    Action,
    CircuitDesign,
    Design,
    FeederDesign,
    Finding,
    Profile,
    ProfileStep,
)

__all__ = [
    "Action",
    "CircuitDesign",
    "Design",
    "FeederDesign",
    "Finding",
    "Profile",
    "ProfileStep",
    "design",
    "design_circuit",
    "job_feeder",
    "job_network",
    "redesign",
]
