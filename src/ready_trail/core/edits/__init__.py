"""Edits: small typed commands that turn one job into the next. ``apply`` never mutates."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, TypeAdapter

from ready_trail.core.edits.accessory import (
    AccessoryDraft,
    AddAccessory,
    ChangeAccessory,
    GiveSwitch,
    PutOnCircuit,
    RemoveAccessory,
    SetDuty,
    SplitAccessory,
)
from ready_trail.core.edits.accessory_list import AddAccessories
from ready_trail.core.edits.base import Edit
from ready_trail.core.edits.branch import (
    BringTogether,
    ChangeBranch,
    GiveBranches,
    MoveBranch,
    MoveUnits,
    PlaceBranch,
    SetJoint,
)
from ready_trail.core.edits.channels import FillChannels
from ready_trail.core.edits.circuit import (
    AcceptFinding,
    FeedCoilFromCommon,
    FitCoilResistor,
    FitGrommet,
    HoldChoice,
    MoveFuse,
    MoveRelay,
    ReleaseChoice,
    RenameCircuit,
    SeparateRun,
    SetReturn,
    SetRun,
    SleeveAgainstHeat,
    WithdrawAcceptance,
)
from ready_trail.core.edits.earths import EarthAll
from ready_trail.core.edits.found import ForgetFound, RecordFound, SetKit
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
from ready_trail.core.edits.output import (
    JoinOutputs,
    ProveOutput,
    SetCircuitUse,
    SplitOutputs,
)
from ready_trail.core.edits.remedy import (
    ChargeByCharger,
    CoolStart,
    GatherAtStud,
    ReturnsToBus,
    TriggerByIsolator,
)
from ready_trail.core.edits.scenario import (
    AcceptBudget,
    ProposeScenarios,
    RemoveScenario,
    SaveScenario,
    SetDay,
    SetRunning,
    WithdrawBudget,
)
from ready_trail.core.edits.spools import KeepSpools
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
    SetRestStart,
    SetTogether,
    StartAt,
    StartBehindConverter,
    WakePoint,
)
from ready_trail.core.edits.survey import (
    AddProbe,
    NoteEarthTest,
    NoteFuse,
    NoteItem,
    ReadProbe,
    RemoveItem,
    RemoveProbe,
    SetSignalLimit,
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
    | EarthAll
    | FeedPoint
    | FillChannels
    | ChangePoint
    | RemoveSupply
    | StartAt
    | StartBehindConverter
    | WakePoint
    | SetTogether
    | SetFeederUse
    | SetRestStart
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
    | SplitOutputs
    | JoinOutputs
    | SetCircuitUse
    | ProveOutput
    | GiveBranches
    | BringTogether
    | SetJoint
    | ChangeBranch
    | MoveBranch
    | MoveUnits
    | PlaceBranch
    | RenameCircuit
    | SetRun
    | SetReturn
    | MoveFuse
    | FitGrommet
    | FitCoilResistor
    | MoveRelay
    | GiveSwitch
    | SleeveAgainstHeat
    | SeparateRun
    | FeedCoilFromCommon
    | SetKit
    | RecordFound
    | ForgetFound
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
    | NoteFuse
    | SetSignalLimit
    | RemoveProbe
    | UseProbe
    | NoteItem
    | RemoveItem
    | AcceptBudget
    | ProposeScenarios
    | RemoveScenario
    | SaveScenario
    | SetDay
    | SetRunning
    | WithdrawBudget
    | TriggerByIsolator
    | GatherAtStud
    | ReturnsToBus
    | CoolStart
    | ChargeByCharger
    | KeepSpools,
    Field(discriminator="kind"),
]
EDIT_ADAPTER: TypeAdapter[AnyEdit] = TypeAdapter(AnyEdit)


def apply(job: Job, edit: Edit) -> Job:
    """Return the job after an edit. Raises EditRefusedError when it does not fit the job."""
    return edit.apply(job)


__all__ = [
    "KeepSpools",
    "AcceptBudget",
    "ProposeScenarios",
    "RemoveScenario",
    "SaveScenario",
    "SetDay",
    "SetRunning",
    "WithdrawBudget",
    "ChargeByCharger",
    "CoolStart",
    "GatherAtStud",
    "ReturnsToBus",
    "TriggerByIsolator",
    "BringTogether",
    "ChangeBranch",
    "GiveBranches",
    "JoinOutputs",
    "MoveBranch",
    "MoveUnits",
    "PlaceBranch",
    "ProveOutput",
    "SetCircuitUse",
    "SetJoint",
    "SplitOutputs",
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
    "EarthAll",
    "FeedPoint",
    "FillChannels",
    "FitEndFuse",
    "ForgetFound",
    "RecordFound",
    "SetKit",
    "FitGrommet",
    "FitCoilResistor",
    "MoveRelay",
    "GiveSwitch",
    "SleeveAgainstHeat",
    "HoldChoice",
    "JoinPoints",
    "KeepApart",
    "MoveFuse",
    "MovePoint",
    "NoteEarthTest",
    "NoteFuse",
    "SetSignalLimit",
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
    "SetRestStart",
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
