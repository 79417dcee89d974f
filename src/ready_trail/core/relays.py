"""Relays and contactors: contact rating and coil at temperature (docs/rules/fuse.md)."""

from __future__ import annotations

from dataclasses import dataclass, replace

AUTO_RELAYS = ("mini_no", "maxi_no", "maxi80_no", "contactor_200", "contactor_400")
"""Relays that the program picks from by itself, in this order."""

HIGH_VOLT_RELAYS = ("power_60v", "contactor_100_60v", "contactor_250_60v")
"""Relays whose contacts break more than 32 V, in this order."""

CHANGEOVER_RELAYS = ("mini_co",)
"""Relays with an 87a, for schemes that need one."""

REST_RELAYS = ("mini_nc", "mini_co")
"""Relays whose 87a may carry the load, for schemes in which the coil takes it off."""

COIL_RESISTOR_OHM = 680.0
"""Across a 12 V coil, as relays with a resistor have it (typical)."""
COIL_REFERENCE_C = 23.0
_COIL_PER_K = 0.0039
_COLD_C, _HOT_C = 23.0, 85.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Relay:
    """One relay type of the catalogue; its coil is made for ``coil_v``. [V]"""

    key: str
    label: str
    form: str
    contact_a_23c: float
    contact_a_85c: float
    nc_a_23c: float | None
    nc_a_85c: float | None
    max_v: float
    coil_ohm: float
    pull_in_v: float
    release_v: float
    contact_mohm: float
    suppression: str
    terminals: str
    stud: str
    """What its contacts are bolted to; empty where it sits in a socket, or has own leads."""
    socket: str
    source: str
    coil_v: float = 12.0
    quenched_by_hand: bool = False
    """Whether a resistor was put across its coil."""

    @property
    def own_leads(self) -> bool:
        """Whether leads hang out of it, to be joined: no socket, no stud."""
        return not self.stud and not self.socket

    @property
    def has_rest_contact(self) -> bool:
        """Whether there is an 87a that is closed at rest."""
        return self.nc_a_23c is not None

    @property
    def has_make_contact(self) -> bool:
        """Whether there is an 87 that the coil closes."""
        return self.form != "SPST-NC"


def relays_for(nominal_v: float, wanted: tuple[str, ...] = AUTO_RELAYS) -> tuple[str, ...]:
    """Return the relays to pick from on a system of that nominal voltage: those that are wanted,
    or such as break it. [V]
    """
    return HIGH_VOLT_RELAYS if nominal_v > 24.0 and wanted == AUTO_RELAYS else wanted


def contact_rating_a(relay: Relay, ambient_c: float) -> float:
    """Return what the make contact may carry at this ambient. [A]

    Straight line between the 23 °C and 85 °C figures, held outside them.
    """
    share = min(1.0, max(0.0, (ambient_c - _COLD_C) / (_HOT_C - _COLD_C)))
    return relay.contact_a_23c + (relay.contact_a_85c - relay.contact_a_23c) * share


def rest_contact_rating_a(relay: Relay, ambient_c: float) -> float:
    """Return what both contacts of a relay with an 87a may carry at this ambient. [A]"""
    made_a = contact_rating_a(relay, ambient_c)
    if relay.nc_a_23c is None:
        return made_a
    share = min(1.0, max(0.0, (ambient_c - _COLD_C) / (_HOT_C - _COLD_C)))
    hot_a = relay.nc_a_23c if relay.nc_a_85c is None else relay.nc_a_85c
    return min(made_a, relay.nc_a_23c + (hot_a - relay.nc_a_23c) * share)


def coil_resistance_ohm(relay: Relay, ambient_c: float) -> float:
    """Return the coil's resistance at this ambient. [Ω]"""
    return relay.coil_ohm * _coil_ratio(ambient_c)


def pull_in_v(relay: Relay, ambient_c: float) -> float:
    """Return the coil voltage that surely closes the contact at this ambient. [V]"""
    return relay.pull_in_v * _coil_ratio(ambient_c)


def with_coil_for(relay: Relay, coil_v: float) -> Relay:
    """Return the relay as wound for the nominal voltage of what feeds its coil. [V]

    The catalogue lists 12 V coils; the 24 V type has twice the voltages and four times
    the coil resistance, and contacts for 32 V. On 48 V the coil is wound likewise; its contacts
    break 32 V only, unless it is made for more.
    """
    if coil_v <= 12.0:
        return relay
    ratio = coil_v / 12.0
    return replace(
        relay,
        label=f"{relay.label}, {coil_v:.0f} V coil",
        coil_v=coil_v,
        coil_ohm=relay.coil_ohm * ratio**2,
        pull_in_v=relay.pull_in_v * ratio,
        release_v=relay.release_v * ratio,
        max_v=max(relay.max_v, 32.0),
    )


def with_coil_resistor(relay: Relay) -> Relay:
    """Return the relay with a resistor across its coil; one with suppression stays as it is."""
    if relay.suppression != "none":
        return relay
    resistor_ohm = COIL_RESISTOR_OHM * (relay.coil_v / 12.0) ** 2
    both_ohm = relay.coil_ohm * resistor_ohm / (relay.coil_ohm + resistor_ohm)
    fitted = f"resistor of {resistor_ohm:.0f} Ω, fitted"
    return replace(relay, coil_ohm=both_ohm, suppression=fitted, quenched_by_hand=True)


def _coil_ratio(ambient_c: float) -> float:
    return 1.0 + _COIL_PER_K * (ambient_c - COIL_REFERENCE_C)
