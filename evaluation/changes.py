"""What is seen where something did change: `make changes` writes docs/changes.md.

A stick with one fault is set against the same stick without it, by other hands. How large the change
truly is, is what it is on average by all the other hands; how large it would have to be is what the
comparison itself calls detectable. The fault is first tried out, and then made as large as is wanted.
Sticks of our own by every kind of source, and the foreign ones where they lie beside the project.
"""

from __future__ import annotations

import argparse
import time
import warnings
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cache
from math import sqrt
from pathlib import Path

import numpy as np

from hollow_pin.core.comparable import Setting
from hollow_pin.core.comparison import compare
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.routine import Routine
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.cases import (
    SENT,
    Assembly,
    as_sent,
    manner,
    sensed,
    sound_sensor,
)
from hollow_pin.simulator.cases import (
    Path as Way,
)
from hollow_pin.simulator.perform import perform
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.simulator.stick import Body, Calibration, Converter, Module, Sensor, Stick
from pairs import FOREIGN, foreign_take

PAGE = Path(__file__).parents[1] / "docs" / "changes.md"
HERE = Setting("mended", "left", "stand-in", "round")
HANDS = 4
TRIED = 2
"""How often a fault is tried out, by a hand each, until it is as large as is wanted."""
WAY_HZ = 500.0
WANTED = (1.0, 2.0, 2.0, 4.0)
"""How many times as large as is detectable a change is made, by turns."""
FULL = 95.0
"""What our own sticks take for the end of their reach, %: they run over a little."""
ABOUT = ((0.7, 1.4), (1.6, 2.5), (2.5, np.inf))
"""What counts as once, twice and more."""


@dataclass(frozen=True)
class Fault:
    """One fault and the reading that tells it. least, most: how large it may be. foreign: it, so
    large, as the foreign sticks have it; own: as ours have it, on the body or what it is sensed by."""

    name: str
    reading: str
    least: float
    most: float
    foreign: Callable[[float], dict]
    own: Callable[[Assembly, float], None] | None = None
    body: Callable[[Body, float], Body] | None = None


def _on_x(**values: float) -> Callable[[Assembly, float], None]:
    """Values of the sensor of x, each that many times as large as the fault."""

    def change(made: Assembly, size: float) -> None:
        made.change("x", **{name: size * times for name, times in values.items()})

    return change


def _rough(made: Assembly, size: float) -> None:
    made.rough["x"] = (-40.0, -15.0, size)


def _half(made: Assembly, size: float) -> None:
    made.calibration = replace(made.calibration, plus=(FULL / (1 - size), FULL))


def _all_over(made: Assembly, size: float) -> None:
    wide = FULL / (1 + size)
    made.calibration = Calibration((0.0, 0.0), (wide, wide), (wide, wide))


def _short(made: Assembly, size: float) -> None:
    _all_over(made, -size)


FAULTS = (
    Fault(
        "centre offset", "composite.dead_zone_needed", 0.5, 20.0,
        lambda d: {"offset": (d, 0.3 * d)}, _on_x(offset=1.0),
    ),
    Fault(
        "worn track", "let_go.return_spread", 0.5, 12.0,
        lambda d: {"wear": d}, _on_x(wear=1.0),
    ),
    Fault(
        "bind", "let_go.return_spread", 0.5, 12.0,
        lambda d: {"bind": d, "bind_bearing": 90.0},
        body=lambda b, d: replace(b, bind=d, bind_bearing=90.0, damping=0.9),
    ),
    Fault("noise", "still.jitter_x", 0.1, 3.0, lambda d: {"noise": d}, _on_x(noise=1.0)),
    Fault(
        "spikes", "still.spikes_per_min_x", 10.0, 150.0,
        lambda d: {"spikes_pm": d, "spike_h": 15.0},
    ),
    Fault(
        "rough place", "crossing.x.track_noise_max", 0.3, 10.0,
        lambda d: {"rough": (-40.0, -15.0, d)}, _rough,
    ),
    Fault(
        "cross-talk", "crossing.x.cross_talk", 0.02, 0.4,
        lambda d: {"crosstalk": d}, lambda made, d: made.change("y", cross=d),
    ),
    Fault("sag when held", "hold.sag", 0.5, 20.0, lambda d: {"sag": d}, _on_x(fade=1.0)),
    Fault(
        "drops when held", "hold.dropouts_per_min", 0.1, 4.0,
        lambda d: {"drops": d}, _on_x(dropouts=1.0),
    ),
    Fault("loose joint", "joint.jumps_per_min", 0.05, 4.0, lambda d: {"loose": d}, _on_x(loose=1.0)),
    Fault(
        "slow to settle", "let_go.settle_ms_p90", 0.02, 0.5,
        lambda d: {"creep": 8.0, "settle_tau": d},
        body=lambda b, d: replace(b, damping=0.6 + 12 * d),
    ),
    Fault(
        "half an axis short", "rim.circularity_error", 0.01, 0.4,
        lambda d: {"scale": (1 - d, 1, 1, 1)}, _half,
    ),
    Fault(
        "scaled too small", "rim.outer_dead_zone_needed", 0.01, 0.4,
        lambda d: {"scale": (1 - d,) * 4}, _short,
    ),
    Fault("scaled too far", "rim.overrun", 0.26, 0.5, lambda d: {"scale": (1 + d,) * 4}, _all_over),
    Fault(
        "rub at the rim", "composite.shape_after_recalibration", 1.0, 35.0,
        lambda d: {"rub": d, "bind_bearing": 60.0},
        body=lambda b, d: replace(b, rub=d, rub_bearing=60.0),
    ),
)  # fmt: skip


@dataclass(frozen=True)
class Seen:
    """One pair: whose stick, which fault, by what kind of source, how many times as large as is
    detectable it truly was, and whether a mended one was called better and nothing else."""

    whose: str
    fault: str
    source: str
    times: float
    right: bool


@cache
def _way(body: Body, seed: int, hand: int) -> Way:
    """How a hand moves a body through the whole routine."""
    ideal = Sensor(noise=0.0)
    stick = Stick(body, Module(x=ideal, y=ideal), converter=Converter(16, WAY_HZ, 0.0))
    chance = np.random.default_rng([seed, hand])
    stand_in = StandIn(stick, seed + 1009 * hand, manner=manner(chance))
    run = perform(stand_in, Routine(), block_s=0.05)
    return Way(run.recording.t, run.clean, run.recording.step, body.gate, binds=False)


def own_take(seed: int, hand: int, fault: Fault | None = None, size: float = 0.0) -> TakeReadings:
    rng = np.random.default_rng([seed, 4])
    body = Body(
        friction_x=float(rng.uniform(0.05, 0.5)),
        friction_y=float(rng.uniform(0.05, 0.5)),
        spring_hz=float(rng.uniform(10, 20)),
    )
    sensors = {axis: replace(sound_sensor(rng), wear=0.0, dirt=0.0) for axis in ("x", "y")}
    every, bits = int(rng.choice((1, 2, 4))), int(rng.choice((8, 10, 12)))
    full = Calibration((0.0, 0.0), (FULL, FULL), (FULL, FULL))
    made = Assembly(sensors, full, Converter(bits, WAY_HZ / every), {}, {})
    if fault and fault.body:
        body = fault.body(body, size)
    elif fault and fault.own:
        fault.own(made, size)
    way = _way(body, seed, hand)
    chance = np.random.default_rng([seed, hand, 6])
    t, tilt, step = way.t[::every], way.tilt[::every], way.step[::every]
    recording = as_sent(sensed(made, t, tilt, step, chance), chance, SENT[seed % len(SENT)])
    return measure_take(recording, "round")


def their_take(seed: int, hand: int, fault: Fault | None = None, size: float = 0.0) -> TakeReadings:
    rng = np.random.default_rng([seed, 3])
    usual = {
        "noise": float(np.exp(rng.uniform(np.log(0.03), np.log(0.2)))),
        "friction": float(rng.uniform(0.1, 0.5)),
        "offset": tuple(rng.normal(0, 1, 2)),
        "pink": float(rng.uniform(0, 0.15)),
        "approach": str(rng.choice(["dwell", "straight", "spiral"])),
        "bits": int(rng.choice([8, 10, 12])),
        "rate": float(rng.choice([125.0, 250.0, 500.0])),
    }
    return foreign_take(seed, hand, **(usual | (fault.foreign(size) if fault else {})))


TAKE = {"own": own_take, "foreign": their_take}
TRIALS = range(21, 21 + TRIED)
BEFORE, AFTER = range(1, 1 + HANDS), range(11, 11 + HANDS)
"""The hands: of what is tried out, and of the takes before and after."""


def one(of: tuple[str, int]) -> list[Seen]:
    """Every pair of one stick, with each of the faults."""
    warnings.simplefilter("ignore")
    _way.cache_clear()
    whose, seed = of
    try:
        good = [TAKE[whose](seed, hand) for hand in AFTER]
    except RuntimeError:
        return []
    seen: list[Seen] = []
    for fault in FAULTS:
        if whose == "own" and not (fault.own or fault.body):
            continue
        # No hand brings every stick through the routine.
        with suppress(RuntimeError):
            seen += _with_fault(whose, fault, seed, good)
    return seen


def _with_fault(whose: str, fault: Fault, seed: int, good: list[TakeReadings]) -> Iterator[Seen]:
    source = str(SENT[seed % len(SENT)]) if whose == "own" else "foreign sticks"
    without = np.array([_value(take, fault.reading) for take in good])
    size = sqrt(fault.least * fault.most)
    for hand in TRIALS:
        tried = TAKE[whose](seed, hand, fault, size)
        row = compare(tried, good[0], HERE, HERE).row(fault.reading)
        change = _value(tried, fault.reading) - float(np.nanmean(without))
        if row is None or not row.detectable or not change > 0:
            return
        size *= WANTED[seed % len(WANTED)] * row.detectable / change
        size = min(max(size, fault.least), fault.most)
    bad = [TAKE[whose](seed, hand, fault, size) for hand in BEFORE]
    larger = np.array([_value(take, fault.reading) for take in bad]) - without
    for k, (before, after) in enumerate(zip(bad, good, strict=True)):
        compared = compare(before, after, HERE, HERE)
        row = compared.row(fault.reading)
        if row is None or not row.detectable or row.verdict == "not-comparable":
            continue
        true = float(np.nanmean(np.delete(larger, k)))
        right = compared.overall == "better"
        yield Seen(whose, fault.name, source, true / row.detectable, right)


def _value(take: TakeReadings, reading: str) -> float:
    value = take.value(reading)
    return np.nan if value is None else value


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--each", type=int, default=24, help="sticks with every fault")
    parser.add_argument("--seed", type=int, default=7_000_000, help="of the first")
    args = parser.parse_args()
    began = time.monotonic()
    whose = ("own", "foreign") if FOREIGN.exists() else ("own",)
    seeds = range(args.seed, args.seed + args.each)
    asked = [(who, seed) for who in whose for seed in seeds]
    with ProcessPoolExecutor() as pool:
        seen = [pair for pairs in pool.map(one, asked) for pair in pairs]
    PAGE.write_text(page(seen, time.monotonic() - began), "utf-8")
    print(PAGE.read_text("utf-8"))


def _shares(seen: list[Seen]) -> str:
    cells = []
    for low, high in ABOUT:
        within = [pair.right for pair in seen if low <= pair.times < high]
        cells.append(f"{sum(within)} of {len(within)}" if within else "")
    return " | ".join(cells)


def page(seen: list[Seen], seconds: float) -> str:
    lines = [
        "# What is seen where something did change",
        "",
        f"Written by `make changes` ({seconds:.0f} s), with seeds that no test uses. A stick with one "
        "fault, and the same stick without it, each taken by four hands: how often the verdict on the "
        "two is “better” and nothing else. By how many times the change is as large as what the "
        "comparison calls detectable: surely real, and a quarter of its limit, or a tenth where that "
        "is far more than can be seen. How large it truly is, is what other hands find on average.",
        "",
        "| what was mended | read by | once | twice | more | foreign sticks: once | twice | more |",
        "| --- | --- | ---: | ---: | ---: | ---: | ---: | ---: |",
    ]
    by_fault: dict[tuple[str, str], list[Seen]] = defaultdict(list)
    for pair in seen:
        by_fault[pair.whose, pair.fault].append(pair)
    for fault in FAULTS:
        own, theirs = (_shares(by_fault[who, fault.name]) for who in ("own", "foreign"))
        lines.append(f"| {fault.name} | `{fault.reading}` | {own} | {theirs} |")
    own, theirs = ([p for p in seen if p.whose == who] for who in ("own", "foreign"))
    lines.append(f"| all | | {_shares(own)} | {_shares(theirs)} |")
    lines += [
        "",
        "Once is 0.7 to 1.4 times, twice 1.6 to 2.5. Dead spans are counted, and one is one; what "
        "wanders need not do so again in the next ten seconds, so that no wander is twice as large as "
        "what that leaves open: neither is in the table.",
        "",
        "| source | once | twice | more |",
        "| --- | ---: | ---: | ---: |",
    ]
    kinds = Counter(pair.source for pair in seen)
    for kind in kinds:
        lines.append(f"| {kind} | {_shares([p for p in seen if p.source == kind])} |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    main()
