"""Edits: small typed commands that turn one job into the next. ``apply`` never mutates."""

from __future__ import annotations

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated

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
from ready_trail.core.edits.as_built import HoldAsBuilt
from ready_trail.core.edits.base import KINDS, Edit
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
    MovePoint,
    ProtectHole,
    RemovePoint,
    RenamePoint,
    SetLayout,
)
from ready_trail.core.edits.looms import CountInLoom
from ready_trail.core.edits.output import (
    JoinOutputs,
    ProveOutput,
    SetCircuitUse,
    SplitOutputs,
)
from ready_trail.core.edits.placing import KeepApart, PlaceCircuit, PlaceMany, PlaceThing
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
from ready_trail.core.edits.second_point import SecondPoint
from ready_trail.core.edits.spools import KeepSpools
from ready_trail.core.edits.supply import (
    AddSupply,
    ChangePoint,
    FeedPoint,
    FitEndFuse,
    PointDraft,
    RemoveSupply,
    SetFeederUse,
    SetRestStart,
    SetTogether,
    StartAt,
    StartBehindConverter,
    WakePoint,
)
from ready_trail.core.edits.survey import (
    AddProbe,
    NoteFuse,
    NoteItem,
    ReadProbe,
    RemoveItem,
    RemoveProbe,
    SetSignalLimit,
    UseProbe,
)
from ready_trail.core.edits.switches import AddSwitch, ChangeSwitch, RemoveSwitch
from ready_trail.core.edits.what_if import WhatIf
from ready_trail.core.edits.whole import RenameJob, SetHouseRules, SetVehicle
from ready_trail.core.job.document import Job

if TYPE_CHECKING:
    AnyEdit = Edit
else:
    AnyEdit = Annotated[reduce(or_, KINDS.values()), Field(discriminator="kind")]
EDIT_ADAPTER: TypeAdapter[AnyEdit] = TypeAdapter(AnyEdit)


def apply(job: Job, edit: Edit) -> Job:
    """Return the job after an edit. Raises EditRefusedError when it does not fit the job."""
    return edit.apply(job)
