"""What stands at the end of a wire: accessories as one device, and earth points."""

from __future__ import annotations

from ready_trail.core.job import Accessory
from ready_trail.core.kinds.base import Seat, stated_seat
from ready_trail.core.kinds.earth import EarthSpec
from ready_trail.core.kinds.load import LoadSpec, PartLoad, part_key
from ready_trail.core.loads import Load
from ready_trail.core.schemes.base import fed_and_earthed
from ready_trail.core.schemes.functions import floating, function_wires, input_terminals
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.states import WITH_LOW, Closed


def add_load(
    harness: Harness,
    ref: str,
    loads: tuple[tuple[Accessory, str], ...],
    name: str,
    zone: str,
    at_m: float | None,
    branch: str = "",
) -> None:
    """Add accessories as one device, each with the terminal that feeds it, and their
    function wires.
    """
    bench = harness.bench
    cut_in_v = 9.0 * bench.nominal_v / 12
    parts = tuple(
        PartLoad(
            key=part_key(a.id, plus),
            plus=plus,
            load=Load(model=a.model, rated_a=a.rated_a, rated_v=a.at_v, cut_in_v=cut_in_v),
        )
        for a, plus in loads
    )
    accessories = tuple(dict.fromkeys(a for a, _ in loads))
    fed = accessories[0].own_feed if fed_and_earthed(accessories) else ""
    spec = LoadSpec(
        loads=parts,
        inputs=input_terminals(accessories),
        floats=floating(accessories),
        powered=tuple(
            (w.name, w.powers_w) for a in accessories for w in a.inputs if w.powers_w is not None
        ),
        own_feed=own_feed_closed(fed, bench.circuit.name) if fed else None,
        stated=_stated(accessories[0]),
    )
    harness.add(ref, spec, name, _detail(loads), zone=zone, at_m=at_m, name=name, branch=branch)
    function_wires(harness, ref, accessories, branch)


def _stated(accessory: Accessory) -> Seat | None:
    """What its terminals take, where it has terminals and its maker says what."""
    if not (accessory.ends or accessory.stud or accessory.takes_mm2):
        return None
    return stated_seat(accessory.ends, accessory.stud, accessory.takes_mm2, Seat())


def own_feed_closed(feed: str, circuit_name: str) -> Closed:
    """Return when the vehicle feeds an accessory by itself."""
    return WITH_LOW if feed == "low_beam" else Closed(switch=f"{circuit_name}, factory feed")


def add_earth(
    harness: Harness, ref: str, ohm: float, zone: str, at_m: float | None, branch: str = ""
) -> None:
    """Add a chassis point with the body's resistance back to the battery."""
    harness.add(
        ref,
        EarthSpec(ohm=ohm),
        "Earth point",
        "clean metal, bolted lug",
        zone=zone,
        at_m=at_m,
        branch=branch,
    )


def _detail(loads: tuple[tuple[Accessory, str], ...]) -> str:
    parts = []
    for accessory, plus in loads:
        each = f"{accessory.watts:g} W" if accessory.watts else f"{accessory.amps:g} A"
        count = f"{accessory.quantity} × " if accessory.quantity > 1 else ""
        output = f"{plus} " if plus != "+" else ""
        tail = f", {accessory.tail_m:g} m of its own cable" if accessory.tail_m else ""
        parts.append(f"{output}{count}{each} at {accessory.at_v:g} V{tail}")
    return " + ".join(parts)
