"""Decide: what is wrong with a job's stick, what would help, what is worth it; and the decision."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from sqlite3 import Connection
from typing import Any

from hollow_pin.bench.already import in_vain
from hollow_pin.bench.parts import on_the_shelf
from hollow_pin.bench.pins import DEAD_ZONE, TURN_JITTER, Pin, pin_of, pins_of
from hollow_pin.bench.readings import BenchCheckLookup, readings_of, usable_takes
from hollow_pin.bench.refusal import Refused
from hollow_pin.bench.takes import (
    get_job,
    get_take,
    may_resume,
    open_job,
    require_stick,
)
from hollow_pin.bench.track_record import REMEMBERED, Outcome, fitted_to, outcome_of, records_of
from hollow_pin.core.advice import RAWER, advised
from hollow_pin.core.already import DoneInVain
from hollow_pin.core.causes import CAUSE, SOUND, name_of
from hollow_pin.core.cautions import Caution, cautions_for
from hollow_pin.core.complaint import ComplaintCheck, held_against
from hollow_pin.core.controller import ModelSensor, ModelStick
from hollow_pin.core.diagnosis import FindingCode, diagnose, first_finding_code
from hollow_pin.core.intake import in_words, why_not_worked_on
from hollow_pin.core.job import AS_RECEIVED, stick_name
from hollow_pin.core.judged import JudgedTake
from hollow_pin.core.limits import Grade, limits_with
from hollow_pin.core.next_look import (
    HELD_AGAIN,
    SCALE_OR_SEAT,
    SCALE_OR_STOP,
    STILL_AGAIN,
    Look,
    looks,
    seen_first,
    settled,
)
from hollow_pin.core.prospect import BECAUSE, FittedParts, Prospect, Records, cures_of, prospects
from hollow_pin.core.ranking import Ranked, rank, worth_showing
from hollow_pin.core.readings import TakeReadings, nothing_moved
from hollow_pin.core.record import Job, Take
from hollow_pin.core.remedies import BY_CODE, REMEDIES, Remedy, done_words
from hollow_pin.core.routine import usual_routine
from hollow_pin.core.summary import explain
from hollow_pin.core.words import WAY, lower_first, percent
from hollow_pin.core.worth import Money, Worth, worth
from hollow_pin.store.database import Database
from hollow_pin.store.decisions import (
    Decision,
    add_decision,
    decisions_of,
    keep_setting,
    latest_decisions,
    setting,
)
from hollow_pin.store.jobs import visits_of, work_of
from hollow_pin.store.ledger import add_entry

MONEY = "money"


@dataclass(frozen=True)
class CauseShown:
    """A cause with what it does to the readings, and where the part sits that it is in."""

    ranked: Ranked
    name: str
    shows: str
    where: str | None


@dataclass(frozen=True)
class Option:
    """A remedy as it is offered for this stick. refused: why it may not be done, None where it may.
    because: where the chance is from, in words. place: the page where it goes on. shelf: what lies
    ready for it, in a sentence."""

    remedy: Remedy
    prospect: Prospect
    price: float
    needs: str
    place: str
    calculators: tuple[str, ...]
    cautions: tuple[Caution, ...]
    refused: str | None
    because: str
    shelf: str


@dataclass(frozen=True)
class DecideView:
    """Everything that a decision is made on. sensors: of the stick, for a drawing of where the part
    sits. context: the other stick, the last visit, the model in this shop, in sentences. take: None
    where there is no usable one. causes, options: empty where nothing moved in it. advised: the remedy
    to begin with, by its code. may_resume: whether a step of the take can be done again. limit: of the
    dead zone needed, %; now: what is needed of it, None where that is hidden or was not measured.
    worth: None where there is nothing to mend, or to see first."""

    money: Money
    limit: float
    now: float | None
    decisions: tuple[Outcome, ...]
    take: Take | None
    may_resume: bool
    headline: str
    sentence: str
    pin: Pin | None
    causes: tuple[CauseShown, ...]
    sensors: tuple[ModelSensor, ...]
    context: tuple[str, ...]
    complaint: ComplaintCheck | None
    looks: tuple[Look, ...]
    options: tuple[Option, ...]
    out: tuple[Option, ...]
    worth: Worth | None
    advised: str | None


def money_of(db: Connection) -> Money:
    """What the shop counts with."""
    saved = setting(db, MONEY)
    return Money(**saved) if saved else Money()


def keep_money(database: Database, money: Money) -> Money:
    unknown = [code for code in money.parts or {} if code not in BY_CODE]
    if unknown:
        raise Refused(f"There is no remedy {unknown[0]}.", "parts")
    with database.writing() as db:
        keep_setting(db, MONEY, asdict(money))
        return money_of(db)


def view_decide(
    db: Connection, job_id: int, grade: Grade = "everyday", take_id: int | None = None
) -> DecideView:
    """What there is to decide on for a job's stick: by its newest usable take, or by one of its
    own."""
    job = get_job(db, job_id)
    take = _take_of(db, job, take_id)
    money = money_of(db)
    limits = limits_with(job.controller.model.limits)
    decided = tuple(outcome_of(db, d, limits) for d in decisions_of(db, job_id))
    readings = readings_of(db, take) if take is not None else None
    limit = limits[DEAD_ZONE].at(grade)
    if take is None or readings is None:
        return _nothing_measured(money, limit, decided)
    readings = BenchCheckLookup(db).trusted(readings, take, job.controller.model.id)
    own = require_stick(job.controller, take.stick)
    ranked = rank(readings, grade, limits)
    records = records_of(db, job.controller.model)
    fitted = fitted_to(db, job.controller.model.id)
    vain = in_vain(db, job, take, readings, ranked)
    offered, out = _options(db, job, take, readings, ranked, grade, money, records, fitted, vain)
    allowed = [o.remedy.code for o in offered if o.remedy.is_work]
    likely = {c.cause: c.probability for c in ranked}
    cures = {
        code: {
            cause: cure[0]
            for cause, cure in cures_of(
                BY_CODE[code], readings, likely, grade, limits, records, vain
            ).items()
        }
        for code in allowed
    }
    what = worth(allowed, cures, likely, money)
    case = JudgedTake(readings, grade, limits)
    nothing_asked = diagnose(case).asks == "nothing"
    sound = ranked[0].cause == SOUND and ranked[0].likely
    sentence = explain(readings, grade, limits).sentence
    causes = tuple(_cause_shown(c, own) for c in worth_showing(ranked))
    complaint_check = (
        held_against(job.intake, job.complaint, readings, ranked, nothing_asked)
        if take.stage == AS_RECEIVED
        else None
    )
    open_to = looks(readings, ranked, usual_routine(own.axes, own.sprung).steps, grade, limits)
    likeliest = settled(readings, ranked, open_to)
    look_first = seen_first(open_to, likeliest)
    first = advised(
        ranked,
        [o.remedy.code for o in offered],
        what.chains,
        job.intake,
        job.controller.refer,
        look_first,
        nothing_asked,
    )
    hidden = readings.hidden_at(DEAD_ZONE) is not None
    # What is hidden is seen first, by another source.
    nothing_to_mend = sound or nothing_asked or job.controller.refer or look_first or first == RAWER
    headline = _headline(causes, likeliest, open_to, first_finding_code(case), nothing_asked)
    if nothing_moved(readings):
        # Nothing is known of it: what is usual of sticks is nothing to go by.
        headline = "Another stick was moved, or no signal comes from this one."
        causes, offered, out = (), [], []
    return DecideView(
        take=take,
        may_resume=may_resume(db, take),
        sentence=sentence,
        pin=pin_of(readings, take.stick, limits, grade),
        headline=headline,
        causes=causes,
        sensors=own.sensors,
        context=_context(db, job, take, vain),
        complaint=complaint_check,
        looks=open_to,
        options=_in_order(offered, first),
        out=tuple(out),
        worth=None if nothing_to_mend else what,
        advised=first,
        money=money,
        limit=limit,
        now=None if hidden else readings.value(DEAD_ZONE),
        decisions=decided,
    )


def _nothing_measured(money: Money, limit: float, decided: tuple[Outcome, ...]) -> DecideView:
    """Where there is no usable take: what was decided before, and nothing to decide on."""
    return DecideView(
        money=money,
        limit=limit,
        now=None,
        decisions=decided,
        take=None,
        may_resume=False,
        headline="",
        sentence="",
        pin=None,
        causes=(),
        sensors=(),
        context=(),
        complaint=None,
        looks=(),
        options=(),
        out=(),
        worth=None,
        advised=None,
    )


def _take_of(db: Connection, job: Job, take_id: int | None) -> Take | None:
    if take_id is not None:
        take = get_take(db, take_id)
        if take.job_id != job.id:
            raise Refused(f"Take {take_id} is of another job.", "take_id")
        return take
    return next(reversed(usable_takes(db, job.id, job.stick)), None)


def _headline(
    causes: Sequence[CauseShown],
    likeliest: Sequence[Ranked],
    open_to: Sequence[Look],
    first: FindingCode | None,
    nothing_asked: bool,
) -> str:
    """The likely causes in a sentence, or what stands against there being one."""
    likely = [c for c in causes if c.ranked in likeliest]
    if not likely and HELD_AGAIN in open_to:
        return "It fell back once while it was held: the track fails there, or the hand gave way."
    if not likely and STILL_AGAIN in open_to:
        return "It moved once in Still: it was touched, or a contact comes and goes."
    if not likely and first == "falls":
        return "It fell back while it was pushed: the track fails there, or the hand gave way."
    if not likely and SCALE_OR_STOP in open_to:
        return "It stops short of an end: a calibration, or what is in its way."
    if not likely and SCALE_OR_SEAT in open_to:
        return "Off in scale or centre: a calibration, or how the module sits."
    if causes[0].ranked.cause == SOUND and (not likely or open_to):
        return "It looks sound, as far as this take goes."
    if not likely:
        return f"It cannot be told from this take: {name_of(causes[0].ranked.cause)} at most."
    reasons = "; and ".join(c.ranked.name for c in likely)
    if nothing_asked and likely[0].ranked.cause != SOUND:
        return f"Nothing is over its limit. What shows below it: {reasons}."
    return f"{reasons[0].upper()}{reasons[1:]}."


def _context(db: Connection, job: Job, take: Take, vain: DoneInVain) -> tuple[str, ...]:
    """What was tried before it came, and what was done here in vain; how the other stick reads, how it
    left last time, and what this model came to the shop with."""
    sentences = []
    if job.intake.tried:
        tried = lower_first(in_words("tried", job.intake.tried, job.axes))
        sentences.append(f"Tried before it came: {tried}.")
    for code in dict.fromkeys(remedy for remedy, _ in vain):
        most_often = max(v for (remedy, _), v in vain.items() if remedy == code)
        sentences.append(f"{BY_CODE[code].done} {most_often.when}.")
    for pin in pins_of(db, job.controller):
        if pin.stick != take.stick and pin.state == "measured" and pin.dead_zone is not None:
            name = stick_name(pin.stick)
            what = "trembles by" if pin.tells == TURN_JITTER else "needs a dead zone of"
            sentences.append(f"The {name} {what} {percent(pin.dead_zone)}.")
    before = [j for j in visits_of(db, job.controller.id) if j.id < job.id and j.closed_at]
    if before:
        last = before[0]
        works = [w for w in work_of(db, last.id) if w.undone_at is None and w.stick == take.stick]
        was = done_words(works[-1].kind, works[-1].module) if works else "nothing was done"
        sentences.append(f"Visit {len(before) + 1}; at the last one: {lower_first(was)}.")
    same = [
        d.stood["causes"][0]["cause"]
        for d in latest_decisions(db, REMEMBERED)
        if d.job_id != job.id
        and d.stood["causes"]
        and get_job(db, d.job_id).controller.model.id == job.controller.model.id
    ]
    if same:
        most, times = Counter(same).most_common(1)[0]
        sentences.append(
            f"Of {len(same)} other {job.controller.model.name}s decided on here, {times} "
            f"{'was' if times == 1 else 'were'} {name_of(most)}."
        )
    return tuple(sentences)


def _cause_shown(ranked: Ranked, own: ModelStick) -> CauseShown:
    cause = CAUSE[ranked.cause]
    where = None
    if ranked.axis is not None:
        sensor = next((s for s in own.sensors if s.axis == ranked.axis), None)
        where = f"the {WAY[ranked.axis]} sensor" if own.axes == 2 else "its sensor"
        if sensor is not None and sensor.side:
            where += f", at the {sensor.side} of the module seen from above"
    return CauseShown(ranked, cause.name, cause.shows, where)


def _options(
    db: Connection,
    job: Job,
    take: Take,
    readings: TakeReadings,
    ranked: Sequence[Ranked],
    grade: Grade,
    money: Money,
    records: Records,
    fitted: FittedParts,
    vain: DoneInVain,
) -> tuple[list[Option], list[Option]]:
    """What is offered, and what is out of the question, and why."""
    limits = limits_with(job.controller.model.limits)
    own = require_stick(job.controller, take.stick)
    hall = own.kind == "hall"
    forecasts = prospects(readings, ranked, grade, limits, records, hall, fitted, vain)
    prospect_of = {p.remedy: p for p in forecasts}
    offered: list[Option] = []
    out: list[Option] = []
    for remedy in REMEDIES:
        prospect = prospect_of.get(remedy.code)
        if prospect is None and not remedy.helps:
            prospect = Prospect(remedy.code, 0.0, 0.0, 0.0, "none", {}, (), "")
        if prospect is None:
            continue
        refused = why_not_worked_on(remedy.code, job.intake, job.controller.refer)
        refused = refused or remedy.why_pointless(take.conditions.calibration)
        option = Option(
            remedy,
            prospect,
            money.part(remedy.code),
            remedy.needs,
            remedy.place,
            remedy.calculators,
            cautions_for(remedy.code),
            refused,
            BECAUSE[prospect.basis],
            "" if refused else on_the_shelf(db, job.id, remedy, own),
        )
        (out if refused else offered).append(option)
    for remedy in REMEDIES:
        if hall and "hall" not in remedy.sensors and remedy.helps:
            refused = "There is no track in a Hall sensor."
            nothing = Prospect(remedy.code, 0.0, 0.0, 0.0, "none", {}, (), "")
            out.append(
                Option(remedy, nothing, 0.0, remedy.needs, remedy.place, (), (), refused, "", "")
            )
    return offered, out


def _in_order(offered: Sequence[Option], first: str | None) -> tuple[Option, ...]:
    """What is advised first, then the likeliest to mend it, then the quickest."""

    def key(option: Option) -> tuple[bool, float, float]:
        chance = round(option.prospect.chance, 2)
        return option.remedy.code != first, -chance, option.remedy.minutes

    return tuple(sorted(offered, key=key))


def decide(
    database: Database, job_id: int, take_id: int, chosen: str, reason: str, at: str, role: str = ""
) -> Decision:
    """Put a decision on record, with causes and options as they stand now."""
    if chosen not in BY_CODE:
        raise Refused(f"There is no remedy {chosen}.", "chosen")
    with database.reading() as db:
        open_job(db, job_id)
        view = view_decide(db, job_id, take_id=take_id)
    if view.take is None:
        raise Refused("The take has no readings to decide on.", "take_id")
    refused = next((o.refused for o in view.out if o.remedy.code == chosen), None)
    if refused:
        raise Refused(refused, "chosen")
    advice = view.advised or ""
    against = advice not in ("", chosen)
    if against and not reason.strip():
        raise Refused(f"“{BY_CODE[advice].label}” is advised. Say why not.", "reason")
    stood = _as_stood(view)
    with database.writing() as db:
        job = open_job(db, job_id)
        decision = add_decision(db, job_id, view.take.id, chosen, advice, reason.strip(), stood, at)
        text = f"Decided: {lower_first(BY_CODE[chosen].label)}, {stick_name(job.stick)}."
        if against:
            text += f" Against the advice. {reason.strip()}"
        elif reason.strip():
            text += f" {reason.strip()}"
        add_entry(db, job_id, at, "decision", text, role, decision_id=decision.id)
        return decision


def _as_stood(view: DecideView) -> dict[str, Any]:
    return {
        "causes": [
            {"cause": c.ranked.cause, "axis": c.ranked.axis, "probability": c.ranked.probability}
            for c in view.causes
        ],
        "options": [
            {"remedy": o.remedy.code, "chance": o.prospect.chance, "basis": o.prospect.basis}
            for o in view.options
        ],
        "money": asdict(view.money),
    }
