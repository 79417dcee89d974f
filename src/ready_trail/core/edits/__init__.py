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
    ProtectHole,
    RemovePoint,
    SetLayout,
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
from ready_trail.core.edits.whole import (
    RemoveBlock,
    RenameJob,
    SetBlock,
    SetHouseRules,
    SetVehicle,
)
from ready_trail.core.job.document import Job

AnyEdit = Annotated[
    RenameJob
    | SetVehicle
    | SetHouseRules
    | SetBlock
    | RemoveBlock
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
    "EDIT_ADAPTER",
    "AcceptFinding",
    "AccessoryDraft",
    "AddAccessories",
    "AddAccessory",
    "PutOnCircuit",
    "AddPoint",
    "AddProbe",
    "ChangeLeg",
    "JoinPoints",
    "KeepApart",
    "MovePoint",
    "PlaceCircuit",
    "ProtectHole",
    "ReadProbe",
    "RemovePoint",
    "RemoveProbe",
    "SetLayout",
    "NoteEarthTest",
    "NoteItem",
    "RemoveItem",
    "UseProbe",
    "AnyEdit",
    "ChangeAccessory",
    "Edit",
    "FeedCoilFromCommon",
    "FitGrommet",
    "HoldChoice",
    "MoveFuse",
    "ReleaseChoice",
    "RemoveAccessory",
    "RemoveBlock",
    "RenameCircuit",
    "RenameJob",
    "SeparateRun",
    "SetBlock",
    "SetHouseRules",
    "SetReturn",
    "SetRun",
    "SetVehicle",
    "SplitAccessory",
    "WhatIf",
    "WithdrawAcceptance",
    "apply",
]
