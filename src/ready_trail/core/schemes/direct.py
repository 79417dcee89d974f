"""Direct: source, fuse, switch (or none), accessory."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.schemes.base import Bench
from ready_trail.core.schemes.parts import Harness, fused_lead, path_switch, to_load_and_back
from ready_trail.core.wiring import Wiring


@dataclass(frozen=True, slots=True)
class Direct:
    """The hand switch carries the load; without a switch the circuit is always live."""

    key: str = "direct"
    label: str = "Direct"
    when: str = "a small load on a short run, or one that must live parked"
    has_relay: bool = False
    switch_in_path: bool = True
    sizing_rule: str = "circuit"

    def refusal(self, job: Job, circuit: Circuit, accessories: tuple[Accessory, ...]) -> str:
        """Refuse what must follow the key or the lights: a battery feed cannot."""
        use = accessories[0].use
        if use.lights != "any":
            return "it must follow the lights, and a direct feed does not"
        if use.key != "always":
            return "it must follow the key, and a direct battery feed does not"
        return ""

    def wiring(self, bench: Bench) -> Wiring:
        """Wire source - fuse - switch - load."""
        harness = Harness(bench)
        supply = fused_lead(harness)
        if bench.accessories[0].use.switch:
            supply = path_switch(harness, supply)
        to_load_and_back(harness, supply)
        return harness.wiring()


SCHEME = Direct()
