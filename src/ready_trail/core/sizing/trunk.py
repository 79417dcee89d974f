"""The trunk's size together with its branches': the pair that takes the least copper."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import Conductor
from ready_trail.core.errors import TableError
from ready_trail.core.sizing.ladder import SHOWN_ABOVE, rung
from ready_trail.core.sizing.records import (
    BranchSizing,
    FuseChoice,
    Ground,
    Rung,
    SizingRequest,
)
from ready_trail.core.sizing.tree import Ahead, crown_of


@dataclass(frozen=True, slots=True, kw_only=True)
class TrunkAndBranches:
    """The trunk's ladder with the chosen place, and the branches behind that size.

    A rung is rejected as "branches" where no branch works behind it; one that would work but
    weighs more in all is passed over for "copper", which shows in ``governs`` alone.
    """

    ladder: tuple[Rung, ...]
    at: int
    governs: tuple[str, ...]
    branches: Mapping[str, BranchSizing]
    holds: bool


_NO_LIMIT_V = 48.0  # on the trunk: what counts is the drop at the units


def grow(
    wires: tuple[Conductor, ...],
    request: SizingRequest,
    fuse: FuseChoice,
    ground: Ground,
    catalogue: Catalogue,
    *,
    bare: bool = False,
) -> TrunkAndBranches:
    """Return the trunk's size and every branch's. Raises TableError for a held size not listed.

    ``bare`` leaves out of the branches' ladders what only people ask for.
    """
    crown = crown_of(request, fuse, catalogue)
    ladder: list[Rung] = []
    best: tuple[float, int, Mapping[str, int]] | None = None
    held = request.held.size
    if held and all(wire.size != held for wire in wires):
        raise TableError(f"no size {held!r} in the catalogue")
    for wire in wires:
        if (
            best is not None
            and len(ladder) > best[1] + SHOWN_ABOVE
            and ladder[-1].mass_g >= best[0]
        ):
            break  # every thicker trunk alone weighs more than all of the best
        step = rung(wire, request, fuse, ground, _NO_LIMIT_V)
        most_g = best[0] - step.mass_g if best is not None else float("inf")
        least = None
        if not step.rejects and (not held or wire.size == held):
            least = crown.least(_ahead(step, request, ground), most_g)
            if least is None and most_g == float("inf"):
                step = replace(step, rejects=("branches",))
        if least is not None:
            best = (step.mass_g + least[0], len(ladder), least[1])
        ladder.append(step)
    if best is not None:
        _, at, places = best
        found = crown.grown(_ahead(ladder[at], request, ground), places, bare=bare)
        below = ladder[at - 1].rejects if at else ("minimum",)
        governs = below or ("copper",)
        return TrunkAndBranches(
            ladder=tuple(ladder), at=at, governs=governs, branches=found.branches, holds=True
        )
    sound = [n for n, step in enumerate(ladder) if step.rejects in ((), ("branches",))]
    at = next(
        (n for n, step in enumerate(ladder) if held and step.conductor.size == held),
        sound[-1] if sound else len(ladder) - 1,
    )
    shown = crown.nearest(_ahead(ladder[at], request, ground))
    return TrunkAndBranches(
        ladder=tuple(ladder), at=at, governs=("branches",), branches=shown.branches, holds=False
    )


def _ahead(step: Rung, request: SizingRequest, ground: Ground) -> Ahead:
    """What the trunk puts ahead of its branches, out and back."""
    upstream_v = request.upstream.conductor_drop_v if request.upstream else 0.0
    out_ohm = step.wire_ohm - step.back_ohm
    return Ahead(
        out_v=upstream_v + request.current_a * out_ohm,
        out_ohm=out_ohm + ground.fixed_ohm - request.path.chassis_ohm,
        back_v=request.returns_a * step.back_ohm,
        back_ohm=step.back_ohm + request.path.chassis_ohm,
    )
