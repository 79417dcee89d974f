"""Before power: each hand switch, open and closed."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.netlist import SwitchContact
from ready_trail.core.prove.bench import Bench
from ready_trail.core.prove.kinds.base import AWAY, between, own_devices
from ready_trail.core.prove.records import Setting, Test
from ready_trail.core.states import VehicleState


def tests(bench: Bench) -> Iterator[Test]:
    """Yield each contact that a hand works, in both of its positions."""
    for ref, device in own_devices(bench):
        for element in bench.installation.elements_of(ref):
            if not isinstance(element, SwitchContact) or not element.closed.switch:
                continue
            ends = (bench.terminals.get(element.a), bench.terminals.get(element.b))
            if ends[0] is None or ends[1] is None:
                continue
            for words, on in (("off", frozenset[str]()), ("on", {element.closed.switch})):
                state = VehicleState(on=frozenset(on))
                yield between(
                    bench,
                    "switch",
                    "before",
                    f"{device.title} {words}",
                    ends[0],
                    ends[1],
                    Setting(state=state, power=False),
                    instrument="ohms",
                    minutes=0.6,
                    look=ref,
                    caution=AWAY,
                )
