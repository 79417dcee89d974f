"""The command line: serve, demo, size, design, netlist, solve, backup, restore."""

from __future__ import annotations

import argparse
import json
import os
import sys
from pathlib import Path
from typing import Any, Protocol

from pydantic import ValidationError

from ready_trail import __version__
from ready_trail.core.catalogue import load_catalogue
from ready_trail.core.design import Design, design, job_network
from ready_trail.core.errors import CoreError
from ready_trail.core.job import Job
from ready_trail.core.netlist import Network
from ready_trail.core.prove.simulated import SimulatedVehicle
from ready_trail.core.solver import OperatingPoint, solve
from ready_trail.core.states import KEY_STATES, LIGHT_STATES, SIGNALS, VehicleState
from ready_trail.core.working import channel_contact
from ready_trail.formats.demo import demo_jobs, demo_shelf
from ready_trail.formats.design_json import design_to_json, point_to_json
from ready_trail.formats.errors import FileRefusedError
from ready_trail.formats.job_json import read_job
from ready_trail.formats.size_json import SizeInputs, size_inputs
from ready_trail.formats.spice import spice_deck
from ready_trail.store import db
from ready_trail.store.backup import backup, restore
from ready_trail.store.errors import StoreError
from ready_trail.store.in_use import in_use

DEFAULT_PORT = 8310
METER_PORT = 5025
WORKERS_MOST = 16
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
            "--workers",
            type=int,
            default=1,
            help="processes that answer, where several people work",
        )
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
    command = commands.add_parser("meter", help="answer as a bench meter on a simulated vehicle")
    command.add_argument("file", type=Path, metavar="JOB.json")
    command.add_argument(
        "--fault",
        action="append",
        default=[],
        metavar="KEY",
        help="something hidden that is wrong, as faults are named; KEY@0.3 for a joint of 0.3 ohm",
    )
    command.add_argument("--port", type=int, default=METER_PORT)
    command.set_defaults(run=_meter)
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
        command.add_argument(
            "--signal",
            action="append",
            choices=SIGNALS,
            default=[],
            help="a lamp signal of the vehicle that is on",
        )
        command.add_argument(
            "--on",
            action="append",
            default=[],
            metavar="NAME",
            help="a circuit whose switch is on; may be given again",
        )
        command.add_argument("--all-on", action="store_true", help="every switch on")
        command.set_defaults(run=run)


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
            several = (at,) if isinstance(document, list) else ()
            where = ".".join(str(part) for part in (*several, *first["loc"]))
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
    state = VehicleState(
        key=arguments.key, lights=arguments.lights, on=on, signals=frozenset(arguments.signal)
    )
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


def _meter(arguments: argparse.Namespace) -> None:
    import asyncio

    from ready_trail.bench_meter import serve

    made = _read_design(arguments.file)
    vehicle = SimulatedVehicle(design=made, hidden=tuple(arguments.fault))

    def told(port: int) -> None:
        print(
            f"A simulated meter on {made.job.name} is at TCPIP::127.0.0.1::{port}::SOCKET",
            flush=True,
        )

    try:
        asyncio.run(serve(lambda _: vehicle, arguments.port, told))
    except OSError as error:
        raise RefusedError(f"port {arguments.port} cannot be used: {error.strerror}") from error
    except KeyboardInterrupt:
        pass


def _demo(arguments: argparse.Namespace) -> None:
    from ready_trail.demo_meter import start_demo_meter

    with in_use(arguments.db):
        _add_demo(arguments.db)
        start_demo_meter(arguments.db)
        _served(arguments)


def _add_demo(path: Path) -> None:
    from ready_trail.store import jobs, shelf

    db.initialise(path)
    conn = db.connect(path)
    try:
        with db.transaction(conn):
            present = {row.name for row in jobs.list_jobs(conn)}
            present |= {row.name for row in jobs.list_jobs(conn, archived=True)}
            for job in reversed(demo_jobs(load_catalogue())):
                if job.name not in present:
                    jobs.create_job(conn, job, kind="demo", title="Demo job")
            if not shelf.list_parts(conn):
                shelf.take_parts(conn, demo_shelf(), "demo")
    finally:
        conn.close()


def _serve(arguments: argparse.Namespace) -> None:
    with in_use(arguments.db):
        _served(arguments)


def _served(arguments: argparse.Namespace) -> None:
    from ready_trail.serving import Served, ServingError, serve

    if bool(arguments.cert) != bool(arguments.key):
        raise RefusedError("a certificate and its key come together: --cert FILE --key FILE")
    certificate = (arguments.cert, arguments.key) if arguments.cert else None
    if not 1 <= arguments.workers <= WORKERS_MOST:
        raise RefusedError(f"--workers is 1 to {WORKERS_MOST}")
    try:
        serve(
            Served(
                database=arguments.db,
                port=arguments.port,
                workers=arguments.workers,
                network=arguments.network,
                certificate=certificate,
            ),
            arguments.host,
        )
    except ServingError as error:
        raise RefusedError(str(error)) from error
