"""Review: each check fires on what it is for, and its way out makes it go away."""

from __future__ import annotations

import pytest

from ready_trail.core.edits import (
    AcceptFinding,
    FeedCoilFromCommon,
    HoldChoice,
    SetHouseRules,
    WithdrawAcceptance,
    apply,
)
from ready_trail.core.job import (
    AcceptedFinding,
    Battery,
    HouseRules,
    Job,
    Return,
    Use,
    Vehicle,
)
from support import codes, job_with, only_circuit, segment

CALM = Battery(resistance_mohm=12)
LONG = (segment("engine_bay", 1.0), segment("cabin", 6.0))
RUN = Use(key="run", switch="S1", engine_only=True)


def hold(what: str, value: str | float) -> HoldChoice:
    return HoldChoice(circuit_id="c1", what=what, value=value)  # type: ignore[arg-type]


CASES: dict[str, tuple[str, Job]] = {
    "unprotected": ("stop", job_with(fuse_at_m=0.4)),
    "fuse_over_wire": ("stop", job_with(edits=(hold("size", "16"),))),
    "fuse_under_load": ("caution", job_with(edits=(hold("fuse_a", 20.0),))),
    "far_short_slow": (
        "stop",
        job_with(watts=60, run=(segment("cabin", 29.0),), edits=(hold("size", "20"),
                 hold("fuse_a", 30.0))),
    ),
    "fuse_over_element": ("stop", job_with(fuse_max_a=15)),
    "unsized": ("stop", job_with(watts=1100, quantity=2)),
    "conductor_drop": ("caution", job_with(watts=100, run=LONG, edits=(hold("size", "18"),))),
    "too_thin": ("caution", job_with(watts=30, edits=(hold("size", "22"),))),
    "no_return": ("stop", job_with(vehicle=Vehicle(body="composite"), back=Return())),
    "bare_hole": (
        "stop",
        job_with(run=(segment("engine_bay", 1.2, passes="firewall", grommet=False),
                      segment("cabin", 1.0))),
    ),
    "no_own_switch": ("caution", job_with(use=Use(key="always", lights="high"))),
    "switch_load": (
        "stop",
        job_with(use=Use(key="always", switch="S1", switch_a=20),
                 edits=(hold("scheme", "direct"),)),
    ),
    "scheme": ("stop", job_with(use=RUN, edits=(hold("scheme", "direct"),))),
    "unsuppressed": ("caution", job_with(vehicle=Vehicle(data_bus="supervised"))),
    "coil_from_30": (
        "caution",
        job_with(use=Use(key="always", lights="high", switch="S1"),
                 vehicle=Vehicle(headlamps="earth"),
                 edits=(FeedCoilFromCommon(circuit_id="c1", from_common=False),)),
    ),
    "clad_aluminium": (
        "caution",
        job_with(edits=(SetHouseRules(rules=HouseRules(wire_kind="cca")),)),
    ),
    "unguarded": (
        "caution",
        job_with(model="winch", amps=230, at_v=12, duty="momentary", drop_class="tolerant",
                 use=Use(key="run", switch="S1", engine_only=True), back=Return(kind="wire"),
                 inrush_x=1, inrush_s=0),
    ),
}  # fmt: skip


@pytest.mark.parametrize("code", CASES)
def test_check_fires_and_its_way_out_silences_it(code: str) -> None:
    severity, job = CASES[code]
    made = only_circuit(job)
    finding = next(f for f in made.findings if f.code == code)
    assert finding.severity == severity
    assert finding.text
    assert finding.why
    if severity == "stop":
        assert not made.is_ready
    if code == "fuse_over_element":  # one light of one kind: only the person can split it
        return
    assert finding.actions, code
    after = only_circuit(apply(job, finding.actions[0].edit))
    assert code not in codes(after)


@pytest.mark.parametrize(
    ("code", "job"),
    [
        ("hot_zone", job_with(run=(segment("engine_bay", 1.0), segment("exhaust", 0.5)))),
        ("load_voltage", job_with(min_v=13.4, run=LONG)),
        ("interrupting", job_with(vehicle=Vehicle(battery=Battery(resistance_mohm=3)))),
        ("data_bus", job_with(vehicle=Vehicle(data_bus="supervised"))),
        ("fuse_under_inrush", job_with(inrush_x=20, inrush_s=1, edits=(hold("fuse_a", 30.0),))),
        ("always_live", job_with(watts=40, use=Use(key="always"))),
        ("estimate", job_with()),
        ("rest_contact_live", job_with(edits=(hold("relay", "mini_co"),))),
        ("contact_inrush", job_with(model="motor", watts=300, at_v=13, inrush_x=12, inrush_s=0.01)),
        ("pigtail", job_with(run=(segment("cabin", 18.0),))),
    ],
)
def test_check_fires(code: str, job: Job) -> None:
    assert code in codes(only_circuit(job))


def test_a_plain_circuit_is_ready_with_notes_only() -> None:
    made = only_circuit(job_with(vehicle=Vehicle(battery=CALM)))
    assert made.is_ready
    assert codes(made) == {"estimate"}


def test_insulation_that_may_not_be_there() -> None:
    job = job_with(run=(segment("engine_bay", 1.0), segment("exhaust", 0.5)))
    job = apply(job, SetHouseRules(rules=HouseRules(insulation_c=105)))
    made = only_circuit(job)
    assert "insulation" in codes(made, "stop")
    assert made.profile is None


def test_hot_relay_on_a_tired_battery() -> None:
    """At 120 °C the coil wants 11 V; a battery at 11 V does not give that."""
    run = (segment("engine_bay", 2.0, ambient_c=119.5), segment("cabin", 1.0))
    job = job_with(run=run, watts=50, model="resistive")
    assert "pull_in" in codes(only_circuit(job), "caution")


def test_acceptance_needs_a_reason_and_can_be_withdrawn() -> None:
    job = CASES["conductor_drop"][1]
    finding = next(f for f in only_circuit(job).findings if f.code == "conductor_drop")
    accepted = AcceptedFinding(
        code=finding.code, place=finding.place, reason="short use, tested at the lamp"
    )
    job = apply(job, AcceptFinding(circuit_id="c1", accepted=accepted))
    made = only_circuit(job)
    again = next(f for f in made.findings if f.code == "conductor_drop")
    assert not again.is_open
    assert made.count("caution") == sum(
        f.severity == "caution" and f.is_open for f in made.findings
    )
    job = apply(job, WithdrawAcceptance(circuit_id="c1", code=finding.code, place=finding.place))
    assert next(f for f in only_circuit(job).findings if f.code == "conductor_drop").is_open
    with pytest.raises(ValueError, match="at least 3"):
        AcceptedFinding(code="x", place="y", reason=" ")


def test_the_limit_of_unprotected_wire_is_a_house_rule() -> None:
    job = job_with(fuse_at_m=0.4)
    job = apply(job, SetHouseRules(rules=HouseRules(unprotected_m=0.45)))
    assert "unprotected" not in codes(only_circuit(job))
