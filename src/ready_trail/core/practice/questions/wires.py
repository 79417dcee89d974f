"""Which wire of the vehicle is it: what a lamp shows on it, state by state."""

from __future__ import annotations

from functools import lru_cache
from random import Random

from ready_trail.core.job.survey import Probe, ProbeReading
from ready_trail.core.practice.questions.base import Ground, Kind, Question, offered
from ready_trail.core.survey.probe import STATE_WORDS, Verdict, classify

_KEYS = ("off", "accessory", "run", "cranking")
_LIGHTS = ("side", "low", "high")
_ON: dict[str, tuple[str, ...]] = {
    "constant": (*_KEYS, *_LIGHTS),
    "accessory": ("accessory", "run"),
    "ignition": ("run", "cranking"),
    "illumination": _LIGHTS,
    "low_beam": ("low",),
    "high_beam": ("high",),
    "brake": ("brake",),
    "left": ("left",),
    "right": ("right",),
    "reverse": ("reverse",),
}
_KEYED = ("accessory", "ignition")
"""Read with the lights off."""
_SIGNALS = ("brake", "left", "right", "reverse")


def _probe(item: str) -> Probe:
    """A wire of that function, read in every state that tells it from others."""
    states = [*_KEYS, *([] if item in _KEYED else _LIGHTS)]
    states += [item] if item in _SIGNALS else []
    readings = [
        ProbeReading(state=state, value="lit" if state in _ON[item] else "dark")  # type: ignore[arg-type]
        for state in states
    ]
    return Probe.model_validate({"id": "w1", "name": "Wire", "readings": tuple(readings)})


@lru_cache(maxsize=32)
def _verdict(item: str) -> Verdict:
    return classify(_probe(item), nominal_v=12.0, supervised=False)


def _items(ground: Ground) -> list[str]:
    return [item for item in _ON if _verdict(item).standing in ("decided", "undecided")]


def _make(ground: Ground, item: str, chance: Random) -> Question:
    shown = list(_probe(item).readings)
    lit = [STATE_WORDS[r.state] for r in shown if r.value == "lit"]
    dark = [STATE_WORDS[r.state] for r in shown if r.value != "lit"]
    asks = f"A lamp from this wire to earth is lit with {', '.join(lit)}"
    asks += f"; dark with {', '.join(dark)}." if dark else "; dark never."
    verdict = _verdict(item)
    others = [_verdict(other).words for other in _items(ground)]
    return offered(
        "wires", item, f"{asks} Which wire is it?", verdict.words, others, [verdict.why], chance
    )


KIND = Kind(key="wires", words="Which wire is it", items=_items, make=_make)
