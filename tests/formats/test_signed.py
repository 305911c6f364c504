"""Tables of signed numbers that were written without their sign: −1 is 255 there, and a stick at rest
lies at both ends of the range at once. It was “hidden below 50 %”, and to be retired."""

from __future__ import annotations

import numpy as np
import pytest

from hollow_pin.core.recording import Recording
from hollow_pin.formats.delimited import Mapping, preview, read_delimited
from hollow_pin.formats.errors import FileError
from hollow_pin.formats.guess import FEWEST_OVER, runs_over
from sticks import performed


def table(values: np.ndarray) -> bytes:
    recording = performed("sound", bits=8).recording
    rows = np.column_stack((recording.t_us, values)).astype(int)
    return ("t,x,y\n" + "\n".join(",".join(map(str, row)) for row in rows)).encode()


def read(data: bytes, lo: float, hi: float) -> Recording:
    return read_delimited(data, Mapping(",", "t", "us", "x", "y", (lo, hi), (lo, hi)))


def codes() -> np.ndarray:
    """0 to 255, the middle at 128."""
    return performed("sound", bits=8).recording.raw


def test_what_runs_over_is_guessed_to_be_signed_and_read_so() -> None:
    signed = codes() - 128
    data = table(signed % 256)
    guess = preview(data).guess
    assert (guess.lo, guess.hi, guess.signed) == (-128, 127, True)
    usual = preview(table(codes())).guess
    assert (usual.lo, usual.hi, usual.signed) == (0, 255, False)
    recording = read(data, -128, 127)
    assert (recording.raw == signed).all()
    assert recording.headers["read-as-signed"] == "x y", "as its file says, whoever reads it again"


def test_words_of_sixteen_bits_are_told_as_bytes_are() -> None:
    signed = (codes() - 128) * 256
    data = table(signed % 65536)
    assert (preview(data).guess.lo, preview(data).guess.hi) == (-32768, 32767)
    assert (read(data, -32768, 32767).raw == signed).all()


@pytest.mark.parametrize("condition", ["sound", "loose", "dirty", "worn", "failing"])
def test_what_has_its_middle_in_the_middle_keeps_its_range(condition: str) -> None:
    """A loose joint jumps from end to end as well."""
    values = performed(condition, bits=8).recording.raw
    for v in values.T:
        assert not runs_over(v, 0, 255)


def test_a_range_that_is_wrong_is_still_refused() -> None:
    with pytest.raises(FileError, match="outside the range"):
        read(table(codes()), -128, 127)


@pytest.mark.parametrize(("step", "over"), [(191, False), (193, True)])
def test_it_runs_over_by_three_quarters_of_the_range(step: int, over: bool) -> None:
    v = np.where(np.arange(1000) % 50 < 25, 30.0, 30.0 + step)
    assert runs_over(v, 0, 255) == over


@pytest.mark.parametrize(("waves", "over"), [(70, True), (120, False)])
def test_the_way_is_half_as_long_with_the_middle_where_the_ends_are(waves: int, over: bool) -> None:
    """Else it jumps from end to end, and moves about by itself as well."""
    jumps = np.where(np.arange(1000) % 50 < 25, 5.0, 250.0)
    moves = 60.0 + 40.0 * (np.arange(2 * waves) % 2)
    v = np.concatenate((jumps, moves))
    short = np.abs(np.diff((v + 128) % 256)).sum() / np.abs(np.diff(v)).sum()
    assert (short < 0.5) == over
    assert runs_over(v, 0, 255) == over


def test_a_column_that_hardly_ever_runs_over_is_no_signed_one() -> None:
    few = np.full(1000, 20.0)
    few[: FEWEST_OVER - 1] = np.where(np.arange(FEWEST_OVER - 1) % 2, 5, 250)
    steps = int((np.abs(np.diff(few)) > 0.75 * 256).sum())
    assert steps < FEWEST_OVER
    assert not runs_over(few, 0, 255)
    many = np.where(np.arange(1000) % 50 < 25, 5.0, 250.0)
    assert runs_over(many, 0, 255)
