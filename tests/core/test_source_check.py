"""A source that is tried out: what it hides is said before anything is measured by it, and what hides
nothing is not suspected."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.recording import AxisRange, Floats
from hollow_pin.core.source_check import (
    SourceCheck,
    check_source,
    rawer_than,
)
from hollow_pin.core.source_watch import SourceWatch

UNIT = (AxisRange(-100, 100),) * 2


def swept(rate: float = 250.0, pass_s: float = 0.9, passes: int = 4, far: float = 98.0) -> Floats:
    """Straight across, up and down, once round: t (n,) s and u (n, 2) %."""
    n = round(pass_s * rate)
    there = np.linspace(-far, far, n)
    across = np.concatenate([there if i % 2 == 0 else -there for i in range(passes)])
    angle = np.linspace(0, 2.2 * np.pi, round(2.5 * rate))
    aside = np.zeros_like(across)
    x = np.concatenate([across, aside, far * np.sin(angle)])
    y = np.concatenate([aside, across, far * np.cos(angle)])
    rng = np.random.default_rng(4)
    return np.column_stack([x, y]) + rng.normal(0, 0.1, (len(x), 2))


def check(u: Floats, rate: float = 250.0, step: float = 0.2, **headers: str) -> SourceCheck:
    t_us = np.round(np.arange(len(u)) / rate * 1e6).astype(np.int64)
    watch = SourceWatch(UNIT[: u.shape[1]], headers)
    watch.feed(t_us, np.clip(np.round(u / step) * step, -100, 100))
    recording = watch.recording
    assert recording is not None
    return check_source(recording, "gamepad")


def codes(found: SourceCheck) -> set[str]:
    return {f.code for f in found.findings}


def test_a_plain_source_is_not_suspected() -> None:
    tried = check(swept())
    assert (tried.standing, tried.findings) == ("clean", ())
    assert tried.rate_hz == pytest.approx(250, abs=0.5)
    assert [a.values for a in tried.axes] == [1001, 1001]
    assert [a.passes for a in tried.axes] == [4, 4]


@pytest.mark.parametrize("half", [3.0, 8.0, 15.0])
@pytest.mark.parametrize("shape", ["jump", "axial", "radial"])
def test_every_kind_of_dead_zone_is_seen_with_its_size(shape: str, half: float) -> None:
    u = swept()
    r = np.hypot(*u.T)[:, None]
    over = {
        "jump": np.where(np.abs(u) < half, 0, u),
        "axial": np.sign(u) * np.maximum(0, np.abs(u) - half) * 100 / (100 - half),
        "radial": u * np.maximum(0, r - half) * 100 / (100 - half) / np.maximum(r, 1e-9),
    }[shape]
    tried = check(over)
    assert tried.standing == "hides"
    (messages,) = [f.words for f in tried.findings if f.code == "built-in-dead-zone"]
    size = float(messages.split("hidden below ")[1].split(" %")[0])
    assert size == pytest.approx(half, rel=0.35)


@pytest.mark.parametrize("share", [0.0, 0.05, 0.1])
def test_a_source_that_pulls_a_stick_onto_its_axis_is_told(share: float) -> None:
    u = swept()
    tried = check(np.where(np.abs(u) < share * np.abs(u[:, ::-1]), 0.0, u))
    assert codes(tried) == ({"on-axis"} if share else set())
    assert (tried.standing == "hides") == (share > 0)


def test_what_was_not_moved_through_the_middle_is_not_called_clean() -> None:
    angle = np.linspace(0, 20 * np.pi, 2500)
    round_only = 98 * np.column_stack([np.sin(angle), np.cos(angle)])
    tried = check(round_only)
    assert tried.standing == "unknown"
    assert codes(tried) == {"not-crossed"}


def stepped(inside: int, passes: int = 4, end: float = 98.0, aside: float = 0.0) -> Floats:
    """Straight across with so many reports between the far sides, then up and down. aside:
    how far the other axis is off meanwhile; end: how far out it goes."""
    there = np.concatenate([np.full(4, -end), np.linspace(-50, 50, inside), np.full(4, end)])
    across = np.concatenate([there if i % 2 == 0 else there[::-1] for i in range(passes)])
    beside = np.full_like(across, aside)
    u = np.column_stack([np.append(across, beside), np.append(beside, across)])
    return u + np.random.default_rng(4).normal(0, 0.1, u.shape)


def test_a_pass_counts_from_as_many_reports_as_tell_a_stop_and_no_fewer() -> None:
    # The far report on either side is of the pass.
    enough = check(stepped(12 - 2), 125.0)
    assert [a.passes for a in enough.axes] == [4, 4]
    assert enough.standing == "clean"
    swift = check(stepped(12 - 3), 125.0)
    assert [a.passes for a in swift.axes] == [0, 0]
    assert (swift.standing, codes(swift)) == ("unknown", {"too-swift"})


def test_a_pass_goes_from_far_to_far_and_straight_through_the_middle() -> None:
    assert check(stepped(30, end=55.0 + 1)).axes[0].passes == 4
    assert check(stepped(30, end=55.0 - 1)).axes[0].passes == 0
    assert check(stepped(30, aside=40.0 - 2)).axes[0].passes == 4
    assert check(stepped(30, aside=40.0 + 2)).axes[0].passes == 0


@pytest.mark.parametrize(
    ("aside", "rests_s", "known"), [(0.9, 1.0, True), (1.3, 1.0, False), (1.3, 0.25, True)]
)
def test_passes_beside_the_middle_tell_of_no_round_dead_zone(
    aside: float, rests_s: float, known: bool
) -> None:
    """By a hand that strayed a source with one of 8 % was clean; where a stick that is left alone is
    not at zero there is none."""
    way = swept()
    way[:900, 1], way[900:1800, 0] = aside, aside
    u = np.concatenate((np.zeros((round(250 * rests_s), 2)), way))
    beside = check(u)
    assert ("beside-middle" in codes(beside)) == (not known)
    assert (beside.standing == "unknown") == (not known)


def test_one_pass_is_not_enough_to_tell() -> None:
    assert codes(check(stepped(60, passes=2))) == set()
    assert codes(check(stepped(60, passes=1))) == {"not-crossed"}


def test_an_axis_that_never_changes_is_said_and_nothing_more_of_it() -> None:
    """What is kept of a source is told of every stick of its model: one dead axis was its secret."""
    u = swept()
    u[:, 1] = 0.0
    tried = check(u)
    assert tried.standing == "unknown"
    assert codes(tried) == {"constant"}
    assert tried.findings[0].words.endswith("or dead. Try the source out with another stick.")


def test_both_ends_are_as_makers_let_them_and_one_is_not() -> None:
    even = check(1.06 * swept())
    assert (even.standing, codes(even)) == ("clean", {"ends"})
    over = 1.06 * swept()
    for short, expected in ((5.0 + 0.2, {"one-sided-end"}), (5.0 - 0.2, set())):
        one = over.copy()
        one[:, 0] = np.maximum(over[:, 0], -100 + short)
        assert codes(check(one)) - {"ends"} == expected, f"{short} % short"
    one[:, 0] = np.maximum(over[:, 0], -70)
    (said,) = (f.words for f in check(one).findings if f.code == "one-sided-end")
    assert "x stays at the end of its range toward right and ends 30.0" in said


@pytest.mark.parametrize(
    ("left", "right", "narrow"),
    [(68, 68, True), (86, 87, True), (86, 89, False), (70, 57.0, False), (70, 59.5, True)],
)
def test_a_range_that_no_side_comes_near_is_not_the_stick_s_own(
    left: float, right: float, narrow: bool
) -> None:
    """A sound stick would be sent to a calibration that no report of this source could show."""
    u = swept(far=100.0)
    u[:, 0] *= np.where(u[:, 0] < 0, left, right) / 100
    u[:, 1] *= left / 100
    tried = check(u)
    assert ("narrow" in codes(tried)) == narrow
    assert (tried.standing == "usable") == narrow


def test_a_touch_of_the_end_is_no_end() -> None:
    u = swept()
    u[:, 0] = np.where(u[:, 0] < 0, 0.9 * u[:, 0], u[:, 0])
    out = np.flatnonzero(u[:, 0] > 60)
    few = int(0.02 * len(out))
    for count, expected in ((few, set()), (few + 1, {"one-sided-end"})):
        touched = u.copy()
        touched[out[:count], 0] = 100
        assert codes(check(touched)) == expected


def test_steps_are_coarse_from_half_a_percent_on() -> None:
    assert check(swept(), step=0.5).standing == "clean"
    coarse = check(swept(), step=0.5 + 0.02)
    assert (coarse.standing, codes(coarse)) == ("usable", {"coarse"})


def test_what_the_system_swallows_is_hidden() -> None:
    tried = check(swept(), **{"fuzz.x": "4"})
    assert (tried.standing, codes(tried)) == ("hides", {"fuzz"})


def test_reports_of_one_moment_that_disagree_are_said_from_one_in_a_hundred_on() -> None:
    u = np.clip(np.round(swept() / 0.2) * 0.2, -100, 100)[:2000]
    for count, expected in ((20, False), (21, True)):
        t_us = np.arange(len(u)) * 4000
        twice = np.arange(101, 101 + 40 * count, 40)
        assert (u[twice] != u[twice - 1]).any(axis=1).all()
        t_us[twice] = t_us[twice - 1]
        watch = SourceWatch(UNIT, {})
        watch.feed(t_us, u)
        recording = watch.recording
        assert recording is not None
        assert ("contrary" in codes(check_source(recording, "hid"))) == expected


def together(u: Floats, of: int) -> SourceCheck:
    """Reports that come so many at one moment."""
    at = np.arange(len(u))
    watch = SourceWatch(UNIT, {})
    watch.feed(at // of * of * 4000, np.clip(np.round(u / 0.2) * 0.2, -100, 100))
    recording = watch.recording
    assert recording is not None
    return check_source(recording, "hid")


@pytest.mark.parametrize("of", [2, 3, 5])
def test_what_comes_in_bursts_is_not_said_to_disagree(of: int) -> None:
    """A radio that hands over several reports at once is as good as any; its rate is that of them."""
    disagreeing = together(swept(), of)
    assert (codes(disagreeing), disagreeing.standing) == ({"bursts"}, "clean")
    (finding,) = disagreeing.findings
    assert finding.words.startswith("Its reports come several at a time. Each is read as made in ")
    assert disagreeing.rate_hz == pytest.approx(250.0, rel=0.05)
    assert [a.passes for a in disagreeing.axes] == [4, 4]


@pytest.mark.parametrize(("turns", "burst"), [(0.15, True), (0.25, False)])
def test_from_how_many_that_turn_back_on_two_tellings_disagree(turns: float, burst: bool) -> None:
    """A hand that shakes turns back now and then; two that disagree do at every other report."""
    u = np.repeat(swept(), 2, axis=0)
    back = np.arange(len(u) // 2) % 20 < 20 * turns
    u[1::2][back] -= 6.0 * np.sign(np.gradient(swept(), axis=0)[back])
    disagreeing = together(np.clip(u, -100, 100), 2)
    assert ("bursts" in codes(disagreeing)) == burst


@pytest.mark.parametrize(("pace", "burst"), [(0.45, True), (0.55, False)])
def test_what_trembles_while_it_hardly_moves_does_not_disagree(pace: float, burst: bool) -> None:
    """% a report: up to half of one, to and fro is the stick's noise and no second telling."""
    there = np.arange(-95.0, 95.0, pace)
    across = np.concatenate([there, -there] * 2)
    across += np.where(np.arange(len(across)) % 2, 1.0, -1.0)
    disagreeing = together(np.column_stack([across, across]), 2)
    assert ("bursts" in codes(disagreeing)) == burst


def test_two_reports_of_one_moment_that_disagree_are_no_burst() -> None:
    """One with a dead zone of its own and one without, say: which of them is meant is not known."""
    u = np.repeat(swept(), 2, axis=0)
    u[1::2] += 6.0
    disagreeing = together(np.clip(u, -100, 100), 2)
    assert "contrary" in codes(disagreeing)
    assert "bursts" not in codes(disagreeing)
    assert disagreeing.standing == "usable"


def test_it_asks_for_what_is_still_to_do_and_ends_when_all_was_seen() -> None:
    watch = SourceWatch(UNIT, {})
    assert watch.now().says == "Waiting for its first report."
    u = np.clip(swept(), -100, 100)
    t_us = np.arange(len(u)) * 4000
    asked = []
    for start in range(0, len(u), 50):
        watch.feed(t_us[start : start + 50], u[start : start + 50])
        asked.append(watch.now())
    words = " | ".join(dict.fromkeys(a.says for a in asked))
    assert words.index("left to right") < words.index("up and down") < words.index("round the edge")
    done = [a.done for a in asked]
    assert done == sorted(done), "it never goes back"
    one = next(a for a in asked if a.passes == (1, 0))
    assert one.done <= (1 / 3) / 3 + 1e-9, "one pass of three is a third of a third"
    assert not asked[-1].enough, "ten seconds are not over"
    hold = np.full((100, 2), 50.0) + np.random.default_rng(1).normal(0, 1, (100, 2))
    last = int(t_us[-1])
    watch.feed(last + np.linspace(4000, 10.0 * 1e6 - last, 100).astype(np.int64), hold)
    assert watch.now().enough
    assert watch.now().passes >= (3, 3)


def test_a_report_from_before_the_last_one_is_left_out() -> None:
    """A clock that goes back, from one block to the next as well as within one."""
    watch = SourceWatch(UNIT, {})
    watch.feed(np.array([100, 8100]), np.zeros((2, 2)))
    watch.feed(np.array([4100, 12_100]), np.ones((2, 2)))
    assert watch.recording is not None
    assert watch.recording.t_us.tolist() == [0, 8000, 12_000]


def test_it_ends_by_itself_where_nothing_is_done() -> None:
    watch = SourceWatch(UNIT, {})
    watch.feed(np.array([0, int(45.0 * 1e6) - 1]), np.zeros((2, 2)))
    assert not watch.now().enough
    watch.feed(np.array([int(45.0 * 1e6)]), np.zeros((1, 2)))
    assert watch.now().enough


def test_what_no_take_would_let_in_is_left_out() -> None:
    watch = SourceWatch(UNIT, {})
    watch.feed(np.array([1000, 500, 2000]), np.array([[0, 0], [1, 1], [500, 0.0]]))
    recording = watch.recording
    assert recording is not None
    assert recording.t_us.tolist() == [0]


def test_of_what_is_there_the_one_with_the_least_in_between_is_advised() -> None:
    assert rawer_than("gamepad", ("event-device", "hid")) == "hid"
    assert rawer_than("gamepad", ("event-device",)) == "event-device"
    assert rawer_than("hid", ("event-device", "gamepad")) is None
    assert rawer_than("hid", ("hidraw",)) == "hidraw"
    assert rawer_than("stand-in", ("hidraw",)) is None, "that is another controller"


def test_a_single_axis_is_tried_out_too() -> None:
    across = swept()[: 4 * 225, :1]
    tried = check(np.tile(across, (3, 1)))
    assert (tried.standing, len(tried.axes)) == ("clean", 1)


def test_a_single_axis_is_told_by_its_ends() -> None:
    """“Left to right” and “toward right” say nothing of a throttle."""
    watch = SourceWatch(UNIT[:1], {})
    watch.feed(np.arange(50) * 4000, swept()[:50, :1])
    assert watch.now().says.startswith(
        "Move it from end to end and back, through the middle: 0 of "
    )
    along = np.maximum(1.06 * swept()[:, :1], -70)
    (said,) = (f.words for f in check(along).findings if f.code == "one-sided-end")
    assert "x stays at the end of its range toward its high end and ends 30.0" in said


def test_a_report_that_comes_several_times_over_is_said_and_counted_once() -> None:
    """Else a slow source would be told to be a fast one."""
    u = np.repeat(np.round(swept(rate=125.0) / 0.2) * 0.2, 2, axis=0)
    tried = check(u)
    (problems,) = [f for f in tried.findings if f.code == "several-times"]
    assert problems.words == "Every report comes 2 times over. Each is counted once."
    assert "several-times" not in codes(check(swept()))


@pytest.mark.parametrize("round_about", [False, True])
def test_a_lift_over_somebody_s_dead_zone_is_seen(round_about: bool) -> None:
    u = swept()
    out = np.hypot(*u.T)[:, None] if round_about else np.abs(u)
    tried = check(u * (7.0 + 0.93 * out) / np.maximum(out, 1e-9))
    assert tried.standing == "hides"
    (messages,) = [f.words for f in tried.findings]
    assert "between zero and 7." in messages
