"""What a source is like, told from some seconds of moving a stick before anything is measured by it:
its rate, what it leaves out, and whether a rawer one is there."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.built_in_zone import (
    FEWEST_AT_ZERO,
    built_in_dead_zone,
    go_through_middle,
    lies_at_zero,
)
from hollow_pin.core.geometry import lengths
from hollow_pin.core.held_time import evenly
from hollow_pin.core.hidden import Hidden, find_hidden, on_axis, pulled_axes
from hollow_pin.core.lifted import lifted
from hollow_pin.core.recording import AXES, STEPS, Recording
from hollow_pin.core.sources import FAR_SHORT, OF_ONE_CONTROLLER, SOURCE, SourceKind
from hollow_pin.core.statistics import runs, timing
from hollow_pin.core.words import END, listed, percent

FAR = 55.0
"""% from the middle that a pass goes on both sides."""
ASIDE = 40.0
"""% that the other axis may be from the middle in a pass: a dead zone may be round."""
LEAST_IN_PASS = 12
"""Reports in one pass, from which on the time it stays at zero can be told."""
RIM = 60.0
AT_END = 0.02
"""Share of the time beyond `RIM` on that side that an axis lies at the end of its range."""
SHORT = 5.0
"""% that one side may end short where the other runs into the end of its range."""
SHORT_ALIKE = 12.0
"""% that sides which all end far short differ by at the most, where the range is too wide."""
DISAGREE = 0.4
"""Share of reports that turn back while the stick moves, from which on they disagree."""
SWIFT = 0.5
"""% a report, that a stick moves by which is moved."""
COARSE = 0.5
"""% a step of the converter, from which on it is worth a word."""

UNKNOWN = ("constant", "not-crossed", "too-swift", "beside-middle")
"""Findings by which a dead zone cannot be told from none."""
LIMITING = ("coarse", "swallows", "contrary", "one-sided-end", "narrow")
"""Findings that make a source no better than usable."""
Standing = Literal["clean", "usable", "hides", "unknown"]


_SAYS: dict[Standing, tuple[str, str]] = {
    "clean": ("It hides nothing that this check can see.", "hides nothing"),
    "usable": ("It hides nothing, and has its limits.", "hides nothing"),
    "hides": (
        "It hides something: what it hides can make a worn stick read well.",
        "hides something",
    ),
    "unknown": ("Whether it hides something was not seen.", "not tried out to the end"),
}
"""What a standing means, and in a few words."""


@dataclass(frozen=True)
class SourceFinding:
    """One thing that was seen of a source. hides: it can make a bad stick read well."""

    code: str
    words: str
    hides: bool


@dataclass(frozen=True)
class SourceAxis:
    """One axis as it came. step: the smallest difference between two values, %; values: how many such
    steps its range has; reached_low, reached_high: the outermost values seen, %. passes: straight
    through the middle."""

    axis: str
    step: float
    values: int
    reached_low: float
    reached_high: float
    passes: int


@dataclass(frozen=True)
class SourceCheck:
    """What was seen. rate_hz: reports a second; None where it cannot be told. standing: whether it
    hides something; “unknown” where what would show it was not done. short: the same in a few words.
    rawer: of the sources that are there, one with less in between."""

    seconds: float
    samples: int
    rate_hz: float | None
    jitter_ms: float | None
    standing: Standing
    says: str
    short: str
    axes: tuple[SourceAxis, ...]
    findings: tuple[SourceFinding, ...]
    rawer: SourceKind | None
    advice: str


def passes_of(recording: Recording) -> list[list[slice]]:
    """The ways straight through the middle from far on one side to far on the other, an axis each."""
    u = recording.u
    passes: list[list[slice]] = []
    for i in range(u.shape[1]):
        side = np.sign(u[:, i]) * (np.abs(u[:, i]) > FAR)
        at = np.flatnonzero(side)
        turns = np.flatnonzero(side[at[1:]] != side[at[:-1]])
        parts = [slice(int(at[k]), int(at[k + 1]) + 1) for k in turns]
        if u.shape[1] == 2:
            parts = [p for p in parts if np.abs(u[p, 1 - i]).max() < ASIDE]
        passes.append(parts)
    return passes


def usable_of(passes: list[slice]) -> list[slice]:
    return [p for p in passes if p.stop - p.start >= LEAST_IN_PASS]


def _pulled(
    on_held_time: Recording, usable: list[list[slice]], zones: dict[str, float | None]
) -> list[Hidden]:
    """What is hidden by axes that are said to be at zero while the other passes, by no dead zone."""
    u = on_held_time.u
    if u.shape[1] != 2:
        return []
    ways: dict[str, NDArray[np.intp]] = {}
    edge = lengths(u) > RIM
    for axis, parts, other in zip(AXES, usable, u.T[::-1], strict=True):
        if len(parts) < FEWEST_AT_ZERO:
            continue
        at = ways[axis] = np.concatenate([np.arange(p.start, p.stop) for p in parts])
        edge[at] = False
        # Nor is it the edge where it waits between two passes.
        for first, stop in zip(*runs(other == np.median(other[at])), strict=True):
            edge[first:stop] &= edge[first:stop].all()
    pulled = pulled_axes(u, ways, np.flatnonzero(edge), on_held_time.resolutions)
    return on_axis({axis: path for axis, path in pulled.items() if not zones[axis]})


def check_source(
    recording: Recording, kind: SourceKind, there: tuple[SourceKind, ...] = ()
) -> SourceCheck:
    """What a source is like, by a stick that was moved as `SourceWatch` asks for.

    kind: what kind it is; there: other kinds by which the same controller could be read.
    """
    even, on_held_time, pace = evenly(recording)
    if on_held_time is not even:
        on_held_time = replace(
            on_held_time, step=np.full(len(on_held_time.t_us), STEPS.index("rim"), dtype=np.int8)
        )
    passes = passes_of(on_held_time)
    usable = [usable_of(p) for p in passes]
    zones: dict[str, float | None] = {}
    findings: list[SourceFinding] = []
    for i, axis in enumerate(recording.axes):
        if len(usable[i]) >= FEWEST_AT_ZERO:
            v, step = on_held_time.u[:, i], on_held_time.resolutions[i]
            zones[axis] = built_in_dead_zone(
                on_held_time.t, v, usable[i], step, on_held_time.swallowed[i]
            )
        else:
            zones[axis] = None
    lift = lifted(on_held_time, [parts if len(parts) >= FEWEST_AT_ZERO else [] for parts in usable])
    hidden = list(find_hidden(on_held_time, {}, "round", zones, lift=lift))
    hidden += _pulled(on_held_time, usable, zones)
    constant = {h.axis for h in hidden if h.code == "constant"}
    findings += [_of(h) for h in hidden]
    findings += _not_crossed(recording.axes, passes, usable, constant)
    if not any(zones.values()):
        findings += _beside_middle(on_held_time, usable)
    findings += _ends(recording)
    findings += _reports(
        recording, even, pace.change_only if pace else False, pace.twice if pace else 1
    )
    axes = tuple(_axis(recording, i, len(usable[i])) for i in range(len(recording.axes)))
    findings += _coarse(axes)
    findings += _swallows(on_held_time, findings)
    clock = timing(even.t)
    unknown = any(f.code in UNKNOWN for f in findings)
    standing: Standing = "clean"
    if any(f.hides for f in findings):
        standing = "hides"
    elif unknown:
        standing = "unknown"
    elif any(f.code in LIMITING for f in findings):
        standing = "usable"
    rawer = rawer_than(kind, there)
    return SourceCheck(
        float(recording.t[-1]),
        len(recording.t_us),
        clock.rate_hz if clock else None,
        clock.timing_jitter_ms if clock else None,
        standing,
        *_SAYS[standing],
        axes,
        tuple(findings),
        rawer,
        SOURCE[rawer].rawer if rawer else "",
    )


def _of(hidden: Hidden) -> SourceFinding:
    """An axis without a signal may be the stick's own fault, and the source is every stick's."""
    words = _sentence(hidden.message)
    if hidden.code == "constant":
        return SourceFinding(hidden.code, f"{words} Try the source out with another stick.", False)
    return SourceFinding(hidden.code, words, True)


def rawer_than(kind: SourceKind, there: tuple[SourceKind, ...]) -> SourceKind | None:
    """Of the sources that are there, the one with the least in between, where that is less than with
    this one."""
    if kind not in OF_ONE_CONTROLLER:
        return None
    return next((k for k in OF_ONE_CONTROLLER[: OF_ONE_CONTROLLER.index(kind)] if k in there), None)


def _sentence(words: str) -> str:
    return words[:1].upper() + words[1:]


def _not_crossed(
    axes: tuple[str, ...],
    passes: list[list[slice]],
    usable: list[list[slice]],
    constant: set[str | None],
) -> list[SourceFinding]:
    findings = []
    for axis, crossed, counted in zip(axes, passes, usable, strict=True):
        if axis in constant or len(counted) >= 2:
            continue
        if len(crossed) >= 2:
            words = f"{axis} went through the middle too swiftly to tell a dead zone from none."
            findings.append(SourceFinding("too-swift", words, False))
        else:
            words = (
                f"{axis} was not moved straight through the middle: a dead zone would not be seen."
            )
            findings.append(SourceFinding("not-crossed", words, False))
    return findings


def _beside_middle(recording: Recording, usable: list[list[slice]]) -> list[SourceFinding]:
    """Where all passes went by the middle, and a stick that was left alone was at exactly zero."""
    passed = [parts for parts in usable if parts]
    if len(recording.axes) != 2 or not passed:
        return []
    if any(go_through_middle(recording.u, parts, recording.resolutions) for parts in passed):
        return []
    if not lies_at_zero(recording.t, recording.u, recording.resolutions).size:
        return []
    words = (
        "it went by the middle, and was at exactly zero where it was left alone: a round dead zone "
        "would not be seen. Move it straight through."
    )
    return [SourceFinding("beside-middle", _sentence(words), False)]


def _ends(recording: Recording) -> list[SourceFinding]:
    """Where an axis stays at the end of its range, as makers let it, or on one side only."""
    both, one, shorts = [], [], []
    for i, (axis, r) in enumerate(zip(recording.axes, recording.ends, strict=True)):
        raw, u = recording.raw[:, i], recording.u[:, i]
        low, high = (
            bool(out.any()) and float(there[out].mean()) > AT_END
            for out, there in ((u < -RIM, raw <= r.lo), (u > RIM, raw >= r.hi))
        )
        shorts += [float(u.min()) + 100.0, 100.0 - float(u.max())]
        short = shorts[-2] if high else shorts[-1]
        if low and high:
            both.append(axis)
        elif (low or high) and short > SHORT:
            sides = {"x": ("left", "right"), "y": ("down", "up")}[axis]
            side = sides[high] if len(recording.axes) == 2 else f"its {tuple(END.values())[high]}"
            one.append(
                f"{axis} stays at the end of its range toward {side} and ends {percent(short)} short "
                "on the other side: its centre or scale may not be its own."
            )
    findings = [SourceFinding("one-sided-end", words, False) for words in one]
    if both:
        stay = "stays" if len(both) == 1 else "stay"
        words = f"{listed(both)} {stay} at both ends of the range, as makers let them."
        findings.append(SourceFinding("ends", words, False))
    if min(shorts) > FAR_SHORT and max(shorts) - min(shorts) <= SHORT_ALIKE:
        words = (
            f"It ends {percent(min(shorts))} short of its range or more, on every side alike. Raw "
            "reports often come before a calibration that the system adds to them: say so where the "
            "source is chosen, and what it holds. Where it is not known and another source of this "
            "controller reaches its ends, measure how far it goes by that one."
        )
        findings.append(SourceFinding("narrow", words, False))
    return findings


def _reports(
    recording: Recording, even: Recording, changes_only: bool, times: int
) -> list[SourceFinding]:
    """even: the recording with its bursts spread out."""
    findings = []
    if changes_only:
        words = "It reports changes only. What it said holds until it speaks again, and is read so."
        findings.append(SourceFinding("changes-only", words, False))
    if times > 1:
        words = f"Every report comes {times} times over. Each is counted once."
        findings.append(SourceFinding("several-times", words, False))
    if even is not recording and _back_and_forth(even) < DISAGREE:
        words = (
            "Its reports come several at a time. Each is read as made in between, not when it came."
        )
        findings.append(SourceFinding("bursts", words, False))
        return findings
    same = np.diff(recording.t_us) == 0
    contrary = int((same & (np.diff(recording.raw, axis=0) != 0).any(axis=1)).sum())
    if contrary > len(recording.t_us) // 100:
        words = (
            f"{contrary} reports came at the same moment as another and say something else: two "
            "reports of the device disagree, or they come in batches without a time of their own."
        )
        findings.append(SourceFinding("contrary", words, False))
    return findings


def _back_and_forth(recording: Recording) -> float:
    """The share of reports, while the stick moves, that turn back from the one before: one way of
    two tellings that disagree does so all the time, a movement hardly ever."""
    u = recording.u
    wide = 8
    swift = np.abs(u[wide:] - u[:-wide]) > wide * SWIFT
    step = np.diff(u, axis=0)
    turns = (step[1:] * step[:-1] < 0)[wide // 2 - 1 :][: len(swift)]
    return float(turns[swift].mean()) if swift.any() else 0.0


def _axis(recording: Recording, i: int, passes: int) -> SourceAxis:
    u, step = recording.u[:, i], recording.resolutions[i]
    values = round(200.0 / step) + 1 if step > 0 else 1
    return SourceAxis(recording.axes[i], step, values, float(u.min()), float(u.max()), passes)


def _coarse(axes: tuple[SourceAxis, ...]) -> list[SourceFinding]:
    coarse = [a for a in axes if a.step > COARSE]
    if not coarse:
        return []
    worst = max(a.step for a in coarse)
    words = (
        f"Its steps are {worst:.1f} % wide: jitter and drift below half of that cannot be told from "
        "none."
    )
    return [SourceFinding("coarse", words, False)]


def _swallows(recording: Recording, findings: list[SourceFinding]) -> list[SourceFinding]:
    """Small changes that do not come, where that hides no fault."""
    below = max(recording.swallowed)
    if not below or any(f.code == "fuzz" for f in findings):
        return []
    words = f"Changes below {percent(below)} do not come: noise as small is not seen."
    return [SourceFinding("swallows", words, False)]
