"""Switching schemes. A new one is a new module beside these and one line in ``ALL``.

They are asked in this order; the first that proposes itself is taken.
"""

from __future__ import annotations

from ready_trail.core.schemes import (
    changeover,
    channel,
    channel_pass,
    direct,
    high_beam_earth,
    high_beam_positive,
    interlock,
    kept_feed,
    link_sensing,
    low_beam_kept,
    relay_cuts,
    relay_earth,
    relay_in_block,
    relay_positive,
    relay_signal,
    relay_unit,
    reversing,
    series_relay,
    two_feeds,
    two_triggers,
    winch,
    winch_remote,
)
from ready_trail.core.schemes.base import Ask, Bench, Scheme

ALL: tuple[Scheme, ...] = (
    winch_remote.SCHEME,
    reversing.SCHEME,
    winch.SCHEME,
    series_relay.SCHEME,
    interlock.SCHEME,
    relay_cuts.SCHEME,
    changeover.SCHEME,
    two_feeds.SCHEME,
    low_beam_kept.SCHEME,
    kept_feed.SCHEME,
    two_triggers.SCHEME,
    relay_unit.SCHEME,
    channel.TRIGGER,
    channel.DIRECT,
    high_beam_earth.SCHEME,
    high_beam_positive.SCHEME,
    link_sensing.SCHEME,
    relay_in_block.SCHEME,
    direct.SCHEME,
    relay_earth.SCHEME,
    relay_positive.SCHEME,
    relay_signal.SCHEME,
    channel_pass.SCHEME,
)
BY_KEY: dict[str, Scheme] = {scheme.key: scheme for scheme in ALL}


def propose(ask: Ask) -> tuple[Scheme, str]:
    """Return the scheme that fits how the circuit is used, with the reason in a sentence."""
    for scheme in ALL:
        reason = scheme.proposal(ask)
        if reason:
            return scheme, reason
    return relay_positive.SCHEME, "No scheme fits this use as it is stated."


__all__ = ["ALL", "BY_KEY", "Ask", "Bench", "Scheme", "propose"]
