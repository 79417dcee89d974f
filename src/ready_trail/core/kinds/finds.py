"""The kinds of things found on the walk around a vehicle: what each may become; one row a kind."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ready_trail.core.forms import YES_NO, Asked

CHANNEL_RATIO = 0.80
TAP_RATIO = 0.80
CONVERTER_RATIO = 0.80
"""Shares of its rating that a feed may carry (trade)."""


_YES_NO = (("", "not known"), *YES_NO)
_FUSE = Asked(path="fuse_a", title="Its fuse", unit="A")
_CARRIES = Asked(
    path="carries_a",
    title="Carries already",
    unit="A",
    hint="Clamped with all of it on; 0 where nothing hangs on it.",
)
_LIMIT = Asked(path="limit_a", title="Continuous limit", unit="A", blank="by its fuse")
_LIVE = Asked(
    path="key",
    title="Live",
    choices=(
        ("", "as its note says"),
        ("always", "always"),
        ("accessory", "with the accessory key"),
        ("run", "with the ignition"),
    ),
)
_GETS_TO = Asked(path="temperature_c", title="Gets to", unit="°C")
_STANDS = (
    Asked(path="flat", title="Flat", choices=_YES_NO),
    Asked(path="dry", title="Dry", choices=_YES_NO),
    Asked(path="reachable", title="Within reach", choices=_YES_NO),
    Asked(path="upright", title="Parts stand upright", choices=_YES_NO),
    _GETS_TO,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class FindKind:
    """One kind of find: its ``words`` and the facts that it ``asks`` for.

    ``share`` is what of its rating a feed may carry (trade), None where it is no feed; it is rated
    by its ``output`` or by its fuse. One that ``serves_already`` has no room that is known until
    what it carries is stated. ``becomes`` names the kind of point that circuits may start at. A
    ``place`` is judged by its figures; one for parts must be flat, dry and within reach.
    """

    key: str
    words: str
    asks: tuple[Asked, ...] = ()
    share: float | None = None
    serves_already: bool = False
    by_output: bool = False
    becomes: str = ""
    is_earth: bool = False
    is_place: bool = False
    is_for_parts: bool = False
    is_panel: bool = False
    is_hazard: bool = False


FIND_KINDS: Mapping[str, FindKind] = {
    kind.key: kind
    for kind in (
        FindKind(
            key="factory_channel",
            words="factory channel",
            asks=(_FUSE, _LIMIT, _CARRIES, _LIVE),
            share=CHANNEL_RATIO,
            becomes="factory_bank",
        ),
        FindKind(
            key="tapped_circuit",
            words="circuit to tap",
            asks=(_FUSE, _LIMIT, _CARRIES, _LIVE),
            share=TAP_RATIO,
            serves_already=True,
            becomes="tapped",
        ),
        FindKind(
            key="spare_fuse",
            words="spare fuse position",
            asks=(_FUSE, _LIMIT, _CARRIES, _LIVE),
            share=TAP_RATIO,
            becomes="tapped",
        ),
        FindKind(
            key="converter",
            words="converter output",
            asks=(Asked(path="limit_a", title="Output rating", unit="A"), _CARRIES),
            share=CONVERTER_RATIO,
            by_output=True,
            becomes="converter",
        ),
        FindKind(key="fuse_panel", words="fuse panel"),
        FindKind(
            key="earth_point",
            words="earth point",
            asks=(Asked(path="drop_mv_at_10_a", title="Drop at 10 A", unit="mV"),),
            is_earth=True,
        ),
        FindKind(
            key="panel",
            words="panel with a hole",
            asks=(Asked(path="diameter_mm", title="Hole", unit="mm"),),
            is_panel=True,
        ),
        FindKind(
            key="mount", words="mounting place", asks=_STANDS, is_place=True, is_for_parts=True
        ),
        FindKind(key="switch_place", words="switch place", asks=_STANDS, is_place=True),
        FindKind(
            key="hazard", words="hazard: hot, moving, sharp", asks=(_GETS_TO,), is_hazard=True
        ),
    )
}
"""Every kind, by its name in documents."""
