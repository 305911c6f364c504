"""`hollow-pin analyse`, `compare` and `gauge`: files, without a server."""

from __future__ import annotations

import argparse
import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

from hollow_pin.cli.common import read_file
from hollow_pin.cli.errors import Unusable
from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.causes import CAUSE
from hollow_pin.core.comparable import Setting
from hollow_pin.core.comparison import Comparison, compare
from hollow_pin.core.gate import GATES, Gate
from hollow_pin.core.gauge import SOURCES, gauge
from hollow_pin.core.limits import GRADES, LIMIT_OF
from hollow_pin.core.ranking import rank, worth_showing
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import Recording, RecordingError
from hollow_pin.core.seen_again import not_looked_at_again, unseen_words
from hollow_pin.core.summary import explain, explain_comparison
from hollow_pin.core.take import gate_found, measure_take
from hollow_pin.core.words import number
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.gauge_csv import read_gauge_study
from hollow_pin.formats.recording_csv import gate_of, read_recording

MOST_SAID = 3


def _takes_gate(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--gate",
        choices=GATES,
        help="the stick's gate; where neither this nor the file says, by its rim",
    )


def arguments_analyse(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Measure recording files and print what they say.\n\n"
        "  hollow-pin analyse take.csv              the sentence and the main readings\n"
        "  hollow-pin analyse take.csv --json       every reading, for other programs\n"
        "  hollow-pin analyse *.csv --json          an object a line, in the order given\n\n"
        "Values are % of half range. A step that is absent or not usable is null, and `problems`\n"
        "says why. Exit status 2: a file cannot be read; one line, or its object, says where."
    )
    parser.add_argument("file", type=Path, nargs="+", metavar="FILE")
    parser.add_argument("--json", action="store_true", help="JSON: one object, or one a line")
    _takes_gate(parser)


def run_analyse(args: argparse.Namespace) -> int:
    if len(args.file) == 1:
        readings = _measure_file(args.file[0], args.gate)
        if args.json:
            print(json.dumps(analysis(readings), ensure_ascii=False, indent=2))
        else:
            _print_readings(readings)
        return 0
    bad = 0
    for file in args.file:
        try:
            readings = _measure_file(file, args.gate)
        except (FileError, RecordingError, Unusable) as wrong:
            bad += 1
            error = {"file": str(file), "error": str(wrong)}
            print(json.dumps(error, ensure_ascii=False) if args.json else f"{file}: {wrong}\n")
            continue
        if args.json:
            print(json.dumps({"file": str(file)} | analysis(readings), ensure_ascii=False))
        else:
            print(f"{file}:")
            _print_readings(readings)
            print()
    return 2 if bad else 0


def _measure_file(path: Path, gate: Gate | None) -> TakeReadings:
    recording = read_recording(read_file(path))
    return measure_take(recording, gate or gate_of(recording))


def arguments_compare(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Set two recording files of one stick against each other and say whether it got better,\n"
        "as far as the two can tell.\n\n"
        "  hollow-pin compare before.csv after.csv\n"
        "  hollow-pin compare before.csv after.csv --json\n\n"
        "Header lines that say otherwise of controller, stick, source or gate are a refusal, which\n"
        "is an answer. Exit status 2: a file cannot be read; the one line says where."
    )
    parser.add_argument("before", type=Path, metavar="BEFORE")
    parser.add_argument("after", type=Path, metavar="AFTER")
    parser.add_argument("--json", action="store_true", help="one JSON object")
    parser.add_argument(
        "--grade", choices=tuple(GRADES), default="everyday", help="default: %(default)s"
    )
    _takes_gate(parser)


def run_compare(args: argparse.Namespace) -> int:
    recordings = [read_recording(read_file(path)) for path in (args.before, args.after)]
    (before, after), gates = _measure_alike(recordings, args.gate)
    was, now = map(_setting, recordings, gates)
    compared = compare(before, after, was, now, args.grade)
    sentence = explain_comparison(compared, after, now.stick)
    if compared.overall != "refused" and explain(after, args.grade).asks == "nothing":
        unseen = not_looked_at_again([before], after, LIMIT_OF, args.grade)
        sentence = f"{sentence} {unseen_words(unseen)}".rstrip()
    if args.json:
        print(json.dumps(comparison(compared, sentence), ensure_ascii=False, indent=2))
        return 0
    print(sentence)
    for caution in (*compared.refusals, *compared.cautions):
        print(f"\n{caution}")
    for row in compared.rows:
        if row.verdict in ("better", "worse", "changed"):
            spec = next(r for r in READINGS if r.path == row.path)
            had, has = (number(v or 0.0, spec.unit) for v in (row.before, row.after))
            print(f"  {spec.label:32} {had:>8} → {has:>8} {spec.unit}  {row.verdict}".rstrip())
    return 0


def _measure_alike(
    recordings: list[Recording], stated_gate: Gate | None
) -> tuple[list[TakeReadings], list[Gate]]:
    """Takes of one stick, and the gate of each: the one that was told, or its file says; else the
    other's; else the one that either looks like, or a round one."""
    gates = [stated_gate or gate_of(r) for r in recordings]
    usual: Gate | None = next(filter(None, gates), None)
    takes = [measure_take(r, gate or usual) for r, gate in zip(recordings, gates, strict=True)]
    if usual is not None:
        return takes, [gate or usual for gate in gates]
    seen_gates: list[Gate] = [gate_found(take) or "round" for take in takes]
    shared: Gate = next((gate for gate in seen_gates if gate != "round"), "round")
    for i, gate in enumerate(seen_gates):
        if gate != shared:
            takes[i] = measure_take(recordings[i], shared)
    return takes, [shared] * len(takes)


def _setting(recording: Recording, gate: Gate) -> Setting:
    """How a take was made, as far as its file says."""
    headers = recording.headers
    return Setting(
        headers.get("controller", ""),
        headers.get("stick", "stick"),
        headers.get("source", "file"),
        gate,
        headers.get("calibration", "unknown"),
        headers.get("power", "unknown"),
        headers.get("shell", "unknown"),
    )


def comparison(result: Comparison, sentence: str) -> dict[str, Any]:
    """What `compare --json` prints."""
    return {
        "overall": result.overall,
        "sentence": sentence,
        "refusals": list(result.refusals),
        "cautions": list(result.cautions),
        "readings": [
            {
                "reading": row.path,
                "before": row.before,
                "after": row.after,
                "change": row.change,
                "u_change": row.u_change,
                "detectable": row.detectable,
                "verdict": row.verdict,
                "why": row.why,
                "limit": row.limit,
                "before_limit": row.before_limit,
                "after_limit": row.after_limit,
            }
            for row in result.rows
        ],
    }


def arguments_gauge(parser: argparse.ArgumentParser) -> None:
    parser.description = (
        "Gauge repeatability and reproducibility by analysis of variance: how much of the scatter\n"
        "is the bench, and how much the sticks. FILE is a CSV with the columns part, operator,\n"
        "trial and value: every part measured as often by every operator.\n\n"
        "  hollow-pin gauge study.csv\n"
        "  hollow-pin gauge study.csv --json\n\n"
        "Exit status 2: the file cannot be read, or the study is not complete; the one line says\n"
        "where."
    )
    parser.add_argument("file", type=Path, metavar="FILE")
    parser.add_argument("--json", action="store_true", help="one JSON object")


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
        "joint": body["joint"],
        "composite": body["composite"],
        "uncertainty": body["uncertainty"],
        "spans": body["spans"],
        "problems": body["problems"],
        "hidden": body["hidden"],
        "diagnosis": diagnosis(readings),
    }


def diagnosis(readings: TakeReadings) -> list[dict[str, Any]]:
    """Every cause, the likeliest first, with what speaks for it and against it."""
    return [
        {
            "cause": c.cause,
            "axis": c.axis,
            "probability": c.probability,
            "evidence": [
                {
                    "reading": e.reading,
                    "value": e.value,
                    "for": e.speaks_for,
                    "weight": e.weight,
                    "words": e.words,
                }
                for e in c.evidence
            ],
        }
        for c in rank(readings)
    ]


def _plain(body: Any) -> Any:
    """Names without the underscore that Python needs behind some."""
    if isinstance(body, dict):
        return {key.rstrip("_"): _plain(value) for key, value in body.items()}
    if isinstance(body, list | tuple):
        return [_plain(value) for value in body]
    return body


def _print_readings(readings: TakeReadings) -> None:
    facts = readings.recording
    rate = f"{facts.rate_hz:.0f} Hz" if facts.rate_hz else "unknown rate"
    print(f"{facts.samples} samples, {facts.duration_s:.1f} s, {rate}, {'+'.join(facts.axes)}")
    meaning = explain(readings)
    print(f"\n{meaning.sentence}\n{meaning.advice}\n")
    for spec in READINGS:
        value = readings.value(spec.path)
        if value is None:
            continue
        u = readings.uncertainty.get(spec.path)
        text = f"{number(value, spec.unit)} {spec.unit}"
        after = f"  ± {number(2 * u, spec.unit)}" if u is not None else ""
        print(f"  {spec.label:32} {text:>12}{after}".rstrip())
    print("\nWhat it may be:")
    for c in worth_showing(rank(readings)):
        on = f" ({c.axis})" if c.axis else ""
        share = "> 99" if c.probability >= 0.995 else f"{100 * c.probability:.0f}"
        print(f"  {share:>4} %  {CAUSE[c.cause].name}{on}")
        for e in [e for e in c.evidence if e.speaks_for][:MOST_SAID]:
            print(f"         {e.words}")
    for p in readings.problems:
        print(f"\n{p.step}: {p.message}")


def run_gauge(args: argparse.Namespace) -> int:
    result = gauge(read_gauge_study(read_file(args.file)))
    body = asdict(result)
    if args.json:
        print(json.dumps(body, ensure_ascii=False, indent=2))
        return 0
    print(f"{result.parts} parts, {result.operators} operators, {result.trials} trials")
    shares = result.percent_study_variation or {}
    for name in SOURCES:
        value = body[name]
        if value is not None:
            share = f"{shares[name]:7.1f} %" if name in shares else ""
            print(f"  {name.replace('_', ' '):18} {value:12.6g} {share}")
    if result.ndc is not None:
        print(f"  distinct categories {result.ndc:11d}")
    if result.pooled:
        print("The interaction is not significant and is pooled into the repeatability.")
    return 0
