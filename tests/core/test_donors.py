"""The best donor comes first: within its limits, by the dead zone it needs."""

from __future__ import annotations

from hollow_pin.core.donors import DonorStanding, DonorStick, best_first


def stick(tag: str, standing: DonorStanding, dead_zone: float | None) -> DonorStick:
    return DonorStick(1, tag, "left", None, standing, dead_zone, "")


def test_those_within_come_first_by_their_dead_zone_and_what_is_gone_last() -> None:
    found = best_first(
        [
            stick("GS-1", "taken", None),
            stick("GS-2", "unmeasured", None),
            stick("GS-3", "over", 1.0),
            stick("GS-4", "within", 5.0),
            stick("GS-5", "within", 3.0),
            stick("GS-6", "over", 0.5),
        ]
    )
    assert [d.tag for d in found] == ["GS-5", "GS-4", "GS-6", "GS-3", "GS-2", "GS-1"]
