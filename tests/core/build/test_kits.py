"""Kits as bought: for two lamps, two outputs, a shared switch; tried before they are laid."""

from __future__ import annotations

from ready_trail.core.build import build_of
from ready_trail.core.build.kit import KitPlan, plan_kit
from ready_trail.core.design import Design, design
from ready_trail.core.edits import RecordFound, SetKit, apply
from ready_trail.core.job import Job
from ready_trail.core.job.kit import Found, Kit, KitLead
from support import CATALOGUE, job_with, small


def lead(name: str, start: str, end: str, size: str, length_m: float, **more: object) -> KitLead:
    return KitLead.model_validate(
        {
            "name": name,
            "start": start,
            "end": end,
            "size": size,
            "length_m": length_m,
            "insulation_c": 105,
            **more,
        }
    )


def planned(job: Job, circuit_id: str, kit: Kit) -> tuple[Design, KitPlan]:
    made = design(apply(job, SetKit(circuit_id=circuit_id, kit=kit)), CATALOGUE)
    return made, plan_kit(made.circuit(circuit_id), made, CATALOGUE)


def test_a_lead_for_each_lamp_serves_its_own_wire() -> None:
    job = small("two_corners_one_circuit")
    circuit = next(c for c in job.circuits if c.branches)
    wide = [lead(f"Lamp {n}", "joint", f"plus_{n}", "12", 9.0) for n in (1, 2)]
    ends = sum(bool(b.loads) for b in circuit.branches)
    plain = [lead(f"Any {n}", "joint", "plus", "12", 9.0) for n in range(ends + 1)]
    for leads, serving in ((wide, 2), (plain, ends)):
        _, plan = planned(job, circuit.id, Kit(leads=tuple(leads)))
        served = [w for p in plan.leads if p.serves for w in p.wires]
        assert sum(p.serves for p in plan.leads) == serving
        assert len(served) == len(set(served)), "no two leads for one wire"
    assert plan.leads[-1].verdict == "spare"


def test_one_kit_serves_two_outputs() -> None:
    job = small("two_outputs_relays")
    first, second = (c for c in job.circuits if c.output)
    leads = (
        lead("Power 1", "relay_87", "plus", "12", 9.0),
        lead("Power 2", "relay_87", "plus", "12", 9.0),
    )
    _, alone = planned(job, first.id, Kit(leads=leads))
    assert [p.serves for p in alone.leads] == [True, False]
    made, both = planned(job, first.id, Kit(leads=leads, also=(second.id,)))
    assert [p.serves for p in both.leads] == [True, True]
    owners = {made.installation.wires[w].owner for p in both.leads for w in p.wires}
    assert owners == {first.id, second.id}
    build = build_of(made, CATALOGUE)
    kits = [line for line in build.parts if line.key.startswith("kit-")]
    assert [(line.key, line.quantity) for line in kits] == [(f"kit-{first.id}", 1.0)]


def test_a_switch_feed_maps_onto_the_shared_switchs_wires_across_their_fuse() -> None:
    job = job_with(watts=100)
    made = design(job, CATALOGUE)
    feeds = {w.label for p in made.shared.values() for w in p.wires if w.owner == "S2"}
    kit = Kit(leads=(lead("Switch feed", "trigger", "switch_in", "16", 9.0, fuse_a=3),))
    made, plan = planned(job, "c1", kit)
    (only,) = plan.leads
    assert only.serves, only.words
    assert set(only.wires) <= feeds
    assert len(only.wires) == 2, "to its fuse and on"


def test_what_has_nothing_to_do_is_offered_elsewhere_before_it_is_capped() -> None:
    job = job_with(watts=100)
    kit = Kit(leads=(lead("Second lamp", "joint", "plus", "10", 12.0),))
    made, plan = planned(job, "c1", kit)
    (only,) = plan.leads
    assert only.verdict == "cap"
    assert only.instead is not None
    after = design(apply(made.job, only.instead), CATALOGUE)
    used = plan_kit(after.circuit("c1"), after, CATALOGUE).leads[0]
    assert used.serves
    assert used.wires[0] in only.instead_words


def test_a_kit_is_tried_on_the_bench_and_what_is_replaced_comes_out_first() -> None:
    job = job_with(watts=100)
    kit = Kit(leads=(lead("Power", "relay_87", "plus", "10", 12.0),))
    made, _ = planned(job, "c1", kit)
    ids = [s.id for s in build_of(made, CATALOGUE).steps]
    assert ids.index("kit:c1") < ids.index("kit-test:c1")
    laid = next(i for i in ids if i.startswith(("lay", "loom", "run")))
    assert ids.index("kit-test:c1") < ids.index(laid)
    found = apply(job, RecordFound(circuit_id="c1", found=Found(fuse_a=30.0)))
    released = found.model_copy(
        update={
            "circuits": tuple(
                c.model_copy(update={"held": c.held.model_copy(update={"fuse_a": None})})
                for c in found.circuits
            )
        }
    )
    steps = build_of(design(released, CATALOGUE), CATALOGUE).steps
    out = next(s for s in steps if s.id == "out:c1:fuse")
    assert out.doing[0].startswith("Out: 30 A.")


def test_a_gauge_that_means_less_copper_does_not_serve() -> None:
    """Bought harnesses are often of copper-clad aluminium, or of SAE gauge, an eighth thinner."""
    job = job_with()
    need = design(job, CATALOGUE).installation.wires["C1-W3"].conductor
    assert (need.system, need.size) == ("awg", "12")
    for kind, size, serves in (
        ("copper", "12", True),
        ("sae", "12", False),
        ("sae", "10", True),
        ("cca", "12", False),
        ("cca", "10", False),  # its drop is that of 12 AWG; it carries what two sizes less do
        ("cca", "8", True),
    ):
        kit = Kit(leads=(lead("red", "relay_87", "plus", size, 9.0, wire_kind=kind),))
        _, plan = planned(job, "c1", kit)
        assert plan.leads[0].serves == serves, (kind, size, plan.leads[0].words)
        assert plan.leads[0].instead is None


def test_a_metric_kit_is_used_in_a_house_of_gauges() -> None:
    for size, serves in (("2.5", False), ("4", True)):
        kit = Kit(leads=(lead("red", "relay_87", "plus", size, 9.0, system="metric"),))
        _, plan = planned(job_with(), "c1", kit)
        assert plan.leads[0].serves == serves
