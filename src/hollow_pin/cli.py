"""The command line."""

from __future__ import annotations

import argparse
import ctypes
import io
import json
import logging
import os
import resource
import signal
import socket
import sqlite3
import ssl
import stat
import sys
import time
from contextlib import suppress
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path
from types import FrameType
from typing import Any

from hollow_pin import __version__
from hollow_pin.bench.copies import back_up, check_folder, mend_folder, restore, sole_server
from hollow_pin.bench.imports import AlreadyHere, check_new, hash_of, import_take
from hollow_pin.bench.intake import Arrival, take_in
from hollow_pin.bench.pairing import new_code
from hollow_pin.bench.refusal import NotFound, Refused
from hollow_pin.bench.takes import export_recording
from hollow_pin.core.gauge import SOURCES, gauge
from hollow_pin.core.job import stick_name
from hollow_pin.core.recording import RecordingError
from hollow_pin.core.rim import GATES, Gate
from hollow_pin.core.summary import explain
from hollow_pin.core.take import TakeReadings, measure_take
from hollow_pin.core.words import number
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.gauge_csv import read_gauge_study
from hollow_pin.formats.recording_csv import gate_of, read_recording, write_recording
from hollow_pin.formats.table import check_size
from hollow_pin.simulator.conditions import CONDITIONS, fresh_stick
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.store.controllers import find_controller
from hollow_pin.store.database import (
    FILE_NAME,
    Database,
    DataError,
    cannot_write_now,
    no_room,
)
from hollow_pin.store.jobs import Told, open_job_of

DESCRIPTION = """\
Hollow Pin measures a controller's joystick, says what the readings mean, and after the work says
honestly whether it got better.

  hollow-pin demo                      a bench full of examples, on http://127.0.0.1:8765
  hollow-pin serve                     your own bench
  hollow-pin analyse take.csv          the readings of a recording file, without a server
"""


class Seldom(logging.Filter):
    """The same words from the same place once a minute: a full disk or a lack of file handles would
    fill a log."""

    EVERY_S = 60.0

    def __init__(self) -> None:
        super().__init__()
        self._said: dict[tuple[str, int], float] = {}

    def filter(self, record: logging.LogRecord) -> bool:
        where = (record.pathname, record.lineno)
        now = time.monotonic()
        if now - self._said.get(where, -self.EVERY_S) < self.EVERY_S:
            return False
        self._said[where] = now
        return True


class Unusable(Exception):
    """What was asked for cannot be done; one line says why."""


def default_data() -> Path:
    base = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
    return Path(base) / "hollow-pin"


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="hollow-pin",
        description=DESCRIPTION,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--version", action="version", version=f"Hollow Pin {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def command(name: str, short: str, long: str) -> argparse.ArgumentParser:
        return commands.add_parser(
            name,
            help=short,
            description=long,
            formatter_class=argparse.RawDescriptionHelpFormatter,
        )

    def where(p: argparse.ArgumentParser, data: Path) -> None:
        p.add_argument("--data", type=Path, default=data, metavar="DIR", help=f"default: {data}")

    def serving(p: argparse.ArgumentParser) -> None:
        p.add_argument(
            "--host", default="127.0.0.1", help="address to listen on (default: %(default)s)"
        )
        p.add_argument(
            "--port", type=_port, default=8765, help="default: %(default)s; 0: any free one"
        )
        p.add_argument(
            "--allow-host",
            action="append",
            default=[],
            type=_host,
            metavar="NAME[:PORT]",
            help="a further name that browsers may call this server by; may be given again",
        )
        p.add_argument("--tls-cert", type=Path, metavar="FILE", help="certificate chain, PEM")
        p.add_argument("--tls-key", type=Path, metavar="FILE", help="its private key, PEM")

    serve = command(
        "serve",
        "run the bench in a browser",
        "Run the bench. It listens on this machine only, unless --host says otherwise, and keeps\n"
        "everything in one folder, for its user alone. A backup is made every day.\n\n"
        "Beyond this machine every device has to pair first, by a code that the bench shows under\n"
        "Devices; use --tls-cert and --tls-key there, or others on the network can listen.",
    )
    serving(serve)
    where(serve, default_data())

    demo = command(
        "demo",
        "the same, with the examples of the Gannet Sound Sea Centre",
        "Run a bench with controllers in many states on it. The first start makes the\n"
        "examples by running stand-in controllers through the real capture, which takes a moment;\n"
        "what you change is kept. Delete the folder to begin afresh.",
    )
    serving(demo)
    where(demo, default_data() / "demo")
    demo.add_argument("--only-build", action="store_true", help="make the examples and stop")

    analyse = command(
        "analyse",
        "print the readings of a recording file",
        "Measure a recording file and print what it says.\n\n"
        "  hollow-pin analyse take.csv              the sentence and the main readings\n"
        "  hollow-pin analyse take.csv --json       every reading, for other programs\n\n"
        "Values are % of half range. A step that is absent or not usable is null, and `problems`\n"
        "says why. Exit status 2: the file cannot be read; the one line says where.",
    )
    analyse.add_argument("file", type=Path, metavar="FILE")
    analyse.add_argument("--json", action="store_true", help="one JSON object")
    analyse.add_argument(
        "--gate", choices=GATES, help="the stick's gate, where the file does not say"
    )

    gauged = command(
        "gauge",
        "take the scatter of a gauge study apart",
        "Gauge repeatability and reproducibility by analysis of variance: how much of the scatter\n"
        "is the bench, and how much the sticks. FILE is a CSV with the columns part, operator,\n"
        "trial and value: every part measured as often by every operator.\n\n"
        "  hollow-pin gauge study.csv\n"
        "  hollow-pin gauge study.csv --json\n\n"
        "Exit status 2: the file cannot be read, or the study is not complete; the one line says\n"
        "where.",
    )
    gauged.add_argument("file", type=Path, metavar="FILE")
    gauged.add_argument("--json", action="store_true", help="one JSON object")

    jig = command(
        "jig",
        "a simulated serial jig with a bare module on it",
        "Print samples at a pseudo-terminal, as a microcontroller on a jig would\n"
        "(docs/serial-logger.md). A server on the same --data folder lists it among its ports, and\n"
        "its hand does what the server asks for. Ctrl+C ends it.",
    )
    jig.add_argument(
        "--condition", choices=sorted(CONDITIONS), default="sound", help="default: %(default)s"
    )
    jig.add_argument("--sensor", choices=("potentiometer", "hall"), default="potentiometer")
    jig.add_argument("--bits", type=int, default=12, help="default: %(default)s")
    jig.add_argument("--rate", type=float, default=500.0, help="samples a second (%(default)s)")
    jig.add_argument("--axes", type=int, choices=(1, 2), default=2)
    jig.add_argument("--seed", type=int, default=1, help="another module of the same lot")
    where(jig, default_data())

    export = command(
        "export",
        "write a take as a recording file",
        "Write a take's raw samples to standard output, or to --output.\n\n"
        "  hollow-pin export 12 --output take-12.csv",
    )
    export.add_argument("take", type=_number, metavar="TAKE", help="the take's number")
    export.add_argument("--output", type=Path, metavar="FILE")
    where(export, default_data())

    imported = command(
        "import",
        "put a recording file into the record",
        "Put a recording file into the open job of a controller; a job is opened where none is.\n\n"
        "  hollow-pin import take.csv --tag GS-017 --model plover --stick left\n\n"
        "Tag and stick may stand in the file's header lines instead, as `export` writes them.",
    )
    imported.add_argument("file", type=Path, metavar="FILE")
    imported.add_argument("--tag", help="the controller's tag")
    imported.add_argument("--model", help="its model, where it is new, such as plover or dunlin")
    imported.add_argument("--stick", help="which stick")
    imported.add_argument(
        "--again", action="store_true", help="also where the same file is there already"
    )
    where(imported, default_data())

    backup = command(
        "backup",
        "copy the bench to a file, also while it runs",
        "Copy the whole bench to one file and check the copy. Its path is the last line. A server\n"
        "makes one every day by itself and keeps those of 7 days, 4 weeks and 12 months.\n\n"
        "  hollow-pin backup /media/stick",
    )
    backup.add_argument(
        "out", type=Path, nargs="?", metavar="OUT_DIR", help="default: backups in the data folder"
    )
    where(backup, default_data())

    restored = command(
        "restore",
        "put a copy back",
        "Put a file that `backup` wrote back as the bench. What is there now is put aside, not\n"
        "deleted. Refused while a server runs on the folder.\n\n"
        "  hollow-pin restore /media/stick/hollow-pin-20260301T100000Z.db",
    )
    restored.add_argument("file", type=Path, metavar="FILE")
    where(restored, default_data())

    check = command(
        "check",
        "look the bench over",
        "Check the database: its pages, what refers to what, takes that nobody ended, readings. Exit\n"
        "status 0 and one line where it is sound, 1 and what is wrong where it is not. To repair,\n"
        "end the server first.\n\n"
        "  hollow-pin check --repair     save what can be read of a damaged one into a new one, end\n"
        "                                takes that nobody ended, measure anew",
    )
    check.add_argument("--repair", action="store_true")
    where(check, default_data())

    pairing = command(
        "pair",
        "a code by which another machine may pair",
        "Print a code that lets one other machine speak to this bench, once, within ten minutes.\n\n"
        "  bench    everything, live takes included\n"
        "  desk     everything but takes and function checks\n"
        "  viewer   looks, and changes nothing",
    )
    pairing.add_argument("--role", choices=("bench", "desk", "viewer"), default="desk")
    where(pairing, default_data())
    return parser


def _port(text: str) -> int:
    if not text.isdecimal() or len(text) > 5 or int(text) > 65_535:
        raise argparse.ArgumentTypeError(f"{text[:20]} is not a port: it is 0 to 65535")
    return int(text)


def _number(text: str) -> int:
    if not text.isdecimal() or len(text) > 15 or not int(text):
        raise argparse.ArgumentTypeError(f"{text[:20]} is not a take's number")
    return int(text)


def _host(text: str) -> str:
    from hollow_pin.api.guard import host_of

    found = host_of(text)
    if found is None:
        raise argparse.ArgumentTypeError(f"{text[:60]} is not a name, or a name and a port")
    return found[0] if found[1] is None else f"{found[0]}:{found[1]}"


def main(argv: list[str] | None = None) -> int:
    """Run a command; its exit status."""
    args = _parser().parse_args(argv)
    commands = {
        "serve": _serve,
        "demo": _demo,
        "analyse": _analyse,
        "gauge": _gauge,
        "jig": _jig,
        "export": _export,
        "import": _import,
        "backup": _backup,
        "restore": _restore,
        "check": _check,
        "pair": _pair,
    }
    try:
        return commands[args.command](args)
    except (FileError, RecordingError, Unusable, Refused, NotFound, DataError) as wrong:
        print(f"hollow-pin: {wrong}", file=sys.stderr)
        return 2
    except (sqlite3.Error, OSError) as wrong:
        if isinstance(wrong, BrokenPipeError):
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
            return 1
        if not (cannot_write_now(wrong) or isinstance(wrong, sqlite3.DatabaseError)):
            raise
        said = "the disk is full" if no_room(wrong) else str(wrong)
        print(f"hollow-pin: {said}. Nothing half done was kept.", file=sys.stderr)
        return 2


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def _read(path: Path) -> bytes:
    try:
        found = path.stat()
        if not stat.S_ISREG(found.st_mode):
            raise Unusable(f"{path} is not a file that can be read from beginning to end.")
        check_size(found.st_size)
        return path.read_bytes()
    except (OSError, ValueError) as wrong:
        if isinstance(wrong, FileError):
            raise
        raise Unusable(f"{path}: {getattr(wrong, 'strerror', None) or wrong}") from None


def _serve(args: argparse.Namespace) -> int:
    os.umask(0o077)
    with sole_server(args.data):
        return _listen(args, Database(args.data))


def _demo(args: argparse.Namespace) -> int:
    from hollow_pin.bench.jobs import tray
    from hollow_pin.demo.gannet_sound import build

    os.umask(0o077)
    with sole_server(args.data):
        database = Database(args.data)
        with database.reading() as db:
            empty = not tray(db)
        if empty:
            print("Making the examples; this takes about half a minute.", flush=True)
            build(database, datetime.now(UTC))
        return 0 if args.only_build else _listen(args, database)


def _listen(args: argparse.Namespace, database: Database) -> int:
    import uvicorn

    from hollow_pin.api.app import create_app
    from hollow_pin.api.guard import LOOPBACK, host_of

    for file in (args.tls_cert, args.tls_key):
        if file is not None and not os.access(file, os.R_OK):
            raise Unusable(f"{file} cannot be read.")
    if args.tls_key is not None and args.tls_cert is None:
        raise Unusable("--tls-key goes with --tls-cert.")
    named = host_of(f"[{args.host}]" if ":" in args.host else args.host)
    hosts = LOOPBACK | {*args.allow_host} | ({named[0]} if named else set())
    family = socket.AF_INET6 if ":" in args.host else socket.AF_INET
    try:
        listener = socket.create_server((args.host, args.port), family=family)
    except OSError as wrong:
        raise Unusable(
            f"cannot listen on {args.host}:{args.port}: {os.strerror(wrong.errno or 0)}. "
            "Choose another with --port."
        ) from None
    # Else every answer waits 40 ms for the other side's delayed acknowledgement.
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    port = listener.getsockname()[1]
    shown = f"[{args.host}]" if family == socket.AF_INET6 else args.host
    scheme = "https" if args.tls_cert else "http"
    print(
        f"Hollow Pin is at {scheme}://{shown}:{port}  (data in {args.data}; Ctrl+C ends it)",
        flush=True,
    )
    if listener.getsockname()[0] not in ("127.0.0.1", "::1"):
        print(
            "It listens beyond this machine. Every other device has to pair first: Devices, on this "
            "machine, or `hollow-pin pair`.",
            flush=True,
        )
        if not args.tls_cert:
            print(
                "WARNING: without --tls-cert and --tls-key everybody on the network can read along, "
                "and take over a paired device.",
                flush=True,
            )
    _many_files()
    _give_memory_back()
    app = create_app(database, hosts)
    config = uvicorn.Config(
        app,
        log_level="warning",
        access_log=False,
        ssl_certfile=args.tls_cert,
        ssl_keyfile=args.tls_key,
        ws_max_size=LARGEST_FRAME,
        limit_concurrency=MOST_CONNECTIONS,
        timeout_graceful_shutdown=15,
        server_header=False,
    )

    class Server(uvicorn.Server):
        """Says why it ends, so that a take that runs can say so too."""

        def handle_exit(self, sig: int, frame: FrameType | None) -> None:
            by = "Ctrl+C" if sig == signal.SIGINT else signal.Signals(sig).name
            app.state.running.stop(f"the server was ended ({by})")
            super().handle_exit(sig, frame)

    for name in ("asyncio", "uvicorn.error", "hollow_pin"):
        logging.getLogger(name).addFilter(Seldom())
    try:
        Server(config).run(sockets=[listener])
    except ssl.SSLError as wrong:
        raise Unusable(f"the certificate or its key cannot be used: {wrong}") from None
    return 0


LARGEST_FRAME = 1 << 20
MOST_CONNECTIONS = 400


def _give_memory_back() -> None:
    """Large arrays are mapped by themselves, so that their memory goes back when they do: glibc's own
    threshold (mallopt(3), M_MMAP_THRESHOLD) grows with what is freed, and a server lives long."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).mallopt(-3, 1 << 20)


def _many_files() -> None:
    """As many open files as this user may have: connections, databases and uploads are files."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    with suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_NOFILE, (hard if hard > 0 else soft, hard))


def analysis(readings: TakeReadings) -> dict[str, Any]:
    """What `analyse --json` prints."""
    body = asdict(readings)
    facts = body["recording"]
    facts["range"] = {axis: list(r) for axis, r in facts["range"].items()}
    return {
        "version": body["version"],
        "recording": facts,
        "still": body["still"],
        "let_go": body["let_go"],
        "rim": body["rim"],
        "crossing": _plain(body["crossing"]),
        "hold": _plain(body["hold"]),
        "turn": _plain(body["turn"]),
        "composite": body["composite"],
        "uncertainty": body["uncertainty"],
        "spans": body["spans"],
        "problems": body["problems"],
        "hidden": body["hidden"],
    }


def _plain(body: Any) -> Any:
    """Names without the underscore that Python needs behind some."""
    if isinstance(body, dict):
        return {key.rstrip("_"): _plain(value) for key, value in body.items()}
    if isinstance(body, list | tuple):
        return [_plain(value) for value in body]
    return body


def _analyse(args: argparse.Namespace) -> int:
    recording = read_recording(_read(args.file))
    gate: Gate = args.gate or gate_of(recording)
    readings = measure_take(recording, gate)
    if args.json:
        print(json.dumps(analysis(readings), ensure_ascii=False, indent=2))
    else:
        _print_readings(readings)
    return 0


def _print_readings(readings: TakeReadings) -> None:
    from hollow_pin.core.catalogue import READINGS

    facts = readings.recording
    rate = f"{facts.rate_hz:.0f} Hz" if facts.rate_hz else "unknown rate"
    print(f"{facts.samples} samples, {facts.duration_s:.1f} s, {rate}, {'+'.join(facts.axes)}")
    meaning = explain(readings)
    print(f"\n{meaning.sentence}\n{meaning.advice}\n")
    for reading in READINGS:
        value = readings.value(reading.path)
        if value is None:
            continue
        u = readings.uncertainty.get(reading.path)
        shown = f"{number(value, reading.unit)} {reading.unit}"
        after = f"  ± {number(2 * u, reading.unit)}" if u is not None else ""
        print(f"  {reading.label:32} {shown:>12}{after}".rstrip())
    for p in readings.problems:
        print(f"\n{p.step}: {p.message}")


def _gauge(args: argparse.Namespace) -> int:
    found = gauge(read_gauge_study(_read(args.file)))
    body = asdict(found)
    if args.json:
        print(json.dumps(body, ensure_ascii=False, indent=2))
        return 0
    print(f"{found.parts} parts, {found.operators} operators, {found.trials} trials")
    shares = found.percent_study_variation or {}
    for name in SOURCES:
        value = body[name]
        if value is not None:
            share = f"{shares[name]:7.1f} %" if name in shares else ""
            print(f"  {name.replace('_', ' '):18} {value:12.6g} {share}")
    if found.ndc is not None:
        print(f"  distinct categories {found.ndc:11d}")
    if found.pooled:
        print("The interaction is not significant and is pooled into the repeatability.")
    return 0


def _jig(args: argparse.Namespace) -> int:
    import threading

    from hollow_pin.sources.jig import Jig, announced

    stick = fresh_stick(
        args.sensor, "round", args.bits, args.rate, args.condition, args.seed, args.axes
    )
    jig = Jig(StandIn(stick, args.seed))
    # However it is told to end, also where a shell in the background has it ignore Ctrl+C.
    for told in (signal.SIGINT, signal.SIGTERM):
        signal.signal(told, signal.default_int_handler)
    try:
        with announced(jig, Database(args.data).ports) as link:
            print(f"The jig is at {jig.path}, listed as {link.name} (Ctrl+C ends it)", flush=True)
            jig.run(threading.Event())
    except KeyboardInterrupt:
        pass
    finally:
        jig.close()
    return 0


def _database(folder: Path) -> Database:
    if not folder.is_dir():
        raise Unusable(f"{folder} is not there. Name the bench's folder with --data.")
    return Database(folder)


def _existing(folder: Path) -> Database:
    """A bench that is there already."""
    database = _database(folder) if (folder / FILE_NAME).exists() or folder.is_file() else None
    if database is None:
        raise Unusable(f"there is no bench in {folder}. Name its folder with --data.")
    return database


def _backup(args: argparse.Namespace) -> int:
    os.umask(0o077)
    print(back_up(_existing(args.data), _now(), args.out))
    return 0


def _restore(args: argparse.Namespace) -> int:
    os.umask(0o077)
    aside = restore(args.file, args.data, _now())
    if aside is not None:
        print(f"What was there is in {aside}.")
    print(f"{args.file} is the bench in {args.data} now.")
    return 0


def _check(args: argparse.Namespace) -> int:
    if args.repair:
        os.umask(0o077)
        return _repair(args.data)
    try:
        if not (args.data / FILE_NAME).exists():
            _existing(args.data)
        checked = check_folder(args.data)
    except (DataError, Unusable) as wrong:
        print(wrong)
        return 1
    if checked.wrong:
        print("\n".join(checked.wrong))
        return 1
    print(f"Sound. {checked.words}.")
    return 0


def _repair(folder: Path) -> int:
    done = mend_folder(folder, _now())
    saved = done.salvaged
    if saved is None:
        print("The database is sound.")
    else:
        print(f"The damaged database is in {done.aside}. Saved into a new one:")
        for table, count in saved.rows.items():
            lost = saved.lost.get(table, 0)
            missing = f", up to {lost} missing" if lost else ""
            if count or lost:
                print(f"  {table}: {count}{missing}")
        for table in saved.unread:
            print(f"  {table}: nothing could be read")
        if saved.whole:
            print("Nothing is missing.")
    if done.ended:
        print(f"{done.ended} takes that nobody had ended were ended.")
    if done.measured:
        print(f"{done.measured} takes were measured anew.")
    return 0 if saved is None or saved.whole else 1


def _pair(args: argparse.Namespace) -> int:
    code, expires_at = new_code(_existing(args.data), args.role, _now())
    print(f"{code}  (pairs one {args.role}, until {expires_at[11:16]} UTC)")
    return 0


def _export(args: argparse.Namespace) -> int:
    with _database(args.data).reading() as db:
        recording = export_recording(db, args.take)
    if args.output is None:
        sys.stdout.writelines(write_recording(recording))
        return 0
    try:
        with args.output.open("x", encoding="utf-8") as file:
            file.writelines(write_recording(recording))
    except OSError as wrong:
        raise Unusable(f"{args.output}: {wrong.strerror}") from None
    return 0


def _import(args: argparse.Namespace) -> int:
    file_hash = "" if args.again else hash_of(io.BytesIO(_read(args.file)))
    recording = read_recording(_read(args.file))
    tag = args.tag or recording.headers.get("controller")
    if tag is None:
        raise Unusable("whose stick is it? Name the controller with --tag.")
    database = Database(args.data)
    with database.reading() as db:
        controller = find_controller(db, tag)
        job = open_job_of(db, controller.id) if controller else None
        stick = args.stick or recording.headers.get("stick") or (job.stick if job else None)
        if stick is None:
            raise Unusable("which stick is it? Name it with --stick.")
        try:
            if job is not None:
                check_new(db, job.id, stick, file_hash)
        except AlreadyHere as here:
            print(f"{here} (--again brings it in once more)")
            return 0
    if job is None:
        model = args.model or (None if controller else recording.headers.get("model", "").lower())
        job = take_in(database, Arrival(tag, model or None, Told(stick)), _now())
    take = import_take(
        database, job.id, stick, args.file.name, recording, _now(), file_hash=file_hash
    )
    print(f"Take {take.id} of {tag}, {stick_name(stick)}, {take.stage}: job {job.id}.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
