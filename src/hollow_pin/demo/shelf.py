"""What lies on the shelf of the examples: enough, too little, the wrong value, a bad lot, a donor's;
an order that came, one that is late, and one that a job waits for."""

from __future__ import annotations

from datetime import datetime, timedelta

from hollow_pin.bench.donors import keep_as_donor
from hollow_pin.bench.inspections import begin_inspection, look_at
from hollow_pin.bench.parts import Move, OrderItem, Receipt, move_part, new_part, order, receive
from hollow_pin.core.parts import PartFacts
from hollow_pin.store.database import Database

BRACKISH, LEDGE = "Brackish Components", "Ledge & Lagoon"
TEN_K = PartFacts(
    "Module P-14, 10 kΩ", "module", "P-14", 10_000.0, 20.0, "potentiometer", "drawer 1", 6.0, 3
)
PARTS: tuple[tuple[PartFacts, int, str], ...] = (
    (TEN_K, 4, "BC-P10"),
    (
        PartFacts(
            "Module P-14, 2.3 kΩ",
            "module",
            "P-14",
            2_300.0,
            20.0,
            "potentiometer",
            "drawer 1, red bag",
            5.5,
            0,
            "Sent instead of the 10 kΩ ones. Fits the holes.",
        ),
        5,
        "BC-P2",
    ),
    (
        PartFacts("Hall module P-14", "module", "P-14", None, None, "hall", "drawer 2", 9.0, 2),
        3,
        "LL-H1",
    ),
    (
        PartFacts(
            "Hall module P-14, off centre",
            "module",
            "P-14",
            None,
            None,
            "hall",
            "drawer 2, set apart",
            9.0,
            0,
            "The whole lot rests some 9 % off: back to where it came from.",
        ),
        4,
        "LL-H0",
    ),
    (
        PartFacts(
            "Sensor parts, 10 kΩ",
            "sensor",
            "P-14",
            10_000.0,
            20.0,
            "potentiometer",
            "drawer 1",
            2.5,
            4,
        ),
        9,
        "BC-S10",
    ),
    (
        PartFacts(
            "Ribbon module R-8",
            "module",
            "R-8 ribbon",
            10_000.0,
            20.0,
            "potentiometer",
            "drawer 3",
            11.0,
            1,
        ),
        0,
        "",
    ),
    (PartFacts("Trim, 10 kΩ", "trim", "", 10_000.0, 10.0, "", "box of trims", 0.6, 6), 14, "LL-T"),
    (PartFacts("Stick cap", "cap", "", None, None, "", "box of caps", 0.8, 10), 22, ""),
    (PartFacts("Spring ring", "ring", "", None, None, "", "box of caps", 0.4, 10), 7, ""),
    (PartFacts("Solder SAC305, 0.5 mm", "solder", "", None, None, "", "bench", 14.0, 1), 2, ""),
    (
        PartFacts(
            "Isopropyl 99.9 %, a bottle", "solvent", "", None, None, "", "metal cabinet", 7.0, 1
        ),
        3,
        "",
    ),
)
TOOK = {BRACKISH: 16, LEDGE: 27}
WAITS, WORN, DONOR = "GS-064", "GS-038", "GS-049"
"""Tags of the controller that waits for a module, of the one that the last is kept for, and of the one
that is kept for its parts."""


def stock(database: Database, now: datetime, jobs: dict[str, int], role: str) -> None:
    """Fill the shelf, as past orders did."""
    ids: dict[str, int] = {}
    for facts, _, _ in PARTS:
        ids[facts.name] = new_part(database, facts).id
    for source, ago in ((BRACKISH, 70), (LEDGE, 60), (BRACKISH, 45), (LEDGE, 38)):
        mine = [x for x in PARTS if x[1] and x[2].startswith("LL") == (source == LEDGE)]
        half = mine[::2] if ago > 50 else mine[1::2]
        ordered = now - timedelta(days=ago)
        lines = [OrderItem(ids[f.name], n, f.price) for f, n, _ in half]
        ordered_now = order(database, source, lines, _text(ordered))
        came = [
            Receipt(line.id, line.count, lot)
            for line, (_, _, lot) in zip(ordered_now.order.lines, half, strict=True)
        ]
        receive(
            database,
            ordered_now.order.id,
            came,
            _text(ordered + timedelta(days=TOOK[source])),
            role,
        )
    used = Move("used", 4, "BC-P10")
    move_part(database, ids[TEN_K.name], used, _text(now - timedelta(days=6)), role)
    donor = Move("from-donor", 1, "GS-031", reason="Beyond repair; its right module read sound.")
    move_part(database, ids[TEN_K.name], donor, _text(now - timedelta(days=4)), role)
    reserved = Move("reserved", 1, job_id=jobs[WORN])
    move_part(database, ids[TEN_K.name], reserved, _text(now - timedelta(minutes=40)), role)
    scrapped = Move("scrapped", 1, reason="A pin broke off.")
    move_part(database, ids["Trim, 10 kΩ"], scrapped, _text(now - timedelta(days=2)), role)
    missing = Move("counted", -2, reason="Two fewer than thought.")
    move_part(database, ids["Stick cap"], missing, _text(now - timedelta(days=2)), role)
    _look_into(database, ids["Sensor parts, 10 kΩ"], now, role)
    keep_as_donor(
        database, jobs[DONOR], "Cracked; the left stick was never blamed.", _text(now), role
    )
    late = _text(now - timedelta(days=33))
    expected = (now - timedelta(days=5)).date().isoformat()
    order(database, LEDGE, [OrderItem(ids["Spring ring"], 20, 0.4)], late, expected, role=role)
    item = OrderItem(ids[TEN_K.name], 5, 6.0, jobs[WAITS])
    order(database, BRACKISH, [item], _text(now - timedelta(minutes=50)), role=role)


def _look_into(database: Database, part_id: int, now: datetime, role: str) -> None:
    """A lot is looked at, and the third of it is a used one of another value."""
    at = _text(now - timedelta(minutes=25))
    begun = begin_inspection(database, part_id, "BC-S10", 9, 2.5, at, role)
    for ohms, marks, note in (
        ((10_120.0, 9_980.0), (), ""),
        ((10_240.0, 10_090.0), (), ""),
        ((2_310.0, 2_290.0), ("lettering", "dust"), "From another bag."),
    ):
        look_at(database, begun.id, ohms, marks, None, note, at, role)


def _text(at: datetime) -> str:
    return at.isoformat(timespec="milliseconds")
