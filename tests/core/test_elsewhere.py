"""A rim that is rolled inside of the edge: the other steps go farther, and it is no device's scale."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.elsewhere import farthest_elsewhere, refuse_inside_edge
from hollow_pin.core.ranking import rank
from hollow_pin.core.recording import STEPS, AxisRange, Floats, NotUsable, Recording
from hollow_pin.core.take import measure_take
from sticks import performed, transformed


def rolled_softly(condition: str, share: float, seed: int = 5) -> Recording:
    """A stand-in whose rim is led so much of the way out."""
    recording = performed(condition, seed, bits=12).recording
    is_rim = recording.step == STEPS.index("rim")
    return transformed(recording, recording.u * np.where(is_rim, share, 1.0)[:, None])


@pytest.mark.parametrize("share", [0.6, 0.8, 0.93])
@pytest.mark.parametrize("condition", ["sound", "worn", "miscalibrated"])
def test_a_rim_inside_of_what_the_other_steps_reach_is_asked_for_again(
    condition: str, share: float
) -> None:
    """A sound stick that a soft thumb rolled round was “off in scale: recalibrate”."""
    take = measure_take(rolled_softly(condition, share))
    assert take.rim is None
    (problem,) = (p for p in take.problems if p.step == "rim")
    assert (problem.code, problem.kind) == ("inside-edge", "again")
    assert "toward 3, 6, 9 and 12\u00a0o’clock" in problem.message
    assert not any(r.cause == "calibration" and r.likely for r in rank(take))


def test_a_hand_that_gives_way_a_little_is_at_the_edge() -> None:
    take = measure_take(rolled_softly("sound", 0.97))
    assert take.rim is not None
    assert not any(p.code == "inside-edge" for p in take.problems)


def round_rim(x: float = 100.0, y: float = 100.0) -> Floats:
    toward = np.radians(np.arange(0, 720, 0.5))
    return np.column_stack((x * np.sin(toward), y * np.cos(toward)))


@pytest.mark.parametrize(
    ("out", "elsewhere", "refused"),
    [(94.4, 100, True), (95.6, 100, False), (56.6, 60, True), (40, 51, True), (40, 49, False)],
)
def test_by_a_twentieth_of_what_is_reached_and_where_a_stick_is_pushed_out_at_all(
    out: float, elsewhere: float, refused: bool
) -> None:
    ends = np.array([[100.0, elsewhere], [100.0, 100.0]])
    rim = round_rim()
    rim[:, 0] = np.minimum(rim[:, 0], out)
    if not refused:
        refuse_inside_edge(rim, ends)
        return
    with pytest.raises(NotUsable, match="toward 3\u00a0o’clock") as refusal:
        refuse_inside_edge(rim, ends)
    assert f"{100 * out / elsewhere:.0f}" in str(refusal.value)


@pytest.mark.parametrize(("samples", "refused"), [(13, True), (17, False)])
def test_a_rim_is_at_the_edge_for_a_hundredth_of_its_time(samples: int, refused: bool) -> None:
    """A spike to an end is no lap."""
    rim = 0.8 * round_rim()
    rim[:samples] = (100.0, 0.0)
    ends = np.array([[np.nan, 100.0], [np.nan, np.nan]])
    if not refused:
        refuse_inside_edge(rim, ends)
        return
    with pytest.raises(NotUsable):
        refuse_inside_edge(rim, ends)


def done_in(**ends: float) -> Recording:
    """2000 samples of each of these steps, of which as many lie at an end as the step is told by."""
    names = [name.replace("_", "-") for name in ends]
    u = np.zeros((2000 * len(names), 2))
    for i, (name, out) in enumerate(zip(names, ends.values(), strict=True)):
        few = {"let-go": 12, "hold": 22}.get(name, 42)
        u[2000 * i : 2000 * i + few] = out
        u[2000 * i + few : 2000 * i + 2 * few] = -out
    step = np.repeat([STEPS.index(name) for name in names], 2000).astype(np.int8)
    return Recording(np.arange(len(u)) * 4000, u, (AxisRange(-100, 100),) * 2, step)


def test_two_steps_must_have_gone_so_far() -> None:
    """One may be mistaken: a contact that opens, a thumb that slips."""
    assert np.isnan(farthest_elsewhere(done_in(let_go=100, rim=100))).all()
    assert farthest_elsewhere(done_in(let_go=100, hold=90)) == pytest.approx(90)
    both = farthest_elsewhere(done_in(let_go=100, hold=80, crossing_x=90))
    assert both[0] == pytest.approx(90)
    assert both[1] == pytest.approx(80), "nothing crossed it"


@pytest.mark.parametrize(
    ("step", "share"), [("let_go", 0.005), ("hold", 0.01), ("crossing_x", 0.02)]
)
def test_what_a_step_does_for_a_moment_is_not_how_far_it_goes(step: str, share: float) -> None:
    for few, out in ((round(2000 * share) - 2, 50.0), (round(2000 * share) + 2, 100.0)):
        other = "hold" if step == "let_go" else "let_go"
        recording = done_in(**{other: 100.0, step: 50.0})
        at = np.flatnonzero(recording.step == STEPS.index(step.replace("_", "-")))
        recording.raw[at[-few:], 0] = 100.0
        assert farthest_elsewhere(recording)[0, 1] == pytest.approx(out), few
