"""Settings: the network's door and the devices that were let in; and the pairing page."""

from __future__ import annotations

import sqlite3

from fastapi import APIRouter, Request
from starlette.responses import Response

from ready_trail.drawing.qr import qr_path
from ready_trail.store import devices, pairing, shelf
from ready_trail.store.db import transaction
from ready_trail.web.context import Conn, Form, go, page
from ready_trail.web.door import COOKIE, MARK, Network, NetworkError
from ready_trail.web.fields import whole_number

router = APIRouter(include_in_schema=False)

_YEAR_S = 365 * 24 * 3600
_NAME_MOST = 40


@router.get("/settings")
def show_settings(request: Request, conn: Conn) -> Response:
    """Show the network's door, the code, and who is let in."""
    return _settings(request, conn)


def _settings(
    request: Request, conn: sqlite3.Connection, *, words: str = "", status: int = 200
) -> Response:
    network: Network = request.app.state.network
    first = network.addresses[0] if network.addresses else ""
    code, left_s = "", 0.0
    if network.is_open:
        with transaction(conn):
            code, left_s = pairing.code(conn)
    return page(
        request,
        "pages/settings.html",
        status=status,
        network=network,
        code=code,
        words=words,
        qr=qr_path(f"{first}/pair?code={code}") if first else None,
        minutes=round(left_s / 60),
        devices=devices.list_devices(conn),
        wrong=pairing.wrong(conn),
    )


@router.post("/settings/network")
def switch_network(request: Request, conn: Conn, form: Form) -> Response:
    """Open the network's door, or shut it; the choice is kept for the next start."""
    network: Network = request.app.state.network
    wanted = form.get("open") == "true"
    try:
        if wanted:
            network.open(request.app.state.port or request.url.port or 0)
        else:
            network.close()
    except NetworkError as error:
        return _settings(
            request, conn, words=f"{str(error)[:1].upper()}{str(error)[1:]}.", status=422
        )
    with transaction(conn):
        for name in ("network", "network_now"):
            shelf.set_setting(conn, name, "on" if wanted else "off")
        if wanted:
            pairing.clear(conn)
    return go("/settings")


@router.post("/settings/codes")
def hear_again(conn: Conn) -> Response:
    """Forget the wrong codes: everybody may try again, with a new code."""
    with transaction(conn):
        pairing.clear(conn)
    return go("/settings")


@router.post("/settings/devices")
def change_device(conn: Conn, form: Form) -> Response:
    """Let a device look only, or work again, or put it out."""
    device_id = whole_number(form.get("device", "")) or 0
    with transaction(conn):
        if form.get("part") == "out":
            devices.put_out(conn, device_id)
        else:
            devices.set_read_only(conn, device_id, read_only=form.get("part") == "look")
    return go("/settings")


@router.get("/pair")
def show_pairing(request: Request, code: str = "") -> Response:
    """Show where a device types the code; a scanned one is filled in."""
    return _pair(request, code=code if code.isascii() and code.isdigit() else "")


def _pair(request: Request, *, code: str = "", words: str = "", status: int = 200) -> Response:
    plain = request.url.scheme == "http"
    return page(
        request,
        "pages/pair.html",
        status=status,
        code=code[:8],
        words=words,
        plain_http=plain,
        inside=MARK not in request.scope,
    )


@router.post("/pair")
def pair(request: Request, conn: Conn, form: Form) -> Response:
    """Let a device in that types the code."""
    code = form.get("code", "").strip().replace(" ", "")
    name = " ".join(form.get("name", "").split())[:_NAME_MOST] or "Phone"
    if not name.isprintable():
        return _pair(request, words="The name holds what cannot be printed.", status=422)
    peer = request.client.host if request.client is not None else ""
    if pairing.is_shut(conn, peer):
        words = (
            "Too many wrong codes came from this device. Wait ten minutes, or have the laptop's "
            "settings page hear it again; then take the code shown there."
        )
        return _pair(request, words=words, status=429)
    with transaction(conn):
        token = devices.add_device(conn, name) if pairing.take(conn, code, peer) else ""
    if not token:
        words = "That is not the code shown on the laptop's settings page, or it has run out."
        return _pair(request, words=words, status=403)
    answer = go("/")
    answer.set_cookie(
        COOKIE,
        token,
        max_age=_YEAR_S,
        httponly=True,
        samesite="strict",
        path="/",
        secure=request.url.scheme == "https",
    )
    return answer
