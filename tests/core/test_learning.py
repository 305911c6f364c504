"""A device that learns its range while it is moved makes no worn stick of a sound one, and no stick is
taken for one by such a device."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from hollow_pin.core.learning import learned_after
from hollow_pin.core.ranking import rank
from hollow_pin.core.take import measure_take
from sticks import TOWARD, learning, performed, readings_of, returning


@pytest.mark.parametrize("known", [65.0, 75.0, 90.0])
@pytest.mark.parametrize(("condition", "cause"), [("sound", "sound"), ("worn-steady", "worn")])
def test_what_it_learned_by_the_first_pushes_is_left_out(
    condition: str, cause: str, known: float
) -> None:
    """A sound stick was a worn track, and its module was to be replaced."""
    recording = performed(condition, bits=12).recording
    take, plain = measure_take(learning(recording, known)), measure_take(recording)
    assert [p.code for p in take.problems if p.code == "learns"] == ["learns"]
    assert rank(take)[0].cause == rank(plain)[0].cause == cause
    assert 8 <= take.let_go.releases < plain.let_go.releases
    assert take.let_go.return_spread == pytest.approx(plain.let_go.return_spread, abs=2.0)


@pytest.mark.parametrize("condition", ["sound", "worn", "worn-steady", "dirty", "binding", "loose"])
def test_no_stick_is_taken_for_one(condition: str) -> None:
    assert all(p.code != "learns" for p in readings_of(condition).problems)


def gone(
    by: float = 4.0, toward: NDArray[np.float64] = TOWARD, shifts: dict[int, float] | None = None
) -> NDArray[np.float64]:
    """Where sixteen releases twice round the clock land by such a device: away from the end that was
    pushed to, until the other one is."""
    to = 0.3 * toward
    to[0:4, 1] -= by
    to[2:6, 0] -= by
    for i, more in (shifts or {}).items():
        to[i, 1] += more
    return to


@pytest.mark.parametrize(
    ("to", "learned"),
    [
        (gone(), 6),
        (gone(1.6), 6),
        (gone(1.4), None),
        (gone(0.0), None),
        (gone(-4.0), None),
        (gone() * [1, 0], None),
        (gone(shifts={1: 2.4}), 6),
        (gone(shifts={1: 2.6}), None),
        (gone(10.0, shifts={1: 6.9}), 6),
        (gone(10.0, shifts={1: 7.1}), None),
        (gone() - [0.0, 5.0], 6),
    ],
)
def test_it_comes_back_to_aside_of_where_it_does_later_on_both_axes(
    to: NDArray[np.float64], learned: int | None
) -> None:
    take = returning(readings_of("sound"), to)
    assert learned_after(take.let_go.release) == learned


def test_a_worn_track_does_so_each_time() -> None:
    take = returning(readings_of("sound"), np.tile(gone()[:8], (2, 1)))
    assert learned_after(take.let_go.release) is None


WAY = {"U": (0.0, 1.0), "R": (1.0, 0.0), "D": (0.0, -1.0), "L": (-1.0, 0.0)}


@pytest.mark.parametrize(
    ("pushes", "learned"), [("UDRL", None), ("UDRUL", None), ("UDRUDL", 5), ("URDL", 3)]
)
def test_three_that_landed_elsewhere_may_be_chance(pushes: str, learned: int | None) -> None:
    """Up, down, right and left in some order, and all of it again."""
    toward = np.array([WAY[p] for p in pushes + pushes])
    to = np.zeros_like(toward)
    to[: pushes.index("D"), 1] = to[pushes.index("R") : pushes.index("L"), 0] = -4.0
    take = returning(readings_of("sound"), to, toward)
    assert learned_after(take.let_go.release) == learned


@pytest.mark.parametrize(("turned", "learned"), [(22.0, 3), (25.0, None)])
def test_a_push_beside_an_axis_goes_to_no_end_of_it(turned: float, learned: int | None) -> None:
    toward = np.array([WAY[p] for p in "URDLURDL"])
    toward[0] = np.sin(np.radians(turned)), np.cos(np.radians(turned))
    to = np.zeros_like(toward)
    to[0:2, 1] = to[1:3, 0] = -4.0
    take = returning(readings_of("sound"), to, toward)
    assert learned_after(take.let_go.release) == learned


@pytest.mark.parametrize(("turned", "learned"), [(28.0, True), (32.0, False)])
def test_what_is_compared_comes_from_the_same_direction(turned: float, learned: bool) -> None:
    angle = np.radians(turned)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    first = TOWARD[:8:2]
    to = np.zeros((8, 2))
    to[0:2, 1] = to[1:3, 0] = -4.0
    take = returning(readings_of("sound"), to, np.vstack((first, first @ turn)))
    assert (learned_after(take.let_go.release) is not None) == learned
