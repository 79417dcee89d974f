"""First power: one fuse at a time, from the feeders outwards, each with its test."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ready_trail.core.build.cuts import owner_name
from ready_trail.core.build.steps.base import Step, Yard
from ready_trail.core.design.solved import root_nodes
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.installation import Device
from ready_trail.core.netlist import LoadElement, Network
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.profile import outlet_nodes
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.states import CHARGING_V, REST_V
from ready_trail.core.supply.currents import quiet_a
from ready_trail.core.working import working_state

_STOP = "Extinguisher at hand; stop at smell, smoke or warmth."
_SPARK = (
    "Its capacitors take a spark when it is joined: last lead first through 100 Ω for two seconds, "
    "or as its maker says; then the lead, then what hangs on it."
)
_NEVER = "Never bridge a fuse, never fit a bigger one to stop it blowing."
_KEYS = {
    "always": "at any time",
    "accessory": "with the key at accessory",
    "run": "with the ignition on",
}
_BEAMS = {"side": "the side lights", "low": "low beam", "high": "high beam"}
VOLTS_TOLERANCE_V, AMPS_TOLERANCE_RATIO = 0.25, 0.15
"""How far a reading may be from what was computed and still pass (house)."""


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each owner of fuses: a circuit, a switch, a panel's lamps."""
    by_owner: dict[str, list[Device]] = {}
    for device in yard.made.installation.devices.values():
        if device.spec.protects:
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
            id=f"fuse:{owner}",
            stage="first_power",
            site=yard.sites.of(ref) if ref else yard.battery,
            title=f"{'Fuse in' if fuses else 'Switch on'}: {name}",
            doing=(*words, *_use_words(made)),
            tools=("meter", "clamp meter"),
            cautions=(_STOP, _NEVER, *_cautions(made)),
            expects=expected(made, yard.made),
            minutes=6.0,
            refs=tuple(d.ref for d in fuses),
            circuits=(owner,),
            parts=tuple(
                dict.fromkeys(
                    k
                    for d in fuses
                    for k in yard.keys_of_ref.get(d.ref, ())
                    if k.startswith("fuse-")
                )
            ),
        )


def expected(made: CircuitDesign | None, design: Design) -> tuple[tuple[str, str], ...]:
    """Return what a meter should read in the state that the step sets: this circuit on by itself,
    the engine off unless the circuit needs it, a winch without pull; with its tolerance.
    """
    if made is None or made.profile is None:
        return ()
    if not made.accessories:  # nothing runs behind it yet
        return (("At the point, nothing on yet", "what the posts have, within 0.10 V"),)
    point = at_first_power(made, design)
    if point is None:
        return ()
    posts_v = point.between_v(*root_nodes(design.plan, made.circuit))
    rows = [("At the battery posts while it runs, as computed", f"{posts_v:.2f} V")]
    amps = 0.0
    for outlet in made.planned.outlets:
        volts = abs(point.between_v(*outlet_nodes(made, outlet)))
        amps += sum(abs(point.branch_a.get(name, 0.0)) for name in outlet.amps)
        name = next((e.name for e in made.outlets if e.outlet.ref == outlet.ref), "")
        several = len(made.planned.outlets) > 1
        where = f"At {name} while it runs" if several else "At the accessory while it runs"
        rows.append((where, f"{volts:.2f} V ± {VOLTS_TOLERANCE_V:.2f} V"))
    slack = any(a.model == "winch" for a in made.accessories)
    all_of = len(made.planned.outlets) > 1
    what = (
        "Current by clamp, line slack"
        if slack
        else ("Current by clamp on the trunk, all of them on" if all_of else "Current by clamp")
    )
    rows.append((what, f"{amps:.1f} A ± {amps * AMPS_TOLERANCE_RATIO:.1f} A"))
    return tuple(rows)


def at_first_power(made: CircuitDesign, design: Design) -> OperatingPoint | None:
    """Solve a circuit as it is first switched on: alone, with its loads as they really are."""
    if made.installation is None:
        return None
    charging = made.scheme.works_charging or "charging" in (made.use.signal, made.use.also)
    volts = (CHARGING_V if charging else REST_V) * design.job.vehicle.nominal_v / 12.0
    state = working_state(design.plan, made.circuit, emf_v=volts)
    quiet = {
        name: load
        for o in made.planned.outlets
        for name in o.amps
        for load in (quiet_a(o.accessories),)
        if load is not None
    }
    network = made.installation.netlist(float(design.job.vehicle.nominal_v))
    elements = tuple(
        replace(e, load=replace(e.load, rated_a=quiet[e.name]))
        if isinstance(e, LoadElement) and e.name in quiet
        else e
        for e in network.elements
    )
    try:
        return solve(Network(nominal_v=network.nominal_v, elements=elements), state)
    except NotConvergedError:
        return None


def _use_words(made: CircuitDesign | None) -> tuple[str, ...]:
    if made is None or not made.accessories:
        return ()
    use = made.use
    if any(a.remote for a in made.accessories):
        live = f"live {_KEYS[use.key]}" if made.accessories[0].remote_keyed else "always live"
        return (f"Its own remote works it, in and out: {live}, the battery isolator closed.",)
    words = [_KEYS[use.key]]
    words += [f"with the vehicle's {use.signal} signal"] if use.signal else []
    words += [f"with {_BEAMS[use.lights]}"] if use.lights in _BEAMS else []
    words += [f"with switch {use.switch}"] if use.switch else []
    if any(a.own_feed for a in made.accessories):
        return (
            f"It is fed by this circuit {', '.join(words)}; the vehicle's own feed works it "
            "besides, as before.",
        )
    if made.scheme.at_rest:
        off = _BEAMS.get(use.unless, f"the vehicle's {use.unless} signal")
        words = [w for w in words if w]
        return (f"It comes on {', '.join(words)}, goes off with {off}, and comes on again.",)
    return (f"It comes on {', '.join(words)}, and goes off again without.",)


def _cautions(made: CircuitDesign | None) -> tuple[str, ...]:
    if made is None:
        return ()
    if (
        made.feeds is not None
        and made.feeds.is_a.converts
        and made.sizing.request.supply.nominal_v > 24.0
    ):
        return (_SPARK,)
    if any(a.model == "winch" for a in made.accessories):
        return ("Winch: line slack, nobody near the fairlead, gloves; engine running.",)
    if made.use.lights == "high" and not any(a.own_feed for a in made.accessories):
        return ("Driving lights must go out with the high beam.",)
    return ()
