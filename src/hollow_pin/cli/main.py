"""The command line: which commands there are. Each is imported when it is asked for, and no other."""

from __future__ import annotations

import argparse
import os
import sys
from importlib import import_module

from hollow_pin import __version__

DESCRIPTION = """\
Hollow Pin measures a controller's joystick, says what the readings mean, and after the work says
honestly whether it got better.

  hollow-pin demo                      a bench full of examples, on http://127.0.0.1:8765
  hollow-pin serve                     your own bench
  hollow-pin analyse take.csv          the readings of a recording file, without a server
"""

COMMANDS: dict[str, tuple[str, str]] = {
    "serve": ("serving", "run the bench in a browser"),
    "demo": ("serving", "the same, with the examples of the Gannet Sound Sea Centre"),
    "analyse": ("files", "print the readings of recording files"),
    "compare": ("files", "say whether a stick got better"),
    "gauge": ("files", "take the scatter of a gauge study apart"),
    "calc": ("calc", "the arithmetic of the bench: trims, dividers, irons"),
    "export": ("record", "write a take as a recording file"),
    "import": ("record", "put a recording file into the record"),
    "backup": ("folder", "copy the bench to a file, also while it runs"),
    "restore": ("folder", "put a copy back"),
    "check": ("folder", "look the bench over"),
    "pair": ("folder", "a code by which another machine may pair"),
    "jig": ("jig", "a simulated serial jig with a bare module on it"),
}
"""Each command: the module that has its arguments (arguments_NAME) and does it (run_NAME), and what it
does in a line."""


def _parser(only: str | None) -> argparse.ArgumentParser:
    """The parser, with the arguments of the command that is wanted."""
    parser = argparse.ArgumentParser(
        prog="hollow-pin",
        description=DESCRIPTION,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--version", action="version", version=f"Hollow Pin {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, (module, short) in COMMANDS.items():
        command = commands.add_parser(
            name, help=short, formatter_class=argparse.RawDescriptionHelpFormatter
        )
        if name == only:
            getattr(_module(module), f"arguments_{name}")(command)
    return parser


def _module(name: str) -> object:
    return import_module(f"hollow_pin.cli.{name}")


def main(argv: list[str] | None = None) -> int:
    """Run a command; its exit status."""
    arguments = sys.argv[1:] if argv is None else argv
    command = next((a for a in arguments if not a.startswith("-")), None)
    args = _parser(command).parse_args(arguments)
    run = getattr(_module(COMMANDS[args.command][0]), f"run_{args.command}")
    try:
        return int(run(args))
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 1
    except Exception as wrong:
        message = _module("errors").in_one_line(wrong)  # type: ignore[attr-defined]
        if message is None:
            raise
        print(f"hollow-pin: {message}", file=sys.stderr)
        return 2
