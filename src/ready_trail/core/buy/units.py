"""What may be cut from another spool: the sizes that a design allows beyond those it chose.

A wire may be up to three sizes thicker where every rule, holder and terminal still takes it as it
is: no other fuse, no step down that was not there. What is held, found, or part of a kit stays; so
does what the review stops.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace

from ready_trail.core.build.cuts import Cut, CutList
from ready_trail.core.build.ends import ends_of
from ready_trail.core.buy.spools import Option, Unit
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.colours import dressed
from ready_trail.core.conductors import COPPER_DENSITY_G_PER_CM3, HEAVY_MM2, Conductor
from ready_trail.core.job.vehicle import ColourSchool
from ready_trail.core.outcome import Design, Planned
from ready_trail.core.review.excess import SIZES_MOST
from ready_trail.core.sizing.records import Rung, Sizing

CONTROL = "control"
"""The unit of coil and signal wires."""
CONTROL_MM2 = (0.75, 1.0)
"""What coil and signal wires may be raised to. [mm²]"""
Sized = Callable[[Cut], tuple[Conductor, Conductor]]
"""What a piece is cut from in an option, and what its wire is: a last thin piece at a holder has
the colour of its wire.
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Dress:
    """In what colours and insulation wires are bought: a school of the house, and the class that
    all are raised to (0: each its own). [°C]
    """

    colours: ColourSchool
    one_class_c: int = 0


def dresses(made: Design, cuts: CutList) -> tuple[Dress, ...]:
    """Return how the job's wires may be dressed, as they are first."""
    now = made.job.rules.colours
    others: tuple[ColourSchool, ...] = (
        ("few", "two") if now == "function" else ("circuit", "few", "two")
    )
    schools = [now, *(s for s in others if s != now)]
    classes = {c.insulation_c for c in cuts.cuts if c.source == "spool"}
    raised = [0, max(classes)] if len(classes) > 1 else [0]
    return tuple(Dress(colours=s, one_class_c=c) for s in schools for c in raised)


def units_of(made: Design, cuts: CutList, dress: Dress, catalogue: Catalogue) -> tuple[Unit, ...]:
    """Return what takes one size each, with the spools that every allowed size asks for."""
    by_unit: dict[str, list[Cut]] = {}
    for cut in (c for c in cuts.cuts if c.source == "spool"):
        by_unit.setdefault(_unit_key(cut, made), []).append(cut)
    wear = _Wardrobe(made, dress)
    return tuple(
        _control_unit(pieces, made, wear, catalogue)
        if key == CONTROL
        else _sized_unit(key, pieces, made, wear)
        for key, pieces in by_unit.items()
    )


def _unit_key(cut: Cut, made: Design) -> str:
    wire = made.installation.wires[cut.wire]
    if wire.role in ("control", "control_return", "function") or wire.owner not in (
        made.plan.circuits
    ):
        return CONTROL
    if not wire.branch:
        return wire.owner
    sizing = made.plan.circuits[wire.owner].sizing
    return f"{wire.owner}/{'+'.join(_with_twins(wire.branch, sizing))}"


def _with_twins(branch: str, sizing: Sizing) -> tuple[str, ...]:
    """A branch with those that end at equal units: they get one size."""
    stretches = {i: sized.stretch for i, sized in sizing.branches.items()}
    own = stretches[branch]
    if not own.twins or own.held is not None:
        return (branch,)
    return tuple(i for i, s in stretches.items() if s.twins == own.twins and s.held is None)


class _Wardrobe:
    """The spool that a piece is cut from in another size and dress."""

    def __init__(self, made: Design, dress: Dress) -> None:
        self._made, self._dress = made, dress

    def spool(self, cut: Cut, conductor: Conductor, of_wire: Conductor) -> str:
        """Return the key of the spool."""
        class_c = max(cut.insulation_c, self._dress.one_class_c)
        if self._held(cut, "insulation_c"):
            class_c = cut.insulation_c
        return replace(
            cut,
            conductor=conductor,
            colour=self._colour(cut, of_wire),
            insulation_c=class_c,
        ).spool

    def _held(self, cut: Cut, what: str) -> bool:
        planned = self._made.plan.circuits.get(cut.owner)
        return planned is not None and getattr(planned.circuit.held, what) is not None

    def _colour(self, cut: Cut, conductor: Conductor) -> str:
        wire = self._made.installation.wires[cut.wire]
        if not wire.is_control and wire.role != "function" and conductor.lug_mm2 >= HEAVY_MM2:
            return "BK" if wire.role == "return" else "RD"
        held = self._held(cut, "colour") and not wire.is_control
        full = wire.colour if held else (wire.mark or wire.colour)
        rules = self._made.job.rules.model_copy(update={"colours": self._dress.colours})
        job = self._made.job.model_copy(update={"rules": rules})
        return dressed(job, wire.role, full, held=held)[0]


def _control_unit(cuts: Iterable[Cut], made: Design, wear: _Wardrobe, catalogue: Catalogue) -> Unit:
    now = made.job.rules.control_mm2
    sizes = catalogue.wires(made.job.rules.system, made.job.rules.wire_kind)

    def no_thinner(least_mm2: float) -> Sized:
        def chosen(cut: Cut) -> tuple[Conductor, Conductor]:
            least = max(cut.conductor.area_mm2, least_mm2)
            found = next((c for c in sizes if c.area_mm2 >= least), cut.conductor)
            return found, found

        return chosen

    steps = [now, *(mm2 for mm2 in CONTROL_MM2 if mm2 > now)]
    return Unit(
        key=CONTROL,
        name="Coil and signal wires",
        options=tuple(_option(f"{mm2:g}", tuple(cuts), no_thinner(mm2), wear) for mm2 in steps),
    )


def _sized_unit(key: str, cuts: list[Cut], made: Design, wear: _Wardrobe) -> Unit:
    owner, _, branches = key.partition("/")
    names = tuple(branches.split("+")) if branches else ("",)
    branch = names[0]
    planned = made.plan.circuits[owner]
    options = []
    for conductor in _sizes(planned, names, cuts, made):
        chosen = cuts[0].conductor if conductor is None else conductor
        options.append(_option(chosen.size, tuple(cuts), _raised(planned, branch, conductor), wear))
    name = planned.circuit.name
    if branch:
        of_branch = {b.id: b.name for b in planned.circuit.branches}
        name = f"{name}, {' and '.join(of_branch[n] for n in names)}"
    return Unit(key=key, name=name, options=tuple(options))


def _raised(planned: Planned, branch: str, conductor: Conductor | None) -> Sized:
    """What a piece is in another size: the thin last piece at a holder stays as it is."""
    main = _main(planned, branch)

    def chosen(cut: Cut) -> tuple[Conductor, Conductor]:
        of_wire = conductor or main or cut.conductor
        return (of_wire if cut.conductor == main else cut.conductor), of_wire

    return chosen


def _main(planned: Planned, branch: str) -> Conductor | None:
    if branch:
        return planned.sizing.branches[branch].chosen.conductor
    return planned.sizing.chosen.conductor if planned.sizing.chosen is not None else None


def _sizes(
    planned: Planned, branches: tuple[str, ...], cuts: list[Cut], made: Design
) -> Iterator[Conductor | None]:
    """The sizes of a unit, the design's own (None) first; twins take what all of them may."""
    branch = branches[0]
    yield None
    circuit, sizing = planned.circuit, planned.sizing
    held = circuit.held.size
    if branch:
        held = next(b.size for b in circuit.branches if b.id == branch)
    stopped = any(
        f.severity == "stop" and f.area in ("wire", "protection")
        for f in made.circuit(circuit.id).findings
    )
    if held or circuit.kit is not None or circuit.found is not None or stopped or not sizing.ok:
        return
    if any(cut.conductor.count > 1 for cut in cuts) or sizing.chosen is None:
        return
    sized = sizing.branches.get(branch) if branch else None
    ladder = sized.ladder if sized is not None else sizing.ladder
    refused = {
        step.conductor
        for other in branches[1:]
        for step in sizing.branches[other].ladder
        if step.rejects
    }
    now = sized.chosen if sized is not None else sizing.chosen
    at = next(n for n, step in enumerate(ladder) if step.conductor == now.conductor)
    for step in ladder[at + 1 : at + 1 + SIZES_MOST]:
        if step.conductor not in refused and _fits(step, now, cuts, made):
            yield step.conductor


def _fits(step: Rung, now: Rung, cuts: list[Cut], made: Design) -> bool:
    """Whether a thicker wire goes where the thinner one went, without another step down."""
    if step.rejects or step.conductor.count > 1 or step.pigtail != now.pigtail:
        return False
    for wire in {cut.wire: made.installation.wires[cut.wire] for cut in cuts}.values():
        before, after = (
            ends_of(wire, made),
            ends_of(replace(wire, conductor=step.conductor), made),
        )
        if any(b.step_down != a.step_down for b, a in zip(before, after, strict=True)):
            return False
    return True


def _option(key: str, cuts: tuple[Cut, ...], size: Sized, wear: _Wardrobe) -> Option:
    metres: dict[str, float] = {}
    copper_g = 0.0
    for cut in cuts:
        conductor, of_wire = size(cut)
        spool = wear.spool(cut, conductor, of_wire)
        metres[spool] = round(metres.get(spool, 0.0) + cut.total_m, 4)
        copper_g += conductor.area_mm2 * cut.cut_m * COPPER_DENSITY_G_PER_CM3
    return Option(key=key, copper_g=copper_g, metres=metres)
