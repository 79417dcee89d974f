"""Older job documents are lifted to the present one, without losing a choice.

Used by the file reader and by the store, on plain JSON objects before validation.
Version 1 to 2: the block becomes a fuse block with its feeder, a circuit; switch texts become
switches, those with the same place in one panel; the place of control becomes the place of the
switch, or of the vehicle's signal.
"""

from __future__ import annotations

import copy
import re
import unicodedata
from typing import Any

_SWITCH_PLACE = re.compile(r"^S\d+\s+(?P<place>.+)$")
_LAST = 99_999


def lifted(document: dict[str, Any]) -> dict[str, Any]:
    """Return the document in the present version; one that is not old is returned as it is.

    A document that is damaged is lifted as far as it goes; validation then names the fault.
    """
    present = {"points", "switches", "last_number"} & document.keys()
    version = document.get("schema_version", 2 if present else 1)
    if version != 1:
        return document
    new = copy.deepcopy(document)
    new["schema_version"] = 2
    if isinstance(new.setdefault("rules", {}), dict):
        new["rules"].setdefault("insulation_c", 125)  # the default of that version
    accessories = _dicts(new.get("accessories"))
    circuits = _dicts(new.get("circuits"))
    numbers = [n for n in (_number(c.get("number")) for c in circuits) if n]
    numbers += [n for n in (_number_in(x.get("id")) for x in (*accessories, *circuits)) if n]
    count = _Count(max(numbers, default=0))
    controls = {
        str(c.get("id")): (c.get("place") or {}).pop("control", None)
        for c in circuits
        if isinstance(c.get("place"), dict)
    }
    _lift_switches(new, accessories, circuits, controls, count)
    _lift_block(new, circuits, count)
    new["last_number"] = count.last
    return new


def cleaned(value: Any) -> Any:
    """Return a stored document with characters that no drawing can hold turned into spaces.

    Older programs let some in; a name that cannot be printed must not lock its job.
    """
    if isinstance(value, str):
        return "".join(" " if unicodedata.category(c) in ("Cc", "Cs") else c for c in value)
    if isinstance(value, dict):
        return {key: cleaned(inner) for key, inner in value.items()}
    return [cleaned(inner) for inner in value] if isinstance(value, list) else value


class _Count:
    """Gives numbers that nobody had."""

    def __init__(self, last: int) -> None:
        self.last = min(last, _LAST)

    def next(self) -> int:
        """Return the next number."""
        self.last = min(self.last + 1, _LAST)
        return self.last


def _lift_switches(
    new: dict[str, Any],
    accessories: list[dict[str, Any]],
    circuits: list[dict[str, Any]],
    controls: dict[str, Any],
    count: _Count,
) -> None:
    circuit_of = {i: c for c in circuits for i in c.get("accessory_ids") or ()}
    switches: dict[str, dict[str, Any]] = {}
    panels: dict[str, list[str]] = {}
    signals: dict[str, str] = {}
    for accessory in accessories:
        use = accessory.get("use")
        use = use if isinstance(use, dict) else {}
        if "interlock" in str(accessory.get("note", "")).lower():
            accessory["hazard"] = True
        stated = {k: use.pop(k) for k in ("switch_a", "momentary", "guarded") if k in use}
        name = " ".join(str(use.get("switch") or "").split())
        circuit = circuit_of.get(accessory.get("id"), {})
        at = controls.get(str(circuit.get("id")))
        if not name:
            signal = use.get("lights", "any")
            signal = use.get("key", "run") if signal == "any" else signal
            if at is not None and signal != "always":
                signals.setdefault(str(signal), at)
            continue
        use["switch"] = name
        switch = switches.setdefault(name, {"name": name, "number": count.next()})
        if "switch_a" in stated:  # one switch for two circuits: the lower rating counts
            switch["rating_a"] = min(stated["switch_a"], switch.get("rating_a", stated["switch_a"]))
        for flag in ("momentary", "guarded"):
            switch[flag] = bool(stated.get(flag)) or switch.get(flag, False)
        if at is not None:
            switch.setdefault("place", at)
        place = _SWITCH_PLACE.match(name)
        if place:
            panels.setdefault(place["place"].casefold(), []).append(name)
    new["switches"] = list(switches.values())
    new["signals"] = [{"signal": s, "place": p} for s, p in signals.items()]
    new.setdefault("points", [])
    for place_words, names in panels.items():
        own = list(dict.fromkeys(names))
        if len(own) < 2:
            continue
        number = count.next()
        title = place_words[:1].upper() + place_words[1:]
        new["points"].append(
            {
                "id": f"p{number}",
                "number": number,
                "kind": "switch_panel",
                "name": title,
                "zone": "cabin",
                "place": switches[own[0]].get("place"),
                "positions": [{"name": str(at)} for at in range(1, len(own) + 1)],
            }
        )
        for at, name in enumerate(own, start=1):
            switches[name].update(panel=f"p{number}", position=str(at))


def _lift_block(new: dict[str, Any], circuits: list[dict[str, Any]], count: _Count) -> None:
    block = new.pop("block", None)
    layout = new.get("layout")
    spot = layout.pop("block", None) if isinstance(layout, dict) else None
    feeder_id = ""
    if isinstance(block, dict):
        number, feeder_number = count.next(), count.next()
        feeder_id = f"p{number}"
        run = block.get("feeder") or []
        positions = block.get("positions", 8)
        positions = positions if isinstance(positions, int) and 0 < positions <= 60 else 8
        name = block.get("name", "Fuse block")
        run_m = sum(s.get("length_m", 0) for s in run if isinstance(s, dict))
        new["points"].append(
            {
                "id": feeder_id,
                "number": number,
                "kind": "fuse_block",
                "name": name,
                "zone": (run[-1] if run else {}).get("zone", "engine_bay"),
                "positions": [{"name": str(at)} for at in range(1, positions + 1)],
                "together_a": block.get("together_a", 60.0),
                "place": spot,
            }
        )
        main_at_m = block.get("main_at_m", 0.15)
        new.setdefault("circuits", []).append(
            {
                "id": f"c{feeder_number}",
                "number": feeder_number,
                "name": f"Feeder of {name}"[:80],
                "feeds": feeder_id,
                "run": run,
                "fuse_at_m": main_at_m,
                "switching_at_m": max(main_at_m, min(0.5, run_m * 0.9)),
                "held": {
                    "family": block.get("main_family", "breaker_manual"),
                    "fuse_a": block.get("main_a"),
                },
            }
        )
    at = 0
    for circuit in circuits:
        if circuit.pop("source", "battery") != "block":
            continue
        if not feeder_id:
            circuit["start"] = {"point": "block"}  # validation names it
            continue
        at += 1
        circuit["start"] = {"point": feeder_id, "position": str(at)}
        positions = new["points"][-1]["positions"]
        if at > len(positions):  # more circuits than positions: kept, and a finding says so
            circuit["start"].pop("position")


def _dicts(value: Any) -> list[dict[str, Any]]:
    return [x for x in value if isinstance(x, dict)] if isinstance(value, list) else []


def _number(value: Any) -> int | None:
    return value if isinstance(value, int) and 0 < value <= _LAST else None


def _number_in(value: Any) -> int | None:
    digits = str(value)[1:]
    return int(digits) if digits.isascii() and digits.isdigit() and len(digits) < 6 else None
