"""Sizing requests by single facts, so that a test states only what it is about."""

from __future__ import annotations

from dataclasses import fields, replace
from typing import Any

from ready_trail.core.sizing import (
    Fusing,
    Path,
    SizingRequest,
    Steady,
    Supply,
    Switching,
    WireAsked,
)

_GROUPS = {"path": Path, "rule": Steady, "fusing": Fusing, "supply": Supply, "wire": WireAsked}
_OWNER = {f.name: group for group, kind in _GROUPS.items() for f in fields(kind)}


def asked(*, current_a: float, drop_limit_v: float, **facts: Any) -> SizingRequest:
    """A request with the defaults, and some facts; ``relay=None`` for one without a relay."""
    bare = SizingRequest(current_a=current_a, drop_limit_v=drop_limit_v, path=Path(), rule=Steady())
    return but(bare, **facts)


def but(request: SizingRequest, **facts: Any) -> SizingRequest:
    """The same request with some facts changed, wherever they stand in it."""
    changes: dict[str, Any] = {}
    if "relay" in facts:
        changes["switching"] = Switching() if facts.pop("relay") is not None else None
    for name, value in facts.items():
        group = _OWNER.get(name)
        if group is None:
            changes[name] = value
        else:
            changes[group] = replace(changes.get(group, getattr(request, group)), **{name: value})
    return replace(request, **changes)
