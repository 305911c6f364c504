"""Opening and shutting by a sheet: two lengths never look alike, what is out is counted, and nothing
left over or missing goes unsaid."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hollow_pin.core.teardown import (
    FINAL,
    MOST_STEPS,
    SHAPES,
    FastenerMark,
    SheetError,
    SheetStep,
    Teardown,
    Tick,
    Way,
    against_shutting,
    fasteners_of,
    progress_of,
    validate_sheet,
)


def screws(step_id: str, *lengths: float | None, driver: str = "cross 0") -> SheetStep:
    marks = tuple(FastenerMark(2.0 * i, 20, length) for i, length in enumerate(lengths))
    return SheetStep(step_id, "fastener", f"Screws {step_id}", driver, marks)


SHEET = Teardown(
    steps=(
        screws("edge", 8, 8, 12, None),
        SheetStep("seam", "clip", "Clips"),
        screws("board", 5, 8, driver="six-lobe 6"),
    )
)


def ticks(*done: tuple[Way, str]) -> tuple[Tick, ...]:
    return tuple(Tick(i, way, step, "", "", "") for i, (way, step) in enumerate(done))


OUT = (("out", "edge"), ("out", "seam"), ("out", "board"))
BACK = (("back", "board"), ("back", "seam"), ("back", "edge"))
LOOKED = tuple(("final", code) for code, _ in FINAL)


def test_every_length_by_every_driver_has_a_letter_and_a_shape_of_its_own() -> None:
    fasteners = fasteners_of(SHEET)
    assert [(f.letter, f.length_mm, f.driver, f.count) for f in fasteners] == [
        ("A", 5, "six-lobe 6", 1),
        ("B", 8, "cross 0", 2),
        ("C", 8, "six-lobe 6", 1),
        ("D", 12, "cross 0", 1),
    ]
    assert len({f.shape for f in fasteners}) == 4
    many = Teardown(steps=(screws("all", *range(2, 2 + 30)),))
    drawn = fasteners_of(many)
    assert len({f.letter for f in drawn}) == 30
    assert {f.shape for f in drawn} == set(SHAPES)


def test_what_is_out_is_counted_until_it_is_back() -> None:
    def out(*done: tuple[Way, str]) -> dict[str, int]:
        return {f.letter: f.out for f in fasteners_of(SHEET, ticks(*done))}

    assert out() == {"A": 0, "B": 0, "C": 0, "D": 0}
    assert out(*OUT[:1]) == {"A": 0, "B": 2, "C": 0, "D": 1}
    assert out(*OUT) == {"A": 1, "B": 2, "C": 1, "D": 1}
    assert out(*OUT, *BACK[:2]) == {"A": 0, "B": 2, "C": 0, "D": 1}


def test_it_goes_back_the_way_it_came_and_then_is_looked_at() -> None:
    assert progress_of(SHEET, (), shutting=False).next == "edge"
    assert progress_of(SHEET, ticks(*OUT[:2]), shutting=False).next == "board"
    assert progress_of(SHEET, ticks(*OUT), shutting=False).next is None
    half = progress_of(SHEET, ticks(*OUT[:2]), shutting=True)
    assert (half.way, half.next) == ("back", "seam"), "what never came out does not go back"
    assert progress_of(SHEET, ticks(*OUT, *BACK[:1]), shutting=True).next == "seam"
    final = progress_of(SHEET, ticks(*OUT, *BACK), shutting=True)
    assert (final.way, final.next, final.out, final.back) == ("final", "caps", 3, 3)
    done = progress_of(SHEET, ticks(*OUT, *BACK, *LOOKED), shutting=True)
    assert (done.next, done.final_open) == (None, ())


def test_nothing_left_over_or_missing_goes_unsaid() -> None:
    whole = progress_of(SHEET, ticks(*OUT, *BACK, *LOOKED), shutting=True)
    assert against_shutting(whole, {}, "", "") == ()
    assert against_shutting(whole, {"B": 0}, "", "") == ()
    assert against_shutting(whole, {"B": 1}, "", "") == ("Left over on the mat: 1 of B, 8 mm.",)
    missing = progress_of(SHEET, ticks(*OUT, *BACK[1:], *LOOKED), shutting=True)
    assert against_shutting(missing, {}, "", "") == (
        "Not back in their holes: 1 of A, 5 mm and 1 of C, 8 mm.",
    )
    clips = progress_of(SHEET, ticks(*OUT, BACK[0], BACK[2], *LOOKED), shutting=True)
    assert against_shutting(clips, {}, "", "") == ("1 step is not undone yet.",)
    unseen = progress_of(SHEET, ticks(*OUT, *BACK, *LOOKED[1:]), shutting=True)
    assert against_shutting(unseen, {}, "", "") == ("Not looked at: caps on the sticks.",)
    everything = against_shutting(missing, {"Z": 2}, "It dries.", "Do not close it yet.")
    assert everything[:2] == ("It dries.", "Do not close it yet.")
    assert "2 of Z" in everything[3]


@pytest.mark.parametrize(
    ("sheet", "where"),
    [
        (Teardown(steps=(screws("a", 8), screws("a", 8))), "steps.0.id"),
        (Teardown(steps=(replace(screws("a", 8), words=" "),)), "steps.0.words"),
        (Teardown(steps=(replace(screws("a", 8), kind="clip"),)), "steps.0.marks"),
        (Teardown(steps=(screws("a", 0.4),)), "steps.0.marks"),
        (Teardown(steps=(screws("a", 201),)), "steps.0.marks"),
        (
            Teardown(steps=(replace(screws("a"), marks=(FastenerMark(0, 64.1, 8),)),)),
            "steps.0.marks",
        ),
        (Teardown(steps=(replace(screws("a"), minutes=601),)), "steps.0.minutes"),
        (Teardown(steps=tuple(screws(f"s{i}") for i in range(MOST_STEPS + 1))), "steps"),
        (Teardown(steps=(screws("a", *[8.0] * 41),)), "steps.0.marks"),
    ],
)
def test_a_sheet_that_cannot_be_worked_by_is_refused_where_it_is_wrong(
    sheet: Teardown, where: str
) -> None:
    with pytest.raises(SheetError) as wrong:
        validate_sheet(sheet)
    assert wrong.value.field == where


def test_the_step_that_is_wrong_is_named_as_it_is_counted() -> None:
    """Whoever looks for it in a list that begins at 1 must not mend another."""
    sheet = Teardown(steps=(screws("a", 8), replace(screws("b", 8), kind="clip")))
    with pytest.raises(SheetError, match="Step 2 has marks and is no fastener"):
        validate_sheet(sheet)


def test_a_sheet_at_its_bounds_is_taken() -> None:
    edge = tuple(FastenerMark(x, y, n) for x, y, n in ((0, 0, 0.5), (100, 64, 200), (50, 32, None)))
    steps = tuple(replace(screws(f"s{i}"), marks=edge, minutes=600) for i in range(MOST_STEPS))
    validate_sheet(Teardown(steps=steps))
    validate_sheet(Teardown(steps=(screws("a", *[8.0] * 40),)))
