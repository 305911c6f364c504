"""What is put down of work: each remedy has its own fields, and nothing stands there that cannot."""

from __future__ import annotations

import pytest

from hollow_pin.core.remedies import BY_CODE, WORK
from hollow_pin.core.timers import Timer, end_of, minutes_left, why_wait
from hollow_pin.core.work_fields import BY_CODE as FIELDS
from hollow_pin.core.work_fields import LONGEST, DetailError, checked, in_order, in_words


@pytest.mark.parametrize("remedy", WORK, ids=lambda r: r.code)
def test_every_field_of_every_remedy_is_in_the_table(remedy) -> None:
    fields = in_order(remedy.fields)
    assert fields[-1].code == "minutes"
    assert ("battery" in remedy.fields) == remedy.opens
    assert ("recheck_on" in remedy.fields) == remedy.stopgap
    assert ("iron_c" in remedy.fields) == remedy.solders
    if remedy.waits:
        assert remedy.waits.minutes > 0


def test_no_field_is_asked_by_no_remedy() -> None:
    assert {code for r in WORK for code in r.fields} == set(FIELDS)


def test_it_is_kept_in_the_order_it_is_asked_and_reads_as_one_sentence() -> None:
    wanted = BY_CODE["cleaned"].fields
    details = checked(
        wanted,
        {"minutes": 12, "passes": 1, "solvent": "isopropyl", "swab_clean": True, "consumables": ""},
    )
    assert list(details) == ["solvent", "passes", "swab_clean", "minutes"]
    assert in_words(details) == (
        "Isopropyl, high purity, 1 pass, the last swab stayed clean, 12 min."
    )
    assert in_words({}) == ""
    assert checked(wanted, {"consumables": "x" * LONGEST}) == {"consumables": "x" * 500}
    assert checked(wanted, {"swab_clean": False}) == {}
    trims = checked(BY_CODE["trimmed"].fields, {"trim_ohms": 47_000, "alloy": "SAC305"})
    assert in_words(trims) == "Trims of 47000 Ω, SAC305."


@pytest.mark.parametrize(
    ("code", "value"),
    [
        ("passes", 0),
        ("passes", 51),
        ("passes", 1.5),
        ("passes", "two"),
        ("passes", True),
        ("solvent", "water"),
        ("swab_clean", "yes"),
        ("minutes", -1),
        ("consumables", "x" * (LONGEST + 1)),
        ("consumables", 3.0),
        ("gap_mm", 1.0),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(code: str, value: object) -> None:
    with pytest.raises(DetailError) as wrong:
        checked(BY_CODE["cleaned"].fields, {code: value})  # type: ignore[dict-item]
    assert wrong.value.field == code


@pytest.mark.parametrize("value", ["2026-02-30", "tomorrow", "2026-2-3", 20260203.0])
def test_a_date_is_one(value: object) -> None:
    with pytest.raises(DetailError):
        checked(BY_CODE["eased"].fields, {"recheck_on": value})  # type: ignore[dict-item]
    kept = checked(BY_CODE["eased"].fields, {"recheck_on": "2026-02-28"})
    assert in_words(kept) == "To be looked at again on 2026-02-28."


def test_what_dries_is_waited_for_to_the_last_moment() -> None:
    start = "2026-03-01T10:00:00.000+00:00"
    timer = Timer(1, 1, "dry", "Drying", 10, start, end_of(start, 10), None, "", None)
    assert timer.ends_at == "2026-03-01T10:10:00.000+00:00"
    just_before, at_the_end = "2026-03-01T10:09:59.000+00:00", timer.ends_at
    assert minutes_left(timer, start) == 10
    assert why_wait([timer], start) == "Still to be waited for: drying, 10 min."
    assert why_wait([timer], just_before) == "Still to be waited for: drying, 1 s."
    assert why_wait([timer], at_the_end) == ""
    stopped = Timer(1, 1, "dry", "Drying", 10, start, timer.ends_at, just_before, "dry", None)
    assert why_wait([stopped], start) == ""
