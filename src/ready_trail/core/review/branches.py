"""Review of branches, joints and outputs: each wire behind a joint, and which lead is which."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.edits import (
    ChangeBranch,
    Edit,
    ProveOutput,
    SetJoint,
    SplitAccessory,
)
from ready_trail.core.job import Branch, BranchReturn, Segment
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.review.base import Check, Context, opens_words, releases
from ready_trail.core.sizing import BranchSizing

AREA = "branches"


def check_branch_wires(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Every wire behind the joint bears the fuse ahead of it, clears it, and loses little."""
    fuse = design.sizing.fuse
    limbs = {b.behind for b in design.circuit.branches}
    for branch in design.circuit.branches:
        sized = design.sizing.branches.get(branch.id)
        if sized is None or fuse is None:
            continue
        rung, place = sized.chosen, _place(design, branch)
        let_go = _let_size_follow(design, branch)
        if "ampacity" in rung.rejects:
            yield Finding(
                code="fuse_over_branch",
                area=AREA,
                place=place,
                severity="stop",
                text=f"The {fuse.rating_a:g} A fuse lets more through than {branch.name} carries "
                f"in {rung.conductor.label}.",
                why="A chafed branch draws what the fuse allows, and burns before it opens.",
                found=f"{fuse.rating_a:g} A",
                allowed=f"{rung.ampacity_a:.1f} A",
                actions=let_go + releases(design),
            )
        if "clearing" in rung.rejects or "withstand" in rung.rejects:
            yield Finding(
                code="branch_short",
                area=AREA,
                place=place,
                severity="stop",
                text=f"A short at the end of {branch.name} does not open the fuse in time.",
                why="Trunk and branch together limit the current of a short.",
                found=f"{rung.far_short_a:.0f} A, {opens_words(rung.far_short_opens_s)}",
                allowed=f"{fuse.family.clearing_x * fuse.rating_a:.0f} A, "
                f"within {rung.withstand_s:.2f} s",
                actions=let_go + releases(design) + _halve(design),
            )
        if "minimum" in rung.rejects:
            yield Finding(
                code="too_thin",
                area=AREA,
                place=place,
                severity="caution",
                text=f"{rung.conductor.label} is thinner than wires should be there.",
                why="Thin strands break where it shakes and chafes.",
                found=f"{rung.conductor.area_mm2:.2f} mm²",
                allowed=f"at least {sized.stretch.minimum_mm2:g} mm²",
                actions=let_go,
            )
        if "drop" in rung.rejects and branch.id not in limbs:
            yield _drop(design, branch, sized, let_go)


def _drop(
    design: CircuitDesign, branch: Branch, sized: BranchSizing, let_go: tuple[Action, ...]
) -> Finding:
    limit_v = sized.stretch.drop_limit_v
    return Finding(
        code="branch_drop",
        area=AREA,
        place=_place(design, branch),
        severity="caution",
        text=f"{branch.name} loses too much voltage on the way, trunk and branch together.",
        why="Its units work below what their maker expects; lamps differ in brightness.",
        found=f"{sized.chosen.conductor_drop_v:.2f} V",
        allowed=f"{limit_v:.2f} V",
        actions=let_go + releases(design) + _halve(design),
    )


def check_joint(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Two 87 blades need a relay; a joint is ahead of a unit's own plug, not inside its lead."""
    circuit = design.circuit
    if circuit.branches and circuit.joint == "double_87" and design.relay_device is None:
        yield Finding(
            code="joint_needs_relay",
            area=AREA,
            place=f"J{circuit.number}",
            severity="stop",
            text="Two 87 blades need a relay, and this circuit has none.",
            why="Without it nothing joins the branches as drawn.",
            actions=(
                Action(
                    label="Join them by a splice",
                    edit=SetJoint(circuit_id=circuit.id, joint="splice"),
                ),
            ),
        )
    by_id = {a.id: a for a in design.accessories}
    for branch in circuit.branches:
        sealed = [
            by_id[s.accessory] for s in branch.loads if by_id[s.accessory].tail_end == "sealed"
        ]
        for accessory in sealed:
            if branch.run_m >= accessory.tail_m - 0.005:
                continue
            last = branch.run[-1]
            more_m = round(accessory.tail_m - branch.run_m + last.length_m, 3)
            run = (*branch.run[:-1], last.model_copy(update={"length_m": more_m}))
            yield Finding(
                code="joint_in_unit",
                area=AREA,
                place=_place(design, branch),
                severity="stop",
                text=f"The joint would sit inside the sealed lead of {accessory.name}.",
                why="Cut there, the unit is no longer sealed, and the maker's rating no longer "
                "holds.",
                found=f"{branch.run_m:.2f} m",
                allowed=f"at least {accessory.tail_m:.2f} m",
                actions=(
                    Action(
                        label=f"Join it at the plug, {accessory.tail_m:g} m away",
                        edit=_changed(design, branch, run=run),
                    ),
                )
                if branch.place is None
                else (),
            )


def check_branch_returns(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A composite body carries no current, of branches neither."""
    if design.job.vehicle.body != "composite":
        return
    for branch in design.circuit.branches:
        sized = design.sizing.branches.get(branch.id)
        if not branch.back.on_body or (sized is not None and not sized.stretch.back):
            continue
        shared = branch.back.model_copy(update={"kind": "shared"})
        yield Finding(
            code="no_return",
            area=AREA,
            place=_place(design, branch),
            severity="stop",
            text="A composite body is no way back for the current.",
            why="Without a return wire the unit does not work, or finds another way.",
            actions=(
                Action(
                    label="Bring its return to the joint",
                    edit=_changed(design, branch, back=shared),
                ),
            ),
        )


def check_outputs(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """Which lead is which output is the maker's matter: it is proved, not guessed by colour."""
    circuit = design.circuit
    if not circuit.output:
        return
    for accessory_id in circuit.accessory_ids:
        accessory = design.job.accessory(accessory_id)
        output = next((o for o in accessory.outputs if o.name == circuit.output), None)
        if output is None or output.proved:
            continue
        lead = f"the {output.lead} lead" if output.lead else "which lead"
        yield Finding(
            code="lead_unproved",
            area=AREA,
            place=design.load_ref,
            severity="note",
            text=f"Nobody has proved yet that {lead} of {accessory.name} is {output.name}."
            if output.lead
            else f"Nobody has proved yet {lead} of {accessory.name} is {output.name}.",
            why="Colours differ from maker to maker: touch it to a fused supply and look.",
            actions=(
                Action(
                    label="I saw it light up",
                    edit=ProveOutput(
                        accessory_id=accessory.id, output=output.name, lead=output.lead
                    ),
                ),
            ),
        )


def _changed(
    design: CircuitDesign,
    branch: Branch,
    *,
    back: BranchReturn | None = None,
    run: tuple[Segment, ...] | None = None,
    size: str | None = None,
) -> Edit:
    return ChangeBranch(
        circuit_id=design.circuit.id,
        branch_id=branch.id,
        name=branch.name,
        run=branch.run if run is None else run,
        back=back or branch.back,
        size=size,
    )


def _let_size_follow(design: CircuitDesign, branch: Branch) -> tuple[Action, ...]:
    if branch.size is None:
        return ()
    return (Action(label="Choose the branch's size automatically", edit=_changed(design, branch)),)


def _halve(design: CircuitDesign) -> tuple[Action, ...]:
    """Two circuits of half the units, where one accessory is all there is."""
    if len(design.accessories) != 1 or design.accessories[0].quantity < 2:
        return ()
    edit = SplitAccessory(accessory_id=design.accessories[0].id)
    return (Action(label="Split it over two circuits", edit=edit),)


def _place(design: CircuitDesign, branch: Branch) -> str:
    """Label of a branch's feed."""
    return next(
        (w.label for w in design.wires if w.branch == branch.id and w.role == "power"), branch.name
    )


CHECKS: tuple[Check, ...] = (
    check_branch_wires,
    check_joint,
    check_branch_returns,
    check_outputs,
)
