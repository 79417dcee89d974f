"""A winch both ways: its box with posts, two motor leads, in and out, and a remote."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.installation import Parts, Piece, Terminal
from ready_trail.core.kinds.load import LoadSpec, PartLoad, part_key
from ready_trail.core.kinds.reversing import IsolatorSpec, ReversingSpec
from ready_trail.core.kinds.switch import SwitchSpec
from ready_trail.core.loads import Load
from ready_trail.core.schemes.base import Ask, Bench, Defaults, SwitchRole
from ready_trail.core.schemes.control import (
    control_parts_m,
    control_wire,
    key_feed,
)
from ready_trail.core.schemes.harness import Harness, base_colour, clip, piece_at
from ready_trail.core.schemes.power import fuse_m, fused_lead, length_m, switching_m

_ISOLATOR_M = 0.3
_PATH_OHM = 0.0011
"""An isolator of 0.2 mΩ, a second contact, and six more lugs than a plain circuit (house)."""


@dataclass(frozen=True, slots=True)
class Reversing(Defaults):
    """Battery - fuse - isolator - box - motor and back; keyed feed - remote - in, out."""

    key: str = "reversing"
    label: str = "Winch both ways, with its box"
    when: str = "a winch that winds in and out by a remote"
    for_winch: bool = True
    switch_role: SwitchRole = "own"

    def proposal(self, ask: Ask) -> str:
        """Propose it for a winch with a remote of two sides."""
        if self.refusal(ask):
            return ""
        return "A winch with a remote for in and out turns both ways through its box."

    def refusal(self, ask: Ask) -> str:
        """Needs a winch alone, with a switch of two sides."""
        if not ask.has_winch or any(a.model != "winch" for a in ask.accessories):
            return "this scheme is for winches only"
        switch = ask.switch
        if switch is None or switch.throws != 2:
            return "its remote has no two sides, in and out"
        if ask.circuit.back.on_body:
            return "a winch has a return cable of its own to the battery"
        return ""

    def can_be_wired(self, ask: Ask) -> bool:
        """Without a remote there is nothing to work the box."""
        return not self.refusal(ask)

    def cautions(self, ask: Ask) -> tuple[str, ...]:
        """Say how a winch is worked."""
        return (
            "Winch: keep hands off the fairlead, wear gloves, nobody in the bight, damper on "
            "the line; let the motor cool.",
            "Open the battery isolator whenever nobody is winching.",
        )

    def path_ohm(self, ask: Ask) -> float:
        """Return what isolator, the second contact and the posts' lugs add. [Ω]"""
        return _PATH_OHM

    def wiring(self, bench: Bench) -> Parts:
        """Wire the posts, the two motor leads and the remote."""
        harness = Harness(bench)
        box = f"K{bench.number}"
        box_m = switching_m(bench)
        supply = self._isolated(harness)
        begin_m = self._isolator_m(bench)
        harness.wire(
            "power",
            supply,
            Terminal(device=box, terminal="+"),
            clip(bench.run, begin_m, box_m),
            colour=base_colour(bench.colour),
            joints=("lug", "lug"),
        )
        harness.add(
            box,
            self._box(bench),
            bench.relay.label,
            self._box_words(bench),
            zone=piece_at(bench.run, box_m).zone,
            at_m=box_m,
            on_the_way=True,
        )
        self._leads(harness, box)
        self._remote(harness, box)
        return harness.parts()

    def _box(self, bench: Bench) -> ReversingSpec:
        return ReversingSpec(relay=bench.relay, ambient_c=bench.relay_c)

    def _box_words(self, bench: Bench) -> str:
        return "posts +, -, M1, M2; in and out"

    def _to_motor(self, bench: Bench) -> tuple[Piece, ...]:
        return clip(bench.run, switching_m(bench), bench.circuit.run_m)

    def _leads(self, harness: Harness, box: str) -> None:
        """The two motor leads, and the box's own cable back."""
        bench, load = harness.bench, harness.bench.load
        lead = self._to_motor(bench)
        harness.wire(
            "power",
            Terminal(device=box, terminal="M1"),
            Terminal(device=load, terminal="+"),
            lead,
            colour=bench.colour,
            joints=("lug", "lug"),
        )
        self._motor(harness)
        back_m = length_m(lead)
        harness.wire(
            "return",
            Terminal(device=load, terminal="-"),
            Terminal(device=box, terminal="M2"),
            clip(bench.back, 0.0, back_m),
            colour="BK",
            joints=("lug", "lug"),
        )
        harness.back.append(box)
        harness.wire(
            "return",
            Terminal(device=box, terminal="-"),
            bench.negative,
            clip(bench.back, back_m, length_m(bench.back)),
            colour="BK",
            joints=("lug", "lug"),
        )

    def _isolator_m(self, bench: Bench) -> float:
        """Where the isolator sits: a hand's breadth behind the fuse, ahead of the box. [m]"""
        first_m, box_m = fuse_m(bench), switching_m(bench)
        return min(max(_ISOLATOR_M, first_m + 0.1), (first_m + box_m) / 2)

    def _isolated(self, harness: Harness) -> Terminal:
        """The fuse with its lead, and the isolator; by one school the isolator alone."""
        bench = harness.bench
        ref = f"Q{bench.number}"
        alone = bench.job.rules.winch_protection == "isolator"
        start = bench.start if alone else fused_lead(harness)
        at_m = self._isolator_m(bench)
        from_m = 0.0 if alone else fuse_m(bench)
        harness.wire(
            "feed" if alone else "power",
            start,
            Terminal(device=ref, terminal="1"),
            clip(bench.run, from_m, at_m),
            colour=base_colour(bench.colour),
            joints=("lug", "lug"),
        )
        harness.add(
            ref,
            IsolatorSpec(),
            "Battery isolator",
            "closed to winch, open otherwise",
            name="Battery isolator",
            zone=bench.run[0].zone,
            at_m=at_m,
            on_the_way=True,
        )
        return Terminal(device=ref, terminal="2")

    def _motor(self, harness: Harness) -> None:
        bench = harness.bench
        a = bench.accessories[0]
        load = Load(model=a.model, rated_a=a.rated_a, rated_v=a.at_v, cut_in_v=1.0)
        spec = LoadSpec(loads=(PartLoad(key=part_key(a.id, "+"), load=load),), both_ways=True)
        harness.add(
            bench.load,
            spec,
            bench.circuit.name,
            f"{a.rated_a:g} A at {a.at_v:g} V",
            zone=bench.run[-1].zone,
            at_m=bench.circuit.run_m,
            name=bench.circuit.name,
        )

    def _remote(self, harness: Harness, box: str) -> None:
        bench = harness.bench
        switch = bench.ask.switch
        if switch is None:
            raise ValueError("there is no remote")
        ref = bench.references[f"switch {switch.name}"]
        to_switch_m, on_m = control_parts_m(bench)
        control_wire(harness, key_feed(harness), Terminal(device=ref, terminal="1"), to_switch_m)
        harness.add(
            ref,
            SwitchSpec(name=switch.name, rating_a=switch.rating_a, throws=2),
            switch.name,
            "remote, in and out",
            name=switch.name,
            zone="cabin",
        )
        for side, way in (("I", "in"), ("II", "out")):
            control_wire(
                harness,
                Terminal(device=ref, terminal=side),
                Terminal(device=box, terminal=way),
                on_m,
            )


SCHEME = Reversing()
