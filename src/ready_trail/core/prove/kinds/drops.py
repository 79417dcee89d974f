"""With power: what is lost on the way out, in fuse and contact, and on the way back."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.kinds.base import node_of
from ready_trail.core.netlist import RelayContact, Resistor, SwitchContact
from ready_trail.core.profile import outlet_nodes
from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import between, own_devices, own_wires
from ready_trail.core.prove.records import Test

_PARTS = Resistor | RelayContact | SwitchContact
"""What loses volts between two of a part's terminals while it carries."""

_LOAD = "Read with the circuit under its load: without current there is no drop to see."


def tests(bench: Bench) -> Iterator[Test]:
    """Yield the volts at the load, both sides of its way, and the drop over each own part."""
    yield from _at_loads(bench)
    for ref, device in own_devices(bench):
        passes = {node_of(ref, b) for _, b in device.spec.passes() if not device.spec.is_load}
        for element in bench.installation.elements_of(ref):
            # of a fuse on a bus the source side is that bus: its element knows
            plus, minus = bench.terminals.get(element.a), bench.terminals.get(element.b)
            if element.b not in passes or not isinstance(element, _PARTS):
                continue
            if plus is None or minus is None:
                continue
            yield between(
                bench,
                "part_drop",
                "power",
                f"Over {device.title} while it works",
                plus,
                minus,
                bench.working,
                look=ref,
                why=_LOAD,
            )
    for wire in own_wires(bench):
        if wire.start.node != wire.end.node:
            yield between(
                bench,
                "wire_drop",
                "power",
                f"Along {wire.label} while it works",
                wire.start,
                wire.end,
                bench.working,
                minutes=0.9,
                look=wire.label,
                why=_LOAD,
            )


def _at_loads(bench: Bench) -> Iterator[Test]:
    root_plus, root_minus = (bench.terminals.get(n) for n in bench.roots)
    for outlet in bench.made.planned.outlets:
        plus, minus = (bench.terminals.get(n) for n in outlet_nodes(bench.made, outlet))
        if plus is None or minus is None:
            continue
        name = bench.installation.words(plus)
        yield between(
            bench, "load_volts", "power", f"Volts at {name}", plus, minus, bench.working,
            look=outlet.ref, why=_LOAD,
        )  # fmt: skip
        if root_plus is not None and root_plus.node != plus.node:
            yield between(
                bench, "drop_out", "power", f"Lost on the way out to {name}", root_plus, plus,
                bench.working, minutes=0.8, look=outlet.ref, why=_LOAD,
            )  # fmt: skip
        if root_minus is not None and root_minus.node != minus.node:
            yield between(
                bench, "drop_back", "power", f"Lost on the way back from {name}", minus, root_minus,
                bench.working, minutes=0.8, look=outlet.ref, why=_LOAD,
            )  # fmt: skip
