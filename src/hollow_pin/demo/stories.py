"""What happened to the controllers of the Gannet Sound Sea Centre, as far as it can be told."""

from __future__ import annotations

from dataclasses import dataclass, field

from hollow_pin.core.intake import Answer, Intake, Waiting
from hollow_pin.core.record import NOTHING_ASKED, Calibration, Shell
from hollow_pin.core.remedies import JobEnding, ModuleKind
from hollow_pin.core.work_fields import Value
from hollow_pin.demo.pictures import Subject
from hollow_pin.simulator.contacts import Contacts
from hollow_pin.store.function_checks import CheckKind


@dataclass(frozen=True)
class Taken:
    """A take of a stick. condition: what is wrong with it, at its first take. lost_after_s: when
    the cable comes out. routine: the one that fits, if not named."""

    stick: str
    condition: str | None = None
    lost_after_s: float | None = None
    routine: str | None = None
    role: str = "morning bench"
    shell: Shell = "closed"
    calibration: Calibration = "factory"


@dataclass(frozen=True)
class Worked:
    """recheck_days: after how many it is to be looked at again."""

    kind: str
    module: ModuleKind | None = None
    lot: str = ""
    note: str = ""
    details: dict[str, Value] = field(default_factory=dict)
    wait_minutes: float | None = None
    recheck_days: int | None = None


@dataclass(frozen=True)
class Opened:
    """The shell, by its model's sheet. photographed: a step of it, by its id, before it came out."""

    photographed: str = ""


@dataclass(frozen=True)
class Shut:
    """because: why, where the open-shell check had not said so."""

    because: str = ""


@dataclass(frozen=True)
class Decided:
    """What was chosen, by its newest take. reason: why, where it is not what is advised."""

    chosen: str
    reason: str = ""


@dataclass(frozen=True)
class Noted:
    text: str


@dataclass(frozen=True)
class Closed:
    outcome: str
    ended: JobEnding = "signed-off"


@dataclass(frozen=True)
class Checked:
    """A function check on the stand-in's buttons, every one of them pressed."""

    kind: CheckKind = "take-in"
    contacts: Contacts | None = None
    faulty: tuple[str, ...] = ()


@dataclass(frozen=True)
class Photographed:
    caption: str
    subject: Subject


@dataclass(frozen=True)
class Waits:
    waiting: Waiting
    text: str = ""


Event = Taken | Decided | Worked | Noted | Closed | Checked | Photographed | Waits | Opened | Shut


@dataclass(frozen=True)
class Story:
    """A controller's visit: hours_ago it came, and what happened since, in order."""

    tag: str
    model: str
    stick: str
    complaint: str
    hours_ago: float
    events: tuple[Event, ...]
    intake: Intake = NOTHING_ASKED
    moves: Answer = "no"


ROLES = ("morning bench", "evening bench")
CHECKED = (("GS-061", "left"), ("GS-061", "right"))
"""The sticks that the bench check is made with."""

STORIES: tuple[Story, ...] = (
    Story(
        "GS-061",
        "plover",
        "left",
        "Kept on the bench to check it by.",
        24 * 10,
        (Taken("left", "sound", routine="quick"), Taken("right", "sound", routine="quick")),
    ),
    Story(
        "GS-064",
        "plover",
        "left",
        "Twitches to the left while the rover stands still.",
        24 * 96,
        (
            Taken("left", "dirty", routine="quick"),
            Decided("cleaned"),
            Worked("cleaned", note="Two swabs."),
            Taken("left", routine="quick"),
            Closed("Cleaned; quiet again."),
        ),
        Intake(hours=(9,), often="sometimes", flick_clears="yes"),
    ),
    Story(
        "GS-064",
        "plover",
        "left",
        "The same again, since the sand came in.",
        24 * 41,
        (
            Taken("left", routine="quick"),
            Decided("cleaned", "Sand got in since: cleaned once more, and no third time."),
            Worked("cleaned", note="Three swabs, grease in the gap."),
            Taken("left", routine="quick"),
            Closed("Cleaned. If it comes a third time: a new module."),
        ),
        Intake(hours=(9, 10), often="sometimes", flick_clears="yes", tried=("sprayed",)),
    ),
    Story(
        "GS-064",
        "plover",
        "left",
        "Third time. Twitches left, now and then.",
        1.2,
        (
            Taken("left", routine="quick"),
            Waits("part", "A left module, Brackish Components."),
        ),
        Intake(
            hours=(9,),
            often="sometimes",
            since="a week after the last cleaning",
            flick_clears="yes",
            tried=("sprayed",),
            liquid="no",
            seal="broken",
            warranty="no",
            consent="yes",
            accessories="cable, 2 m",
        ),
    ),
    Story(
        "GS-090",
        "skua",
        "stick",
        "Runs the basket hoist over the touch pool. Creeps down when let go.",
        2.5,
        (Taken("stick", "offset"),),
        moves="yes",
    ),
    Story(
        "GS-070",
        "turnstone",
        "paddle",
        "Quiz table one: the pointer shivers at one place.",
        26,
        (Taken("paddle", "dirty"),),
    ),
    Story(
        "GS-047",
        "plover",
        "right",
        "Full ahead, and it slows down by itself.",
        6,
        (Taken("right", "failing"), Taken("left", "sound", routine="quick")),
    ),
    Story(
        "GS-035",
        "plover",
        "left",
        "Somebody said it is fixed now. It was worn before.",
        2,
        (Taken("left", "dead-zone"),),
    ),
    Story(
        "GS-023",
        "plover",
        "right",
        "Fine when it was put away. Now the rover turns by itself now and then.",
        76,
        (
            Taken("right", "sound"),
            Taken("left", "sound", routine="quick"),
            Noted("The same on both sticks, and on two cables. Nothing found."),
            Closed("Nothing wrong found; returned to the rover tank.", "as-it-was"),
        ),
    ),
    Story(
        "GS-017",
        "plover",
        "left",
        "Jumps sideways for an instant, worse after the long weekend.",
        52,
        (
            Taken("left", "dirty"),
            Photographed("Dust in the left–right housing.", "dusty track"),
            Taken("right", "sound", routine="quick"),
            Decided("cleaned"),
            Worked("cleaned", note="Three swabs until clean; dried ten minutes."),
            Taken("left"),
            Closed("Cleaned; the spikes are gone. Look again in a month."),
        ),
    ),
    Story(
        "GS-044",
        "plover",
        "right",
        "Runs on after you let go. The left one is fine.",
        30,
        (
            Taken("right", "worn"),
            Taken("left", "sound", routine="quick"),
            Decided("replaced-by-hall", "A Hall module was at hand, and nothing of it wears."),
            Opened(),
            Worked(
                "replaced",
                "hall",
                "LL-H0",
                "Ledge & Lagoon, first of five.",
                {
                    "removal": "cut",
                    "alloy": "Sn60Pb40",
                    "iron_c": 340.0,
                    "flush": True,
                    "battery": "disconnected",
                    "minutes": 38.0,
                },
            ),
            Shut("It was late: measured the next morning."),
            Taken("right"),
        ),
    ),
    Story(
        "GS-031",
        "plover",
        "left",
        "Creeps up on its own when you let go.",
        27,
        (
            Taken("left", "offset"),
            Taken("right", "sound", routine="quick"),
            Decided("recalibrated"),
            Worked("recalibrated"),
            Taken("left", calibration="recalibrated"),
        ),
    ),
    Story(
        "GS-029",
        "dunlin",
        "stick",
        "Always pulls to one side, since somebody calibrated it.",
        25,
        (
            Taken("stick", "offset"),
            Worked("recalibrated", note="Accepted at the second try."),
        ),
    ),
    Story(
        "GS-058",
        "skua",
        "stick",
        "Quiz table three. Points at the same corner since it fell.",
        7,
        (Taken("stick", "offset"),),
    ),
    Story(
        "GS-052",
        "plover",
        "right",
        "The cable works loose.",
        5,
        (Taken("right", "offset", lost_after_s=31.0),),
    ),
    Story(
        "GS-038",
        "plover",
        "left",
        "Drifts left, a flick clears it for a while.",
        4,
        (Taken("left", "worn"), Taken("right", "sound", routine="quick")),
    ),
    Story(
        "GS-008",
        "dunlin",
        "stick",
        "Walks off by itself, somewhere else every time. Was sprayed twice.",
        3,
        (
            Checked(contacts=Contacts(5, (2,), dead=(3,), bouncing=((4, 14.0),))),
            Photographed("Scratched where it fell.", "shell corner"),
            Taken("stick", "worn"),
            Photographed("The track of the left–right housing, worn at the centre.", "worn track"),
            Decided("cleaned", "It was only ever sprayed: clean it properly once."),
            Opened(),
            Worked(
                "cleaned",
                note="Sprayed before it came in; wiped it properly.",
                details={"solvent": "isopropyl", "passes": 3.0, "minutes": 14.0},
            ),
            Shut("No cable was at hand that reaches it open."),
            Taken("stick"),
            Noted("Cleaning did nothing that can be seen. It is wear."),
            Opened(),
            Worked(
                "replaced",
                "hall",
                "LL-H1",
                "Brackish Components had none; Ledge & Lagoon.",
                {"removal": "solder", "alloy": "Sn63Pb37", "iron_c": 330.0, "minutes": 31.0},
            ),
            Shut("No cable was at hand that reaches it open."),
            Taken("stick"),
            Checked("final", Contacts(5, (2,), bouncing=((4, 14.0),))),
            Waits("second-person"),
        ),
        Intake(
            hours=(1, 2, 8),
            often="always",
            since="the school holidays",
            flick_clears="no",
            tried=("sprayed", "opened"),
            tried_note="Twice, through the gap, by the evening shift.",
            liquid="no",
            seal="broken",
            warranty="no",
            consent="yes",
            cosmetic="Scratched at one corner.",
            accessories="wrist strap",
            price="time only",
        ),
    ),
    Story(
        "GS-026",
        "plover",
        "left",
        "Jumps to full and back, when the cable is held.",
        24 * 6,
        (
            Taken("left", "loose"),
            Decided("mended"),
            Opened(),
            Worked(
                "mended",
                note="A dry joint at the third pin.",
                details={"alloy": "Sn63Pb37", "iron_c": 330.0, "minutes": 16.0},
            ),
            Taken("left", routine="quick", shell="open"),
            Shut("It is measured once more right after."),
            Taken("left", routine="quick"),
            Closed("One joint reflowed; no jump since."),
        ),
    ),
    Story(
        "GS-055",
        "dunlin",
        "stick",
        "Slow at full tilt since the module was changed elsewhere.",
        24 * 5,
        (
            Taken("stick", "miscalibrated"),
            Decided("recalibrated"),
            Worked("recalibrated", note="Extents first, then the centre."),
            Taken("stick", calibration="recalibrated"),
            Closed("It still had the old module’s calibration."),
        ),
    ),
    Story(
        "GS-066",
        "plover",
        "left",
        "Both sticks shiver on the charger.",
        24 * 4,
        (
            Taken("left", "humming", routine="quick"),
            Decided("other-cable"),
            Worked("other-cable", note="The charger at tank two; marked."),
            Taken("left", routine="quick"),
            Closed("The charger, not the sticks."),
        ),
    ),
    Story(
        "GS-049",
        "plover",
        "right",
        "Worn and full of sand. Has been here before.",
        24 * 3,
        (
            Taken("right", "worn+dirty"),
            Decided("retired", "Third time this season, and the shell is cracked."),
            Closed("To the donor shelf.", "as-it-was"),
        ),
        Intake(consent="no"),
    ),
    Story(
        "GS-057",
        "plover",
        "right",
        "Creeps to the right once it is warm. The new module takes three weeks.",
        24 * 22,
        (
            Taken("right", "worn"),
            Decided("eased", "No module at hand; it has to hold over the holidays."),
            Opened(),
            Worked(
                "eased",
                note="Refitted with a slight gap.",
                details={"gap_mm": 0.3, "battery": "disconnected", "minutes": 9.0},
                recheck_days=21,
            ),
            Taken("right", routine="quick", shell="open"),
            Shut("It is worn and stays so: a stopgap until the module comes."),
            Taken("right"),
            Closed("A stopgap: eased. To be looked at again in three weeks."),
        ),
        Intake(warranty="no", consent="yes"),
    ),
    Story(
        "GS-033",
        "plover",
        "left",
        "Does not come back from the left.",
        9,
        (Taken("left", "binding"),),
    ),
    Story(
        "GS-041",
        "dunlin",
        "stick",
        "Goes farther to one side, since the module was soldered.",
        8,
        (Taken("stick", "unseated"),),
    ),
    Story(
        "GS-059",
        "skua",
        "stick",
        "Steers up when pushed right.",
        7.5,
        (Taken("stick", "tilted-magnet"),),
    ),
    Story(
        "GS-020",
        "plover",
        "left",
        "Spits sideways for an instant since the sand pit day.",
        0.75,
        (
            Taken("left", "dirty", routine="quick"),
            Opened(photographed="motors"),
            Worked(
                "cleaned",
                details={"solvent": "dry", "passes": 1.0, "battery": "disconnected"},
            ),
            Taken("left", routine="quick", shell="open"),
            Worked(
                "cleaned",
                details={"solvent": "isopropyl", "passes": 2.0, "battery": "disconnected"},
                wait_minutes=15,
            ),
        ),
        Intake(warranty="no", consent="yes"),
    ),
    Story("GS-012", "plover", "left", "Sticks at the top, says the morning shift.", 0.3, ()),
)
