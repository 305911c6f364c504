"""`hollow-pin jig`: a simulated serial jig."""

from __future__ import annotations

import argparse
import signal
import threading

from hollow_pin.cli.common import takes_data
from hollow_pin.simulator.conditions import CONDITIONS, fresh_stick
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.sources.jig import Jig, announced
from hollow_pin.store.database import Database


def arguments_jig(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Print samples at a pseudo-terminal, as a microcontroller on a jig would\n"
        "(docs/serial-logger.md). A server on the same --data folder lists it among its ports, and\n"
        "its hand does what the server asks for. Ctrl+C ends it."
    )
    parser.add_argument(
        "--condition", choices=sorted(CONDITIONS), default="sound", help="default: %(default)s"
    )
    parser.add_argument("--sensor", choices=("potentiometer", "hall"), default="potentiometer")
    parser.add_argument("--bits", type=int, default=12, help="default: %(default)s")
    parser.add_argument("--rate", type=float, default=500.0, help="samples a second (%(default)s)")
    parser.add_argument("--axes", type=int, choices=(1, 2), default=2)
    parser.add_argument("--seed", type=int, default=1, help="another module of the same lot")
    parser.add_argument(
        "--speed",
        type=float,
        default=1.0,
        choices=(1.0, 2.0, 4.0, 8.0),
        help="how many of its seconds pass in one (%(default)g)",
    )
    takes_data(parser)


def run_jig(args: argparse.Namespace) -> int:
    stick = fresh_stick(
        args.sensor, "round", args.bits, args.rate, args.condition, args.seed, args.axes
    )
    jig = Jig(StandIn(stick, args.seed), args.speed)
    # However it is told to end, also where a shell in the background has it ignore Ctrl+C.
    for signal_number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(signal_number, signal.default_int_handler)
    try:
        with announced(jig, Database(args.data).ports) as link:
            print(f"The jig is at {jig.path}, listed as {link.name} (Ctrl+C ends it)", flush=True)
            jig.run(threading.Event())
    except KeyboardInterrupt:
        pass
    finally:
        jig.close()
    return 0
