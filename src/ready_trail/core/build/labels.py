"""Labels for both ends of every wire, and for devices: a short code, the far end in words."""

from __future__ import annotations

import csv
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

from ready_trail.core.build.cuts import CutList
from ready_trail.core.errors import EditRefusedError
from ready_trail.core.outcome import Design
from ready_trail.core.wording import lower_first

_PAPERS_MM = {"A4": (210.0, 297.0), "letter": (215.9, 279.4)}
_LEAST_MM = (15.0, 8.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Label:
    """One label: its code, what it names, and where the far end is. ``colour`` is the wire's."""

    code: str
    words: str
    far: str
    colour: str = ""
    is_wire: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class LabelGrid:
    """A sheet of labels. All sizes in millimetres; pitches from label to label."""

    key: str
    label: str
    paper: str
    columns: int
    rows: int
    width_mm: float
    height_mm: float
    left_mm: float
    top_mm: float
    pitch_x_mm: float
    pitch_y_mm: float

    @property
    def per_page(self) -> int:
        """Labels on one sheet."""
        return self.columns * self.rows

    @property
    def paper_mm(self) -> tuple[float, float]:
        """Width and height of the paper."""
        return _PAPERS_MM[self.paper]


@lru_cache(maxsize=1)
def label_grids() -> Mapping[str, LabelGrid]:
    """Return the table of label sheets."""
    path = files("ready_trail").joinpath("data", "tables", "label_grids.csv")
    with path.open(encoding="utf-8") as lines:
        return {
            r["key"]: LabelGrid(
                key=r["key"],
                label=r["label"],
                paper=r["paper"],
                columns=int(r["columns"]),
                rows=int(r["rows"]),
                **{
                    n: float(r[n])
                    for n in (
                        "width_mm",
                        "height_mm",
                        "left_mm",
                        "top_mm",
                        "pitch_x_mm",
                        "pitch_y_mm",
                    )
                },
            )
            for r in csv.DictReader(lines)
        }


def require_fits(grid: LabelGrid) -> LabelGrid:
    """Return the grid. Raises EditRefusedError, by field, when it does not fit its paper."""
    paper_w, paper_h = grid.paper_mm
    if grid.width_mm < _LEAST_MM[0]:
        raise EditRefusedError("width_mm", f"a label wants at least {_LEAST_MM[0]:g} mm to be read")
    if grid.height_mm < _LEAST_MM[1]:
        raise EditRefusedError(
            "height_mm", f"a label wants at least {_LEAST_MM[1]:g} mm to be read"
        )
    for field, pitch, size in (
        ("pitch_x_mm", grid.pitch_x_mm, grid.width_mm),
        ("pitch_y_mm", grid.pitch_y_mm, grid.height_mm),
    ):
        if pitch < size - 0.05:
            raise EditRefusedError(field, f"{pitch:g} mm is less than the label's own {size:g} mm")
    right = grid.left_mm + (grid.columns - 1) * grid.pitch_x_mm + grid.width_mm
    foot = grid.top_mm + (grid.rows - 1) * grid.pitch_y_mm + grid.height_mm
    if right > paper_w + 0.05:
        raise EditRefusedError(
            "columns", f"{grid.columns} columns reach {right:.1f} mm; the paper has {paper_w:g} mm"
        )
    if foot > paper_h + 0.05:
        raise EditRefusedError(
            "rows", f"{grid.rows} rows reach {foot:.1f} mm; the paper has {paper_h:g} mm"
        )
    return grid


def labels_of(made: Design, cuts: CutList) -> tuple[Label, ...]:
    """Return two labels for every wire, one at each end, then one for every device."""
    return (*_wire_labels(cuts), *_device_labels(made))


def _wire_labels(cuts: CutList) -> Iterator[Label]:
    for cut in (*cuts.cuts, *cuts.there):
        if cut.label != cut.wire:  # a pigtail is part of its wire
            continue
        colour = cut.mark or cut.colour
        for here, far, site in (
            (cut.from_words, cut.to_words, cut.to_site.name),
            (cut.to_words, cut.from_words, cut.from_site.name),
        ):
            yield Label(
                code=cut.label,
                words=here,
                far=f"to {far}, {lower_first(site)}",
                colour=colour,
                is_wire=True,
            )


def _device_labels(made: Design) -> Iterator[Label]:
    circuits = {c.id: c.name for c in made.routed.circuits}
    for device in made.installation.devices.values():
        if not device.spec.gets_label:
            continue
        yield Label(
            code=device.ref, words=device.name or circuits.get(device.owner, ""), far=device.label
        )
