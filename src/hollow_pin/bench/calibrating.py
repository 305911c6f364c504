"""What a calibration of a job's stick would hold, what became of the last one, and what the kernel
believes of its axes."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from sqlite3 import Connection

from hollow_pin.bench.readings import readings_of, usable_takes
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import get_job, get_take, open_job, ranges_read
from hollow_pin.core.calibration import (
    MOST_MARGIN,
    TEACHING,
    Calibration,
    CalibrationOutcome,
    Teaching,
    as_ranges,
    calibration_outcome,
    calibrations,
    ends_not_seen,
    left_over,
)
from hollow_pin.core.extents import NotMeasured, shortest_reach
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.record import Job, Take
from hollow_pin.core.remedies import BY_CODE
from hollow_pin.core.routine import shape_of
from hollow_pin.core.sources import setup_of
from hollow_pin.sources.kernel_range import (
    KernelAxis,
    NotWritten,
    Open,
    open_input,
    read_axes,
    write_axes,
)
from hollow_pin.sources.source import SourceLost
from hollow_pin.store.database import Database
from hollow_pin.store.decisions import keep_setting, setting
from hollow_pin.store.jobs import work_of
from hollow_pin.store.ledger import add_entry


@dataclass(frozen=True)
class CalibrationRead:
    """What a take reads of what a calibration changes, %; None where it was not measured."""

    take_id: int
    stage: str
    dead_zone: float | None
    circularity: float | None
    reach: float | None


@dataclass(frozen=True)
class Kernel:
    """What the kernel believes of a device's axes; kept: what it believed before it was written to
    here, empty where it was not. offered: what this take would have it believe. trouble: why it cannot
    be read."""

    path: str
    axes: tuple[KernelAxis, ...]
    offered: tuple[KernelAxis, ...]
    kept: tuple[KernelAxis, ...]
    trouble: str


@dataclass(frozen=True)
class CalibrationView:
    """take_id: of the take that it is worked out from; missing: why there is none, or what it lacks.
    remarks: what its calibration looks like, in sentences. teaching: how one is carried out. now:
    what it reads; after: what the first take after a calibration read, and outcome what became of
    that; None where none was made, or where what the device's own one held is not known."""

    take_id: int | None
    missing: str
    remarks: tuple[str, ...]
    teaching: Teaching
    kinds: tuple[Calibration, ...]
    now: CalibrationRead | None
    after: CalibrationRead | None
    outcome: CalibrationOutcome | None
    kernel: Kernel | None


def view_calibration(
    db: Connection,
    job_id: int,
    margin: float = 0.0,
    take_id: int | None = None,
    opened: Open = open_input,
) -> CalibrationView:
    """By the newest take before a calibration that was put on record, else by the newest there is; or
    by one of the job that is named. Refused for a margin out of bounds."""
    if not 0.0 <= margin <= MOST_MARGIN:
        raise Refused(f"A margin lies from 0 to {MOST_MARGIN:g} %.", "margin")
    job = get_job(db, job_id)
    before, after = _takes(db, job, take_id)
    named = before.stick if before is not None else job.stick
    stick = job.controller.model.stick(named)
    teaching = TEACHING[shape_of(stick.axes, stick.sprung) if stick else "two-axes"]
    readings = readings_of(db, before) if before is not None else None
    if before is None or readings is None:
        return CalibrationView(None, teaching.lacking, (), teaching, (), None, None, None, None)
    kernel = _kernel(db, before, (), opened)
    ranges = ranges_read(before, readings)
    unknown = ranges != before.ranges
    now = None if unknown else _calibration_read(before, readings)
    remarks = tuple(
        sentence for sentence in (left_over(readings), ends_not_seen(readings)) if sentence
    )
    try:
        kinds = calibrations(readings, ranges, before.gate, margin)
    except NotMeasured as why:
        return CalibrationView(before.id, str(why), remarks, teaching, (), now, None, None, kernel)
    kernel = _kernel(db, before, kinds, opened)
    then = readings_of(db, after) if after is not None else None
    outcome, measured_after = None, None
    if after is not None and then is not None and not unknown:
        measured_after = _calibration_read(after, then)
        try:
            plain = calibrations(readings, ranges, before.gate)[0]
            outcome = calibration_outcome(readings, then, plain, ranges)
        except NotMeasured:
            outcome = None
    return CalibrationView(
        before.id, "", remarks, teaching, kinds, now, measured_after, outcome, kernel
    )


def _calibration_read(take: Take, readings: TakeReadings) -> CalibrationRead:
    rim = readings.rim
    return CalibrationRead(
        take.id,
        take.stage,
        readings.composite.dead_zone_needed,
        rim.circularity_error if rim is not None else None,
        shortest_reach(readings),
    )


def _takes(db: Connection, job: Job, take_id: int | None) -> tuple[Take | None, Take | None]:
    """The take that a calibration is worked out from, and the first one after it was calibrated."""
    named = get_take(db, take_id) if take_id is not None else None
    if named is not None and named.job_id != job.id:
        raise Refused(f"Take {named.id} is of another job.", "take_id")
    stick = named.stick if named is not None else job.stick
    usable = usable_takes(db, job.id, stick)
    recalibrations = [
        w.seq
        for w in work_of(db, job.id)
        if w.stick == stick
        and w.undone_at is None
        and BY_CODE[w.kind].calibration == "recalibrated"
    ]
    earlier = [t for t in usable if not recalibrations or t.seq < recalibrations[-1]]
    before = named or next(reversed(earlier or usable), None)
    if before is None:
        return None, None
    since = next((seq for seq in recalibrations if seq > before.seq), None)
    after = next((t for t in usable if since is not None and t.seq > since), None)
    return before, after


def _key(path: str) -> str:
    return f"kernel-range {path}"


def _kernel(
    db: Connection, take: Take, kinds: tuple[Calibration, ...], opened: Open
) -> Kernel | None:
    """Of a Linux input device; None for any other source."""
    if take.source_kind != "event-device":
        return None
    setup = setup_of(take.headers)
    path, codes = setup.path, list(setup.axes)
    saved = tuple(KernelAxis(**a) for a in setting(db, _key(path)) or ())
    try:
        axes = read_axes(path, codes, opened)
    except SourceLost as lost:
        return Kernel(path, (), (), saved, f"{lost}.")
    return Kernel(path, axes, _offered(take, axes, kinds), saved, "")


def _offered(
    take: Take, axes: tuple[KernelAxis, ...], kinds: tuple[Calibration, ...]
) -> tuple[KernelAxis, ...]:
    """What this take would have the kernel believe; fuzz stays."""
    if not kinds:
        return ()
    turned = setup_of(take.headers).turned(len(take.ranges))
    return tuple(
        KernelAxis(now.code, r.lo, r.hi, r.flat, now.fuzz)
        for now, r in zip(axes, as_ranges(kinds[0], take.ranges, turned), strict=True)
    )


def write_kernel(
    database: Database,
    job_id: int,
    take_id: int,
    axes: tuple[KernelAxis, ...],
    at: str,
    role: str = "",
    opened: Open = open_input,
) -> None:
    """Have the kernel believe it; what it believed before is kept, to be put back. Refused where the
    source is no input device, or the kernel does not take it."""
    with database.reading() as db:
        kernel = _kernel_of(db, job_id, take_id, opened)
    axis_codes = {a.code for a in kernel.axes}
    if {a.code for a in axes} != axis_codes:
        raise Refused("Every axis of the take's stick is written, and no other.", "axes")
    _write(kernel.path, axes, opened)
    with database.writing() as db:
        if not kernel.kept:
            keep_setting(db, _key(kernel.path), [asdict(a) for a in kernel.axes])
        add_entry(db, job_id, at, "note", f"Written to the kernel: {_ledger_text(axes)}", role)


def restore_kernel(
    database: Database,
    job_id: int,
    take_id: int,
    at: str,
    role: str = "",
    opened: Open = open_input,
) -> None:
    """Put back what the kernel believed before it was first written to here."""
    with database.reading() as db:
        kernel = _kernel_of(db, job_id, take_id, opened)
    if not kernel.kept:
        raise Refused("Nothing was written to it from here.", "take_id")
    _write(kernel.path, kernel.kept, opened)
    with database.writing() as db:
        keep_setting(db, _key(kernel.path), [])
        add_entry(
            db, job_id, at, "note", f"Put back in the kernel: {_ledger_text(kernel.kept)}", role
        )


def _kernel_of(db: Connection, job_id: int, take_id: int, opened: Open) -> Kernel:
    open_job(db, job_id)
    take = get_take(db, take_id)
    if take.job_id != job_id:
        raise Refused(f"Take {take_id} is of another job.", "take_id")
    kernel = _kernel(db, take, (), opened)
    if kernel is None:
        raise Refused("Its source is no input device of this machine.", "take_id")
    if kernel.trouble:
        raise Refused(kernel.trouble, "take_id")
    return kernel


def _write(path: str, axes: tuple[KernelAxis, ...], opened: Open) -> None:
    try:
        write_axes(path, axes, opened)
    except (NotWritten, SourceLost) as wrong:
        raise Refused(str(wrong), "axes") from None


def _ledger_text(axes: tuple[KernelAxis, ...]) -> str:
    each = [f"axis {a.code} {a.lo} to {a.hi}, flat {a.flat}, fuzz {a.fuzz}" for a in axes]
    return f"{'; '.join(each)}."
