"""What a source hides. Each of these can make a worn stick read perfectly; none may pass for health.

A hidden fault names the readings it touches. A verdict on one of those is never “within”.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import AXES, Floats, Recording
from hollow_pin.core.rim import BEARINGS, BINS, Gate, bin_of, gate_edge
from hollow_pin.core.statistics import binned_median, resolution

MOVING = ("let-go", "rim", "crossing-x", "crossing-y", "turn")
SLOWEST_HZ = 58.0
"""A nominal 60 Hz, with room for the clock of the source."""
UNEVEN = 1.0
GAPPY = 0.02
OVER_END = 1.03
REPEATED = 0.2
SWIFT_STEPS = 3.0
FUZZ_LEAST = 0.05
FEW = 50

AT_REST = ("still.", "let_go.", "composite.dead_zone")
PACE = (
    "still.jitter",
    "still.noise_reach",
    "still.spikes",
    "let_go.settle",
    "composite.dead_zone",
    "crossing.",
    "hold.",
    "turn.",
)


@dataclass(frozen=True)
class Hidden:
    """One thing that is hidden. axis: None where it is the whole source. below: what is smaller than
    this cannot be seen, %, where that can be said. hides: beginnings of the readings' names."""

    code: str
    axis: str | None
    message: str
    hides: tuple[str, ...]
    below: float | None = None

    def covers(self, path: str) -> bool:
        return path.startswith(self.hides)


def find_hidden(
    recording: Recording,
    parts: dict[str, slice],
    gate: Gate,
    dead_zones: dict[str, float | None],
) -> tuple[Hidden, ...]:
    """Everything that a recording shows to be hidden.

    parts: the counted samples of each step. dead_zones: each axis's built-in dead zone, %, None
    where no crossing measured it.
    """
    moving = [recording.attempts(step)[-1] for step in MOVING if recording.attempts(step)]
    found: list[Hidden] = []
    for i, axis in enumerate(recording.axes):
        v = recording.u[:, i]
        if moving and np.ptp(v) == 0:
            found.append(_constant(axis))
            continue
        found += _swallowed(recording, axis, i)
        zone = dead_zones[axis]
        if zone:
            found.append(_built_in(axis, zone))
        elif zone is None and "still" in parts:
            found += _zero(axis, v[parts["still"]], resolution(v))
    if "rim" in parts and recording.raw.shape[1] == 2:
        found += _saturated(recording, parts["rim"], gate)
    found += _repeats(recording, moving)
    found += _pace(recording, moving or list(parts.values()))
    return tuple(found)


def _constant(axis: str) -> Hidden:
    return Hidden(
        "constant",
        axis,
        f"{axis} reported one value from beginning to end: it is not connected, not mapped, or dead.",
        ("",),
    )


def _built_in(axis: str, half: float) -> Hidden:
    return Hidden(
        "built-in-dead-zone",
        axis,
        f"the source reports zero for {axis} until {half:.1f} %: whatever the stick does inside that "
        f"is hidden below {half:.1f} %. Measure by a rawer source, and do not call it fixed.",
        AT_REST,
        half,
    )


def _swallowed(recording: Recording, axis: str, i: int) -> list[Hidden]:
    """A source that says itself what it leaves out: `fuzz.x`, in its own counts."""
    try:
        fuzz = float(recording.headers.get(f"fuzz.{axis}", "0"))
    except ValueError:
        return []
    below = 100.0 * fuzz / recording.ranges[i].half
    if not below > FUZZ_LEAST:
        return []
    said = f"the system swallows changes of {axis} below {below:.1f} %: its noise is hidden there."
    return [Hidden("fuzz", axis, said, (*PACE, "still.noise"), below)]


def _zero(axis: str, still: Floats, step: float) -> list[Hidden]:
    """A rest of exactly zero, with no crossing to tell whether a dead zone makes it so."""
    if np.ptp(still) > 0 or abs(float(still[0])) > step:
        return []
    said = (
        f"{axis} rests at exactly zero and never trembles. That may be a dead zone in the source: "
        "a Crossing would tell."
    )
    return [Hidden("zero", axis, said, AT_REST)]


def _saturated(recording: Recording, rim: slice, gate: Gate) -> list[Hidden]:
    """An axis that lies at the end of its range in more directions than a reach of 103 % explains."""
    u, raw = recording.u[rim], recording.raw[rim]
    out = np.hypot(u[:, 0], u[:, 1]) > 60.0
    if out.sum() < FEW:
        return []
    bins = bin_of(u[out])
    edge = OVER_END * gate_edge(gate, BEARINGS)
    angle = np.radians(BEARINGS)
    found = []
    for i, (axis, shape) in enumerate(zip(AXES, (np.sin(angle), np.cos(angle)), strict=True)):
        middle = binned_median(raw[out, i], bins, BINS)
        for end, sign in ((recording.ranges[i].hi, 1), (recording.ranges[i].lo, -1)):
            allowed = int((sign * shape * edge > 100.0).sum()) + 1
            if int((middle == end).sum()) > allowed:
                way = {("x", 1): "right", ("x", -1): "left", ("y", 1): "up", ("y", -1): "down"}
                side = way[axis, sign]
                found.append(
                    Hidden(
                        "saturated",
                        axis,
                        f"{axis} runs into the end of its range toward {side}: how far the stick goes "
                        "beyond it, and what the rim is like there, is cut off.",
                        ("rim.", "composite.circularity"),
                    )
                )
    return found


def _repeats(recording: Recording, moving: list[slice]) -> list[Hidden]:
    """A moving stick whose samples come twice over: the source is read faster than it has news."""
    same = swift = 0
    gap: list[float] = []
    for part in moving:
        u = recording.u[part]
        if len(u) < FEW:
            continue
        steps = np.array([resolution(v) or np.inf for v in u.T])
        wide = 8
        over: Floats = np.max(np.abs(u[wide:] - u[:-wide]) / (wide * steps), axis=1)
        fast = (over > SWIFT_STEPS) & _inside(recording, part, wide)
        still: NDArray[np.bool_] = np.asarray(np.abs(np.diff(u, axis=0)).max(axis=1) == 0)
        middle = slice(wide // 2, wide // 2 + len(fast))
        same += int((still[middle] & fast).sum())
        swift += int(fast.sum())
        news = np.flatnonzero(~still)
        if news.size > 1:
            gap.append(float(np.median(np.diff(recording.t[part][news + 1]))))
    if swift < FEW or same <= REPEATED * swift:
        return []
    true = 1.0 / float(np.median(gap)) if gap else 0.0
    return [
        Hidden(
            "repeats",
            None,
            f"{100 * same / swift:.0f} % of the samples repeat the one before while the stick moves: "
            f"the source has news only about {true:.0f} times a second. Noise and spikes between "
            "are not seen.",
            PACE,
        )
    ]


def _inside(recording: Recording, part: slice, wide: int) -> NDArray[np.bool_]:
    """Where neither end of a window lies at the end of a range: a clipped axis moves no more."""
    raw = recording.raw[part]
    lo = np.array([r.lo for r in recording.ranges])
    hi = np.array([r.hi for r in recording.ranges])
    free: NDArray[np.bool_] = np.asarray(np.all((raw > lo) & (raw < hi), axis=1))
    return np.asarray(free[wide:] & free[:-wide])


def _pace(recording: Recording, parts: list[slice]) -> list[Hidden]:
    intervals = [np.diff(recording.t[p]) for p in parts if p.stop - p.start > 2]
    if not intervals:
        return []
    dt = np.concatenate(intervals)
    median = float(np.median(dt))
    if median <= 0:
        return []
    found = []
    if 1 / median < SLOWEST_HZ:
        found.append(
            Hidden(
                "slow",
                None,
                f"only {1 / median:.0f} samples a second: spikes and settling shorter than "
                f"{2e3 * median:.0f} ms go unseen.",
                PACE,
            )
        )
    gaps = float((dt > 3 * median).mean())
    if gaps > GAPPY or float(dt.std()) > UNEVEN * median:
        found.append(
            Hidden(
                "uneven",
                None,
                f"the samples come very unevenly: {100 * gaps:.0f} % of the intervals are over three "
                "times the usual one. What happens in between is not seen.",
                PACE,
            )
        )
    return found
