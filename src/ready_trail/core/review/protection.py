"""Review of protection: the fuse, its place, what it protects and what it can break."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Literal

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import (
    HoldChoice,
    MoveFuse,
    ReleaseChoice,
    SeparateRun,
    SplitAccessory,
)
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.sizing import WayOut, ways_out

AREA = "protection"
_INTERRUPT_STOP_X = 3.0


def check_sized(design: CircuitDesign, catalogue: Catalogue) -> Iterator[Finding]:
    """Nothing in the catalogue satisfies every rule: say which and offer what was tried."""
    sizing = design.sizing
    if sizing.ok or sizing.chosen is not None or sizing.why == "insulation":
        return
    words = {
        "fuse": ("No fuse of the allowed families holds this load.", "Without a fuse that "
                 "holds the load and its start, it would open in normal use."),
        "relay": ("No relay contact is rated for this fuse.", "A contact behind a larger fuse "
                  "can weld before the fuse opens."),
        "wire": ("No wire size satisfies every rule.", "The thickest wire listed still fails "
                 "ampacity, drop or clearing."),
    }  # fmt: skip
    text, why = words.get(str(sizing.why), ("This circuit cannot be sized.", ""))
    yield Finding(
        code="unsized", area=AREA, place=f"F{design.circuit.number}", severity="stop",
        text=text, why=why, found=f"{design.current_a:.1f} A",
        actions=_actions(design, ways_out(sizing, catalogue)),
    )  # fmt: skip


def check_unprotected_lead(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """The lead between source and fuse is protected by nothing."""
    circuit, limit_m = design.circuit, design.job.rules.unprotected_m
    if circuit.source == "block" or circuit.fuse_at_m <= limit_m + 1e-9:
        return
    yield Finding(
        code="unprotected", area=AREA, place=f"C{circuit.number}-W1", severity="stop",
        text=f"{circuit.fuse_at_m * 1000:.0f} mm of wire lie between the battery and the fuse.",
        why="A chafe there is a dead short that nothing opens.",
        found=f"{circuit.fuse_at_m * 1000:.0f} mm", allowed=f"{limit_m * 1000:.0f} mm",
        actions=(Action(label=f"Move the fuse to {limit_m * 1000:.0f} mm",
                        edit=MoveFuse(circuit_id=circuit.id, fuse_at_m=limit_m)),),
    )  # fmt: skip


def check_fuse_protects_wire(design: CircuitDesign, catalogue: Catalogue) -> Iterator[Finding]:
    """The fuse must lie under the ampacity of every wire behind it, and clear its far end."""
    sizing = design.sizing
    rung, fuse = sizing.chosen, sizing.fuse
    if rung is None or fuse is None:
        return
    number = design.circuit.number
    if "ampacity" in rung.rejects:
        yield Finding(
            code="fuse_over_wire", area=AREA, place=f"F{number}", severity="stop",
            text=f"The {fuse.rating_a:g} A fuse lets more through than the "
                 f"{rung.conductor.label} wire carries.",
            why="The wire overheats before the fuse opens.",
            found=f"{fuse.rating_a:g} A", allowed=f"{rung.ampacity_a:.1f} A",
            actions=_releases(design) + _actions(design, ways_out(sizing, catalogue)),
        )  # fmt: skip
    if "short_time" in rung.rejects and sizing.request.winch is not None:
        yield Finding(
            code="cable_short_time", area=AREA, place=f"F{number}", severity="stop",
            text=f"The {rung.conductor.label} cable does not carry the rated pull for its time.",
            why="Winch cables are sized for one long pull from cold.",
            found=f"{sizing.request.winch.full_a:.0f} A", allowed=f"{rung.ampacity_a:.0f} A",
            actions=_releases(design),
        )  # fmt: skip
    if "clearing" in rung.rejects:
        least_a = fuse.family.clearing_x * fuse.rating_a
        yield Finding(
            code="far_short_slow", area=AREA, place=f"F{number}", severity="stop",
            text="A short at the far end does not open the fuse fast enough.",
            why="A long thin wire limits the fault current to what the fuse tolerates.",
            found=f"{rung.far_short_a:.0f} A", allowed=f"at least {least_a:.0f} A",
            actions=_releases(design),
        )  # fmt: skip
    if "withstand" in rung.rejects:
        yield Finding(
            code="far_short_burns", area=AREA, place=f"F{number}", severity="stop",
            text="A short at the far end outlasts the wire's insulation.",
            why="The slowest fuse of this family opens later than the insulation survives.",
            found=f"{rung.far_short_opens_s:.2f} s", allowed=f"{rung.withstand_s:.2f} s",
            actions=_releases(design),
        )  # fmt: skip


def check_fuse_holds_load(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """A held fuse may be too small for the load or for its start."""
    fuse = design.sizing.fuse
    if fuse is None:
        return
    place = f"F{design.circuit.number}"
    if not fuse.meets_load:
        yield Finding(
            code="fuse_under_load", area=AREA, place=place, severity="caution",
            text=f"The {fuse.rating_a:g} A fuse is loaded above what it holds where it sits.",
            why="It ages and opens in normal use, most likely on a hot day.",
            found=f"{design.current_a:.1f} A", allowed=f"{fuse.holds_a:.1f} A",
            actions=_releases(design),
        )  # fmt: skip
    if not fuse.meets_inrush:
        request = design.sizing.request
        yield Finding(
            code="fuse_under_inrush", area=AREA, place=place, severity="caution",
            text=f"The {fuse.rating_a:g} A fuse may open when the accessory starts.",
            why="Its fastest opening time is under 1.5 times the inrush time.",
            found=f"{request.inrush_x * request.current_a:.0f} A for {request.inrush_s:g} s",
            actions=_releases(design),
        )  # fmt: skip


def check_ceiling(design: CircuitDesign, catalogue: Catalogue) -> Iterator[Finding]:
    """Nothing behind the fuse may be rated under it."""
    sizing = design.sizing
    if sizing.capped_by is None or sizing.fuse is None:
        return
    yield Finding(
        code="fuse_over_element", area=AREA, place=f"F{design.circuit.number}", severity="stop",
        text=f"The {sizing.fuse.rating_a:g} A fuse is above the {sizing.capped_by.element}.",
        why="What is rated under its fuse is not protected by it.",
        found=f"{sizing.fuse.rating_a:g} A", allowed=f"{sizing.capped_by.limit_a:.0f} A",
        actions=_releases(design) + _actions(design, ways_out(sizing, catalogue)),
    )  # fmt: skip


def check_interrupting(design: CircuitDesign, catalogue: Catalogue) -> Iterator[Finding]:
    """The fuse must be able to break the short-circuit current right behind it."""
    sizing = design.sizing
    fuse = sizing.fuse
    if fuse is None or sizing.chosen is None:
        return
    limit_a = fuse.family.interrupting_a
    if sizing.prospective_a > limit_a:
        post = catalogue.fuse_families["post_block"]
        actions = []
        if fuse.rating_a in post.ratings_a:
            actions.append(
                Action(label="Use a block fuse on the post", edit=HoldChoice(
                    circuit_id=design.circuit.id, what="family", value="post_block"))
            )  # fmt: skip
        stop = sizing.prospective_a > _INTERRUPT_STOP_X * limit_a
        yield Finding(
            code="interrupting", area=AREA, place=f"F{design.circuit.number}",
            severity="stop" if stop else "caution",
            text="A dead short just behind the fuse is more than it is rated to break.",
            why="A fuse that cannot break the current may arc or burst. A longer feed, or a "
                "fuse block behind a main fuse, lowers it.",
            found=f"{sizing.prospective_a:.0f} A", allowed=f"{limit_a:.0f} A",
            actions=tuple(actions),
        )  # fmt: skip
    charging_v = sizing.request.charging_v
    if fuse.family.max_v < charging_v:
        yield Finding(
            code="fuse_voltage", area=AREA, place=f"F{design.circuit.number}", severity="stop",
            text=f"The {fuse.family.label.lower()} is not rated for this supply.",
            why="Above its voltage a fuse may go on arcing after it has opened.",
            found=f"{charging_v:.1f} V", allowed=f"{fuse.family.max_v:g} V",
            actions=_releases(design),
        )  # fmt: skip


def _releases(design: CircuitDesign) -> tuple[Action, ...]:
    held, circuit_id = design.circuit.held, design.circuit.id
    actions = []
    if held.size:
        actions.append(
            Action(
                label="Let the wire size follow",
                edit=ReleaseChoice(circuit_id=circuit_id, what="size"),
            )
        )
    if held.fuse_a or held.family:
        what: Literal["fuse_a", "family"] = "fuse_a" if held.fuse_a else "family"
        actions.append(
            Action(
                label="Let the fuse follow", edit=ReleaseChoice(circuit_id=circuit_id, what=what)
            )
        )
    if held.relay:
        actions.append(
            Action(
                label="Let the relay follow",
                edit=ReleaseChoice(circuit_id=circuit_id, what="relay"),
            )
        )
    return tuple(actions)  # fmt: skip


def _actions(design: CircuitDesign, tried: tuple[WayOut, ...]) -> tuple[Action, ...]:
    """Turn ways out that were tried into edits, where one press can do them."""
    circuit = design.circuit
    actions = []
    for way in tried:
        kind, _, value = way.kind.partition(":")
        if kind == "split" and design.accessories[0].quantity > 1:
            edit = SplitAccessory(accessory_id=design.accessories[0].id)
            actions.append(Action(label=way.text, edit=edit))
        elif kind == "family":
            hold = HoldChoice(circuit_id=circuit.id, what="family", value=value)
            label = f"Use the {value.replace('_', ' ')} family"
            actions.append(Action(label=label, edit=hold))
        elif kind == "separate" and circuit.place is None:  # a layout says which looms it shares
            actions.append(Action(label=way.text, edit=SeparateRun(circuit_id=circuit.id)))
    return tuple(actions)


CHECKS: tuple[Callable[[CircuitDesign, Catalogue], Iterator[Finding]], ...] = (
    check_sized,
    check_unprotected_lead,
    check_fuse_protects_wire,
    check_fuse_holds_load,
    check_ceiling,
    check_interrupting,
)
