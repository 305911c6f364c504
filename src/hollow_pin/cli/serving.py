"""`hollow-pin serve` and `demo`: the bench in a browser."""

from __future__ import annotations

import argparse
import ctypes
import gc
import logging
import os
import resource
import signal
import socket
import ssl
import time
from contextlib import suppress
from datetime import UTC, datetime
from pathlib import Path
from types import FrameType

from hollow_pin.bench.copies import sole_server
from hollow_pin.cli.common import default_data, takes_data
from hollow_pin.cli.errors import Unusable
from hollow_pin.store.database import Database

LARGEST_FRAME = 1 << 20
MOST_CONNECTIONS = 400


class OncePerMinute(logging.Filter):
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


def _where_to_listen(p: argparse.ArgumentParser) -> None:
    p.add_argument(
        "--host", default="127.0.0.1", help="address to listen on (default: %(default)s)"
    )
    p.add_argument("--port", type=_port, default=8765, help="default: %(default)s; 0: any free one")
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


def _port(text: str) -> int:
    if not text.isdecimal() or len(text) > 5 or int(text) > 65_535:
        raise argparse.ArgumentTypeError(f"{text[:20]} is not a port: it is 0 to 65535")
    return int(text)


def _host(text: str) -> str:
    from hollow_pin.api.guard import host_of

    host = host_of(text)
    if host is None:
        raise argparse.ArgumentTypeError(f"{text[:60]} is not a name, or a name and a port")
    return host[0] if host[1] is None else f"{host[0]}:{host[1]}"


def arguments_serve(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Run the bench. It listens on this machine only, unless --host says otherwise, and keeps\n"
        "everything in one folder, for its user alone. A backup is made every day.\n\n"
        "Beyond this machine every device has to pair first, by a code that the bench shows under\n"
        "Devices; use --tls-cert and --tls-key there, or others on the network can listen."
    )
    _where_to_listen(parser)
    takes_data(parser)


def arguments_demo(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Run a bench with controllers in many states on it. The first start makes the\n"
        "examples by running stand-in controllers through the real capture, which takes a moment;\n"
        "what you change is kept. Delete the folder to begin afresh."
    )
    _where_to_listen(parser)
    takes_data(parser, default_data() / "demo")
    parser.add_argument("--only-build", action="store_true", help="make the examples and stop")


def run_serve(args: argparse.Namespace) -> int:
    os.umask(0o077)
    with sole_server(args.data):
        return _listen(args, Database(args.data))


def run_demo(args: argparse.Namespace) -> int:
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

    _require_tls_files(args)
    named = host_of(f"[{args.host}]" if ":" in args.host else args.host)
    hosts = LOOPBACK | {*args.allow_host} | ({named[0]} if named else set())
    listener = _listener(args.host, args.port)
    _say_where(args, listener)
    _many_files()
    _give_memory_back()
    app = create_app(database, hosts)
    _keep_what_is_loaded()
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
        logging.getLogger(name).addFilter(OncePerMinute())
    try:
        Server(config).run(sockets=[listener])
    except ssl.SSLError as wrong:
        raise Unusable(f"the certificate or its key cannot be used: {wrong}") from None
    return 0


def _require_tls_files(args: argparse.Namespace) -> None:
    for file in (args.tls_cert, args.tls_key):
        if file is not None and not os.access(file, os.R_OK):
            raise Unusable(f"{file} cannot be read.")
    if args.tls_key is not None and args.tls_cert is None:
        raise Unusable("--tls-key goes with --tls-cert.")


def _listener(host: str, port: int) -> socket.socket:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    try:
        listener = socket.create_server((host, port), family=family)
    except OSError as wrong:
        raise Unusable(
            f"cannot listen on {host}:{port}: {os.strerror(wrong.errno or 0)}. "
            "Choose another with --port."
        ) from None
    # Else every answer waits 40 ms for the other side's delayed acknowledgement.
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    return listener


def _say_where(args: argparse.Namespace, listener: socket.socket) -> None:
    """Where it is to be opened, and who else could."""
    address, port = listener.getsockname()[:2]
    host = f"[{args.host}]" if listener.family == socket.AF_INET6 else args.host
    scheme = "https" if args.tls_cert else "http"
    print(
        f"Hollow Pin is at {scheme}://{host}:{port}  (data in {args.data}; Ctrl+C ends it)",
        flush=True,
    )
    if address in ("127.0.0.1", "::1"):
        return
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


def _give_memory_back() -> None:
    """Large arrays are mapped by themselves, so that their memory goes back when they do: glibc's own
    threshold (mallopt(3), M_MMAP_THRESHOLD) grows with what is freed, and a server lives long."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).mallopt(-3, 1 << 20)


def _keep_what_is_loaded() -> None:
    """Modules and routes stay until it ends. Looking through them for what could go would hold up
    everything else each time, a running take too: 0.1 s where a machine is slow."""
    gc.collect()
    gc.freeze()


def _many_files() -> None:
    """As many open files as this user may have: connections, databases and uploads are files."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    with suppress(ValueError, OSError):
        resource.setrlimit(resource.RLIMIT_NOFILE, (hard if hard > 0 else soft, hard))
