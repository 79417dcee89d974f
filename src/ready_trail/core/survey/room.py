"""How much room a found feed has, and what a found place is good for (docs/rules/supply.md)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ready_trail.core.job.survey import SurveyItem

EARTH_MOST_MV = 50.0
"""The drop of a good earth at 10 A (trade)."""

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
    kind = item.is_a
    if kind.share is not None:
        return _feed(item, kind.share)
    if kind.is_earth:
        return _earth(item)
    if kind.is_place:
        return _mount(item)
    if kind.is_hazard:
        return Room(standing="caution", words="Keep wires away, or sleeve and clip them.")
    if kind.is_panel:
        size = f"{item.diameter_mm:g} mm hole. " if item.diameter_mm else ""
        return Room(standing="note", words=f"{size}State it on the leg that passes it.")
    return Room(standing="note", words="Find and prove its positions before use.")


def _feed(item: SurveyItem, ratio: float) -> Room:
    carries_a, by_output = item.carries_a or 0.0, item.is_a.by_output
    rating_a = item.limit_a if by_output else item.fuse_a
    if rating_a is None:
        what = "output rating" if by_output else "fuse"
        return Room(standing="caution", words=f"State its {what} to see how much room it has.")
    most_a = ratio * rating_a
    if item.limit_a is not None and not by_output:
        most_a = min(most_a, item.limit_a)
    spare_a = most_a - carries_a
    share = f"{ratio:.0%} of {rating_a:g} A is {ratio * rating_a:.1f} A"
    if item.carries_a is None and item.is_a.serves_already:
        return Room(
            standing="caution",
            words=f"{share}, less what it carries already: clamp it with all of it on, state it.",
        )
    if spare_a <= 0.0:
        return Room(
            standing="stop",
            spare_a=0.0,
            words=f"No room: {share}, and it carries {carries_a:g} A. A trigger only.",
        )
    return Room(
        standing="ready",
        spare_a=spare_a,
        words=f"Room for {spare_a:.1f} A more: {share}, and it carries {carries_a:g} A.",
    )


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
    if item.is_a.is_for_parts and wanting:
        return Room(standing="caution", words=f"Not {', not '.join(wanting)}.")
    if item.is_a.is_for_parts and unknown:
        return Room(standing="note", words=f"Not known yet: {', '.join(unknown)}?")
    if item.is_a.is_for_parts and item.upright is False:
        return Room(standing="ready", words="Good, but for what must stand upright.")
    return Room(standing="ready", words="Good for a relay, a fuse block or a switch.")
