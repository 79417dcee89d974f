"""The job: what a person stated, and the edits that change it."""

from ready_trail.core.job.accessory import Accessory, Channel, InputWire, Use
from ready_trail.core.job.circuit import (
    AcceptedFinding,
    Circuit,
    HeldChoices,
    Penetration,
    Return,
    Segment,
)
from ready_trail.core.job.document import SCHEMA_VERSION, Job
from ready_trail.core.job.lift import lifted
from ready_trail.core.job.supply import BATTERY, Point, Position, PrintedPin, SignalPlace, Switch
from ready_trail.core.job.vehicle import Battery, HouseRules, Vehicle

__all__ = [
    "BATTERY",
    "SCHEMA_VERSION",
    "AcceptedFinding",
    "Accessory",
    "Battery",
    "Channel",
    "Circuit",
    "HeldChoices",
    "HouseRules",
    "InputWire",
    "Job",
    "Penetration",
    "Point",
    "Position",
    "PrintedPin",
    "Return",
    "Segment",
    "SignalPlace",
    "Switch",
    "Use",
    "Vehicle",
    "lifted",
]
