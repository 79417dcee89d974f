"""The live drawing as its page and its state endpoint see it."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, get_args

from ready_trail.core.design import job_network
from ready_trail.core.errors import NotConvergedError
from ready_trail.core.fault_list import NamedFault, faults_of
from ready_trail.core.faults import FaultError, faulted
from ready_trail.core.kinds.base import BATTERY_DEVICE, node_of
from ready_trail.core.kinds.point import PointSpec
from ready_trail.core.live import Live, first_to_open, heats, live
from ready_trail.core.meter import ohms, volts, without_power
from ready_trail.core.netlist import RelayContact, SwitchContact
from ready_trail.core.opening import FuseReading, protections
from ready_trail.core.outcome import Design
from ready_trail.core.states import (
    CHARGING_V,
    KEY_STATES,
    LIGHT_STATES,
    SIGNALS,
    KeyState,
    LightState,
    Signal,
    VehicleState,
)
from ready_trail.core.wording import lower_first
from ready_trail.core.working import working_state
from ready_trail.drawing.heat_plot import HeatPlot, draw_heat
from ready_trail.web.fields import FieldsRefusedError

_MOST_FAULTS = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A state of the drawing as the address tells it: vehicle, switches, faults, blown fuses."""

    state: VehicleState
    engine: bool
    faults: tuple[NamedFault, ...] = ()
    blown: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Rocker:
    """A hand switch as it is worked: its sides, and where in its panel it sits."""

    ref: str
    name: str
    sides: tuple[tuple[str, str], ...]
    position: str = ""
    legend: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Controls:
    """What can be worked: signals that do something here, switches by panel, scenarios."""

    signals: tuple[str, ...]
    panels: tuple[tuple[str, tuple[Rocker, ...]], ...]
    others: tuple[str, ...]
    scenarios: tuple[tuple[str, str, Mapping[str, Any]], ...]
    truths: tuple[tuple[str, str], ...] = field(default=())


def asked_of(design: Design, query: Mapping[str, Any]) -> Asked:
    """Return the state that an address asks for.

    ``query`` maps a name to its values. Raises FieldsRefusedError where one is impossible, or
    names what the job no longer has.
    """
    key, lights = _one(query, "key", "off"), _one(query, "lights", "off")
    if key not in KEY_STATES or lights not in LIGHT_STATES:
        raise FieldsRefusedError({"state": "There is no such key or light."})
    network = job_network(design)
    on = frozenset(query.get("on", ()))
    known = network.switches | network.opened
    if not on <= known:
        gone = ", ".join(sorted(on - known))
        raise FieldsRefusedError({"state": f"There is no switch {gone} any more."})
    signals = frozenset(query.get("signal", ()))
    if not signals <= set(get_args(Signal)):
        raise FieldsRefusedError({"state": "There is no such signal."})
    engine = _one(query, "engine", "") == "on"
    if engine and key != "run":
        raise FieldsRefusedError({"state": "The engine runs only with the ignition on."})
    keys = tuple(dict.fromkeys(query.get("fault", ())))
    if len(keys) > _MOST_FAULTS:
        raise FieldsRefusedError({"fault": f"At most {_MOST_FAULTS} faults at a time."})
    found = faults_of(design, keys)
    if len(found) < len(keys):
        raise FieldsRefusedError({"fault": "The drawing has changed; that fault is gone."})
    blown = tuple(dict.fromkeys(query.get("blown", ())))
    fuses = {p.ref for p in protections(design.installation)}
    if not set(blown) <= fuses:
        raise FieldsRefusedError({"fault": "The drawing has changed; that fuse is gone."})
    emf_v = CHARGING_V * design.job.vehicle.nominal_v / 12 if engine else None
    state = VehicleState(
        key=_key(key),
        lights=_lights(lights),
        on=on,
        emf_v=emf_v,
        signals=signals | ({"charging"} if engine else set()),
    )
    return Asked(state=state, engine=engine, faults=found, blown=blown)


def _one(query: Mapping[str, Any], name: str, usual: str) -> str:
    values = query.get(name) or [usual]
    return str(values[0])


def _key(key: str) -> KeyState:
    return next(k for k in KEY_STATES if k == key)


def _lights(lights: str) -> LightState:
    return next(x for x in LIGHT_STATES if x == lights)


def read(design: Design, asked: Asked) -> Live:
    """Return the job in the state that was asked for. Raises FieldsRefusedError for a fault
    that cannot be there.
    """
    try:
        return live(design, asked.state, asked.faults, asked.blown)
    except FaultError as error:
        raise FieldsRefusedError({"fault": f"Not possible together: {error}."}) from error


def state_json(design: Design, asked: Asked, reading: Live) -> dict[str, Any]:
    """Return what the page paints from."""
    closed = _closed(design, reading)
    point = reading.point
    first = first_to_open(reading)
    return {
        "trouble": reading.trouble,
        "wires": {label: round(amps, 3) for label, amps in reading.wires_a.items()},
        "nodes": {}
        if point is None
        else {
            node: round(point.node_v[node], 2)
            for node in _bar_nodes(design)
            if node in point.node_v
        },
        "relays": dict(reading.relays),
        "closed": closed,
        "loads": [
            {
                "ref": x.ref,
                "name": x.name,
                "v": round(x.volts, 2),
                "a": round(x.amps, 2),
                "on": x.is_on,
                "lacks": x.lacks,
            }
            for x in reading.loads
        ],
        "fuses": {
            f.ref: {
                "device": f.device,
                "a": round(f.amps, 2),
                "rating": f.rating_a,
                "opens": opens_words(f),
            }
            for f in reading.fuses
            if f.opens
        },
        "first": first.ref if first is not None else "",
        "first_words": ""
        if first is None
        else f"{first.ref} carries {first.amps:.0f} A of {first.rating_a:g} A and opens "
        f"{opens_words(first)}.",
        "chatter": list(reading.chatter),
        "source_v": round(reading.source_v, 2),
        "total_a": round(reading.total_a, 1),
        "sources": [
            {"name": s.name, "v": round(s.volts, 1), "a": round(s.amps, 1)} for s in reading.sources
        ],
        "faults": [{"key": f.key, "words": f.words, "subject": f.subject} for f in asked.faults],
        "blown": list(asked.blown),
        "summary": summary(reading, asked),
    }


def _bar_nodes(design: Design) -> list[str]:
    """The nodes that stand as bars: what the page colours by its voltage."""
    return [
        node_of(ref, terminal)
        for ref, device in design.installation.devices.items()
        if ref == BATTERY_DEVICE or device.spec.is_signal or isinstance(device.spec, PointSpec)
        for terminal in device.terminals
    ]


def _closed(design: Design, reading: Live) -> dict[str, bool]:
    """Whether each device's (first) contact is closed, by its reference."""
    if reading.point is None:
        return {}
    found: dict[str, bool] = {}
    for ref in design.installation.devices:
        for element in design.installation.elements_of(ref):
            if isinstance(element, SwitchContact | RelayContact):
                shut = reading.point.closed.get(element.name, False)
                stuck = element.name in reading.point.branch_a
                found[ref] = found.get(ref, False) or (
                    shut if element.name in reading.point.closed else stuck
                )
    return found


def opens_words(fuse: FuseReading) -> str:
    """Say within which times a fuse opens."""
    if math.isinf(fuse.fastest_s):
        return f"within {_seconds(fuse.slowest_s)}"
    return f"after {_seconds(fuse.fastest_s)} to {_seconds(fuse.slowest_s)}"


def _seconds(seconds: float) -> str:
    if seconds < 0.001:
        return "under 1 ms"
    if seconds < 1:
        return f"{seconds * 1000:.0f} ms"
    return f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} min"


def summary(reading: Live, asked: Asked) -> str:
    """Return one sentence about a state, for people who listen."""
    if reading.point is None:
        return "This state has no steady answer: what is broken pulls the supply down."
    on = dict.fromkeys(x.name for x in reading.loads if x.is_on)
    lacks = dict.fromkeys(x.name for x in reading.loads if x.lacks)
    parts = [f"{reading.source_v:.1f} V at the battery, {reading.total_a:.1f} A taken"]
    parts += [f"{s.name} gives {s.amps:.1f} A" for s in reading.sources[1:] if abs(s.amps) >= 0.05]
    parts.append("on: " + ", ".join(on) if on else "nothing is on")
    if lacks:
        parts.append("too little for " + ", ".join(lacks))
    if reading.chatter:
        parts.append(", ".join(reading.chatter) + " chatters")
    return "; ".join(parts) + "."


def controls_of(design: Design) -> Controls:
    """Return what the strip offers."""
    network = job_network(design)
    rockers: dict[str, list[Rocker]] = {}
    named: set[str] = set()
    for switch in design.job.switches:
        sides = (("I", f"{switch.name} I"), ("II", f"{switch.name} II"))
        if switch.throws == 1:
            sides = (("", switch.name),)  # type: ignore[assignment]
        sides = tuple(s for s in sides if s[1] in network.switches)  # type: ignore[assignment]
        if not sides:
            continue
        named |= {name for _, name in sides}
        point = design.job.point(switch.panel) if switch.panel else None
        legend = ""
        if point is not None:
            legend = next((p.legend for p in point.positions if p.name == switch.position), "")
        rockers.setdefault(point.name if point is not None else "Alone", []).append(
            Rocker(
                ref=f"S{switch.number}",
                name=switch.name,
                sides=sides,
                position=switch.position,
                legend=legend,
            )
        )
    scenarios = tuple(
        (
            s.id,
            s.name,
            {
                "key": s.key,
                "lights": s.lights,
                "engine": "on" if s.engine != "off" else "",
                "on": sorted(_on_in(design, s.id) & network.switches),
            },
        )
        for s in design.job.scenarios
    )
    return Controls(
        signals=tuple(s for s in SIGNALS if s in network.signals and s != "charging"),
        panels=tuple(
            (name, tuple(sorted(r, key=lambda x: x.position))) for name, r in rockers.items()
        ),
        others=tuple(sorted((network.switches - named) | network.opened)),
        scenarios=scenarios,
        truths=tuple(
            (c.circuit.id, c.circuit.name) for c in design.circuits if c.planned.parts is not None
        ),
    )


def _on_in(design: Design, scenario_id: str) -> set[str]:
    """The switches that are on in a scenario."""
    scenario = next(s for s in design.job.scenarios if s.id == scenario_id)
    on: set[str] = set()
    for circuit in design.circuits:
        used = any(
            scenario.share_of(a.id, circuit.circuit.output) is not None for a in circuit.accessories
        )
        if used:
            on |= working_state(design.plan, circuit.circuit).on
    return on


def meter_json(
    design: Design, asked: Asked, reading: Live, *, red: str, black: str, clamp: str, mode: str
) -> dict[str, Any]:
    """Return one reading beside what the design expects in the same state."""
    sound = live(design, asked.state)
    if clamp:
        if clamp not in design.installation.wires:
            raise FieldsRefusedError({"meter": "There is no such wire."})
        read_a, sound_a = (
            "no steady state" if x.point is None else f"{abs(x.wires_a[clamp]):.2f} A"
            for x in (reading, sound)
        )
        return {"reading": read_a, "expects": sound_a, "warning": "", "what": f"clamp on {clamp}"}
    if mode == "ohms":
        return _ohms_json(design, asked, red, black)
    values = []
    for state in (reading, sound):
        if state.point is None:
            values.append("no steady state")
            continue
        try:
            assert state.network is not None
            values.append(f"{volts(state.network, state.state, red, black):.2f} V")
        except KeyError:
            raise FieldsRefusedError({"meter": "There is no such terminal."}) from None
        except NotConvergedError:
            values.append("no steady state")
    return {"reading": values[0], "expects": values[1], "warning": "", "what": "volts"}


def _ohms_json(design: Design, asked: Asked, red: str, black: str) -> dict[str, Any]:
    base = job_network(design)
    changes = [change for f in asked.faults for change in f.faults]
    try:
        broken = without_power(faulted(base, changes) if changes else base)
    except FaultError as error:
        raise FieldsRefusedError({"meter": f"{error}"}) from error
    sound = without_power(base)
    state = VehicleState(key=asked.state.key, lights=asked.state.lights, on=asked.state.on)
    values = [_ohm_words(ohms(n, state, red, black)) for n in (broken, sound)]
    return {
        "reading": values[0],
        "expects": values[1],
        "what": "ohms",
        "warning": "Read with the battery away and every fuse out. On a live circuit the meter "
        "would be harmed and would lie.",
    }


def _ohm_words(value: float) -> str:
    if math.isinf(value):
        return "open"
    return f"{value * 1000:.0f} mΩ" if value < 1 else f"{value:.1f} Ω"


def heat_of(design: Design, reading: Live, label: str) -> tuple[HeatPlot, Sequence[str]] | None:
    """Return the plot of a wire that heats, and its story in words; None where it stays cool."""
    hot = heats(design, reading, label)
    if hot is None:
        return None
    found, first = hot
    words = [f"{label} carries {found.current_a:.0f} A."]
    if math.isinf(found.gives_up_s):
        words.append("Its insulation bears that for good.")
    else:
        words.append(f"Without a fuse its insulation gives up after {_seconds(found.gives_up_s)}.")
    if first is None:
        words.append("No fuse opens at this current.")
    elif found.fuse_is_first:
        words.append(
            f"{first.ref} opens {opens_words(first)}, with the copper at "
            f"{found.at_slowest_c:.0f} °C at the latest."
        )
    else:
        words.append(
            f"{first.ref} opens {opens_words(first)}: too late, {lower_first(label)} burns first."
        )
    return draw_heat(found), words
