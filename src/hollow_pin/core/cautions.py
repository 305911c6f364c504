"""What can hurt someone, in plain words, by the work it belongs to.

Local rules and licensed people come first; these are the usual cautions of the bench.
"""

from __future__ import annotations

from dataclasses import dataclass

from hollow_pin.core.remedies import BY_CODE


@dataclass(frozen=True)
class Caution:
    code: str
    text: str


CAUTIONS: tuple[Caution, ...] = (
    Caution("warranty", "Opening ends many warranties: the owner agrees first."),
    Caution(
        "lithium",
        "Lithium cells: disconnect if the model note says so; never pierce, bend or heat one. "
        "A swollen cell goes out of the building by local battery rules, not back into the shell.",
    ),
    Caution("static", "Static: strap on, or touch ground first."),
    Caution(
        "solvent",
        "Solvents are flammable and irritant: small amounts, ventilated, no iron until dry. Test on "
        "plastic; follow the label and the safety data sheet.",
    ),
    Caution(
        "heat", "Iron and hot air burn: iron in its stand, bench clear, nothing flammable near."
    ),
    Caution("smoke", "Flux smoke: extraction or an open window, face out of the plume."),
    Caution(
        "lead",
        "Lead solder: wash hands, no food at the bench, keep waste apart. Whether it may be used is "
        "a matter of local rules.",
    ),
    Caution("eyes", "Springs, clips and cut legs fly: eye protection."),
    Caution(
        "mains", "Mains-powered equipment stays closed: that is for people licensed to open it."
    ),
)


def cautions_for(remedy: str) -> tuple[Caution, ...]:
    """The cautions shown before a remedy, in the order they matter."""
    codes = BY_CODE[remedy].all_cautions
    return tuple(c for c in CAUTIONS if c.code in codes)
