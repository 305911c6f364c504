"""The best donor comes first: within its limits, by the dead zone it needs."""

from __future__ import annotations

from hollow_pin.core.donors import DonorStanding, DonorStick, best_first, donor_stick
from hollow_pin.core.limits import LIMIT_OF


def stick(tag: str, standing: DonorStanding, dead_zone: float | None) -> DonorStick:
    return DonorStick(1, tag, "left", None, standing, dead_zone, "")


def test_those_within_come_first_by_their_dead_zone_and_what_is_gone_last() -> None:
    donors = best_first(
        [
            stick("GS-1", "taken", None),
            stick("GS-2", "unmeasured", None),
            stick("GS-3", "over", 1.0),
            stick("GS-4", "within", 5.0),
            stick("GS-5", "within", 3.0),
            stick("GS-6", "over", 0.5),
        ]
    )
    assert [d.tag for d in donors] == ["GS-5", "GS-4", "GS-6", "GS-3", "GS-2", "GS-1"]


def test_what_nobody_measured_and_what_is_gone_is_said_to_be() -> None:
    """Or a module is unsoldered for nothing."""
    unmeasured = donor_stick(1, "GS-1", "left", None, None, LIMIT_OF, is_taken=False)
    assert unmeasured.standing == "unmeasured"
    assert unmeasured.says == "The left stick was never measured: look before it is soldered."
    taken = donor_stick(1, "GS-1", "left", None, None, LIMIT_OF, is_taken=True)
    assert (taken.standing, taken.says.split(" was ")[1]) == ("taken", "taken out already.")
