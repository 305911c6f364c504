"""Centring by hand: where a stick rests while its trims, or a housing, are turned; which to turn next,
and when to stop.

It is called settled only where it was let go: every finger on it is a false reading. What moves
fast, or on both axes, is a hand. What comes to rest after a push and a release, in the place where it
came to rest before or twice in one place, is the stick by itself. What moves slowly and on one axis is
a trim that is turned; it is read while it is turned, to say what to do next, but a finger that slides
on as slowly and along one axis looks the same. So nothing is centred before three releases say so.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from hollow_pin.core.centring_result import (
    AXES,
    READ,
    SPACE,
    Axis,
    Centred,
    CentringNow,
    ReachSide,
    RestReading,
    State,
)
from hollow_pin.core.centring_turns import Turned, how_to_turn
from hollow_pin.core.centring_window import WINDOW_S, Window
from hollow_pin.core.geometry import bearing, diameter
from hollow_pin.core.recording import Floats
from hollow_pin.core.release import LET_GO, PUSHED
from hollow_pin.core.words import END, WAY, percent

PIECE_S = 0.03
FAST_S = 0.06
FAST = 3.0
"""Moved by more within FAST_S, % or eight times the noise: a hand. A trim is turned more slowly: a
third of its whole turn a second, of 40 %, makes 1 %."""
FAST_NOISE = 8.0
SETTLES_S = 1.0
"""After a release a stick may move fast for as long: a weak spring swings to and fro."""
STILL_WITHIN = 0.2
"""The halves of a quiet window lie no farther apart, % or twice what it sways by."""
TREMBLES = 2.5
"""As many times noisier than when it was quiet, and a little: a finger, or the cable."""
LITTLE = 0.15
"""That much, %, or a step of the source: between two steps it trembles by up to one, and on one not at
all."""
MEANT = 0.3
"""Less than this, % or twice what it sways by, is no turn."""
NUDGED = 0.15
"""Moved by more than this, %, it is read where that is near enough, though it may be no turn: three
releases decide."""
TURNED_WITHIN = 0.1
"""What was turned is read once the halves lie no farther apart, % or twice what it sways by: a third
of a per cent a second is still a turn, and the half of one is no measure for the next."""
ASIDE = 0.5
"""What the other axis moves along by, as a share, where one alone was turned."""
LANDS = 1.5
"""Two releases that land no farther apart, % or one and a half times its known spread, agree."""
BRUSHED = 0.75
"""Touched, and back where it was within as much, %, as dry bearings leave it: it is read on, but is
not called settled before it was pushed and let go."""
TRIED = 4
"""After as many releases of which no two agree the stick itself is held to scatter so far."""
SCATTERED = 6.0
"""Returns that lie as many times farther apart than what is seen cannot be told to be centred."""
CONFIRMS = 3
RESTLESS_S = 4.0
NEAR_AXIS = 25.0
"""Degrees from an axis within which a push tells the reach along it."""


class Centring:
    """Follows a stick that is centred by hand.

    axes: 1 or 2. within: by axis, what the bench can see, %: nearer than that is centred. spread: how
    far its returns lie apart, %. reach: to the left, right, down and up as measured before, % or None.
    jitter: what it trembles by at rest as measured before, %. step: of the source, %.
    """

    def __init__(
        self,
        axes: int,
        within: tuple[float, float],
        spread: float = 0.0,
        reach: Sequence[float | None] = (None, None, None, None),
        jitter: float = 0.0,
        step: float = 0.0,
    ) -> None:
        self.readings: list[RestReading] = []
        self._axes = axes
        self._within = within
        self._lands = max(LANDS, 1.5 * spread)
        self._note = self._scattered(spread)
        self._apart: list[Floats] = []
        self._before = tuple(reach)
        self._reach: list[float | None] = [None] * 4
        self._window = Window()
        self._began: float | None = None
        self._now = 0.0
        self._jitter, self._step = jitter, step
        self._noise: float | None = None
        self._sways: list[float] = []
        self._free: Floats | None = None
        self._landed: Floats | None = None
        self._pushing = False
        self._released_at: float | None = None
        self._fast_at = -1e9
        self._touched = True
        self._sure = False
        self._both = False
        self._quiet_since = 0.0
        self._state: State = "begin"
        self._turned: dict[Axis, Turned] = {a: Turned() for a in AXES[:axes]}
        self._first: tuple[float, float] | None = None
        self._last: tuple[float, float] | None = None
        self._returns: list[Floats] = []
        self._done = False

    @property
    def done(self) -> bool:
        return self._done

    def _scattered(self, spread: float) -> str:
        """What is to be said of a stick whose returns lie so far apart, %."""
        if spread <= SCATTERED * max(self._within):
            return ""
        return f"Its returns lie {percent(spread)} apart: no turning brings them together."

    def feed(self, t: Floats, u: Floats) -> None:
        """Take samples in: t (n,) seconds, rising; u (n, k) %, k of one or two axes."""
        if not len(t):
            return
        p = u if u.shape[1] == 2 else np.column_stack((u, np.zeros(len(u))))
        self._began = float(t[0]) if self._began is None else self._began
        pieces = np.searchsorted(t, np.arange(t[0] + PIECE_S, t[-1], PIECE_S))
        for part in np.split(np.arange(len(t)), np.unique(pieces)):
            if len(part):
                self._piece(t[part], p[part])

    def _piece(self, t: Floats, p: Floats) -> None:
        self._window.add(t, p)
        self._now = float(t[-1])
        if self._done:
            return
        recent = self._window.since(FAST_S)
        at = recent[-1]
        moved = np.abs(recent - at).max(axis=0)
        noise = self._noise if self._noise is not None else self._jitter
        fast = bool(moved.max() > max(FAST, FAST_NOISE * noise))
        self._follow_pushes(at)
        if fast:
            self._fast_at = self._quiet_since = self._now
            let_go = self._released_at is not None and (self._now - self._released_at <= SETTLES_S)
            if not let_go and not self._pushing:
                self._touch()
        if self._pushing:
            self._state = "pushed"
        elif self._now - self._fast_at < WINDOW_S or self._window.span < 0.9 * WINDOW_S:
            waits: State = "begin" if self._first is None else "touched"
            self._state = waits if self._touched and self._released_at is None else "settling"
        else:
            self._look()

    def _touch(self) -> None:
        self._touched, self._released_at = True, None

    def _follow_pushes(self, at: Floats) -> None:
        """A push past two thirds, and the release after it; how far it reached."""
        off = at - (self._free if self._free is not None else 0.0)
        rho = float(np.hypot(*off))
        if rho > PUSHED:
            self._pushing, self._touched, self._released_at = True, True, None
            self._note_reach(at, off)
        elif self._pushing and rho < LET_GO:
            self._pushing, self._released_at = False, self._now

    def _note_reach(self, at: Floats, off: Floats) -> None:
        toward = float(bearing(*off))
        for i, (side, axis, sign) in enumerate(
            ((270.0, 0, -1.0), (90.0, 0, 1.0), (180.0, 1, -1.0), (0.0, 1, 1.0))
        ):
            if abs((toward - side + 180.0) % 360.0 - 180.0) <= NEAR_AXIS:
                self._reach[i] = max(self._reach[i] or 0.0, sign * float(at[axis]))

    def _look(self) -> None:
        """What a window without a fast move shows."""
        scatter, sway = self._window.scatter(self._axes), self._window.sway(self._axes)
        middle = self._window.middle
        turned = not self._touched and self._has_moved(middle)
        within = TURNED_WITHIN if turned else STILL_WITHIN
        if self._window.apart > max(within, self._sways_by(sway)):
            if self._touched:
                self._state = "settling" if self._released_at is not None else "touched"
            else:
                self._state = "turning"
            if self._now - self._quiet_since > RESTLESS_S and self._released_at is not None:
                self._state = "unsteady"
            return
        if self._noise is not None and scatter > TREMBLES * self._noise + max(LITTLE, self._step):
            self._state = "unsteady"
            return
        if self._released_at is not None:
            self._sways.append(sway)
            self._landed_at(middle, scatter)
        elif self._touched:
            self._leave(middle)
        else:
            self._read(middle, scatter)

    def _sways_by(self, now: float = 0.0) -> float:
        """What it moves by itself, %: twice what it swayed by where it was let go. now: what it
        sways by now, where it was not."""
        return 2 * float(np.median(self._sways or [now]))

    def _leave(self, middle: Floats) -> None:
        """Touched without a push: free again where it lies as it lay before."""
        if self._free is not None and not self._both:
            off = float(np.hypot(*(middle - self._free)))
            if off <= BRUSHED:
                self._touched = self._sure = False
                self._free = middle
                self._state = self._read_as()
                return
        self._state = "begin" if self._first is None else "touched"

    def _landed_at(self, middle: Floats, scatter: float) -> None:
        """Let go and at rest. It counts where it lies as before, or where two lie as one."""
        landings = [p for p in (self._free, self._landed) if p is not None]
        agrees = any(float(np.hypot(*(middle - p))) <= self._lands for p in landings)
        self._landed, self._released_at = middle, None
        if not agrees:
            self._apart.append(middle)
            self._state = "begin" if self._first is None else "touched"
            if len(self._apart) < TRIED:
                return
            spread = float(diameter(np.array(self._apart)))
            self._lands, self._note = max(self._lands, spread), self._scattered(spread)
        self._apart = []
        self._touched = self._both = False
        self._noise = scatter if self._noise is None else min(self._noise, scatter)
        self._free = middle
        was_centred = self._last is not None and self._is_centred(self._last)
        if self._last is not None:
            # What sticks turns by a jump, which looks like a hand.
            self._count_turn(middle, np.array(self._last), self._lands)
        self._put_down(middle, scatter, "let-go")
        if self._first is None:
            self._first = self._last
        if was_centred or self._returns or self._is_centred(middle):
            self._returns.append(middle)
        if len(self._returns) >= CONFIRMS:
            self._confirm()

    def _confirm(self) -> None:
        mean = np.mean(self._returns, axis=0)
        self._returns = []
        self._last = (float(mean[0]), float(mean[1]))
        self._done = self._is_centred(mean)
        self._state = "done" if self._done else "settled"

    def _has_moved(self, middle: Floats) -> bool:
        """Whether it lies elsewhere than where it was last read."""
        return self._free is not None and bool(
            np.abs(middle - self._free).max() > max(MEANT, self._sways_by())
        )

    def _read(self, middle: Floats, scatter: float) -> None:
        """Quiet, and not touched: the same as before, or a trim was turned."""
        assert self._free is not None
        self._state = self._read_as()
        if not self._has_moved(middle):
            off = self._last is not None and not self._is_centred(self._last)
            if off and self._is_centred(middle) and np.abs(middle - self._free).max() > NUDGED:
                self._put_down(middle, scatter, "turned")
            return
        if not self._count_turn(middle, self._free, MEANT):
            self._both = True
            self._touch()
            self._state = "touched"
            return
        self._free = middle
        self._put_down(middle, scatter, "turned")

    def _count_turn(self, middle: Floats, before: Floats, meant: float) -> bool:
        """Whether one axis was turned alone, by where it lies now and lay before, (2,) %; by less
        than meant neither was."""
        moved = middle - before
        far = np.abs(moved)
        i = int(far.argmax())
        if far[i] <= meant or (self._axes == 2 and far[1 - i] > max(ASIDE * far[i], meant)):
            return False
        if self._turned[AXES[i]].add(float(moved[i]), float(middle[i]), self._now):
            self.readings.pop()
        self._returns = []
        self._reach[2 * i] = self._reach[2 * i + 1] = None
        return True

    def _read_as(self) -> State:
        """How what is read stands: by itself since it was let go, or not surely."""
        return "settled" if self._sure else "turned"

    def _put_down(self, at: Floats, scatter: float, why: Literal["let-go", "turned"]) -> None:
        n = max(len(self._window.p), 1)
        # A tenth of a second of noise hangs together, at the least.
        free = max(1.0, min(n, 10.0 * self._window.span))
        u = scatter / free**0.5
        seconds = self._now - (self._began or 0.0)
        self.readings.append(RestReading(seconds, float(at[0]), float(at[1]), u, why))
        self._last = (float(at[0]), float(at[1]))
        self._sure = why == "let-go"
        self._state = self._read_as()

    def _excess(self, at: Floats | tuple[float, float]) -> tuple[float, Axis]:
        """How many times what can be seen it is off, on the axis where that is most."""
        off = [(abs(float(at[i])) / self._within[i], AXES[i]) for i in range(self._axes)]
        return max(off)

    def _is_centred(self, at: Floats | tuple[float, float]) -> bool:
        return self._excess(at)[0] <= 1.0

    def take(self) -> None:
        """Take a reading of what lies still; and what wanders by itself since it was let go, as it is.
        Nothing else is taken at anybody's word."""
        middle, deviation = self._window.middle, float(self._window.p.std(axis=0).max())
        if self._state in ("settled", "turned"):
            why: Literal["let-go", "turned"] = "let-go" if self._sure else "turned"
            self._put_down(middle, deviation, why)
        elif self._state == "unsteady" and self._released_at is not None:
            self._landed = None
            self._free = middle if self._free is None else self._free
            self._landed_at(middle, deviation)

    def now(self) -> CentringNow:
        """What is to be shown."""
        at = np.median(self._window.since(0.1), axis=0) if len(self._window.t) else np.zeros(2)
        has_landed = self._last is not None
        excess, axis = self._excess(self._last) if self._last is not None else (0.0, AXES[0])
        open_ = has_landed and excess > 1.0 and not self._returns and not self._done
        read = self.readings[-1] if self.readings else None
        reads = read is not None and self._state in READ
        x, y = (read.x, read.y) if read is not None and reads else (float(at[0]), float(at[1]))
        near_x, near_y = (abs(v) <= w for v, w in zip((x, y), self._within, strict=True))
        return CentringNow(
            state=self._state,
            x=float(at[0]),
            y=float(at[1]),
            says=self._says(excess, axis),
            settled=read,
            shown=(x, y),
            reads=reads,
            near=(near_x, near_y),
            excess=self._excess((x, y))[0],
            next_axis=axis if open_ else None,
            space=SPACE.get(self._state, ""),
            within=self._within,
            turns={a: t.times for a, t in self._turned.items()},
            returns=len(self._returns),
            reach=self._sides(),
            note=self._note,
        )

    def _sides(self) -> tuple[ReachSide, ...]:
        names = ("left", "right", "down", "up") if self._axes == 2 else tuple(END.values())
        return tuple(
            ReachSide(n, b, r) for n, b, r in zip(names, self._before, self._reach, strict=False)
        )

    def _says(self, excess: float, axis: Axis) -> str:
        match self._state:
            case "begin":
                if self._landed is not None:
                    return "Once more: two that come back to one place are held for its own."
                return "Push it to the edge and let it go. Then hands off."
            case "pushed":
                return "Let go."
            case "settling":
                return "Hands off; it settles."
            case "touched":
                why = (
                    "Both axes moved: one trim at a time, and hands off."
                    if self._both
                    else ("It is touched, or was.")
                )
                return f"{why} Push it to the edge and let it go."
            case "unsteady":
                if self._released_at is not None:
                    return "It wanders by itself. Space takes it as it is."
                return "It trembles: hands, board and cable still."
            case "turning":
                return "Turning. Let it rest for a moment to be read."
            case "done":
                return "Centred: it comes back there. Leave it."
        if excess <= 1.0 or self._returns:
            missing = CONFIRMS - len(self._returns)
            times = {1: "once more", 2: "twice more"}.get(missing, "three times")
            return f"Stop. Push it to the edge and let it go, {times}."
        return self._advice(axis)

    def _advice(self, axis: Axis) -> str:
        assert self._last is not None
        name = f"the {WAY[axis]} one" if self._axes == 2 else "it"
        return how_to_turn(self._turned[axis], self._last[AXES.index(axis)], name)

    def result(self) -> Centred:
        """As it goes on record."""
        return Centred(
            self._first,
            self._last,
            {a: t.times for a, t in self._turned.items()},
            self._now - (self._began or 0.0),
            self._done,
            tuple(self.readings),
            self._sides(),
        )
