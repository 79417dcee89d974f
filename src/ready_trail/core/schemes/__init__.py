"""Switching schemes. A new one is a new module beside these and one line in ``ALL``."""

from __future__ import annotations

from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.schemes import (
    direct,
    high_beam_earth,
    high_beam_positive,
    interlock,
    relay_earth,
    relay_positive,
    relay_signal,
    winch,
)
from ready_trail.core.schemes.base import Bench, Scheme

ALL: tuple[Scheme, ...] = (
    winch.SCHEME,
    interlock.SCHEME,
    direct.SCHEME,
    high_beam_earth.SCHEME,
    high_beam_positive.SCHEME,
    relay_positive.SCHEME,
    relay_signal.SCHEME,
    relay_earth.SCHEME,
)
BY_KEY: dict[str, Scheme] = {scheme.key: scheme for scheme in ALL}

DIRECT_RUN_MOST_M = 4.0
DIRECT_SWITCH_RATIO = 0.8
"""A switch alone serves up to 80 % of its rating on up to 4 m of run (house)."""


def propose(
    job: Job, circuit: Circuit, accessories: tuple[Accessory, ...], current_a: float
) -> tuple[Scheme, str]:
    """Return the scheme that fits how the accessory is used, with the reason in a sentence."""
    use = accessories[0].use
    if accessories[0].model == "winch":
        return winch.SCHEME, "A winch is fed straight from the battery through a contactor."
    if use.while_on:
        names = [c.name for c in job.circuits if c.id == use.while_on]
        return interlock.SCHEME, f"It works only while {names[0] if names else 'another'} is on."
    if use.lights == "high":
        earth = job.vehicle.headlamps == "earth"
        scheme: Scheme = high_beam_earth.SCHEME if earth else high_beam_positive.SCHEME
        side = "earth" if earth else "positive"
        return (
            scheme,
            f"It goes with the high beam, which this vehicle switches on the {side} side.",
        )
    if use.lights != "any":
        return relay_signal.SCHEME, f"It follows the vehicle's {use.lights} lights."
    if use.key != "always":
        if use.switch:
            return relay_positive.SCHEME, "It must follow the key and has a switch of its own."
        return relay_signal.SCHEME, "It follows the key by itself, without a switch."
    if not use.switch:
        return direct.SCHEME, "It is always live, so nothing switches it."
    if current_a <= DIRECT_SWITCH_RATIO * use.switch_a and circuit.run_m <= DIRECT_RUN_MOST_M:
        return direct.SCHEME, (
            f"{current_a:.1f} A on {circuit.run_m:.1f} m is within the switch's "
            f"{DIRECT_SWITCH_RATIO * use.switch_a:.0f} A working limit."
        )
    return relay_positive.SCHEME, (
        f"{current_a:.1f} A on {circuit.run_m:.1f} m is more than a switch alone should carry."
    )


__all__ = ["ALL", "BY_KEY", "Bench", "Scheme", "propose"]
