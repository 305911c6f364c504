"""What the kernel is told of an axis, by a stand-in of python-evdev's own interface: written, read
back, put back."""

from __future__ import annotations

from collections import namedtuple
from pathlib import Path

import pytest

from benches import AT, new_bench
from hollow_pin.bench.calibrating import restore_kernel, view_calibration, write_kernel
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.jobs import view_job
from hollow_pin.bench.refusal import Refused
from hollow_pin.sources.kernel_range import (
    KernelAxis,
    NotWritten,
    open_input,
    read_axes,
    write_axes,
)
from hollow_pin.sources.source import SourceLost
from sticks import performed

AbsInfo = namedtuple("AbsInfo", "value min max fuzz flat resolution")
PATH = "/dev/input/event7"
FRESH = (KernelAxis(0, 0, 1023, 63, 3), KernelAxis(1, 0, 1023, 63, 3))
WANTED = (KernelAxis(0, 12, 1010, 20, 3), KernelAxis(1, 9, 1001, 18, 3))


class Pad:
    """An input device. refuses: the write from which on the kernel takes no more; deaf: it says that
    it took it, and did not."""

    def __init__(self, refuses: int | None = None, deaf: bool = False) -> None:
        self.axes = {a.code: AbsInfo(500, a.lo, a.hi, a.fuzz, a.flat, 0) for a in FRESH}
        self.refuses, self.deaf = refuses, deaf
        self.writes = self.closed = 0

    def absinfo(self, axis_num: int) -> AbsInfo:
        return self.axes[axis_num]

    def set_absinfo(
        self, axis_num, value=None, min=None, max=None, fuzz=None, flat=None, resolution=None
    ):
        self.writes += 1
        if self.refuses is not None and self.writes >= self.refuses:
            raise PermissionError(1, "Operation not permitted")
        if not self.deaf:
            old = self.axes[axis_num]
            self.axes[axis_num] = old._replace(min=min, max=max, fuzz=fuzz, flat=flat)

    def close(self) -> None:
        self.closed += 1


def test_what_is_written_is_read_back_and_the_device_let_go() -> None:
    pad = Pad()
    assert read_axes(PATH, (0, 1), lambda _: pad) == FRESH
    write_axes(PATH, WANTED, lambda _: pad)
    assert read_axes(PATH, (0, 1), lambda _: pad) == WANTED
    assert pad.axes[0].value == 500
    assert pad.closed == 3


def test_what_the_kernel_does_not_take_leaves_every_axis_as_it_was() -> None:
    half = Pad(refuses=2)
    with pytest.raises(NotWritten, match="Operation not permitted"):
        write_axes(PATH, WANTED, lambda _: half)
    deaf = Pad(deaf=True)
    with pytest.raises(NotWritten, match="Axis 0 reads back something else"):
        write_axes(PATH, WANTED, lambda _: deaf)
    assert half.closed == deaf.closed == 1


@pytest.mark.parametrize(
    ("axis", "says"),
    [
        (KernelAxis(0, 10, 10, 0, 0), "not above its low one"),
        (KernelAxis(0, 0, 100, 50, 0), "less than its range"),
        (KernelAxis(0, 0, 100, -1, 0), "0 or more"),
        (KernelAxis(0, 0, 100, 0, -1), "0 or more"),
    ],
)
def test_nonsense_is_refused_before_anything_is_opened(axis: KernelAxis, says: str) -> None:
    with pytest.raises(NotWritten, match=says):
        write_axes(PATH, (axis,), lambda _: pytest.fail("it was opened"))
    write_axes(PATH, (KernelAxis(0, 0, 100, 49, 0),), lambda _: Pad())


def test_a_device_that_is_not_there_is_said_to_be_lost() -> None:
    with pytest.raises(SourceLost):
        open_input("/dev/input/there-is-none")


@pytest.fixture
def watched(tmp_path: Path):
    """A job whose take came from an input device."""
    database, job = new_bench(tmp_path)
    recording = performed("miscalibrated").recording
    take = import_take(database, job.id, "left", "t.csv", recording, AT)
    headers = '{"source-path": "/dev/input/event7", "source-axes": "0,1", "y-turned": "yes"}'
    with database.writing() as db:
        db.execute(
            "UPDATE take SET source_kind = 'event-device', headers = ? WHERE id = ?",
            (headers, take.id),
        )
    return database, job.id, take.id


def test_what_was_believed_before_is_kept_and_put_back_by_one_key(watched) -> None:
    database, job, take = watched
    pad = Pad()

    def view():
        with database.reading() as db:
            return view_calibration(db, job, opened=lambda _: pad).kernel

    kernel = view()
    assert (kernel.axes, kernel.kept, kernel.trouble) == (FRESH, (), "")
    assert all(a.lo < 512 < a.hi and a.flat > 0 and a.fuzz == 3 for a in kernel.offered)
    write_kernel(database, job, take, kernel.offered, AT, opened=lambda _: pad)
    assert (view().axes, view().kept) == (kernel.offered, FRESH)
    write_kernel(database, job, take, WANTED, AT, opened=lambda _: pad)
    assert view().kept == FRESH, "the first is kept, not the last"
    restore_kernel(database, job, take, AT, opened=lambda _: pad)
    assert (view().axes, view().kept) == (FRESH, ())
    with database.reading() as db:
        notes = [e.text for e in view_job(db, job).ledger if e.kind == "note"]
    assert notes[0].startswith("Put back in the kernel: axis 0 0 to 1023")
    with pytest.raises(Refused, match="Nothing was written"):
        restore_kernel(database, job, take, AT, opened=lambda _: pad)


def test_what_cannot_be_written_changes_no_record(watched) -> None:
    database, job, take = watched
    shut = Pad(refuses=1)
    with pytest.raises(Refused, match="must be writable"):
        write_kernel(database, job, take, WANTED, AT, opened=lambda _: shut)
    with pytest.raises(Refused, match="Every axis"):
        write_kernel(database, job, take, WANTED[:1], AT, opened=lambda _: Pad())

    def gone(path: str):
        raise SourceLost(f"{path} cannot be opened: No such device")

    with pytest.raises(Refused, match="No such device"):
        write_kernel(database, job, take, WANTED, AT, opened=gone)
    with database.reading() as db:
        kernel = view_calibration(db, job, opened=gone).kernel
        assert kernel.trouble == "/dev/input/event7 cannot be opened: No such device."
        assert not [e for e in view_job(db, job).ledger if e.kind == "note"]


def test_any_other_source_has_no_kernel_to_write_to(tmp_path: Path) -> None:
    database, job = new_bench(tmp_path)
    recording = performed("sound").recording
    take = import_take(database, job.id, "left", "t.csv", recording, AT)
    with database.reading() as db:
        assert view_calibration(db, job.id).kernel is None
    with pytest.raises(Refused, match="no input device"):
        write_kernel(database, job.id, take.id, WANTED, AT, opened=lambda _: Pad())
