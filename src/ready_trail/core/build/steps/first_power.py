"""First power: one fuse at a time, from the feeders outwards, each with its test."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.cuts import owner_name
from ready_trail.core.build.steps.base import Step, Yard
from ready_trail.core.installation import Device
from ready_trail.core.outcome import CircuitDesign

_STOP = "Extinguisher at hand; stop at smell, smoke or warmth."
_NEVER = "Never bridge a fuse, never fit a bigger one to stop it blowing."
_KEYS = {
    "always": "at any time",
    "accessory": "with the key at accessory",
    "run": "with the key at run",
}
_BEAMS = {"side": "the side lights", "low": "low beam", "high": "high beam"}
VOLTS_TOLERANCE_V, AMPS_TOLERANCE_RATIO = 0.25, 0.15
"""How far a reading may be from what was computed and still pass (house)."""


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each owner of fuses: a circuit, a switch, a panel's lamps."""
    by_owner: dict[str, list[Device]] = {}
    for device in yard.made.installation.devices.values():
        if device.kind in ("fuse", "breaker"):
            by_owner.setdefault(device.owner, []).append(device)
    for circuit in yard.made.routed.circuits:  # a channel's own fuse sits in the panel
        if circuit.id in yard.made.plan.circuits and yard.made.plan.circuits[circuit.id].parts:
            by_owner.setdefault(circuit.id, [])
    for owner, fuses in by_owner.items():
        made = yard.circuit(owner)
        name = owner_name(owner, yard.made)
        words = [f"{d.ref}: {d.label}, {d.detail}" for d in fuses]
        ref = fuses[0].ref if fuses else ""
        yield Step(
            id=f"fuse:{owner}", stage="first_power",
            site=yard.sites.of(ref) if ref else yard.battery,
            title=f"{'Fuse in' if fuses else 'Switch on'}: {name}",
            doing=(*words, *_use_words(made)), tools=("meter", "clamp meter"),
            cautions=(_STOP, _NEVER, *_cautions(made)), expects=expected(made), minutes=6.0,
            refs=tuple(d.ref for d in fuses), circuits=(owner,),
            parts=tuple(dict.fromkeys(
                k for d in fuses for k in yard.keys_of_ref.get(d.ref, ())
                if k.startswith("fuse-"))),
        )  # fmt: skip


def expected(made: CircuitDesign | None) -> tuple[tuple[str, str], ...]:
    """Return what a meter should read with this circuit on, with its tolerance."""
    if made is None or made.profile is None:
        return ()
    profile = made.profile
    spread_a = profile.current_a * AMPS_TOLERANCE_RATIO
    if not made.accessories:  # nothing runs behind it yet
        return (("At the point, nothing on yet", "what the posts have, within 0.10 V"),)
    return (
        ("At the battery posts while it runs, as computed", f"{profile.posts_v:.2f} V"),
        ("At the accessory while it runs", f"{profile.load_v:.2f} V ± {VOLTS_TOLERANCE_V:.2f} V"),
        ("Current by clamp", f"{profile.current_a:.1f} A ± {spread_a:.1f} A"),
    )


def _use_words(made: CircuitDesign | None) -> tuple[str, ...]:
    if made is None or not made.accessories:
        return ()
    use = made.use
    words = [_KEYS[use.key]]
    words += [f"with the vehicle's {use.signal} signal"] if use.signal else []
    words += [f"with {_BEAMS[use.lights]}"] if use.lights in _BEAMS else []
    words += [f"with switch {use.switch}"] if use.switch else []
    return (f"It comes on {', '.join(words)}, and goes off again without.",)


def _cautions(made: CircuitDesign | None) -> tuple[str, ...]:
    if made is None:
        return ()
    if any(a.model == "winch" for a in made.accessories):
        return ("Winch: line slack, nobody near the fairlead, gloves; engine running.",)
    if made.use.lights == "high":
        return ("Driving lights must go out with the high beam.",)
    return ()
