"""A source that reports changes only carries all there is to know, and is read so."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hollow_pin.core.held import as_held, pace_of
from hollow_pin.core.recording import Recording
from hollow_pin.core.summary import explain
from hollow_pin.core.take import measure_take
from sticks import performed


def thinned(recording: Recording) -> Recording:
    """What of it a source would say that speaks only when something changes."""
    news = np.append(True, (recording.raw[1:] != recording.raw[:-1]).any(axis=1))
    return picked(recording, news)


def picked(recording: Recording, keep: np.ndarray) -> Recording:
    return replace(
        recording, t_us=recording.t_us[keep], raw=recording.raw[keep], step=recording.step[keep]
    )


def coarse(recording: Recording, step: float = 8.0) -> Recording:
    """By a converter of 7 bits, which rests to the last digit."""
    return replace(recording, raw=np.round(recording.raw / step) * step)


@pytest.mark.parametrize("condition", ["sound", "worn", "offset"])
def test_held_values_give_the_readings_of_the_whole(condition: str) -> None:
    whole = coarse(performed(condition).recording)
    spare = thinned(whole)
    assert len(spare.t_us) < 0.75 * len(whole.t_us)
    assert pace_of(spare).change_only
    assert not pace_of(whole).change_only
    told, full = measure_take(spare), measure_take(whole)
    assert told.hidden == full.hidden
    assert explain(told).try_first == explain(full).try_first
    for path in ("still.rest_x", "let_go.return_spread", "rim.mean_radius", "hold.sag"):
        assert told.value(path) == pytest.approx(full.value(path), abs=0.4), path
    assert told.recording.samples == len(spare.t_us), "what came is what is told"


def test_a_source_that_speaks_all_the_time_is_left_as_it_is() -> None:
    for condition in ("sound", "worn", "dirty"):
        for rate in (60.0, 250.0, 1000.0):
            recording = performed(condition, rate=rate).recording
            assert not pace_of(recording).change_only, (condition, rate)


def test_a_silence_in_the_middle_of_a_movement_stays_a_gap() -> None:
    """The link was silent, not the stick: held over it, the track would have a hole there."""
    whole = coarse(performed("sound").recording)
    crossing = whole.attempts("crossing-x")[0]
    keep = np.ones(len(whole.t_us), dtype=bool)
    middle = (crossing.start + crossing.stop) // 2
    keep[middle : middle + 40] = False
    spare = thinned(picked(whole, keep))
    held = as_held(spare, pace_of(spare))
    assert np.diff(held.t_us).max() > 100_000
    assert measure_take(spare).crossing.x.dead_spans == ()


def test_each_report_twice_is_the_same_source() -> None:
    recording = performed("sound", rate=125.0).recording
    twice = Recording(
        np.repeat(recording.t_us, 2) + np.tile((0, 4000), len(recording.t_us)),
        np.repeat(recording.raw, 2, axis=0),
        recording.ranges,
        np.repeat(recording.step, 2),
    )
    assert pace_of(twice).twice == 2
    readings = measure_take(twice)
    assert readings.hidden == ()
    assert readings.recording.rate_hz == pytest.approx(125, abs=2)


def test_lost_reports_are_the_links() -> None:
    recording = performed("sound").recording
    rng = np.random.default_rng(3)
    keep = np.ones(len(recording.t_us), dtype=bool)
    for at in rng.integers(0, len(keep) - 40, 50):
        keep[at : at + 30] = False
    readings = measure_take(picked(recording, keep))
    assert "lost-reports" in [p.code for p in readings.problems]
    assert readings.crossing.x.dead_spans == readings.crossing.y.dead_spans == ()
    assert explain(readings).try_first == "none"
