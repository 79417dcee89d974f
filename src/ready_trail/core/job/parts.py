"""What every part of the job document shares: its base and its kinds of text and number."""

from __future__ import annotations

import unicodedata
from typing import Annotated, Literal

from pydantic import (
    AfterValidator,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    StringConstraints,
)


def _whole(value: object) -> object:
    """Take digits typed into a form for the whole number that they are."""
    if isinstance(value, str) and value.isascii() and value.isdigit() and len(value) < 8:
        return int(value)
    return value


def _readable(text: str) -> str:
    """Refuse what no file and no drawing can hold: control characters and lone surrogates."""
    if any(unicodedata.category(char) in ("Cc", "Cs") for char in text):
        raise ValueError("it holds a character that cannot be printed")
    return text


Readable = AfterValidator(_readable)
"""Of a text: nothing in it that no file and no drawing can hold."""

Name = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), Readable
]
Note = Annotated[str, StringConstraints(strip_whitespace=True, max_length=400), Readable]
EndKind = Literal["", "ferrule", "fork", "ring", "blade_6_3", "blade_9_5", "butt"]
"""What a wire ends in at a terminal, as its maker says."""
StudSize = Literal["", "M5", "M6", "M8", "M10"]
TakesMm2 = Annotated[float, Field(ge=0.3, le=120)]

ShortText = Annotated[str, StringConstraints(strip_whitespace=True, max_length=60), Readable]
WireName = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=40, pattern=r"^[^:;]+$"),
    Readable,
]
Ident = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9]{0,15}$")]
Number = Annotated[int, Field(ge=1, le=99_999)]
ZoneKey = Annotated[str, StringConstraints(pattern=r"^[a-z_]{2,20}$")]
ColourCode = Annotated[str, StringConstraints(pattern=r"^[A-Z]{2}(/[A-Z]{2})?$")]
NominalVolts = Annotated[Literal[12, 24, 48], BeforeValidator(_whole)]
InsulationClass = Annotated[Literal[80, 90, 105, 125], BeforeValidator(_whole)]
ControlFuse = Annotated[Literal[2, 3, 5], BeforeValidator(_whole)]
Throws = Annotated[Literal[1, 2], BeforeValidator(_whole)]


class Stated(BaseModel):
    """Base of every part of the document: frozen, no unknown keys, no infinities."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
