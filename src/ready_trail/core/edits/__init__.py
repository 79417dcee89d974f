"""Edits: small typed commands that turn one job into the next. ``apply`` never mutates."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, TypeAdapter

from ready_trail.core.edits.accessory import (
    AccessoryDraft,
    AddAccessories,
    AddAccessory,
    ChangeAccessory,
    PutOnCircuit,
    RemoveAccessory,
    SetDuty,
    SplitAccessory,
)
from ready_trail.core.edits.base import Edit
from ready_trail.core.edits.circuit import (
    AcceptFinding,
    FeedCoilFromCommon,
    FitGrommet,
    HoldChoice,
    MoveFuse,
    ReleaseChoice,
    RenameCircuit,
    SeparateRun,
    SetReturn,
    SetRun,
    WithdrawAcceptance,
)
from ready_trail.core.edits.layout import (
    AddPoint,
    ChangeLeg,
    JoinPoints,
    KeepApart,
    MovePoint,
    PlaceCircuit,
    PlaceMany,
    ProtectHole,
    RemovePoint,
    RenamePoint,
    SetLayout,
)
from ready_trail.core.edits.supply import (
    AddSupply,
    AddSwitch,
    ChangePoint,
    ChangeSwitch,
    FeedPoint,
    FitEndFuse,
    PlaceThing,
    PointDraft,
    RemoveSupply,
    RemoveSwitch,
    SetFeederUse,
    SetTogether,
    StartAt,
    StartBehindConverter,
    WakePoint,
)
from ready_trail.core.edits.survey import (
    AddProbe,
    NoteEarthTest,
    NoteItem,
    ReadProbe,
    RemoveItem,
    RemoveProbe,
    UseProbe,
)
from ready_trail.core.edits.what_if import WhatIf
from ready_trail.core.edits.whole import RenameJob, SetHouseRules, SetVehicle
from ready_trail.core.job.document import Job

AnyEdit = Annotated[
    RenameJob
    | SetVehicle
    | SetHouseRules
    | AddSupply
    | FeedPoint
    | ChangePoint
    | RemoveSupply
    | StartAt
    | StartBehindConverter
    | WakePoint
    | SetTogether
    | SetFeederUse
    | FitEndFuse
    | AddSwitch
    | ChangeSwitch
    | RemoveSwitch
    | PlaceThing
    | PlaceMany
    | RenamePoint
    | SetDuty
    | AddAccessory
    | AddAccessories
    | PutOnCircuit
    | ChangeAccessory
    | RemoveAccessory
    | SplitAccessory
    | RenameCircuit
    | SetRun
    | SetReturn
    | MoveFuse
    | FitGrommet
    | SeparateRun
    | FeedCoilFromCommon
    | HoldChoice
    | ReleaseChoice
    | AcceptFinding
    | WithdrawAcceptance
    | WhatIf
    | SetLayout
    | MovePoint
    | AddPoint
    | RemovePoint
    | JoinPoints
    | ChangeLeg
    | PlaceCircuit
    | ProtectHole
    | KeepApart
    | AddProbe
    | ReadProbe
    | NoteEarthTest
    | RemoveProbe
    | UseProbe
    | NoteItem
    | RemoveItem,
    Field(discriminator="kind"),
]
EDIT_ADAPTER: TypeAdapter[AnyEdit] = TypeAdapter(AnyEdit)


def apply(job: Job, edit: Edit) -> Job:
    """Return the job after an edit. Raises EditRefusedError when it does not fit the job."""
    return edit.apply(job)


__all__ = [
    "AcceptFinding",
    "AccessoryDraft",
    "AddAccessories",
    "AddAccessory",
    "AddPoint",
    "AddProbe",
    "AddSupply",
    "AddSwitch",
    "AnyEdit",
    "ChangeAccessory",
    "ChangeLeg",
    "ChangePoint",
    "ChangeSwitch",
    "EDIT_ADAPTER",
    "Edit",
    "FeedCoilFromCommon",
    "FeedPoint",
    "FitEndFuse",
    "FitGrommet",
    "HoldChoice",
    "JoinPoints",
    "KeepApart",
    "MoveFuse",
    "MovePoint",
    "NoteEarthTest",
    "NoteItem",
    "PlaceCircuit",
    "PlaceMany",
    "PlaceThing",
    "PointDraft",
    "ProtectHole",
    "PutOnCircuit",
    "ReadProbe",
    "ReleaseChoice",
    "RemoveAccessory",
    "RemoveItem",
    "RemovePoint",
    "RemoveProbe",
    "RemoveSupply",
    "RemoveSwitch",
    "RenameCircuit",
    "RenameJob",
    "RenamePoint",
    "SeparateRun",
    "SetDuty",
    "SetFeederUse",
    "SetHouseRules",
    "SetLayout",
    "SetReturn",
    "SetRun",
    "SetTogether",
    "SetVehicle",
    "SplitAccessory",
    "StartAt",
    "StartBehindConverter",
    "UseProbe",
    "WakePoint",
    "WhatIf",
    "WithdrawAcceptance",
    "apply",
]
