"""`hollow-pin calc`: the arithmetic of the bench."""

from __future__ import annotations

import argparse
import json
from typing import Any

from hollow_pin.core.calculators.calculator import OutOfBounds
from hollow_pin.core.calculators.table import BY_NAME, CALCULATORS


def arguments_calc(parser: argparse.ArgumentParser) -> None:
    lines = []
    for c in CALCULATORS:
        lines.append(f"  {c.name}: {c.title}")
        for i in c.inputs:
            optional = ", may be left out" if i.optional else ""
            lines.append(f"      {i.key:14} {i.says}; {i.bounds}{optional}")
    parser.description = (
        "Calculate, with inputs as key=value.\n\n"
        "  hollow-pin calc temperature celsius=350\n"
        "  hollow-pin calc iron alloy=SAC305 tip_mm=1.6 mass=ground --json\n\n"
        + "\n".join(lines)
        + "\n\nExit status 2: an input is unknown, missing or out of its bounds; the one line says "
        "which."
    )
    parser.add_argument("name", choices=tuple(BY_NAME), metavar="NAME")
    parser.add_argument("inputs", nargs="*", metavar="key=value")
    parser.add_argument("--json", action="store_true", help="one JSON object")


def run_calc(args: argparse.Namespace) -> int:
    values: dict[str, str] = {}
    for text in args.inputs:
        key, equals, value = text.partition("=")
        if not equals:
            raise OutOfBounds(text, "is no key=value.")
        if key in values:
            raise OutOfBounds(key, "is given twice.")
        values[key] = value
    outputs = BY_NAME[args.name].calculate(values)
    if args.json:
        print(json.dumps(outputs, ensure_ascii=False, indent=2))
        return 0
    for key, value in outputs.items():
        print(f"{key.replace('_', ' '):22} {_as_text(value)}")
    return 0


def _as_text(value: Any) -> str:
    if isinstance(value, list | tuple):
        return "\n".join(["", *(f"  {v}" for v in value)])
    if value is None:
        return "–"
    return f"{value:.6g}" if isinstance(value, float) else str(value)
