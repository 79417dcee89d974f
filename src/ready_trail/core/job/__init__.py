"""The job: what a person stated, and the edits that change it."""

from ready_trail.core.job.accessory import Accessory, Channel, InputWire, Output, Use
from ready_trail.core.job.branch import Branch, BranchReturn, Share
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
from ready_trail.core.job.points import BATTERY, Point, Position, PrintedPin, SignalPlace, Switch
from ready_trail.core.job.scenario import DayPart, Running, Scenario
from ready_trail.core.job.vehicle import Battery, HouseRules, Vehicle

__all__ = [
    "Branch",
    "BranchReturn",
    "Output",
    "Share",
    "BATTERY",
    "SCHEMA_VERSION",
    "AcceptedFinding",
    "Accessory",
    "Battery",
    "Channel",
    "Circuit",
    "DayPart",
    "HeldChoices",
    "HouseRules",
    "InputWire",
    "Job",
    "Penetration",
    "Point",
    "Position",
    "PrintedPin",
    "Return",
    "Running",
    "Scenario",
    "Segment",
    "SignalPlace",
    "Switch",
    "Use",
    "Vehicle",
    "lifted",
]
