"""Direct: source, fuse, switch (or none), accessory."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.power import fused_lead, path_switch, to_load_and_back

DIRECT_RUN_MOST_M = 4.0
DIRECT_SWITCH_RATIO = 0.8
"""A switch alone serves up to 80 % of its rating on up to 4 m of run (house)."""


@dataclass(frozen=True, slots=True)
class Direct(Defaults):
    """The hand switch carries the load; without a switch the circuit is live with its source."""

    key: str = "direct"
    label: str = "Direct"
    when: str = "a small load on a short run, or behind what already follows the key"
    has_relay: bool = False
    switch_role: SwitchRole = "path"

    def proposal(self, ask: Ask) -> str:
        """Propose it where nothing but a switch that can carry the load is needed."""
        if self.refusal(ask) or ask.has_winch:
            return ""
        where = "It starts where the key already rules" if ask.waking.sleeps else ""
        switch = ask.switch
        if switch is None:
            return (
                f"{where}: no relay of its own."
                if where
                else ("It is always live, so nothing switches it.")
            )
        limit_a = DIRECT_SWITCH_RATIO * switch.rating_a
        if ask.circuit.is_feeder and ask.current_a <= limit_a:
            return f"{ask.current_a:.1f} A is within what {switch.name} carries."
        run_m = ask.circuit.by_switch_m or ask.circuit.run_m
        if ask.current_a <= limit_a and run_m <= DIRECT_RUN_MOST_M:
            within = (
                f"{ask.current_a:.1f} A on {run_m:.1f} m is within the switch's "
                f"{limit_a:.0f} A working limit."
            )
            return f"{where}, and {within}" if where else within
        return ""

    def refusal(self, ask: Ask) -> str:
        """Refuse what must follow the key or the lights where its source does not."""
        use = ask.use
        if use.channel is not None:
            return "a panel's channel triggers it, and a direct feed has no coil"
        if ask.waking.gives(use):
            return ""
        if use.signal:
            return f"it must follow the {use.signal} signal, and a direct feed does not"
        if use.also:
            return "two triggers work it, and a direct feed has no coil"
        if use.lights != "any":
            return "it must follow the lights, and a direct feed does not"
        if use.key != "always" and not ask.waking.sleeps:
            return "it must follow the key, and a direct battery feed does not"
        if use.key != "always":
            return "it must follow another key position than the point where it starts"
        return ""

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say what to mind."""
        if ask.switch is None:
            return ()
        return (
            "The switch carries the load itself: take one rated well above it, and keep "
            "the run short.",
        )

    def wiring(self, bench: Bench) -> Parts:
        """Wire source - fuse - switch - load."""
        harness = Harness(bench)
        supply = fused_lead(harness)
        if bench.ask.switch is not None:
            supply = path_switch(harness, supply)
        to_load_and_back(harness, supply)
        return harness.parts()


SCHEME = Direct()
