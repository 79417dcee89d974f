"""What readings are taken with: one file an instrument, found by its key."""

from __future__ import annotations

from collections.abc import Mapping

from ready_trail.core.instruments.base import Instrument, NotReadableError
from ready_trail.core.instruments.clamp import Clamp
from ready_trail.core.instruments.eye import Eye
from ready_trail.core.instruments.fuse_look import FuseLook
from ready_trail.core.instruments.lamp import TestLamp
from ready_trail.core.instruments.load import KnownLoad
from ready_trail.core.instruments.ohmmeter import Ohmmeter
from ready_trail.core.instruments.thermometer import Thermometer
from ready_trail.core.instruments.voltmeter import Voltmeter

INSTRUMENTS: Mapping[str, Instrument] = {
    made.key: made
    for made in (
        Voltmeter(),
        Ohmmeter(),
        TestLamp(),
        Clamp(),
        KnownLoad(),
        Eye(),
        Thermometer(),
        FuseLook(),
    )
}
"""Every instrument by its key."""

__all__ = ["INSTRUMENTS", "Instrument", "NotReadableError"]
