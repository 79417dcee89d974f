"""What every part of the job document shares: its base and its kinds of text."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, StringConstraints

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
Note = Annotated[str, StringConstraints(strip_whitespace=True, max_length=400)]
Ident = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9]{0,15}$")]


class Stated(BaseModel):
    """Base of every part of the document: frozen, no unknown keys, no infinities."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
