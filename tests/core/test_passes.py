"""Whether another pass of cleaning is worth it: told by what was measured, and never guessed."""

from __future__ import annotations

import pytest

from hollow_pin.core.comparison import Overall
from hollow_pin.core.passes import MeasuredPass, advise


@pytest.mark.parametrize(
    ("overall", "within", "says"),
    [
        ("better", None, "Measure before the next pass"),
        ("better", True, "no further pass is needed"),
        ("no-change", True, "no further pass is needed"),
        ("better", False, "another pass is worth it"),
        ("little", False, "another hardly will"),
        ("no-change", False, "another hardly will"),
        ("worse", False, "It got worse"),
        ("mixed", False, "some worse"),
        (None, False, "cannot be told"),
        ("refused", False, "cannot be told"),
    ],
)
def test_what_to_do_after_a_pass(overall: Overall | None, within: bool | None, says: str) -> None:
    advice = advise((MeasuredPass("better", False), MeasuredPass(overall, within)))
    assert says in advice.says
    assert advice.measure == (within is None)


def test_nothing_is_said_of_no_pass() -> None:
    with pytest.raises(ValueError, match="no pass"):
        advise(())
