"""Which module of which donor is the best for a job, by what it read last."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from hollow_pin.core.diagnosis import diagnose
from hollow_pin.core.job import stick_name
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.limits import Limits
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.words import percent

DonorStanding = Literal["within", "over", "unmeasured", "taken"]
ORDER: tuple[DonorStanding, ...] = ("within", "over", "unmeasured", "taken")
"""The best first."""


@dataclass(frozen=True)
class DonorStick:
    """A stick of a donor. take_id: by which it was last read; standing: whether it asked for nothing
    then, or for something to be done, or that cannot be told, or is gone already. dead_zone: that it
    needed, %; None where that was not measured."""

    controller_id: int
    tag: str
    stick: str
    take_id: int | None
    standing: DonorStanding
    dead_zone: float | None
    says: str

    @property
    def lot(self) -> str:
        """How its module is named where it goes in."""
        return lot_of(self.tag, self.stick)


def lot_of(tag: str, stick: str) -> str:
    """Where a donor's module is from, as it stands on record."""
    return f"{tag} {stick}"


def donor_stick(
    controller_id: int,
    tag: str,
    stick: str,
    take_id: int | None,
    readings: TakeReadings | None,
    limits: Limits,
    is_taken: bool,
) -> DonorStick:
    """What is to be said of one."""
    if is_taken:
        says = f"The module of the {stick_name(stick)} was taken out already."
        return DonorStick(controller_id, tag, stick, take_id, "taken", None, says)
    if readings is None:
        says = f"The {stick_name(stick)} was never measured: look before it is soldered."
        return DonorStick(controller_id, tag, stick, take_id, "unmeasured", None, says)
    needed = readings.value("composite.dead_zone_needed")
    hidden = readings.hidden_at("composite.dead_zone_needed")
    needed = None if hidden else needed
    advice = diagnose(JudgedTake(readings, "everyday", limits))
    name = stick_name(stick)
    says = f"{name.capitalize()}: {advice.words}"
    if needed is not None:
        says = f"{name.capitalize()}, needing a dead zone of {percent(needed)}: {advice.words}"
    standing: DonorStanding = "unmeasured"
    if advice.asks == "something":
        standing = "over"
    elif advice.asks == "nothing" and needed is not None:
        standing = "within"
    return DonorStick(controller_id, tag, stick, take_id, standing, needed, says)


def best_first(sticks: list[DonorStick]) -> list[DonorStick]:
    """Those within their limits first, by the dead zone they need; what is gone last."""
    return sorted(
        sticks,
        key=lambda s: (
            ORDER.index(s.standing),
            s.dead_zone if s.dead_zone is not None else 1e9,
            s.tag,
            s.stick,
        ),
    )
