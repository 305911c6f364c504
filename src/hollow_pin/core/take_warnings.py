"""What is to be minded of a take: what its rim, its reports and its places say beside the readings."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hollow_pin.core.gate import (
    AS_TOLD,
    Gate,
    fit_gate,
    has_a_straight_side,
    has_corners,
    looks_like,
)
from hollow_pin.core.hidden import FUZZ_LEAST
from hollow_pin.core.let_go import LetGoResult
from hollow_pin.core.readings import trembles_by_place
from hollow_pin.core.recording import (
    AXES,
    ROWS_LEFT_OUT,
    TIMES_COUNTED,
    TIMES_OF_ARRIVAL,
    Problem,
    Recording,
)
from hollow_pin.core.rim import (
    CLAMPED,
    RimResult,
    at_an_end,
    bin_of,
    binned_share,
    free_of_the_ends,
    made_even,
    radius_by_bearing,
    recentred,
)
from hollow_pin.core.sources import FAR_SHORT, OWN_NUMBERS
from hollow_pin.core.statistics import usual_interval
from hollow_pin.core.words import listed, percent

OTHER_GATE = 0.5
OTHER_GATE_LEAST = 6.0
"""A rim is said to be of another gate where that fits in half the deviation, and this one not within
so many % from peak to valley."""
SEEN_LEAST = 0.05
"""%, of changes that do not come: what is smaller nobody misses."""
LOST_TIMES, LOST_LEAST_S, LOST_SHARE = 4.0, 0.04, 0.01


def a_gate(gate: Gate) -> str:
    return "an octagonal" if gate == "octagon" else f"a {gate}"


def gate_seen(rim: RimResult, x: float, y: float, gate: Gate) -> Gate:
    """The gate that a rim looks most like about a middle (x, y), %, of a model that is said to have
    such a gate. What the ends of the range cut square on all sides, and goes out into no corners, is
    the best of the others."""
    about = recentred(rim.points, x, y)
    shape, fits = looks_like(free_of_the_ends(about, rim.cut))
    if shape != "square" or not at_an_end(rim):
        return shape
    even = made_even(about)
    radius, cut = radius_by_bearing(even), binned_share(rim.cut, bin_of(even)) > CLAMPED
    as_told = gate == "square" and has_corners(radius, fit_gate(radius, "square"), AS_TOLD)
    square = fit_gate(free_of_the_ends(even, rim.cut), "square")
    if as_told or has_corners(radius, square) or has_a_straight_side(radius, cut):
        return shape
    return min((g for g in fits if g != shape), key=lambda g: fits[g].rms)


def other_gate(seen_gate: Gate | None, rim: RimResult | None, gate: Gate) -> list[Problem]:
    """A rim that looks far more like another gate than like the one the model has."""
    if rim is None or seen_gate is None or seen_gate == gate:
        return []
    # Whatever a half axis was learnt from, and whatever it is carried along by, is no other gate.
    even = made_even(recentred(rim.points, rim.readings.lsc_x, rim.readings.lsc_y))
    _, fits = looks_like(free_of_the_ends(even, rim.cut))
    if (
        fits[seen_gate].rms > OTHER_GATE * fits[gate].rms
        or fits[gate].peak_to_valley < OTHER_GATE_LEAST
    ):
        return []
    message = (
        f"it looks like {a_gate(seen_gate)} gate, and is held against {a_gate(gate)} one. "
        "See that the model is right."
    )
    return [Problem("rim", "gate", message, "mind")]


def lost_reports(recording: Recording) -> list[Problem]:
    """Reports that a link lost: said, and not taken for the stick's."""
    dt = np.diff(recording.t)
    usual = usual_interval(dt)
    gaps = dt > max(LOST_TIMES * usual, LOST_LEAST_S)
    share = float(dt[gaps].sum() / dt.sum()) if usual > 0 and dt.sum() else 0.0
    if share < LOST_SHARE or gaps.sum() < 3:
        return []
    message = (
        f"{int(gaps.sum())} times nothing came for {1e3 * float(np.median(dt[gaps])):.0f} ms or so, "
        f"{100 * share:.0f} % of the time in all. That is the cable or the link, not the stick."
    )
    return [Problem("take", "lost-reports", message, "mind")]


def rows_left_out(recording: Recording) -> list[Problem]:
    """Rows of a table that had no value in them."""
    count = recording.headers.get(ROWS_LEFT_OUT, "")
    if not count.isdecimal():
        return []
    rows = "row of the table has" if count == "1" else "rows of the table have"
    return [Problem("take", ROWS_LEFT_OUT, f"{count} {rows} no value, and are left out.", "mind")]


def times_counted(recording: Recording) -> list[Problem]:
    """A table that says no time: what takes time is as right as what was said of its rate. So is that
    of a logger that prints none, as its lines came."""
    rate = recording.headers.get(TIMES_COUNTED)
    if rate is None and TIMES_OF_ARRIVAL in recording.headers:
        message = (
            "The logger prints no time: a sample counts as made when its line came. Settling, paces "
            "and everything else that takes time is as right as that; one that prints micros() first "
            "is better."
        )
        return [Problem("take", TIMES_OF_ARRIVAL, message, "mind")]
    if rate is None:
        return []
    message = (
        f"The table says no time: its rows were counted, {rate} a second as was said. Settling, paces "
        "and everything else that takes time is as right as that."
    )
    return [Problem("take", TIMES_COUNTED, message, "mind")]


def short_all_round(recording: Recording, rim: RimResult | None) -> list[Problem]:
    """A device's own numbers that end far short on every side, as those do that others calibrate."""
    raw = recording.headers.get("source") in OWN_NUMBERS
    if not raw or rim is None or any(r.calibration is not None for r in recording.ranges):
        return []
    r = rim.readings
    short = [100.0 - v for v in (r.reach_left, r.reach_right, r.reach_up, r.reach_down)]
    if min(short) <= FAR_SHORT:
        return []
    message = (
        f"it ends {percent(min(short))} short or more on every side. Many devices leave their "
        "calibration to what they are plugged into, and a sound one looks so too: if this is one of "
        "them, say so where the source is chosen, and measure again."
    )
    return [Problem("rim", "short-all-round", message, "mind")]


def trembling_by_place(let_go: LetGoResult | None, by_place: Mapping[str, float]) -> list[Problem]:
    if let_go is None:
        return []
    problems = []
    for i in trembles_by_place(by_place):
        each = let_go.trembles[:, i]
        least, most = percent(float(each.min())), percent(float(each.max()))
        message = (
            f"{AXES[i]} trembles by {least} at one of the places that it comes back to and by {most} "
            "at another: how quiet it is in Still goes by which of them it lies at."
        )
        problems.append(Problem("let-go", "by-place", message, "mind"))
    return problems


def swallowed(recording: Recording) -> list[Problem]:
    """Small changes that a source keeps to itself, where that hides no fault."""
    below = dict(zip(recording.axes, recording.swallowed, strict=True))
    axes = [axis for axis, step in below.items() if step]
    most = max(below.values(), default=0.0)
    if not SEEN_LEAST <= most <= FUZZ_LEAST / 2:
        return []
    message = (
        f"changes of {listed(axes)} below {percent(most)} do not come, as many systems "
        "have it: noise as small is not seen, and counts as uncertainty."
    )
    return [Problem("take", "swallows", message, "note")]
