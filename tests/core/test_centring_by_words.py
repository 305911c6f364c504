"""Centring by somebody who has the words alone to go by; sticks, trims and sources are by other
physics."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

import numpy as np
import pytest
from numpy.typing import NDArray

from hollow_pin.core.centring import Centring
from hollow_pin.core.words import WAY

Path = NDArray[np.float64]
KHZ = 1000
SOUND_WITHIN = 0.8
"""As near as a bench sees of a stick whose returns scatter by 0.3 %."""
TIMES = {"much farther": 5.0, "twice": 2.0, "half": 0.5, "a touch": 0.2, "about as far": 1.0}


@dataclass(frozen=True)
class OtherBench:
    """scatters: of where it comes to rest, %. dies_away, swings: of a return, s and Hz. noise, hums:
    RMS, %; spikes: a second, to 12 ms. turns: of the trim, % a second. changes_only: the source sends
    what changed, or the same after 50 ms."""

    scatters: float = 0.3
    dies_away: float = 0.05
    swings: float = 0.0
    noise: float = 0.06
    hums: float = 0.0
    spikes: float = 0.0
    turns: float = 8.0
    rate: int = 250
    bits: int = 12
    changes_only: bool = False
    axes: int = 2


PLAIN = OtherBench()


class Technician:
    """Does what is said, a quarter too far or too little."""

    def __init__(self, bench: OtherBench, seed: int) -> None:
        self.bench, self.rng = bench, np.random.default_rng(seed)
        self.offset = self.rng.uniform(3, 9, 2) * self.rng.choice((-1, 1), 2)
        self.gain = self.rng.uniform(0.7, 1.3, 2)
        if bench.axes == 1:
            self.offset[1] = 0.0
        self.trim, self.rest, self.at = np.zeros(2), np.zeros(2), np.zeros(2)
        self.ms, self.released, self.code, self.sent = 0, None, None, -1.0
        self.turned: dict[int, float] = {}
        step = 200 / 2**bench.bits
        self.within = max(SOUND_WITHIN * max(1.0, bench.scatters / 0.3), step)
        jitter = float(np.hypot(bench.noise, bench.hums))
        self.centring = Centring(
            bench.axes, (self.within, self.within), 3 * bench.scatters, jitter=jitter, step=step
        )
        self.wait(0.8)

    def sent_on(self, path: Path) -> None:
        """What the device makes of where the stick is, (n, 2) %, and the source of that."""
        bench, n = self.bench, len(path)
        t = (self.ms + np.arange(n)) / KHZ
        u = path + self.offset + self.rng.normal(0, bench.noise, (n, 2))
        u += bench.hums * np.sqrt(2) * np.sin(2 * np.pi * 50 * t + 0.7)[:, None]
        for i in np.flatnonzero(self.rng.random(n) < bench.spikes / KHZ):
            u[i : i + int(self.rng.integers(1, 12)), self.rng.integers(0, 2)] += 25.0
        reports = np.floor(t * bench.rate) > np.floor((t - 1 / KHZ) * bench.rate)
        top = 2**bench.bits - 1
        u = (
            np.clip(np.round((u + 100) / 200 * top), 0, top)[reports][:, : bench.axes] / top * 200
            - 100
        )
        t = t[reports]
        self.ms += n
        if bench.changes_only:
            told = np.ones(len(t), bool)
            for i in range(len(t)):
                told[i] = not np.array_equal(u[i], self.code) or t[i] - self.sent > 0.05
                if told[i]:
                    self.code, self.sent = u[i], t[i]
            t, u = t[told], u[told]
        for some in np.array_split(np.arange(len(t)), max(1, n // 20)):
            self.centring.feed(t[some], u[some])

    def lying(self, ms: int) -> Path:
        """Where it is by itself, on its way back or at rest."""
        if self.released is None:
            return np.tile(self.at, (ms, 1))
        since, out = self.released
        t = (self.ms - since + np.arange(ms)) / KHZ
        swing = np.cos(2 * np.pi * self.bench.swings * t) if self.bench.swings else 1 + t / 0.05
        self.at = self.rest
        return self.rest + (out - self.rest) * (np.exp(-t / self.bench.dies_away) * swing)[:, None]

    def wait(self, seconds: float) -> None:
        self.sent_on(self.lying(round(seconds * KHZ)) + self.trim)

    def flick(self) -> None:
        angle = self.rng.uniform(0, 2 * np.pi)
        toward = np.array([np.sin(angle), np.cos(angle)])
        if self.bench.axes == 1:
            toward = np.array([np.sign(toward[0]), 0.0])
        way = np.linspace(0, 1, round(self.rng.uniform(0.12, 0.4) * KHZ))
        self.sent_on(
            self.at + (100 * toward - self.at) * (way**2 * (3 - 2 * way))[:, None] + self.trim
        )
        self.at, self.released = 100 * toward, None
        self.wait(self.rng.uniform(0.1, 0.4))
        self.rest = self.rng.normal(0, self.bench.scatters, 2) * (1, self.bench.axes - 1)
        self.released = (self.ms, self.at)
        self.wait(self.rng.uniform(0.9, 1.5))

    def turn(self, axis: int, by: float) -> None:
        by = float(np.clip(self.trim[axis] + by * self.gain[axis], -25, 25) - self.trim[axis])
        way = np.linspace(0, 1, round(max(0.15, abs(by) / self.bench.turns) * KHZ))
        turned = np.outer(way**2 * (3 - 2 * way), by * np.eye(2)[axis])
        self.sent_on(self.lying(len(way)) + self.trim + turned)
        self.trim = self.trim + by * np.eye(2)[axis]
        self.wait(self.rng.uniform(0.7, 1.2))

    def until_done(self, tries: int = 40) -> bool:
        while not self.centring.done and tries:
            tries -= 1
            self.do_as_told()
        return self.centring.done

    @property
    def off(self) -> float:
        """How far it truly rests off on the average, on the worse axis, %."""
        return float(np.abs(self.offset + self.trim).max())

    def do_as_told(self) -> None:
        says = self.centring.now().says
        if says.startswith("Turn "):
            axis = next((i for i, a in enumerate("xy") if WAY[a] in says), 0)
            if "either way" in says:
                by = self.rng.choice((-1, 1)) * self.rng.uniform(1.5, 5)
            else:
                number = re.search(r"about (\d) times", says)
                times = (
                    float(number[1]) if number else next(v for k, v in TIMES.items() if k in says)
                )
                by = self.turned[axis] * times * self.rng.uniform(0.75, 1.3)
                by *= 1 if "same way" in says else -1
            self.turned[axis] = by
            self.turn(axis, by)
        elif "Push it" in says or "Once more" in says:
            self.flick()
        else:
            self.wait(0.6)


BENCHES = {
    "plain": PLAIN,
    "turned slowly": replace(PLAIN, turns=1.2),
    "white noise": replace(PLAIN, noise=0.5),
    "hum": replace(PLAIN, hums=1.0),
    "swings": replace(PLAIN, dies_away=0.15, swings=9.0),
    "dirty": replace(PLAIN, spikes=2.0),
    "coarse": replace(PLAIN, rate=60, bits=8, changes_only=True),
    "scatters": replace(PLAIN, rate=1000, bits=16, scatters=1.0),
    "lever": replace(PLAIN, axes=1, rate=125, bits=8),
}


@pytest.mark.parametrize("bench", BENCHES.values(), ids=BENCHES)
def test_whoever_has_the_words_alone_centres_it_in_a_minute(bench: OtherBench) -> None:
    """A trim that was turned slowly, or beside noise, was read in pieces, and the next turn was to be
    “90 times as far”; a stick that swings was held for one that is touched; what lay between two steps
    of its source trembled for ever."""
    for seed in (1, 2):
        one = Technician(bench, seed)
        one.until_done()
        assert one.centring.done, f"seed {seed}: {one.centring.now().says}"
        assert one.ms / KHZ < 90, f"seed {seed}"
        assert one.off < one.within + 2 * bench.scatters, f"seed {seed}"
        turns = sum(t for t in one.centring.result().turns.values())
        assert turns <= 16, f"seed {seed}: {turns} turns"
