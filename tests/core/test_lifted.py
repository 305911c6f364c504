"""A source that lifts a stick over somebody's dead zone makes every rest a leap: what the stick does
is read without it, and nothing of it passes for health."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.lifted import Lift, lifted, without_lift
from hollow_pin.core.limits import LIMIT_OF, verdict_on
from hollow_pin.core.ranking import NEAR, rank
from hollow_pin.core.recording import AxisRange, Floats, Recording
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from sticks import performed

NEEDED = "composite.dead_zone_needed"


def over(recording: Recording, by: float, round_about: bool) -> Recording:
    """As a source sends it that lifts whatever is not zero by so much, %, by axis or by distance."""
    u = recording.u
    out: Floats = np.hypot(*u.T)[:, None] if round_about else np.abs(u)
    lift = np.where(out > 0, (by + (100 - by) / 100 * out) / np.maximum(out, 1e-9), 0)
    hi = recording.ranges[0].hi
    raw = np.clip(np.round(hi / 2 + hi / 200 * u * lift), 0, hi)
    return replace(recording, raw=raw)


@pytest.mark.parametrize("round_about", [False, True])
@pytest.mark.parametrize("by", [3.0, 8.0, 15.0])
def test_a_sound_stick_is_read_as_it_is_and_passes_for_nothing(
    by: float, round_about: bool
) -> None:
    """It was dirt, a loose joint or a track that fails, by how far it was lifted."""
    plain = performed("sound").recording
    take = measure_take(over(plain, by, round_about))
    assert [h.code for h in take.hidden] == ["lifted"]
    size = float(take.hidden[0].message.split("between zero and ")[1].split(" %")[0])
    assert size == pytest.approx(by, abs=0.25)
    assert "measure by a rawer source" in explain(take).advice
    assert verdict_on(take, NEEDED, LIMIT_OF[NEEDED].everyday) == "hidden"
    likeliest = rank(take)[0]
    assert (likeliest.cause, likeliest.likely) == ("sound", False)
    assert likeliest.probability <= NEAR
    without = measure_take(plain)
    for path in (NEEDED, "let_go.return_spread", "rim.circularity_error", "still.jitter_x"):
        assert take.value(path) == pytest.approx(without.value(path), abs=0.35)
    assert take.joint.jumps == without.joint.jumps


@pytest.mark.parametrize("round_about", [False, True])
@pytest.mark.parametrize(
    ("condition", "cause"), [("worn", "worn"), ("dirty", "dirty"), ("binding", "binding")]
)
def test_what_is_wrong_is_named_through_it(condition: str, cause: str, round_about: bool) -> None:
    plain = performed(condition).recording
    take = measure_take(over(plain, 6.0, round_about))
    assert "lifted" in [h.code for h in take.hidden]
    assert rank(take)[0].cause == cause
    assert explain(take).try_first == explain(measure_take(plain)).try_first


@pytest.mark.parametrize("condition", ["sound", "worn", "dirty", "offset", "loose"])
def test_no_stick_is_lifted_that_is_not(condition: str) -> None:
    take = measure_take(performed(condition).recording)
    assert "lifted" not in [h.code for h in take.hidden]


def swept(step: float = 0.2, pass_step: float = 0.2, seed: int = 1, aside: float = 0.3) -> Floats:
    """Straight across and back, x then y, each beside the middle by so much, %: u (n, 2)."""
    there = np.arange(-90.0, 90.0, pass_step)
    along = np.concatenate([there, -there])
    beside = np.full_like(along, aside)
    u = np.vstack([np.column_stack((along, beside)), np.column_stack((beside, along))])
    return np.round((u + np.random.default_rng(seed).normal(0, 0.05, u.shape)) / step) * step


def of(u: Floats) -> Lift | None:
    n = len(u)
    recording = Recording(
        np.arange(n) * 4000, u, (AxisRange(-100, 100),) * 2, np.zeros(n, dtype=np.int8)
    )
    return lifted(recording, [[slice(0, n // 2)], [slice(n // 2, n)]])


def by_axis(u: Floats, x: float, y: float, at_zero: float = 0.01) -> Floats:
    by = np.array([x, y])
    return np.where(
        np.abs(u) < at_zero, 0.0, np.sign(u) * np.round(by + (1 - by / 100) * np.abs(u), 1)
    )


def test_a_lift_is_told_from_one_percent_on_and_alike_on_both_axes() -> None:
    """Less is steps of a converter, and what one axis does is its own track."""
    u = swept()
    lift = of(by_axis(u, 6.0, 6.0))
    assert lift is not None
    assert not lift.round
    assert lift.by == pytest.approx(6.1, abs=0.2)
    assert of(u) is None
    assert of(by_axis(u, 0.6, 0.6)) is None
    assert of(by_axis(u, 6.0, 0.0)) is None
    assert of(by_axis(u, 6.0, 6.5)) is not None
    assert of(by_axis(u, 6.0, 7.4)) is None


@pytest.mark.parametrize("round_about", [False, True])
def test_what_leaps_over_half_of_its_travel_is_no_lift(round_about: bool) -> None:
    """Without a lift of all of it nothing is left: such a take could not be opened at all."""

    def hidden(by: float) -> list[str]:
        take = measure_take(over(performed("sound").recording, by, round_about))
        return [h.code for h in take.hidden]

    assert "lifted" in hidden(49.0)
    assert "lifted" not in hidden(51.0)


def test_a_lift_lies_about_zero() -> None:
    """A broken track lies anywhere."""
    u = by_axis(swept(), 6.0, 6.0)
    assert of(u + np.array([0.1, 0.0])) is not None
    assert of(u + np.array([0.3, 0.0])) is None


def test_what_stays_at_zero_is_a_dead_zone_and_no_lift() -> None:
    """Such a one hides what the stick does, and is found by its own."""
    u = swept(pass_step=0.4)
    assert of(by_axis(u, 6.0, 6.0, at_zero=0.3)) is not None
    assert of(by_axis(u, 6.0, 6.0, at_zero=2.0)) is None


def test_what_was_gone_over_too_swiftly_tells_nothing() -> None:
    assert of(by_axis(swept(pass_step=3.0), 6.0, 6.0)) is not None
    assert of(by_axis(swept(pass_step=8.0), 6.0, 6.0)) is None


def test_a_stick_that_passes_beside_its_middle_is_not_lifted_over_it() -> None:
    """One that rests off its centre on both axes never is in the middle, and leaps over nothing."""
    assert of(swept(aside=9.0)) is None


def test_a_coarse_stick_that_trembles_leaps_over_no_middle() -> None:
    """It goes from step to step of its converter, and hardly ever says zero of both axes."""
    rng = np.random.default_rng(3)
    crossed, rest = swept(step=0.8, pass_step=0.8), rng.normal(0, 1.2, (2000, 2))
    u = np.round(np.vstack((crossed, rest)) / 0.8) * 0.8
    n, half = len(u), len(crossed) // 2
    recording = Recording(
        np.arange(n) * 4000, u, (AxisRange(-100, 100),) * 2, np.zeros(n, dtype=np.int8)
    )
    assert lifted(recording, [[slice(0, half)], [slice(half, 2 * half)]]) is None


def test_what_was_not_brought_across_both_ways_tells_nothing() -> None:
    u = by_axis(swept(), 6.0, 6.0)
    n = len(u)
    recording = Recording(
        np.arange(n) * 4000, u, (AxisRange(-100, 100),) * 2, np.zeros(n, dtype=np.int8)
    )
    assert lifted(recording, [[slice(0, n // 2)], []]) is None
    one = Recording(
        np.arange(n) * 4000, u[:, :1], (AxisRange(-100, 100),), np.zeros(n, dtype=np.int8)
    )
    assert lifted(one, [[slice(0, n // 2)]]) is None


@pytest.mark.parametrize("round_about", [False, True])
def test_what_is_put_down_begins_at_zero_and_ends_where_it_did(round_about: bool) -> None:
    u = np.array([[-100.0, 0.0], [-50.0, 0.0], [-6.2, 0.0], [0.0, 0.0], [6.2, 0.0], [100.0, 0.0]])
    made = Recording(
        np.arange(6) * 4000, u, (AxisRange(-100, 100),) * 2, np.zeros(6, dtype=np.int8)
    )
    step = max(made.resolutions)
    down = without_lift(made, Lift(6.2, round_about)).u[:, 0]
    assert down[[0, 3, 5]] == pytest.approx([-100.0, 0.0, 100.0])
    assert down[[2, 4]] == pytest.approx([-1, 1] * np.array(step * 100 / (100 - 6.2 + step)))
    assert (np.diff(down) > 0).all()
