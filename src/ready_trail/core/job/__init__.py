"""The job: what a person stated, and the edits that change it."""

from ready_trail.core.job.document import (
    SCHEMA_VERSION,
    AcceptedFinding,
    Accessory,
    Battery,
    Circuit,
    FuseBlock,
    HeldChoices,
    HouseRules,
    InputWire,
    Job,
    Panel,
    Return,
    Segment,
    Use,
    Vehicle,
)

__all__ = [
    "SCHEMA_VERSION",
    "AcceptedFinding",
    "Accessory",
    "Battery",
    "Circuit",
    "FuseBlock",
    "HeldChoices",
    "HouseRules",
    "InputWire",
    "Job",
    "Panel",
    "Return",
    "Segment",
    "Use",
    "Vehicle",
]
