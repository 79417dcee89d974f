"""What the form of an accessory posts, read as the edit that it means."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any

from ready_trail.core.errors import EditRefusedError
from ready_trail.core.forms import figures_of, mapping, rows, without_blanks
from ready_trail.core.job.accessory import Accessory
from ready_trail.core.job.document import Job
from ready_trail.core.loads import MODEL_INRUSH
from ready_trail.core.states import LIGHT_STATES

MODEL_VOLTS = {
    "constant_power": 13.5,
    "filament": 12.0,
    "motor": 13.0,
    "resistive": 12.0,
    "electronics": 13.8,
    "winch": 12.0,
}
"""The voltage at which makers usually state watts, by load model (typical, 12 V)."""

_FIGURES = figures_of(Accessory)
_LISTS = ("use", "inputs", "outputs", "modes", "posts")
_APART = ("kind", "switch", "site", "of")
_SHARE = re.compile(r"(?<=^outputs\.\d)\.(watts|amps)$")


def new_typed(job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
    """Return the document that adds what was typed: accessory, switch, each output's use."""
    accessory = accessory_typed(job, typed)
    return {
        "accessory": accessory,
        "switch": switch_typed(job, typed),
        "site": str(typed.get("site", ""))[:20],
        "split_outputs": True,
        "output_uses": list(_output_uses(typed, mapping(accessory.get("use")))),
    }


def change_typed(job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
    """Return the document that changes what was typed of an accessory: what its form does not show
    stays.
    """
    try:
        before = job.accessory(str(typed.get("id", ""))).model_dump()
    except KeyError:
        raise EditRefusedError("form", "This accessory is no longer in the job.") from None
    kept = {k: v for k, v in before.items() if k not in (*_FIGURES, *_LISTS) or k == "use"}
    accessory = {**kept, **accessory_typed(job, typed)}
    return {"accessory": accessory, "switch": switch_typed(job, typed)}


def accessory_typed(job: Job, typed: Mapping[str, Any]) -> dict[str, Any]:
    """Return the accessory as typed; blanks take the model's usual volts and start current."""
    stated = {k: v for k, v in typed.items() if k not in _APART}
    document = without_blanks(stated, *_FIGURES)
    document["outputs"] = _outputs(document)
    if document["outputs"] and not {"watts", "amps"} & set(document):
        document["watts"] = _sum_of(document["outputs"])
    model = str(document.get("model", "constant_power"))
    if "at_v" not in document and model in MODEL_VOLTS:
        document["at_v"] = MODEL_VOLTS[model] * job.vehicle.nominal_v / 12
    inrush_x, inrush_s = MODEL_INRUSH.get(model, (1.0, 0.0))
    document.setdefault("inrush_x", inrush_x)
    document.setdefault("inrush_s", inrush_s)
    document["inputs"] = [_input(w) for w in rows(typed.get("inputs")) if w.get("name")]
    document["posts"] = [p for p in rows(typed.get("posts")) if p.get("name")]
    document["modes"] = [_mode(m) for m in rows(typed.get("modes")) if m.get("name")]
    if "use" in typed:  # an accessory whose outputs are apart states none
        use = mapping(typed["use"])
        if not use.get("channel"):
            use.pop("channel", None)
        document["use"] = use
    return document


def switch_typed(job: Job, typed: Mapping[str, Any]) -> dict[str, Any] | None:
    """Return the switch that the use names, as typed beside it; the rest of a known one stays.

    The fields are those of the switch that the form was opened with (``of``): of another one
    that is there already they say nothing.
    """
    name = str(mapping(typed.get("use")).get("switch") or "")
    stated = without_blanks(mapping(typed.get("switch")), "rating_a")
    shown = str(stated.pop("of", ""))
    known = job.switch(name) if name else None
    if not name or (known is not None and name != shown):
        return None
    kept = known.model_dump() if known is not None else {}
    return {**kept, **stated, "name": name}


def beside(path: str, words: str) -> tuple[str, str]:
    """Return the field of the form beside which a refusal stands, and its words."""
    path = path.removeprefix("accessory.")
    name, colon, rest = words.partition(": ")
    if path in ("form", "accessory") and colon and name in _LISTS:
        return name, rest
    if path in ("form", "accessory") and "either watts or amps" in words:
        return "watts", words
    named = {"rating_a": "switch.rating_a", "switches": "use.switch", "surge_a": "switch.surge_a"}
    return named.get(path, _SHARE.sub(".value", path)), words


def _outputs(document: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Each output's share, in the label's measure: watts, unless only amps are typed."""
    measure = "amps" if "amps" in document and "watts" not in document else "watts"
    return [
        {
            "name": row.get("name", ""),
            measure: row.get("value") or None,
            "lead": row.get("lead", ""),
            "proved": row.get("proved", False),
        }
        for row in rows(document.get("outputs"))
        if row.get("name") or row.get("value")
    ]


def _output_uses(
    typed: Mapping[str, Any], usual: Mapping[str, Any]
) -> Iterator[dict[str, Any] | None]:
    """When each output of a new accessory is on, where its row says so."""
    key = usual.get("key", "run")
    for row in rows(typed.get("outputs")):
        if row.get("name") or row.get("value"):
            on_with = str(row.get("on_with") or "")
            follows = "lights" if on_with in LIGHT_STATES else "signal"
            yield {"key": key, follows: on_with} if on_with else None


def _sum_of(outputs: list[dict[str, Any]]) -> float | str:
    """The whole of the outputs, where the label's total is left blank."""
    try:
        return round(sum(float(o["watts"]) for o in outputs), 4)
    except (TypeError, ValueError):
        return ""


def _input(row: dict[str, Any]) -> dict[str, Any]:
    """One function wire; ``end`` tells where it goes, with the name of that."""
    ends, _, at = str(row.pop("end", "controller")).partition(":")
    return {**row, "ends": ends, "at": at}


def _mode(row: dict[str, Any]) -> dict[str, Any]:
    """One line of the mode table; its wires as a list in words."""
    wires = [part.strip() for part in str(row.get("wires", "")).split(",") if part.strip()]
    return {**row, "wires": wires}
