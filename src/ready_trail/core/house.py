"""The schools of the trade: both sides of each question, what the house takes, and why.

A question with a ``field`` is a house rule that a person may change; one without is settled here
or held circuit by circuit, and says how.
"""

from __future__ import annotations

from dataclasses import dataclass

from ready_trail.core.job.vehicle import HouseRules


@dataclass(frozen=True, slots=True, kw_only=True)
class Side:
    """One side of a question: the value of the rule, its words, and what speaks for it."""

    value: str | float | int
    label: str
    says: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Matter:
    """A question on which installers differ. ``unit`` marks one answered by a figure."""

    key: str
    group: str
    title: str
    sides: tuple[Side, ...]
    why: str
    field: str = ""
    unit: str = ""
    settled: str = ""

    def value(self, rules: HouseRules) -> object:
        """Return what a set of rules says of it; None where it is no rule."""
        return getattr(rules, self.field) if self.field else None

    @property
    def default(self) -> object:
        """What the house takes unless somebody says otherwise."""
        return HouseRules.model_fields[self.field].default if self.field else None


def _side(value: str | float, label: str, says: str) -> Side:
    return Side(value=value, label=label, says=says)


MATTERS: tuple[Matter, ...] = (
    Matter(
        key="fuse_load",
        group="Fuses",
        title="Load on a fuse",
        field="k_cont",
        sides=(
            _side(0.8, "80 %", "a continuous load takes up to 80 % of the rating, warmth counted"),
            _side(0.75, "75 %", "a little more margin for hot boxes and old holders"),
            _side(0.7, "70 %", "generous: fewer nuisance openings, larger fuses and thicker wire"),
        ),
        why="80 %: blade fuses are rated in a cool room. Short duty may use the whole rating.",
    ),
    Matter(
        key="fuse_wire",
        group="Fuses",
        title="Fuse against wire",
        field="ceiling",
        sides=(
            _side("strict", "never above", "the fuse is never larger than the wire carries"),
            _side(
                "next_size",
                "next rating up",
                "the next standard rating, up to 1.5 ×, where none fits in between; the load "
                "itself stays under what the wire carries",
            ),
        ),
        why="Never above: the fuse is there for the wire.",
    ),
    Matter(
        key="fuse_purpose",
        group="Fuses",
        title="What the fuse is for",
        sides=(
            _side("wire", "the wire", "it stops a short circuit before the insulation suffers"),
            _side("gadget", "the accessory", "it is as small as the accessory allows"),
        ),
        why="It protects the wire: the load sets its floor, the wire its ceiling.",
        settled="Both are kept: the smallest fuse that holds the load, on wire that carries it.",
    ),
    Matter(
        key="distance",
        group="Fuses",
        title="Wire before the first fuse",
        field="unprotected_m",
        unit="m",
        sides=(
            _side(0.18, "0.18 m", "as short as can be built"),
            _side(0.45, "0.45 m", "where that piece is sleeved and secured"),
            _side(1.0, "1 m", "in conduit all the way"),
        ),
        why="0.18 m: nothing protects that piece, so keep it as short as can be built.",
    ),
    Matter(
        key="winch",
        group="Fuses",
        title="Winch cable",
        field="winch_protection",
        sides=(
            _side("both", "battery isolator and fuse", "a fuse opens on a chafed cable by itself"),
            _side(
                "isolator",
                "battery isolator only",
                "no fuse to fail in a pull; cables well sleeved",
            ),
        ),
        why="Both: a battery isolator opens nothing by itself.",
    ),
    Matter(
        key="lamps",
        group="Fuses",
        title="Headlamp protection",
        sides=(
            _side("fuse", "fuse", "a fault stays off until somebody has looked"),
            _side("breaker", "auto-reset breaker", "the light comes back by itself"),
        ),
        why="A fuse; a breaker is allowed on lighting.",
        settled="Hold a breaker on a lighting circuit; elsewhere the review stops one that "
        "starts a load by itself.",
    ),
    Matter(
        key="ampacity",
        group="Wire",
        title="Current a wire carries",
        sides=(
            _side("derated", "derated", "less in hot air and in a full loom"),
            _side("single", "single-wire figures", "the table as it stands, for a wire by itself"),
        ),
        why="Derated: a loom under a bonnet is no wire in free air.",
        settled="Heat and bundle are always counted; less bundling or another way is a choice on "
        "the layout.",
    ),
    Matter(
        key="drop",
        group="Wire",
        title="Voltage drop in copper",
        field="drop",
        sides=(
            _side("by_kind", "3, 5, 10 %", "by kind of load: sensitive, usual, tolerant"),
            _side("three_ten", "3, 10 %", "3 % for sensitive loads, 10 % for the rest"),
            _side("three", "3 %", "one strict figure for everything"),
        ),
        why="By kind: copper goes where it is noticed.",
    ),
    Matter(
        key="insulation",
        group="Wire",
        title="Insulation class",
        field="insulation_c",
        sides=(
            _side(105, "105 °C", "what is on most spools; 125 °C where a zone leaves under 20 K"),
            _side(125, "125 °C", "cross-linked everywhere: thinner in the heat, dearer"),
            _side(90, "90 °C", "an older PVC"),
            _side(80, "80 °C", "enough in the cabin; thicker in any heat"),
        ),
        why="105 °C, and the hotter class by itself where the zone asks for it.",
    ),
    Matter(
        key="system",
        group="Wire",
        title="Wire sizes",
        field="system",
        sides=(
            _side("awg", "AWG", "full-gauge AWG, the true area"),
            _side("metric", "mm²", "metric automotive sizes"),
        ),
        why="Whichever you stock.",
    ),
    Matter(
        key="kind",
        group="Wire",
        title="Kind of wire",
        field="wire_kind",
        sides=(
            _side("copper", "copper, full gauge", "what the tables mean"),
            _side("sae", "sold by SAE gauge", "about 12 % thinner than its number says"),
            _side("cca", "copper-clad aluminium", "light and cheap, carries less, crimps badly"),
        ),
        why="Copper of full gauge.",
    ),
    Matter(
        key="colours",
        group="Wire",
        title="Wire colours",
        field="colours",
        sides=(
            _side("circuit", "by circuit", "a base and a tracer for each circuit"),
            _side("function", "by function", "one colour for one job over the whole vehicle"),
            _side(
                "few",
                "three colours and sleeves",
                "red feeds, violet works coils, black is earth; a coloured sleeve and a label on "
                "both ends tell which circuit",
            ),
            _side(
                "two",
                "two colours and sleeves",
                "red and black only; a coloured sleeve and a label on both ends tell the rest",
            ),
        ),
        why="By circuit: two wires in one loom never look alike. The maker's colour stands beside "
        "ours at each joint either way.",
    ),
    Matter(
        key="earth",
        group="Returns and switching",
        title="Earth",
        field="earth",
        sides=(
            _side("nearest", "nearest clean point", "short, and away from radios; those go home"),
            _side("home", "home run", "a wire to the battery for everything"),
        ),
        why="Nearest for ordinary loads, home for radios and audio, a bus in a composite body. "
        "New circuits follow it; those that stand keep theirs.",
    ),
    Matter(
        key="coil",
        group="Returns and switching",
        title="Side of the coil that is switched",
        field="coil_side",
        sides=(
            _side("positive", "positive", "a chafed switch wire opens a fuse"),
            _side("earth", "earth", "one thin wire to the switch, nothing live in the dash"),
        ),
        why="Positive; earth where headlamps are earth-switched, or held circuit by circuit.",
    ),
    Matter(
        key="relays",
        group="Returns and switching",
        title="Relays or solid-state",
        sides=(
            _side("relays", "relays", "repairable with a spare from the glove box"),
            _side("solid", "solid-state", "clean, limits and programmes by itself"),
        ),
        why="Relays, since they can be mended on the road.",
        settled="Both are supported: take a panel with a power module in Supply for the other.",
    ),
    Matter(
        key="panel",
        group="Returns and switching",
        title="Feed of a switch panel",
        field="panel_feed",
        sides=(
            _side("keyed", "keyed", "nothing on it outlives the key"),
            _side("constant", "always live, with a disconnect", "works without the key"),
        ),
        why="Keyed. New panels follow it; one that stands is woken as it is.",
    ),
    Matter(
        key="control_fuse",
        group="Returns and switching",
        title="Control fuse",
        field="control_fuse_a",
        sides=(
            _side(3, "3 A", "enough for several coils and their lamps"),
            _side(2, "2 A", "thinner control wire may stand behind it"),
            _side(5, "5 A", "one size for everything in the box"),
        ),
        why="3 A.",
    ),
    Matter(
        key="control_wire",
        group="Wire",
        title="Coil and signal wire",
        field="control_mm2",
        unit="mm²",
        sides=(
            _side(0.0, "as thin as its place allows", "least copper; two or three thin sizes"),
            _side(0.75, "0.75 mm² (18 AWG) at least", "one thin size for the whole vehicle"),
            _side(1.0, "1 mm² (16 AWG) at least", "sturdy, and often on the shelf already"),
        ),
        why="As thin as its place allows: a coil takes milliamps, the place asks for strength.",
    ),
    Matter(
        key="least_fuse",
        group="Returns and switching",
        title="Smallest fuse on the shelf",
        field="fuse_min_a",
        unit="A",
        sides=(
            _side(3.0, "3 A", "the usual smallest of an assortment"),
            _side(1.0, "1 A", "small loads get small fuses"),
            _side(5.0, "5 A", "fewer kinds to keep"),
        ),
        why="3 A.",
    ),
    Matter(
        key="parked",
        group="Returns and switching",
        title="Days it must survive parked",
        field="parked_days",
        unit="days",
        sides=(
            _side(7.0, "7 days", "a week away, and it starts"),
            _side(14.0, "14 days", "a fortnight"),
            _side(30.0, "30 days", "a vehicle that stands for long"),
        ),
        why="A week.",
    ),
    Matter(
        key="joints",
        group="Practice, printed on every sheet",
        title="Joints",
        field="joints",
        sides=(
            _side("crimp", "crimp and lined shrink", "the right die, then adhesive-lined shrink"),
            _side("solder", "solder", "only where supported; it breaks beside itself when shaken"),
            _side("crimp_solder", "crimp, then solder", "belt and braces; wicks and stiffens"),
            _side("lever", "lever splices", "quick to open; only inside a box"),
        ),
        why="Crimped and shrunk on anything that vibrates; scissor taps are discouraged.",
    ),
    Matter(
        key="last",
        group="Practice, printed on every sheet",
        title="What is joined last",
        field="last_joint",
        sides=(
            _side("battery", "battery last", "accessory end first, battery last, fuse last of all"),
            _side("fuse", "battery with the fuse out", "the fuse is what makes it live"),
        ),
        why="Accessory end first, battery last, and the fuse last of all.",
    ),
    Matter(
        key="posts",
        group="Practice, printed on every sheet",
        title="Which post comes off first",
        sides=(
            _side("negative_first", "negative first", "off first, on last, every time"),
            _side("as_found", "left on when careful", "keeps radio codes and clocks"),
        ),
        why="Negative first: a slipped spanner then shorts nothing.",
        settled="Every sheet says negative off first, on last: a slipped spanner then shorts "
        "nothing.",
    ),
    Matter(
        key="shelter",
        group="Practice, printed on every sheet",
        title="Where a fuse block sits",
        field="shelter",
        sides=(
            _side("sealed", "sealed or sheltered", "lid up, cables with a drip loop"),
            _side("seat", "under the seat", "dry enough, and near"),
        ),
        why="Sealed or sheltered, lid up, drip loop.",
    ),
    Matter(
        key="memory",
        group="Practice, printed on every sheet",
        title="After a power cut",
        field="switch_memory",
        sides=(
            _side("off", "come up off", "nothing starts by itself"),
            _side("remember", "remember", "as it was left"),
        ),
        why="Off, except for charging and cooling.",
    ),
    Matter(
        key="mounting",
        group="Practice, printed on every sheet",
        title="Mounting",
        field="mounting",
        sides=(
            _side("bolt", "bolt it", "anything above 0.3 kg or above 30 A"),
            _side("tape", "hook-and-loop tape", "moves easily, leaves no holes"),
        ),
        why="Bolt anything above 0.3 kg or above 30 A.",
    ),
    Matter(
        key="lengths",
        group="How it is said",
        title="Lengths",
        field="lengths",
        sides=(
            _side("metres", "metres", "1.60 m; feet and inches are taken too where they are typed"),
            _side("feet", "feet and inches", "5' 3\", to a sixteenth; metres are taken too"),
        ),
        why="Metres. Everything is kept in metres; wires and holes stay in mm or AWG.",
    ),
    Matter(
        key="temperatures",
        group="How it is said",
        title="Temperatures",
        field="temperatures",
        sides=(
            _side("celsius", "°C", "as datasheets and insulation classes state them"),
            _side("fahrenheit", "°F", "insulation classes are said in both"),
        ),
        why="°C.",
    ),
    Matter(
        key="earth_word",
        group="How it is said",
        title="The way back to the body",
        field="earth_word",
        sides=(
            _side("earth", "earth", "earth point, earthed, earth bus"),
            _side("ground", "ground", "ground point, grounded, ground bus"),
        ),
        why="Earth. What people typed stays as they typed it.",
    ),
    Matter(
        key="paper",
        group="How it is said",
        title="Paper",
        field="paper",
        sides=(
            _side("A4", "A4", "210 × 297 mm"),
            _side("letter", "Letter", "8.5 × 11 in"),
        ),
        why="A4. Each document can be had on the other.",
    ),
)


def practices(rules: HouseRules) -> tuple[str, ...]:
    """Return the house's practices in words, for the foot of a printed sheet."""
    found = []
    for matter in MATTERS:
        if matter.field and matter.group.startswith("Practice"):
            side = next(s for s in matter.sides if s.value == matter.value(rules))
            found.append(f"{matter.title}: {side.label} ({side.says}).")
    return tuple(found)


def differences(before: HouseRules, after: HouseRules) -> tuple[tuple[str, str, str], ...]:
    """Return each question on which two sets differ: its title, and both answers in words."""
    return tuple(
        (m.title, words(m, m.value(before)), words(m, m.value(after)))
        for m in MATTERS
        if m.field and m.value(before) != m.value(after)
    )


def words(matter: Matter, value: object) -> str:
    """Return an answer in words: a side's, or the figure with its unit."""
    side = next((s for s in matter.sides if s.value == value), None)
    if side is not None:
        return side.label
    return f"{value:g} {matter.unit}".strip() if isinstance(value, (int, float)) else str(value)
