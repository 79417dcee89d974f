"""What proving speaks of: settings, probes, tests, candidates. All frozen."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from ready_trail.core.faults import Fault
from ready_trail.core.installation import Terminal
from ready_trail.core.states import KEY_WORDS, LIGHT_WORDS, VehicleState

Stage = Literal["before", "power", "warm", "parked", "charging"]
STAGES: tuple[Stage, ...] = ("before", "power", "warm", "parked", "charging")
STAGE_WORDS: dict[Stage, str] = {
    "before": "Before power",
    "power": "Power on",
    "warm": "After ten minutes",
    "parked": "Parked",
    "charging": "Charging",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """A vehicle as it is set for a reading: its state, and whether there is power at all.

    Without power the battery's negative is off and every fuse is out; ``idling`` tells that the
    engine runs, and charges.
    """

    state: VehicleState
    power: bool = True
    idling: bool = False

    @property
    def key(self) -> str:
        """Name it in a few characters: the same for the same setting, for good."""
        s = self.state
        on = "+".join(sorted(s.on)) or "-"
        live = "+".join(sorted(s.signals)) or "-"
        volts = "" if s.emf_v is None else f"{s.emf_v:.1f}"
        how = "idle" if self.idling else "on" if self.power else "away"
        return "|".join((how, s.key, s.lights, on, live, volts))

    @property
    def words(self) -> str:
        """Say what to set."""
        if not self.power:
            held = f"; switch {', '.join(sorted(self.state.on))} on" if self.state.on else ""
            return f"Battery negative off, fuses out{held}"
        s = self.state
        parts = [KEY_WORDS[s.key].capitalize()]
        if s.lights != "off":
            parts.append(LIGHT_WORDS[s.lights])
        parts += [f"{name} on" for name in sorted(s.on)]
        parts += [f"{name} live" for name in sorted(s.signals - {"charging"})]
        parts += ["engine at idle"] if self.idling or "charging" in s.signals else []
        return ", ".join(parts)


@dataclass(frozen=True, slots=True, kw_only=True)
class Probe:
    """Where the instrument is put: on two terminals, or round a wire."""

    plus: Terminal | None = None
    minus: Terminal | None = None
    wire: str = ""

    @property
    def key(self) -> str:
        """Name it: the same for the same places."""
        return self.wire or f"{self.plus}~{self.minus}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """What a sound vehicle reads, on the instrument's scale: its middle and standard error.

    ``most`` replaces the band where only a limit is known: a reading over it fails.
    """

    middle: float = 0.0
    sigma: float = 0.0
    most: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Test:
    """One reading to take of a circuit.

    ``must`` marks the cheapest set that shows every single fault; ``look`` names the wire or
    device that the drawing marks.
    """

    __test__ = False
    key: str
    circuit_id: str
    stage: Stage
    kind: str
    title: str
    where: str
    setting: Setting
    instrument: str
    probe: Probe
    minutes: float
    look: str = ""
    caution: str = ""
    why: str = ""
    band: Band = Band()
    must: bool = False

    def with_band(self, band: Band) -> Test:
        """Return the same test with what it expects."""
        return replace(self, band=band)


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """One thing that may be wrong, at one subject; its ``rungs`` are how bad it may be.

    ``mends`` is what to do about it; ``of`` tells of a joint, a battery, or a feed of the vehicle.
    """

    key: str
    kind: str
    of: str
    subject: str
    words: str
    prior: float
    mends: str
    rungs: tuple[tuple[Fault, ...], ...]
    ladder: bool = False


NOTHING = "nothing"
"""Key of the candidate that all is sound, and a reading was wrong."""
