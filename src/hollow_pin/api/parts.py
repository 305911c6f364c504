"""The parts shelf: parts, movements, orders, and what fits a job's stick."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import Path, Query
from pydantic import BaseModel, Field

from hollow_pin.api.context import Data, ReadOnly, Role, now
from hollow_pin.api.routes import api_routes
from hollow_pin.api.schemas import Key, Line, Request, Text
from hollow_pin.bench import parts as bench
from hollow_pin.core.parts import MOVEMENTS, PART_LABEL, Moved, Movement, PartFacts, PartKind
from hollow_pin.core.remedies import ModuleKind
from hollow_pin.store.parts import ShelfPart

router = api_routes("parts")
Id = Annotated[int, Path(ge=1, le=2**53)]
Count = Annotated[int, Field(ge=1, le=100_000)]
Price = Annotated[float, Field(ge=0, le=1e6)]


class FactsBody(Request):
    name: Line
    kind: PartKind
    footprint: Annotated[str, Field(max_length=80)] = ""
    ohms: Annotated[float, Field(gt=0, le=1e8)] | None = None
    tolerance: Annotated[float, Field(ge=0, le=100)] | None = None
    sensor: ModuleKind | Literal[""] = ""
    place: Annotated[str, Field(max_length=120)] = ""
    price: Price | None = None
    reorder_at: Annotated[int, Field(ge=0, le=100_000)] = 0
    note: Text = ""

    def facts(self) -> PartFacts:
        return PartFacts(**{k: getattr(self, k) for k in PartFacts.__dataclass_fields__})


class ChangedFacts(FactsBody):
    """revision: of the part as it was read."""

    revision: Key


class MoveBody(Request):
    """count: how many; below 0 only where counting found fewer."""

    kind: Moved
    count: Annotated[int, Field(ge=-100_000, le=100_000)]
    lot: Annotated[str, Field(max_length=120)] = ""
    job_id: Key | None = None
    reason: Text = ""


class WantedBody(Request):
    """job_id: of the job that waits for it."""

    part_id: Key
    count: Count
    price: Price | None = None
    job_id: Key | None = None


class OrderBody(Request):
    """expected_on: a date, or empty: then past orders of the source tell it."""

    source: Line
    lines: list[WantedBody] = Field(min_length=1, max_length=100)
    expected_on: Annotated[str, Field(max_length=10)] = ""
    note: Text = ""


class ReceivedLine(Request):
    line_id: Key
    count: Count
    lot: Annotated[str, Field(max_length=120)] = ""


class ReceivedBody(Request):
    lines: list[ReceivedLine] = Field(min_length=1, max_length=100)


class KindInfo(BaseModel):
    kind: PartKind
    label: str


class ShelfInfo(BaseModel):
    """What kinds of parts there are, and how they move."""

    kinds: list[KindInfo]
    movements: tuple[Movement, ...]


@router.get("/parts/kinds")
def get_kinds() -> ShelfInfo:
    """Kinds of parts, and ways for them to move."""
    kinds = [KindInfo(kind=kind, label=label) for kind, label in PART_LABEL.items()]
    return ShelfInfo(kinds=kinds, movements=MOVEMENTS)


@router.get("/parts")
def get_parts(
    db: ReadOnly,
    text: Annotated[str, Query(max_length=200)] = "",
    low: bool = False,
    after: Annotated[int, Query(ge=0, le=2**31)] = 0,
) -> bench.Shelf:
    """Parts by name: whose name, footprint, place, note or lots hold every word; or that are low."""
    return bench.view_shelf(db, text, low, after)


@router.post("/parts", status_code=201)
def post_part(body: FactsBody, database: Data) -> ShelfPart:
    """A part that may lie on the shelf; how many do is said by movements."""
    return bench.new_part(database, body.facts())


@router.get("/parts/{part_id}")
def get_part(
    part_id: Id, db: ReadOnly, before: Annotated[int | None, Query(ge=1, le=2**53)] = None
) -> bench.PartView:
    """A part with its newest movements, or those before one."""
    return bench.view_part(db, part_id, now(), before or 2**62)


@router.put("/parts/{part_id}")
def put_part(part_id: Id, body: ChangedFacts, database: Data) -> ShelfPart:
    """Change what a part is; never how many there are."""
    return bench.edit_part(database, part_id, body.facts(), body.revision)


@router.post("/parts/{part_id}/movements", status_code=201)
def post_movement(part_id: Id, body: MoveBody, database: Data, role: Role) -> ShelfPart:
    """Move parts."""
    move = bench.Move(body.kind, body.count, body.lot, body.job_id, body.reason)
    return bench.move_part(database, part_id, move, now(), role)


@router.post("/movements/{movement_id}/undo", status_code=201)
def post_undo(movement_id: Id, database: Data, role: Role) -> ShelfPart:
    """Take a movement back, by another."""
    return bench.undo_movement(database, movement_id, now(), role)


@router.get("/orders")
def get_orders(db: ReadOnly, open_only: bool = False) -> list[bench.OrderView]:
    """Orders, the open ones first, with when they are expected."""
    return bench.view_orders(db, now(), open_only)


@router.post("/orders", status_code=201)
def post_order(body: OrderBody, database: Data, role: Role) -> bench.OrderView:
    """Order parts; a job that waits for one says so."""
    lines = [bench.OrderItem(x.part_id, x.count, x.price, x.job_id) for x in body.lines]
    return bench.order(database, body.source, lines, now(), body.expected_on, body.note, role)


@router.post("/orders/{order_id}/received", status_code=201)
def post_received(order_id: Id, body: ReceivedBody, database: Data, role: Role) -> bench.OrderView:
    """Put what came on the shelf; whoever waits for it wakes."""
    came = [bench.Receipt(x.line_id, x.count, x.lot) for x in body.lines]
    return bench.receive(database, order_id, came, now(), role)


@router.post("/orders/{order_id}/end", status_code=201)
def post_end(order_id: Id, database: Data) -> bench.OrderView:
    """No more of it is awaited."""
    return bench.end_order(database, order_id, now())


@router.post("/orders/{order_id}/await", status_code=201)
def post_await(order_id: Id, database: Data) -> bench.OrderView:
    """What is left of it is awaited after all."""
    return bench.await_again(database, order_id, now())


@router.get("/jobs/{job_id}/parts")
def get_job_parts(
    job_id: Id,
    db: ReadOnly,
    remedy: Annotated[str, Query(max_length=60)],
    stick: Annotated[str | None, Query(max_length=60)] = None,
) -> bench.JobParts:
    """Which parts go in with a remedy, those that fit first; and what the job waits for."""
    return bench.parts_for(db, job_id, remedy, stick, now())
