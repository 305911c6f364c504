"""What each remedy would leave of a stick, and how likely it is to mend it: worked out from the take
where that can be done, from the shop's own record of the remedy where there is one, and from the
table's prior, said to be one, where there is neither."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import scipy

from hollow_pin.core.already import DoneInVain
from hollow_pin.core.causes import SOUND, name_of
from hollow_pin.core.diagnosis import FindingCode, first_finding_code
from hollow_pin.core.gate import BEARINGS
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.let_go import finals_of
from hollow_pin.core.limits import Grade, Limits
from hollow_pin.core.ranking import Ranked
from hollow_pin.core.reach_signs import span
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import Floats
from hollow_pin.core.remedies import BY_CODE, REMEDIES, Remedy
from hollow_pin.core.sides import Axis, Sides
from hollow_pin.core.words import listed, percent

DEAD_ZONE = "composite.dead_zone_needed"
RETURNS = "let_go.return_spread"
CIRCULARITY = "rim.circularity_error"
CENTRE_SAMPLES = 4
"""As many returns as a calibration takes its centre from, usually."""
DRAWN = 400
LEAST_SPAN = 40.0
"""% of half range that an axis must reach, for what learning its extents anew does to be said."""
LIKELY = 0.3
"""From this probability on a cause is spoken of as one that a remedy is for."""
HARDLY = 0.04
"""Under this probability a cause is no reason to offer what helps it."""
FRESH: Mapping[str, tuple[float, float, float]] = {
    DEAD_ZONE: (1.0, 2.2, 4.5),
    RETURNS: (0.3, 0.9, 2.0),
    CIRCULARITY: (1.5, 3.5, 6.5),
}
"""What a fresh part reads once it is calibrated, usually: low, middle, high. A prior, not measured in
this shop."""
FEWEST_FITTED = 5
"""From as many parts fitted here on, what they read is told instead of the usual word."""
SPREADS = ("worn", "binding", "dirty", "loose", "supply-noise")
"""Causes that make a stick rest now here, now there, or tremble where it rests."""
OWN_MODEL = 5
"""From as many outcomes of a model on, its own record is told and not that of every model."""
LEFT = "left"
AS_IT_IS: Mapping[FindingCode | None, float] = {"within": 0.95, "near": 0.5}
"""The chance that a stick passes its grade as it is, at the least, by what is told of it first: what
is surely within its limit is so 19 times in 20, what is too near it to call as often as not."""
Basis = Literal["take", "record", "table", "none"]


@dataclass(frozen=True)
class Expected:
    """What a reading is now and after, %: nine times in ten between low and high, else the middle."""

    now: float | None
    low: float
    middle: float
    high: float


@dataclass(frozen=True)
class Record:
    """What the shop knows of a remedy for a cause: of `tried` jobs `held` read within their limits
    afterwards. of: whose jobs they are, in words; empty where they are every model's."""

    tried: int
    held: int
    of: str = ""

    @property
    def words(self) -> str:
        """How often it held, in a sentence; empty where it was never tried."""
        whose = f" of {self.of}" if self.of else ""
        return f"Here it held in {self.held} of {self.tried}{whose}." if self.tried else ""


def pooled(outcomes: Sequence[tuple[bool, bool]], model: str) -> Record:
    """What is told of outcomes, each whether it held and whether it was of the model in question: the
    model's own where there are enough of them, else all."""
    own = [h for h, same in outcomes if same]
    if len(own) >= OWN_MODEL:
        return Record(len(own), sum(own), f"this model, {model}")
    return Record(len(outcomes), sum(h for h, _ in outcomes))


@dataclass(frozen=True)
class Fitted:
    """What a part read that was fitted here, before anything else was done to it but calibrating. lot:
    empty where it was not noted. values: by dotted name, % of half range."""

    lot: str
    values: Mapping[str, float]


FittedParts = Mapping[str, Sequence[Fitted]]
"""By remedy, those of one model."""


@dataclass(frozen=True)
class Prospect:
    """What a remedy is expected to do. chance: that the stick passes the grade after it, 0 to 1, and
    between low and high nine times in ten. basis: where that is from. expected: by reading.
    for_causes: those it is for, by code. words: why, in sentences."""

    remedy: str
    chance: float
    low: float
    high: float
    basis: Basis
    expected: Mapping[str, Expected]
    for_causes: tuple[str, ...]
    words: str


Records = Mapping[tuple[str, str], Record]
"""By remedy and cause."""


def prospects(
    take: TakeReadings,
    causes: Sequence[Ranked],
    grade: Grade,
    limits: Limits,
    records: Records | None = None,
    hall: bool = False,
    fitted: FittedParts | None = None,
    in_vain: DoneInVain | None = None,
) -> tuple[Prospect, ...]:
    """Every remedy that helps a cause that may be so, the likeliest to mend the stick first.

    hall: whether its sensors have no track. fitted: parts that went into sticks of its model here.
    in_vain: what was done to this very stick already.
    """
    likely = {c.cause: c.probability for c in causes}
    as_it_is = AS_IT_IS.get(first_finding_code(JudgedTake(take, grade, limits)), 0.0)
    kind = "hall" if hall else "potentiometer"
    offered = []
    for remedy in REMEDIES:
        if kind not in remedy.sensors:
            continue
        helps = tuple(code for code in remedy.helps if likely.get(code, 0.0) >= HARDLY)
        if remedy.code == LEFT and as_it_is:
            helps = (SOUND,)
        if helps:
            parts = (fitted or {}).get(remedy.code, ())
            prospect = _prospect(
                remedy, take, likely, grade, limits, records or {}, in_vain or {}, helps, parts
            )
            if remedy.code == LEFT:
                chance = max(as_it_is, likely.get(SOUND, 0.0))
                prospect = replace(prospect, chance=chance, low=chance, high=chance)
                if chance == as_it_is:
                    words = "Nothing is surely over its limit as it is."
                    prospect = replace(prospect, basis="take", words=words)
            offered.append(prospect)
    return tuple(sorted(offered, key=lambda p: (-p.chance, BY_CODE[p.remedy].minutes)))


def passes_after(cures: Mapping[str, float], likely: Mapping[str, float]) -> float:
    """The chance that nothing is left: every cause was not there, or is cured. cures: by cause, the
    chance that it is. Causes are taken to come independently."""
    chance = 1.0
    for cause, p in likely.items():
        if cause != SOUND:
            chance *= 1.0 - p * (1.0 - cures.get(cause, 0.0))
    return chance


def cures_of(
    remedy: Remedy,
    take: TakeReadings,
    likely: Mapping[str, float],
    grade: Grade,
    limits: Limits,
    records: Records,
    in_vain: DoneInVain | None = None,
) -> dict[str, tuple[float, float, float, Basis]]:
    """By cause: the chance that the remedy cures it, its range, and where that is from; less where it
    was done to this very stick in vain.

    What a recentring leaves is worked out from the take, as far as nothing else is likely that spreads
    its rest. That speaks for itself, and is mended first: what the take would say of a recentring then
    nobody knows, and the usual word holds. likely: by cause, its probability."""
    cures: dict[str, tuple[float, float, float, Basis]] = {}
    for cause, help_ in remedy.helps.items():
        chance, low, high, basis = beta(help_.chance, records.get((remedy.code, cause)))
        if remedy.recentres and cause == "offset":
            sure = _within_after_recentring(remedy, take, grade, limits)
            if sure is not None:
                alone = float(np.prod([1.0 - likely.get(c, 0.0) for c in SPREADS]))
                chance, low, high = (alone * sure + (1.0 - alone) * p for p in (chance, low, high))
                basis = "take"
        before = (in_vain or {}).get((remedy.code, cause))
        if before:
            chance, low, high = (before.leaves(p) for p in (chance, low, high))
        cures[cause] = (chance, low, high, basis)
    return cures


PRIOR_WEIGHT = 4.0
"""As many jobs as the table's own word counts for."""


def beta(prior: float, record: Record | None) -> tuple[float, float, float, Basis]:
    """A chance with its 90 % interval: the table's word counts for four jobs, the shop's own are added
    to it (Beta–binomial)."""
    held, tried = (record.held, record.tried) if record else (0, 0)
    a = prior * PRIOR_WEIGHT + held
    b = (1.0 - prior) * PRIOR_WEIGHT + tried - held
    if b <= 0:
        return 1.0, 1.0, 1.0, "table"
    low, high = scipy.special.betaincinv(a, b, (0.05, 0.95))
    return a / (a + b), float(low), float(high), "record" if tried else "table"


def _within_after_recentring(
    remedy: Remedy, take: TakeReadings, grade: Grade, limits: Limits
) -> float | None:
    """The chance that the dead zone needed lies within its limit after a recentring, by this take."""
    drawn = recentrings(take)
    if drawn is None:
        return None
    drawn = drawn * _rescaled_by(remedy, take)
    u = take.uncertainty.get("composite.dead_zone_after_recentring", 0.2)
    limit = limits[DEAD_ZONE].at(grade)
    return float(scipy.special.ndtr((limit - drawn) / max(u, 0.05)).mean())


def recentrings(take: TakeReadings) -> Floats | None:
    """The dead zone that would be needed after a recentring, drawn (n,) times, %: a calibration takes
    its centre from a few returns, and comes to lie where they do. None where it was not measured.

    The returns are those of the take, drawn with a fixed seed; so is what is noise in it.
    """
    let_go, still = take.let_go, take.still
    needed = take.composite.dead_zone_needed
    if let_go is None or still is None or needed is None or len(let_go.release) < CENTRE_SAMPLES:
        return None
    if take.hidden_at(DEAD_ZONE):
        return None
    finals = finals_of(let_go.release)
    rng = np.random.default_rng(0)
    chosen = rng.integers(0, len(finals), (DRAWN, CENTRE_SAMPLES))
    centres = finals[chosen].mean(axis=1)
    farthest = np.hypot(*(finals[None] - centres[:, None]).transpose(2, 0, 1)).max(axis=1)
    return np.asarray(np.maximum(farthest + still.noise_reach, still.rest_reach_recentred))


def _rescaled_by(remedy: Remedy, take: TakeReadings) -> float:
    """What everything near the centre is multiplied by when the extents are learnt anew: a stick whose
    ends ran 30 % over reads a quarter less of everything once they do not."""
    if remedy.calibration != "recalibrated":
        return 1.0
    sides = Sides(take)
    both: tuple[Axis, Axis] = ("x", "y")
    spans = [s for axis in both if (s := span(sides, axis)) is not None]
    return 100.0 / float(np.mean(spans)) if spans and min(spans) >= LEAST_SPAN else 1.0


def _spread_of(drawn: Floats, now: float | None) -> Expected:
    low, middle, high = np.percentile(drawn, (5, 50, 95))
    return Expected(now, float(low), float(middle), float(high))


def _prospect(
    remedy: Remedy,
    take: TakeReadings,
    likely: Mapping[str, float],
    grade: Grade,
    limits: Limits,
    records: Records,
    in_vain: DoneInVain,
    helps: tuple[str, ...],
    parts: Sequence[Fitted],
) -> Prospect:
    cures = cures_of(remedy, take, likely, grade, limits, records, in_vain)
    chance = passes_after({cause: c[0] for cause, c in cures.items()}, likely)
    low = passes_after({cause: c[1] for cause, c in cures.items()}, likely)
    high = passes_after({cause: c[2] for cause, c in cures.items()}, likely)
    for_causes = tuple(sorted(helps, key=lambda c: -likely[c]))
    bases = {cures[c][3] for c in causes_treated(for_causes, likely)}
    basis: Basis = "take" if "take" in bases else "record" if "record" in bases else "table"
    return Prospect(
        remedy.code,
        chance,
        low,
        high,
        basis,
        _expected(remedy, take, parts),
        for_causes,
        _words(remedy, take, likely, for_causes, records, in_vain, parts),
    )


def causes_treated(for_causes: Sequence[str], likely: Mapping[str, float]) -> list[str]:
    """The causes that a remedy is for here: the likely ones, or else the likeliest."""
    return [c for c in for_causes if likely[c] >= LIKELY] or list(for_causes[:1])


def _expected(remedy: Remedy, take: TakeReadings, parts: Sequence[Fitted]) -> dict[str, Expected]:
    """The readings that can be said beforehand."""
    now = {path: take.value(path) for path in (DEAD_ZONE, RETURNS, CIRCULARITY)}
    if remedy.recentres:
        expected = {}
        drawn, rescaled = recentrings(take), _rescaled_by(remedy, take)
        if drawn is not None:
            expected[DEAD_ZONE] = _spread_of(drawn * rescaled, now[DEAD_ZONE])
        if (apart := now[RETURNS]) is not None and not take.hidden_at(RETURNS):
            after = apart * rescaled
            expected[RETURNS] = Expected(apart, after, after, after)
        forecast = take.composite.circularity_after_recalibration
        rim_seen = forecast is not None and not take.hidden_at(CIRCULARITY) and not cut_off(take)
        if remedy.calibration == "recalibrated" and forecast is not None and rim_seen:
            u = take.uncertainty.get("composite.circularity_after_recalibration", 0.3)
            expected[CIRCULARITY] = Expected(
                now[CIRCULARITY], max(0.0, forecast - 2 * u), forecast, forecast + 2 * u
            )
        return expected
    if remedy.renews == "new":
        return {
            path: _as_fitted(parts, path, now[path]) or Expected(now[path], *FRESH[path])
            for path in now
            if now[path] is not None
        }
    return {}


def _as_fitted(parts: Sequence[Fitted], path: str, now: float | None) -> Expected | None:
    """What the next part will read by those that were fitted: the middle of them, and nine times in
    ten between the ends of a Student's t interval for one more. None where there are too few."""
    values = np.array([p.values[path] for p in parts if path in p.values])
    n = len(values)
    if n < FEWEST_FITTED:
        return None
    mean, sd = float(values.mean()), float(values.std(ddof=1))
    wide = float(scipy.special.stdtrit(n - 1, 0.95)) * sd * (1 + 1 / n) ** 0.5
    return Expected(now, max(0.0, mean - wide), float(np.median(values)), mean + wide)


def _by_lot(parts: Sequence[Fitted]) -> str:
    """How the lots differ, in a sentence; empty where none was noted."""
    lots: dict[str, list[float]] = {}
    for part in parts:
        if part.lot and DEAD_ZONE in part.values:
            lots.setdefault(part.lot, []).append(part.values[DEAD_ZONE])
    by_lot = [f"{lot} {percent(float(np.median(v)))} ({len(v)})" for lot, v in sorted(lots.items())]
    return f"Dead zone by lot: {listed(by_lot)}." if by_lot else ""


AT_END = 99.5
"""From where on what is forecast counts as lying at the end of its range, %."""
CUT_BINS = 2
"""Bins of 5° at the end of an axis's range, from which on what lies beyond is not seen."""


def cut_off(take: TakeReadings) -> bool:
    """Whether the rim lies at an end of its range farther than it touches it: what a recalibration
    would make of what is cut off cannot be said."""
    if take.rim is None:
        return True
    angle = np.radians(BEARINGS)
    radius = np.array(take.rim.radius)
    sides = (np.sin(angle), -np.sin(angle), np.cos(angle), -np.cos(angle))
    return any(int((radius * along > AT_END).sum()) > CUT_BINS for along in sides)


BECAUSE: Mapping[Basis, str] = {
    "take": "Worked out from this take.",
    "record": "By this shop’s own record.",
    "table": "By the usual word of the trade: this shop has no record of it yet.",
    "none": "",
}


def _words(
    remedy: Remedy,
    take: TakeReadings,
    likely: Mapping[str, float],
    for_causes: tuple[str, ...],
    records: Records,
    in_vain: DoneInVain,
    parts: Sequence[Fitted],
) -> str:
    these = causes_treated(for_causes, likely)
    sentences = [f"{remedy.helps[c].how[0].upper()}{remedy.helps[c].how[1:]}." for c in these[:2]]
    if remedy.code == "software-dead-zone":
        needed = take.composite.dead_zone_needed
        if needed is not None and not take.hidden_at(DEAD_ZONE):
            sentences = [f"{percent(needed)} of it would hide the rest, and cost as much travel."]
    if remedy.code == "trimmed":
        sentences.append("It costs reach; how much, the network tells.")
    others = [c for c, p in likely.items() if p >= LIKELY and c not in remedy.helps and c != SOUND]
    if others:
        named = listed([name_of(c) for c in others])
        sentences.append(f"It does nothing for what else shows: {named}.")
    for c in these[:1]:
        record = records.get((remedy.code, c))
        if record:
            sentences.append(record.words)
    if remedy.renews == "new":
        enough = len(parts) >= FEWEST_FITTED
        sentences.append(
            f"What it will read is by {len(parts)} fitted here."
            if enough
            else f"What it will read is the usual word: {len(parts) or 'none'} of them "
            f"{'was' if len(parts) <= 1 else 'were'} measured here."
        )
        sentences.append(_by_lot(parts))
    done = [before for c in for_causes if (before := in_vain.get((remedy.code, c)))]
    sentences += [before.words for before in done[:1]]
    return " ".join(s for s in sentences if s)
