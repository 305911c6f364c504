"""What can be done about a stick: one row a remedy.

Labels, stages, cautions, what the record asks for, what Decide offers and the kinds of work that the
API takes all follow from this table. What a remedy does to a stand-in is a row of
`hollow_pin.simulator.repairs`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from hollow_pin.core.words import listed

ModuleKind = Literal["potentiometer", "hall"]
Asked = Literal["module", "lot", "axis"]
"""What is asked of a remedy besides a note: the kind of module that went in, its lot, the axis."""
JobEnding = Literal["signed-off", "as-it-was", "referred", "withdrawn", "unsaid"]
"""How a job can end."""

OPENING = ("warranty", "lithium", "static", "eyes", "mains")
SOLDERING = ("heat", "smoke", "lead")
"""Cautions, by code, of every remedy that opens the shell, and of every one that solders."""


@dataclass(frozen=True)
class Help:
    """What a remedy does for a cause. chance: that it cures it, 0 to 1, before the shop has a record
    of its own: the usual word of the trade, no measurement. how: in a few words."""

    chance: float
    how: str


WaitKind = Literal["dry", "cool", "cure", "other"]


@dataclass(frozen=True)
class Wait:
    """What has to be waited for. minutes: about, before the shell is closed."""

    kind: WaitKind
    minutes: float


@dataclass(frozen=True)
class Remedy:
    """One thing that can be done.

    label: as it is offered; done: as it stands on record, empty for what is no work; stage: of the
    takes that are made after it. minutes: of work, about. price: of its parts, in the shop's currency,
    about. helps: by cause. cautions: beyond those that opening and soldering bring. asks: what the
    record wants besides a note. module: what goes in, where that is no question. sensors: the kinds it
    makes sense for. calibration: the state that it leaves. stopgap: it is looked at again. mends: it
    cures, and does not only hide or put off. recentres: the stick rests at zero after it. by_hand:
    something is turned while the rest is watched. renews: what other sensors are in it afterwards.
    schools: where technicians differ, and which way this table leans. expect: what is told of it to
    whoever takes the controller away. ends: how a job ends that is ended by it.
    """

    code: str
    label: str
    done: str
    stage: str
    minutes: float
    helps: Mapping[str, Help] = field(default_factory=dict)
    price: float = 0.0
    opens: bool = False
    solders: bool = False
    parts: tuple[str, ...] = ()
    tools: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    asks: tuple[Asked, ...] = ()
    module: ModuleKind | None = None
    sensors: tuple[ModuleKind, ...] = ("potentiometer", "hall")
    calibration: Literal["factory", "recalibrated"] | None = None
    stopgap: bool = False
    mends: bool = True
    recentres: bool = False
    by_hand: bool = False
    renews: Literal["new", "used"] | None = None
    schools: str = ""
    expect: str = ""
    ends: JobEnding | None = None
    wants: tuple[str, ...] = ()
    waits: Wait | None = None

    @property
    def is_work(self) -> bool:
        """Whether it goes on record as work."""
        return bool(self.done)

    @property
    def fields(self) -> tuple[str, ...]:
        """Codes of everything that is put down of it."""
        opening = ("battery", "consumables") if self.opens else ()
        soldering = ("alloy", "iron_c") if self.solders else ()
        again = ("recheck_on",) if self.stopgap else ()
        return (*self.wants, *opening, *soldering, *again, "minutes") if self.is_work else ()

    @property
    def in_passes(self) -> bool:
        """Whether it is done again and again, and is best measured in between."""
        return "passes" in self.wants

    @property
    def calculators(self) -> tuple[str, ...]:
        """The arithmetic that belongs to it, by name."""
        trim = ("trim",) if self.code == "trimmed" else ()
        return (*trim, "iron") if self.solders else trim

    def why_pointless(self, calibration: str) -> str | None:
        """Why it would do nothing, by the calibration that a stick is on; or None."""
        if self.calibration == "factory" == calibration:
            return "It is on the factory calibration already."
        return None

    @property
    def place(self) -> str:
        """The page of the job where it goes on once it is decided on."""
        if self.is_work:
            return "work"
        return "prove" if self.code == "rawer-source" else "hand-over"

    @property
    def needs(self) -> str:
        """Tools and parts, in words."""
        wanted = [*self.tools, *self.parts]
        return listed(wanted) if wanted else "no tools"

    @property
    def all_cautions(self) -> tuple[str, ...]:
        """Codes of every caution to be read before it."""
        opening = OPENING if self.opens else ()
        return (*opening, *(SOLDERING if self.solders else ()), *self.cautions)


WORN_TRACK = Help(0.9, "the worn track goes")
OPEN = ("a driver for the shell",)
IRON = (*OPEN, "iron", "solder, flux, braid")

REMEDIES: tuple[Remedy, ...] = (
    Remedy(
        "left",
        "Leave it",
        "",
        "",
        2,
        {"sound": Help(1.0, "there is nothing to mend")},
        ends="as-it-was",
    ),
    Remedy(
        "rawer-source",
        "Measure by a rawer source",
        "",
        "",
        5,
        {"firmware-dead-zone": Help(0.9, "the rest comes to light; what it is, is then told")},
    ),
    Remedy(
        "other-cable",
        "Another cable, port or battery",
        "Cable, port or battery changed",
        "after another supply",
        4,
        {"supply-noise": Help(0.7, "the noise stays with the old supply")},
        expect="The noise may come back with the old cable, port or battery.",
    ),
    Remedy(
        "factory-calibrated",
        "Restore the factory calibration",
        "Factory calibration restored",
        "after factory calibration",
        3,
        {
            "calibration": Help(0.5, "what an earlier owner left is gone"),
            "offset": Help(0.2, "only where a calibration made it"),
        },
        calibration="factory",
        schools="An earlier calibration hides or fakes a fault: back to the factory's before hardware "
        "is judged.",
        expect="A calibration mends no part: what moves on later shows again.",
    ),
    Remedy(
        "recalibrated",
        "Recalibrate",
        "Recalibrated",
        "after recalibration",
        4,
        {
            "offset": Help(0.9, "takes away offset and scale"),
            "calibration": Help(0.9, "learns centre and ends of the part that is in it"),
            "unseated": Help(0.3, "hides lopsided ends; the seat stays as it is"),
        },
        calibration="recalibrated",
        recentres=True,
        schools="It is free, and opens nothing: tried before any hardware. It takes away offset and "
        "scale, never spread, spikes or drops.",
        expect="A calibration mends no part: what moves on later shows again.",
    ),
    Remedy(
        "software-dead-zone",
        "Set a dead zone in the program",
        "Dead zone set in the program",
        "after a dead zone in the program",
        3,
        {
            "offset": Help(0.6, "hides what lies inside it, and costs travel"),
            "worn": Help(0.4, "hides the spread for a while, and costs travel"),
        },
        stopgap=True,
        mends=False,
        schools="It hides and mends nothing: measure without it, and say so to the owner.",
        expect="It hides what moves and mends nothing; the stick has as much less of its travel.",
    ),
    Remedy(
        "reseated",
        "Reseat the module, ribbon or plug",
        "Module, ribbon or plug reseated",
        "after reseating",
        15,
        {
            "loose": Help(0.5, "a ribbon or plug that had worked loose"),
            "unseated": Help(0.8, "two anchor pins reflowed, seated, checked, then the rest"),
            "cross-talk": Help(0.6, "a module that sits askew"),
            "binding": Help(0.2, "a shaft that sat out of its seat"),
        },
        opens=True,
        tools=OPEN,
        cautions=("heat", "smoke", "lead"),
        wants=("flush",),
        expect="If it jumps or goes askew again, the seat, the ribbon or a joint is not firm yet.",
    ),
    Remedy(
        "cleaned",
        "Clean the sensor housing",
        "Sensor housing cleaned",
        "after cleaning",
        15,
        {"dirty": Help(0.75, "wipes the debris off disc and track")},
        opens=True,
        tools=(*OPEN, "swabs, high-purity isopropyl"),
        cautions=("solvent",),
        asks=("axis",),
        sensors=("potentiometer",),
        schools="One school cleans first: it is free and often enough. The other says that it does "
        "not last and replaces at once. Offered first here where the readings show dirt, and not "
        "where they show wear.",
        wants=("solvent", "passes", "swab_clean"),
        waits=Wait("dry", 10),
        expect="A cleaning may not last: a track that shed debris goes on shedding it.",
    ),
    Remedy(
        "eased",
        "Ease the sensor housing",
        "Sensor housing eased",
        "after easing the housing",
        10,
        {"worn": Help(0.3, "another pressure of the wiper on the worn place")},
        opens=True,
        tools=OPEN,
        asks=("axis",),
        sensors=("potentiometer",),
        by_hand=True,
        stopgap=True,
        mends=False,
        wants=("gap_mm",),
        expect="It is a stopgap: the worn place is still there.",
    ),
    Remedy(
        "lubricated",
        "Free the bearing, a trace of lubricant",
        "Bearing freed and lubricated",
        "after lubricating",
        12,
        {"binding": Help(0.5, "the smallest trace at the bearing, never on a track")},
        opens=True,
        tools=(*OPEN, "lubricant, a fine point"),
        stopgap=True,
        wants=("lubricant", "place"),
        expect="It is a stopgap: what was dry runs dry again.",
    ),
    Remedy(
        "cap-changed",
        "Replace cap, ring or spring",
        "Cap, ring or spring replaced",
        "after a new cap, ring or spring",
        12,
        {"binding": Help(0.4, "what rubbed or had gone weak")},
        price=1.5,
        opens=True,
        tools=OPEN,
        parts=("cap, ring or spring",),
    ),
    Remedy(
        "mended",
        "Reflow the joint, mend the trace",
        "Joint or trace mended",
        "after mending the joint",
        18,
        {
            "loose": Help(0.8, "the contact is whole again"),
            "supply-noise": Help(0.3, "a ground that was not one"),
        },
        opens=True,
        solders=True,
        tools=IRON,
        wants=("place",),
        waits=Wait("cool", 2),
        expect="If it jumps again when it is pressed or bent, a joint is open still.",
    ),
    Remedy(
        "trimmed",
        "Fit trims",
        "Trims fitted and set",
        "after trimming",
        30,
        {"offset": Help(0.8, "pulls the centre back, adjustable for life; costs reach")},
        price=3.0,
        opens=True,
        solders=True,
        tools=IRON,
        parts=("two trims a stick",),
        asks=("axis",),
        sensors=("potentiometer",),
        recentres=True,
        by_hand=True,
        schools="For: repeatable, adjustable for life. Against: needs soldering, costs reach, and "
        "does nothing for spread.",
        wants=("trim_ohms", "series_ohms", "setting_x", "setting_y"),
        waits=Wait("cool", 2),
        expect="It can be set anew for life; it holds no centre that has begun to spread.",
    ),
    Remedy(
        "sensor-parts",
        "Replace the sensor parts only",
        "Sensor parts replaced",
        "after new sensor parts",
        18,
        {
            "worn": Help(0.75, "a new track and wiper, the frame stays soldered"),
            "failing-track": Help(0.75, "a new track and wiper, the frame stays soldered"),
            "dirty": Help(0.8, "a clean track"),
        },
        price=2.5,
        renews="new",
        opens=True,
        tools=OPEN,
        parts=("disc, wiper and housing of the same ohms",),
        asks=("axis", "lot"),
        sensors=("potentiometer",),
        expect="New parts drift too, and nobody knows how long one lasts.",
    ),
    Remedy(
        "replaced",
        "Replace the module",
        "Module replaced",
        "after replacement",
        35,
        {
            "worn": WORN_TRACK,
            "failing-track": Help(0.9, "the broken track goes"),
            "binding": Help(0.7, "its bearings are new with it"),
            "dirty": Help(0.85, "a clean track"),
            "cross-talk": Help(0.7, "a straight one, fitted flush"),
            "unseated": Help(0.6, "a new one, fitted flush"),
        },
        price=6.0,
        renews="new",
        opens=True,
        solders=True,
        tools=IRON,
        parts=("a module of the same footprint and ohms",),
        asks=("module", "lot"),
        schools="Like for like, genuine, keeps the original feel; always Hall when open leaves "
        "nothing to wear. Settled by the shop's own readings, not by belief.",
        wants=("removal", "flush"),
        waits=Wait("cool", 3),
        expect="New parts drift too, and nobody knows how long one lasts.",
    ),
    Remedy(
        "replaced-by-hall",
        "Replace the module by a Hall one",
        "Module replaced by a Hall one",
        "after replacement",
        35,
        {
            "worn": WORN_TRACK,
            "failing-track": Help(0.9, "nothing is left to break"),
            "dirty": Help(0.9, "nothing is left to soil"),
            "binding": Help(0.7, "its bearings are new with it"),
        },
        price=9.0,
        renews="new",
        opens=True,
        solders=True,
        tools=IRON,
        parts=("a Hall module that fits",),
        asks=("lot",),
        module="hall",
        sensors=("potentiometer",),
        schools="No contact, no wear; it still arrives off-centre or badly scaled, and wants "
        "calibrating.",
        wants=("removal", "flush"),
        waits=Wait("cool", 3),
        expect="Nothing rubs in it; nobody knows how long it keeps its centre.",
    ),
    Remedy(
        "donor",
        "Fit a donor's module",
        "Donor's module fitted",
        "after a donor's module",
        45,
        {
            "worn": Help(0.6, "another track, with wear of its own"),
            "failing-track": Help(0.6, "another track, with wear of its own"),
            "binding": Help(0.5, "other bearings, with wear of their own"),
        },
        renews="used",
        opens=True,
        solders=True,
        tools=IRON,
        parts=("a donor of the same model",),
        asks=("module", "lot"),
        wants=("removal", "flush"),
        waits=Wait("cool", 3),
        expect="It has wear of its own, and nobody knows how much it has left.",
    ),
    Remedy(
        "passed-on",
        "Pass it on under warranty",
        "",
        "",
        6,
        {
            cause: Help(0.8, "the dealer or the maker may repair it free, only slower")
            for cause in ("worn", "dirty", "binding", "unseated", "loose", "failing-track")
        },
        ends="as-it-was",
    ),
    Remedy("retired", "Retire it to the donor shelf", "", "", 5, ends="as-it-was"),
    Remedy("refer", "Refer it", "", "", 5, ends="referred"),
)

BY_CODE = {r.code: r for r in REMEDIES}
WORK = tuple(r for r in REMEDIES if r.is_work)
"""What goes on record as work."""


def done_words(code: str, module: ModuleKind | None) -> str:
    """Work as it stands on record: “Module replaced: Hall”."""
    remedy = BY_CODE[code]
    kind = {"hall": "Hall", "potentiometer": "potentiometer"}
    named = module is not None and remedy.module is None
    return f"{remedy.done}: {kind[module]}" if named and module else remedy.done
