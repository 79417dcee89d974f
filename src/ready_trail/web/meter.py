"""A meter that is really there: any that speaks SCPI, by its VISA address; one reading at a time.

Only loopback and private addresses are spoken to: a page must not make this machine call others.
"""

from __future__ import annotations

import ipaddress
import math
import re
import urllib.parse
from typing import Any

from ready_trail.core.prove.records import Test

PATIENCE_MS = 3000
SIMULATED = "SIMULATED METER"
SETTING = "meter"
"""Name under which the address is kept."""

_ADDRESS = re.compile(
    r"(?:TCPIP\d*::(?P<host>[A-Za-z0-9.:\-]{1,60}?)(?:::\d{1,5})?::(?:SOCKET|INSTR|inst\d+::INSTR)"
    r"|USB\d*::[0-9A-Fa-fx:]{3,40}(?:::[\w\-.]{1,40}){1,2}::INSTR)",
    re.IGNORECASE,
)
_ASKS = {
    "volts": "MEAS:VOLT:DC?",
    "load": "MEAS:VOLT:DC?",
    "ohms": "MEAS:RES?",
    "clamp": "MEAS:CURR:DC?",
}
_OVER = 9e37


class MeterError(Exception):
    """The meter cannot be reached, or answered nothing sensible; in words for the page."""


def require_address(text: str) -> str:
    """Return a VISA address that may be spoken to. Raises MeterError."""
    found = _ADDRESS.fullmatch(text.strip())
    if found is None:
        raise MeterError(
            "A VISA address is expected, like TCPIP::192.168.1.20::5025::SOCKET or "
            "USB0::0x1234::0x5678::SERIAL::INSTR."
        )
    host = found["host"]
    if host is not None and host.lower() != "localhost":
        try:
            near = ipaddress.ip_address(host)
        except ValueError:
            raise MeterError("Give the meter's own number, like 192.168.1.20.") from None
        if not (near.is_private or near.is_loopback) or near.is_unspecified:
            raise MeterError("Only a meter on this machine or its own network is spoken to.")
    return text.strip()


def read(address: str, job: str, circuit_id: str, test: Test) -> float:
    """Return what a meter shows now, in the test's unit; infinity over its range.

    Raises MeterError.
    """
    ask = _ASKS.get(test.instrument, "READ?")
    with _open(address) as meter:
        simulated = SIMULATED in _query(meter, "*IDN?")
        if simulated:
            words = (job, circuit_id, test.key)
            meter.write(f"SIM:TEST {' '.join(urllib.parse.quote(w, safe='') for w in words)}")
            ask = "READ?"
        elif test.instrument not in _ASKS:
            raise MeterError(f"A meter cannot tell this: use {test.instrument}.")
        answer = _query(meter, ask)
    try:
        value = float(answer.split(",")[0])
    except ValueError:
        raise MeterError(f"The meter answered “{answer[:40]}”, which is no reading.") from None
    if math.isnan(value):
        raise MeterError("The meter answered that it has no reading.")
    if abs(value) > _OVER:
        if test.instrument == "ohms":
            return math.inf
        raise MeterError("The meter shows that this is over its range.")
    if test.instrument == "load" and not simulated:
        value *= 1e3  # its volts; the test is told in millivolts
    return value


def mend(address: str, job: str, cause: str) -> bool:
    """Put a hidden fault of a simulated vehicle right; False where it was not there."""
    with _open(address) as meter:
        if SIMULATED not in _query(meter, "*IDN?"):
            raise MeterError("Only a simulated vehicle is mended by a press.")
        words = (urllib.parse.quote(job, safe=""), urllib.parse.quote(cause, safe=""))
        return _query(meter, f"SIM:MEND? {' '.join(words)}") == "1"


def is_simulated(address: str) -> bool:
    """Return whether a stand-in answers there; False where nothing does."""
    try:
        with _open(address) as meter:
            return SIMULATED in _query(meter, "*IDN?")
    except MeterError:
        return False


def _open(address: str) -> Any:
    """An open session of PyVISA, closed by its ``with``. Raises MeterError."""
    import pyvisa

    try:
        manager = pyvisa.ResourceManager("@py")
        return manager.open_resource(
            require_address(address),
            open_timeout=PATIENCE_MS,
            timeout=PATIENCE_MS,
            read_termination="\n",
            write_termination="\n",
        )
    except (pyvisa.Error, OSError, ValueError) as error:
        raise MeterError(f"No meter answers at {address}: {_short(error)}.") from error


def _query(meter: Any, line: str) -> str:
    import pyvisa

    try:
        return str(meter.query(line)).strip()
    except (pyvisa.Error, OSError, UnicodeDecodeError) as error:
        raise MeterError(f"The meter has gone silent: {_short(error)}.") from error


def _short(error: Exception) -> str:
    return str(error).partition("\n")[0][:120].rstrip(".") or type(error).__name__
