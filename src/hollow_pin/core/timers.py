"""What has to dry, cool or cure before a shell may be shut."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from hollow_pin.core.remedies import WaitKind
from hollow_pin.core.words import listed, lower_first

KIND_LABEL: dict[WaitKind, str] = {
    "dry": "Drying",
    "cool": "Cooling",
    "cure": "Curing",
    "other": "Waiting",
}
LONGEST_MIN = 7 * 24 * 60
SHORTEST_MIN = 1 / 60


@dataclass(frozen=True)
class Timer:
    """Something that takes its time, in minutes. Times are ISO 8601, UTC. stopped_at: where it was
    ended before its time, and because of what. rung_at: when somebody heard that it was over."""

    id: int
    job_id: int
    kind: WaitKind
    label: str
    minutes: float
    started_at: str
    ends_at: str
    stopped_at: str | None
    because: str
    rung_at: str | None

    def runs(self, now: str) -> bool:
        """Whether it is still to be waited for."""
        return self.stopped_at is None and now < self.ends_at


def end_of(started_at: str, minutes: float) -> str:
    """When a timer is over, ISO 8601, UTC."""
    end = datetime.fromisoformat(started_at) + timedelta(minutes=minutes)
    return end.isoformat(timespec="milliseconds")


def minutes_left(timer: Timer, now: str) -> float:
    """How long it is still to be waited for; 0 where it is over."""
    if not timer.runs(now):
        return 0.0
    remaining = datetime.fromisoformat(timer.ends_at) - datetime.fromisoformat(now)
    return remaining.total_seconds() / 60.0


def why_wait(timers: list[Timer], now: str) -> str:
    """What is still to be waited for, in a sentence; empty where nothing is."""
    running = [t for t in timers if t.runs(now)]
    if not running:
        return ""
    each = [f"{lower_first(t.label)}, {_time_left(minutes_left(t, now))}" for t in running]
    return f"Still to be waited for: {listed(each)}."


def _time_left(minutes: float) -> str:
    return f"{minutes:.0f} min" if minutes >= 1 else f"{60 * minutes:.0f} s"
