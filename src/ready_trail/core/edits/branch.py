"""Edits of branches: one to each unit, together again, one more, one changed, one gone."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field

from ready_trail.core.edits.base import find_circuit, rebuilt, with_circuit
from ready_trail.core.edits.circuit import CircuitEdit, typed_run
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import mapping, merged
from ready_trail.core.job.branch import Branch, BranchReturn, Share, children
from ready_trail.core.job.circuit import Circuit, Return
from ready_trail.core.job.document import Job
from ready_trail.core.job.parts import Ident, Name
from ready_trail.core.job.run import Segment
from ready_trail.core.kinds.joint import JointKind

_FIRST_BRANCH_M = 0.6
"""Length of a new branch until somebody measures it (house). [m]"""


class GiveBranches(CircuitEdit):
    """Give each unit of a circuit its own branch behind a joint at the end of the run.

    Units that share a housing (``groups``) may be kept together: that many branches, with the
    units dealt out evenly.
    """

    kind: Literal["give_branches"] = "give_branches"
    groups: Annotated[int, Field(ge=2, le=50)] | None = None

    def apply(self, job: Job) -> Job:
        """Return the job with the branches; the trunk keeps its run and its return's kind."""
        circuit = self.circuit(job)
        shares = [Share(accessory=a.id) for a in job.loads_of(circuit) for _ in range(a.quantity)]
        if circuit.is_feeder:
            raise EditRefusedError("circuit_id", "a feeder ends at its point; branch behind that")
        if circuit.output:
            raise EditRefusedError(
                "circuit_id", "this circuit feeds one output; its units cannot sit apart yet"
            )
        if len(shares) < 2:
            raise EditRefusedError("circuit_id", "one unit needs no branch; it has this run")
        count = min(self.groups or len(shares), len(shares))
        zone = circuit.run[-1].zone
        earthed = circuit.back.on_body
        back = BranchReturn(
            kind="chassis" if earthed else "shared",
            stub_m=circuit.back.stub_m,
            path=circuit.back.path,
        )
        branches = tuple(
            Branch(
                id=f"b{n + 1}",
                name=f"{circuit.name[:70]} {n + 1}",
                loads=_gathered(shares[n::count]),
                run=(Segment(zone=zone, length_m=_FIRST_BRANCH_M),),
                back=back,
            )
            for n in range(count)
        )
        return with_circuit(job, circuit, branches=branches)

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Give each of {self.circuit(job).name} its own branch"


class BringTogether(CircuitEdit):
    """Put all units of a circuit back at the end of its run."""

    kind: Literal["bring_together"] = "bring_together"

    def apply(self, job: Job) -> Job:
        """Return the job without branches on this circuit."""
        circuit = self.circuit(job)
        if not circuit.branches:
            raise EditRefusedError("circuit_id", "this circuit has no branches")
        return with_circuit(job, circuit, branches=(), joint="splice")

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Bring {self.circuit(job).name} together"


class SetJoint(CircuitEdit):
    """Choose how branches are joined: at the trunk's end, or at the end of one of them."""

    kind: Literal["set_joint"] = "set_joint"
    branch_id: str = ""
    joint: JointKind

    def apply(self, job: Job) -> Job:
        """Return the job with that kind of joint."""
        circuit = self.circuit(job)
        if not self.branch_id:
            return with_circuit(job, circuit, joint=self.joint)
        branch = _find(circuit, self.branch_id)
        return _with_branch(job, circuit, branch, joint=self.joint)

    def title(self, job: Job) -> str:
        """Say which."""
        words = self.joint.replace("_", " ")
        return f"Join the branches of {self.circuit(job).name} by a {words}"


class ChangeBranch(CircuitEdit):
    """State a branch anew: its name, units, run and way back."""

    kind: Literal["change_branch"] = "change_branch"
    branch_id: str
    name: Name
    run: tuple[Segment, ...]
    back: BranchReturn
    size: str | None = None

    @classmethod
    def of_form(cls, job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
        """Leave out blank segments; a run that the layout gives is not on the form, and stays."""
        circuit = find_circuit(job, str(typed.get("circuit_id", "")))
        found = next((b for b in circuit.branches if b.id == typed.get("branch_id")), None)
        before = found.model_dump() if found is not None else {}
        back = merged(mapping(before.get("back")), mapping(typed.get("back")))
        run = typed_run(typed) if "run" in typed else before.get("run", ())
        return {**typed, "back": back, "run": run}

    def apply(self, job: Job) -> Job:
        """Return the job with the branch changed."""
        circuit = self.circuit(job)
        branch = _find(circuit, self.branch_id)
        return _with_branch(
            job, circuit, branch, name=self.name, run=self.run, back=self.back, size=self.size
        )

    def title(self, job: Job) -> str:
        """Say which and how long."""
        length_m = sum(segment.length_m for segment in self.run)
        return f"Set branch {self.name}: {length_m:.2f} m"


class MoveBranch(CircuitEdit):
    """Let a branch begin at the end of another one, or at the trunk (empty).

    Where that one ends at units, a joint takes its place and the units get a branch behind it.
    """

    kind: Literal["move_branch"] = "move_branch"
    branch_id: str
    behind: str = ""

    def apply(self, job: Job) -> Job:
        """Return the job with the branch moved; a joint left with one branch is taken out."""
        circuit = self.circuit(job)
        branch = _find(circuit, self.branch_id)
        if self.behind == branch.behind:
            return job
        branches = list(circuit.branches)
        at = self.behind
        while at:
            if at == branch.id:
                raise EditRefusedError("behind", "a branch cannot begin behind itself")
            at = _find(circuit, at).behind
        if self.behind:
            host = _find(circuit, self.behind)
            if host.loads:
                new_id = _next_id(circuit)
                tip = host.model_copy(update={"id": new_id, "behind": host.id})
                limb = rebuilt(host, loads=(), name=f"To {host.name}"[:80])
                short = (host.run[-1].model_copy(update={"length_m": 0.3, "passes": None}),)
                branches = [limb if b.id == host.id else b for b in branches]
                branches.append(rebuilt(tip, run=short, place=None, earth=None))
        branches = [rebuilt(b, behind=self.behind) if b.id == branch.id else b for b in branches]
        return with_circuit(job, circuit, branches=_without_idle_joints(tuple(branches)))

    def title(self, job: Job) -> str:
        """Say which and where."""
        circuit = self.circuit(job)
        where = _find(circuit, self.behind).name if self.behind else "the trunk"
        return f"Begin {_find(circuit, self.branch_id).name} at the end of {where}"


class MoveUnits(CircuitEdit):
    """Put a unit of one branch onto another, or onto one of its own (``new``)."""

    kind: Literal["move_units"] = "move_units"
    branch_id: str
    accessory_id: str
    to: str

    def apply(self, job: Job) -> Job:
        """Return the job with one unit moved; a branch left empty goes."""
        circuit = self.circuit(job)
        source = _find(circuit, self.branch_id)
        share = next((s for s in source.loads if s.accessory == self.accessory_id), None)
        if share is None:
            raise EditRefusedError("accessory_id", f"{source.name} holds no unit of that")
        if self.to == source.id:
            return job
        moved = Share(accessory=self.accessory_id)
        left = [*source.loads]
        left.remove(share)
        if share.units > 1:
            left.append(Share(accessory=share.accessory, units=share.units - 1))
        branches = [
            b.model_copy(update={"loads": tuple(left)}) if b.id == source.id else b
            for b in circuit.branches
        ]
        if self.to == "new":
            if not left:
                raise EditRefusedError("to", "it has this branch to itself already")
            new = source.model_copy(
                update={
                    "id": _next_id(circuit),
                    "name": f"{source.name[:74]} more",
                    "loads": (moved,),
                    "place": None,
                }
            )
            branches.append(new)
        else:
            target = _find(circuit, self.to)
            if not target.loads:
                raise EditRefusedError("to", f"{target.name} ends at a joint; choose a branch")
            branches = [
                b.model_copy(update={"loads": _gathered([*_units(b), moved])})
                if b.id == target.id
                else b
                for b in branches
            ]
        kept = tuple(b for b in branches if b.id != source.id or left)
        return with_circuit(job, circuit, branches=_without_idle_joints(kept))

    def title(self, job: Job) -> str:
        """Say from where."""
        return f"Move a unit off {_find(self.circuit(job), self.branch_id).name}"


class PlaceBranch(CircuitEdit):
    """Put the end of a branch, or its earth, on the layout; without a place it keeps its run."""

    kind: Literal["place_branch"] = "place_branch"
    branch_id: str
    place: Ident | None = None
    earth: Ident | None = None

    def apply(self, job: Job) -> Job:
        """Return the job with the branch placed."""
        circuit = self.circuit(job)
        branch = _find(circuit, self.branch_id)
        return _with_branch(job, circuit, branch, place=self.place, earth=self.earth)

    def title(self, job: Job) -> str:
        """Say which."""
        return f"Place {_find(self.circuit(job), self.branch_id).name}"


def redealt(job: Job, circuit: Circuit) -> Circuit:
    """Return a branching circuit whose accessories or quantities changed, made whole again.

    Units too many go from the last branch on; new ones hang on the last branch that has any.
    A circuit left with one branch is brought together.
    """
    if not circuit.branches:
        return circuit
    wanted = {a.id: a.quantity for a in job.loads_of(circuit)}
    branches = []
    for branch in circuit.branches:
        kept = []
        for share in branch.loads:
            units = min(share.units, wanted.get(share.accessory, 0))
            if units:
                kept.append(share.model_copy(update={"units": units}))
                wanted[share.accessory] -= units
        if kept or not branch.loads:
            branches.append(branch.model_copy(update={"loads": tuple(kept)}))
    ends = [n for n, b in enumerate(branches) if b.loads]
    if ends:
        last = branches[ends[-1]]
        more = [Share(accessory=i) for i, units in wanted.items() for _ in range(units)]
        branches[ends[-1]] = last.model_copy(update={"loads": _gathered([*_units(last), *more])})
    return _with_branches(circuit, tuple(branches))


def second_half(
    circuit: Circuit, twin: Circuit, accessory_id: str, twin_id: str, kept: int
) -> Circuit:
    """Return the twin of a split circuit with the branches of the units that the first leaves.

    The first ``kept`` units, branch by branch, stay; what follows hangs on the twin as it did.
    """
    branches = []
    for branch in circuit.branches:
        units = sum(s.units for s in branch.loads if s.accessory == accessory_id)
        stays = min(units, kept)
        kept -= stays
        moved = (Share(accessory=twin_id, units=units - stays),) if units > stays else ()
        if moved or not branch.loads:
            branches.append(branch.model_copy(update={"loads": moved}))
    whole = twin.model_copy(update={"joint": circuit.joint})
    return _with_branches(whole, tuple(branches))


def _with_branches(circuit: Circuit, branches: tuple[Branch, ...]) -> Circuit:
    """The circuit with branches of which some may lead nowhere any more.

    One alone is no branch: the run goes on along it to where its units sit, and back from there.
    """
    pruned = _without_idle_joints(branches)
    if pruned or not branches:
        return circuit.model_copy(
            update={"branches": pruned, "joint": circuit.joint if pruned else "splice"}
        )
    way = _only_way(branches)
    last = way[-1]
    run = (*circuit.run, *(s for limb in way for s in limb.run))
    back = circuit.back
    earthed = next((limb.back for limb in reversed(way) if limb.back.on_body), None)
    if earthed is not None:
        back = Return.model_validate({**dict(earthed), "kind": "chassis"})
    place = circuit.place
    if place is not None and last.place is not None:
        place = place.model_copy(update={"load": last.place, "earth": last.earth or place.earth})
    return circuit.model_copy(
        update={"branches": (), "joint": "splice", "run": run, "back": back, "place": place}
    )


def _only_way(branches: tuple[Branch, ...]) -> tuple[Branch, ...]:
    """The branches from the trunk to the only one that ends at units."""
    by_id = {b.id: b for b in branches}
    at = next((b for b in branches if b.loads), branches[-1])
    way = [at]
    while at.behind in by_id:
        at = by_id[at.behind]
        way.insert(0, at)
    return tuple(way)


def _units(branch: Branch) -> list[Share]:
    return [Share(accessory=s.accessory) for s in branch.loads for _ in range(s.units)]


def _gathered(units: list[Share]) -> tuple[Share, ...]:
    """Units one by one as shares, in the order in which they come."""
    counts: dict[str, int] = {}
    for unit in units:
        counts[unit.accessory] = counts.get(unit.accessory, 0) + unit.units
    return tuple(Share(accessory=i, units=n) for i, n in counts.items())


def _without_idle_joints(branches: tuple[Branch, ...]) -> tuple[Branch, ...]:
    """Take out joints at which fewer than two branches begin; one alone makes no branching."""
    while True:
        ids = {b.id for b in branches}
        bare = next((b for b in branches if not b.loads and not children(branches, b.id)), None)
        if bare is not None:
            branches = tuple(b for b in branches if b.id != bare.id)
            continue
        lone = next(
            (b for b in branches if b.behind in ids and len(children(branches, b.behind)) == 1),
            None,
        )
        if lone is not None:
            limb = next(b for b in branches if b.id == lone.behind)
            joined = lone.model_copy(update={"behind": limb.behind, "run": (*limb.run, *lone.run)})
            branches = tuple(joined if b.id == lone.id else b for b in branches if b.id != limb.id)
            continue
        first = children(branches, "")
        if len(first) == 1:
            if first[0].loads:
                return ()
            limb = first[0]
            branches = tuple(
                b.model_copy(update={"behind": ""}) if b.behind == limb.id else b
                for b in branches
                if b.id != limb.id
            )
            continue
        return branches


def _next_id(circuit: Circuit) -> str:
    numbers = [int(b.id[1:]) for b in circuit.branches if b.id[1:].isdigit()]
    return f"b{max(numbers, default=0) + 1}"


def _find(circuit: Circuit, branch_id: str) -> Branch:
    for branch in circuit.branches:
        if branch.id == branch_id:
            return branch
    raise EditRefusedError("branch_id", "this branch is no longer there")


def _with_branch(job: Job, circuit: Circuit, branch: Branch, **changes: object) -> Job:
    changed = rebuilt(branch, **changes)
    branches = tuple(changed if b.id == branch.id else b for b in circuit.branches)
    return with_circuit(job, circuit, branches=branches)
