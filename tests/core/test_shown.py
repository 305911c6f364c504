"""What of a take is shown first, and where it came from."""

from __future__ import annotations

from dataclasses import replace

from hollow_pin.core.catalogue import BY_PATH
from hollow_pin.core.figures import figures_of
from hollow_pin.core.job import AS_RECEIVED, STATIONS, mark_of
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.where import where_of
from sticks import readings_of


def read(condition: str):
    return readings_of(condition)


def paths(condition: str, side: str) -> list[str]:
    return [f.path for f in figures_of(read(condition), LIMIT_OF, "everyday")[side]]


def test_each_side_of_a_take_has_five_numbers() -> None:
    for side in ("rest", "track"):
        assert len(paths("sound", side)) == 5
        assert all(path in BY_PATH for path in paths("sound", side))


def test_spikes_take_the_place_of_jitter_where_they_are_what_is_wrong() -> None:
    assert paths("sound", "rest")[-1].startswith("still.jitter")
    assert paths("dirty", "rest")[-1].startswith("still.spikes")
    spiky, limit = read("dirty"), LIMIT_OF["still.jitter_x"].everyday
    times = spiky.still.spikes_per_min_x / LIMIT_OF["still.spikes_per_min_x"].everyday
    for farther in (0.99, 1.01):
        still = replace(spiky.still, jitter_x=farther * times * limit, jitter_y=0.0)
        figures = figures_of(replace(spiky, still=still), LIMIT_OF, "everyday")["rest"]
        shown = "still.spikes" if farther < 1 else "still.jitter"
        assert figures[-1].path.startswith(shown), "the one that is the farther over its limit"


def test_every_number_leads_to_the_samples_it_came_from() -> None:
    take = read("worn")
    where = where_of(take)
    for side in figures_of(take, LIMIT_OF, "everyday").values():
        for figure in side:
            at = where[figure.path]
            assert 0 <= at.from_s < at.to_s <= take.recording.duration_s + 1
    far = max(take.let_go.release, key=lambda r: r.final_x**2 + (r.final_y or 0) ** 2)
    assert where["let_go.return_max"].from_s == far.t_s
    spike = where_of(read("dirty"))["still.spikes_per_min_x"]
    assert spike.label == "the highest spike"
    held = where_of(read("failing"))["hold.sag"]
    assert "falls back most" in held.label


def test_a_take_is_marked_by_its_place_in_the_story() -> None:
    assert mark_of(AS_RECEIVED, True) == "received"
    assert mark_of("after cleaning", True) == "now"
    assert mark_of("after cleaning", False) == "between"


def test_every_station_says_what_is_next_and_where() -> None:
    assert [s.station for s in STATIONS] == ["prove", "decide", "verify", "hand-over", "closed"]
    assert all(s.label and s.place for s in STATIONS)


def test_only_what_recentring_would_leave_is_said_to_be_at_best() -> None:
    """“At best” over a number that was measured would be read as a hope."""
    sides = figures_of(read("offset"), LIMIT_OF, "everyday")
    notes = {f.path: f.note for side in sides.values() for f in side}
    assert notes.pop("composite.dead_zone_after_recentring") == "at best"
    assert set(notes.values()) == {""}


def test_a_take_without_releases_is_shown_without_a_release() -> None:
    take = replace(read("worn"), let_go=None)
    assert not [path for path in where_of(take) if path.startswith("let_go.")]
