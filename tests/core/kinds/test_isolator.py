"""A signal isolator: its earth, the colours of its wires, and room for one circuit more."""

from __future__ import annotations

from ready_trail.core.design import design
from ready_trail.core.edits import (
    AccessoryDraft,
    AddAccessory,
    AddSupply,
    PointDraft,
    SetVehicle,
    apply,
)
from ready_trail.core.edits.supply import positions
from ready_trail.core.job import Channel, Job, Use
from support import CATALOGUE, segment, small, table_of


def with_one_more() -> tuple[Job, str]:
    """A supervised vehicle with an isolator that has room, and a lamp that loads its brake wire."""
    job = Job(name="T")
    draft = PointDraft(kind="isolator_box", name="Isolator", positions=positions(4, 10.0))
    job = apply(job, AddSupply(point=draft))
    vehicle = job.vehicle.model_copy(update={"data_bus": "supervised"})
    job = apply(job, SetVehicle(vehicle=vehicle))
    lamp = AccessoryDraft(name="Stern lamp", watts=20, use=Use(key="always", signal="brake"))
    way = (segment("engine_bay", 1.0, taped=True),)
    job = apply(job, AddAccessory(accessory=lamp, run=way, start=Channel(point="battery")))
    return job, job.circuits[-1].id


def test_a_circuit_moves_to_the_isolator_that_is_there_and_is_on_as_it_was() -> None:
    job, circuit_id = with_one_more()
    made = design(job, CATALOGUE)
    finding = next(f for f in made.circuit(circuit_id).findings if f.code == "data_bus")
    assert [a.label for a in finding.actions] == [
        "Move it to Isolator 1: no relay, no fuse of its own",
        "Take it through Isolator 1",
    ]
    was = {(c.key, c.lights, c.signal) for c in table_of(job, circuit_id).cells if c.is_on}
    for action in finding.actions:
        after = apply(job, action.edit)
        now = {(c.key, c.lights, c.signal) for c in table_of(after, circuit_id).cells if c.is_on}
        assert now == was
        left = design(after, CATALOGUE).circuit(circuit_id).findings
        assert "data_bus" not in {f.code for f in left}
        assert len(after.points) == 1, "no second one is bought"


def test_its_sense_wires_have_colours_of_their_own_and_it_has_an_earth() -> None:
    made = design(small("isolator_senses_signals"), CATALOGUE)
    wires = made.installation.wires.values()
    senses = [w.colour for w in wires if w.end.terminal.startswith("sense ")]
    assert len(senses) > 2
    assert len(set(senses)) == len(senses)
    assert any(w.start.terminal == "module earth" for w in wires)
