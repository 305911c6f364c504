"""The clock of the machine is moved: what happened is told in its own order all the same."""

from __future__ import annotations

import random
from datetime import datetime, timedelta
from pathlib import Path

from benches import AT, new_bench
from hollow_pin.bench.imports import import_take
from hollow_pin.bench.jobs import log_work, view_job
from hollow_pin.bench.ledger import undo
from hollow_pin.core.cautions import cautions_for
from hollow_pin.core.record import WorkPlan
from sticks import performed


def move_the_clock(folder: Path, times: int, seed: int) -> list[str]:
    """Do the same on a bench whose clock runs and on one whose clock is set at random between."""
    draw, faults = random.Random(seed), []
    quick = performed("sound").recording
    for i in range(times):
        acts = [draw.choice(("take", "clean", "recalibrate", "undo")) for _ in range(6)]
        told = []
        for moved in (False, True):
            database, job = new_bench(folder / f"{i}-{moved}")
            at = datetime.fromisoformat(AT)
            for act in acts:
                shift = draw.uniform(-72, 72) if moved else 0.1
                at += timedelta(hours=shift)
                text = at.isoformat(timespec="milliseconds")
                if act == "take":
                    import_take(database, job.id, "left", "t.csv", quick, text)
                elif act == "undo":
                    with database.reading() as db:
                        entries = view_job(db, job.id).ledger
                    last = next((e for e in entries if e.kind == "take" and not e.undone_at), None)
                    if last:
                        undo(database, last.id, last.revision, text)
                else:
                    kind = "cleaned" if act == "clean" else "recalibrated"
                    codes = tuple(c.code for c in cautions_for(kind))
                    log_work(database, job.id, WorkPlan("left", kind, cautions=codes), text)
            with database.reading() as db:
                view = view_job(db, job.id)
            stages = [(t.id, t.stage) for t in view.takes]
            told.append((view.job.station, stages, view.next_stage, [p.state for p in view.pins]))
            database.close()
        if told[0] != told[1]:
            faults.append(f"{acts}: {told[0]} and {told[1]}")
    return faults
