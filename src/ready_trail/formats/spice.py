"""The netlist as a SPICE deck that runs in ``ngspice -b`` as it is.

Contacts stand as they were solved: a closed one is a resistance, an open one is left out.
Sources are written as a current source with a parallel resistance, so that the deck has no node
that the netlist has not; one at its limit is the current source alone.
"""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.loads import (
    DIODE_OFF_S,
    DIODE_OHM,
    DIODE_V,
    FILAMENT_EXPONENT,
    Load,
    filament_cold_ohm,
)
from ready_trail.core.netlist import (
    GROUND,
    Coil,
    ConverterInput,
    Diode,
    LoadElement,
    Network,
    RelayContact,
    Resistor,
    Source,
    SwitchContact,
)
from ready_trail.core.solver import LEAK_S, OperatingPoint

_COLD_SHARE = 0.05


def spice_deck(title: str, network: Network, point: OperatingPoint) -> str:
    """Return the deck of a network in the state of a solved operating point.

    A circuit simulator deck: run in batch it prints every node's voltage.
    """
    state = point.state
    plain = "".join(c if c.isascii() and c.isprintable() else "?" for c in title)
    lines = [
        f"* Ready Trail, circuit simulator deck: {plain}",
        f"* key {state.key}, lights {state.lights}, switches on: "
        + (", ".join(sorted(state.on)) or "none"),
        ".options reltol=1e-7 abstol=1e-10 vntol=1e-9 gmin=1e-15 itl1=2000",
    ]
    emf_v = state.source_v(network.nominal_v)
    for element in network.elements:
        lines.extend(_element(element, point, emf_v))
    for node in network.nodes:
        lines.append(f"Rleak_{node} {node} {GROUND} {1 / LEAK_S:.6g}")
    lines += [".op", ".end", ""]
    return "\n".join(lines)


def _element(element: object, point: OperatingPoint, emf_v: float) -> Iterator[str]:
    match element:
        case Source(name=name, a=a, b=b, ohm=ohm, set_v=set_v):
            if name in point.idle:
                yield f"* {name} gives nothing"
            elif name in point.limited:
                yield f"I{name} {b} {a} DC {-point.branch_a[name]:.12g}"
            else:
                held_v = emf_v if set_v is None else set_v
                yield f"I{name} {b} {a} DC {held_v / ohm:.12g}"
                yield f"R{name} {a} {b} {ohm:.9g}"
        case ConverterInput(name=name, a=a, b=b, cut_in_v=cut_in_v):
            power_w = point.taken_w.get(name, 0.0)
            if power_w <= 0 or point.between_v(a, b) < cut_in_v:
                yield f"* {name} draws nothing"
            else:
                across = f"v({a},{b})" if b != GROUND else f"v({a})"
                yield f"B{name} {a} {b} I = {power_w:.12g}/max({across},{cut_in_v:.12g})"
        case Diode(name=name, a=a, b=b):
            across = f"v({a},{b})" if b != GROUND else f"v({a})"
            yield (
                f"B{name} {a} {b} I = {DIODE_OFF_S:.12g}*{across} + "
                f"max(0,{across}-{DIODE_V:.12g})/{DIODE_OHM:.12g}"
            )
        case Resistor(name=name, a=a, b=b, ohm=ohm) | Coil(name=name, a=a, b=b, ohm=ohm):
            yield f"R{name} {a} {b} {max(ohm, 1e-6):.12g}"
        case (
            SwitchContact(name=name, a=a, b=b, ohm=ohm) | RelayContact(name=name, a=a, b=b, ohm=ohm)
        ):
            if point.closed[name]:
                yield f"R{name} {a} {b} {ohm:.9g}"
            else:
                yield f"* {name} open between {a} and {b}"
        case LoadElement(name=name, a=a, b=b, load=load):
            across_v = point.between_v(a, b)
            yield from _load(name, a, b, load, off=name in point.cut_out, across_v=across_v)


def _load(name: str, a: str, b: str, load: Load, *, off: bool, across_v: float) -> Iterator[str]:
    across = f"v({a},{b})" if b != GROUND else f"v({a})"
    if a == GROUND:
        across = f"(-v({b}))"
    match load.model:
        case "resistive" | "motor":
            yield f"R{name} {a} {b} {load.rated_v / load.rated_a:.12g}"
        case "filament":
            cold_v = _COLD_SHARE * load.rated_v
            hot = f"{load.rated_a:.12g}*pow(abs({across})/{load.rated_v:.12g},{FILAMENT_EXPONENT})"
            yield (
                f"B{name} {a} {b} I = abs({across}) <= {cold_v:.12g} ? "
                f"{across}/{filament_cold_ohm(load):.12g} : sgn({across})*{hot}"
            )
        case "constant_power":
            if off or across_v < load.cut_in_v:
                yield f"* {name} is under its cut-in voltage and draws nothing"
            else:
                power = f"{load.power_w:.12g}"
                yield f"B{name} {a} {b} I = {power}/max({across},{load.cut_in_v:.12g})"
        case _:
            cut_in = f"{load.cut_in_v:.12g}"
            yield (
                f"B{name} {a} {b} I = {across} >= {cut_in} ? {load.rated_a:.12g} : "
                f"{load.rated_a / load.cut_in_v:.12g}*max(0,{across})"
            )
