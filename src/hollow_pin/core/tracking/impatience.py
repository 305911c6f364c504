"""Who presses Space where nobody does."""

from __future__ import annotations

from hollow_pin.core.tracking.tracker import StepTracker

PATIENCE_S = 60.0


class Impatience:
    """Presses Space where nobody watches: at once where the stick does not hold still, and where a
    step has not moved on for a long time although it may be accepted as it is."""

    def __init__(self) -> None:
        self._step: str | None = None
        self._since = 0.0

    def gives_up(self, tracker: StepTracker, now: float) -> bool:
        progress = tracker.progress()
        if progress.step != self._step:
            self._step, self._since = progress.step, now
        waited = progress.step != "still" and now - self._since > PATIENCE_S
        return progress.space == "start" or (waited and progress.space == "accept")
