"""What an acceptance covers: the finding as it was, or one that is no worse."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace

from ready_trail.core.job import AcceptedFinding, Circuit, Job
from ready_trail.core.outcome import Finding

_ORDER = {"stop": 0, "caution": 1, "note": 2}
_FIGURE = re.compile(
    r"(?<![\w.])-?\d+(?:\.\d+)?(?=\s?(?:A|V|W|%|°C|mm²|mm|m|s|h|min|mΩ|Ω|mA|N·m)\b|%)"
)
_NUMBER = re.compile(r"-?\d+(?:\.\d+)?")
ALIKE_RATIO = 0.01
"""Figures within this are the same figure, rounded (house)."""


def accepted(circuit: Circuit | Job, findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return findings worst first, with the reasons of those that somebody accepted.

    One that got worse since stays open, and tells what was accepted.
    """
    told = [_with_reason(finding, circuit.accepted) for finding in findings]
    return tuple(sorted(told, key=lambda f: (_ORDER[f.severity], f.code, f.place)))


def covers(acceptance: AcceptedFinding, finding: Finding) -> bool:
    """Return whether a finding is still what was accepted, or no worse.

    One figure over its limit may only come nearer to it. Where there is no such pair, the
    figures must be those that were accepted. An acceptance of an older file, which has no
    figures, covers no stop.
    """
    if not acceptance.severity:
        return finding.severity != "stop"
    if _ORDER[finding.severity] < _ORDER[acceptance.severity]:
        return False
    was, now = (
        _excess(acceptance.found, acceptance.allowed),
        _excess(finding.found, finding.allowed),
    )
    if was is not None and now is not None and (was > 1) == (now > 1):
        return now <= was * (1 + ALIKE_RATIO) if was > 1 else now >= was * (1 - ALIKE_RATIO)
    before = f"{acceptance.found} {acceptance.allowed}" if acceptance.found else acceptance.text
    after = f"{finding.found} {finding.allowed}" if finding.found else finding.text
    return _alike(before, after)


def _with_reason(finding: Finding, acceptances: tuple[AcceptedFinding, ...]) -> Finding:
    own = [a for a in acceptances if (a.code, a.place) == (finding.code, finding.place)]
    for acceptance in own:
        if covers(acceptance, finding):
            return replace(finding, accepted_reason=acceptance.reason, lapsed="")
    lapsed = _words(own[-1]) if own else ""
    return replace(finding, accepted_reason="", lapsed=lapsed)


def _words(acceptance: AcceptedFinding) -> str:
    """What was accepted, for a finding that is another one now."""
    figures = f" at {acceptance.found}" if acceptance.found else ""
    figures += f", allowed {acceptance.allowed}" if figures and acceptance.allowed else ""
    return f"Accepted before{figures}: {acceptance.reason}"


def _excess(found: str, allowed: str) -> float | None:
    """The one figure found over the one allowed; None where there is not one of each."""
    figures, limits = _NUMBER.findall(found), _NUMBER.findall(allowed)
    if len(figures) != 1 or len(limits) != 1 or float(limits[0]) <= 0:
        return None
    return float(figures[0]) / float(limits[0])


def _alike(before: str, after: str) -> bool:
    was, now = _FIGURE.findall(before), _FIGURE.findall(after)
    return len(was) == len(now) and all(
        abs(float(a) - float(b)) <= ALIKE_RATIO * abs(float(a))
        for a, b in zip(was, now, strict=True)
    )
