"""What each remedy could reach, by what was measured, before anything is opened."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from hollow_pin.core.diagnosis import (
    Case,
    dead_spans,
    fails_when_held,
    is_spiky,
    returns_apart,
    rim_is_off,
    rough,
    spikes_per_min,
    trembles,
)
from hollow_pin.core.limits import LIMIT_OF, Grade, Limits
from hollow_pin.core.take import TakeReadings
from hollow_pin.core.words import GAIN, listed, percent

DEAD_ZONE = "composite.dead_zone_needed"
CIRCULARITY = "rim.circularity_error"


@dataclass(frozen=True)
class Prospect:
    """remedy: as it goes on record. expectation: what may be expected of it for this stick."""

    remedy: Literal["recalibrated", "cleaned", "replaced"]
    expectation: str


def forecast(
    take: TakeReadings, grade: Grade = "everyday", limits: Limits = LIMIT_OF
) -> tuple[Prospect, ...]:
    """Every remedy there is, the least trouble first."""
    case = Case(take, grade, limits)
    return (
        Prospect("recalibrated", f"{_recalibrated(take)} Free, no tools."),
        Prospect("cleaned", _cleaned(case)),
        Prospect("replaced", f"{_replaced(case)} It wants a calibration after it."),
    )


def _hides(take: TakeReadings, *paths: str) -> bool:
    """Whether the source hides any of the readings: what does not show there may well be there."""
    return any(take.hidden_at(path) for path in paths)


def _recalibrated(take: TakeReadings) -> str:
    c = take.composite
    rim = take.rim.circularity_error if take.rim else None
    pairs = (
        (DEAD_ZONE, "dead zone needed", c.dead_zone_needed, c.dead_zone_after_recentring),
        (CIRCULARITY, "circularity error", rim, c.circularity_after_recalibration),
    )
    gains, measured, hidden = [], False, []
    for path, what, was, left in pairs:
        if was is None or left is None:
            continue
        measured = True
        if _hides(take, path):
            hidden.append(what)
        elif was - left >= GAIN:
            gains.append(f"the {what} from {percent(was)} to {percent(left)}")
    if not measured:
        return "What it could reach was not measured. It takes away offset and scale, never noise."
    said = []
    if gains:
        said.append(f"Could take {listed(gains)} at best. Spread and spikes stay.")
    if hidden:
        said.append(f"What it could do for the {listed(hidden)} is hidden by the source.")
    return " ".join(said) or "Nothing to gain: centre and scale are as right as they can be."


def _cleaned(case: Case) -> str:
    take = case.take
    spikes = f"{spikes_per_min(take):.0f} spikes a minute with hands off"
    high = take.still.spike_height if take.still else 0.0
    if is_spiky(take):
        return f"{spikes}: dirt is likely. It may come back."
    if rough(case):
        return "There are rough places along the track: dirt is likely. It may come back."
    if high:
        return f"{spikes}, none over {percent(high)}: little dirt, if any."
    seen = [
        where
        for where, measured in (
            ("with hands off", take.still or take.turn),
            ("on the way along the track", take.crossing or take.turn),
        )
        if measured
    ]
    if not seen:
        return "Whether there is dirt was not measured. Cleaning does nothing for wear."
    if _hides(take, "still.spikes_per_min_x", "still.spikes_per_min_y", "turn.track_noise_max"):
        return "Whether there is dirt is hidden by the source. Cleaning does nothing for wear."
    return f"No dirt shows {' or '.join(seen)}. Cleaning does nothing for wear."


def _replaced(case: Case) -> str:
    let_go = case.take.let_go
    spread = let_go.return_spread if let_go else None
    signs = (
        (returns_apart, f"returns {percent(spread or 0.0)} apart"),
        (dead_spans, "places on the track that are jumped over"),
        (fails_when_held, "a fall while it is held"),
        (rough, "rough places"),
        (trembles, "trembling"),
        (rim_is_off, "a rim out of shape"),
    )
    shown = [words for holds, words in signs if holds(case)]
    if shown:
        return f"Could cure what shows: {listed(shown)}."
    if _hides(case.take, "let_go.return_spread", "turn.track_noise_max"):
        return "Whether there is wear to cure is hidden by the source."
    if spread is not None:
        return f"Nothing it would cure shows: returns lie {percent(spread)} apart."
    if case.take.crossing or case.take.turn:
        return "Nothing it would cure shows along the track."
    return "Whether there is wear to cure was not measured."
