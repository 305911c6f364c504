"""What would decide between causes that lie close: the step or the handling that tells them apart
best, by the same weights that ranked them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from hollow_pin.core.catalogue import BY_PATH
from hollow_pin.core.causes import SOUND
from hollow_pin.core.diagnosis import first_finding_code
from hollow_pin.core.evidence import BY_CODE, evidence_of
from hollow_pin.core.hidden import MAY_BE_ZERO, UNCALIBRATED
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.limits import LIMIT_OF, Grade, Limits
from hollow_pin.core.ranking import (
    DIRTY,
    LIKELY,
    SPEAKS,
    ZONE,
    Ranked,
    touched_in_still,
    weights,
)
from hollow_pin.core.readings import TakeReadings, held_once, nothing_moved, without_signal
from hollow_pin.core.rough_place import rough_place
from hollow_pin.core.routine import STEP_LABEL, StepName
from hollow_pin.core.steps_read import other_steps, unmeasured
from hollow_pin.core.words import listed

CLOSE = (0.15, 0.85)
"""A cause between these is neither likely nor unlikely."""
MEASURED_ALREADY = 0.3
"""What measuring again tells, of what the first time does."""
STEPS_OF: Mapping[str, tuple[StepName, ...]] = {
    "let_go": ("let-go",),
    "still": ("still",),
    "rim": ("rim",),
    "composite": ("rim", "let-go"),
    "crossing": ("crossing-x", "crossing-y"),
    "hold": ("hold",),
    "joint": ("still", "crossing-x", "turn"),
    "turn": ("turn",),
}


NEAR_BY: Mapping[str, tuple[StepName, ...]] = {
    "crossing.x": ("crossing-x",),
    "crossing.y": ("crossing-y",),
    "composite.dead_zone_needed": ("let-go",),
    "composite.dead_zone_after_recentring": ("let-go",),
    "joint.drops_per_min": ("hold",),
}
"""The step that a reading is read from, where it is not the first of its kind."""


@dataclass(frozen=True)
class Look:
    """What to do, in words, and the steps to take after it, none where that takes another take;
    between: the causes it tells apart."""

    words: str
    steps: tuple[StepName, ...]
    between: tuple[str, ...]


SCALE_OR_SEAT = Look(
    "Recalibrate, extents first, then the rim again: a calibration goes away, a seat stays.",
    ("rim",),
    ("calibration", "unseated"),
)
SCALE_OR_STOP = Look(
    "Recalibrate, extents first, then Hold again: a calibration goes away, what stops it stays.",
    ("hold",),
    ("calibration", "binding"),
)
"""Where a stick is off in scale or centre, and a lever stops short of an end, and nobody can tell by
what."""
HANDLING: Mapping[frozenset[str], tuple[str, tuple[StepName, ...]]] = {
    frozenset(("loose", "dirty")): (
        "Press the shell by the plug while it rests, and take Still again: a loose joint answers.",
        ("still",),
    ),
    frozenset(("loose", "failing-track")): (
        "Press the shell by the plug while it rests, and take Still again: a loose joint answers.",
        ("still",),
    ),
    frozenset(("dirty", "worn")): (
        "Work it back and forth for a minute, and take Still and a crossing again: dirt moves, wear "
        "stays.",
        ("still", "crossing-x"),
    ),
    frozenset(("dirty", "supply-noise")): (
        "Another cable or port, then Still: what stays is the stick’s.",
        ("still",),
    ),
    frozenset(("worn", "supply-noise")): (
        "Another cable or port, then Still: what stays is the stick’s.",
        ("still",),
    ),
    frozenset(("worn", "binding")): (
        "Let it go slowly by hand from each side, then Let-go again: a bind stops short on one side, "
        "wear lies apart by the way it came.",
        ("let-go",),
    ),
    frozenset(("binding", "unseated")): (
        "Roll it round the edge once more with a light hand: what rubs cuts one sector, a seat tilts "
        "the whole.",
        ("rim",),
    ),
    frozenset(SCALE_OR_SEAT.between): (SCALE_OR_SEAT.words, SCALE_OR_SEAT.steps),
}
SHOWN: Mapping[StepName, str] = {
    "still": "Still again, for longer.",
    "let-go": "Let-go again: all eight directions, twice.",
    "rim": "The rim again: slowly, both ways.",
    "crossing-x": "One slow crossing, left to right and back.",
    "crossing-y": "One slow crossing, up and down.",
    "hold": "Hold it over at each side for three seconds.",
    "turn": "A slow turn from end to end, and left alone at three places.",
}
SHOWN_ALONG: Mapping[StepName, str] = {
    **SHOWN,
    "let-go": "Let-go again: to either end, four times.",
    "crossing-x": "One slow crossing, from end to end and back.",
    "hold": "Hold it at each end for three seconds.",
}
"""The same of a single axis."""


HELD_AGAIN = Look(
    "Hold it again, pressed firmly, at the side where it fell back: a track that fails does so each "
    "time, a hand that gave way does not.",
    ("hold",),
    ("failing-track", SOUND),
)
"""Before anything is replaced for what fell back once."""

STILL_AGAIN = Look(
    "Still again, hands off: a contact that comes and goes does so again, a touch does not.",
    ("still",),
    ("worn", SOUND),
)
"""Before anything is done for what moved once while nobody was to touch it."""


MOVE_IT = Look(
    "Take it again, and see that it is this stick that you move: nothing moved in this take.",
    ("let-go", "rim"),
    ("loose", SOUND),
)
"""Before anything is said of a stick of which nothing was seen."""

PRESSED = Look(
    "Go round the rim again while the shell is pressed by the plug and the ribbon: a loose joint "
    "answers, a dead sensor does not.",
    ("rim",),
    ("loose", "failing-track"),
)
"""Where an axis gives no signal."""

CALIBRATED = Look(
    "Measure it with what the device's own calibration holds, entered where the source is chosen: "
    "where it rests and how far it reaches shows then.",
    (),
    (SOUND, "calibration"),
)
"""Where nothing speaks against a stick whose calibration nobody knows. No step of the same take does
it."""

RECALIBRATED = Look(
    "Recalibrate, extents first, then the rim again: an end that was learnt from something else goes "
    "away, a track that is broken stays.",
    ("rim",),
    ("failing-track", "calibration"),
)
"""Where it gives none to one side."""


def looks(
    take: TakeReadings,
    causes: Sequence[Ranked],
    steps: Sequence[StepName],
    grade: Grade = "everyday",
    limits: Limits = LIMIT_OF,
) -> tuple[Look, ...]:
    """What would decide, the best first; nothing where nothing is open. steps: that the stick can
    do. grade, limits: what it is held against."""
    case = JudgedTake(take, grade, limits)
    if nothing_moved(take):
        missing = tuple(step for step in unmeasured(take) if step in steps)
        return (replace(MOVE_IT, steps=missing or (steps[-1],)),)
    mute = without_signal(take)
    if mute is not None:
        return (PRESSED if mute.side is None else RECALIBRATED,)
    if "hold" in steps and held_once(take) and any(_fell_back(c) for c in causes[:2]):
        return (HELD_AGAIN,)
    if "still" in steps and touched_in_still(case):
        return (STILL_AGAIN,)
    step_shown = SHOWN if len(take.recording.axes) == 2 else SHOWN_ALONG
    missing = tuple(step for step in unmeasured(take) if step in steps)
    if missing and not causes[0].likely:
        names = listed([STEP_LABEL[step] for step in missing])
        between = (causes[0].cause, causes[1].cause)
        return (Look(f"Measure what is missing: {names}.", missing, between),)
    crossed = _crossings_at_zero(take, steps)
    if crossed and (not causes[0].likely or causes[0].cause == ZONE):
        along = listed([step.removeprefix("crossing-") for step in crossed])
        words = f"Cross the middle slowly along {along}: a dead zone of the source shows there."
        return (Look(words, crossed, (ZONE, SOUND)),)
    if causes[0].cause == SOUND and any(h.code == UNCALIBRATED for h in take.hidden):
        return (CALIBRATED,)
    unread = tuple(s for s, read in other_steps(take).items() if read is None and s in steps)
    if unread and causes[0].likely and causes[0].cause == SOUND:
        names = listed([STEP_LABEL[step] for step in unread])
        return (Look(f"Measure the rest of it: {names}.", unread, (SOUND, causes[1].cause)),)
    first = first_finding_code(case) if not causes[0].likely else None
    if first == "falls" and "hold" in steps:
        between = ("failing-track", causes[causes[0].cause == "failing-track"].cause)
        return (
            Look(f"It fell back while it was pushed. {step_shown['hold']}", ("hold",), between),
        )
    if first == "scale":
        recalibrated = SCALE_OR_SEAT if len(take.recording.axes) == 2 else SCALE_OR_STOP
        if set(recalibrated.steps) <= set(steps):
            return (recalibrated,)
    if first == "near":
        at_the_limit = _of_a_limit(case, causes, steps, step_shown)
        if at_the_limit is not None:
            return (at_the_limit,)
    pair = _open_pair(causes)
    if pair is None or (set(pair) == {DIRTY, SOUND} and rough_place(take)):
        # What is rough pass after pass is so again: whether that is felt no step tells.
        return ()
    offered: list[Look] = []
    handling = HANDLING.get(frozenset(pair))
    if handling is not None and all(s in steps for s in handling[1]):
        offered.append(Look(handling[0], handling[1], pair))
    best = _best_step(take, pair, steps)
    if best is not None and not (offered and best in offered[0].steps):
        offered.append(Look(step_shown[best], (best,), pair))
    return tuple(offered)


def _crossings_at_zero(take: TakeReadings, steps: Sequence[StepName]) -> tuple[StepName, ...]:
    """The crossings that tell whether a source hides a rest of exactly zero."""
    resting = {f"crossing-{h.axis}" for h in take.hidden if h.code in MAY_BE_ZERO}
    return tuple(step for step in steps if step in resting)


def _of_a_limit(
    case: JudgedTake,
    causes: Sequence[Ranked],
    steps: Sequence[StepName],
    step_shown: Mapping[StepName, str],
) -> Look | None:
    """The step of the first reading that is too near its limit to call."""
    for path in case.with_verdict("borderline"):
        part, name, *_ = path.split(".")
        could = NEAR_BY.get(f"{part}.{name}") or STEPS_OF.get(part, ())
        step = next((s for s in could if s in steps), None)
        if step is not None:
            between = (causes[0].cause, causes[1].cause)
            label = BY_PATH[path].label
            return Look(
                f"{label} is too near its limit to call. {step_shown[step]}", (step,), between
            )
    return None


def settled(
    take: TakeReadings, causes: Sequence[Ranked], open_looks: Sequence[Look]
) -> list[Ranked]:
    """The causes that are likely, but for a track by one hold that fell back, which is held again
    first. open_looks: the looks that there are."""
    open_ = {"failing-track"} if HELD_AGAIN in open_looks else set()
    return [c for c in causes if c.likely and c.cause not in open_]


def seen_first(open_looks: Sequence[Look], likely: Sequence[Ranked]) -> bool:
    """Whether a look comes before anything is done, or said. likely: the causes that are settled."""
    return bool(open_looks) and not likely


def _fell_back(cause: Ranked) -> bool:
    """Whether it is far from unlikely, and mostly since it fell back while it was held."""
    if cause.probability < LIKELY / 2 or not cause.evidence:
        return False
    return cause.evidence[0].reading == "hold.sag" and cause.evidence[0].speaks_for


def _open_pair(causes: Sequence[Ranked]) -> tuple[str, str] | None:
    """The two likeliest, where the second is open, or the first is not settled."""
    first, second = causes[:2]
    if first.probability > CLOSE[1] and not CLOSE[0] < second.probability <= CLOSE[1]:
        return None
    return first.cause, second.cause


def _best_step(
    take: TakeReadings, pair: tuple[str, str], steps: Sequence[StepName]
) -> StepName | None:
    """The step whose evidence the weights of the two differ most on; what was measured already counts
    less."""
    table, evidence = weights(), evidence_of(take)
    gains: dict[StepName, float] = {}
    for code in sorted(SPEAKS[pair[0]].keys() | SPEAKS[pair[1]].keys()):
        apart = abs(table[pair[0]].above.get(code, 0.0) - table[pair[1]].above.get(code, 0.0))
        missing = all(value is None for value in evidence[code].values())
        could = STEPS_OF.get(BY_CODE[code].reading.split(".")[0], ())
        for name in [s for s in could if s in steps]:
            gains[name] = gains.get(name, 0.0) + apart * (1.0 if missing else MEASURED_ALREADY)
    if not gains:
        return None
    best: StepName = max(gains, key=gains.__getitem__)
    return best
