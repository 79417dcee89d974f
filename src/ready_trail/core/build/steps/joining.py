"""Second ends: earths, then control, then power, place by place."""

from __future__ import annotations

from collections.abc import Iterator

from ready_trail.core.build.steps.base import Step, Yard, by_site, circuits_of, end_words
from ready_trail.core.installation import Wire

_EARTH = "To clean bright metal; toothed washer; grease after tightening, not before."
_STAGES = {
    "return": "earths",
    "control_return": "earths",
    "control": "control",
    "function": "control",
    "feed": "power",
    "power": "power",
}
_TITLES = {
    "earths": "Bolt the earths",
    "control": "Join the control wires",
    "power": "Join the power wires",
}
_CAUTIONS = {
    "earths": (_EARTH,),
    "control": ("Pins by number, not by place: 85, 86, 30, 87.",),
    "power": ("Fuses stay out; tug every crimp.",),
}


def at_battery(yard: Yard, wire: Wire) -> str:
    """Return "+" or "-" for a wire whose second end goes to the vehicle's battery, or ""."""
    end = yard.second_end(wire)
    device = yard.made.installation.devices.get(end.device)
    is_battery = device is not None and device.spec.is_post
    return end.terminal if is_battery else ""


def steps(yard: Yard) -> Iterator[Step]:
    """Yield one step for each stage and place; wires to the battery come later."""
    for stage, title in _TITLES.items():
        wires = [
            w for w in yard.wires.values() if _STAGES[w.role] == stage and not at_battery(yard, w)
        ]
        groups = by_site(yard, ((w, yard.second_end(w)) for w in wires))
        for key, (site, here) in groups.items():
            ends = [yard.end_at(w, yard.second_end(w)) for w in here]
            earths = {yard.second_end(w).device for w in here} if stage == "earths" else set()
            bolts = [
                k for ref in earths for k in yard.keys_of_ref.get(ref, ()) if k == "earth-bolt"
            ]
            parts = [k for w in here for k in yard.keys_at(w, yard.second_end(w))]
            yield Step(
                id=f"{stage}:{key}",
                stage=stage,
                site=site,
                title=title,
                doing=tuple(end_words(yard, w, yard.second_end(w)) for w in here),
                tools=(
                    "crimper",
                    *sorted({e.die for e in ends if e.count}),
                    *(("torque wrench",) if yard.torques(ends) else ()),
                ),
                torques=yard.torques(ends),
                cautions=_CAUTIONS[stage],
                minutes=3.0 * len(here) + (5.0 if stage == "earths" else 0.0),
                second=tuple(w.label for w in here),
                refs=tuple(sorted(earths)),
                parts=tuple(dict.fromkeys((*parts, *bolts))),
                circuits=circuits_of(here),
            )
