"""Follows Rim: counts laps each way, and says whether the last one was clean."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.elsewhere import LEAST_OUT, SHORT, SIDES
from hollow_pin.core.gate import BIN, BINS
from hollow_pin.core.geometry import bearing, clock_hour, lengths
from hollow_pin.core.recording import Floats
from hollow_pin.core.rim import EDGE, LEAST_COVERAGE, LOST_TURN, TURN_BACK, bin_of
from hollow_pin.core.statistics import GAP_TIMES, usual_interval
from hollow_pin.core.tracking.follower import Coaching, Part, Phase, RecentSamples
from hollow_pin.core.tracking.spike_gate import SpikeGate

MARGIN_DEG = 12.0
SIDE_BINS = np.array([[hour * BINS // 12 for hour in hours] for hours in SIDES]) % BINS
"""The directions of an axis's low and high side, of x and of y."""
PRESSED = 0.8
"""A clean lap keeps outside this share of the farthest that was reached."""


class RimFollower:
    def __init__(self, samples: RecentSamples, laps: int) -> None:
        self.done = False
        self._moment = samples
        self._gate = SpikeGate()
        self._wanted = laps
        self._turned = self._start = self._extreme = 0.0
        self._last_deg: float | None = None
        self._last_s = 0.0
        self._was_out = False
        self._direction = 0
        self._farthest = 0.0
        self._laps = [0.0, 0.0]
        self._filled = np.zeros(BINS, dtype=bool)
        self._this_lap = np.full(BINS, np.inf)
        self._whole = 0
        self._note = ""
        self._done_at: float | None = None

    def start(self) -> None:
        """It begins with the first movement."""

    def feed(self, t: Floats, p: Floats) -> bool:
        kept = self._gate.lets_through(t, p)
        rho = np.where(kept, lengths(p), 0.0)
        self._farthest = max(self._farthest, float(rho.max()))
        if self._done_at is not None:
            self.done = self._moment.now - self._done_at > 0.3
            return True
        on = rho > max(EDGE * self._farthest, 30.0)
        out, lost = p[on], self._silent_before(t, on)[on]
        if not len(out):
            return True
        bins = bin_of(out)
        self._filled[bins] = True
        np.minimum.at(self._this_lap, bins, lengths(out))
        self._turn(bearing(out[:, 0], out[:, 1]), lost)
        self._follow()
        if min(self._laps) >= self._wanted and self._filled.mean() >= LEAST_COVERAGE:
            self._done_at = self._moment.now
        return True

    def _silent_before(self, t: Floats, on: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Before which samples (n,) nothing was reported since it was at the edge."""
        usual = usual_interval(np.diff(self._moment.t))
        silent = np.diff(t, prepend=self._last_s) > GAP_TIMES * usual
        came = np.append(self._was_out, on[:-1])
        self._last_s, self._was_out = float(t[-1]), bool(on[-1])
        return np.asarray(silent & came)

    def _turn(self, degrees: Floats, lost: NDArray[np.bool_]) -> None:
        last = self._last_deg
        path = degrees if last is None else np.concatenate(([last], degrees))
        turned = np.degrees(np.unwrap(np.radians(path)))
        if last is None:
            self._start = self._extreme = self._turned = float(turned[0])
        self._turned += float(turned[-1] - turned[0])
        self._last_deg = float(degrees[-1])
        leaps = np.abs(np.diff(turned))
        allowed = np.where(lost[len(lost) - len(leaps) :], LOST_TURN, TURN_BACK)
        if (leaps > allowed).any():
            self._start = self._extreme = self._turned
            self._direction = 0

    def _follow(self) -> None:
        ahead = self._turned - self._extreme
        if self._direction == 0:
            if abs(self._turned - self._start) >= TURN_BACK:
                self._direction = 1 if self._turned > self._start else -1
                self._extreme = self._turned
        elif ahead * self._direction >= 0:
            self._extreme = self._turned
        elif abs(ahead) >= TURN_BACK:
            self._start, self._extreme = self._extreme, self._turned
            self._direction = -self._direction
            self._whole = 0
            self._this_lap[:] = np.inf
        if self._direction:
            way = 0 if self._direction > 0 else 1
            laps = (abs(self._extreme - self._start) - MARGIN_DEG) / 360.0
            self._laps[way] = max(self._laps[way], laps)
            if int(laps) > self._whole:
                self._whole = int(laps)
                self._judge_lap()

    def _judge_lap(self) -> None:
        weak = self._weak()
        self._this_lap[:] = np.inf
        if not weak.size:
            self._note = "The last lap was clean."
            return
        hour = clock_hour(float(weak[len(weak) // 2]) * BIN)
        self._note = f"On the last lap it left the edge toward {hour}\u00a0o’clock. Press outward."

    def _weak(self) -> NDArray[np.intp]:
        """The directions in which the last lap was not at the edge; none where they are few, and no
        push went farther."""
        loose = np.flatnonzero(self._this_lap < PRESSED * self._farthest)
        missed = np.flatnonzero(np.isinf(self._this_lap))
        weak = np.concatenate((loose, missed))
        if weak.size > (1 - LEAST_COVERAGE) * BINS:
            return weak
        pushed_to = self._moment.pushed_to
        inside = (pushed_to >= LEAST_OUT) & (self._this_lap[SIDE_BINS] < SHORT * pushed_to)
        return np.asarray(SIDE_BINS[inside])

    def coaching(self) -> Coaching:
        cw, ccw = self._laps
        parts = (
            Part("clockwise", max(0.0, cw), self._wanted),
            Part("the other way", max(0.0, ccw), self._wanted),
        )
        covered = float(self._filled.mean()) >= LEAST_COVERAGE
        phase: Phase = "running" if self._direction else "waiting"
        return Coaching(phase, self._says(), parts, "accept" if covered else "none", self._note)

    def _says(self) -> str:
        cw, ccw = self._laps
        want = self._wanted
        if self._done_at is not None:
            return "Let go."
        if self._direction == 0:
            return "Go round the edge, pressed outward."
        if cw < want and ccw < want:
            return "Keep going round."
        if cw < want or ccw < want:
            return f"Now {'clockwise' if cw < want else 'the other way'}."
        empty = np.flatnonzero(~self._filled)
        hour = clock_hour(float(empty[len(empty) // 2]) * BIN)
        return f"The edge was not reached toward {hour}\u00a0o’clock."
