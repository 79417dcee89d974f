"""Designing one circuit: scheme, sizes, wiring, netlist, profile, findings."""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import Conductor, ampacity_a
from ready_trail.core.design.pieces import working_pieces
from ready_trail.core.design.request import (
    back_segments,
    legs,
    load_currents_a,
    sizing_request,
)
from ready_trail.core.errors import NotConvergedError, TableError
from ready_trail.core.job import Accessory, Circuit, Job
from ready_trail.core.job.zones import segment_at, zone_ambient_c
from ready_trail.core.network import Network
from ready_trail.core.outcome import CircuitDesign, FeederDesign
from ready_trail.core.profile import (
    at_design_current,
    enabling_circuit,
    read_profile,
    with_rest_of_block,
    working_state,
)
from ready_trail.core.review import review
from ready_trail.core.schemes import BY_KEY, Bench, Scheme, propose
from ready_trail.core.schemes.vehicle_side import battery
from ready_trail.core.sizing import Sizing, SizingRequest, size
from ready_trail.core.solver import solve
from ready_trail.core.wiring import Wiring, network_of

TRACERS = ("WH", "YE", "BU", "GN", "BK", "VT", "GY", "PK", "BN")
_POWER_BASES = ("RD", "OG")
_CONTROL_BASE = "VT"


def design_circuit(
    job: Job,
    circuit: Circuit,
    catalogue: Catalogue,
    feeder: FeederDesign | None,
    *,
    emf_v: float | None = None,
) -> CircuitDesign:
    """Return one circuit's design.

    ``emf_v`` asks how it runs on another supply: the loads then draw what their models say
    at that voltage, instead of the design current. [V]
    """
    accessories = tuple(job.accessory(i) for i in circuit.accessory_ids)
    currents = load_currents_a(job, accessories)
    scheme, reason = _scheme(job, circuit, accessories, sum(currents))
    own_feeder = feeder if circuit.source == "block" else None
    request = _request(job, circuit, accessories, scheme, catalogue, own_feeder)
    sizing = size(request, catalogue, whole_ladder=True)
    design = CircuitDesign(
        job=job,
        circuit=circuit,
        accessories=accessories,
        scheme_key=scheme.key,
        scheme_label=scheme.label,
        scheme_reason=reason,
        scheme_refusal=scheme.refusal(job, circuit, accessories),
        load_currents_a=currents,
        sizing=sizing,
        colour=circuit.held.colour or power_colour(circuit.number),
        feeder=own_feeder,
    )
    if sizing.chosen is not None and sizing.fuse is not None and _can_be_wired(design):
        enabler = None
        if scheme.key == "interlock":
            waits_for = enabling_circuit(job, accessories[0].use)
            if waits_for is not None:
                enabler = design_circuit(job, waits_for, catalogue, feeder)
        design = _wired(design, catalogue, emf_v, enabler)
    return replace(design, findings=review(design, catalogue))


def size_circuit(
    job: Job, circuit: Circuit, catalogue: Catalogue, feeder: FeederDesign | None
) -> Sizing:
    """Return one circuit's sizes alone, without wiring, solving or review."""
    accessories = tuple(job.accessory(i) for i in circuit.accessory_ids)
    total_a = sum(load_currents_a(job, accessories))
    scheme, _ = _scheme(job, circuit, accessories, total_a)
    own_feeder = feeder if circuit.source == "block" else None
    return size(_request(job, circuit, accessories, scheme, catalogue, own_feeder), catalogue)


def _scheme(
    job: Job, circuit: Circuit, accessories: tuple[Accessory, ...], current_a: float
) -> tuple[Scheme, str]:
    """The held scheme, or the one that fits, with its reason."""
    if circuit.held.scheme is None:
        return propose(job, circuit, accessories, current_a)
    if circuit.held.scheme not in BY_KEY:
        raise TableError(f"no scheme {circuit.held.scheme!r}")
    scheme = BY_KEY[circuit.held.scheme]
    return scheme, f"Held by hand. {scheme.when.capitalize()}."


def _request(
    job: Job,
    circuit: Circuit,
    accessories: tuple[Accessory, ...],
    scheme: Scheme,
    catalogue: Catalogue,
    feeder: FeederDesign | None,
) -> SizingRequest:
    upstream = feeder.upstream if feeder else None
    return sizing_request(job, circuit, accessories, scheme, catalogue, upstream)


def power_colour(number: int) -> str:
    """Return the colour of a circuit's switched wire: its base with a tracer of its own."""
    base = _POWER_BASES[((number - 1) // len(TRACERS)) % len(_POWER_BASES)]
    return f"{base}/{TRACERS[(number - 1) % len(TRACERS)]}"


def control_colour(number: int) -> str:
    """Return the colour of a circuit's coil wires, with the same tracer where it shows."""
    tracer = TRACERS[(number - 1) % len(TRACERS)]
    return "GY/VT" if tracer == _CONTROL_BASE else f"{_CONTROL_BASE}/{tracer}"


def circuit_network(
    design: CircuitDesign, wiring: Wiring, enabler: CircuitDesign | None
) -> Network:
    """Return the netlist of the circuit with what enables it, and its block's other circuits
    as one load.
    """
    wirings = [wiring]
    if enabler is not None and enabler.wiring is not None:
        wirings.append(enabler.wiring)
    network = network_of(float(design.job.vehicle.nominal_v), wirings)
    if design.feeder is not None:
        rest_a = design.feeder.sizing.request.current_a - design.current_a
        if enabler is not None and enabler.feeder is not None:
            rest_a -= enabler.current_a
        network = with_rest_of_block(network, "b1_bus", rest_a)
    return network


def _can_be_wired(design: CircuitDesign) -> bool:
    """Whether the scheme finds what it connects to; a held one may ask for what is not there."""
    if design.scheme_key == "interlock" or design.scheme_key.startswith("high_beam"):
        return not design.scheme_refusal
    return not (design.scheme_key == "winch" and design.scheme_refusal)


def _wired(
    design: CircuitDesign,
    catalogue: Catalogue,
    emf_v: float | None,
    enabler: CircuitDesign | None,
) -> CircuitDesign:
    circuit, job = design.circuit, design.job
    wiring = BY_KEY[design.scheme_key].wiring(_bench(design, catalogue))
    network = circuit_network(design, wiring, enabler)
    state = working_state(job, circuit, design.accessories[0].use, emf_v=emf_v)
    fixed = emf_v is None
    solved = (
        at_design_current(network, circuit.number, design.load_currents_a) if fixed else network
    )
    wired = replace(design, wiring=wiring, network=network)
    try:
        point = solve(solved, state)
    except NotConvergedError:
        return wired
    profile = read_profile(solved, wiring, circuit.number, point, at_design_current=fixed)
    return replace(wired, operating=point, profile=profile)


def _bench(design: CircuitDesign, catalogue: Catalogue) -> Bench:
    job, circuit, sizing = design.job, design.circuit, design.sizing
    if sizing.chosen is None or sizing.fuse is None:
        raise ValueError("nothing to wire before sizing")
    relay_c = zone_ambient_c(segment_at(circuit.run, circuit.switching_at_m), catalogue)
    back = back_segments(circuit)
    supply = design.feeder.wiring if design.feeder else Wiring(devices=(battery(job),), wires=())
    return Bench(
        job=job,
        circuit=circuit,
        accessories=design.accessories,
        catalogue=catalogue,
        sizing=sizing,
        fuse=sizing.fuse,
        conductor=sizing.chosen.conductor,
        control_conductor=_control_conductor(sizing, relay_c, catalogue),
        colour=design.colour,
        control_colour=control_colour(circuit.number),
        run=working_pieces(circuit.run, legs(circuit.run, catalogue), sizing),
        back=working_pieces(back, legs(back, catalogue), sizing),
        relay_c=relay_c,
        load_currents_a=design.load_currents_a,
        supply=supply,
    )


def _control_conductor(sizing: Sizing, relay_c: float, catalogue: Catalogue) -> Conductor:
    """The thinnest wire that is sturdy enough there and outlives the control fuse."""
    request = sizing.request
    for conductor in catalogue.wires(request.system, request.wire_kind):
        carries_a = ampacity_a(
            conductor, insulation_c=request.insulation_c, ambient_c=relay_c, loaded_conductors=1
        )
        if conductor.area_mm2 >= request.minimum_mm2 and carries_a >= _CONTROL_FUSE_MOST_A:
            return conductor
    raise TableError("no wire for the control circuit in the catalogue")


_CONTROL_FUSE_MOST_A = 5.0
