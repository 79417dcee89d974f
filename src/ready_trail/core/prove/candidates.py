"""What may be wrong with a circuit: each single fault, with several sizes where it has sizes."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.fault_list import TIRED_V, single_faults
from ready_trail.core.faults import Fault, Open, Series, Weak
from ready_trail.core.installation import Installation
from ready_trail.core.outcome import Design
from ready_trail.core.prove.faults_table import fault_kinds
from ready_trail.core.prove.records import Candidate

JOINT_OHM = (0.05, 0.1, 0.2, 0.5, 1.0, 2.5, 20.0, 300.0, 5000.0)
"""Sizes of a bad joint that are played; between two of them readings lie about on a line."""

TIRED = ((0.02, 11.9), (0.05, TIRED_V), (0.15, 10.0))
"""A worn battery: what it adds in series [Ω], and its rest voltage on 12 V (house)."""


def candidates(design: Design, installation: Installation) -> Iterator[Candidate]:
    """Yield what may be wrong with what one circuit's network holds, each with its sizes."""
    nominal_v = float(design.job.vehicle.nominal_v)
    here = {*installation.wires, *installation.devices}
    seen: set[tuple[str, str]] = set()
    for fault in single_faults(design):
        if fault.subject not in here:
            continue
        element = _element(fault.faults[0])
        kind = fault_kinds()[fault.kind]
        at = (kind.kind, element) if kind.of == "joint" else (fault.key, "")
        if at in seen:
            continue
        seen.add(at)
        rungs: tuple[tuple[Fault, ...], ...] = (fault.faults,)
        if kind.of == "joint":
            rungs = tuple((Series(element, ohm),) for ohm in JOINT_OHM)
        elif kind.of == "battery":
            x = nominal_v / 12.0
            rungs = tuple(
                (Series(element, ohm * x), Weak(element, volts * x)) for ohm, volts in TIRED
            )
        yield Candidate(
            key=fault.key,
            kind=kind.kind,
            of=kind.of,
            subject=fault.subject,
            words=fault.words,
            prior=kind.weight,
            mends=kind.mends,
            rungs=rungs,
            ladder=len(rungs) > 1,
        )


def _element(fault: Fault) -> str:
    return fault.element if isinstance(fault, Series | Open) else ""
