"""What was done to this very stick already, for something that is still wrong with it.

What did not help once seldom helps twice, and what came back comes back again: a remedy that was done
in vain is offered with less of a chance, and says why.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from hollow_pin.core.comparison import Overall
from hollow_pin.core.ranking import Ranked
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.core.sides import Axis

ONCE_MORE = 0.25
"""What is left of a remedy's chance to cure something, each time that it was done in vain for it. A
word of the trade's, like the chance itself, and no measurement."""
STILL_THERE = 0.3
"""From this probability on a cause is taken to be there."""
NO_BETTER: tuple[Overall, ...] = ("no-change", "little", "worse")
"""What a comparison says of a remedy that did not help. Where it cannot say, that is not known."""


@dataclass(frozen=True)
class Attempt:
    """A remedy as it was done to a stick once.

    remedy: its code. axis: the one it was done to; None where to both, or that was not said. this_job:
    or at an earlier visit. no_better: whether nothing is better that was measured after it; at an
    earlier visit it may have been. was: the causes as they were ranked before it; None where nothing
    was measured before. measured_by: whatever stands for the take after it; what was done to one axis
    and to the other before one take was done once.
    """

    remedy: str
    axis: Axis | None
    this_job: bool
    no_better: bool
    was: Sequence[Ranked] | None
    measured_by: int


@dataclass(frozen=True, order=True)
class InVain:
    """How often a remedy was done to this very stick for a cause that it still shows. here: in this
    job, and nothing was better after it. earlier: at earlier visits, and it is there again."""

    here: int = 0
    earlier: int = 0

    def leaves(self, chance: float) -> float:
        """What a chance to cure it, 0 to 1, comes down to."""
        return chance * ONCE_MORE ** (self.here + self.earlier)

    @property
    def when(self) -> str:
        """When, and what became of it: as it follows what was done."""
        times = {1: "", 2: " twice"}.get(self.here, f" {self.here} times")
        here = f"in this job{times} already, and nothing read better after it"
        visit = "an earlier visit" if self.earlier == 1 else f"{self.earlier} earlier visits"
        if self.here and self.earlier:
            return f"{here}; at {visit} as well"
        return here if self.here else f"at {visit}, and it is back"

    @property
    def words(self) -> str:
        """In a sentence, to be read beside the remedy."""
        return f"That was done {self.when}."


DoneInVain = Mapping[tuple[str, str], InVain]
"""By remedy and cause."""


def done_in_vain(
    attempts: Iterable[Attempt], now: Sequence[Ranked]
) -> dict[tuple[str, str], InVain]:
    """What was done in vain, of what was done to a stick in the order it was done.

    now: the causes as they are ranked now. An attempt counts for every cause that it helps and that is
    there now, unless the cause was not there before it, or the other axis has it. What was done before
    a part was renewed was done to the part that is gone. At an earlier visit neither a new part was in
    vain, which has worn since, nor a calibration, which is free.
    """
    since: list[Attempt] = []
    for attempt in attempts:
        if BY_CODE[attempt.remedy].renews is not None:
            since = []
        since.append(attempt)
    times: set[tuple[str, str, int, bool]] = set()
    for attempt in since:
        remedy = BY_CODE[attempt.remedy]
        lasts = remedy.renews is None and remedy.calibration is None
        if not (attempt.no_better if attempt.this_job else lasts):
            continue
        for cause in remedy.helps:
            if _there(now, cause, attempt.axis) and (
                attempt.was is None or _there(attempt.was, cause, attempt.axis)
            ):
                times.add((remedy.code, cause, attempt.measured_by, attempt.this_job))
    counts: dict[tuple[str, str], InVain] = {}
    for code, cause, _, here in sorted(times):
        had = counts.get((code, cause), InVain())
        counts[code, cause] = InVain(had.here + here, had.earlier + (not here))
    return counts


def _there(causes: Sequence[Ranked], code: str, axis: Axis | None) -> bool:
    """Whether a cause is taken to be there, on that axis where it is one axis's."""
    return any(
        c.cause == code
        and c.probability >= STILL_THERE
        and (None in (axis, c.axis) or c.axis == axis)
        for c in causes
    )
