"""Review of switches and triggers: what works the circuit, and what the vehicle minds."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.edits import ChangeAccessory, ReleaseChoice
from ready_trail.core.outcome import Action, CircuitDesign, Finding
from ready_trail.core.schemes import DIRECT_SWITCH_RATIO

AREA = "switch"


def check_scheme(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """A held scheme that cannot do what the accessory's use asks for."""
    if not design.scheme_refusal:
        return
    actions: tuple[Action, ...] = ()
    if design.circuit.held.scheme:
        edit = ReleaseChoice(circuit_id=design.circuit.id, what="scheme")
        actions = (Action(label="Let the scheme follow", edit=edit),)
    yield Finding(
        code="scheme", area=AREA, place=f"C{design.circuit.number}", severity="stop",
        text=f"{design.scheme_label} does not serve here: {design.scheme_refusal}.",
        why="The accessory would be on, or off, when it should not be.", actions=actions,
    )  # fmt: skip


def check_switch_load(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """A switch in the power path works at up to 80 % of its rating."""
    use = design.accessories[0].use
    if design.scheme_key != "direct" or not use.switch:
        return
    limit_a = DIRECT_SWITCH_RATIO * use.switch_a
    if design.current_a > limit_a:
        yield Finding(
            code="switch_load", area=AREA, place=f"S{design.circuit.number}", severity="stop",
            text=f"The switch {use.switch} carries the load above its working limit.",
            why="Switch contacts burn or weld; let a relay carry the load.",
            found=f"{design.current_a:.1f} A", allowed=f"{limit_a:.1f} A",
            actions=(Action(label="Let the scheme follow",
                            edit=ReleaseChoice(circuit_id=design.circuit.id, what="scheme")),),
        )  # fmt: skip


def check_own_switch(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """Driving lights need an off switch of their own."""
    accessory = design.accessories[0]
    if accessory.use.lights == "high" and not accessory.use.switch:
        use = accessory.use.model_copy(update={"switch": "Driving lights"})
        edit = ChangeAccessory(accessory=accessory.model_copy(update={"use": use}))
        yield Finding(
            code="no_own_switch", area=AREA, place=f"L{design.circuit.number}",
            severity="caution",
            text="These lights come on with every high beam.",
            why="Driving lights need an off switch of their own.",
            actions=(Action(label="Give them a switch", edit=edit),),
        )  # fmt: skip


def check_guard(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """A winch switch that can be knocked on."""
    accessory = design.accessories[0]
    if accessory.model != "winch" or accessory.use.guarded:
        return
    use = accessory.use.model_copy(update={"guarded": True})
    edit = ChangeAccessory(accessory=accessory.model_copy(update={"use": use}))
    yield Finding(
        code="unguarded", area=AREA, place=f"S{design.circuit.number}", severity="caution",
        text="The winch switch can be knocked on.",
        why="Nothing that moves a rope may start by accident.",
        actions=(Action(label="Guard the switch", edit=edit),),
    )  # fmt: skip


def check_data_bus(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """On a supervised vehicle a tapped wire is watched."""
    if design.job.vehicle.data_bus != "supervised" or design.wiring is None:
        return
    for device in design.wiring.devices:
        if device.kind in ("feed", "headlamps") and not device.ref.startswith("L"):
            yield Finding(
                code="data_bus", area=AREA, place=device.ref, severity="caution",
                text=f"The coil draws on the {device.label.lower()} of a supervised vehicle.",
                why="A control unit watches that wire. Take its trigger input, or an isolator "
                    "that draws milliamps.",
            )  # fmt: skip


def check_inputs(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """An input that must float, on a controller output that rests at ground, needs a diode."""
    for accessory in design.accessories:
        for at, wire in enumerate(accessory.inputs):
            if not wire.must_float or wire.rests != "ground" or wire.diode:
                continue
            fitted = (*accessory.inputs[:at], wire.model_copy(update={"diode": True}),
                      *accessory.inputs[at + 1 :])  # fmt: skip
            edit = ChangeAccessory(accessory=accessory.model_copy(update={"inputs": fitted}))
            side = "cathode" if wire.active == "high" else "anode"
            yield Finding(
                code="resting_low", area=AREA, place=f"L{design.circuit.number}",
                severity="caution",
                text=f"The wire {wire.name} must float at rest; its controller rests at ground.",
                why=f"Pulled down at rest, the accessory re-programs or misbehaves; a blocking "
                    f"diode, {side} to the accessory, keeps it free.",
                actions=(Action(label="Fit a blocking diode", edit=edit),),
            )  # fmt: skip


def check_always_live(design: CircuitDesign, _: Catalogue) -> Iterator[Finding]:
    """A constant feed drains a parked battery."""
    use = design.accessories[0].use
    if design.scheme_key == "direct" and not use.switch:
        yield Finding(
            code="always_live", area=AREA, place=f"L{design.circuit.number}", severity="note",
            text="This circuit is live while the vehicle is parked.",
            why="Right for what must live parked; everything else follows the key.",
        )  # fmt: skip


CHECKS: tuple[Callable[[CircuitDesign, Catalogue], Iterator[Finding]], ...] = (
    check_scheme,
    check_switch_load,
    check_own_switch,
    check_guard,
    check_data_bus,
    check_inputs,
    check_always_live,
)
