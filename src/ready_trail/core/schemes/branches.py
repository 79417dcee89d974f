"""Behind the trunk: joints, one wire to each unit, and each unit's own way back."""

from __future__ import annotations

from ready_trail.core.installation import Joint, Terminal, Way
from ready_trail.core.job.branch import Branch, children
from ready_trail.core.kinds.joint import JOINT_WORDS, JointKind, JointSpec, is_bolted
from ready_trail.core.schemes.base import Bench, Limb
from ready_trail.core.schemes.ends import add_earth, add_load
from ready_trail.core.schemes.harness import Harness
from ready_trail.core.schemes.refs import joint_ref, short, unit_ref


def add_branches(harness: Harness, at: Terminal, out: tuple[str, ...]) -> Terminal | None:
    """Wire every branch behind a trunk that ends ``at`` a terminal, having passed ``out``.

    Returns the joint's return side where any branch comes back to it, else None.
    """
    bench = harness.bench
    shared = _grow(harness, "", at, out, (f"J{bench.number}",), bench.circuit.joint)
    return Terminal(device=shared, terminal="-") if shared else None


def add_joint(
    harness: Harness, ref: str, kind: JointKind, zone: str, at_m: float | None, branch: str = ""
) -> None:
    """Add a joint: the trunk's, or the one at the end of a branch."""
    words = JOINT_WORDS[kind]
    harness.add(
        ref,
        JointSpec(how=kind),
        words.capitalize(),
        "joint of the branches",
        name=ref,
        zone=zone,
        at_m=at_m,
        branch=branch,
    )


def end_joint(kind: JointKind) -> Joint:
    """Return how a wire ends at a joint."""
    return "lug" if is_bolted(kind) else "crimp"


def _tail(bench: Bench, branch: Branch) -> tuple[Joint, float]:
    """How the wire of a branch meets what hangs there, and the length of that's own tail. [m]"""
    loads = bench.loads_on(branch) if branch.loads else ()
    sealed = any(a.tail_end == "sealed" for a, _ in loads)
    return "sealed" if sealed else "crimp", loads[0][0].tail_m if len(loads) == 1 else 0.0


def _grow(
    harness: Harness,
    behind: str,
    at: Terminal,
    out: tuple[str, ...],
    joints: tuple[str, ...],
    kind: JointKind,
) -> str:
    """Wire the branches at one joint; return the joint's reference if one comes back to it."""
    bench = harness.bench
    here = joints[-1]
    shared = ""
    for branch in children(bench.circuit.branches, behind):
        limb = bench.limbs[branch.id]
        end = _end(harness, branch, limb)
        plus = Terminal(device=end, terminal="+")
        tail, tail_m = _tail(bench, branch)
        label = harness.wire(
            "power",
            at,
            plus,
            limb.run,
            colour=bench.colour,
            joints=(end_joint(kind), tail),
            tail_m=tail_m,
            conductor=limb.conductor,
            branch=branch.id,
        )
        way = (*out, label)
        behind_it = (harness, branch.id, plus, way, (*joints, end), branch.joint)
        if not branch.loads and not _grow(*behind_it):
            continue
        on_body = branch.back.on_body
        earth = f"G{bench.number}.{short(branch.id)}"
        goal = Terminal(device=earth if on_body else here, terminal="1" if on_body else "-")
        label = harness.wire(
            "return",
            Terminal(device=end, terminal="-"),
            goal,
            limb.back,
            colour="BK",
            joints=(tail, "lug" if on_body else end_joint(kind)),
            tail_m=tail_m,
            conductor=limb.conductor,
            branch=branch.id,
        )
        harness.backs[end] = (label, goal.device)
        if on_body:
            add_earth(harness, earth, limb.chassis_ohm, limb.run[-1].zone, None, branch.id)
        else:
            shared = here
        if branch.loads:
            harness.ways.append(Way(ref=end, branch=branch.id, out=way, back=()))
    return shared


def _end(harness: Harness, branch: Branch, limb: Limb) -> str:
    """What stands at the end of a branch: its units, or the next joint."""
    bench = harness.bench
    zone = limb.run[-1].zone
    if not branch.loads:
        ref = joint_ref(bench.number, branch.id)
        add_joint(harness, ref, branch.joint, zone, None, branch.id)
        return ref
    ref = unit_ref(bench.load, branch.id)
    add_load(harness, ref, bench.loads_on(branch), branch.name, zone, None, branch.id)
    return ref
