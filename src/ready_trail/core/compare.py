"""The same circuit by every scheme that could serve it: what each one takes and what it costs."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.asking import ask_of
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design import CircuitDesign, Design, what_if
from ready_trail.core.edits import HoldChoice, apply
from ready_trail.core.errors import CoreError
from ready_trail.core.installation import Device, Wire
from ready_trail.core.schemes import ALL
from ready_trail.core.schemes.base import Scheme

_INSIDE = ("cabin", "roof")


@dataclass(frozen=True, slots=True, kw_only=True)
class SchemeChoice:
    """One scheme for one circuit, designed; or the reason why it cannot serve it.

    ``crossings`` counts the wires that pass between engine bay and cabin; ``worse`` and
    ``gone`` hold the stops and cautions that it would bring and end.
    """

    key: str
    label: str
    when: str
    is_now: bool
    refusal: str = ""
    reason: str = ""
    parts: tuple[str, ...] = ()
    wires: int = 0
    crossings: int = 0
    copper_g: float = 0.0
    drop_v: float = 0.0
    stops: int = 0
    worse: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    kit: str = ""


def scheme_choices(made: Design, circuit_id: str, catalogue: Catalogue) -> tuple[SchemeChoice, ...]:
    """Return every scheme for a circuit: those that serve it first, today's at the top."""
    now = made.circuit(circuit_id)
    ask = ask_of(made.routed, made.plan.tree, now.circuit, now.current_a)
    kit = any(a.kit for a in now.accessories)
    found = []
    for scheme in ALL:
        refusal = scheme.refusal(ask)
        if refusal and scheme.key != now.scheme.key:
            found.append(
                SchemeChoice(
                    key=scheme.key,
                    label=scheme.label,
                    when=scheme.when,
                    is_now=False,
                    refusal=refusal,
                )
            )
            continue
        made_so = (
            now if scheme.key == now.scheme.key else _with(made, circuit_id, scheme, catalogue)
        )
        if made_so is not None:
            found.append(_choice(scheme, made_so, now, kit_words(scheme) if kit else ""))
    return tuple(sorted(found, key=lambda c: (bool(c.refusal), not c.is_now, c.stops)))


def kit_words(scheme: Scheme) -> str:
    """Say what becomes of a kit's own harness under a scheme: kept, cut or capped."""
    if not scheme.has_relay:
        return (
            "The plug at the accessory is kept; cut the kit's harness behind it, and leave out "
            "its relay, fuse and switch."
        )
    if scheme.switch_role == "none":
        return (
            "Harness, fuse and relay are kept; the panel feeds 86. Take the kit's switch off and "
            "cap its leads."
        )
    return "Harness, fuse, relay and switch of the kit are kept as they are."


def _with(
    made: Design, circuit_id: str, scheme: Scheme, catalogue: Catalogue
) -> CircuitDesign | None:
    edit = HoldChoice(circuit_id=circuit_id, what="scheme", value=scheme.key)
    try:
        return what_if(apply(made.routed, edit), circuit_id, catalogue)
    except CoreError:
        return None


def _choice(scheme: Scheme, made: CircuitDesign, now: CircuitDesign, kit: str) -> SchemeChoice:
    loud, loud_now = _loud(made), _loud(now)
    decides = made.sizing.deciding
    return SchemeChoice(
        key=scheme.key,
        label=scheme.label,
        when=scheme.when,
        is_now=made is now,
        reason=made.planned.reason if made is now else "",
        parts=_parts(made),
        wires=len(made.wires),
        crossings=_crossings(made),
        copper_g=sum(w.mass_g for w in made.wires),
        drop_v=decides.conductor_drop_v if decides is not None else 0.0,
        stops=made.count("stop"),
        worse=tuple(t for k, t in loud.items() if k not in loud_now),
        gone=tuple(t for k, t in loud_now.items() if k not in loud),
        kit=kit,
    )


def _parts(made: CircuitDesign) -> tuple[str, ...]:
    """What has to be bought besides wire, in the order of the path."""
    own = made.planned.parts.devices if made.planned.parts is not None else ()
    return tuple(
        f"{d.label} {d.kind}" if d.spec.protects else d.label for d in own if d.spec.is_bought
    )


def _crossings(made: CircuitDesign) -> int:
    """Wires with sheet metal on their way, and control wires with one end in the cabin."""
    if made.installation is None:
        return 0
    devices = made.installation.devices
    return sum(
        _crosses(wire, devices[wire.start.device], devices[wire.end.device]) for wire in made.wires
    )


def _crosses(wire: Wire, a: Device, b: Device) -> bool:
    if any(piece.passes for piece in wire.pieces):
        return True
    if wire.role in ("feed", "power", "return") or not (a.zone and b.zone):
        return False
    return (a.zone in _INSIDE) != (b.zone in _INSIDE)


def _loud(made: CircuitDesign) -> dict[tuple[str, str], str]:
    return {(f.code, f.place): f.text for f in made.own_findings if f.severity != "note"}
