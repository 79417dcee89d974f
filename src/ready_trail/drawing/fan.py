"""The fan of a branching circuit: from the joint to every unit, worst first."""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.design import CircuitDesign
from ready_trail.core.installation import Installation, Wire
from ready_trail.core.job import Branch
from ready_trail.core.job.branch import children
from ready_trail.core.outcome import OutletDesign
from ready_trail.core.profile import by_place
from ready_trail.core.schemes.refs import joint_ref
from ready_trail.drawing import words
from ready_trail.drawing.band import WIDTH, split_colour, stroke_px

ROW_PX = 48.0
_TOP_PX, _FOOT_PX = 20.0, 8.0
_JOINT_X, _LIMB_PX, _CURVE_PX = 74.0, 190.0, 34.0
_ENDS_X = 520.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FanLimb:
    """One branch's wire: it leaves its joint in a curve and runs level in its row."""

    label: str
    title: str
    x0: float
    y0: float
    x1: float
    y1: float
    x2: float
    stroke: float
    base: str
    tracer: str
    words: str
    lost: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FanJoint:
    """A joint, with its name."""

    ref: str
    title: str
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FanEnd:
    """Units at the end of a branch: what they draw and get, and how much of the allowed is lost."""

    branch: str
    ref: str
    name: str
    title: str
    x: float
    y: float
    amps: str
    volts: str
    share: float
    fails: bool
    chosen: bool
    back: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Fan:
    """The whole fan."""

    width: float
    height: float
    trunk: tuple[float, float, str, str, float] | None
    limbs: tuple[FanLimb, ...]
    joints: tuple[FanJoint, ...]
    ends: tuple[FanEnd, ...]


def draw_fan(design: CircuitDesign) -> Fan | None:
    """Place every branch of a circuit; None where it has none, or nothing could be wired."""
    installation = design.installation
    if installation is None or not design.circuit.branches or design.profile is None:
        return None
    outlets = {o.outlet.branch: o for o in design.outlets}
    shares = {i: _share(o) for i, o in outlets.items()}
    rows: dict[str, float] = {}
    limbs: list[FanLimb] = []
    joints: list[FanJoint] = []
    ends: list[FanEnd] = []

    def worst(branch: Branch) -> float:
        behind = children(design.circuit.branches, branch.id)
        return shares.get(branch.id, max((worst(b) for b in behind), default=0.0))

    def seat(at: str) -> float:
        """Give each unit a row, worst first; a joint sits in the middle of what it feeds."""
        behind = sorted(children(design.circuit.branches, at), key=lambda b: -worst(b))
        if not behind:
            rows[at] = _TOP_PX + ROW_PX * (sum(i in outlets for i in rows) + 0.5)
        else:
            own = [seat(b.id) for b in behind]
            rows[at] = (own[0] + own[-1]) / 2
        return rows[at]

    def draw(at: str, x: float) -> None:
        for branch in children(design.circuit.branches, at):
            wire = _feed(design, branch.id)
            end_x = _ENDS_X if branch.loads else x + _LIMB_PX
            limbs.append(_limb(design, installation, wire, (x, rows[at]), rows[branch.id], end_x))
            if branch.loads:
                ends.append(_end(design, outlets[branch.id], rows[branch.id], shares[branch.id]))
            else:
                ref = joint_ref(design.circuit.number, branch.id)
                joints.append(_joint(installation, ref, end_x, rows[branch.id]))
                draw(branch.id, end_x)

    seat("")
    draw("", _JOINT_X)
    joints.insert(0, _joint(installation, joint_ref(design.circuit.number), _JOINT_X, rows[""]))
    base, tracer = split_colour(design.colour)
    trunk = design.sizing.chosen
    return Fan(
        width=WIDTH,
        height=_TOP_PX + ROW_PX * len(ends) + _FOOT_PX,
        trunk=(8.0, rows[""], base, tracer, stroke_px(trunk.conductor.area_mm2))
        if trunk is not None
        else None,
        limbs=tuple(limbs),
        joints=tuple(joints),
        ends=tuple(sorted(ends, key=lambda e: e.y)),
    )


def _feed(design: CircuitDesign, branch_id: str) -> Wire:
    return next(w for w in design.wires if w.branch == branch_id and w.role == "power")


def _share(end: OutletDesign) -> float:
    lost_v = end.profile.conductor_drop_v if end.profile is not None else 0.0
    return lost_v / end.limit_v


def _limb(
    design: CircuitDesign,
    installation: Installation,
    wire: Wire,
    start: tuple[float, float],
    row: float,
    end_x: float,
) -> FanLimb:
    base, tracer = split_colour(wire.colour)
    lost_v: float | None = None
    for end in design.outlets:
        if wire.label in end.out and end.profile is not None:
            lost_v = by_place(end.profile).get(wire.label)
            break
    told = f"{wire.conductor.label} · {words.metres(wire.length_m)}"
    lost = words.drop(lost_v) if lost_v is not None else ""
    return FanLimb(
        label=wire.label,
        title=f"Wire {wire.label}, {installation.words(wire.start)} to "
        f"{installation.words(wire.end)}: {told}, {lost}",
        x0=start[0],
        y0=start[1],
        x1=start[0] + _CURVE_PX,
        y1=row,
        x2=end_x,
        stroke=stroke_px(wire.conductor.area_mm2),
        base=base,
        tracer=tracer,
        words=told,
        lost=lost,
    )


def _joint(installation: Installation, ref: str, x: float, y: float) -> FanJoint:
    device = installation.devices[ref]
    return FanJoint(ref=ref, title=f"{ref}: {device.label}", x=x, y=y)


def _end(design: CircuitDesign, end: OutletDesign, row: float, share: float) -> FanEnd:
    profile = end.profile
    back = end.back[0] if end.back else ""
    wire = next((w for w in design.wires if w.label == back), None)
    goes = ""
    if wire is not None:
        goes = (
            f"earth {wire.end.device}"
            if wire.end.device.startswith("G")
            else (f"back to {wire.end.device}")
        )
    return FanEnd(
        branch=end.outlet.branch,
        ref=end.outlet.ref,
        name=end.name,
        title=f"{end.outlet.ref}: {end.name}",
        x=_ENDS_X,
        y=row,
        amps=words.amps(end.outlet.current_a),
        volts=words.volts(profile.load_v) if profile is not None else "",
        share=min(1.0, share),
        fails=share > 1.0,
        chosen=end.out == design.out,
        back=goes,
    )
