"""The parts shelf: what lies there and moves, what is ordered, what fits a stick, and who waits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from sqlite3 import Connection

from hollow_pin.bench.refusal import Changed, NotFound, Refused
from hollow_pin.bench.takes import get_job, open_job, require_stick
from hollow_pin.core.controller import ModelStick
from hollow_pin.core.intake import WAITING_LABEL
from hollow_pin.core.parts import (
    BY_MOVE,
    PARTS_OF,
    Fit,
    Fits,
    Moved,
    NotEnough,
    PartFacts,
    after_movement,
    fit,
    is_low,
    lead_days,
    shelf_words,
)
from hollow_pin.core.remedies import Remedy
from hollow_pin.store.database import Database
from hollow_pin.store.jobs import set_waiting
from hollow_pin.store.ledger import add_entry
from hollow_pin.store.parts import (
    MovementRow,
    NewMovement,
    Order,
    ShelfPart,
    add_movement,
    add_order,
    add_part,
    await_order,
    change_part,
    close_order,
    counts_awaited,
    find_movement,
    find_order,
    find_part,
    find_parts,
    held_for,
    lines_awaited,
    lots_of,
    movements_of,
    movements_of_work,
    order_came,
    orders,
    reopen_order_of,
    took_days,
)

SHOWN = 50
"""Parts, or movements of one, to a page."""
MOST_FITTING = 200
"""Parts of a kind that are held against a stick at the most."""


@dataclass(frozen=True)
class PartLine:
    """A part as it stands on the shelf. free: how many are not reserved. awaited: how many are ordered
    and have not come."""

    part: ShelfPart
    free: int
    low: bool
    awaited: int


@dataclass(frozen=True)
class Shelf:
    """lines: one page; total: how many there are in all."""

    lines: tuple[PartLine, ...]
    total: int


@dataclass(frozen=True)
class Awaited:
    """What comes for a part: the order, how many of it, when it is expected (a date, or empty),
    whether that has passed, the job that waits for it, and that job's controller."""

    order_id: int
    source: str
    count: int
    expected_on: str
    late: bool
    job_id: int | None
    job_tag: str | None


@dataclass(frozen=True)
class PartView:
    """A part with its newest movements, its lots, what is reserved for whom, and what comes."""

    line: PartLine
    movements: tuple[MovementRow, ...]
    lots: tuple[str, ...]
    awaited: tuple[Awaited, ...]


@dataclass(frozen=True)
class OrderView:
    """An order. expected_on: as it was said, or as past orders of its source have it: told_by says
    which. late: whether that has passed and something is still to come. ended: whether no more is
    awaited, though not all came."""

    order: Order
    expected_on: str
    told_by: str
    late: bool
    ended: bool


@dataclass(frozen=True)
class PartOffer:
    """A part held against a job's stick. held: how many are reserved for the job; usable: whether one
    of it can go in."""

    line: PartLine
    fit: Fit
    held: int
    usable: bool


@dataclass(frozen=True)
class JobParts:
    """What goes in with a remedy, the best first; and what the job waits for."""

    offered: tuple[PartOffer, ...]
    awaited: tuple[Awaited, ...]


@dataclass(frozen=True)
class Move:
    """kind, count: how parts move; job_id: for whom; lot, reason: in words."""

    kind: Moved
    count: int
    lot: str = ""
    job_id: int | None = None
    reason: str = ""


@dataclass(frozen=True)
class OrderItem:
    """A line of an order. price: of one, in the shop's currency. job_id: of the job that waits for
    it."""

    part_id: int
    count: int
    price: float | None = None
    job_id: int | None = None


@dataclass(frozen=True)
class Receipt:
    """How many of a line came, and of which lot."""

    line_id: int
    count: int
    lot: str = ""


def get_part(db: Connection, part_id: int) -> ShelfPart:
    part = find_part(db, part_id)
    if part is None:
        raise NotFound("part", part_id)
    return part


def view_shelf(
    db: Connection, text: str = "", low: bool = False, after: int = 0, most: int = SHOWN
) -> Shelf:
    parts, total = find_parts(db, text, low, (), most, after)
    return Shelf(_lines(db, parts), total)


def _lines(db: Connection, parts: Sequence[ShelfPart]) -> tuple[PartLine, ...]:
    coming = counts_awaited(db, [part.id for part in parts])
    return tuple(
        PartLine(p, p.count.free, is_low(p.facts, p.count), coming.get(p.id, 0)) for p in parts
    )


def view_part(db: Connection, part_id: int, now: str, before: int = 2**62) -> PartView:
    part = get_part(db, part_id)
    return PartView(
        _lines(db, [part])[0],
        tuple(movements_of(db, part_id, SHOWN, before)),
        tuple(lots_of(db, part_id)),
        _awaited(db, part_id, None, now),
    )


def _awaited(
    db: Connection, part_id: int | None, job_id: int | None, now: str
) -> tuple[Awaited, ...]:
    awaited = []
    for order, line in lines_awaited(db, part_id, job_id):
        view = _viewed(db, order, now)
        awaited.append(
            Awaited(
                order.id,
                order.source,
                line.count - line.came,
                view.expected_on,
                view.late,
                line.job_id,
                line.job_tag,
            )
        )
    return tuple(awaited)


def new_part(database: Database, facts: PartFacts) -> ShelfPart:
    facts = _checked(facts)
    with database.writing() as db:
        return get_part(db, add_part(db, facts))


def edit_part(database: Database, part_id: int, facts: PartFacts, revision: int) -> ShelfPart:
    """Change what a part is; never how many there are."""
    facts = _checked(facts)
    with database.writing() as db:
        part = get_part(db, part_id)
        if part.revision != revision:
            raise Changed("Somebody else changed this part meanwhile.", {"name": part.facts.name})
        change_part(db, part_id, facts)
        return get_part(db, part_id)


def _checked(facts: PartFacts) -> PartFacts:
    if not facts.name.strip():
        raise Refused("A part has a name.", "name")
    if facts.tolerance is not None and facts.ohms is None:
        raise Refused("A tolerance is of a value: say the ohms.", "ohms")
    return facts


def move_part(database: Database, part_id: int, move: Move, at: str, role: str = "") -> ShelfPart:
    """Move parts. Refused where there are not as many, or a reason or a job is missing."""
    with database.writing() as db:
        _move(db, part_id, move, at, role)
        return get_part(db, part_id)


def move_in(db: Connection, part_id: int, move: Move, at: str, role: str) -> None:
    """Move parts within a transaction."""
    _move(db, part_id, move, at, role)


def _move(
    db: Connection,
    part_id: int,
    move: Move,
    at: str,
    role: str,
    work_id: int | None = None,
    line_id: int | None = None,
) -> int:
    part, way = get_part(db, part_id), BY_MOVE[move.kind]
    if move.count == 0 or (move.count < 0 and move.kind != "counted"):
        raise Refused("One part or more is moved.", "count")
    if way.job and move.job_id is None:
        raise Refused("Say for which job.", "job_id")
    if way.why and not move.reason.strip():
        raise Refused("Say why.", "reason")
    if move.job_id is not None:
        open_job(db, move.job_id)
    own = held_for(db, move.job_id, part_id).get(part_id, 0) if move.job_id is not None else 0
    try:
        after = after_movement(part.count, move.kind, move.count, own)
    except NotEnough as why:
        raise Refused(str(why), "count") from None
    new = NewMovement(
        part_id=part_id,
        kind=move.kind,
        count=move.count,
        hand=after.hand - part.count.hand,
        held=after.held - part.count.held,
        lot=move.lot.strip(),
        job_id=move.job_id,
        work_id=work_id,
        line_id=line_id,
        reason=move.reason.strip(),
    )
    movement = add_movement(db, new, at, role)
    if move.job_id is not None and work_id is None:
        text = f"{way.label}: {abs(move.count)} × {part.facts.name}."
        add_entry(db, move.job_id, at, "note", text, role)
    return movement


def use_part(
    db: Connection, part_id: int, work_id: int, job_id: int, lot: str, at: str, role: str
) -> None:
    """One part goes in with work that is being put on record."""
    _move(db, part_id, Move("used", 1, lot, job_id), at, role, work_id=work_id)


def undo_movement(database: Database, movement_id: int, at: str, role: str = "") -> ShelfPart:
    """Take a movement back, by another. Refused where there are no longer as many, or where it belongs
    to work or to an order: those are undone where they were made."""
    with database.writing() as db:
        movement = find_movement(db, movement_id)
        if movement is None:
            raise NotFound("movement", movement_id)
        if movement.work_id is not None and movement.undoes is None:
            raise Refused("It went in with work: undo the work in the job's ledger.")
        _take_back(db, movement, at, role)
        if movement.line_id is not None:
            reopen_order_of(db, movement.line_id)
        return get_part(db, movement.part_id)


def release_all(db: Connection, job_id: int, at: str, role: str) -> None:
    """A job ends: what was reserved for it, and did not go in, is free for others."""
    for part_id, count in held_for(db, job_id).items():
        _move(db, part_id, Move("released", count, job_id=job_id), at, role)


def take_back_of_work(db: Connection, work_id: int, at: str, role: str) -> None:
    """Work was not done after all: what it used lies there again."""
    for movement in movements_of_work(db, work_id):
        if not movement.undone and movement.undoes is None:
            _take_back(db, movement, at, role)


def _take_back(db: Connection, movement: MovementRow, at: str, role: str) -> None:
    if movement.undone:
        raise Refused("It was taken back already.")
    if movement.undoes is not None:
        raise Refused("It takes another back: move the parts anew.")
    part = get_part(db, movement.part_id)
    hand, reserved = part.count.hand - movement.hand, part.count.held - movement.held
    if hand < 0 or not 0 <= reserved <= hand:
        raise Refused(
            f"There are no longer as many: {part.count.hand} lie there, {part.count.free} of them "
            "free."
        )
    new = NewMovement(
        part_id=movement.part_id,
        kind=movement.kind,
        count=movement.count,
        hand=-movement.hand,
        held=-movement.held,
        lot=movement.lot,
        job_id=movement.job_id,
        work_id=movement.work_id,
        line_id=movement.line_id,
        reason="taken back",
        undoes=movement.id,
    )
    add_movement(db, new, at, role)


def order(
    database: Database,
    source: str,
    lines: Sequence[OrderItem],
    at: str,
    expected_on: str = "",
    note: str = "",
    role: str = "",
) -> OrderView:
    """Order parts. A job that waits for one is said to, and until when."""
    if not source.strip():
        raise Refused("Say where it is ordered.", "source")
    if not lines:
        raise Refused("An order has a line at least.", "lines")
    if expected_on:
        try:
            date.fromisoformat(expected_on)
        except ValueError:
            raise Refused(f"“{expected_on}” is no date.", "expected_on") from None
    with database.writing() as db:
        rows = []
        for line in lines:
            if line.count < 1:
                raise Refused("One part or more is ordered.", "lines")
            get_part(db, line.part_id)
            if line.job_id is not None:
                open_job(db, line.job_id)
            rows.append((line.part_id, line.count, line.price, line.job_id))
        order_id = add_order(db, source.strip(), expected_on, note.strip(), rows, at)
        view = view_order(db, order_id, at)
        for line in lines:
            if line.job_id is not None:
                set_waiting(db, line.job_id, "part")
                until = f", expected {view.expected_on}" if view.expected_on else ""
                text = f"Waits for {WAITING_LABEL['part']}. {get_part(db, line.part_id).facts.name}"
                text += f" from {source.strip()}{until}."
                add_entry(db, line.job_id, at, "waiting", text, role)
        return view


def receive(
    database: Database, order_id: int, came: Sequence[Receipt], at: str, role: str = ""
) -> OrderView:
    """Put what came of an order on the shelf; what a job waits for is reserved for it, and it waits no
    longer."""
    with database.writing() as db:
        order = _open_order(db, order_id)
        by_id = {line.id: line for line in order.lines}
        if not came:
            raise Refused("Say what came.", "lines")
        for one in came:
            line = by_id.get(one.line_id)
            if line is None:
                raise Refused(f"Line {one.line_id} is of another order.", "lines")
            if one.count < 1:
                raise Refused("One part or more came.", "lines")
            _move(db, line.part_id, Move("received", one.count, one.lot), at, role, line_id=line.id)
            if line.job_id is not None:
                _wake(db, line.job_id, line.part_id, one.count, at, role)
        now = find_order(db, order_id)
        whole = now is not None and _all_came(now)
        order_came(db, order_id, at, at if whole else None)
        return view_order(db, order_id, at)


def _wake(db: Connection, job_id: int, part_id: int, count: int, at: str, role: str) -> None:
    """A job that waited for a part goes on, and the part is its own."""
    job = get_job(db, job_id)
    if job.closed_at is not None:
        return
    _move(db, part_id, Move("reserved", count, job_id=job_id), at, role)
    if job.waiting == "part":
        set_waiting(db, job_id, "")
        add_entry(db, job_id, at, "waiting", "Waits no longer: its part came.", role)


def end_order(database: Database, order_id: int, at: str) -> OrderView:
    """No more of an order is awaited."""
    with database.writing() as db:
        _open_order(db, order_id)
        close_order(db, order_id, at)
        return view_order(db, order_id, at)


def await_again(database: Database, order_id: int, at: str) -> OrderView:
    """What is left of an order is awaited after all."""
    with database.writing() as db:
        order = find_order(db, order_id)
        if order is None:
            raise NotFound("order", order_id)
        if _all_came(order):
            raise Refused("All of that order came.")
        await_order(db, order_id)
        return view_order(db, order_id, at)


def _open_order(db: Connection, order_id: int) -> Order:
    known = find_order(db, order_id)
    if known is None:
        raise NotFound("order", order_id)
    if known.closed_at is not None:
        raise Refused("All of that order came, or no more of it is awaited.")
    return known


def view_order(db: Connection, order_id: int, now: str) -> OrderView:
    order = find_order(db, order_id)
    if order is None:
        raise NotFound("order", order_id)
    return _viewed(db, order, now)


def view_orders(db: Connection, now: str, open_only: bool = False) -> list[OrderView]:
    return [_viewed(db, order, now) for order in orders(db, open_only)]


def _viewed(db: Connection, order: Order, now: str) -> OrderView:
    expected, told_by = order.expected_on, "as it was said" if order.expected_on else ""
    if not expected:
        days = lead_days(took_days(db, order.source))
        if days is not None:
            due = datetime.fromisoformat(order.ordered_at) + timedelta(days=days)
            expected, told_by = (
                due.date().isoformat(),
                f"{order.source} took {days:.0f} days before",
            )
    late = bool(expected) and order.closed_at is None and now[:10] > expected
    closed = order.closed_at is not None and not _all_came(order)
    return OrderView(order, expected, told_by, late, closed)


def _all_came(order: Order) -> bool:
    return all(line.came >= line.count for line in order.lines)


RANK = ("fits", "unknown", "other-value")


def parts_for(db: Connection, job_id: int, remedy: str, stick: str | None, now: str) -> JobParts:
    """Which parts go in with a remedy: those that fit first, like for like before another kind; what
    fits the holes and not the value is named with what it would do."""
    job = get_job(db, job_id)
    own = require_stick(job.controller, stick or job.stick)
    offered = _fitting(db, job_id, remedy, own)

    def key(o: PartOffer) -> tuple[int, bool, int, bool, int]:
        other = o.line.part.facts.sensor not in ("", own.kind)
        return RANK.index(o.fit.fits), other, -o.held, o.line.free < 1, -o.line.free

    return JobParts(tuple(sorted(offered, key=key)), _awaited(db, None, job_id, now))


def _fitting(db: Connection, job_id: int, remedy: str, own: ModelStick) -> list[PartOffer]:
    """What goes in with a remedy, but for what surely does not fit."""
    kinds = PARTS_OF.get(remedy, ())
    parts = find_parts(db, "", False, kinds, MOST_FITTING)[0] if kinds else []
    held = held_for(db, job_id)
    offered = []
    for line in _lines(db, parts):
        mine = held.get(line.part.id, 0)
        fits = fit(line.part.facts, remedy, own, own.footprint)
        if fits.fits != "not":
            offered.append(PartOffer(line, fits, mine, line.free + mine > 0))
    return offered


def on_the_shelf(db: Connection, job_id: int, remedy: Remedy, own: ModelStick) -> str:
    """What lies ready for a remedy of a job's stick, in a sentence; empty where it wants no part, or a
    used one, or the shop keeps no parts here."""
    wants = remedy.parts and remedy.code in PARTS_OF and remedy.renews != "used"
    if not wants or not find_parts(db, "", False, (), 1)[1]:
        return ""
    offered = _fitting(db, job_id, remedy.code, own)

    def ready(fits: Fits) -> int:
        return sum(o.line.free + o.held for o in offered if o.fit.fits == fits)

    coming = sum(o.line.awaited for o in offered if o.fit.fits == "fits")
    return shelf_words(ready("fits"), ready("unknown"), coming)
