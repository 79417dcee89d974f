"""Design review: checks by area that yield findings with their ways out.

A check is a function of a circuit's design; a new one is listed in its area's ``CHECKS``.
A check that raises is a bug and surfaces.
"""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.outcome import CircuitDesign, Finding
from ready_trail.core.review import protection, relay, switch, wire

AREAS = (protection, wire, relay, switch)
_ORDER = {"stop": 0, "caution": 1, "note": 2}


def review(design: CircuitDesign, catalogue: Catalogue) -> tuple[Finding, ...]:
    """Return every finding of a circuit, worst first, with acceptances filled in."""
    reasons = {(a.code, a.place): a.reason for a in design.circuit.accepted}
    findings = []
    for area in AREAS:
        for check in area.CHECKS:
            for finding in check(design, catalogue):
                reason = reasons.get((finding.code, finding.place), "")
                findings.append(replace(finding, accepted_reason=reason))
    return tuple(sorted(findings, key=lambda f: (_ORDER[f.severity], f.code, f.place)))
