"""One push and release: where the stick comes back to, and how soon."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.geometry import bearing, lengths
from hollow_pin.core.recording import Floats
from hollow_pin.core.statistics import TENTHS_APART, centre, median, odd_window, running_median

PUSHED = 60.0
LET_GO = 50.0
SEGMENT_S = 1.5
SHORTEST_SEGMENT_S = 0.5
FINAL_S = 0.25
BEARING_S = 0.1
SPIKE_S = 0.06
SETTLED = 2.0
"""% from where it comes to lie, within which a stick that hardly trembles has settled."""
LED_FROM_MS, AT_ONCE = 150.0, 0.1
"""A stick that comes back by itself is ever slower, the later it is: from the band that it counts as
settled in to half of that it takes a fifth of all the time, or longer. What takes so long, and then
goes there in less than such a share of it, was under a thumb until then."""


@dataclass(frozen=True)
class Release:
    """One push and release. t_s and end_s are seconds from the start of the recording. settle_ms: None
    where it trembles farther than it was let go from, or a thumb led it back."""

    t_s: float
    end_s: float
    bearing: float
    final_x: float
    final_y: float | None
    settle_ms: float | None
    overshoot: float


@dataclass(frozen=True, eq=False)
class MeasuredRelease:
    """A release, and what is known of the rest that it left. unseen_ms: by how much it may have been
    on its way longer than was seen: of what dwindles evenly each halving takes as long as the one
    before the band that it counts as settled in. trembles (2,): of each axis, %; read_from: samples
    that were taken for it. led: whether a thumb was on it until it had nearly come to lie. band: %
    from where it came to lie, within which it counts as settled."""

    release: Release
    unseen_ms: float
    trembles: Floats
    read_from: int
    led: bool
    band: float


def measure_release(
    t: Floats, p: Floats, rho: Floats, at: int, pushed_s: float, latest_end: float, band: float
) -> MeasuredRelease | None:
    """Measure what follows a release: t (n,) seconds, p (n, 2) %, rho (n,) % from the rest with hands
    off. at: the sample at which it is seen; pushed_s, latest_end: when its push began, and when it
    must be over, s; band: %, from the final, in which it counts as settled; a wider one where it
    trembles there. None where it was not left alone for long enough.
    """
    t0 = float(t[at])
    end_s = min(t0 + SEGMENT_S, latest_end)
    stop = int(np.searchsorted(t, end_s, side="right"))
    if end_s - t0 < SHORTEST_SEGMENT_S or t[stop - 1] - t0 < SHORTEST_SEGMENT_S:
        return None
    end_s = float(t[stop - 1])
    tail = int(np.searchsorted(t, end_s - FINAL_S))
    if stop - tail < 3:
        return None
    last_pushed = at - 1 - int(np.argmax(rho[at - 1 :: -1] > PUSHED))
    since = int(np.searchsorted(t, max(t[last_pushed] - BEARING_S, pushed_s)))
    push = p[since : last_pushed + 1].mean(axis=0)
    final = centre(p[tail:stop])
    segment = p[at:stop] - final
    trembles = trembling(t[tail:stop], p[tail:stop])
    band = max(band, 4 * float(trembles.max()))
    away = lengths(segment)
    # A spike is not a stick that is still on its way.
    window = odd_window(SPIKE_S, median(np.diff(t[at:stop])) or SPIKE_S, len(away))
    calm = running_median(away, window, "edge")
    settled, before = (_until(calm > b, t[at:stop]) for b in (band, 2 * band))
    unseen = (settled - before) * float(np.log2(band / SETTLED))
    too_wide = band >= LET_GO
    toward = (push - final) / max(float(np.hypot(*(push - final))), 1e-9)
    overshoot = max(0.0, -float((segment @ toward).min()))
    led = overshoot <= band and _is_led(t[at:stop], calm, settled, band)
    release = Release(
        t_s=t0,
        end_s=end_s,
        bearing=float(bearing(*push)),
        final_x=float(final[0]),
        final_y=float(final[1]),
        settle_ms=None if too_wide or led else settled,
        overshoot=overshoot,
    )
    return MeasuredRelease(release, unseen, trembles, stop - tail, led, band)


def _is_led(t: Floats, away: Floats, settled_ms: float, band: float) -> bool:
    """Whether a stick that has settled after so long, t, away (n,) from where it lies then, went the
    last of its way at once (`AT_ONCE`)."""
    last_out = int(np.searchsorted(t, t[0] + settled_ms / 1e3, side="right")) - 1
    there = np.flatnonzero(away[last_out:] < band / 2)
    if settled_ms < LED_FROM_MS or not there.size:
        return False
    return bool((t[last_out + there[0]] - t[last_out]) * 1e3 < AT_ONCE * settled_ms)


def trembling(t: Floats, p: Floats) -> Floats:
    """How much axes (n, k) tremble about the straight line that they go along, %, each: by where their
    middle eight tenths lie, since a spike is none."""
    line = np.column_stack((np.ones(len(t)), t - t.mean()))
    about = p - line @ np.linalg.lstsq(line, p, rcond=None)[0]
    low, high = np.quantile(about, (0.1, 0.9), axis=0)
    return np.asarray((high - low) / TENTHS_APART)


def _until(far: NDArray[np.bool_], t: Floats) -> float:
    """The last of times (n,) at which it was far, ms after the first; 0 where it never was. What goes
    far out again in the end has been touched, or pushed next."""
    near = np.flatnonzero(~far)
    last = np.flatnonzero(far[: near[-1]] if near.size else far)
    return float(t[last[-1]] - t[0]) * 1e3 if last.size else 0.0


def single(r: Release) -> Release:
    """The release of a single axis, which has no y."""
    return Release(r.t_s, r.end_s, r.bearing, r.final_x, None, r.settle_ms, r.overshoot)
