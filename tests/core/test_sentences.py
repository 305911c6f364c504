"""The sentence is what is read at an arm's length: it must not promise what the numbers do not."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest

from hollow_pin.core.comparison import Compared, compare, longer
from hollow_pin.core.hidden import MEASURED_ZERO, Hidden
from hollow_pin.core.joint import Jump
from hollow_pin.core.limits import LIMIT_OF
from hollow_pin.core.prospect import prospects, recentrings
from hollow_pin.core.ranking import NEAR, rank
from hollow_pin.core.readings import TakeReadings
from hollow_pin.core.spikes import Spike
from hollow_pin.core.summary import explain, explain_comparison
from hollow_pin.simulator.conditions import fresh_stick
from hollow_pin.simulator.stick import cleaned
from sticks import HERE, TOWARD, read_of, readings_of, returning


@cache
def read(condition: str) -> TakeReadings:
    return readings_of(condition)


@cache
def read_after_cleaning() -> TakeReadings:
    stick = cleaned(fresh_stick("potentiometer", "round", 10, 250.0, "dirty", 5))
    return read_of(stick, 6)


def test_a_dead_zone_is_not_said_to_hide_spikes() -> None:
    """Set to what is needed at rest, it would still twitch at every spike."""
    meaning = explain(read("dirty")).sentence
    assert "and spikes through it:" in meaning
    assert f"up to {read('dirty').still.spike_height:.1f}" in meaning
    assert "spikes" not in explain(read("worn")).sentence
    comparison = compare(read("sound"), read("dirty"), HERE, HERE)
    assert "but not the spikes:" in explain_comparison(comparison, read("dirty"), "left")


def test_what_got_better_is_named_where_rest_and_dead_zone_do_not_tell() -> None:
    after = read_after_cleaning()
    meaning = explain_comparison(compare(read("dirty"), after, HERE, HERE), after, "left")
    assert meaning.startswith("Better. ")
    assert "spikes\u00a0x" in meaning.lower()
    assert " went from " in meaning
    meaning = explain_comparison(
        compare(read("dirty"), after, HERE, HERE, reference=True), after, "left", True
    )
    assert " against " in meaning
    assert "went" not in meaning


def test_one_of_each_is_named_where_some_got_better_and_some_worse() -> None:
    """Two that got better would hide the one that got worse."""
    base = compare(read("sound"), read("sound"), HERE, HERE)
    paths = ("rim.circularity_error", "hold.sag", "still.jitter_x")
    rows = [
        replace(
            row,
            change=sign * 40.0 * row.limit,
            u_change=0.001,
            before=1.0,
            after=1.0 + sign,
            verdict=verdict,
        )
        for path, sign, verdict in zip(
            paths, (-1, -1, 1), ("better", "better", "worse"), strict=True
        )
        if (row := base.row(path)) is not None and row.limit
    ]
    assert len(rows) == 3
    mixed = replace(base, overall="mixed", rows=tuple(rows))
    meaning = explain_comparison(mixed, read("sound"), "left")
    assert meaning.startswith(
        "Better in part, worse in part. Circularity\u00a0error went from 1.0 to 0.0\u00a0%, "
        "but jitter\u00a0x from 1.0 to 2.0\u00a0%. The left stick now rests"
    )
    against = explain_comparison(mixed, read("sound"), "left", reference=True)
    assert (
        "Circularity\u00a0error 0.0\u00a0% against 1.0\u00a0%, "
        "but jitter\u00a0x 2.0\u00a0% against 1.0\u00a0%. The left stick rests" in against
    )


@pytest.mark.parametrize(("overall", "verdict"), [("better", "worse"), ("worse", "better")])
def test_what_speaks_against_the_verdict_comes_last_and_says_so(overall, verdict) -> None:
    """“Better. Outer dead zone needed went from 4.6 to 8.2 %” read as if that were the cure."""
    after = read("sound")
    base = compare(read("worn"), after, HERE, HERE)
    rows = tuple(
        replace(r, verdict=overall, change=9.0, u_change=0.1)
        if r.path == "composite.dead_zone_needed"
        else replace(r, before=4.6, after=8.2, change=3.6, u_change=0.1, verdict=verdict)
        for r in base.rows
        if r.path in ("composite.dead_zone_needed", "rim.outer_dead_zone_needed")
    )
    meaning = explain_comparison(replace(base, overall=overall, rows=rows), after, "left")
    assert meaning.startswith(f"{overall.capitalize()}. The left stick now rests")
    assert meaning.endswith(
        "But outer\u00a0dead\u00a0zone\u00a0needed went from 4.6 to 8.2\u00a0%."
    )
    agreeing = tuple(replace(r, verdict=overall) for r in rows)
    meaning = explain_comparison(replace(base, overall=overall, rows=agreeing), after, "left")
    assert "But" not in meaning


@pytest.mark.parametrize(
    ("verdict", "words"),
    [
        ("over", "hides what is left at rest, over the limit of 8.0\u00a0%"),
        ("borderline", "hides what is left at rest, too near the limit of 8.0\u00a0% to call"),
        ("within", "hides what is left at rest."),
    ],
)
def test_what_is_left_is_held_against_its_limit(verdict, words: str) -> None:
    base = compare(read("worn"), read("sound"), HERE, HERE)
    rows = tuple(
        replace(r, after_limit=verdict, limit=8.0) if r.path == "composite.dead_zone_needed" else r
        for r in base.rows
    )
    assert words in explain_comparison(replace(base, rows=rows), read("sound"), "left")


def test_what_the_rest_and_the_dead_zone_tell_is_not_told_twice() -> None:
    before, after = read("worn"), read("sound")
    meaning = explain_comparison(compare(before, after, HERE, HERE), after, "left")
    assert meaning.startswith("Better. The left stick now rests")
    against = explain_comparison(
        compare(after, before, HERE, HERE, reference=True), before, "left", True
    )
    assert "still" not in against, "a reference is not what it was before"
    worse = explain_comparison(compare(after, before, HERE, HERE), before, "left")
    assert "still" not in worse, "it used to come back to one place"


@pytest.mark.parametrize(
    ("high", "drops", "says"),
    [(15.5, 3, "Spikes with hands off"), (14.5, 3, "falls back while it is pushed"), (15.5, 2, "")],
)
def test_what_jumps_at_rest_as_far_as_it_drops_when_held_is_dirt(
    high: float, drops: int, says: str
) -> None:
    """By 60 reports a second few of its spikes are seen, and those while it is held are drops: a track
    that a swab would have mended failed, and the module was to be replaced."""
    take = read("sound")
    still = replace(take.still, spike_height=high, spikes_per_min_x=6.0)
    joint = replace(take.joint, drops=drops, drops_per_min=2.0)
    advice = explain(replace(take, still=still, joint=joint)).advice
    assert says in advice
    assert ("Spikes" in advice) == (says.startswith("Spikes"))


@pytest.mark.parametrize(
    ("other", "says"), [(0.74, "its own contact or sensor"), (0.76, "try another cable")]
)
def test_what_trembles_on_one_axis_alone_is_no_supply(other: float, says: str) -> None:
    """A cable was changed for a track that wanted cleaning."""
    take = read("sound")
    known = take.uncertainty | {"still.jitter_x": 0.01, "still.jitter_y": 0.01}
    for x, y in ((3.0, other), (other, 3.0)):
        still = replace(take.still, jitter_x=x, jitter_y=y, noise_in_common=0.0)
        trembling = replace(take, still=still, uncertainty=known, hidden=())
        meaning = explain(trembling)
        assert says in meaning.advice
        assert meaning.try_first == "cleaned"
        first = rank(trembling)[0]
        assert (first.cause == "dirty" and first.likely) == ("contact" in says)


def behind_a_zone(take: TakeReadings) -> TakeReadings:
    """The source says zero below 8 %."""
    return replace(take, hidden=(Hidden(MEASURED_ZERO[0], None, "", ("still.",), 8.0),))


@pytest.mark.parametrize(("offset", "seen"), [(0.59, False), (0.61, True)])
def test_what_a_zone_hides_is_not_said_to_be_next_to_nothing(offset: float, seen: bool) -> None:
    """“Needs a dead zone of 0.1 %” stood behind “Hidden below 8.0 % by the source”."""
    take = behind_a_zone(read("worn"))
    assert take.still is not None
    sentence = explain(replace(take, still=replace(take.still, rest_offset=offset))).sentence
    begins = "Hidden below 8.0\u00a0% by the source"
    unseen = f"{begins}: where it rests, and the dead zone it needs, are not seen."
    assert sentence.startswith(f"{begins}. Rests " if seen else unseen)
    assert ("Needs a dead zone" in sentence) == seen
    assert "The rim" not in sentence, "which is beside the point"
    assert explain(replace(take, still=None)).sentence == f"{begins}.", (
        "nobody looked where it rests"
    )


def test_an_axis_that_a_zone_keeps_at_zero_is_not_one_that_does_not_tremble() -> None:
    """A track was cleaned for a hum, of which the other axis showed nothing."""
    still = replace(read("sound").still, jitter_x=3.0, jitter_y=0.0)
    assert "own contact" in explain(replace(read("sound"), still=still)).advice
    assert "another cable" in explain(behind_a_zone(replace(read("sound"), still=still))).advice


@pytest.mark.parametrize(
    ("high", "is_dirt"),
    [
        ((8.2, 8.5, -8.1), False),
        ((8.2, 11.9, -8.1), False),
        ((8.2, 12.1, -8.1), True),
        ((2.0, 6.1, -6.1, 9.0), False),
        ((2.0, 5.9, -5.9, 9.0), True),
    ],
)
def test_what_leaves_a_zone_by_a_little_is_no_dirt(high: tuple[float, ...], is_dirt: bool) -> None:
    """A stick that wanders behind it is beyond its edge now and then, and was to be cleaned first."""
    spikes = tuple(Spike(float(i), "x", of) for i, of in enumerate(high))
    still = replace(
        read("sound").still, spike=spikes, spike_height=max(high), spikes_per_min_x=6.0 * len(high)
    )
    take = replace(read("sound"), still=still)
    assert "dirt" in explain(take).advice
    shaken = replace(take, still=replace(still, jitter_x=3.0, noise_reach=9.0))
    assert "trembles more" not in explain(behind_a_zone(shaken)).advice, "nor is it a cable"
    meaning = explain(behind_a_zone(take))
    assert ("dirt" in meaning.advice) == ("spikes" in meaning.sentence) == is_dirt
    assert ("leaves the dead zone of its source" in meaning.advice) != is_dirt


@pytest.mark.parametrize(("reach", "says"), [(4.3, "try another cable"), (4.2, "Even recentred")])
def test_what_trembles_and_lies_off_zero_costs_no_module_for_the_trembling(
    reach: float, says: str
) -> None:
    """Of the 8.5 % that it would need when it is recentred more than half is noise, which a cable or a
    swab may mend."""
    take = read("sound")
    still = replace(take.still, jitter_x=2.0, jitter_y=2.0, noise_reach=reach, noise_in_common=0.0)
    composite = replace(take.composite, dead_zone_needed=16.0, dead_zone_after_recentring=8.5)
    meaning = explain(replace(take, still=still, composite=composite))
    assert says in meaning.advice
    assert meaning.try_first == ("cleaned" if "cable" in says else "replaced")


@pytest.mark.parametrize(
    ("aside", "from_across", "seen"),
    [(0.60, 0.0, True), (0.63, 0.0, False), (0.0, 1.05, True), (0.0, 1.10, False)],
)
def test_what_is_held_along_its_way_is_looked_for_before_a_part_goes(
    aside: float, from_across: float, seen: bool
) -> None:
    """A module was replaced for a cap that rubbed on the shell. Stopped from across as well it may be
    two tracks that are worn alike."""
    take = read("sound")
    across = np.column_stack((-TOWARD[:, 1], TOWARD[:, 0]))
    # One round is the other's opposite, and no centre takes anything off.
    rounds = np.where(np.arange(16) < 8, 1.0, -1.0)[:, None]
    held = np.where(TOWARD[:, :1] > 0.5, 4.0, np.where(TOWARD[:, :1] < -0.5, from_across, 0.0))
    to = held * TOWARD + rounds * aside * np.sqrt(14 / 16) * across
    still = replace(take.still, wander=9.0, jitter_x=2.0)
    take = returning(replace(take, still=still), to)
    take = replace(take, let_go=replace(take.let_go, return_spread=8.0))
    advice, chance = explain(take).advice, {r.cause: r.probability for r in rank(take)}
    assert "comes back to different places" in advice
    assert ("See what holds it" in advice) == seen
    assert ("wear or a bind" in advice) != seen
    assert (chance["binding"] == 0.9) == (chance["worn"] == pytest.approx(0.1)) == seen
    within = replace(take, let_go=replace(take.let_go, return_spread=1.0))
    assert "different places" not in explain(within).advice


@pytest.mark.parametrize(("known_to", "dirty_first"), [(8.9, False), (9.1, True)])
def test_a_joint_that_jumps_is_not_cleaned_first(known_to: float, dirty_first: bool) -> None:
    """Its shortest jumps read as spikes: the readings said joint, and the page that decides said dirt.
    And dirt throws a contact to an end now and then: there it was the other way round."""
    take = read("dirty")
    each = tuple(Jump(5.0 * i, 0.05, "x", 100.0) for i in range(6))
    joint = replace(take.joint, jumps=6, jumps_per_min=18.0, jump=each)
    known = take.uncertainty | {"joint.jumps_per_min": known_to}
    take = replace(take, joint=joint, uncertainty=known)
    assert ("clean it first" in explain(take).advice) == dirty_first
    chance = {r.cause: r.probability for r in rank(take)}
    likelier, other = ("dirty", "loose") if dirty_first else ("loose", "dirty")
    assert rank(take)[0].cause == likelier
    assert chance[likelier] > NEAR >= chance[other]


@pytest.mark.parametrize(
    ("offset", "u", "says"),
    [
        (0.02, 0.1, "Rests at zero."),
        (0.3, 0.2, "Rests 0.3\u00a0% from zero."),
        (0.3, 0.1, "Rests 0.3\u00a0% toward 3\u00a0o’clock."),
        (5.0, 4.0, "Rests 5.0\u00a0% toward 3\u00a0o’clock."),
    ],
)
def test_no_direction_is_made_of_noise(offset: float, u: float, says: str) -> None:
    """Nobody should trim a stick toward an hour that the next take would not name."""
    take = read("sound")
    still = replace(take.still, rest_x=offset, rest_y=0.0, rest_offset=offset, rest_bearing=90.0)
    take = replace(take, still=still, uncertainty=take.uncertainty | {"still.rest_offset": u})
    assert explain(take).sentence.startswith(says)


def test_a_lever_rests_toward_an_end_of_its_own() -> None:
    take = read("sound")
    single = replace(take.recording, axes=("x",))
    for bearing, end in ((90.0, "high end"), (270.0, "low end")):
        still = replace(take.still, rest_offset=5.0, rest_bearing=bearing, rest_y=None)
        meaning = explain(replace(take, still=still, recording=single)).sentence
        assert meaning.startswith(f"Rests 5.0\u00a0% toward its {end}.")


def test_what_was_not_measured_is_not_forecast() -> None:
    """No dirt was seen because nobody looked is no reason to leave the track dirty."""
    nothing = replace(
        read("dirty"), still=None, let_go=None, rim=None, crossing=None, hold=None, uncertainty={}
    )
    nothing = replace(
        nothing,
        composite=replace(
            nothing.composite,
            dead_zone_needed=None,
            dead_zone_after_recentring=None,
            circularity_after_recalibration=None,
        ),
    )
    offered = prospects(nothing, rank(nothing), "everyday", LIMIT_OF)
    assert all(p.remedy.startswith("replaced") or not p.expected for p in offered)
    assert recentrings(nothing) is None


def test_a_sound_stick_has_nothing_to_gain() -> None:
    take = replace(read("offset"), hidden=())
    level = replace(
        take.composite,
        dead_zone_needed=take.composite.dead_zone_after_recentring,
        circularity_after_recalibration=take.rim.circularity_error,
    )
    take = replace(take, composite=level)
    assert "recentring gains nothing" in explain(take).sentence


def test_what_is_mended_by_its_scale_names_what_is_over() -> None:
    """Else the technician looks for it among numbers that are all within."""
    stick = fresh_stick("hall", "round", 12, 250.0, "sound", 5)
    short = replace(stick, module=replace(stick.module, x=replace(stick.module.x, gain_plus=0.88)))
    take = read_of(short, 6)
    meaning = explain(take).advice
    assert meaning.startswith("The rim is off in scale or centre")
    assert meaning.endswith("Over its limit: outer dead zone needed.")


def rare(a: float, b: float, path: str = "still.spikes_per_min_x") -> list[str]:
    """What is said of two takes whose rates of events could not be told apart."""
    limit = 30.0 if "spikes" in path else 0.0
    row = Compared(
        path, a, b, 9.0, 9.0, b - a, 12.7, "no-change", None, limit, None, "over", "borderline"
    )
    return longer((row,))


def test_a_longer_still_is_asked_for_where_it_would_decide() -> None:
    """Ten seconds tell a rate only roughly: how long is enough is said, instead of nothing."""
    (sentence,) = rare(42, 24)
    assert "2 minutes each time would decide" in sentence
    (jumps,) = rare(6, 3, "joint.jumps_per_min")
    assert "8 minutes" in jumps
    assert rare(24, 24) == []
    assert rare(24, 17) == [], "a change of less than a quarter of the limit is not asked after"
    assert rare(3, 1.9, "joint.jumps_per_min") != []
    assert rare(3, 2.5, "joint.jumps_per_min") == []
    assert rare(180, 172) == [], "nobody holds still for half an hour"


def test_a_little_is_told_as_a_number_and_how_surely_it_is_known() -> None:
    """“Little changed” alone leaves whoever did the work to look for how little in a table."""
    after = read("sound")
    base = compare(after, after, HERE, HERE)
    needed, reach = "composite.dead_zone_needed", "rim.outer_dead_zone_needed"

    def said(**verdicts) -> str:
        sizes = {needed: 0.82, reach: 1.9}
        rows = tuple(
            replace(r, before=3.5, after=3.5 - sizes[r.path], change=-sizes[r.path], u_change=0.09)
            for r in base.rows
            if r.path in sizes
        )
        rows = tuple(replace(r, verdict=verdicts[r.path.split(".")[1]]) for r in rows)
        return explain_comparison(replace(base, overall="little", rows=rows), after, "left")

    assert said(dead_zone_needed="better", outer_dead_zone_needed="better").startswith(
        "Little changed: dead\u00a0zone\u00a0needed went from 3.5 to 2.7\u00a0%, by 0.8 ± 0.2. "
    )
    assert said(dead_zone_needed="no-change", outer_dead_zone_needed="worse").startswith(
        "Little changed: outer\u00a0dead\u00a0zone\u00a0needed went from 3.5 to 1.6\u00a0%, by 1.9 "
    )


@pytest.mark.parametrize(("u", "size"), [(0.07, "0.2"), (0.101, "0.3"), (0.0, "0.1")])
def test_where_nothing_changed_it_is_said_how_much_would_have_shown(u: float, size: str) -> None:
    """“No change” of a bench that sees little is not that of one that sees much."""
    after = read("sound")
    base = compare(after, after, HERE, HERE)
    assert base.overall == "no-change"
    needed = base.row("composite.dead_zone_needed")
    assert needed is not None
    unchanged = replace(base, rows=(replace(needed, u_change=u),))
    assert explain_comparison(unchanged, after, "left").startswith(
        f"No change that this bench can see; one of {size}\u00a0% in the "
        "dead\u00a0zone\u00a0needed would show. "
    )
    hidden = replace(base, rows=(replace(needed, verdict="not-comparable"),))
    assert explain_comparison(hidden, after, "left").startswith(
        "No change that this bench can see. "
    )
