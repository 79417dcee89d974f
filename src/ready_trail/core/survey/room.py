"""How much room a found feed has, and what a found place is good for (docs/rules/supply.md)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ready_trail.core.job.survey import SurveyItem

CHANNEL_RATIO = 0.70
TAP_RATIO = 0.80
CONVERTER_RATIO = 0.80
EARTH_MOST_MV = 50.0
"""Shares of a rating that a feed may carry, and the drop of a good earth at 10 A (trade)."""

HOT_C = 85.0

Standing = Literal["ready", "caution", "stop", "note"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Room:
    """What may be done with a found thing, in a sentence; ``spare_a`` where it is a feed."""

    standing: Standing
    words: str
    spare_a: float | None = None


def room(item: SurveyItem) -> Room:
    """Return what a found feed, earth or place is good for."""
    if item.kind in ("factory_channel", "tapped_circuit", "spare_fuse", "converter"):
        return _feed(item)
    if item.kind == "earth_point":
        return _earth(item)
    if item.kind in ("mount", "switch_place"):
        return _mount(item)
    if item.kind == "hazard":
        return Room(standing="caution", words="Keep wires away, or sleeve and clip them.")
    if item.kind == "panel":
        size = f"{item.diameter_mm:g} mm hole. " if item.diameter_mm else ""
        return Room(standing="note", words=f"{size}State it on the leg that passes it.")
    return Room(standing="note", words="Find and prove its positions before use.")


def _feed(item: SurveyItem) -> Room:
    carries_a = item.carries_a or 0.0
    ratio = {"factory_channel": CHANNEL_RATIO, "converter": CONVERTER_RATIO}.get(
        item.kind, TAP_RATIO
    )
    rating_a = item.limit_a if item.kind == "converter" else item.fuse_a
    if rating_a is None:
        what = "output rating" if item.kind == "converter" else "fuse"
        return Room(standing="caution", words=f"State its {what} to see how much room it has.")
    most_a = ratio * rating_a
    if item.limit_a is not None:
        most_a = min(most_a, item.limit_a if item.kind != "converter" else most_a)
    spare_a = most_a - carries_a
    share = f"{ratio:.0%} of {rating_a:g} A is {ratio * rating_a:.1f} A"
    if spare_a <= 0.0:
        return Room(
            standing="stop", spare_a=0.0,
            words=f"No room: {share}, and it carries {carries_a:g} A. A trigger only.",
        )  # fmt: skip
    return Room(
        standing="ready", spare_a=spare_a,
        words=f"Room for {spare_a:.1f} A more: {share}, and it carries {carries_a:g} A.",
    )  # fmt: skip


def _earth(item: SurveyItem) -> Room:
    if item.drop_mv_at_10_a is None:
        return Room(standing="caution", words="Measure it: at most 50 mV with 10 A through it.")
    ohm = f"{item.drop_mv_at_10_a / 10:.1f} mΩ"
    if item.drop_mv_at_10_a <= EARTH_MOST_MV:
        return Room(standing="ready", words=f"Good: {item.drop_mv_at_10_a:g} mV at 10 A, {ohm}.")
    return Room(
        standing="stop",
        words=f"Poor: {item.drop_mv_at_10_a:g} mV at 10 A, {ohm}. Clean it or find another.",
    )


def _mount(item: SurveyItem) -> Room:
    wanting = [
        word
        for word, holds in (("flat", item.flat), ("dry", item.dry), ("reachable", item.reachable))
        if holds is False
    ]
    unknown = [
        word
        for word, holds in (("flat", item.flat), ("dry", item.dry), ("reachable", item.reachable))
        if holds is None
    ]
    if item.temperature_c is not None and item.temperature_c > HOT_C:
        return Room(
            standing="stop",
            words=f"Too hot for relays and fuses: {item.temperature_c:g} °C, {HOT_C:g} at most.",
        )
    if item.kind == "mount" and wanting:
        return Room(standing="caution", words=f"Not {', not '.join(wanting)}.")
    if item.kind == "mount" and unknown:
        return Room(standing="note", words=f"Not known yet: {', '.join(unknown)}?")
    if item.kind == "mount" and item.upright is False:
        return Room(standing="ready", words="Good, but for what must stand upright.")
    return Room(standing="ready", words="Good for a relay, a fuse block or a switch.")
