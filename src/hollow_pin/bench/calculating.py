"""What the arithmetic of the bench takes from a job: its stick's newest take, and its model."""

from __future__ import annotations

from sqlite3 import Connection

from hollow_pin.bench.readings import readings_of, usable_takes
from hollow_pin.bench.takes import get_job, require_stick
from hollow_pin.core.calculators.calculator import Own
from hollow_pin.core.gate import points_of
from hollow_pin.core.let_go import finals_of
from hollow_pin.core.readings import TakeReadings

MOST_REACH = 150.0


def newest_readings(db: Connection, job_id: int) -> TakeReadings | None:
    """What the newest usable take of a job's stick reads."""
    take = next(reversed(usable_takes(db, job_id, get_job(db, job_id).stick)), None)
    return readings_of(db, take) if take is not None else None


def own_shape(db: Connection, job_id: int) -> Own | None:
    """The rim and the returns of a job's stick; None where its rim was not measured."""
    readings = newest_readings(db, job_id)
    if readings is None or readings.rim is None:
        return None
    back = readings.let_go.release if readings.let_go else ()
    return Own(points_of(readings.rim.radius), finals_of(back))


def inputs_from(db: Connection, job_id: int, axis: str) -> dict[str, str]:
    """What a job's newest take and its model say, by the keys of inputs; of an axis, x or y, where it
    matters. What is hidden is left out."""
    job = get_job(db, job_id)
    own = require_stick(job.controller, job.stick)
    inputs = {"bits": str(job.controller.model.bits), "sensor": own.kind}
    sensor = next((s for s in own.sensors if s.axis == axis), None)
    if sensor is not None and sensor.ohms:
        inputs["track_ohms"] = inputs["ordered_ohms"] = str(sensor.ohms)
    readings = newest_readings(db, job_id)
    if readings is None:
        return inputs
    rest = readings.value(f"still.rest_{axis}")
    if rest is not None and not readings.hidden_at("still.rest_offset"):
        inputs["rest_percent"] = f"{rest:.2f}"
        inputs["position"] = f"{min(max(0.5 + rest / 200, 0.0), 1.0):.4f}"
        for key in ("x", "y"):
            inputs[f"rest_{key}_percent"] = f"{readings.value(f'still.rest_{key}') or 0.0:.2f}"
    needed = readings.value("composite.dead_zone_needed")
    if needed is not None and not readings.hidden_at("composite.dead_zone_needed"):
        inputs["needed_percent"] = f"{min(needed, 100.0):.1f}"
    if readings.rim is not None:
        inputs["reach_percent"] = f"{min(*readings.rim.radius, MOST_REACH):.1f}"
    return inputs
