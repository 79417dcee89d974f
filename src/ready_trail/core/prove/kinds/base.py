"""What every kind of test shares: how a test is named, and which parts are the circuit's own."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.installation import Device, Terminal, Wire
from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.records import Band, Probe, Setting, Stage, Test
from ready_trail.core.states import VehicleState

NEVER = "Never bridge a fuse, never fit a bigger one to stop it blowing."
STOP = "Extinguisher at hand; stop at smell, smoke or warmth."
SENSED = "This wire is the vehicle's own: a meter only, no lamp, and no bare probe beside another."

AWAY_SETTING = Setting(state=VehicleState(), power=False)
AWAY = "Battery negative off, all fuses of this circuit out."


def between(
    bench: Bench,
    kind: str,
    stage: Stage,
    title: str,
    plus: Terminal,
    minus: Terminal,
    setting: Setting,
    *,
    instrument: str = "volts",
    minutes: float = 0.5,
    look: str = "",
    caution: str = "",
    why: str = "",
) -> Test:
    """Return a test on two terminals."""
    words = bench.installation.words
    probe = Probe(plus=plus, minus=minus)
    return Test(
        key=f"{kind}:{instrument}:{probe.key}@{setting.key}",
        circuit_id=bench.made.circuit.id,
        stage=stage,
        kind=kind,
        title=title,
        where=f"{words(plus)} to {words(minus)}",
        setting=setting,
        instrument=instrument,
        probe=probe,
        minutes=minutes,
        look=look,
        caution=caution,
        why=why,
    )


def on_wire(
    bench: Bench,
    kind: str,
    stage: Stage,
    title: str,
    wire: Wire,
    setting: Setting,
    where: str,
    *,
    instrument: str = "clamp",
    minutes: float = 0.7,
    caution: str = "",
    why: str = "",
    band: Band = Band(),  # noqa: B008 - it is frozen
) -> Test:
    """Return a test at one wire."""
    return Test(
        key=f"{kind}:{instrument}:{wire.label}@{setting.key}",
        circuit_id=bench.made.circuit.id,
        stage=stage,
        kind=kind,
        title=title,
        where=where,
        setting=setting,
        instrument=instrument,
        probe=Probe(wire=wire.label),
        minutes=minutes,
        look=wire.label,
        caution=caution,
        why=why,
        band=band,
    )


def own_wires(bench: Bench) -> Iterator[Wire]:
    """Yield the wires that no other circuit's plan tests: its own, and its shared control's."""
    circuits = {c.id for c in bench.design.job.circuits}
    others = (circuits | {c.circuit.id for c in bench.design.circuits}) - {bench.made.circuit.id}
    for wire in bench.installation.wires.values():
        if wire.owner not in others and any(e for e in bench.installation.elements_of(wire.label)):
            yield wire


def own_devices(bench: Bench) -> Iterator[tuple[str, Device]]:
    """Yield the devices that no other circuit's plan tests."""
    others = {c.circuit.id for c in bench.design.circuits} - {bench.made.circuit.id}
    for ref, device in bench.installation.devices.items():
        if device.owner not in others:
            yield ref, device
