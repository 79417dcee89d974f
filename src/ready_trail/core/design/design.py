"""``design(job, catalogue)``: the whole job as a pure, deterministic function."""

from __future__ import annotations

from dataclasses import replace

from ready_trail.core.catalogue import Catalogue
from ready_trail.core.design.circuit import design_circuit
from ready_trail.core.design.feeder import design_feeder
from ready_trail.core.job import Job
from ready_trail.core.network import Network
from ready_trail.core.outcome import Design, FeederDesign
from ready_trail.core.schemes.vehicle_side import battery
from ready_trail.core.wiring import Wiring, network_of


def design(job: Job, catalogue: Catalogue) -> Design:
    """Return what follows from a job.

    Same job and catalogue, same design. Raises TableError when the job names a zone, a size,
    a relay or a family that the catalogue does not have.
    """
    feeder = job_feeder(job, catalogue)
    return Design(
        job=job,
        feeder=feeder,
        circuits=tuple(design_circuit(job, c, catalogue, feeder) for c in job.circuits),
    )


def redesign(job: Job, catalogue: Catalogue, before: Design) -> Design:
    """Return the same as ``design``, taking over circuits on which nothing has changed.

    A circuit depends on the vehicle, the house rules, the block, its own accessories and
    itself; where all of these equal those of ``before``, so does its design.
    """
    was = before.job
    if (job.vehicle, job.rules, job.block) != (was.vehicle, was.rules, was.block):
        return design(job, catalogue)
    kept = {c.circuit.id: c for c in before.circuits}
    circuits = []
    for circuit in job.circuits:
        old = kept.get(circuit.id)
        accessories = tuple(job.accessory(i) for i in circuit.accessory_ids)
        if old is not None and (old.circuit, old.accessories) == (circuit, accessories):
            circuits.append(replace(old, job=job))
        else:
            circuits.append(design_circuit(job, circuit, catalogue, before.feeder))
    return Design(job=job, feeder=before.feeder, circuits=tuple(circuits))


def job_feeder(job: Job, catalogue: Catalogue) -> FeederDesign | None:
    """Return the feeder to the job's fuse block, if it has one."""
    return design_feeder(job, job.block, catalogue) if job.block else None


def job_network(made: Design) -> Network:
    """Return the netlist of all circuits that could be wired, on one battery."""
    wirings = [c.wiring for c in made.circuits if c.wiring is not None]
    if not wirings:
        wirings = [Wiring(devices=(battery(made.job),), wires=())]
    return network_of(float(made.job.vehicle.nominal_v), wirings)
