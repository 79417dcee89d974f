"""A winch whose box brings its own remote: posts, leads as supplied, no switch in the dash."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Terminal
from ready_trail.core.kinds.load import PartLoad, part_key
from ready_trail.core.kinds.reversing import ReversingSpec
from ready_trail.core.kinds.winch_box import KEY, SeriesMotorSpec, WinchBoxSpec
from ready_trail.core.loads import Load
from ready_trail.core.schemes.base import Ask, Bench, SwitchRole
from ready_trail.core.schemes.control import control_wire, key_feed
from ready_trail.core.schemes.harness import Harness, clip
from ready_trail.core.schemes.power import length_m
from ready_trail.core.schemes.reversing import Reversing


@dataclass(frozen=True, slots=True)
class WinchRemote(Reversing):
    """Battery - fuse - isolator - box - motor; the remote is the box's own."""

    key: str = "winch_remote"
    label: str = "Winch both ways, its box with its own remote"
    when: str = "a winch whose box brings a remote, plugged in or wireless"
    switch_role: SwitchRole = "none"

    def proposal(self, ask: Ask) -> str:
        """Propose it for a winch that brings its remote."""
        if self.refusal(ask):
            return ""
        how = "a wireless" if ask.accessories[0].remote == "wireless" else "its own"
        return f"Its box brings {how} remote: nothing of it goes into the dash."

    def refusal(self, ask: Ask) -> str:
        """Needs a winch alone that brings its remote, and a cable back."""
        if not ask.has_winch or any(a.model != "winch" for a in ask.accessories):
            return "this scheme is for winches only"
        if not ask.accessories[0].remote:
            return "it brings no remote of its own"
        if ask.circuit.back.on_body:
            return "a winch has a return cable of its own to the battery"
        return ""

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say how a winch is worked, and what its own remote asks for."""
        found = [
            *super(WinchRemote, self).cautions(ask),
            "Unplug or switch off the remote when nobody is winching; keep it in the cab.",
        ]
        if ask.accessories[0].field_posts:
            found.append("Colour of lead to post as the box's paper says: swapped, it turns wrong.")
        return tuple(found)

    def _box(self, bench: Bench) -> ReversingSpec:
        winch = bench.accessories[0]
        return WinchBoxSpec(
            relay=bench.relay,
            ambient_c=bench.relay_c,
            name=bench.circuit.name,
            field=winch.field_posts,
            keyed=winch.remote_keyed,
        )

    def _box_words(self, bench: Bench) -> str:
        posts = ", ".join(self._box(bench).terminals())
        return f"posts {posts}; {bench.accessories[0].remote} remote"

    def _leads(self, harness: Harness, box: str) -> None:
        if not harness.bench.accessories[0].field_posts:
            super(WinchRemote, self)._leads(harness, box)
            return
        bench = harness.bench
        lead = self._to_motor(bench)
        for post in ("F1", "F2", "A"):
            label = harness.wire(
                "power",
                Terminal(device=box, terminal=post),
                Terminal(device=bench.load, terminal=post),
                lead,
                colour=bench.colour,
                joints=("lug", "lug"),
                supplied=True,
            )
            if post != "F1":  # what the motor's current comes back by, and goes on
                harness.out.remove(label)
        self._motor(harness)
        back = clip(bench.back, 0.0, length_m(bench.back))
        harness.wire(
            "return",
            Terminal(device=bench.load, terminal="-"),
            bench.negative,
            back,
            colour="BK",
            joints=("lug", "lug"),
        )
        label = harness.wire(
            "control_return",
            Terminal(device=box, terminal="-"),
            bench.negative,
            back,
            colour="BK",
        )

    def _motor(self, harness: Harness) -> None:
        a = harness.bench.accessories[0]
        if not a.field_posts:
            super(WinchRemote, self)._motor(harness)
            return
        bench = harness.bench
        load = Load(model=a.model, rated_a=a.rated_a, rated_v=a.at_v, cut_in_v=1.0)
        harness.add(
            bench.load,
            SeriesMotorSpec(loads=(PartLoad(key=part_key(a.id, "F1"), load=load, plus="F1"),)),
            bench.circuit.name,
            f"{a.rated_a:g} A at {a.at_v:g} V, series motor",
            zone=bench.run[-1].zone,
            at_m=bench.circuit.run_m,
            name=bench.circuit.name,
        )

    def _remote(self, harness: Harness, box: str) -> None:
        """The remote's own wire to a keyed feed, where it has one."""
        if harness.bench.accessories[0].remote_keyed:
            control_wire(
                harness,
                key_feed(harness),
                Terminal(device=box, terminal=KEY),
                harness.bench.circuit.control_m,
            )


SCHEME = WinchRemote()
