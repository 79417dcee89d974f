"""An independent circuit simulator as an oracle: it runs the exported deck."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

from ready_trail.core.netlist import Network
from ready_trail.core.solver import OperatingPoint
from ready_trail.formats.spice import spice_deck


def simulated(deck: str, folder: Path) -> dict[str, float]:
    path = folder / "deck.cir"
    path.write_text(deck)
    run = subprocess.run(
        ["ngspice", "-b", str(path)], capture_output=True, text=True, timeout=180, check=False
    )
    table = r"^\s*([\w.]+)\s+(-?\d[\d.]*(?:e[+-]\d+)?)\s*$"
    found = re.findall(table, run.stdout, re.MULTILINE)
    assert found, run.stdout[-2000:] + run.stderr[-2000:]
    return {name: float(value) for name, value in found}


def worst_v(network: Network, point: OperatingPoint, folder: Path) -> float:
    got = simulated(spice_deck("a test", network, point), folder)
    assert set(point.node_v) <= set(got)
    return max(abs(got[name] - volts) for name, volts in point.node_v.items())
