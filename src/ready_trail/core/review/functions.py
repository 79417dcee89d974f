"""Review of function wires: what must float is left free, and diodes stand the right way."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.edits import ChangeAccessory, SetHouseRules
from ready_trail.core.job import Accessory, InputWire
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.review.base import Check, Context

AREA = "switch"
_HOLDS_RATIO = 0.8
"""What of its rating a small fuse holds for long (house)."""


def check_floating(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """An input that must float, on a controller output that rests pulled, needs a diode.

    A diode blocks only the side away from which the input acts; pulled to the side on which it
    acts, it acts at rest, and the output itself has to rest open.
    """
    for accessory, wire in _wires(design):
        if not wire.must_float or wire.ends != "controller" or wire.rests == "open":
            continue
        pulls_on = (wire.rests == "supply") == (wire.active == "high")
        if wire.diode and not pulls_on:
            continue
        where = "ground" if wire.rests == "ground" else "the supply"
        if pulls_on:
            yield Finding(
                code="acts_at_rest",
                area=AREA,
                place=design.end_ref,
                severity="stop",
                text=f"The wire {wire.name} acts at rest: its controller rests at {where}.",
                why="No diode can block what also has to pass. Set the output to rest open, or "
                "take another one.",
                actions=(
                    Action(
                        label="Its output rests open",
                        alters=("when",),
                        edit=_with(accessory, wire, rests="open"),
                    ),
                ),
            )
            continue
        side = "cathode" if wire.active == "high" else "anode"
        yield Finding(
            code="resting_low",
            area=AREA,
            place=design.end_ref,
            severity="caution",
            text=f"The wire {wire.name} must float at rest; its controller rests at {where}.",
            why="Pulled at rest, the accessory re-programs or misbehaves; a blocking diode, "
            f"{side} to the accessory, keeps it free.",
            actions=(
                Action(label="Fit a blocking diode", edit=_with(accessory, wire, diode=True)),
            ),
        )


def check_diodes(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A diode the wrong way round blocks the signal and lets the pull through."""
    for accessory, wire in _wires(design):
        if wire.diode and wire.backwards:
            side = "cathode" if wire.active == "high" else "anode"
            yield Finding(
                code="diode_backwards",
                area=AREA,
                place=design.end_ref,
                severity="caution",
                text=f"The diode in the wire {wire.name} stands the wrong way round.",
                why=f"It blocks the signal; the {side} belongs to the accessory.",
                actions=(
                    Action(label="Turn it round", edit=_with(accessory, wire, backwards=False)),
                ),
            )


def check_powered(design: CircuitDesign, _: Context) -> Iterator[Finding]:
    """A wire that feeds its function itself stays under what its control fuse holds."""
    fuse_a = design.job.rules.control_fuse_a
    for accessory, wire in _wires(design):
        if wire.powers_w is None or wire.ends in ("cap", "accessory"):
            continue
        amps = wire.powers_w / (accessory.at_v or 12.0)
        if amps <= _HOLDS_RATIO * fuse_a:
            continue
        rules = design.job.rules
        larger = next((f for f in (3, 5) if amps <= _HOLDS_RATIO * f and f > fuse_a), None)
        actions: tuple[Action, ...] = ()
        if larger is not None:
            changed = rules.model_copy(update={"control_fuse_a": larger})
            words = f"Take control fuses of {larger} A in this job"
            actions = (Action(label=words, edit=SetHouseRules(rules=changed), alters=("fuse",)),)
        apart = _with(accessory, wire, powers_w=None)
        actions += (Action(label="It only signals: its function is an output", edit=apart),)
        yield Finding(
            code="function_heavy",
            area=AREA,
            place=design.end_ref,
            severity="caution",
            text=f"The wire {wire.name} feeds more than its control fuse holds.",
            why="The fuse opens while it is on. State the function as an output with a circuit of "
            "its own, or take larger control fuses.",
            found=f"{amps:.1f} A",
            allowed=f"{_HOLDS_RATIO * fuse_a:.1f} A",
            actions=actions,
        )


def _wires(design: CircuitDesign) -> Iterator[tuple[Accessory, InputWire]]:
    for accessory_id in design.circuit.accessory_ids:
        accessory = design.job.accessory(accessory_id)
        for wire in accessory.inputs:
            yield accessory, wire


def _with(accessory: Accessory, wire: InputWire, **changes: object) -> ChangeAccessory:
    changed = wire.model_copy(update=changes)
    inputs = tuple(changed if w.name == wire.name else w for w in accessory.inputs)
    return ChangeAccessory(accessory=accessory.model_copy(update={"inputs": inputs}))


CHECKS: tuple[Check, ...] = (check_floating, check_diodes, check_powered)
