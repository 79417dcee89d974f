"""How a figure came about: the rule, the numbers put in, the source. For screen and appendix."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ready_trail.core.budget import HALF, Budget, ScenarioBudget
from ready_trail.core.budget.battery import PEUKERT
from ready_trail.core.catalogue import Catalogue
from ready_trail.core.conductors import ambient_ratio, bundle_ratio
from ready_trail.core.design.feeders import copper_of
from ready_trail.core.fuses import temperature_ratio
from ready_trail.core.loads import ENGINE_RUNNING_V, ENGINE_STOPPED_V
from ready_trail.core.outcome import CircuitDesign, Design
from ready_trail.core.sizing import Steady
from ready_trail.core.sizing.records import PATH_EXTRA_RATIO, FuseChoice, Leg, Rung, SizingRequest
from ready_trail.core.supply.currents import SELECTIVE_X
from ready_trail.core.supply.own_load import ALTERNATOR_RATIO
from ready_trail.core.wording import lower_first


@dataclass(frozen=True, slots=True, kw_only=True)
class Derivation:
    """One figure: its name, itself, the rule in a sentence, what went in, where that is from."""

    key: str
    title: str
    result: str
    rule: str
    lines: tuple[tuple[str, str], ...]
    source: str


def explain_circuit(
    made: CircuitDesign, job: Design, catalogue: Catalogue
) -> tuple[Derivation, ...]:
    """Return how every figure of a circuit came about, in the order of the reckoning."""
    found = [_current(made, job)]
    sizing, request = made.sizing, made.sizing.request
    fuse, chosen = sizing.fuse, sizing.chosen
    if fuse is not None:
        found.append(_fuse(fuse, request, made))
    if sizing.relay is not None and sizing.relay_rating_a is not None:
        relay_c = request.relay_c
        found.append(
            Derivation(
                key="relay",
                title="Relay contact",
                result=_a(sizing.relay_rating_a),
                rule="The contact, rerated to the air where it sits, is at least the fuse.",
                lines=(
                    ("relay", sizing.relay.label),
                    ("air at the relay", _c(relay_c)),
                    ("fuse", _a(fuse.rating_a) if fuse else "–"),
                ),
                source=sizing.relay.source,
            )
        )
    if chosen is not None and fuse is not None:
        found += [
            _ampacity(chosen, request, fuse),
            _drop(chosen, request, made),
            _short(chosen, request, fuse),
        ]
    found += _least(made, job, catalogue)
    if made.profile is not None:
        found.append(_path(made))
    return tuple(found)


def explain_scenario(found: ScenarioBudget, budget: Budget, charging_a: float) -> Derivation:
    """Return how a scenario's battery figures came about."""
    engine = found.scenario.engine
    bank = budget.banks["battery"]
    lines = [("the vehicle itself", _a(found.own_a))]
    for draw in found.draws:
        where = "" if draw.bank == "battery" else f" (from {budget.names[draw.bank]})"
        lines.append((f"{draw.name}{where}, on the average", _a(draw.mean_a)))
    lines += [
        ("taken from the vehicle's battery", _a(found.load_a)),
        (f"alternator, {ALTERNATOR_RATIO[engine]:.0%} of {charging_a:g} A", _a(found.alternator_a)),
        *((f"mains and sun into {budget.names[b]}", _a(a)) for b, a in found.given_a.items()),
        ("into the battery", _a(found.into_a["battery"])),
        ("battery", f"{bank.capacity_ah:g} Ah {bank.chemistry}"),
        ("Peukert exponent", f"{PEUKERT[bank.chemistry]:g}"),
        ("twenty-hour rate", _a(bank.twenty_hour_a)),
    ]
    half = found.half_h.get("battery")
    result = f"{found.ends['battery']:.0%} left after {found.scenario.minutes:g} min"
    if half is not None:
        taken_a = -found.into_a["battery"]
        lines.append(
            (
                f"half of it at {taken_a:.1f} A lasts {HALF:g} · C / I · (I20 / I)^(n − 1)",
                f"{half:.2f} h",
            )
        )
    return Derivation(
        key="battery",
        title=f"Battery in {found.scenario.name}",
        result=result,
        rule="What the alternator lacks comes out of the battery, faster than in proportion above "
        "its twenty-hour rate.",
        lines=tuple(lines),
        source="docs/rules/battery.md: Peukert; house figures",
    )


def _current(made: CircuitDesign, job: Design) -> Derivation:
    lines: list[tuple[str, str]] = []
    rule = "Each accessory's label at the lowest voltage that it works at."
    if made.feeds is not None and made.feeds.id in job.points:
        view = job.points[made.feeds.id]
        names = {s.id: s.name for s in job.job.scenarios}
        lines += [
            (f"scenario {names[i]}", _a(amps)) for i, amps in view.by_scenario.items() if i in names
        ]
        lines.append(("all that can be on in one state", _a(view.possible_a)))
        if view.point.together_a is not None:
            lines.append(("stated by hand", _a(view.point.together_a)))
        rule = "The worst scenario behind it decides; with none, all that can be on in one state."
        if view.worst:
            lines.append(("decides", view.worst))
        if view.input_a != view.total_a:
            lines.append(("taken in for it", _a(view.input_a)))
    for accessory, amps in zip(made.accessories, made.planned.load_currents_a, strict=False):
        each = f"{accessory.watts:g} W" if accessory.watts is not None else f"{accessory.amps:g} A"
        label = f"{accessory.quantity} × {accessory.name}: {each} at {accessory.at_v:g} V"
        if accessory.model == "constant_power" and accessory.watts is not None:
            low_v = ENGINE_RUNNING_V if accessory.use.engine_only else ENGINE_STOPPED_V
            low_v *= made.sizing.request.supply.nominal_v / 12.0
            label += f", constant power, at {low_v:g} V"
        lines.append((label, _a(amps)))
    return Derivation(
        key="current",
        title="Design current",
        result=_a(made.current_a),
        rule=rule,
        lines=tuple(lines),
        source="docs/rules/load.md; labels",
    )


def _fuse(fuse: FuseChoice, request: SizingRequest, made: CircuitDesign) -> Derivation:
    k_temp = temperature_ratio(request.fusing.holder_c)
    duty = "continuous" if request.rule.duty == "continuous" else "short duty: the whole rating"
    lines = [
        ("design current", _a(request.current_a)),
        (f"share of the rating, {duty}", f"{request.rule.share:.0%}"),
        (f"left of it in air of {_c(request.fusing.holder_c)}", f"{k_temp:.3f}"),
        ("so at least", _a(request.current_a / request.rule.share / k_temp)),
        (f"{fuse.rating_a:g} A holds there", _a(fuse.holds_a)),
    ]
    rule = request.rule
    if isinstance(rule, Steady) and rule.least_a:
        why = f"{SELECTIVE_X:g} × its largest branch" if made.circuit.is_feeder else "house"
        lines.append((f"smallest allowed ({why})", _a(rule.least_a)))
    if isinstance(rule, Steady) and rule.inrush_x > 1:
        lines.append(
            (
                f"start: {rule.inrush_x:g} × for {rule.inrush_s * 1e3:g} ms",
                "held" if fuse.meets_inrush else "opens",
            )
        )
    if fuse.below_rating_a is not None:
        words = {
            "load": "does not hold the load",
            "inrush": "opens at the start",
            "minimum": "is under the smallest allowed",
        }
        lines.append((f"{fuse.below_rating_a:g} A", words.get(fuse.below_reason, "")))
    return Derivation(
        key="fuse",
        title="Fuse",
        result=f"{fuse.rating_a:g} A {lower_first(fuse.family.label)}",
        rule="The smallest rating that holds the load where it sits, and the start.",
        lines=tuple(lines),
        source=f"docs/rules/fuse.md; {fuse.family.source}",
    )


def _ampacity(chosen: Rung, request: SizingRequest, fuse: FuseChoice) -> Derivation:
    class_c = request.wire.insulation_c
    table_a = chosen.conductor.ampacity_by_class_a[class_c]
    lines = [(f"{chosen.conductor.label} at 30 °C alone, {class_c} °C class", _a(table_a))]
    seen: set[tuple[float, int]] = set()
    for leg in (*request.path.out, *request.path.back):
        if (leg.ambient_c, leg.loaded_conductors) in seen:
            continue
        seen.add((leg.ambient_c, leg.loaded_conductors))
        k_amb = ambient_ratio(insulation_c=class_c, ambient_c=leg.ambient_c)
        k_bundle = bundle_ratio(leg.loaded_conductors)
        worked = f"× {k_amb:.3f} × {k_bundle:.2f} = {_a(table_a * k_amb * k_bundle)}"
        lines.append((f"in air of {_c(leg.ambient_c)} with {leg.loaded_conductors} loaded", worked))
    lines += [
        ("carries at the worst place", _a(chosen.ampacity_a)),
        ("fuse", _a(fuse.rating_a)),
        ("conductor then at", _c(chosen.conductor_c)),
    ]
    return Derivation(
        key="ampacity",
        title="What the wire carries",
        result=_a(chosen.ampacity_a),
        rule="The wire carries at least its fuse, in the hottest air and fullest loom that it "
        "passes.",
        lines=tuple(lines),
        source="docs/rules/wire.md; ampacity tables",
    )


def _drop(chosen: Rung, request: SizingRequest, made: CircuitDesign) -> Derivation:
    lines: list[tuple[str, str]] = []
    ahead_v = request.upstream.conductor_drop_v if request.upstream else 0.0
    if ahead_v:
        lines.append(("feeders ahead, with what runs together", f"{ahead_v:.3f} V"))
    out_ohm = chosen.wire_ohm - chosen.back_ohm
    lines += [
        (
            f"out: {_m(request.path.out)} m of {chosen.conductor.label}, {out_ohm * 1e3:.2f} mΩ at "
            f"{_c(chosen.conductor_c)}, {request.current_a:.1f} A",
            f"{request.current_a * out_ohm:.3f} V",
        ),
    ]
    if chosen.back_ohm:
        lines.append(
            (
                f"back: {_m(request.path.back)} m, {chosen.back_ohm * 1e3:.2f} mΩ, "
                f"{request.returns_a:.1f} A",
                f"{request.returns_a * chosen.back_ohm:.3f} V",
            )
        )
    for name, branch in made.sizing.branches.items():
        lines.append(
            (
                f"to the end of {name}",
                f"{branch.chosen.conductor_drop_v:.3f} V of {branch.stretch.drop_limit_v:.2f} V",
            )
        )
    limit_v = made.limit_v
    nominal_v = request.supply.nominal_v
    lines.append((f"allowed, {limit_v / nominal_v:.0%} of {nominal_v:g} V", f"{limit_v:.2f} V"))
    deciding = made.sizing.deciding or chosen
    return Derivation(
        key="drop",
        title="Drop in copper",
        result=f"{deciding.conductor_drop_v:.2f} V",
        rule="Copper out and back at its working temperature, feeders included, under the limit "
        "of the kind of load.",
        lines=tuple(lines),
        source="docs/rules/wire.md; house rule on voltage drop",
    )


def _short(chosen: Rung, request: SizingRequest, fuse: FuseChoice) -> Derivation:
    multiple = chosen.far_short_a / fuse.rating_a
    most_a = request.supply.limit_a
    limit = "" if most_a is None else f" (the source gives {most_a:g} A at most)"
    lines = (
        (
            f"{request.supply.open_circuit_v:g} V over battery, feeders, fuse, contacts and wire"
            + limit,
            _a(chosen.far_short_a),
        ),
        ("multiple of the fuse rating", f"{multiple:.1f} ×"),
        ("to open fast it needs", f"{fuse.family.clearing_x:g} ×"),
        ("slowest opening there", f"{chosen.far_short_opens_s:.3f} s"),
        ("the insulation bears it for", f"{chosen.withstand_s:.2f} s"),
    )
    return Derivation(
        key="short",
        title="Short circuit at the far end",
        result=_a(chosen.far_short_a),
        rule="A bolted short at the far end opens the fuse fast, and before the insulation "
        "suffers: I² · t under K² · S².",
        lines=lines,
        source="docs/rules/fuse.md and heat.md; fuse gates",
    )


def _least(made: CircuitDesign, job: Design, catalogue: Catalogue) -> Iterator[Derivation]:
    for least in copper_of(job.plan, catalogue):
        if made.circuit.id not in least.sizes:
            continue
        lines = [(job.circuit(i).circuit.name, size) for i, size in least.sizes.items()]
        lines.append(("copper of it all, feeders and what hangs behind", f"{least.mass_g:.0f} g"))
        if least.equal_g is not None:
            lines.append(("with equal shares of the drop", f"{least.equal_g:.0f} g"))
            lines.append(("saved", f"{least.saved_g:.0f} g"))
        if least.binds:
            name = job.circuit(least.binds).circuit.name
            lines.append((f"nearest to its limit: {name}", f"{least.binds_ratio:.0%} of its drop"))
        yield Derivation(
            key="least",
            title="Shares of the drop",
            result=least.sizes[made.circuit.id],
            rule="Of every size that the feeders may take, the set with which they and all behind "
            f"{job.circuit(least.feeder_id).circuit.name} take the least copper.",
            lines=tuple(lines),
            source="docs/rules/supply.md; every combination was compared",
        )


def _path(made: CircuitDesign) -> Derivation:
    profile = made.profile
    assert profile is not None
    lines = [("at the posts", f"{profile.posts_v:.2f} V")]
    lines += [
        (f"{s.place}: {s.element}", f"−{s.drop_v:.3f} V")
        for s in profile.outward
        if s.drop_v >= 0.0005
    ]
    lines += [
        (f"back, {s.place}: {s.element}", f"−{s.drop_v:.3f} V")
        for s in profile.back
        if s.drop_v >= 0.0005
    ]
    lines.append(("across the accessory", f"{profile.load_v:.2f} V"))
    allowed_v = made.limit_v + PATH_EXTRA_RATIO * made.sizing.request.supply.nominal_v
    lines.append(("total drop, of allowed", f"{profile.path_drop_v:.2f} of {allowed_v:.2f} V"))
    return Derivation(
        key="path",
        title="Voltage along the path",
        result=f"{profile.load_v:.2f} V",
        rule="The whole network solved at its operating point; each element's own share.",
        lines=tuple(lines),
        source="docs/rules/solver.md",
    )


def _m(legs: tuple[Leg, ...]) -> str:
    return f"{sum(leg.length_m for leg in legs):.2f}"


def _a(amps: float) -> str:
    return f"{amps:.1f} A"


def _c(celsius: float) -> str:
    return f"{celsius:.0f} °C"
