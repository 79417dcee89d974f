"""Cells of the accessory list that hold several things: function wires, modes, outputs.

Within a cell ``;`` parts the things, ``:`` the words of one; a backslash before either, or before
``/``, makes it a plain character.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ready_trail.core.job import Accessory, InputWire, Output
from ready_trail.core.job.accessory import Mode, Post
from ready_trail.core.measures import as_figure

_POWERS = "powers "
_WIRE, _SWITCH, _SIGNAL, _LEAD = "at wire ", "at switch ", "signal ", "lead "


def kept(text: str) -> str:
    """Return a name so that its own ``:``, ``;`` and ``/`` part nothing."""
    return re.sub(r"([\\:;/])", r"\\\1", text)


def parts(cell: str) -> list[str]:
    """Return the things of a cell, still with their backslashes."""
    found = re.findall(r"(?:\\(?:.|$)|[^\\;])+", cell)
    return [part.strip() for part in found if part.strip()]


def fields(text: str, sign: str = ":") -> list[str]:
    """Return the words of one thing, without backslashes."""
    found = re.findall(rf"(?:\\(?:.|$)|[^\\{sign}])*(?:{sign}|$)", text)
    words = [word.removesuffix(sign) for word in found]
    words = words[:-1] if len(words) > 1 and not words[-1] and not text.endswith(sign) else words
    return [re.sub(r"\\(.)", r"\1", word).strip() for word in words]


def output_words(accessory: Accessory, output: Output) -> str:
    """Return ``white:18:WH:proved``."""
    value = output.watts if accessory.watts is not None else output.amps
    told = [kept(output.name), f"{value:g}", kept(output.lead), "proved" if output.proved else ""]
    return ":".join(told).rstrip(":")


def output(text: str, measure: str) -> dict[str, Any]:
    """Return an output's document from its words."""
    name, value, lead, proved = [*fields(text), "", "", ""][:4]
    return {
        "name": name,
        measure: as_figure(measure, value),
        "lead": lead,
        "proved": proved == "proved",
    }


def mode_words(mode: Mode) -> str:
    """Return ``Steady:Pattern + Dim:hold:2``."""
    seconds = "" if mode.seconds is None else f"{mode.seconds:g}"
    wires = " + ".join(kept(wire) for wire in mode.wires)
    most = "" if mode.most_s is None else f"{mode.most_s:g}"
    return ":".join([kept(mode.name), wires, mode.how, seconds, most]).rstrip(":")


def mode(text: str) -> dict[str, Any]:
    """Return a mode's document from its words."""
    name, wires, how, seconds, most = [*fields(text), "", "", "", "", ""][:5]
    told = [w.strip() for w in wires.split("+") if w.strip()]
    document: dict[str, Any] = {"name": name, "how": how or "hold", "wires": told}
    document |= {"seconds": as_figure("seconds", seconds)} if seconds else {}
    return {**document, "most_s": as_figure("most_s", most)} if most else document


def post_words(post: Post) -> str:
    """Return ``F1:red:8:hold``."""
    torque = "" if post.torque_nm is None else f"{post.torque_nm:g}"
    told = [kept(post.name), kept(post.lead), torque, "hold" if post.hold else "free"]
    return ":".join(told)


def post(text: str) -> dict[str, Any]:
    """Return a post's document from its words."""
    name, lead, torque, hold = [*fields(text), "", "", "", ""][:4]
    document: dict[str, Any] = {"name": name, "lead": lead, "hold": hold != "free"}
    return {**document, "torque_nm": as_figure("torque_nm", torque)} if torque else document


def input_words(wire: InputWire, names: Mapping[str, str]) -> str:
    """Return ``Pattern:high:float:ground:diode``; ``names`` are those of the list's lines."""
    told = [kept(wire.name), wire.active]
    told += ["float"] if wire.must_float else []
    told += [wire.rests] if wire.rests != "open" else []
    told += ["diode"] if wire.diode else []
    told += [f"{_POWERS}{wire.powers_w:g}"] if wire.powers_w is not None else []
    told += ["backwards"] if wire.backwards else []
    told += ["cap"] if wire.ends == "cap" else []
    told += [_SIGNAL + wire.at] if wire.ends == "signal" else []
    told += [_SWITCH + kept(wire.at)] if wire.ends == "switch" else []
    if wire.ends == "accessory":
        other, _, its = wire.at.partition(" ")
        told += [f"{_WIRE}{kept(kept(names[other]))}/{kept(kept(its))}"]
    told += [_LEAD + kept(wire.lead)] if wire.lead else []
    return ":".join(told)


def input_wire(text: str) -> dict[str, Any]:
    """Return a function wire's document; one that ends at another line's is capped for now."""
    name, *flags = fields(text)

    def told(prefix: str) -> str:
        return next((f.removeprefix(prefix) for f in flags if f.startswith(prefix)), "")

    signal, switch = told(_SIGNAL), told(_SWITCH)
    ends = "signal" if signal else "switch" if switch else "controller"
    return {
        "name": name,
        "active": "low" if "low" in flags else "high",
        "must_float": "float" in flags,
        "rests": next((f for f in flags if f in ("ground", "supply")), "open"),
        "diode": "diode" in flags,
        "backwards": "backwards" in flags,
        "ends": "cap" if "cap" in flags or told(_WIRE) else ends,
        "at": signal or switch,
        "lead": told(_LEAD),
        "powers_w": as_figure("powers_w", told(_POWERS)) if told(_POWERS) else None,
    }


def tie(text: str) -> tuple[str, str, str]:
    """Return a function wire, the line at whose wire it ends and that wire, or empty texts."""
    name, *flags = fields(text)
    at = next((f.removeprefix(_WIRE) for f in flags if f.startswith(_WIRE)), "")
    if not at:
        return name, "", ""
    other, *its = fields(at, "/")
    return name, other, its[0] if its else ""
