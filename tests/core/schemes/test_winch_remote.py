"""A winch whose box brings its own remote: both ways, by its field where it has three posts."""

from __future__ import annotations

import pytest

from core.review.findings_cases import remote_winch
from ready_trail.core.build import build_of
from ready_trail.core.design import Design, design, job_network
from ready_trail.core.job import Job
from ready_trail.core.solver import solve
from ready_trail.core.states import VehicleState
from support import CATALOGUE, table_of

POSTS = (
    {"name": "F1", "lead": "red", "torque_nm": 8.0},
    {"name": "F2", "lead": "black", "torque_nm": 8.0},
    {"name": "A", "lead": "yellow", "torque_nm": 9.5, "hold": False},
)


def made(job: Job) -> Design:
    return design(job, CATALOGUE)


def pulled(job: Job, *ways: str, key: str = "run") -> dict[str, float]:
    """Amps through field and armature with the remote's keys pressed."""
    state = VehicleState(key=key, on=frozenset(f"Slip winch remote {w}" for w in ways))  # type: ignore[arg-type]
    point = solve(job_network(made(job)), state)
    return {k: v for k, v in point.branch_a.items() if k == "l1_field" or k.startswith("l1_a1")}


@pytest.mark.parametrize("remote", ["wired", "wireless"])
@pytest.mark.parametrize("field_posts", [False, True])
def test_it_is_fitted_without_a_switch_in_the_dash(remote: str, field_posts: bool) -> None:
    keyed = remote == "wireless"
    job = remote_winch(
        remote=remote,
        remote_keyed=keyed,
        field_posts=field_posts,
        use={"key": "run" if keyed else "always"},
    )
    circuit = made(job).circuits[0]
    assert circuit.scheme.key == "winch_remote"
    assert [f.code for f in circuit.findings if f.severity != "note"] == []
    assert circuit.sizing.fuse is not None
    assert circuit.sizing.chosen is not None
    assert (circuit.sizing.fuse.rating_a, circuit.sizing.chosen.conductor.size) == (250, "2")
    assert job.switches == ()
    on = {c.key for c in table_of(job).cells if c.switch_on and c.is_on}
    assert on == ({"run", "cranking"} if keyed else {"off", "accessory", "run", "cranking"})


def test_a_series_motor_turns_by_its_field_and_not_at_all_with_both_keys_or_none() -> None:
    job = remote_winch(remote="wired", field_posts=True)
    assert pulled(job) == pytest.approx({"l1_field": 0.0, "l1_a1_f1": 0.0}, abs=0.5)
    assert pulled(job, "in") == pytest.approx({"l1_field": 330.0, "l1_a1_f1": 330.0}, rel=0.01)
    assert pulled(job, "out") == pytest.approx({"l1_field": -330.0, "l1_a1_f1": 330.0}, rel=0.01)
    both = pulled(job, "in", "out")
    assert both["l1_field"] == pytest.approx(0.0, abs=1.0), "no field: it does not turn either way"


def test_a_keyed_remote_does_nothing_with_the_key_out() -> None:
    job = remote_winch(remote="wireless", remote_keyed=True, use={"key": "run"})
    assert max(map(abs, pulled(job, "in", key="off").values())) < 0.5
    assert max(map(abs, pulled(job, "in").values())) > 300


def test_its_leads_are_not_cut_and_each_post_has_its_colour_torque_and_hold() -> None:
    job = remote_winch(remote="wired", field_posts=True, posts=POSTS)
    build = build_of(made(job), CATALOGUE)
    supplied = {c.label: c.lead for c in build.cuts.cuts if c.source == "supplied"}
    assert sorted(supplied.values()) == ["black", "red", "yellow"]
    bought = {line.key for line in build.parts}
    assert not any(key.startswith(("contactor", "kit")) for key in bought)
    assert "winch-box-slip-winch" in bought
    cut = {label for step in build.steps for label in step.cuts}
    assert not cut & set(supplied)
    laid = {label for step in build.steps for label in step.lays}
    assert set(supplied) <= laid
    second = next(s for s in build.steps if set(supplied) & set(s.second))
    held = {post: any(f" {post}: " in d and "hold" in d for d in second.doing) for post in "A"}
    assert held == {"A": False}
    assert sum("hold the nut below it" in d for d in second.doing) == 2
    assert {8.0, 9.5} <= {nm for _, nm in second.torques}
