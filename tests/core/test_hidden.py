"""What a source hides must never pass for health: each way of hiding is found, named, and carried
into the verdict."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.built_in_zone import go_through_middle
from hollow_pin.core.comparable import Setting
from hollow_pin.core.comparison import compare
from hollow_pin.core.hidden import _pace, find_hidden
from hollow_pin.core.limits import LIMIT_OF, limits_with, verdict_on
from hollow_pin.core.next_look import looks
from hollow_pin.core.ranking import rank
from hollow_pin.core.reach_signs import cut_wide, overrun
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.recording import STEPS, AxisRange, Recording
from hollow_pin.core.routine import STANDARD
from hollow_pin.core.sides import Sides
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.stick import Converter, Sensor
from sticks import performed, performed_by, read_of, readings_of, with_sensors

DEAD_ZONE = "composite.dead_zone_needed"


def sound(**converter: float) -> Recording:
    stick = fresh_stick("potentiometer", "round", 10, 250, "sound", 3)
    changed = replace(stick.converter, **converter)  # type: ignore[arg-type]
    return performed_by(replace(stick, converter=changed), 5).recording


def codes(readings: TakeReadings) -> set[str]:
    return {h.code for h in readings.hidden}


def test_a_sound_stick_by_a_good_source_hides_nothing() -> None:
    readings = measure_take(sound())
    assert readings.hidden == ()
    assert verdict_on(readings, DEAD_ZONE, 8.0) == "within"


@pytest.mark.parametrize(
    ("converter", "code", "touched"),
    [
        ({"dead_zone": 6.0}, "built-in-dead-zone", DEAD_ZONE),
        ({"news_every": 6}, "slow", "still.jitter_x"),
        ({"rate_hz": 40.0}, "slow", "let_go.settle_ms_p90"),
    ],
)
def test_each_way_of_hiding_is_found_and_no_verdict_passes(
    converter: dict, code: str, touched: str
) -> None:
    readings = measure_take(sound(**converter))
    assert code in codes(readings)
    assert any(p.code == code for p in readings.problems)
    limit = LIMIT_OF[touched].everyday
    assert verdict_on(readings, touched, limit) in ("hidden", "over")
    assert explain(readings).try_first != "none"


def test_a_source_that_is_silent_for_a_third_of_the_time_is_said_to_be() -> None:
    recording = sound()
    silent = (recording.t_us // 100_000) % 3 == 0
    cut = Recording(
        recording.t_us[~silent], recording.raw[~silent], recording.ranges, recording.step[~silent]
    )
    readings = measure_take(cut)
    assert "uneven" in codes(readings)
    assert verdict_on(readings, "still.jitter_x", 1.0) == "hidden"


@pytest.mark.parametrize(("lost", "uneven"), [(False, False), (True, True)])
def test_a_clock_as_coarse_as_the_reports_loses_none(lost: bool, uneven: bool) -> None:
    """Two in one tick and none in the next is the clock; none in a tick, and no two elsewhere, was
    lost."""
    recording = performed("sound", rate=100.0).recording
    at = np.arange(len(recording.t_us))
    late = np.where(at % 5 == 2, 2 * at + (0 if lost else 2), 2 * at) * 5000
    late = np.maximum.accumulate(late)
    if lost:
        keep = at % 5 != 2
        late, recording = (
            late[keep],
            replace(
                recording,
                t_us=recording.t_us[keep],
                raw=recording.raw[keep],
                step=recording.step[keep],
            ),
        )
    assert ("uneven" in codes(measure_take(replace(recording, t_us=late)))) == uneven


@pytest.mark.parametrize(
    ("late", "soon", "uneven"),
    [(2.1, 0.55, False), (2.3, 0.55, True), (2.1, 0.65, True)],
)
def test_one_late_report_for_each_that_came_too_soon_is_the_clock(
    late: float, soon: float, uneven: bool
) -> None:
    apart = np.resize([1.0, 1.0, 1.0, 1.0, 1.0, late, soon], 2000) * 10_000
    t_us = np.cumsum(apart).astype(np.int64)
    step = np.full(2000, STEPS.index("rim"), np.int8)
    recording = Recording(t_us, np.zeros((2000, 2)), (AxisRange(-100, 100),) * 2, step)
    assert bool(_pace(recording, [slice(0, 2000)])) == uneven


@pytest.mark.parametrize(
    ("least", "most", "cut"),
    [(0, 4095, (True, True)), (1, 4094, (True, False)), (2, 4095, (False, True))],
)
def test_a_range_ends_where_its_last_step_ends(
    least: int, most: int, cut: tuple[bool, bool]
) -> None:
    """Twelve bits that are moved up to fill sixteen never reach the last value of them, nor does one
    that ends as far below its middle as above: the clamp was taken for the shape of the rim."""
    code = np.clip(np.round(2048 + np.linspace(-110, 110, 5001) / 100 * 2047), least, most)
    raw = np.column_stack((code, code)) * 16
    step = np.full(5001, STEPS.index("rim"), np.int8)
    whole = (AxisRange(0, 2**16 - 1),) * 2
    recording = Recording(np.arange(5001) * 4000, raw, whole, step)
    assert (recording.at_end[0].all(), recording.at_end[-1].all()) == cut
    assert not recording.at_end[2500].any()


def test_the_true_rate_of_news_is_told() -> None:
    """Read faster than it has news, a source is as good as its news are quick."""
    readings = measure_take(sound(news_every=4))
    assert readings.recording.rate_hz == pytest.approx(62.5, abs=1)
    assert codes(readings) == set()


def test_an_axis_that_runs_into_its_end_is_named_with_the_side() -> None:
    stick = fresh_stick("potentiometer", "round", 10, 250, "overscaled", 2)
    readings = read_of(stick, 5)
    sides = {h.message.split("toward ")[1].split(":")[0] for h in readings.hidden}
    assert sides == {"right", "left", "up", "down"}
    assert readings.hidden_at("rim.overreach")
    assert readings.hidden_at("composite.shape_after_recalibration"), "by what is left to be seen"
    assert readings.hidden_at("still.jitter_x") is None


def test_a_square_gate_filled_to_its_corners_is_not_called_saturated() -> None:
    stick = fresh_stick("hall", "square", 12, 250, "sound", 3)
    recording = performed_by(stick, 5).recording
    assert "saturated" not in codes(measure_take(recording, "square"))


@pytest.mark.parametrize(
    ("gain", "stated", "cut_off"),
    [
        (1.12, "", False),
        (1.24, "", True),
        (1.24, "28", False),
        (1.12, "3", True),
        (1.24, "nonsense", True),
        (1.24, "-5", True),
        (1.24, "101", True),
    ],
)
def test_what_is_cut_off_goes_by_what_the_model_is_known_to_run_over(
    gain: float, stated: str, cut_off: bool
) -> None:
    """A maker that lets the ends run far over must not have every stick sent to calibration; and one
    that does not must have it said."""
    stick = fresh_stick("hall", "round", 14, 250, "sound", 3)
    recording = performed_by(stick, 5).recording
    hi = recording.ranges[0].hi
    raw = np.clip(np.round((recording.u * gain + 100) / 200 * hi), 0, hi)
    headers = {"overrun": stated} if stated else {}
    readings = measure_take(replace(recording, raw=raw, headers=headers))
    assert ("saturated" in codes(readings)) == cut_off
    limits = {"rim.overrun": {"everyday": float(stated)}} if stated in ("3", "28") else {}
    meaning = explain(readings, limits=limits_with(limits))
    assert ("recalibrate" in meaning.advice) == cut_off
    assert "overrun" not in meaning.advice
    by_cause = {r.cause: r.probability for r in rank(readings)}
    sides = Sides(readings)
    as_it_should = stated == "28"
    assert (overrun(sides, "x") is None) == as_it_should, "what its model does speaks for nothing"
    assert (cut_wide(sides, "x") is None) == as_it_should
    assert as_it_should or overrun(sides, "x") == readings.rim.overrun
    if not cut_off:
        assert by_cause["calibration"] < 0.2
        assert max(by_cause, key=by_cause.__getitem__) == "sound"


def test_a_dead_axis_is_named_and_nothing_about_it_passes() -> None:
    recording = sound()
    raw = recording.raw.copy()
    raw[:, 1] = 512
    readings = measure_take(replace(recording, raw=raw))
    assert "no-signal" in codes(readings)
    for path in ("still.jitter_y", "still.rest_offset", "let_go.return_spread"):
        assert verdict_on(readings, path, 1e9) in ("hidden", "unknown")


def test_a_kernel_that_swallows_small_changes_is_told_by_the_recording_itself() -> None:
    recording = sound()
    readings = measure_take(replace(recording, headers={"fuzz.x": "16"}))
    (hidden,) = readings.hidden
    assert hidden.below == pytest.approx(16 / 511.5 * 100)
    assert verdict_on(readings, "still.jitter_x", 5.0) == "hidden"
    assert verdict_on(readings, "still.jitter_y", 5.0) == "hidden"
    assert verdict_on(readings, "rim.circularity_error", 50.0) == "within"


def behind(
    recording: Recording, half: float, lift: float, power: float, radial: bool, bits: int
) -> Recording:
    """A recording as a source with a dead zone would have made it: what is beyond the zone is spread
    over what is left, by a power, and lifted over somebody else's dead zone."""
    u = recording.u

    def out(r: np.ndarray) -> np.ndarray:
        beyond = np.maximum(r - half, 0.0) / (100.0 - half)
        return np.where(r > half, lift + (100.0 - lift) * beyond**power, 0.0)

    if radial:
        r = np.hypot(*u.T)[:, None]
        shaped = u * out(r) / np.maximum(r, 1e-9)
    else:
        shaped = np.sign(u) * out(np.abs(u))
    hi = 2**bits - 1
    raw = np.round((np.clip(shaped, -100, 100) + 100) / 200 * hi)
    return Recording(recording.t_us, raw, (AxisRange(0, hi),) * 2, recording.step)


@pytest.mark.parametrize(
    ("lift", "power", "radial"),
    [(0.0, 1.0, True), (0.0, 0.6, False), (20.0, 1.0, False), (6.0, 1.7, True)],
)
@pytest.mark.parametrize(("half", "noise"), [(5.0, 0.1), (14.0, 0.1), (8.0, 1.5)])
def test_a_dead_zone_is_found_whatever_is_made_of_the_rest(
    half: float, noise: float, lift: float, power: float, radial: bool
) -> None:
    """A curve, or a lift over the dead zone of a game, leaves no edge that would tell; a stick that
    trembles through it looked like one that needs no dead zone at all."""
    stick = with_sensors(Sensor(noise=noise), Sensor(noise=noise), bits=16)
    recording = performed_by(stick, 5).recording
    for bits in (8, 12):
        readings = measure_take(behind(recording, half, lift, power, radial, bits))
        hidden = readings.hidden_at(DEAD_ZONE)
        assert hidden is not None
        assert hidden.code == "built-in-dead-zone"
        assert hidden.below == pytest.approx(half, rel=0.4)
        assert verdict_on(readings, DEAD_ZONE, 8.0) == "hidden"
        assert explain(readings).try_first != "none"
        assert readings.crossing.x.dead_spans == ()


@pytest.mark.parametrize("noise", [0.02, 1.5, 4.0])
def test_no_dead_zone_is_made_of_noise(noise: float) -> None:
    stick = with_sensors(Sensor(noise=noise), Sensor(noise=noise), bits=16)
    recording = performed_by(stick, 5).recording
    for bits in (8, 12):
        readings = measure_take(behind(recording, 0.0, 0.0, 1.0, False, bits))
        assert "built-in-dead-zone" not in codes(readings)


def test_a_still_alone_at_exactly_zero_is_not_called_quiet() -> None:
    t = np.arange(2500) * 4000
    step = np.full(2500, STEPS.index("still"), np.int8)
    flat = Recording(t, np.full((2500, 2), 500.0), (AxisRange(0, 1000),) * 2, step)
    readings = measure_take(flat)
    assert verdict_on(readings, "still.jitter_x", 1.0) == "hidden"
    away = Recording(t, np.full((2500, 2), 520.0), (AxisRange(0, 1000),) * 2, step)
    assert verdict_on(measure_take(away), "still.jitter_x", 1.0) == "within"


@pytest.mark.parametrize(("half", "code"), [(999, "coarse-zero"), (1001, "zero")])
def test_a_converter_of_coarse_steps_may_rest_at_zero_without_a_dead_zone(
    half: int, code: str
) -> None:
    """From a tenth of a per cent on: within less a stick trembles, or is hidden."""
    still = np.full(2500, half)
    moved = half + np.arange(-500, 500)
    raw = np.concatenate((still, moved)).astype(float)
    step = np.full(len(raw), STEPS.index("still"), np.int8)
    step[2500:] = STEPS.index("rim")
    both = np.column_stack((raw, raw))
    take = measure_take(
        Recording(np.arange(len(raw)) * 4000, both, (AxisRange(0, 2 * half),) * 2, step)
    )
    assert [h.code for h in take.hidden if "zero" in h.code] == [code, code]
    zone = next(r for r in rank(take) if r.cause == "firmware-dead-zone")
    assert zone.likely == (code == "zero")
    looked = replace(take, let_go=readings_of("sound").let_go, rim=readings_of("sound").rim)
    (look,) = looks(looked, rank(looked), STANDARD.steps)
    assert look.steps == ("crossing-x", "crossing-y")


@pytest.mark.parametrize(("passes", "code"), [(1, "zero"), (2, "built-in-dead-zone")])
def test_a_rest_at_zero_is_asked_for_passes_enough(passes: int, code: str) -> None:
    """One pass tells no dead zone from none, and is none to go by."""
    way = np.concatenate([np.linspace(0, -100, 100), np.linspace(-100, 100, 550)])
    back = np.linspace(100, -100, 550) if passes == 2 else np.zeros(0)
    x = np.concatenate([np.zeros(2500), way, back])
    x = np.sign(x) * np.maximum(0.0, np.abs(x) - 8.0) * 100 / 92
    other = np.concatenate([np.zeros(2500), np.full(len(x) - 2500, 3.0)])
    step = np.full(len(x), STEPS.index("crossing-x"), np.int8)
    step[:2500] = STEPS.index("still")
    raw = np.column_stack((x, other))
    readings = measure_take(
        Recording(np.arange(len(x)) * 4000, raw, (AxisRange(-100, 100),) * 2, step)
    )
    assert code in codes(readings)
    assert verdict_on(readings, "still.rest_offset", 6.0) == "hidden"


@pytest.mark.parametrize(("news_ms", "codes"), [(16, []), (18, ["repeats"])])
def test_a_source_that_is_read_faster_than_it_has_news_hides_what_lies_between(
    news_ms: int, codes: list[str]
) -> None:
    """Where its news come fast enough nothing is hidden, however often each is read."""
    t = np.arange(0, 20_000)
    toward = 2 * np.pi * (t // news_ms) * news_ms / 1300.0
    raw = np.round(1800 * np.column_stack((np.sin(toward), np.cos(toward))))
    step = np.full(len(t), STEPS.index("rim"), np.int8)
    recording = Recording(t * 1000, raw, (AxisRange(-2000, 2000),) * 2, step)
    hidden = find_hidden(recording, {"rim": slice(0, len(t))}, "round", {"x": 0.0, "y": 0.0})
    assert [h.code for h in hidden] == codes


def crossed_beside(aside: float, resolution: float, y_aside: float | None = None) -> Recording:
    """A Still at zero, and four passes of each axis so far beside the middle, % ; in steps so wide."""
    passes = np.concatenate((np.linspace(0, -100, 100), np.linspace(-100, 100, 550)))
    passes = np.concatenate((passes, passes[:99:-1], passes[100:], passes[:99:-1]))
    still = np.zeros((2500, 2))
    other = aside if y_aside is None else y_aside
    along_x = np.column_stack((passes, np.full(len(passes), aside)))
    along_y = np.column_stack((np.full(len(passes), other), passes))
    raw = np.round(np.concatenate((still, along_x, along_y)) / resolution)
    names = ("still", "crossing-x", "crossing-y")
    step = np.repeat([STEPS.index(name) for name in names], (2500, len(passes), len(passes)))
    ranges = (AxisRange(-100 / resolution, 100 / resolution),) * 2
    return Recording(np.arange(len(raw)) * 4000, raw, ranges, step.astype(np.int8))


@pytest.mark.parametrize(
    ("aside", "resolution", "code"),
    [
        (0.95, 0.05, None),
        (1.05, 0.05, "zero"),
        (2.0, 0.5, None),
        (2.5, 0.5, "coarse-zero"),
        (12.0, 0.05, "zero"),
    ],
)
def test_passes_that_go_by_the_middle_tell_of_no_round_dead_zone(
    aside: float, resolution: float, code: str | None
) -> None:
    """A worn stick behind one of 8 %, crossed by a hand that strayed, was within every limit."""
    take = measure_take(crossed_beside(aside, resolution))
    assert [h.code for h in take.hidden] == [code] * 2 * (code is not None)
    through = measure_take(crossed_beside(aside, resolution, y_aside=resolution))
    assert through.hidden == (), "the other axis went through it"


def test_half_of_the_passes_are_to_go_through_the_middle() -> None:
    """As it takes half of them to be told of a dead zone."""
    near, far = (crossed_beside(aside, 0.05).u[2500:5000] for aside in (0.5, 5.0))
    passes = [slice(100 + 600 * i, 600 + 600 * i) for i in range(4)]
    for through, told in ((2, True), (1, False)):
        u = np.concatenate((near[: 600 * through + 50], far[600 * through + 50 :]))
        assert go_through_middle(u, passes, (0.05, 0.05)) == told


def test_a_change_is_not_called_better_where_one_side_was_hidden() -> None:
    """Switching a firmware dead zone on would otherwise be the best repair there is."""
    worn = readings_of("worn")
    stick = fresh_stick("potentiometer", "round", 10, 250, "worn", 5)
    masked = replace(stick, converter=Converter(10, 250, dead_zone=12.0))
    hidden = read_of(masked, 5)
    setting = Setting("GS-1", "left", "Stand-in", "round")
    comparison = compare(worn, hidden, setting, setting)
    row = comparison.row(DEAD_ZONE)
    assert row.verdict == "not-comparable"
    assert "hidden by the source" in row.why
    assert any("zero for" in c for c in comparison.cautions)
    assert comparison.overall not in ("better",)
