"""Properties of sizing: what must hold for any circuit, not only for the worked ones."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from ready_trail.core.sizing import (
    Ceiling,
    Held,
    Leg,
    Sizing,
    SizingRequest,
    Switching,
    WinchPull,
    size,
    ways_out,
)
from sizing_support import asked, but
from support import CATALOGUE

SIZES = {system: [c.size for c in CATALOGUE.cables(system)] for system in ("awg", "metric")}


@st.composite
def requests(draw: st.DrawFn) -> SizingRequest:
    legs = tuple(
        Leg(
            length_m=draw(st.floats(0.1, 6.0)),
            ambient_c=draw(st.sampled_from([20.0, 50.0, 70.0, 85.0])),
            loaded_conductors=draw(st.integers(1, 9)),
        )
        for _ in range(draw(st.integers(1, 3)))
    )
    return asked(
        current_a=draw(st.floats(0.2, 150.0)),
        out=legs,
        back=(replace(legs[-1], length_m=0.5),),
        drop_limit_v=draw(st.sampled_from([0.36, 0.6, 1.2])),
        duty=draw(st.sampled_from(["continuous", "intermittent"])),
        holder_c=draw(st.sampled_from([25.0, 50.0, 70.0])),
        insulation_c=draw(st.sampled_from([105, 125])),
        system=draw(st.sampled_from(["awg", "metric"])),
        inrush_x=draw(st.sampled_from([1.0, 3.0, 7.0])),
        inrush_s=draw(st.sampled_from([0.0, 0.01, 0.15])),
        k_cont=draw(st.sampled_from([0.7, 0.8])),
        school=draw(st.sampled_from(["strict", "next_size"])),
        relay=draw(st.sampled_from(["auto", None])),
    )


def thickness(sizing: Sizing) -> int:
    assert sizing.chosen is not None
    return SIZES[sizing.request.wire.system].index(sizing.chosen.conductor.size)


def same_family(a: Sizing, b: Sizing) -> bool:
    """Whether both found an answer with one fuse family, so that wires can be compared."""
    return bool(a.ok and b.ok and a.fuse and b.fuse and a.fuse.family is b.fuse.family)


def sized(request: SizingRequest) -> Sizing:
    return size(request, CATALOGUE)


@given(requests())
@settings(max_examples=150, deadline=None)
def test_what_is_chosen_satisfies_every_rule_and_one_size_down_does_not(r: SizingRequest) -> None:
    got = size(r, CATALOGUE, whole_ladder=True)
    assume(got.ok)
    assert got.fuse is not None
    assert got.chosen is not None
    assert got.fuse.holds_a >= r.current_a
    assert got.chosen.conductor_drop_v <= r.drop_limit_v
    if r.fusing.school == "strict":
        assert got.fuse.rating_a <= got.chosen.ampacity_a
    else:
        assert got.fuse.rating_a <= 1.5 * got.chosen.ampacity_a
    if got.relay_rating_a is not None:
        assert got.relay_rating_a >= got.fuse.rating_a
    assert got.chosen.conductor_c <= r.wire.insulation_c + 1e-9
    assert got.chosen.ampacity_a * r.rule.share >= r.current_a
    at = thickness(got)
    if at:
        assert got.governs == got.ladder[at - 1].rejects != ()


@given(requests(), st.floats(1.05, 3.0))
@settings(max_examples=100, deadline=None)
def test_longer_run_never_takes_thinner_wire(r: SizingRequest, factor: float) -> None:
    longer = but(r, out=tuple(replace(x, length_m=x.length_m * factor) for x in r.path.out))
    short, long = sized(r), sized(longer)
    assume(same_family(short, long))
    assert thickness(long) >= thickness(short)


@given(requests(), st.floats(1.0, 25.0))
@settings(max_examples=100, deadline=None)
def test_hotter_air_never_takes_thinner_wire(r: SizingRequest, warmer_c: float) -> None:
    hot = but(r, out=tuple(replace(x, ambient_c=x.ambient_c + warmer_c) for x in r.path.out))
    cool, warm = sized(r), sized(hot)
    assume(same_family(cool, warm))
    assert thickness(warm) >= thickness(cool)


@given(requests(), st.integers(1, 30))
@settings(max_examples=60, deadline=None)
def test_fuller_loom_never_takes_thinner_wire(r: SizingRequest, more: int) -> None:
    fuller = (replace(x, loaded_conductors=x.loaded_conductors + more) for x in r.path.out)
    full = but(r, out=tuple(fuller))
    alone, shared = sized(r), sized(full)
    assume(same_family(alone, shared))
    assert thickness(shared) >= thickness(alone)


@given(requests(), st.floats(1.01, 2.0))
@settings(max_examples=100, deadline=None)
def test_more_load_never_takes_a_smaller_fuse(r: SizingRequest, factor: float) -> None:
    """Within a family; a slower family may ride a start with a smaller rating."""
    less, more = sized(r), sized(replace(r, current_a=r.current_a * factor))
    assume(less.ok and more.ok)
    assert less.fuse is not None
    assert more.fuse is not None
    assume(more.fuse.family is less.fuse.family)
    assert more.fuse.rating_a >= less.fuse.rating_a


@given(requests())
@settings(max_examples=60, deadline=None)
def test_splitting_a_leg_changes_nothing(r: SizingRequest) -> None:
    first = r.path.out[0]
    halves = (replace(first, length_m=first.length_m / 2),) * 2
    whole, split = sized(r), sized(but(r, out=(*halves, *r.path.out[1:])))
    assert whole.ok == split.ok
    if whole.chosen and split.chosen:
        assert whole.chosen.conductor is split.chosen.conductor
        assert split.chosen.wire_ohm == pytest.approx(whole.chosen.wire_ohm)


@given(requests())
@settings(max_examples=60, deadline=None)
def test_doubling_all_voltages_scales_drop_shares_only(r: SizingRequest) -> None:
    """The same amps on 24 V, with twice the limit, may take thinner wire, never thicker."""
    on_24 = but(
        r, drop_limit_v=2 * r.drop_limit_v, open_circuit_v=25.4, nominal_v=24.0, charging_v=28.8
    )
    a, b = sized(r), sized(on_24)
    assume(same_family(a, b))
    assert thickness(b) <= thickness(a) or "withstand" in b.governs


def base() -> SizingRequest:
    return asked(
        current_a=21.9,
        out=(Leg(length_m=5.2, ambient_c=70, loaded_conductors=3),),
        back=(Leg(length_m=0.5, ambient_c=70, loaded_conductors=3),),
        drop_limit_v=0.6,
    )


def test_a_ceiling_under_the_floor_is_named() -> None:
    got = sized(but(base(), ceilings=(Ceiling(element="switch S1", limit_a=20.0),)))
    assert not got.ok
    assert (got.why, got.capped_by) == ("ceiling", Ceiling(element="switch S1", limit_a=20.0))
    assert [way.kind for way in ways_out(got, CATALOGUE)] == ["split"]


def test_a_held_thin_wire_is_kept_and_judged() -> None:
    got = sized(replace(base(), held=Held(size="12")))
    assert got.chosen is not None
    assert got.chosen.conductor.size == "12"
    assert set(got.chosen.rejects) == {"ampacity", "drop"}
    assert "release_size" in [way.kind for way in ways_out(got, CATALOGUE)]


def test_every_way_out_works() -> None:
    tight = but(base(), current_a=150.0, relay=None)
    failed = sized(but(tight, families=("blade",)))
    ways = ways_out(failed, CATALOGUE)
    assert failed.why == "fuse"
    assert ways
    assert all(way.result.ok for way in ways)


def test_thick_wire_gets_a_pigtail_that_carries_the_fuse() -> None:
    long_run = but(base(), out=(Leg(length_m=14.0, ambient_c=50),))
    got = sized(long_run)
    assert got.chosen is not None
    assert got.chosen.conductor.area_mm2 > 6.0
    assert got.chosen.pigtail is not None
    assert got.chosen.pigtail.size == "10"


def test_sae_and_clad_wire_take_thicker_sizes_and_say_so() -> None:
    sizes = {}
    for kind in ("copper", "sae", "cca"):
        got = sized(but(base(), kind=kind))
        assert got.chosen is not None
        sizes[kind] = got.chosen.conductor
    assert [c.label for c in sizes.values()] == ["10 AWG", "10 SAE", "6 AWG CCA"]
    copper, sae = CATALOGUE.wires("awg"), CATALOGUE.wires("awg", "sae")
    clad = CATALOGUE.wires("awg", "cca")
    assert sae[6].r20_mohm_per_m == pytest.approx(copper[6].r20_mohm_per_m * 1.12)
    assert clad[0].size == copper[2].size
    assert clad[0].ampacity_by_class_a == copper[0].ampacity_by_class_a
    assert CATALOGUE.wires("metric", "sae") == CATALOGUE.wires("metric")


def winch(**facts: Any) -> SizingRequest:
    """A winch of 300 A on five metres of cable each way, its current at 60 % pull."""
    way = (Leg(length_m=2.5, ambient_c=50),)
    bare = but(
        base(),
        current_a=200.0,
        out=way,
        back=way,
        drop_limit_v=1.2,
        chassis_ohm=0.0,
        families=("strip_m8",),
        relay=None,
    )
    facts = {"full_a": 300.0, "stall_a": 360.0, **facts}
    return replace(bare, rule=WinchPull(**facts))


def test_a_winch_keeps_to_its_makers_fuse() -> None:
    free = sized(winch())
    assert free.ok
    assert free.fuse is not None
    assert (free.fuse.holds_a, free.fuse.by_maker) == (360.0, False)
    most_a = free.fuse.below_rating_a
    assert most_a is not None
    bound = sized(winch(maker_max_a=most_a))
    assert bound.ok
    assert bound.fuse is not None
    assert (bound.fuse.rating_a, bound.fuse.by_maker) == (most_a, True)


def test_a_winch_keeps_to_whatever_its_current_passes() -> None:
    position = Ceiling(element="position 3 of Bay block", limit_a=100.0)
    got = sized(but(winch(), ceilings=(position,)))
    assert (got.ok, got.why, got.capped_by) == (False, "ceiling", position)


def test_a_contactor_bought_apart_carries_the_pull() -> None:
    """The one that comes with the winch is its maker's matter."""
    weak = Held(relay="maxi_no")
    own = sized(replace(winch(), switching=Switching(), held=weak))
    apart = sized(replace(winch(own_contactor=False), switching=Switching(), held=weak))
    assert own.capped_by is None
    assert apart.capped_by is not None
    assert (apart.capped_by.element, apart.why) == ("contactor", "ceiling")
