"""How well causes are told, on takes whose causes are known: `make diagnosis` fits the weights anew
(src/hollow_pin/core/weights.json) and writes docs/diagnosis.md.

Fitted to one set of stand-ins, judged on another of seeds that were never fitted to. Hands, gates,
sources, rates, widths and severities vary in both; steps are missing in some.
"""

from __future__ import annotations

import argparse
import json
import platform
import time
import warnings
from collections import Counter, defaultdict
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from scipy.optimize import minimize

from hollow_pin.core.causes import CAUSE, CAUSES, SOUND
from hollow_pin.core.evidence import evidence_of
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.prospect import CIRCULARITY, DEAD_ZONE, RETURNS, prospects
from hollow_pin.core.ranking import (
    MOST_ABSENT,
    MOST_AGAINST,
    MOST_FOR,
    MOST_FREE,
    NEAR,
    OPEN,
    SEEN,
    SPEAKS,
    THE_STICK,
    WITHIN,
    Ranked,
    Weights,
    rank,
    weighed,
)
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.cases import case, path
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.perform import perform
from hollow_pin.simulator.repairs import REPAIRS, Treatment, repaired
from hollow_pin.simulator.stand_in import StandIn

ROOT = Path(__file__).parents[1]
WEIGHTS = ROOT / "src" / "hollow_pin" / "core" / "weights.json"
PAGE = ROOT / "docs" / "diagnosis.md"
STRETCHED_MOST = 2.5
RIDGE = 5e-4
SOUND_MOST, SOUND_FREE = 6.0, 1.0
BINDING_COUNTS = 0.6
"""A quarter of the paths bind: counted as if it were no more than other causes are."""

RECALIBRATED = ("offset", "sound", "miscalibrated", "unseated", "worn", "overscaled")


@dataclass(frozen=True)
class Recalibrated:
    """One stand-in that was recalibrated, %. zone, rim: how far off the forecast was, of the dead zone
    needed and of the circularity error, None where it is not forecast. inside: whether the first lay
    in its range. again: how far apart two takes of it lie afterwards. returns: it comes back to one
    place."""

    zone: float | None
    rim: float | None
    inside: bool
    again: float | None
    returns: bool


def _recalibrated(seed: int) -> Recalibrated:
    warnings.simplefilter("ignore")
    condition = RECALIBRATED[seed % len(RECALIBRATED)]
    stick = fresh_stick("potentiometer", "round", 12, 250.0, condition, seed)
    before = measure_take(perform(StandIn(stick, seed), block_s=0.1).recording)
    mended = repaired(stick, "recalibrated", Treatment(seed=seed))
    after, later = (
        measure_take(perform(StandIn(mended, seed + hand), block_s=0.1).recording)
        for hand in (77, 78)
    )
    offered = prospects(before, rank(before), "everyday", LIMIT_OF)
    expected = next((p.expected for p in offered if p.remedy == "recalibrated"), {})
    zone, round_ = expected.get(DEAD_ZONE), expected.get(CIRCULARITY)
    needed, needed_later = after.composite.dead_zone_needed, later.composite.dead_zone_needed
    error = after.rim.circularity_error if after.rim else None
    apart = before.value(RETURNS)
    return Recalibrated(
        zone.middle - needed if zone and needed is not None else None,
        round_.middle - error if round_ and error is not None else None,
        bool(zone and needed is not None and zone.low - 0.3 <= needed <= zone.high + 0.3),
        needed - needed_later if needed is not None and needed_later is not None else None,
        apart is not None and apart < LIMIT_OF[RETURNS].everyday,
    )


def forecasts(count: int) -> list[str]:
    """What recalibrations were forecast, against recalibrating and measuring again."""
    with ProcessPoolExecutor() as pool:
        pairs = list(pool.map(_recalibrated, range(900, 900 + count)))
    lines = [
        "## What a recalibration was forecast to leave",
        "",
        f"{count} stand-ins, off centre, sound, with another part's calibration, lopsided, worn and "
        "scaled into their ends, measured, really recalibrated, and measured again by another hand.",
        "",
        "| reading | forecast of | off by, median | 95 of 100 within | in its range |",
        "| --- | ---: | ---: | ---: | ---: |",
    ]
    zones = [r for r in pairs if r.zone is not None]
    for name, rows in (
        ("dead zone needed", zones),
        ("of those that come back to one place", [r for r in zones if r.returns]),
    ):
        off = np.abs([r.zone for r in rows if r.zone is not None])
        inside = 100 * sum(r.inside for r in rows) / len(rows)
        lines.append(
            f"| {name} | {len(rows)} of {count} | {np.median(off):.2f} % "
            f"| {np.percentile(off, 95):.2f} % | {inside:.0f} % |"
        )
    off = np.abs([r.rim for r in pairs if r.rim is not None])
    lines.append(
        f"| circularity error | {len(off)} of {count} | {np.median(off):.2f} % "
        f"| {np.percentile(off, 95):.2f} % | |"
    )
    again = np.abs([r.again for r in pairs if r.again is not None])
    lines += [
        "",
        f"Two takes of one recalibrated stand-in, by two hands, need dead zones that lie "
        f"{np.median(again):.2f} % apart at the median and within {np.percentile(again, 95):.2f} % 95 "
        "times in 100: a worn contact is not the same twice, and no forecast comes nearer than that.",
    ]
    return [*lines, ""]


REPAIRED = (
    "offset",
    "worn",
    "dirty",
    "binding",
    "unseated",
    "loose",
    "miscalibrated",
    "failing",
    "humming",
    "overscaled",
)
Told = tuple[str, float, bool]
"""What a chance to pass was told by, the chance, and whether it passed."""


def _repaired(seed: int) -> list[Told]:
    """Recalibrating, what was told the best chance, and one more of what was offered: each done to the
    same stand-in, which is then measured by another hand."""
    warnings.simplefilter("ignore")
    condition = REPAIRED[seed % len(REPAIRED)]
    stick = fresh_stick("potentiometer", "round", 12, 250.0, condition, seed)
    before = measure_take(perform(StandIn(stick, seed), block_s=0.1).recording)
    offered = [
        p
        for p in prospects(before, rank(before), "everyday", LIMIT_OF)
        if p.remedy in REPAIRS and BY_CODE[p.remedy].mends
    ]
    chosen = {p.remedy: p for p in offered if p.remedy == "recalibrated"}
    chosen |= {p.remedy: p for p in offered[:1]}
    if offered:
        other = offered[np.random.default_rng(seed).integers(len(offered))]
        chosen[other.remedy] = other
    repaired_by: list[Told] = []
    for remedy, prospect in chosen.items():
        mended = repaired(stick, remedy, Treatment(seed=seed))
        after = measure_take(perform(StandIn(mended, seed + 91), block_s=0.1).recording)
        repaired_by.append((prospect.basis, prospect.chance, explain(after).asks == "nothing"))
    return repaired_by


def chances(count: int) -> list[str]:
    """The chance to pass that was told, against doing it and measuring again."""
    with ProcessPoolExecutor() as pool:
        told = [t for some in pool.map(_repaired, range(1900, 1900 + count)) for t in some]
    lines = [
        "## Whether a chance to pass is one",
        "",
        f"{count} stand-ins with one of {len(REPAIRED)} faults, each repaired two or three ways (by "
        "recalibrating, by what was told the best chance, by one drawn at random) and measured again. "
        "Chances that are worked out from the take stand apart from those by the usual word of the "
        "trade: the repairs of a stand-in mostly succeed, whatever the trade says of them; on a bench "
        "the shop's own record takes the place of that word.",
        "",
        "| by | told | how often | mean told | passed |",
        "| --- | --- | ---: | ---: | ---: |",
    ]
    for basis, name in (("take", "the take"), ("table", "the usual word")):
        for fifth in range(5):
            some = [t for t in told if t[0] == basis and min(4, int(5 * t[1])) == fifth]
            if some:
                mean = 100 * sum(t[1] for t in some) / len(some)
                passed = 100 * sum(t[2] for t in some) / len(some)
                lines.append(
                    f"| {name} | {20 * fifth}–{20 * fifth + 20} % | {len(some)} | {mean:.0f} % "
                    f"| {passed:.0f} % |"
                )
    return [*lines, ""]


Known = tuple[dict[str, str | None], TakeReadings]


def _takes(asked: tuple[int, int, bool]) -> list[Known]:
    warnings.simplefilter("ignore")
    seed, each, binds = asked
    way = path(seed, binds)
    made = [case(way, seed * 1000 + k) for k in range(each)]
    return [(c.causes, measure_take(c.recording, c.gate)) for c in made]


def takes(first_seed: int, paths: int, each: int) -> list[Known]:
    """Takes and their causes; empty where the stick is sound."""
    asked = [(first_seed + i, each, i % 4 == 3) for i in range(paths)]
    with ProcessPoolExecutor() as pool:
        return [known for some in pool.map(_takes, asked, chunksize=2) for known in some]


def fit(known: list[Known]) -> dict[str, dict]:
    """The weights of every cause: a logistic regression each, ridge, every weight of the sign and at
    most of the size that ranking.py lays down."""
    evidence = [evidence_of(take) for _, take in known]
    counts = np.array([BINDING_COUNTS if "binding" in causes else 1.0 for causes, _ in known])
    return {c.code: _fit_one(c.code, known, evidence, counts) for c in CAUSES}


def _fit_one(cause: str, known: list[Known], evidence: list, counts: np.ndarray) -> dict:
    by_axis = CAUSE[cause].by_axis
    rows, there, of = [], [], []
    for n, (causes, _) in enumerate(known):
        for axis in ("x", "y") if by_axis else ("x",):
            on = weighed(cause, evidence[n], axis)
            rows.append([np.nan if v is None else v for v in on.values()])
            if cause == SOUND:
                there.append(not causes)
            else:
                named = causes.get(cause)
                there.append(cause in causes and (not by_axis or named in (None, axis)))
            of.append(n)
    values, truth, take = np.array(rows), np.array(there, float), np.array(of)
    sides = np.hstack((np.maximum(values, 0), np.minimum(values, 0)))
    usual = np.nanmean(sides, axis=0)
    centred = np.nan_to_num(sides - usual)
    weight = counts[take] / counts[take].mean()
    signs = list(SPEAKS[cause].values())
    bounds = [(None, None), *(_bound(cause, s, True) for s in signs)]
    bounds += [_bound(cause, s, False) for s in signs]

    def loss(p: np.ndarray) -> tuple[float, np.ndarray]:
        z = p[0] + centred @ p[1:]
        off = weight * (1 / (1 + np.exp(-z)) - truth)
        value = (weight * (np.logaddexp(0, z) - truth * z)).mean() + RIDGE * (p[1:] ** 2).sum()
        slope = centred.T @ off / len(off) + 2 * RIDGE * p[1:]
        return float(value), np.concatenate(([off.mean()], slope))

    start = np.zeros(1 + centred.shape[1])
    p = minimize(loss, start, jac=True, method="L-BFGS-B", bounds=bounds).x
    p = _by_takes(p, centred, truth, take, counts)
    names = list(SPEAKS[cause])
    k = len(names)
    above, below = p[1 : 1 + k], p[1 + k :]
    adds = above * usual[:k] + below * usual[k:]
    return {
        "bias": round(float(p[0]), 3),
        "above": dict(zip(names, np.round(above, 3).tolist(), strict=True)),
        "below": dict(zip(names, np.round(below, 3).tolist(), strict=True)),
        "usual": dict(zip(names, np.round(adds, 3).tolist(), strict=True)),
    }


def _bound(cause: str, sign: int, above: bool) -> tuple[float, float]:
    if cause == SOUND:
        return (-(SOUND_MOST if above else SOUND_FREE), 0.0)
    if sign > 0:
        return (0.0, MOST_FOR if above else MOST_ABSENT)
    return (-(MOST_AGAINST if above else MOST_FREE), 0.0)


def _by_takes(
    p: np.ndarray, centred: np.ndarray, truth: np.ndarray, take: np.ndarray, counts: np.ndarray
) -> np.ndarray:
    """The same weights, stretched and shifted so that the worse axis of a take is told with the
    probability that it is so."""
    z = p[0] + centred @ p[1:]
    worst, so = np.full(len(counts), -np.inf), np.zeros(len(counts))
    np.maximum.at(worst, take, z)
    np.maximum.at(so, take, truth)

    def loss(q: np.ndarray) -> float:
        v = q[0] * worst + q[1]
        return float(((np.logaddexp(0, v) - so * v) * counts).sum() / counts.sum())

    # Where takes part wholly, the likeliest stretch has no end.
    bounds = [(1 / STRETCHED_MOST, STRETCHED_MOST), (None, None)]
    stretch, shift = minimize(loss, [1.0, 0.0], method="L-BFGS-B", bounds=bounds).x
    p = p * stretch
    p[0] += shift
    return p


Row = tuple[dict[str, str | None], tuple[Ranked, ...], bool]


def judged(known: list[Known], table: dict[str, dict]) -> list[Row]:
    """Each take's causes, what was ranked, and whether every step was there."""
    weights = {cause: Weights(**w) for cause, w in table.items()}
    rows = []
    for causes, take in known:
        whole = all((take.still, take.let_go, take.rim, take.crossing, take.hold))
        rows.append((causes, rank(take, by=weights), whole))
    return rows


def _share(rows: list[Row], right: Callable[[Row], bool]) -> str:
    if not rows:
        return "–"
    hits = sum(right(row) for row in rows)
    return f"{hits} of {len(rows)} ({100 * hits / len(rows):.1f} %)"


def page(rows: list[Row], fitted: int, seconds: float, forecast: list[str]) -> str:
    whole = [row for row in rows if row[2]]
    sound = [row for row in whole if not row[0]]
    single = [row for row in whole if len(row[0]) == 1]
    pair = [row for row in whole if len(row[0]) == 2]

    def first(row: Row) -> bool:
        return row[1][0].cause == next(iter(row[0]), SOUND)

    def both(row: Row) -> bool:
        return set(row[0]) <= {c.cause for c in row[1][:3]}

    def axis(row: Row) -> bool:
        cause, on = next(iter(row[0].items()))
        chance = next(c for c in row[1] if c.cause == cause)
        return on is None or chance.axis in (None, on)

    lines = [
        "# How well causes are told",
        "",
        f"Written by `make diagnosis` ({platform.machine()}, {seconds:.0f} s): the weights in "
        f"`src/hollow_pin/core/weights.json` were fitted to {fitted} stand-in takes and judged on "
        f"{len(rows)} others, of seeds that were never fitted to. Hands, gates, sources, rates, "
        "widths and severities vary, from barely worth a word to ruined; a third of the takes lack "
        "steps and are left out of the first table.",
        "",
        "| what is so | what is told |",
        "| --- | --- |",
        f"| sound: told to be sound | {_share(sound, first)} |",
        f"| one cause: it comes first | {_share(single, first)} |",
        f"| two causes: both among the first three | {_share(pair, both)} |",
        f"| one cause: on its axis | {_share([r for r in single if r[1] and r[0]], axis)} |",
        "",
        "## What is taken for what",
        "",
        "Rows: what is so, where it is one cause; columns: what comes first.",
        "",
        *_confusion(single + sound),
        "",
        "## Whether a probability is one",
        "",
        "Every cause of every take, by the probability it was told with; steps missing or not.",
        "",
        *_reliability(rows),
        "",
        *forecast,
        "## How it is worked out",
        "",
        "Every evidence (`core/evidence.py`) is a number with a scale. Its value in doublings of the "
        "scale, −2 to 3, times a weight, less what that comes to on the average, is added to the "
        "log-odds of the cause; what was not measured, or is hidden, adds nothing. Which evidence "
        "speaks for what, and which way, is laid down in `core/ranking.py`, and so is the most that "
        "each may weigh; how much is fitted (logistic regression, ridge, a cause at a time). The "
        "probabilities are each cause's own and do not add up to one.",
        "",
        "Nobody has counted how often a hand gives way while it holds a stick out, and the hands of "
        "the stand-ins never do. Of a hold that fell back and was done once the probabilities are "
        f"therefore {100 * THE_STICK:.0f} % of what they are if the track failed, and the rest of "
        "what they are if it was the hand; held again, they are the track's alone. What moved once "
        "in Still as by a touch speaks for no cause until Still is done again, and leaves as much "
        "less of being sound.",
        "",
        "Nor has anybody counted what an axis without a signal has, and no stand-in here is without "
        f"one: it is taken for an open joint by {100 * OPEN:.0f} %, for a dead sensor by the rest; "
        "where one side of it is not reached, for a track that is broken there, and for an end that "
        "was learnt from something else.",
        "",
        "Six more rules are laid down and not fitted. Of spikes that are felt with hands off, of "
        "places on the track that are surely rough, or pass after pass, of what comes back to "
        "different places or wanders with hands off, of both axes "
        "that tremble as one, or a single one that does so alike wherever it is, of one that "
        "trembles and another that does not, of what drops or falls back again while it is held, and "
        "of a rim that is surely cut short in one sector, or runs over the ends of its range and "
        "shows no more, nobody knows how many come from elsewhere: it is dirt, or wear, or the "
        "supply, or a failing track, or something that rubs, or a calibration, by "
        f"{100 * THE_STICK:.0f} % at least of what no other cause explains. So is what is told by "
        "limits of a model's own that are tighter than the usual ones: a "
        "centre that is off, cross-talk, a calibration, a bind. What comes "
        "to rest to one side, along the ways it came on and not aside of them, is held there by "
        f"{100 * SEEN:.0f} % at least, and its track worn by {100 - 100 * SEEN:.0f} % at most. A dead "
        f"zone that was measured in the source is there by {100 * SEEN:.0f} %, however small, and "
        "what it hides was not seen to be sound. A stick is sound no more probably than that it has "
        "none of "
        "the others, and where all that has a limit is within it and nothing else is likely, by "
        f"{100 * WITHIN:.0f} % at least: that is what limits are for. Beside an advice, or where "
        f"rest, returns or rim were not measured, it is sound by {100 * NEAR:.0f} % at most, and "
        f"beside one of these by the rest of the {100 * THE_STICK:.0f} %; by as "
        "much the source has a dead zone where a coarse converter rests at exactly zero and nothing "
        "crossed it, and there is dirt where it fell back while it was pushed and was not held. What "
        "comes back late for a "
        "sound one, and in time all the same, may be smoothed by its device: where all is within its "
        f"limit it binds by {100 * NEAR:.0f} % at most. And of jumps to an end or the middle that are "
        "surely more than none the readings say a joint, of fewer beside spikes or rough places they "
        "say dirt: what is not said is there by as much at most, since the shortest jumps of a joint "
        "are spikes, and dirt throws a contact to an end now and then. Nor does a supply make one "
        "axis tremble by four times as much as the other, or dirt a single one everywhere alike. "
        "Where dirt is likely, and the track drops no more than half as often as it spikes with hands "
        "off, with no place jumped over and no sag, it fails by "
        f"{100 - 100 * SEEN:.0f} % at most: it is cleaned first.",
        "",
    ]
    return "\n".join(lines)


def _confusion(rows: list[Row]) -> list[str]:
    table: dict[str, Counter] = defaultdict(Counter)
    for causes, ranked, _ in rows:
        table[next(iter(causes), SOUND)][ranked[0].cause] += 1
    codes = [c.code for c in CAUSES]
    lines = ["| | " + " | ".join(codes) + " |", "| --- |" + " ---: |" * len(codes)]
    for code in codes:
        cells = [str(table[code][other] or "") for other in codes]
        lines.append(f"| {code} | " + " | ".join(cells) + " |")
    return lines


def _reliability(rows: list[Row]) -> list[str]:
    told: dict[int, list[tuple[float, bool]]] = defaultdict(list)
    for causes, ranked, _ in rows:
        for c in ranked:
            so = c.cause in causes or (c.cause == SOUND and not causes)
            told[min(9, int(10 * c.probability))].append((c.probability, so))
    lines = ["| told | how often | mean told | so |", "| --- | ---: | ---: | ---: |"]
    for tenth in sorted(told):
        some = told[tenth]
        mean = 100 * sum(p for p, _ in some) / len(some)
        so = 100 * sum(s for _, s in some) / len(some)
        lines.append(
            f"| {10 * tenth}–{10 * tenth + 10} % | {len(some)} | {mean:.0f} % | {so:.0f} % |"
        )
    return lines


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--paths", type=int, default=220, help="to fit to; each sensed 20 times")
    parser.add_argument("--judged", type=int, default=100, help="to judge by; each sensed 10 times")
    parser.add_argument("--recalibrated", type=int, default=48, help="stand-ins to recalibrate")
    parser.add_argument("--repaired", type=int, default=60, help="stand-ins to repair")
    parser.add_argument("--only-judge", action="store_true", help="by the weights there are")
    args = parser.parse_args()
    began = time.monotonic()
    if args.only_judge:
        table, fitted = json.loads(WEIGHTS.read_text("utf-8")), args.paths * 20
    else:
        known = takes(200_000, args.paths, 20)
        table, fitted = fit(known), len(known)
        WEIGHTS.write_text(json.dumps(table, indent=1) + "\n", "utf-8")
    rows = judged(takes(700_000, args.judged, 10), table)
    forecast = forecasts(args.recalibrated) + chances(args.repaired)
    PAGE.write_text(page(rows, fitted, time.monotonic() - began, forecast), "utf-8")
    print(PAGE.read_text("utf-8"))


if __name__ == "__main__":
    main()
