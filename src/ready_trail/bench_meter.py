"""A stand-in for a bench meter: SCPI over TCP, measuring a vehicle that is simulated.

What every such meter answers stands as it is everywhere: ``*IDN?``, ``MEASure:VOLTage:DC?``,
``MEASure:RESistance?``, ``MEASure:CURRent:DC?``, ``READ?``, ``SYSTem:ERRor?``. Beside it stands
what only a stand-in needs: ``SIMulate:TEST job circuit test`` puts its probes and the vehicle's
state where a test asks, ``SIMulate:MEND job cause`` puts a hidden fault right.
"""

from __future__ import annotations

import asyncio
import math
import urllib.parse
from collections.abc import Callable
from dataclasses import dataclass, field

from ready_trail.core.errors import CoreError
from ready_trail.core.prove.simulated import SimulatedVehicle

MAKER = "READY TRAIL,SIMULATED METER,0,1"
DEFAULT_PORT = 5025
OVER_RANGE = 9.9e37
"""What meters say where there is nothing to show (SCPI 1999, 7.2.1.4)."""

_LINE_MOST = 2000
_MEASURES = {
    "MEAS:VOLT": "volts",
    "MEAS:RES": "ohms",
    "MEAS:CURR": "clamp",
}

Vehicles = Callable[[str], SimulatedVehicle | None]
"""Gives the vehicle of a job by its name; the same one each time."""


@dataclass
class Session:
    """One client: where the probes are, and what went wrong last."""

    vehicles: Vehicles
    job: str = ""
    circuit: str = ""
    test: str = ""
    errors: list[str] = field(default_factory=list)

    def answer(self, line: str) -> str | None:
        """Return the answer to one line, None where a command has none."""
        head, _, rest = line.strip().partition(" ")
        word = _short(head)
        if word == "*IDN?":
            return MAKER
        if word in ("SYST:ERR?", "SYST:ERR:NEXT?"):
            return self.errors.pop(0) if self.errors else '0,"No error"'
        if word == "SIM:TEST":
            parts = [urllib.parse.unquote(p) for p in rest.split()]
            self.job, self.circuit, self.test = (*parts, "", "", "")[:3]
            return None
        if word == "SIM:MEND?":
            job, _, cause = rest.partition(" ")
            vehicle = self.vehicles(urllib.parse.unquote(job))
            mended = vehicle is not None and vehicle.mend(urllib.parse.unquote(cause))
            return "1" if mended else "0"
        if word == "READ?" or any(word.startswith(m) for m in _MEASURES):
            return self._measure(next((k for m, k in _MEASURES.items() if word.startswith(m)), ""))
        if word not in ("", "*RST", "*CLS"):
            self.errors.append('-113,"Undefined header"')
        return None

    def _measure(self, instrument: str) -> str:
        vehicle = self.vehicles(self.job)
        own = self.test.split(":")[1] if ":" in self.test else ""
        if vehicle is None or (instrument and instrument != own):
            self.errors.append('-221,"Settings conflict: the probes are not where this reads"')
            return f"{OVER_RANGE:E}"
        try:
            value = vehicle.read(self.circuit, self.test)
        except CoreError as error:
            self.errors.append(f'-221,"{str(error)[:80]}"')
            return f"{OVER_RANGE:E}"
        return f"{value if math.isfinite(value) else OVER_RANGE:.6E}"


def _short(head: str) -> str:
    """A header by its short forms: MEASure:VOLTage:DC? is MEAS:VOLT?."""
    asks = head.endswith("?")
    parts = [_abbreviated(p) for p in head.upper().rstrip("?").split(":") if p not in ("", "DC")]
    return ":".join(parts) + ("?" if asks else "")


def _abbreviated(word: str) -> str:
    """A mnemonic's short form: four letters, three where the fourth is a vowel."""
    if word.startswith("*") or len(word) <= 4:
        return word
    return word[:3] if word[3] in "AEIOU" else word[:4]


async def serve(vehicles: Vehicles, port: int, ready: Callable[[int], None]) -> None:
    """Answer on loopback until cancelled; ``ready`` is told the port. Raises OSError."""

    async def talk(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        session = Session(vehicles)
        try:
            while line := await reader.readline():
                text = line.decode("ascii", "replace")
                answer = await asyncio.to_thread(session.answer, text[:_LINE_MOST])
                if answer is not None:
                    writer.write(f"{answer}\n".encode("ascii", "replace"))
                    await writer.drain()
        except (ConnectionError, ValueError):
            pass
        finally:
            writer.close()

    server = await asyncio.start_server(talk, "127.0.0.1", port, limit=_LINE_MOST)
    ready(server.sockets[0].getsockname()[1])
    async with server:
        await server.serve_forever()
