"""The survey: what was found on the vehicle. Stated, like everything in the document."""

from __future__ import annotations

from typing import Annotated, Literal, get_args

from pydantic import Field

from ready_trail.core.job.parts import Ident, Name, Note, ShortText, Stated
from ready_trail.core.kinds.finds import FIND_KINDS, FindKind

ProbeState = Literal[
    "off",
    "accessory",
    "run",
    "side",
    "low",
    "high",
    "cranking",
    "coasting",
    "brake",
    "left",
    "right",
    "reverse",
    "charging",
    "fuse_out",
]
PROBE_STATES: tuple[ProbeState, ...] = get_args(ProbeState)
Level = Literal["lit", "dark", "dim"]
Volts = Annotated[float, Field(ge=-60, le=60)]


class ProbeReading(Stated):
    """What a lamp or meter said in one vehicle state."""

    state: ProbeState
    value: Level | Volts


class Probe(Stated):
    """A candidate wire, with what a lamp or meter said of it in each vehicle state.

    A reading is ``lit``, ``dark`` or ``dim``, or the volts of a meter. ``unplugged`` is the
    reading with every headlamp unplugged; ``lamp_left_v`` what is left to the battery negative
    with a 21 W lamp from battery positive to this wire. ``fuse`` names the fuse that was pulled
    for the reading "fuse_out", with its rating.
    """

    id: Ident
    name: Name
    colour: ShortText = ""
    place: ShortText = ""
    cavity: ShortText = ""
    readings: Annotated[tuple[ProbeReading, ...], Field(max_length=16)] = ()
    fuse: ShortText = ""
    fuse_a: Annotated[float, Field(ge=0.5, le=500)] | None = None
    unplugged: Level | Volts | None = None
    lamp_left_v: Annotated[float, Field(ge=0, le=60)] | None = None
    note: Note = ""


KnownFunction = Literal[
    "constant",
    "accessory",
    "ignition",
    "illumination",
    "low_beam",
    "high_beam",
    "earth",
    "brake",
    "left",
    "right",
    "reverse",
    "charging",
]


class KnownWire(Stated):
    """A probed wire that became a feed or a trigger of this job."""

    id: Ident
    function: KnownFunction
    switched_on_earth: bool = False
    probe_id: Ident
    words: Name
    fuse: ShortText = ""


SurveyKind = Literal[
    "factory_channel",
    "tapped_circuit",
    "spare_fuse",
    "converter",
    "fuse_panel",
    "earth_point",
    "panel",
    "mount",
    "switch_place",
    "hazard",
]
SurveyAmps = Annotated[float, Field(ge=0, le=500)]


class SurveyItem(Stated):
    """Something found on the walk around: a feed, an earth, a hole, a place, a hazard.

    ``key`` tells when a feed is live, where that is known.
    """

    id: Ident
    kind: SurveyKind
    name: Name
    place: ShortText = ""
    key: Literal["", "always", "accessory", "run"] = ""
    fuse_a: SurveyAmps | None = None
    limit_a: SurveyAmps | None = None
    carries_a: SurveyAmps | None = None
    drop_mv_at_10_a: Annotated[float, Field(ge=0, le=12_000)] | None = None
    diameter_mm: Annotated[float, Field(gt=0, le=200)] | None = None
    temperature_c: Annotated[float, Field(ge=-40, le=400)] | None = None
    flat: bool | None = None
    dry: bool | None = None
    reachable: bool | None = None
    upright: bool | None = None
    note: Note = ""

    @property
    def is_a(self) -> FindKind:
        """What its kind is good for."""
        return FIND_KINDS[self.kind]


class Survey(Stated):
    """All that the walk around the vehicle brought. ``last_probe`` is the last number given."""

    last_probe: Annotated[int, Field(ge=0, le=99_999)] = 0
    probes: Annotated[tuple[Probe, ...], Field(max_length=200)] = ()
    known: Annotated[tuple[KnownWire, ...], Field(max_length=50)] = ()
    items: Annotated[tuple[SurveyItem, ...], Field(max_length=300)] = ()
