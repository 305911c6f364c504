"""Where to begin with an iron: from where the alloy is liquid, by tip, pin and method. A caution,
not a licence: the sheets of the alloy and of the iron come first."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Mass = Literal["signal", "ground", "frame"]
Method = Literal["iron", "braid", "pump", "hot-air"]

LIQUIDUS_C: dict[str, float] = {
    "Sn63Pb37": 183.0,
    "Sn60Pb40": 190.0,
    "Sn62Pb36Ag2": 179.0,
    "Sn50Pb50": 212.0,
    "SAC305": 220.0,
    "SAC387": 219.0,
    "Sn99.3Cu0.7": 227.0,
    "Sn96.5Ag3.5": 221.0,
    "Sn95Sb5": 240.0,
    "Sn42Bi58": 138.0,
    "Sn42Bi57Ag1": 140.0,
    "In52Sn48": 118.0,
}
"""Where each alloy is liquid, °C, as J-STD-006 and the alloys' phase diagrams give it, whole
degrees."""

OVER_LIQUIDUS = 110.0
MASS_C: dict[Mass, float] = {"signal": 0.0, "ground": 35.0, "frame": 50.0}
MASS_S: dict[Mass, float] = {"signal": 2.0, "ground": 4.0, "frame": 5.0}
METHOD_C: dict[Method, float] = {"iron": 0.0, "braid": 20.0, "pump": 10.0, "hot-air": 30.0}
THIN_MM, THICK_MM, THIN_C, THICK_C = 1.0, 2.4, 20.0, -10.0
LEAST_OVER, MOST_C = 50.0, 420.0


@dataclass(frozen=True)
class Start:
    """Temperatures, °C but for start_f; dwell_s: as long as the tip stays on at the most. reasons: for
    every term."""

    liquidus_c: float
    start_c: float
    start_f: float
    least_c: float
    most_c: float
    dwell_s: float
    reasons: tuple[str, ...]


def fahrenheit(celsius: float) -> float:
    """Exact."""
    return celsius * 9.0 / 5.0 + 32.0


def celsius(fahrenheit_: float) -> float:
    """Exact."""
    return (fahrenheit_ - 32.0) * 5.0 / 9.0


def start(alloy: str, tip_mm: float, mass: Mass, method: Method = "iron") -> Start:
    """Where to begin. alloy: a name of LIQUIDUS_C."""
    liquid = LIQUIDUS_C[alloy]
    reasons = [
        f"{alloy} is liquid from {liquid:.0f} °C; a tip stands some {OVER_LIQUIDUS:.0f} above, since "
        "the joint takes heat from it."
    ]
    at = liquid + OVER_LIQUIDUS
    if MASS_C[mass]:
        what = "a ground plane" if mass == "ground" else "a frame leg in the plane"
        reasons.append(f"{what} draws heat off: {MASS_C[mass]:.0f} more, and longer, not harder.")
        at += MASS_C[mass]
    if tip_mm < THIN_MM:
        reasons.append(f"a tip of {tip_mm:g} mm carries little heat: {THIN_C:.0f} more.")
        at += THIN_C
    elif tip_mm >= THICK_MM:
        reasons.append(f"a tip of {tip_mm:g} mm carries much heat: {-THICK_C:.0f} less.")
        at += THICK_C
    if METHOD_C[method]:
        named = {"braid": "braid", "pump": "a pump", "hot-air": "hot air"}[method]
        reasons.append(f"{named} takes heat away from the joint: {METHOD_C[method]:.0f} more.")
        at += METHOD_C[method]
    if at > MOST_C:
        reasons.append(f"no higher than {MOST_C:.0f} °C: preheat the board, or take a larger tip.")
        at = MOST_C
    reasons.append(
        "Up by 10 where the solder will not flow in that time, down where flux burns off at once. "
        "Follow the sheets of the alloy and of the iron."
    )
    return Start(
        liquid,
        at,
        fahrenheit(at),
        liquid + LEAST_OVER,
        MOST_C,
        MASS_S[mass],
        tuple(f"{r[0].upper()}{r[1:]}" for r in reasons),
    )
