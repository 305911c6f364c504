"""How near the readings come to the truth, on stand-ins drawn at random: `make accuracy` writes
docs/accuracy.md.

Every stand-in has up to three faults at once, 8 to 16 bits and 60 Hz to 1 kHz. The truth is worked
out here from the noise-free signal that the measuring code never sees, in ways of its own.

The uncertainties are proven on pairs: the same untouched stick taken twice must differ by no more
than ± 2u of the difference, as often as it should.
"""

from __future__ import annotations

import argparse
import platform
from collections import defaultdict
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from math import hypot
from pathlib import Path

import numpy as np
from scipy.ndimage import median_filter
from scipy.optimize import minimize

from hollow_pin.core.catalogue import READINGS
from hollow_pin.core.comparable import Setting
from hollow_pin.core.comparison import Comparison, compare
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.cases import manner
from hollow_pin.simulator.conditions import random_stick
from hollow_pin.simulator.perform import Performance, perform
from hollow_pin.simulator.stand_in import StandIn
from hollow_pin.simulator.stick import Stick
from pairs import FOREIGN, foreign_pair

FIRST_FOREIGN = 60_000_000
PAGE = Path(__file__).parents[1] / "docs" / "accuracy.md"
LIES_WITHIN = 1.0
"""What goes by more in a quarter of a second, %, does not lie there."""
ALLOWED_ABSOLUTE, ALLOWED_RELATIVE = 0.5, 0.10
COVERED = [r.path for r in READINGS if r.headline and r.step != "turn"]
HERE = Setting("untouched", "left", "stand-in", "round")


def _part(p: Performance, step: str) -> slice:
    return p.recording.attempts(step)[-1]


def _releases(p: Performance) -> Iterator[np.ndarray]:
    """Where each release left the noise-free signal."""
    part = _part(p, "let-go")
    t, clean = p.recording.t[part], p.clean[part]
    rest = p.clean[_part(p, "still")].mean(axis=0)
    far = np.hypot(*(clean - rest).T) > 55
    for end in np.flatnonzero(far[:-1] & ~far[1:]):
        late = (t > t[end] + 1.2) & (t < t[end] + 1.45)
        # A slow hand is on its way out again long before it is there.
        if late.any() and np.ptp(np.hypot(*(clean[late] - rest).T)) < LIES_WITHIN:
            yield clean[late].mean(axis=0)


def truth(p: Performance) -> dict[str, float]:
    """What the readings ought to be, by the signal alone and the noise that was laid over it."""
    true_values: dict[str, float] = {}
    still = _part(p, "still")
    rest = p.clean[still].mean(axis=0)
    true_values["still.rest_x"], true_values["still.rest_y"] = rest
    true_values["still.rest_offset"] = float(np.hypot(*rest))
    finals = np.array(list(_releases(p)))
    if len(finals) > 2:
        lengths = np.hypot(*finals.T)
        apart = np.hypot(*(finals[:, None] - finals[None]).transpose(2, 0, 1))
        true_values["let_go.return_max"] = float(lengths.max())
        true_values["let_go.return_spread"] = float(apart.max())
    rim = np.clip(p.clean[_part(p, "rim")], -100, 100)
    out = rim[np.hypot(*rim.T) > 0.6 * np.percentile(np.hypot(*rim.T), 95)]
    which = np.floor(np.degrees(np.arctan2(*out.T)) / 5 + 0.5).astype(int) % 72
    radius = np.array(
        [np.median(np.hypot(*out[which == b].T)) for b in range(72) if (which == b).any()]
    )
    true_values["rim.circularity_error"] = _off_round(rim)
    true_values["rim.mean_radius"] = float(radius.mean())
    return {k: float(v) for k, v in true_values.items()}


def _off_round(rim: np.ndarray) -> float:
    """How far the bearings' middle lengths are from 100, of `rim` (n, 2). Where an axis ends, a
    program is given no more: what lies beyond the gate does not count there."""
    out = rim[np.hypot(*rim.T) > 60]
    which = (np.degrees(np.arctan2(*out.T)) % 360 // 5).astype(int)
    ended = (np.abs(out) >= 99.9).any(axis=1)
    bearings = [b for b in range(72) if (which == b).any()]
    off = np.array([np.median(np.hypot(*out[which == b].T)) - 100 for b in bearings])
    cut = np.array([ended[which == b].mean() > 0.5 for b in bearings])
    return float(np.abs(np.where(cut, np.minimum(off, 0), off)).mean())


def _carried(stick: Stick) -> dict[str, float]:
    """How far a push along each axis, as straight as no hand's, carries the other one along."""
    way = np.linspace(-90, 90, 500)
    t_us = np.arange(len(way)) * 4000
    carried = {}
    for i, axis in enumerate("xy"):
        tilt = np.zeros((len(way), 2))
        tilt[:, i] = way
        clean = StandIn(stick, 1).sensed(t_us, t_us / 1e6, tilt, pressed=True).clean
        carried[f"crossing.{axis}.cross_talk"] = float(np.ptp(clean[:, 1 - i]))
    return carried


def _laid_over(p: Performance, step: str) -> np.ndarray:
    """What noise and converter laid over the signal; what lasts half a second is not noise."""
    part = _part(p, step)
    u = p.recording.u[part]
    over = u - p.clean[part]
    rate = 1 / np.median(np.diff(p.recording.t[part]))
    size = max(3, int(0.5 * rate) | 1)
    over = over - np.column_stack([median_filter(v, size) for v in over.T])
    # A jump to an end or the middle is the joint's, and told of it alone.
    jumped = (np.abs(over) >= 15) & (np.abs(u - 100 * np.round(u / 100)) <= 1.5)
    return over[~jumped.any(axis=1)]


def _noise(p: Performance, known: dict[str, float]) -> dict[str, float]:
    """Jitter, and the dead zones that are made of the returns and of how far the noise reaches."""
    over = _laid_over(p, "still")
    noise = {f"still.jitter_{axis}": float(v.std()) for axis, v in zip("xy", over.T, strict=True)}
    usual = 1.4826 * np.median(np.abs(over), axis=0)
    step = [np.diff(np.unique(v)).min(initial=1.0) for v in p.recording.u.T]
    calm = (np.abs(over) <= 6 * np.maximum(usual, np.array(step) / 2)).all(axis=1)
    reach = float(np.percentile(np.hypot(*over[calm].T), 99.9)) if calm.any() else 0.0
    finals = np.array(list(_releases(p)))
    if len(finals) > 2:
        farthest = max(known["let_go.return_max"], known["still.rest_offset"])
        noise["composite.dead_zone_needed"] = farthest + reach
        middle = minimize(
            lambda c: np.hypot(*(finals - c).T).max(), finals.mean(axis=0), method="Nelder-Mead"
        )
        noise["composite.dead_zone_after_recentring"] = float(middle.fun) + reach
    return noise


def _sag(p: Performance, readings: TakeReadings) -> dict[str, float]:
    """How fast the noise-free signal falls back in the hold that was found to fall most."""
    if not readings.hold:
        return {}
    worst = max(readings.hold, key=lambda h: h.sag)
    inside = (p.recording.t >= worst.t_s) & (p.recording.t <= worst.end_s)
    b = np.radians(worst.bearing)
    along = np.clip(p.clean[inside], -100, 100) @ (np.sin(b), np.cos(b))
    return {"hold.sag": float(-3 * np.polyfit(p.recording.t[inside], along, 1)[0])}


Agreed = tuple[float, float]
"""How far apart two takes read, in standard uncertainties of their difference; and from which share of
its limit on a change of it decides, not a number where it has none."""
Findings = tuple[dict[str, tuple[float, float]], dict[str, Agreed], tuple[str, ...], str]


def one(seed: int) -> Findings:
    """A stand-in, taken twice: (measured, true) by reading; whether they agree; what is hidden; what
    is said of the two."""
    stick = random_stick(seed)
    try:
        takes = [
            perform(
                StandIn(stick, 1000 * seed + i, manner=manner(np.random.default_rng([seed, i]))),
                block_s=0.1,
            )
            for i in range(2)
        ]
    except RuntimeError as stuck:
        return {}, {}, (f"not performed: {stuck}",), ""
    readings = [measure_take(p.recording) for p in takes]
    first = readings[0]
    errors: dict[str, tuple[float, float]] = {}
    known = truth(takes[0])
    known |= _noise(takes[0], known) | _sag(takes[0], first) | _carried(stick)
    for path, true in known.items():
        value = first.value(path)
        if value is not None and not first.hidden_at(path):
            errors[path] = value, true
    compared = compare(*readings, HERE, HERE)
    agreed = dict(_agreement(*readings, compared))
    return errors, agreed, tuple(h.code for h in first.hidden), compared.overall


def _agreement(
    a: TakeReadings, b: TakeReadings, compared: Comparison
) -> Iterator[tuple[str, Agreed]]:
    for path in COVERED:
        va, vb = a.value(path), b.value(path)
        ua, ub = a.uncertainty.get(path), b.uncertainty.get(path)
        if None in (va, vb, ua, ub) or a.hidden_at(path) or b.hidden_at(path):
            continue
        if va == vb == 0:
            continue  # nothing to count, twice: that proves no uncertainty
        row = compared.row(path)
        decides = row.detectable / row.limit if row and row.limit and row.detectable else np.nan
        yield path, ((va - vb) / hypot(ua, ub), decides)  # type: ignore[operator, arg-type]


def one_foreign(seed: int) -> dict[str, Agreed]:
    """Of two takes of a foreign stick, by two hands."""
    takes = foreign_pair(seed)
    return dict(_agreement(*takes, compare(*takes, HERE, HERE)))


def _scatter(agreed: dict[str, list[Agreed]], path: str) -> str:
    """Pairs, scatter, and from which share of the limit on half of them would decide."""
    each = np.array(agreed.get(path, [])).reshape(-1, 2)
    if not len(each):
        return "0 | | "
    known = each[np.isfinite(each[:, 1]), 1]
    decides = f"{np.median(known):.2f}" if known.size else ""
    return f"{len(each)} | {np.sqrt(np.mean(np.square(each[:, 0]))):.2f} | {decides}"


def within(measured: float, true: float) -> bool:
    return abs(measured - true) <= max(ALLOWED_ABSOLUTE, ALLOWED_RELATIVE * abs(true))


def page(count: int, workers: int) -> str:
    errors: dict[str, list[tuple[float, float]]] = defaultdict(list)
    agreed: dict[str, list[Agreed]] = defaultdict(list)
    hidden: dict[str, int] = defaultdict(int)
    said: dict[str, int] = defaultdict(int)
    with ProcessPoolExecutor(workers) as pool:
        for rows, agree, codes, overall in pool.map(one, range(1, count + 1), chunksize=4):
            for path, pair in rows.items():
                errors[path].append(pair)
            for path, apart in agree.items():
                agreed[path].append(apart)
            for code in set(codes):
                hidden[code] += 1
            if overall:
                said[overall] += 1
        foreign: dict[str, list[Agreed]] = defaultdict(list)
        seeds = range(FIRST_FOREIGN, FIRST_FOREIGN + count) if FOREIGN.exists() else ()
        for agree in pool.map(one_foreign, seeds, chunksize=4):
            for path, apart in agree.items():
                foreign[path].append(apart)
    lines = [
        "# Accuracy",
        "",
        f"Made by `make accuracy` on {count} stand-ins drawn at random: potentiometer and Hall, up to "
        "three faults of the bench at once, 8 to 16 bits, 60 Hz to 1 kHz, the whole routine. "
        f"{platform.machine()}, Python {platform.python_version()}, numpy {np.__version__}.",
        "",
        "The truth is worked out from the noise-free signal, which nothing that measures can see "
        "(`evaluation/accuracy.py`); that of cross-talk is what a push straight along the axis would "
        "carry along, and no hand's is. A reading that a source hides is left out here, as it is from "
        "every verdict.",
        "",
        f"| reading | stand-ins | median error | 95th percentile | within {ALLOWED_ABSOLUTE} % or "
        f"{100 * ALLOWED_RELATIVE:.0f} %, the larger |",
        "| --- | ---: | ---: | ---: | ---: |",
    ]
    for path, pairs in sorted(errors.items()):
        off = np.array([abs(m - t) for m, t in pairs])
        share = np.mean([within(m, t) for m, t in pairs])
        lines.append(
            f"| `{path}` | {len(off)} | {np.median(off):.3f} | {np.percentile(off, 95):.3f} | "
            f"{100 * share:.1f} % |"
        )
    every = [abs(apart) <= 2 for each in agreed.values() for apart, _ in each]
    claimed = sum(said[overall] for overall in ("better", "worse", "mixed"))
    lines += [
        "",
        "## Uncertainty",
        "",
        "Two takes of the same untouched stand-in, by different hands: how often they agree within "
        f"twice the uncertainty of their difference. All headline readings: "
        f"**{100 * np.mean(every):.1f} %** of {len(every)} comparisons.",
        "",
        "| reading | pairs | scatter over stated u | decides from | within ± 2u "
        "| pairs of foreign sticks | theirs | decides from |",
        "| --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: |",
        *(
            f"| `{path}` | {_scatter(agreed, path)} | "
            f"{100 * np.mean([abs(apart) <= 2 for apart, _ in each]):.1f} % | "
            f"{_scatter(foreign, path)} |"
            for path, each in sorted(agreed.items())
        ),
        "",
        "Scatter is the root mean square of their difference over its stated uncertainty: 1 is honest"
        " to the letter, less is wider than it need be. The foreign sticks are of another's physics "
        "and hands. What is wider has a floor that no take shows: half a step of the converter, how "
        "hard another hand presses outward, how straight it goes, how soon it opens. What that costs "
        "is beside it: from which share of its limit on a change of the reading decides, in half of "
        "the pairs. How often one is seen that is so large, and twice, is in "
        "[changes.md](changes.md).",
        "",
        "## Verdicts where nothing was done",
        "",
        "The same two takes set against each other, as before and after. A change is claimed where "
        f"there was none in **{claimed} of {sum(said.values())}**; loose contacts, which are never "
        "twice the same, are among them.",
        "",
        "| said | pairs |",
        "| --- | ---: |",
        *(f"| {overall} | {n} |" for overall, n in sorted(said.items())),
        "",
        "## What was hidden",
        "",
        "| found | stand-ins |",
        "| --- | ---: |",
        *(f"| {code} | {n} |" for code, n in sorted(hidden.items())),
    ]
    return "\n".join(lines) + "\n"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--output", type=Path, default=PAGE)
    options = parser.parse_args()
    options.output.write_text(page(options.count, options.workers), "utf-8")
    print(options.output.read_text("utf-8"))


if __name__ == "__main__":
    main()
