"""One circuit on paper: drawing, pin-out, legend, wire list, fuse and relay, cautions."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from ready_trail.core.cautions import AID, cautions_of
from ready_trail.core.design import CircuitDesign, Finding
from ready_trail.core.explain import explain_circuit
from ready_trail.core.house import practices
from ready_trail.core.installation import Wire
from ready_trail.core.units import feet_of_m
from ready_trail.drawing import words
from ready_trail.formats.paper import (
    Beside,
    Block,
    Paper,
    Points,
    Section,
    Strong,
    Table,
    Text,
    Title,
    Words,
)
from ready_trail.formats.rendering import plain_number as plain
from ready_trail.web.pages.sheet import Sheet, legend, sheet_of
from ready_trail.web.pages.why import governs_words
from ready_trail.web.papers.common import Printing, drawing_css, drawn, paper_of

_LABEL = "19mm"
_HOW = {"hold": "held", "tap": "tapped"}


def circuits_paper(printed: Printing, circuits: Iterable[CircuitDesign], *, why: bool) -> Paper:
    """Return the sheets of some circuits; with ``why`` the derivations follow as an appendix."""
    made = tuple(circuits)
    sections = [Section([*circuit_blocks(printed, c), Words(AID, "aid")]) for c in made]
    if why:
        sections += [Section(list(_why_blocks(printed, c))) for c in made]
    title = made[0].circuit.name if len(made) == 1 else "circuit sheets"
    return paper_of(printed, title, sections)


def circuit_blocks(printed: Printing, made: CircuitDesign) -> Iterator[Block]:
    """Return everything that stands on a circuit's sheet."""
    shell = printed.shell
    sheet = sheet_of(made, shell.design, shell.catalogue)
    yield printed.head(made.circuit.name, printed.job_words)
    yield Words(f"{made.scheme.label}. {made.planned.reason}")
    if sheet.open_findings:
        yield Points([finding_text(f) for f in sheet.open_findings])
    for f in made.findings:
        if not f.is_open:
            yield Words(f"Accepted: {f.text} Reason: {f.accepted_reason}", "accepted")
    yield from _drawings(sheet)
    yield Table(list(_facts(made)), (_LABEL, "1fr"), "Fuse, relay, accessory", together=True)
    widths = (_LABEL, "1fr", "1fr", "29mm", "20mm", "20mm", "31mm")
    yield Table(
        [_wire_row(sheet, w) for w in sheet.wires],
        widths,
        "Wires",
        ("Wire", "From", "To", "Size", "Colour", "Route", "Cut"),
    )
    yield from wiring_tables(sheet)
    yield Table(legend(sheet, shell.catalogue), (_LABEL, "1fr"), "Legend", together=True)
    rules = " ".join(practices(shell.design.job.rules))
    yield Words((Strong("House practice."), f" {rules}"), "small")
    yield Points(cautions_of(made), "cautions")


def finding_text(finding: Finding) -> Text:
    """A finding with its figures, its severity first."""
    text = f" {finding.text}"
    if finding.found:
        text += f" Found {finding.found}"
        text += f", allowed {finding.allowed}." if finding.allowed else "."
    return Strong(finding.severity.upper()), text


def wiring_tables(sheet: Sheet) -> Iterator[Block]:
    """Relay pins, truth table and function wires, as far as a circuit has them."""
    if sheet.pins:
        rows = [(p.terminal, p.role, p.wire, p.colour, p.goes_to) for p in sheet.pins]
        yield Table(
            rows, (_LABEL, "1fr", _LABEL, "1fr", "1fr"), "Relay pins (DIN 72552)", together=True
        )
    if sheet.truth:
        marks = [(row.label, *row.marks) for row in sheet.truth]
        widths = ("62mm", *("1fr" for _ in sheet.key_words))
        yield Table(marks, widths, "When it is on", ("", *sheet.key_words), together=True)
    if sheet.inputs:
        inputs = [
            (
                f"{i.wire.name} ({i.wire.lead})" if i.wire.lead else i.wire.name,
                f"{i.ends}, diode" if i.wire.diode else i.ends,
                _volts(i.rest_v),
                _volts(i.on_v),
            )
            for i in sheet.inputs
        ]
        yield Table(
            inputs,
            ("1fr", "1fr", "22mm", "22mm"),
            "Function wires",
            ("Wire", "Ends at", "At rest", "When on"),
            together=True,
        )
    modes = [m for a in sheet.design.accessories for m in a.modes]
    if modes:
        yield Table(
            [(m.name, " + ".join(m.wires), _HOW[m.how], m.window) for m in modes],
            ("1fr", "1fr", "22mm", "22mm"),
            "Functions, as the maker states them",
            ("Pattern", "Wires", "How", "For"),
            together=True,
        )


def load_words(made: CircuitDesign) -> str:
    """What a circuit feeds, and its design current."""
    loads = ", ".join(
        f"{a.quantity} × {a.name}, {f'{plain(a.watts)} W' if a.watts else f'{plain(a.amps)} A'} "
        f"at {plain(a.at_v)} V"
        for a in made.accessories
    )
    if not made.accessories:
        loads = f"{made.feeds.name if made.feeds else ''}: what runs together"
    return f"{loads}; design current {words.amps(made.current_a)}"


def drop_words(made: CircuitDesign) -> str:
    """What the conductors lose of what they may; empty where nothing could be sized."""
    deciding = made.sizing.deciding
    if deciding is None:
        return ""
    lost, allowed = words.volts(deciding.conductor_drop_v), words.volts(made.limit_v)
    return f"Conductor drop {lost} of {allowed}."


def _drawings(sheet: Sheet) -> Iterator[Block]:
    trail, css = sheet.trail, drawing_css()
    name = sheet.design.circuit.name
    if trail is None:
        return
    yield drawn("trail", f"Trail of {name}: {trail.profile.title}", trail, css=css)
    yield Words(f"{trail.profile.title}. Lengths are drawn to a compressed scale.", "small")
    if sheet.fan:
        yield drawn("fan", f"Branches of {name}, worst first", sheet.fan, css=css)
    beside = []
    lanes = [lane for lane in (trail.lane, trail.side_lane) if lane]
    wide = 118 if len(lanes) == 1 else 76
    names = ("First trigger", "Second trigger") if len(lanes) > 1 else ("Trigger",)
    for which, lane in zip(names, lanes, strict=False):
        beside.append(drawn("lane", f"{which} of {name}", lane, css=css, width_mm=wide))
    if trail.pins:
        pins = f"Relay of {name} seen on its pins"
        beside.append(drawn("base", pins, trail.pins, css=css, width_mm=26))
    if beside:
        yield Beside(beside)


def _facts(made: CircuitDesign) -> Iterator[tuple[str, str]]:
    sizing, number = made.sizing, made.circuit.number
    fuse, relay, chosen = sizing.fuse, sizing.relay, sizing.chosen
    if fuse:
        colour = fuse.family.colours.get(fuse.rating_a)
        yield (
            f"F{number}",
            f"{words.rating(fuse.rating_a)} "
            f"{words.lower_first(fuse.family.label)}"
            f"{f', body {colour}' if colour else ''}",
        )
    if relay and sizing.relay_rating_a is not None:
        yield (
            f"K{number}",
            f"{relay.label}, contact {words.amps(sizing.relay_rating_a)} at its "
            f"place, suppression: {relay.suppression}",
        )
    yield made.load_ref, load_words(made)
    if chosen:
        if chosen.pigtail:
            yield (
                "Pigtail",
                f"{chosen.pigtail.label}, at most 150 mm at the holder of F{number}, "
                "stepped up with a crimped splice",
            )
        yield (
            "Why",
            f"{governs_words(sizing)} {drop_words(made)} "
            f"Wire carries {words.amps(chosen.ampacity_a)}.",
        )


def _wire_row(sheet: Sheet, wire: Wire) -> tuple[str, ...]:
    said = sheet.job.installation.words
    size, cut, colour = wire.conductor.label, words.metres(wire.cut_length_m), wire.colour
    if wire.conductor.system == "awg":
        size += f" ({wire.conductor.area_mm2:.1f}{words.NBSP}mm²)"
        cut += f" ({feet_of_m(wire.cut_length_m):.1f}{words.NBSP}ft)"
    if wire.mark:
        colour += f" ({wire.mark})"
    if lead := sheet.leads.get(wire.label):
        colour += f" meets {lead}"
    route = words.metres(wire.length_m) + ("" if wire.taped else " estimated")
    return wire.label, said(wire.start), said(wire.end), size, colour, route, cut


def _why_blocks(printed: Printing, made: CircuitDesign) -> Iterator[Block]:
    shell = printed.shell
    yield printed.head(f"{made.circuit.name}: how each figure came about", shell.design.job.name)
    for step in explain_circuit(made, shell.design, shell.catalogue):
        yield Title(f"{step.title}: {step.result}")
        yield Words(step.rule)
        if step.lines:
            yield Table(step.lines, ("1fr", "1fr"), strong=(), together=True)
        yield Words(step.source, "small")


def _volts(value: float | None) -> str:
    return "–" if value is None else words.volts(value)
