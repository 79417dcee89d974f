"""The review of a whole job as a template sees it: by severity, then by where it sits."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign, Finding
from ready_trail.web.pages.shell import Shell, worst

AREAS = (
    "protection",
    "wire",
    "relay and switch",
    "source",
    "routing",
    "vehicle",
    "charging",
    "record",
)
_WORDS = {
    "stop": "Stops: may burn, hurt or strand",
    "caution": "Cautions: may work badly or wear out",
    "accepted": "Accepted, with a reason",
    "note": "Notes",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """One finding, where it sits, and what its rule is."""

    finding: Finding
    circuit: CircuitDesign | None
    rule: str
    source: str
    area: str
    url: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Findings of one severity, circuit by circuit."""

    key: str
    title: str
    lines: tuple[Line, ...]
    following: tuple[tuple[str, tuple[Line, ...]], ...] = ()
    """What follows from a circuit's stop, by that circuit's name: mended with it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class AreaCount:
    """How many open stops, cautions and notes an area has."""

    area: str
    stops: int
    cautions: int
    notes: int

    @property
    def mark(self) -> str:
        """The worst of them, or ready."""
        return "stop" if self.stops else "caution" if self.cautions else "ready"


@dataclass(frozen=True, slots=True, kw_only=True)
class ReviewView:
    """The page: ``groups`` as shown, ``areas`` over everything, readiness circuit by circuit."""

    groups: tuple[Group, ...]
    areas: tuple[AreaCount, ...]
    chosen: str
    circuits: tuple[tuple[CircuitDesign, str], ...]
    rules_count: int


def review_of(shell: Shell, catalogue: Catalogue, area: str = "") -> ReviewView:
    """Return the review of a job, all of it or one area's."""
    lines = [*_lines(shell, catalogue)]
    counts = tuple(
        AreaCount(
            area=name,
            stops=sum(_is(x, name, "stop") for x in lines),
            cautions=sum(_is(x, name, "caution") for x in lines),
            notes=sum(_is(x, name, "note") for x in lines),
        )
        for name in AREAS
    )
    shown = [x for x in lines if not area or x.area == area]
    groups = []
    for key, title in _WORDS.items():
        members = [x for x in shown if _group(x.finding) == key]
        causes: dict[str, list[Line]] = {}
        for line in members:
            if line.finding.follows:
                causes.setdefault(line.finding.follows, []).append(line)
        own = tuple(x for x in members if not x.finding.follows)
        following = tuple((name, tuple(x)) for name, x in causes.items())
        if members:
            groups.append(Group(key=key, title=title, lines=own, following=following))
    return ReviewView(
        groups=tuple(groups),
        areas=counts,
        chosen=area,
        circuits=tuple((c, worst(c)) for c in shell.design.circuits),
        rules_count=len(catalogue.finding_rules),
    )


def _group(finding: Finding) -> str:
    return finding.severity if finding.is_open else "accepted"


def _is(line: Line, area: str, severity: str) -> bool:
    found = line.finding
    counts = found.is_open and not found.follows
    return line.area == area and counts and found.severity == severity


def _lines(shell: Shell, catalogue: Catalogue) -> list[Line]:
    found = []
    for circuit in shell.design.circuits:
        url = f"{shell.base}/circuits/{circuit.circuit.id}"
        found += [_line(f, circuit, f"{url}?at={f.place}", catalogue) for f in circuit.findings]
    url = f"{shell.base}/scenarios"
    found += [_line(f, None, url, catalogue) for f in shell.design.findings]
    return found


def _line(finding: Finding, circuit: CircuitDesign | None, url: str, catalogue: Catalogue) -> Line:
    rule = catalogue.finding_rules.get(finding.code)
    return Line(
        finding=finding,
        circuit=circuit,
        url=url,
        rule=rule.rule if rule is not None else "",
        source=rule.source if rule is not None else "",
        area=rule.area if rule is not None else finding.area,
    )
