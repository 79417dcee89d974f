"""The branches of a circuit as sizing sees them, and its ends as everybody else does."""

from __future__ import annotations

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design.pieces import legs, working_pieces
from ready_trail.core.job import Branch, Circuit, Segment
from ready_trail.core.job.branch import children, leaves
from ready_trail.core.job.run import split_run
from ready_trail.core.kinds.earth import CHASSIS_OHM
from ready_trail.core.kinds.load import element_name, part_key
from ready_trail.core.outcome import Outlet
from ready_trail.core.schemes.base import Ask, Limb, Scheme
from ready_trail.core.schemes.branches import end_joint
from ready_trail.core.schemes.power import behind_fuse_m, holds_fuses
from ready_trail.core.schemes.refs import unit_ref
from ready_trail.core.sizing import DROP_SCHOOLS, Sizing, Stretch
from ready_trail.core.sizing.records import CONNECTOR_PAIR_OHM, CRIMP_OHM, LUG_OHM

_JOINT_LEAST_M = 0.02


def joint_m(ask: Ask, scheme: Scheme) -> float | None:
    """Return where branches begin that are joined on the device: two 87 blades, two lugs. [m]

    None where they begin at the run's end, as behind any other joint.
    """
    circuit, start = ask.circuit, ask.start_point
    at_relay = circuit.joint == "double_87" and scheme.has_relay
    if not circuit.branches or not (at_relay or circuit.joint == "double_lug"):
        return None
    fuse_m = 0.0 if start is not None and holds_fuses(start) else circuit.fuse_at_m
    in_path = scheme.switch_role == "path" and ask.switch is not None
    at_m = behind_fuse_m(circuit, fuse_m) if scheme.has_relay or in_path else fuse_m
    return max(_JOINT_LEAST_M, at_m)


def trunk_of(ask: Ask, scheme: Scheme) -> Circuit:
    """Return a circuit whose branches begin where its run ends: of two 87 blades or two lugs, the
    run ends at the device and each branch runs on from there.
    """
    circuit, at_m = ask.circuit, joint_m(ask, scheme)
    if at_m is None:
        return circuit
    trunk, rest = split_run(circuit.run, at_m)
    if not trunk or not rest:
        return circuit
    branches = tuple(
        b if b.behind else b.model_copy(update={"run": (*rest, *b.run)}) for b in circuit.branches
    )
    return circuit.model_copy(update={"run": trunk, "branches": branches})


def stretches(
    ask: Ask,
    circuit: Circuit,
    currents_a: tuple[float, ...],
    nominal_v: float,
    catalogue: Catalogue,
) -> tuple[Stretch, ...]:
    """Return every branch of a circuit for sizing, with what it carries out and back.

    ``circuit`` is the ask's, with its branches where they really begin.
    """
    if not circuit.branches:
        return ()
    by_id = {a.id: (a, amps) for a, amps in zip(ask.accessories, currents_a, strict=True)}

    def carried_a(branch: Branch) -> float:
        own_a = sum(
            by_id[s.accessory][1] * s.units / by_id[s.accessory][0].quantity for s in branch.loads
        )
        return own_a + sum(carried_a(b) for b in children(circuit.branches, branch.id))

    def shared_a(branch: Branch) -> float:
        """What comes back to the end of a branch and has to go on from there."""
        if branch.loads:
            return carried_a(branch)
        behind = children(circuit.branches, branch.id)
        return sum(shared_a(b) for b in behind if b.back.is_shared)

    made = []
    for branch in circuit.branches:
        zones = [catalogue.zones[s.zone] for s in branch.run if s.zone in catalogue.zones]
        returns_a = shared_a(branch)
        back = back_of(branch) if returns_a > 0 else ()
        accessories = [by_id[s.accessory][0] for s in branch.loads]
        school = DROP_SCHOOLS[ask.job.rules.drop]
        ratio = min((school[a.drop_class] for a in accessories), default=1.0)
        earthed = branch.back.on_body and bool(back)
        made.append(
            Stretch(
                id=branch.id,
                ahead=branch.behind,
                current_a=carried_a(branch),
                out=legs(branch.run, catalogue),
                back=legs(back, catalogue),
                back_a=returns_a,
                chassis_ohm=chassis_ohm(branch) if earthed else None,
                joints_ohm=_joints_ohm(ask, branch),
                minimum_mm2=max((z.minimum_mm2 for z in zones), default=0.75),
                drop_limit_v=ratio * nominal_v,
                held=branch.size,
                twins=_twins(branch),
            )
        )
    return tuple(made)


def _twins(branch: Branch) -> str:
    """What is equal for branches that end at equal units of one accessory."""
    return "+".join(f"{s.units} {s.accessory}" for s in branch.loads)


def trunk_returns_a(ask: Ask, branches: tuple[Stretch, ...]) -> float:
    """Return what comes back along the trunk: of the branches that share its return. [A]"""
    shared = {b.id for b in ask.circuit.branches if b.back.is_shared}
    return sum(s.returns_a for s in branches if not s.ahead and s.id in shared)


def back_of(branch: Branch) -> tuple[Segment, ...]:
    """Return the way back of one branch: a stub to its own earth, or its run reversed."""
    if branch.back.is_shared:
        return tuple(reversed(branch.run))
    last = branch.run[-1].model_copy(
        update={"length_m": branch.back.stub_m, "taped": branch.back.taped, "passes": None}
    )
    return (last,)


def chassis_ohm(branch: Branch) -> float:
    """Return the body's resistance behind a branch's own earth. [Ω]"""
    measured = branch.back.measured_mohm
    return measured * 1e-3 if measured is not None else CHASSIS_OHM[branch.back.path]


def limbs(circuit: Circuit, sizing: Sizing) -> dict[str, Limb]:
    """Return the wire of each branch at working temperature."""
    made = {}
    for branch in circuit.branches:
        sized = sizing.branches[branch.id]
        stretch, rung = sized.stretch, sized.chosen
        back = back_of(branch) if stretch.back else ()
        class_c = sizing.request.wire.insulation_c
        made[branch.id] = Limb(
            conductor=rung.conductor,
            run=working_pieces(branch.run, stretch.out, rung, stretch.current_a, class_c),
            back=working_pieces(back, stretch.back, rung, stretch.returns_a, class_c),
            chassis_ohm=stretch.chassis_ohm or 0.0,
        )
    return made


def outlets(ask: Ask, load_ref: str, currents_a: tuple[float, ...]) -> tuple[Outlet, ...]:
    """Return the ends of a circuit: each branch's units, or everything it feeds at one place."""
    circuit, plus = ask.circuit, ask.job.plus_of(ask.circuit)
    whole = dict(zip((a.id for a in ask.accessories), currents_a, strict=False))
    if not circuit.branches:
        amps = {element_name(load_ref, part_key(i, plus)): a for i, a in whole.items()}
        return (Outlet(ref=load_ref, branch="", plus=plus, accessories=ask.accessories, amps=amps),)
    by_id = {a.id: a for a in ask.accessories}
    made = []
    for branch in leaves(circuit.branches):
        ref = unit_ref(load_ref, branch.id)
        amps = {
            element_name(ref, part_key(s.accessory, "+")): whole[s.accessory]
            * s.units
            / by_id[s.accessory].quantity
            for s in branch.loads
        }
        made.append(
            Outlet(
                ref=ref,
                branch=branch.id,
                plus="+",
                amps=amps,
                accessories=tuple(by_id[s.accessory].only(units=s.units) for s in branch.loads),
            )
        )
    return tuple(made)


def _joints_ohm(ask: Ask, branch: Branch) -> float:
    """Ends of one branch's wires, as the wiring makes them. [Ω]"""
    by_id = {b.id: b for b in ask.circuit.branches}
    kind = by_id[branch.behind].joint if branch.behind else ask.circuit.joint
    here_ohm = LUG_OHM if end_joint(kind) == "lug" else CRIMP_OHM
    sealed = any(
        a.tail_end == "sealed"
        for a in ask.accessories
        if a.id in {s.accessory for s in branch.loads}
    )
    tail_ohm = CRIMP_OHM + (CONNECTOR_PAIR_OHM if sealed else 0.0)
    end_ohm = here_ohm if branch.back.is_shared else LUG_OHM
    return here_ohm + tail_ohm + tail_ohm + end_ohm
