"""Naming a wire from its readings: a pure function with every pattern of the probe table.

Key states are read with the lights off, light states with the key in any position. ``live``
is lit, or at least three quarters of the supply; ``dead`` is dark, or at most a tenth.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Literal, cast

from ready_trail.core.job.survey import Level, Probe

SIGNAL_NAMES = {
    "brake": "Brake-light wire",
    "left": "Left turn wire",
    "right": "Right turn wire",
    "reverse": "Reverse-light wire",
    "charging": "Charge-lamp wire",
}
Level3 = Literal["live", "dead", "half"]
Standing = Literal["decided", "undecided", "incomplete", "contradiction", "leave"]
Function = Literal[
    "constant",
    "accessory",
    "ignition",
    "illumination",
    "low_beam",
    "high_beam",
    "headlamp_common",
    "earth",
    "brake",
    "left",
    "right",
    "reverse",
    "charging",
    "",
]

LIVE_RATIO, DEAD_RATIO = 0.75, 0.10
_CRANKING_LIVE_RATIO = 0.5
"""A battery that cranks sags, and what hangs on it sags along (trade)."""
EARTH_LEFT_MOST_V = 0.05
_OVER_RATIO = 1.35  # above the charging voltage: a slip, or another circuit
_UNPLUG = "Unplug all headlamps and read again with the lights as they were."

STATE_WORDS = {
    "off": "key off",
    "accessory": "key at accessory",
    "run": "ignition on",
    "side": "side lights on",
    "low": "low beam on",
    "high": "high beam on",
    "cranking": "cranking",
    "coasting": "motor coasting",
    "brake": "the brake pedal down",
    "left": "the left turn lamp on",
    "right": "the right turn lamp on",
    "reverse": "reverse engaged",
    "charging": "the engine charging",
    "fuse_out": "its fuse out",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What a wire is, how sure that is, and what to test next."""

    standing: Standing
    function: Function = ""
    switched_on_earth: bool = False
    words: str
    why: str
    next_test: str = ""
    cautions: tuple[str, ...] = ()
    fuse: str = ""

    @property
    def usable(self) -> bool:
        """Whether it may become a feed or trigger of the job."""
        return self.standing == "decided" and self.function not in ("", "headlamp_common")


def classify(probe: Probe, *, nominal_v: float, supervised: bool) -> Verdict:
    """Return the verdict for a wire's readings.

    Raises nothing: incomplete and contradictory readings are verdicts too.
    """
    cautions = _cautions(probe, supervised=supervised)
    volts = [r.value for r in probe.readings if isinstance(r.value, float)]
    volts += [probe.unplugged] if isinstance(probe.unplugged, float) else []
    if any(v > _OVER_RATIO * nominal_v or v < -1.0 for v in volts):
        return _said(
            "contradiction",
            "These readings cannot all be right",
            f"No wire of a {nominal_v:g} V vehicle reads that.",
            "Check the meter's range and its leads.",
            cautions,
        )
    seen: dict[str, Level3] = {
        r.state: level_of(r.value, nominal_v, cranking=r.state == "cranking")
        for r in probe.readings
    }
    unplugged = None if probe.unplugged is None else level_of(probe.unplugged, nominal_v)
    for rule in _RULES:
        verdict = rule(seen, unplugged, probe.lamp_left_v)
        if verdict is not None:
            return _with_fuse(_with(verdict, cautions), probe, seen)
    return _with(_incomplete(seen), cautions)


def _with_fuse(verdict: Verdict, probe: Probe, seen: Mapping[str, Level3]) -> Verdict:
    """A wire that dies when one fuse is pulled is fed by it; one that lives is not."""
    pulled = seen.get("fuse_out")
    if pulled is None or not verdict.usable:
        return verdict
    name = probe.fuse or "the fuse that was pulled"
    if pulled == "dead":
        return replace(
            verdict, why=f"{verdict.why} It dies without {name}: that feeds it.", fuse=name
        )
    return replace(verdict, why=f"{verdict.why} It stays live without {name}: another feeds it.")


def level_of(value: Level | float, nominal_v: float, *, cranking: bool = False) -> Level3:
    """Return live, dead or half for a lamp's look or a meter's volts.

    While the engine is cranked the whole supply sags: a dim lamp, or half the volts, is live.
    """
    if isinstance(value, str):
        words: dict[Level, Level3] = {"lit": "live", "dark": "dead", "dim": "half"}
        return "live" if cranking and value == "dim" else words[value]
    if value >= (_CRANKING_LIVE_RATIO if cranking else LIVE_RATIO) * nominal_v:
        return "live"
    return "dead" if value <= DEAD_RATIO * nominal_v else "half"


Seen = Mapping[str, Level3]
Rule = Callable[[Seen, Level3 | None, float | None], Verdict | None]


def _half(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    where = [STATE_WORDS[s] for s, level in seen.items() if level == "half" and s != "coasting"]
    if not where and unplugged != "half":
        return None
    return _said(
        "leave",
        "Do not tap this wire",
        f"Around half the supply at {', '.join(where) or 'lamps unplugged'}: it is shared "
        "through a lamp, a data line or a pulsed output.",
        "Look for another wire.",
    )


def _charge_lamp(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    """Low through its lamp until the alternator turns, then live: no data line."""
    before = seen.get("run")
    if (
        seen.get("charging") != "live"
        or seen.get("off") == "live"
        or before not in ("half", "dead")
    ):
        return None
    if any(
        level == "live" for s, level in seen.items() if s in ("accessory", "side", "low", "high")
    ):
        return None
    return _said(
        "decided",
        SIGNAL_NAMES["charging"],
        "Pulled low through its lamp with the key on, live once the alternator charges.",
        function="charging",
    )


def _starter(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    """Live while cranking alone: what works the starter."""
    others = [level for s, level in seen.items() if s not in ("cranking", "coasting")]
    if seen.get("cranking") != "live" or not _is(seen, off="dead", run="dead"):
        return None
    if any(level != "dead" for level in others):
        return None
    return _said(
        "leave",
        "Starter wire: leave it alone",
        "It is live while the engine is cranked, and at no other time: it works the "
        "starter. What is joined to it may crank the engine, or be cranked with it.",
        "Look for another wire.",
    )


def _running_light(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    """A running light lives with the ignition, and goes out as the headlamps come on."""
    if not _is(seen, off="dead", run="live", low="dead") or seen.get("high") == "live":
        return None
    return _said(
        "leave",
        "Running-light wire: not a feed",
        "It is live with the ignition and goes out with the low beam. A lamp's own wire, "
        "often dimmed and watched by a control unit.",
        "Look for another wire.",
    )


def _coasting(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    """Lit while a motor coasts, whatever else was read: the motor generates that."""
    if seen.get("coasting") != "live":
        return None
    return _said(
        "leave",
        "Held back: a coasting motor feeds it",
        "It is live while a motor coasts: the motor generates that, and every other "
        "reading may be the motor's too.",
        "Stop the motor, take the coasting reading back, and read it again.",
    )


def _clash(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    """Readings that no wire gives."""
    reasons = [
        (_is(seen, off="live", run="dead"), "live with the key off, yet dead with the ignition"),
        (_is(seen, off="live", accessory="dead"), "live with the key off, dead at accessory"),
        (_is(seen, accessory="live", run="dead"), "live at accessory, yet dead with the ignition"),
        (_is(seen, run="live", low="dead"), "live with the ignition, yet dead with the low beam"),
        (
            _is(seen, run="live", side="dead"),
            "live with the ignition, yet dead with the side lights",
        ),
        (_is(seen, off="live", side="dead"), "live with all off, yet dead with the side lights"),
        (
            _is(seen, side="live", low="dead", high="dead"),
            "live with the side lights, yet dead with both beams",
        ),
        (
            unplugged == "live" and _is(seen, low="dead", high="dead") and _is(seen, off="dead"),
            "dead in every light state, yet live with the lamps unplugged",
        ),
    ]
    for clashes, words in reasons:
        if clashes:
            return _said(
                "contradiction",
                "These readings cannot all be right",
                f"It reads {words}.",
                "Read these two states again.",
            )
    return None


def _earth_switched_high(
    seen: Seen, unplugged: Level3 | None, left_v: float | None
) -> Verdict | None:
    """Live with the lights off and with low beam, dead on high: the common is always live."""
    lights_off = seen.get("off") == "live" or seen.get("run") == "live"
    if lights_off and _is(seen, low="live", high="dead"):
        return _said(
            "decided",
            "High-beam wire, switched on the earth side",
            "Live with the lights off and on low beam, it goes to earth on high.",
            function="high_beam",
            earth=True,
        )
    return None


def _beam(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    """Live on one beam only: undecided until the lamps are unplugged."""
    dark_before = seen.get("off") == "dead" or seen.get("run") == "dead"
    for low, high, name in (("live", "dead", "low"), ("dead", "live", "high")):
        if not (dark_before and _is(seen, low=low, high=high)):
            continue
        other: Function = "high_beam" if name == "low" else "low_beam"
        own: Function = "low_beam" if name == "low" else "high_beam"
        if seen.get("side") == "live":
            continue
        if unplugged == "live":
            return _said(
                "decided",
                f"{name.capitalize()}-beam wire, positive-switched",
                f"Live on {name} beam, also without lamps: the switch feeds it.",
                function=own,
            )
        words = "High" if other == "high_beam" else "Low"
        if unplugged == "dead":
            return _said(
                "decided",
                f"{words}-beam wire, switched on the earth side",
                "Live only through the lamps: dead with the lamps unplugged.",
                function=other,
                earth=True,
            )
        return _said(
            "undecided",
            f"{name.capitalize()}-beam wire, or the {words.lower()}-beam wire of an "
            "earth-switched vehicle",
            "A lamp common that wakes with the lights gives the same readings.",
            _UNPLUG,
        )
    return None


def _both_beams(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    dark_before = seen.get("off") == "dead" or seen.get("run") == "dead"
    if not (dark_before and _is(seen, low="live", high="live", side="dead")):
        return None
    if unplugged == "dead":
        return _said(
            "decided",
            "Earth-switched vehicle; not a trigger for one beam",
            "Live on both beams, only through the lamps.",
            function="headlamp_common",
            earth=True,
        )
    if unplugged == "live":
        return _said(
            "decided",
            "Headlamp common, or a low beam that stays on",
            "Live on both beams, also without lamps.",
            "A wire that goes dead on high makes this the common.",
            function="headlamp_common",
        )
    return _said(
        "undecided",
        "Headlamp common, or a low beam that stays on",
        "It is live on low and on high.",
        _UNPLUG,
    )


def _signal(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    """Live with one of the vehicle's own signals, and dead without."""
    live = [s for s in SIGNAL_NAMES if seen.get(s) == "live"]
    if not live or seen.get("off") != "dead" or seen.get("run") != "dead":
        return None
    names = [SIGNAL_NAMES[s] for s in live]
    if len(live) > 1:
        return _said(
            "undecided",
            " and ".join(names),
            "It is live with more than one signal: a lamp that serves both, or a wire "
            "behind the controller.",
            "Read it where each signal comes alone.",
        )
    return _said(
        "decided",
        names[0],
        f"Live only with {STATE_WORDS[live[0]]}.",
        function=cast(Function, live[0]),
    )


def _illumination(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    dark_before = seen.get("off") == "dead" and seen.get("run", "dead") == "dead"
    if (
        dark_before
        and seen.get("side") == "live"
        and "dead" not in (seen.get("low"), seen.get("high"))
    ):
        return _said(
            "decided",
            "Illumination feed",
            "Live only with the side lights on.",
            function="illumination",
        )
    return None


def _keyed(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    """Constant, accessory and ignition feeds, from the key states."""
    off, accessory, run = (seen.get(s) for s in ("off", "accessory", "run"))
    if (off, accessory, run) == ("dead", "live", "live"):
        why = "Live from accessory on."
        if seen.get("cranking") == "dead":
            why += " Dead while cranking is normal."
        return _said("decided", "Accessory feed", why, function="accessory")
    if (off, accessory, run) == ("dead", "dead", "live"):
        why = "Live from run on."
        if seen.get("cranking") == "dead":
            why += (
                " It dies while cranking: whatever hangs on it starts anew with the engine, so "
                "nothing that has to run through a start."
            )
        return _said("decided", "Ignition feed", why, function="ignition")
    if (off, run) == ("live", "live"):
        if seen.get("high") == "live":
            return _said("decided", "Constant feed", "Live in all states.", function="constant")
        return _said(
            "incomplete",
            "Constant feed, or a lamp wire",
            "Live with the key off and with the ignition.",
            "Read it with the low and with the high beam.",
        )
    return None


def _earth(seen: Seen, unplugged: Level3 | None, left_v: float | None) -> Verdict | None:
    wanted = ("off", "run", "low", "high")
    if any(seen.get(s) != "dead" for s in wanted) or "live" in seen.values():
        return None
    if left_v is None:
        return _said(
            "undecided",
            "Earth, or a dead wire",
            "0 V in every state.",
            "Put a 21 W lamp from battery positive to it: at most 0.05 V may be left to "
            "the battery negative. An ohmmeter takes a cold filament for an earth.",
        )
    if left_v <= EARTH_LEFT_MOST_V:
        return _said(
            "decided", "Earth", f"The lamp burns fully with {left_v:.2f} V left.", function="earth"
        )
    return _said(
        "leave",
        "Not a good earth",
        f"{left_v:.2f} V are left under the lamp, more than {EARTH_LEFT_MOST_V:g} V.",
        "Look for a cleaner point.",
    )


_RULES: tuple[Rule, ...] = (
    _charge_lamp,
    _half,
    _coasting,
    _starter,
    _running_light,
    _earth_switched_high,
    _clash,
    _signal,
    _illumination,
    _both_beams,
    _beam,
    _keyed,
    _earth,
)


def _incomplete(seen: Seen) -> Verdict:
    order = ["off", "run", "accessory", "low", "high", "side"]
    missing = [state for state in order if state not in seen]
    if not missing:
        return _said(
            "contradiction",
            "These readings fit no wire",
            "No pattern of the probe table reads like this.",
            "Read it again, one state at a time.",
        )
    return _said(
        "incomplete",
        "Not enough readings yet",
        f"{len(seen)} states are read.",
        f"Read it with {STATE_WORDS[missing[0]]}.",
    )


def _is(seen: Seen, **wanted: str) -> bool:
    return all(seen.get(state) == level for state, level in wanted.items())


def _said(
    standing: Standing,
    words: str,
    why: str,
    next_test: str = "",
    cautions: tuple[str, ...] = (),
    *,
    function: Function = "",
    earth: bool = False,
) -> Verdict:
    return Verdict(
        standing=standing,
        function=function,
        switched_on_earth=earth,
        words=words,
        why=why,
        next_test=next_test,
        cautions=cautions,
    )


def _with(verdict: Verdict, cautions: tuple[str, ...]) -> Verdict:
    return Verdict(
        standing=verdict.standing,
        function=verdict.function,
        switched_on_earth=verdict.switched_on_earth,
        words=verdict.words,
        why=verdict.why,
        next_test=verdict.next_test,
        cautions=cautions,
    )


def _cautions(probe: Probe, *, supervised: bool) -> tuple[str, ...]:
    texts = []
    told = f"{probe.name} {probe.place} {probe.cavity} {probe.note}".lower()
    cover = any(word in told for word in ("sleeve", "connector", "loom", "plug"))
    if "yellow" in told and cover:
        texts.append("A yellow sleeve or connector marks air-bag wires: leave it alone.")
    if supervised:
        texts.append("Supervised vehicle: use a meter, never a test lamp.")
    return tuple(texts)
