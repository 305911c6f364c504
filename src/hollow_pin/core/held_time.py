"""A source that speaks only when something changes: what it said holds until it speaks again.

Browsers and the kernel report so, and devices that go on for a while after the last change. Read
sample by sample such a recording has almost no time at rest in it and all of its time on the move;
read as held values it carries all there is to know.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import MOVING, STEPS, Floats, Recording
from hollow_pin.core.standstill import MISSING_TIMES

FEWEST = 200
FEWEST_NEWS = 50
"""Reports that differ, by which it is known how often a source reports in a step."""
LOOKED_AT = 200_000
"""Samples by which a long recording's source is known."""
QUIET_SHARE = 0.25
"""Of the time, in silences: no constant source is silent for so long."""
MOST_LOST = 0.5
"""Of the time, that a link is silent for: a source that is so for longer has nothing to say."""
SILENT_TIMES = 2.5
"""Of the usual interval between two reports that differ: longer is a silence."""
SAME_SHARE = 0.2
"""Of the reports that follow at once, as many may be the same as the one before."""
QUIET_AT_REST = 0.1
"""Of the time, in silences, where they keep clear of movements: a link does not."""
AVOIDS, FEWEST_MET = 0.25, 20.0
"""Of the silences that would meet a movement if they lay anywhere, as many do; of so many at least."""
MISSING_SHARE = 0.05
"""Of the time, in intervals in which reports are missing."""
FEWEST_WITHHELD, HARDLY = 20.0, 0.4
"""Reports that should have come as the one before, and as large a share of them that did: a page that
repeats what holds every 50 ms sends some."""
SWIFT_STEPS, FEWEST_SWIFT = 3.5, 50
"""Steps of the converter in each of three reports in a row, the same way, four or more: what moves so
fast has something else to say every time. As many such are counted."""
LEAST_OF_WAY = 0.1
"""Of the way that they go together, in each of them: less, and one of the others is a jump."""
ONE_STEP = 1.5
"""Of the smallest change: less is one step of the converter."""
FEWEST_TRAILS, TRAILS_ALIKE = 4, 0.8
"""Silences that begin as long after the last change as one another, and the share of them that do, by
which a source is known that goes on for a while after it: a link's begin at any time, and at once
after a change where a stick trembles."""
LOSSY_SHARE = 0.15
"""Of the silences, that end far from where they began: more, and any moment may be silent."""
LOST_STEPS, LOST_LEAST = 3.0, 0.5
"""A stick that was silent since it did not move goes on by a step or two of the converter."""
TOGETHER_US = 400
TOGETHER_SHARE, TOGETHER_TIME = 0.2, 0.2
"""Where as many reports come less than this after another, and in no more of the time, they were made
apart and only came together: a device that samples so fast does so all the time."""
SPREAD_TIMES = 2.5
"""Of its usual length: a burst after a longer gap was made at its end."""
LONGEST_LOST_S = 1.0
"""A link that was silent for longer while the stick moved is told from a stick at rest by nothing."""
LONGEST_HELD_S = 15.0
"""A silence of over this, a Still and what lies around it, is no stick that rests to the last digit,
but a source that was gone."""


@dataclass(frozen=True)
class Pace:
    """How a source reports. interval_s: between two of its reports. change_only: it reports changes
    and no more. twice: every report comes so many times over."""

    interval_s: float
    change_only: bool
    twice: int = 1


def spread_out(recording: Recording) -> Recording:
    """The recording with times as its samples were made, where they came several at once: by a radio
    that sends them together, a program that looks now and then, a clock of coarse ticks. Each burst is
    spread evenly over the time since the one before; as it was where hardly any came so.
    """
    t_us = recording.t_us
    apart = np.diff(t_us)
    at_once = apart < TOGETHER_US
    if not len(apart) or at_once.mean() < TOGETHER_SHARE:
        return recording
    if apart[at_once].sum() > TOGETHER_TIME * apart.sum():
        return recording
    last = np.append(np.flatnonzero(apart >= TOGETHER_US), len(apart))
    count = np.diff(last, prepend=-1)
    came = t_us[last].astype(float)
    since = np.diff(came, prepend=came[0])
    if len(last) < 2:
        return recording
    usual = float(np.median(since[1:] / count[1:]))
    over = np.minimum(since, SPREAD_TIMES * usual * count)
    burst = np.repeat(np.arange(len(last)), count)
    behind = last[burst] - np.arange(len(t_us))
    spread = came[burst] - over[burst] * behind / count[burst]
    return replace(recording, t_us=np.round(spread).astype(np.int64))


def pace_of(recording: Recording) -> Pace | None:
    """How the source of a recording reports; None where there is too little of it to tell."""
    if len(recording.t_us) > LOOKED_AT:
        recording = _ends_of(recording)
    t_us, raw = recording.t_us, recording.raw
    if len(t_us) < FEWEST:
        return None
    dt = np.diff(t_us) / 1e6
    differ = (raw[1:] != raw[:-1]).any(axis=1)
    news = dt[differ & (dt > 0)]
    if not news.size or not dt.sum():
        return None
    usual = float(np.median(news))
    silent = dt > SILENT_TIMES * usual
    at_once = ~silent & (dt > 0)
    if not at_once.any():
        return None
    same = float((~differ & at_once).sum() / at_once.sum())
    lasted = np.where(dt < LONGEST_HELD_S, dt, 0.0)
    quiet = float(lasted[silent].sum() / max(lasted.sum(), 1e-9))
    on_moves = _silences_on_moves(recording, differ, usual)
    lossy = _lossy(recording, silent) if on_moves is None else on_moves >= AVOIDS
    enough = QUIET_SHARE if on_moves is None or lossy else QUIET_AT_REST
    if quiet > enough and same < SAME_SHARE and (quiet >= MOST_LOST or not lossy):
        return Pace(usual, True)
    missing = float(dt[dt > MISSING_TIMES * usual].sum() / dt.sum())
    if missing > MISSING_SHARE and _withholds(raw, at_once, same):
        return Pace(usual, True)
    if _trails_off(t_us, differ, usual):
        return Pace(usual, True)
    return Pace(usual, False, _times_over(recording, differ))


def _trails_off(t_us: NDArray[np.int64], differ: NDArray[np.bool_], usual: float) -> bool:
    """Whether it says the same for a while after the last change, and then nothing before the next
    one. t_us (n,); differ (n − 1,): where a report says something else than the one before."""
    late = np.diff(t_us) > SILENT_TIMES * usual * 1e6
    # A page repeats what holds: that is no end of a silence.
    repeated = late & ~differ
    began = np.flatnonzero(late & ~np.append(False, repeated[:-1]))
    over = np.flatnonzero(~repeated)
    began = began[began <= over.max(initial=-1)]
    if len(began) < FEWEST_TRAILS:
        return False
    changed = differ[over[np.searchsorted(over, began)]]
    last = np.maximum.accumulate(np.append(0, np.where(differ, np.arange(1, len(t_us)), 0)))
    trail = (t_us[began] - t_us[last[began]]) / 1e6
    usually, tells = float(np.median(trail)), SILENT_TIMES * usual
    alike = np.abs(trail - usually) < tells
    return usually > tells and float((alike & changed).mean()) >= TRAILS_ALIKE


def _withholds(raw: Floats, at_once: NDArray[np.bool_], same: float) -> bool:
    """Whether reports that are as the one before hardly come. Of a source that sends everything they
    would: of both axes at once, as often as the two shares' product at the least, a stick at rest
    being so on both; of a single axis, as often as one that is a step up, or a step down, however
    much it trembles."""
    if raw.shape[1] < 2:
        apart = np.abs(np.diff(raw[:, 0])[at_once])
        steps = apart[apart > 0]
        one_step = float((steps < ONE_STEP * steps.min(initial=np.inf)).sum())
        expected = one_step / 2 / len(apart)
    else:
        expected = float((raw[1:] == raw[:-1])[at_once].mean(axis=0).prod())
    return expected * at_once.sum() > FEWEST_WITHHELD and same < HARDLY * expected


def _lossy(recording: Recording, silent: NDArray[np.bool_]) -> bool:
    """Whether its silences lie in the middle of movements as well as elsewhere: then it is the link
    that is silent, whatever the stick does."""
    far = _goes_far(recording, recording.u, 1)
    return float((far & silent).sum()) > LOSSY_SHARE * float(silent.sum())


def _silences_on_moves(
    recording: Recording, differ: NDArray[np.bool_], usual: float
) -> float | None:
    """How many of its silences meet a movement, of those that would if they lay anywhere; None where
    those are too few to tell. A source of changes is silent at rest, a link that fails at any time. By
    the reports that say something else than the one before: a page repeats what holds."""
    news = np.append(0, np.flatnonzero(differ) + 1)
    t, u = recording.t_us[news], recording.u[news]
    silent = np.diff(t) > SILENT_TIMES * usual * 1e6
    if not silent.any():
        return None
    apart = max(1, round(float(np.median(np.diff(t)[silent])) / 1e6 / usual))
    would = float(_goes_far(recording, u, apart).mean()) * silent.sum() if apart < len(u) else 0.0
    if would < FEWEST_MET:
        return None
    return float((_goes_far(recording, u, 1) & silent).sum()) / would


def _goes_far(recording: Recording, u: Floats, apart: int) -> NDArray[np.bool_]:
    """Whether the stick is elsewhere so many reports later, by more than a rest is: (n − apart,)."""
    least = LOST_STEPS * max(*recording.resolutions, LOST_LEAST)
    return np.asarray(np.abs(u[apart:] - u[:-apart]).max(axis=1) > least)


def _ends_of(recording: Recording) -> Recording:
    """The beginning and the end of a long recording: how its source reports is seen there."""
    half = LOOKED_AT // 2
    at = np.r_[:half, len(recording.t_us) - half : len(recording.t_us)]
    return replace(
        recording, t_us=recording.t_us[at], raw=recording.raw[at], step=recording.step[at]
    )


def _times_over(recording: Recording, differ: NDArray[np.bool_]) -> int:
    """How often each report is repeated while the stick moves swiftly: 1 where it is not."""
    news = np.append(0, np.flatnonzero(differ) + 1)
    if len(news) < 4:
        return 1
    speed = np.zeros(len(news) - 3)
    for v, step in zip(recording.u.T, recording.steps, strict=True):
        changes = np.diff(v[news])
        size = np.abs(changes)
        slowest = np.minimum(np.minimum(size[:-2], size[1:-1]), size[2:])
        swift = np.flatnonzero(slowest > SWIFT_STEPS * (step or 0.1))
        way = np.array([changes[swift + k] for k in range(3)])
        # A contact that jumps goes far in one report, and back.
        onward = (way.min(axis=0) > 0) | (way.max(axis=0) < 0)
        onward &= slowest[swift] > LEAST_OF_WAY * np.abs(way.sum(axis=0))
        at = swift[onward]
        speed[at] = np.maximum(speed[at], slowest[at] / (step or 0.1))
    moving = np.flatnonzero(speed)
    if len(moving) < FEWEST_SWIFT:
        return 1
    # The swifter half: what keeps back small changes is silent between any others.
    swifter = moving[speed[moving] >= np.median(speed[moving])]
    return round(float(np.median(np.diff(news)[swifter + 1])))


def as_held(recording: Recording, pace: Pace) -> Recording:
    """The recording at the source's own interval, each value held until the next; its steps as well.

    A silence in the middle of a movement that goes on after it is one of the link, and stays a gap: a
    stick that moves has something to say. One that is held, and then let go, had not; nor had one that
    nobody touches, whatever spikes it has.
    """
    step_us = max(1, round(pace.interval_s * 1e6))
    t_us = np.arange(recording.t_us[0], recording.t_us[-1] + 1, step_us, dtype=np.int64)
    at = np.searchsorted(recording.t_us, t_us, side="right") - 1
    news = np.append(True, (recording.raw[1:] != recording.raw[:-1]).any(axis=1))
    which = np.cumsum(news) - 1
    told_us, told = recording.t_us[news], recording.u[news]
    apart = np.diff(told_us)
    silent = apart > SILENT_TIMES * step_us
    far, onward = _movement(told, LOST_STEPS * max(*recording.resolutions, LOST_LEAST))
    soon = apart < LONGEST_LOST_S * 1e6
    moved = recording.step[news][1:] != STEPS.index("still")
    # Said once more on time, it did not move when the silence began.
    stood = np.append(~news & (np.diff(recording.t_us, prepend=0) <= SILENT_TIMES * step_us), False)
    stood = stood[1:][news][:-1]
    lost = far & silent & soon & onward & moved & ~stood & np.append(False, ~silent[:-1])
    lost = np.append(lost, False)
    silent_for = t_us - told_us[which[at]]
    too_long = t_us - recording.t_us[at] > LONGEST_HELD_S * 1e6
    too_long |= lost[which[at]] & (silent_for > SILENT_TIMES * step_us)
    t_us, at = t_us[~too_long], at[~too_long]
    return replace(recording, t_us=t_us, raw=recording.raw[at], step=recording.step[at])


def _movement(values: Floats, least: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """From each of the values (n, k), %, to the next, (n − 1,): whether it went farther than that,
    and whether on, the way that it had come, on the axis that went farthest."""
    changes = np.diff(values, axis=0)
    axis = np.abs(changes).argmax(axis=1)
    rows = np.arange(len(changes))
    onward = changes[rows[1:], axis[1:]] * changes[rows[:-1], axis[1:]] > 0
    return np.abs(changes).max(axis=1) > least, np.append(False, onward)


def evenly(recording: Recording) -> tuple[Recording, Recording, Pace | None]:
    """A recording with its bursts spread out; the same with what holds until it changes held; and how
    its source reports."""
    even = spread_out(recording)
    pace = pace_of(even)
    on_held_time = as_held(even, pace) if pace is not None and pace.change_only else even
    return even, on_held_time, pace


def without_stale(recording: Recording, pace: Pace) -> Recording:
    """Without the values that whoever reads a source repeats while the source itself is silent: of one
    that reports all the time they are no reports. A source may report more slowly from some step on:
    what is late there is later than what it usually says while the stick moves."""
    apart = np.diff(recording.t_us)
    same = (recording.raw[1:] == recording.raw[:-1]).all(axis=1)
    usual = np.full(len(apart), pace.interval_s * 1e6)
    for part in (p for step in MOVING for p in recording.attempts(step)):
        here = slice(part.start, part.stop - 1)
        news = apart[here][~same[here]]
        if len(news) >= FEWEST_NEWS:
            usual[here] = np.maximum(usual[here], np.median(news))
    late = apart > SILENT_TIMES * usual
    keep = np.append(True, ~(late & same))
    if keep.all():
        return recording
    at = np.flatnonzero(keep)
    return replace(
        recording, t_us=recording.t_us[at], raw=recording.raw[at], step=recording.step[at]
    )


def without_repeats(recording: Recording, times: int) -> Recording:
    """Every report once, where each comes several times over: the source's own rate is what counts."""
    differ = (recording.raw[1:] != recording.raw[:-1]).any(axis=1)
    group = np.arange(len(recording.t_us)) % times
    phase = int(np.argmax([differ[group[1:] == p].sum() for p in range(times)]))
    at = np.flatnonzero(group == phase)
    return replace(
        recording, t_us=recording.t_us[at], raw=recording.raw[at], step=recording.step[at]
    )
