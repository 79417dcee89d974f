"""The voltage profile: what is lost, and where, on the way out and back, by the solver."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator

from ready_trail.core.installation import Installation
from ready_trail.core.kinds.base import node_of
from ready_trail.core.netlist import Element, RelayContact, Resistor, SwitchContact
from ready_trail.core.outcome import CircuitDesign, Outlet, OutletDesign, Profile, ProfileStep
from ready_trail.core.solver import OperatingPoint

_PathElement = Resistor | RelayContact | SwitchContact


def read_profile(
    installation: Installation,
    made: CircuitDesign,
    end: OutletDesign,
    point: OperatingPoint,
    root: tuple[str, str],
    *,
    at_design_current: bool,
) -> Profile:
    """Return the profile of one end of a circuit from a solved state.

    ``root`` is the positive and negative node of its source.
    """
    plus, minus = outlet_nodes(made, end.outlet)
    current_a = _current_a(made, end.outlet, point)
    outward = tuple(_steps(installation, end.out, point, root, plus))
    back = (
        tuple(_steps(installation, end.back, point, (minus, root[1]), root[1])) if end.back else ()
    )
    every = (*outward, *back)
    sums = _by_place(every)
    steepest = max(sums, key=lambda place: sums[place], default="")
    return Profile(
        outward=outward,
        back=back,
        current_a=current_a,
        posts_v=point.between_v(*root),
        load_v=point.between_v(plus, minus if end.back else root[1]),
        conductor_drop_v=sum(step.drop_v for step in every if step.is_wire),
        path_drop_v=sum(step.drop_v for step in every),
        steepest=(steepest, sums[steepest]) if steepest else None,
        at_design_current=at_design_current,
    )


def by_place(profile: Profile) -> dict[str, float]:
    """Return the drop of each wire or device on the way, summed. [V]"""
    return _by_place((*profile.outward, *profile.back))


def load_nodes(made: CircuitDesign) -> tuple[str, str]:
    """Return the nodes between which a circuit's load lies, of several the worst one's; "0"
    where it has no way back.
    """
    end = next((o for o in made.outlets if o.out == made.out), made.outlets[0])
    return outlet_nodes(made, end.outlet)


def outlet_nodes(made: CircuitDesign, outlet: Outlet) -> tuple[str, str]:
    """Return the nodes between which the load of one end lies; "0" where it has no way back."""
    if made.feeds is None:
        return node_of(outlet.ref, outlet.plus), node_of(outlet.ref, "-")
    wire = made.wire_on("power")
    if wire is None:
        raise ValueError("a circuit that is not wired has no load nodes")
    back = next((w for w in made.wires if w.role == "return"), None)
    return wire.end.node, back.start.node if back is not None else "0"


def _current_a(made: CircuitDesign, outlet: Outlet, point: OperatingPoint) -> float:
    if made.feeds is None:
        return sum(point.branch_a[name] for name in outlet.amps)
    wire = made.wire_on("power")
    first = next(iter(wire.resistors())) if wire is not None else None
    return point.branch_a[first.name] if first is not None else 0.0


def _by_place(steps: tuple[ProfileStep, ...]) -> dict[str, float]:
    sums: dict[str, float] = {}
    for step in steps:
        sums[step.place] = sums.get(step.place, 0.0) + step.drop_v
    return sums


def _steps(
    installation: Installation,
    way: tuple[str, ...],
    point: OperatingPoint,
    between: tuple[str, str],
    end: str,
) -> Iterator[ProfileStep]:
    """Follow the wires and devices of a way from node to node.

    Voltages count from the source's own negative, which in a system of its own is not earth.
    """
    at, base = between
    base_v = point.voltage_v(base)
    for number, name in enumerate(way):
        wire = installation.wires.get(name)
        if wire is not None:
            elements: list[Element] = list(installation.elements_of(name))
        else:
            after = _next_start(installation, way[number + 1 :], end)
            elements = list(_through(installation.elements_of(name), at, after))
        lengths = iter(wire.pieces if wire is not None else ())
        for element in elements:
            other = element.b if element.a == at else element.a
            kind = element.kind if isinstance(element, Resistor) else "contact"
            is_copper = wire is not None and isinstance(element, Resistor) and element.is_wire
            length_m = next(lengths).length_m if is_copper else 0.0
            yield ProfileStep(
                element=element.name,
                place=name,
                kind=kind,
                length_m=length_m,
                before_v=point.voltage_v(at) - base_v,
                after_v=point.voltage_v(other) - base_v,
                is_made_by_hand=isinstance(element, Resistor) and element.is_joint,
            )
            at = other


def _next_start(installation: Installation, rest: tuple[str, ...], end: str) -> str:
    """The node at which the next wire begins; fuses on a bus begin at the bus itself."""
    for name in rest:
        if name in installation.wires:
            return installation.wires[name].start.node
        on_bus = getattr(installation.devices[name].spec, "on_bus", "")
        if on_bus:
            return str(on_bus)
    return end


def _through(elements: tuple[Element, ...], start: str, end: str) -> list[_PathElement]:
    """Breadth first through one device's own fuses and contacts."""
    came: dict[str, tuple[str, _PathElement]] = {}
    queue = deque([start])
    while queue and end not in came:
        node = queue.popleft()
        for element in elements:
            if not isinstance(element, Resistor | RelayContact | SwitchContact):
                continue
            for a, b in ((element.a, element.b), (element.b, element.a)):
                if a == node and b not in came and b != start:
                    came[b] = (node, element)
                    queue.append(b)
    way: list[_PathElement] = []
    node = end
    while node != start and node in came:
        node, element = came[node]
        way.append(element)
    return way[::-1]
