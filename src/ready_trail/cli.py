"""The command line: serve, demo, size, design, netlist, solve, backup, restore."""

from __future__ import annotations

import argparse
import errno
import json
import os
import signal
import socket
import sys
from pathlib import Path
from threading import Event, Thread
from typing import Any, Protocol

from pydantic import ValidationError

from ready_trail import __version__
from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.design import Design, design, job_network
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Job
from ready_trail.core.network import Network
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.states import KEY_STATES, LIGHT_STATES, SIGNALS, VehicleState
from ready_trail.core.working import channel_contact
from ready_trail.formats.demo import demo_jobs
from ready_trail.formats.design_json import design_to_json, point_to_json
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import read_job
from ready_trail.formats.size_json import SizeInputs, size_inputs
from ready_trail.formats.spice import spice_deck
from ready_trail.store import db
from ready_trail.store.backup import backup, restore
from ready_trail.store.errors import StoreError
from ready_trail.store.opening import copy_each_day
from ready_trail.store.shelf import get_setting

DEFAULT_PORT = 8310
EXIT_OK, EXIT_FAILED, EXIT_USAGE = 0, 1, 2


class RefusedError(Exception):
    """A command cannot do what was asked; the message is for the person."""


class _Commands(Protocol):
    """What argparse gives back for sub-commands, as far as this module needs it."""

    def add_parser(self, name: str, **kwargs: Any) -> argparse.ArgumentParser:
        """Add one command."""


def main(argv: list[str] | None = None) -> int:
    """Run one command and return its exit code: 0 done, 1 failed, 2 wrong usage."""
    arguments = _parser().parse_args(argv)
    try:
        arguments.run(arguments)
    except (RefusedError, FileRefusedError, StoreError, CoreError) as error:
        print(f"ready-trail: {error}", file=sys.stderr)
        return EXIT_FAILED
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    return EXIT_OK


def default_database() -> Path:
    """Return where the database lives unless told otherwise."""
    home = Path(os.environ.get("XDG_DATA_HOME", Path.home() / ".local" / "share"))
    return home / "ready-trail" / "ready-trail.db"


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="ready-trail",
        description="Design fused relay circuits for 12, 24 and 48 V vehicles.",
    )
    parser.add_argument("--version", action="version", version=f"ready-trail {__version__}")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    _add_servers(commands)
    _add_files(commands)
    for name, run, words in (
        ("backup", _backup, "copy the database into FILE, also while the server runs"),
        ("restore", _restore, "put the backup FILE in place of the database"),
    ):
        command = commands.add_parser(name, help=words, description=words)
        command.add_argument("file", type=Path, metavar="FILE")
        command.add_argument("--db", type=Path, default=default_database())
        command.set_defaults(run=run)
    return parser


def _add_servers(commands: _Commands) -> None:
    for name, run, words in (
        ("serve", _serve, "start the application"),
        ("demo", _demo, "start the application with the demo jobs in it"),
    ):
        command = commands.add_parser(name, help=words, description=words)
        command.add_argument("--db", type=Path, default=default_database())
        command.add_argument("--host", default="127.0.0.1", help="address to bind, loopback only")
        command.add_argument("--port", type=int, default=DEFAULT_PORT)
        command.add_argument(
            "--network",
            action="store_true",
            help="also listen on the workshop's network, for paired devices",
        )
        command.add_argument("--cert", type=Path, help="certificate for the network (with --key)")
        command.add_argument("--key", type=Path, help="the certificate's private key")
        command.set_defaults(run=run)


def _add_files(commands: _Commands) -> None:
    command = commands.add_parser("size", help="size the circuits in a JSON file")
    command.add_argument("file", type=Path, metavar="FILE", help="one object, or a list")
    command.set_defaults(run=_size)
    command = commands.add_parser("design", help="print a job's design as JSON")
    command.add_argument("file", type=Path, metavar="JOB.json")
    command.set_defaults(run=_design)
    for name, run, words in (
        ("netlist", _netlist, "print a job in one state as a SPICE deck"),
        ("solve", _solve, "solve a job in one state and print it as JSON"),
    ):
        command = commands.add_parser(name, help=words, description=words)
        command.add_argument("file", type=Path, metavar="JOB.json")
        command.add_argument("--key", choices=KEY_STATES, default="off")
        command.add_argument("--lights", choices=LIGHT_STATES, default="off")
        command.add_argument("--signal", action="append", choices=SIGNALS, default=[],
                             help="a lamp signal of the vehicle that is on")  # fmt: skip
        command.add_argument(
            "--on",
            action="append",
            default=[],
            metavar="NAME",
            help="a circuit whose switch is on; may be given again",
        )
        command.add_argument("--all-on", action="store_true", help="every switch on")
        command.set_defaults(run=run)  # fmt: skip


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise RefusedError(f"cannot read {path}: {error.strerror}") from error


def _print_json(answer: object) -> None:
    print(json.dumps(answer, indent=2, ensure_ascii=False))


def _size(arguments: argparse.Namespace) -> None:
    data = _read(arguments.file)
    try:
        document = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise RefusedError(f"{arguments.file} is not JSON: {error}") from error
    items = document if isinstance(document, list) else [document]
    catalogue = load_catalogue()
    answers = []
    for at, item in enumerate(items):
        try:
            answers.append(size_inputs(SizeInputs.model_validate(item), catalogue))
        except ValidationError as error:
            first = error.errors()[0]
            where = ".".join(str(part) for part in (at, *first["loc"]))
            raise RefusedError(f"{where}: {first['msg']} (got {first['input']!r})") from error
        except CoreError as error:
            raise RefusedError(f"{at}: {error}") from error
    _print_json(answers)


def _design(arguments: argparse.Namespace) -> None:
    _print_json(design_to_json(_read_design(arguments.file)))


def _netlist(arguments: argparse.Namespace) -> None:
    made, network, point = _solved(arguments)
    sys.stdout.write(spice_deck(made.job.name, network, point))


def _solve(arguments: argparse.Namespace) -> None:
    _print_json(point_to_json(_solved(arguments)[2]))


def _read_design(path: Path) -> Design:
    catalogue = load_catalogue()
    return design(read_job(_read(path), catalogue), catalogue)


def _solved(arguments: argparse.Namespace) -> tuple[Design, Network, OperatingPoint]:
    made = _read_design(arguments.file)
    network = job_network(made)
    on = network.switches if arguments.all_on else _switches(made.job, arguments.on)
    state = VehicleState(key=arguments.key, lights=arguments.lights, on=on,
                         signals=frozenset(arguments.signal))  # fmt: skip
    return made, network, solve(network, state)


def _switches(job: Job, names: list[str]) -> frozenset[str]:
    """Turn names of circuits, accessories or switches into the contacts that are on."""
    found: dict[str, str] = {}
    for circuit in job.circuits:
        use = job.use_of(circuit)
        start = next((p for p in job.points if p.id == circuit.start.point), None)
        contact = use.contact
        if not contact and start is not None and start.switches_its_positions:
            contact = channel_contact(start, circuit.start.position)
        if not contact:
            continue
        for name in (circuit.id, circuit.name, contact, use.switch):
            found.setdefault(name.casefold(), contact)
        for accessory_id in circuit.accessory_ids:
            found.setdefault(accessory_id.casefold(), contact)
            found.setdefault(job.accessory(accessory_id).name.casefold(), contact)
    for switch in job.switches:
        found.setdefault(f"s{switch.number}", switch.name)
    unswitched = {c.name.casefold() for c in job.circuits} | {c.id for c in job.circuits}
    unknown = [n for n in names if n.casefold() not in found and n.casefold() not in unswitched]
    if unknown:
        known = ", ".join(c.name for c in job.circuits)
        raise RefusedError(f"no circuit or switch {unknown[0]!r}; this job has: {known}")
    return frozenset(found[n.casefold()] for n in names if n.casefold() in found)


def _backup(arguments: argparse.Namespace) -> None:
    backup(arguments.db, arguments.file)
    print(f"Backup written to {arguments.file}")


def _restore(arguments: argparse.Namespace) -> None:
    restore(arguments.file, arguments.db)
    print(f"Restored {arguments.db} from {arguments.file}")


def _demo(arguments: argparse.Namespace) -> None:
    from ready_trail.store import db, jobs

    db.initialise(arguments.db)
    conn = db.connect(arguments.db)
    try:
        with db.transaction(conn):
            present = {row.name for row in jobs.list_jobs(conn)}
            present |= {row.name for row in jobs.list_jobs(conn, archived=True)}
            for job in reversed(demo_jobs(load_catalogue())):
                if job.name not in present:
                    jobs.create_job(conn, job, kind="demo", title="Demo job")
    finally:
        conn.close()
    _serve(arguments)


def _serve(arguments: argparse.Namespace) -> None:
    import uvicorn

    from ready_trail.web.app import create_app
    from ready_trail.web.helper import HELPER
    from ready_trail.web.memory import collect_seldom
    from ready_trail.web.network import Network as Door
    from ready_trail.web.network import NetworkError
    from ready_trail.web.patience import PatientProtocol
    from ready_trail.web.second import Second
    from ready_trail.web.work import WORKS

    if not 0 <= arguments.port <= 65535:
        raise RefusedError(f"port {arguments.port} is outside 0 to 65535")
    app = create_app(arguments.db)
    network: Door = app.state.network
    if bool(arguments.cert) != bool(arguments.key):
        raise RefusedError("a certificate and its key come together: --cert FILE --key FILE")
    if arguments.cert:
        network.certificate = (arguments.cert, arguments.key)
    listening = _bind(arguments.host, arguments.port)
    host, port = listening.getsockname()[:2]
    print(f"Ready Trail is at http://{host}:{port}/  (stop with Ctrl-C)", flush=True)
    app.state.port = port
    if arguments.network or _network_kept(arguments.db):
        try:
            network.open(port)
            print(f"On the network: {', '.join(network.addresses)}; pairing code "
                  f"{network.pairing.code()}", flush=True)  # fmt: skip
        except NetworkError as error:
            if arguments.network:
                raise RefusedError(str(error)) from error
            print(f"Not on the network: {error}", file=sys.stderr)
    config = uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=1,
                            http=PatientProtocol)  # fmt: skip
    Thread(target=WORKS.warm, daemon=True).start()
    HELPER.warm()
    collect_seldom()
    app.state.second = second = Second(arguments.db)
    stop = Event()
    Thread(target=copy_each_day, args=(arguments.db, stop), daemon=True).start()
    # the server hands the signal on when it has closed; without this it would end us right there
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    try:
        uvicorn.Server(config).run(sockets=[listening])
    finally:
        stop.set()
        network.close()
        second.close()
        HELPER.close()
        WORKS.close()


def _network_kept(path: Path) -> bool:
    """Whether the settings page was told to open the network's door at each start."""
    conn = db.connect(path)
    try:
        return get_setting(conn, "network") == "on"
    finally:
        conn.close()


def _bind(host: str, port: int) -> socket.socket:
    if host not in {"127.0.0.1", "localhost"}:
        raise RefusedError(f"{host} is not this machine's loopback address: use 127.0.0.1")
    # with its protocol named, answers leave at once: else each body waits 40 ms for the peer
    listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind(("127.0.0.1", port))
        listening.listen()  # whoever reads the address may come at once and wait
    except OSError as error:
        listening.close()
        if error.errno == errno.EADDRINUSE:
            raise RefusedError(f"port {port} is in use: name another with --port") from error
        raise RefusedError(f"cannot listen on port {port}: {error.strerror}") from error
    return listening
