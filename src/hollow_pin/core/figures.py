"""The few numbers of a take that decide, for each of its two sides: where it rests and reaches, and
what lies along the way."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf
from typing import Literal

from hollow_pin.core.catalogue import BY_PATH
from hollow_pin.core.comparison import Compared, Comparison
from hollow_pin.core.limits import Grade, Limits
from hollow_pin.core.readings import TakeReadings

TakeSide = Literal["rest", "track"]
AT_BEST = "composite.dead_zone_after_recentring"


@dataclass(frozen=True)
class Figure:
    """One number to show. beside: another reading that is said with it, and its name there. note: what
    is said of it where it has no limit."""

    path: str
    label: str
    beside: str | None = None
    beside_label: str = ""
    note: str = ""


def figures_of(
    take: TakeReadings, limits: Limits, grade: Grade
) -> dict[TakeSide, tuple[Figure, ...]]:
    """Those of each side that a take has; a paddle has one side."""
    if take.turn is not None:
        return {"track": _of_turn()}
    figures: dict[TakeSide, tuple[Figure, ...]] = {}
    around = take.let_go is not None or take.rim is not None
    along = take.crossing is not None or take.hold is not None
    if around or not along:
        figures["rest"] = _of_rest(take, limits, grade)
    if along:
        figures["track"] = _of_track(take)
    return figures


RESTLESS = (
    "still.jitter_x",
    "still.jitter_y",
    "still.spikes_per_min_x",
    "still.spikes_per_min_y",
)
OF_A_STICK = (
    ("composite.dead_zone_needed",),
    ("let_go.return_spread",),
    ("rim.circularity_error", "composite.outer_dead_zone_needed"),
    RESTLESS,
)
OF_A_PADDLE = (
    ("turn.jitter", "turn.spikes_per_min"),
    ("turn.wander",),
    ("turn.track_noise_max",),
    ("composite.outer_dead_zone_needed",),
)
"""What decides whether it got better; of several, the one that came nearest to its limit either time,
or went farthest over it."""
DECIDING = 4


def deciding(comparison: Comparison) -> tuple[str, ...]:
    """The readings of a comparison that decide, by dotted name, four at most: those of its kind that
    were measured, and in place of what was not, what changed the most against its limit."""
    rows = {r.path: r for r in comparison.rows if r.before is not None or r.after is not None}
    groups = OF_A_PADDLE if "turn.jitter" in rows else OF_A_STICK
    chosen = []
    for group in groups:
        measured_rows = [rows[path] for path in group if path in rows]
        if measured_rows:
            chosen.append(max(measured_rows, key=_nearest).path)
    others = [r for r in comparison.telling if r.path not in chosen]
    others.sort(key=Compared.against_limit, reverse=True)
    return tuple([*chosen, *(r.path for r in others)][:DECIDING])


def _nearest(row: Compared) -> float:
    return max(row.before or 0.0, row.after or 0.0) / row.limit if row.limit else 0.0


def _figure(
    path: str, label: str = "", beside: str | None = None, beside_label: str = ""
) -> Figure:
    note = "at best" if path == AT_BEST else ""
    return Figure(path, label or BY_PATH[path].label, beside, beside_label, note)


ENDS = _figure("composite.outer_dead_zone_needed", "Outer dead zone")


def _of_turn() -> tuple[Figure, ...]:
    return (
        _figure("turn.jitter", "", "turn.spikes_per_min", "spikes/min"),
        _figure("turn.wander"),
        _figure("turn.track_noise_max", "", "turn.rough_spots", "rough spots"),
        _figure("turn.dead_spans"),
        ENDS,
    )


def _of_track(take: TakeReadings) -> tuple[Figure, ...]:
    rough = _worse(take, "crossing.{}.track_noise_max")
    spots = rough.replace("track_noise_max", "rough_spots")
    return (
        _figure(rough, "", spots, "rough spots"),
        _figure(_worse(take, "crossing.{}.dead_spans")),
        _figure("hold.sag"),
        _figure("hold.dropouts_per_min"),
        _figure(_worse(take, "still.jitter_{}"), "Jitter"),
    )


def _of_rest(take: TakeReadings, limits: Limits, grade: Grade) -> tuple[Figure, ...]:
    returned = take.let_go is not None and take.let_go.return_max is not None
    if not returned and take.still is not None:
        return (
            _figure("still.rest_offset"),
            _figure("still.wander"),
            _figure(_worse(take, "still.creep_{}")),
            _figure(_worse(take, "still.jitter_{}"), "Jitter"),
            _figure(_worse(take, "still.spikes_per_min_{}")),
        )
    rim = _figure("rim.circularity_error", "", "composite.shape_after_recalibration", "shape")
    return (
        _figure("composite.dead_zone_needed"),
        _figure(AT_BEST),
        _figure("let_go.return_spread"),
        rim if len(take.recording.axes) == 2 else ENDS,
        _restless(take, limits, grade),
    )


def _worse(take: TakeReadings, pattern: str) -> str:
    """The reading of the axis on which it is the greater; of x where there is none."""
    x, y = pattern.format("x"), pattern.format("y")
    at_x, at_y = take.value(x), take.value(y)
    return y if (-1.0 if at_y is None else at_y) > (-1.0 if at_x is None else at_x) else x


def _restless(take: TakeReadings, limits: Limits, grade: Grade) -> Figure:
    """Jitter; or spikes, where they are the farther over their limit."""
    jitter, spikes = _worse(take, "still.jitter_{}"), _worse(take, "still.spikes_per_min_{}")

    def share(path: str) -> float:
        return (take.value(path) or 0.0) / (limits[path].at(grade) or inf)

    if share(spikes) > max(1.0, share(jitter)):
        return _figure(spikes, "Spikes")
    return _figure(jitter, "Jitter")
