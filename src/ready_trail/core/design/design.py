"""``design(job, catalogue)``: the whole job as a pure, deterministic function."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design.circuit import design_circuit, size_circuit
from ready_trail.core.design.feeder import design_feeder
from ready_trail.core.job import Circuit, Job
from ready_trail.core.layout.routing import Routed, route_job
from ready_trail.core.network import Network
from ready_trail.core.outcome import CircuitDesign, Design, FeederDesign
from ready_trail.core.review.routing import review_routing, without_routing
from ready_trail.core.schemes.vehicle_side import battery
from ready_trail.core.sizing import Sizing
from ready_trail.core.wiring import Wiring, network_of

LIGHTLY_LOADED_RATIO = 0.30
"""A conductor that carries at most this share of its single-wire ampacity counts as unloaded."""

_ROUTING_ROUNDS = 4

Make = Callable[[Job, Circuit], CircuitDesign]


def design(job: Job, catalogue: Catalogue) -> Design:
    """Return what follows from a job.

    Same job and catalogue, same design. Raises TableError when the job names a zone, a size,
    a relay or a family that the catalogue does not have.
    """
    feeder = job_feeder(job, catalogue)

    def make(routed: Job, circuit: Circuit) -> CircuitDesign:
        return design_circuit(routed, circuit, catalogue, feeder)

    return _settled(job, catalogue, feeder, make)


def redesign(job: Job, catalogue: Catalogue, before: Design) -> Design:
    """Return the same as ``design``, taking over circuits on which nothing has changed.

    A circuit depends on the vehicle, the house rules, the block, the known wires, its own
    accessories and itself with its routed run; where all of these equal those of ``before``,
    so does its design.
    """
    was = before.job
    common = (job.vehicle, job.rules, job.block, job.survey.known)
    if common != (was.vehicle, was.rules, was.block, was.survey.known):
        return design(job, catalogue)
    kept = {c.circuit.id: c for c in before.circuits}

    def make(routed: Job, circuit: Circuit) -> CircuitDesign:
        old = kept.get(circuit.id)
        accessories = tuple(routed.accessory(i) for i in circuit.accessory_ids)
        waits = bool(accessories[0].use.while_on)  # then it depends on another circuit too
        same = old is not None and (old.circuit, old.accessories) == (circuit, accessories)
        if old is not None and same and not waits:
            return replace(without_routing(old), job=routed)
        made = design_circuit(routed, circuit, catalogue, before.feeder)
        kept[circuit.id] = made
        return made

    return _settled(job, catalogue, before.feeder, make)


def job_feeder(job: Job, catalogue: Catalogue) -> FeederDesign | None:
    """Return the feeder to the job's fuse block, if it has one."""
    return design_feeder(job, job.block, catalogue) if job.block else None


def job_network(made: Design) -> Network:
    """Return the netlist of all circuits that could be wired, on one battery."""
    wirings = [c.wiring for c in made.circuits if c.wiring is not None]
    if not wirings:
        wirings = [Wiring(devices=(battery(made.job),), wires=())]
    return network_of(float(made.job.vehicle.nominal_v), wirings)


def _settled(job: Job, catalogue: Catalogue, feeder: FeederDesign | None, make: Make) -> Design:
    """Route, design, and route again without the lightly loaded, until these stay the same.

    A wire that got thinner for want of neighbours may no longer be lightly loaded: such a
    circuit counts from then on, so the rounds end.
    """
    light: frozenset[str] = frozenset()
    barred: frozenset[str] = frozenset()
    routed = route_job(job, catalogue)
    for _ in range(_ROUTING_ROUNDS if routed.routes else 0):
        found = frozenset(
            c.id
            for c in routed.job.circuits
            if c.id not in barred and _is_light(size_circuit(routed.job, c, catalogue, feeder))
        )
        if found == light:
            break
        barred |= light - found
        light = found - barred
        routed = route_job(job, catalogue, lightly_loaded=light)
    else:
        light = frozenset()  # not settled: let every wire count
        routed = route_job(job, catalogue)
    circuits = tuple(make(routed.job, c) for c in routed.job.circuits)
    return review_routing(_made(job, routed, feeder, circuits, light), catalogue)


def _made(
    job: Job,
    routed: Routed,
    feeder: FeederDesign | None,
    circuits: tuple[CircuitDesign, ...],
    light: frozenset[str],
) -> Design:
    return Design(
        job=job,
        routed=routed.job,
        feeder=feeder,
        circuits=circuits,
        routes=routed.routes,
        loaded=routed.loaded,
        lightly_loaded=light if routed.routes else frozenset(),
    )


def _is_light(sizing: Sizing) -> bool:
    chosen = sizing.chosen
    if chosen is None:
        return False
    return sizing.request.current_a <= LIGHTLY_LOADED_RATIO * chosen.single_ampacity_a
