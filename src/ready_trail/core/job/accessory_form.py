"""What the form of an accessory asks, in the words of its label and its maker's paper."""

from __future__ import annotations

from ready_trail.core.forms import Asked, Group, Table, Tick

MODELS = (
    ("constant_power", "LED driver, converter"),
    ("filament", "filament lamp"),
    ("motor", "motor"),
    ("resistive", "heater, coil"),
    ("electronics", "radio, camera"),
    ("winch", "winch"),
)
"""Load models in words."""

LABEL = (
    Asked(path="watts", title="Watts"),
    Asked(path="amps", title="or amps"),
    Asked(path="at_v", title="at volts", blank="usual"),
    Asked(path="quantity", title="Units", usual=1),
)
LIGHTS = (
    Asked(
        path="use.lights",
        title="Lights",
        usual="any",
        choices=(
            ("any", "whatever the lights do"),
            ("side", "with the side lights"),
            ("low", "with the low beam"),
            ("high", "with the high beam"),
        ),
    ),
    Asked(
        path="use.signal",
        title="or a lamp signal",
        usual="",
        choices=(
            ("", "none"),
            ("brake", "with the brake"),
            ("left", "with the left turn"),
            ("right", "with the right turn"),
            ("reverse", "with reverse"),
            ("charging", "while charging"),
        ),
    ),
)
BEHAVIOUR = (
    Group(
        is_wide=True,
        asks=(
            Asked(path="model", title="Load", usual="constant_power", choices=MODELS),
            Asked(
                path="duty",
                title="Duty",
                usual="continuous",
                choices=(
                    ("continuous", "3 minutes or more"),
                    ("intermittent", "intermittent"),
                    ("momentary", "moments"),
                ),
            ),
            Asked(
                path="drop_class",
                title="Voltage drop",
                usual="normal",
                choices=(
                    ("critical", "critical: 3 %"),
                    ("normal", "normal: 5 %"),
                    ("tolerant", "tolerant: 10 %"),
                ),
            ),
        ),
    ),
    Group(
        asks=(
            Asked(path="inrush_x", title="Start current", unit="×", blank="usual"),
            Asked(path="inrush_s", title="for", unit="s", blank="usual"),
            Asked(path="fuse_max_a", title="Largest fuse", unit="A"),
            Asked(path="lead_bears_a", title="Its lead bears", unit="A", blank="not stated"),
            Asked(path="min_v", title="Least volts", unit="V"),
            Asked(path="low_v", title="Range from", unit="V"),
            Asked(path="high_v", title="Range to", unit="V"),
            Asked(path="idle_a", title="Without pull", unit="A"),
            Asked(path="standby_ma", title="Draws at rest", unit="mA"),
            Asked(path="tail_m", title="Cable tail", unit="m", usual=0),
            Asked(
                path="tail_end",
                title="Its end",
                usual="bare",
                choices=(("bare", "bare"), ("ring", "ring"), ("sealed", "sealed plug")),
            ),
            Asked(
                path="ends",
                title="At its own terminals",
                usual="",
                choices=(
                    ("", "no terminals: a lead"),
                    ("ferrule", "a ferrule"),
                    ("fork", "a fork"),
                    ("ring", "a ring"),
                    ("blade_6_3", "blade 6.3"),
                    ("blade_9_5", "blade 9.5"),
                ),
            ),
            Asked(
                path="stud",
                title="Stud",
                usual="",
                choices=(("", "none"), ("M5", "M5"), ("M6", "M6"), ("M8", "M8"), ("M10", "M10")),
            ),
            Asked(path="takes_mm2", title="Takes at most", unit="mm²"),
            Asked(
                path="torque_nm", title="Its studs, tightened to", unit="N·m", blank="not stated"
            ),
        ),
    ),
    Group(
        is_wide=True,
        asks=(
            Asked(
                path="own_feed",
                title="The vehicle also feeds it",
                usual="",
                choices=(
                    ("", "no"),
                    ("low_beam", "as its low beam"),
                    ("controller", "by a controller, as a fan"),
                ),
            ),
            Asked(path="lead", title="Its lead's colour", usual=""),
            Asked(path="lead_minus", title="and its earth lead's", usual=""),
        ),
        ticks=(
            Tick(path="kit", title="it comes as a kit: harness, fuse, relay, switch"),
            Tick(path="one_at_a_time", title="a switch chooses one of its outputs"),
            Tick(path="memory_wire", title="has a memory wire (constant feed)"),
        ),
    ),
)
COIL = (
    Asked(path="use.unit", title="A control unit earths its coil", usual="", blank="none"),
    Asked(path="use.unit_most_a", title="Its output takes", unit="A"),
)
"""Of an accessory whose outputs are apart, each output tells it."""
WINCH = Group(
    title="Of a winch",
    is_wide=True,
    asks=(
        Asked(
            path="remote",
            title="Its box brings",
            usual="",
            choices=(
                ("", "no remote"),
                ("wired", "a wired remote"),
                ("wireless", "a radio remote"),
            ),
        ),
        Asked(
            path="field_posts",
            title="Its motor has",
            usual="false",
            choices=(("false", "two posts"), ("true", "F1, F2 and A")),
        ),
    ),
    ticks=(
        Tick(path="own_contactor", title="its contactor comes with it", usual=True),
        Tick(path="remote_keyed", title="its remote's own wire takes a keyed feed"),
    ),
)
POSTS = Table(
    path="posts",
    more="One more post",
    columns=(
        Asked(path="name", title="Post", usual=""),
        Asked(path="lead", title="Its lead", usual=""),
        Asked(path="torque_nm", title="Tightened to", unit="N·m"),
        Asked(
            path="hold",
            title="The nut below",
            usual="true",
            choices=(("true", "is held"), ("false", "needs no hold")),
        ),
    ),
)
MODES = Table(
    path="modes",
    more="One more pattern",
    columns=(
        Asked(path="name", title="Pattern", usual=""),
        Asked(path="wires", title="Wires, with commas", usual=""),
        Asked(path="how", title="How", usual="hold", choices=(("hold", "held"), ("tap", "tapped"))),
        Asked(path="seconds", title="for", unit="s"),
        Asked(path="most_s", title="up to", unit="s"),
    ),
)


def inputs_asked(ends: tuple[tuple[str, str], ...]) -> Table:
    """Return what is asked of function wires; ``ends`` are where one may end in this job."""
    return Table(
        path="inputs",
        more="One more wire",
        columns=(
            Asked(path="name", title="Wire", usual=""),
            Asked(
                path="active",
                title="Acts when",
                usual="high",
                choices=(("high", "live"), ("low", "earthed")),
            ),
            Asked(
                path="must_float",
                title="At rest",
                usual="false",
                choices=(("false", "any"), ("true", "must float")),
            ),
            Asked(path="end", title="Ends at", usual="controller", choices=ends),
            Asked(
                path="rests",
                title="Controller",
                usual="open",
                choices=(
                    ("open", "rests open"),
                    ("ground", "rests at ground"),
                    ("supply", "rests at supply"),
                ),
            ),
            Asked(
                path="diode",
                title="Diode",
                usual="false",
                choices=(("false", "none"), ("true", "fitted")),
            ),
            Asked(path="lead", title="Lead colour", usual=""),
            Asked(path="powers_w", title="Feeds itself", unit="W", blank="only signals"),
        ),
    )
