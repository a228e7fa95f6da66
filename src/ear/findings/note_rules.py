"""Ear notes about which notes were played, how long and how strongly."""

from collections import Counter
from collections.abc import Iterator

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.marking.criteria import DOUBLE_WEIGHT, EXTRA_WEIGHT, GRAZE_WEIGHT, UNFINISHED_COST, signed
from ear.marking.rubric import CriterionName
from ear.matching.outcome import Outcome, SlipKind
from ear.notes import interval_name, pitch_name

NOTES, FLOW = CriterionName.NOTES, CriterionName.FLOW
DYNAMICS, LENGTH = CriterionName.DYNAMICS, CriterionName.LENGTH
SHORT_BELOW, LONG_ABOVE = 0.6, 1.35
"""Median length ratio from which notes are called cut short or blurred."""
FLAT_BELOW = 0.35
"""Share of the written accent contrast."""
LANE_LEAST = 3
LANE_SHARE = 0.8
RAMP_RISES = 0.3
"""Share of the written slope below which a ramp does not rise."""
LOUD_FROM = 18.0
LAST_NOTE_BELOW = 0.5
BEYOND_S = 0.15
UNEVEN_FROM = 14.0
"""SD in velocity steps among notes written alike."""


def nothing_of_it(c: Context) -> Iterator[Finding]:
    if not c.take.notes:
        yield c.finding(
            "empty", size=0, unit="notes", cost=100.0, criterion=None,
            teacher="The take is empty.",
            student="Nothing arrived in this take. Check the input at the Stand, then record again.",
        )  # fmt: skip
    elif c.match.is_foreign:
        yield c.finding(
            "foreign", size=len(c.take.notes), unit="notes", cost=100.0,
            takes=range(len(c.take.notes)),
            teacher="This is not a take of the part: too little of it finds a place.",
            student="This does not sound like the exercise. Listen to the part once more, then record again.",
        )  # fmt: skip


def transposed(c: Context) -> Iterator[Finding]:
    semitones = c.match.transposition
    if not semitones:
        return
    way = "higher" if semitones > 0 else "lower"
    yield c.finding(
        "transposed", size=semitones, unit="semitones", bars=(1, len(c.part.bars)),
        figures={"interval": _with_article(interval_name(semitones)), "way": way},
        teacher="The whole take stands {interval} {way}; notes are compared with that taken off.",
        student="You played everything {interval} {way}. Find the first note again before you record.",
    )  # fmt: skip


def _with_article(interval: str) -> str:
    if interval[0].isdigit():
        return interval
    return f"{'an' if interval[0] in 'aeiou' and interval != 'unison' else 'a'} {interval}"


def wrong_keys(c: Context) -> Iterator[Finding]:
    rows = [p for p in c.match.pairs if p.outcome is Outcome.WRONG_PITCH]
    if not rows:
        return
    by: Counter[tuple[int, int]] = Counter()
    for p in rows:
        assert p.target is not None and p.take is not None
        by[c.part.notes[p.target].pitch, c.take.notes[p.take].pitch - c.match.transposition] += 1
    (written, played), count = by.most_common(1)[0]
    if c.part.kind == "drums":
        names = c.kit.lane(written).name, c.kit.lane(played).name
        what = f"{names[1]} for {names[0]}"
    else:
        flats = c.part.fifths
        step = "up" if played > written else "down"
        what = (
            f"{pitch_name(played, fifths=flats)} for {pitch_name(written, fifths=flats)}, "
            f"{_with_article(interval_name(played - written))} {step}"
        )
    worst = [p for p in rows if c.part.notes[p.target or 0].pitch == written]
    yield c.finding(
        "wrong_key", size=len(rows), unit="notes", criterion=NOTES, cost=c.notes_cost(len(rows)),
        targets=[p.target for p in rows if p.target is not None], takes=[p.take for p in rows if p.take is not None],
        figures={"count": len(rows), "what": what, "times": count, "where": c.bar_of(worst[0].target or 0)},
        teacher=("One wrong note, in {bars}: {what}." if len(rows) == 1
                 else "{count} wrong notes in {bars}; most: {what}."),
        student=("In bar {where} you played {what}. Say the note's name before you play it."
                 if len(rows) == 1 else
                 "{count} wrong notes; most of all {what}, first in bar {where}. Play that place alone, slowly, and look ahead."),
    )  # fmt: skip


def missed_notes(c: Context) -> Iterator[Finding]:
    missed = [p.target for p in c.match.pairs if p.outcome is Outcome.MISSED and p.target is not None]
    if not missed or not c.rows:
        return
    skipped = [s for s in c.match.time_base.slips if s.kind in (SlipKind.SKIP, SlipKind.SKIP_BAR)]
    last_played = max(p.target or 0 for p, _ in c.rows)
    at_end = [i for i in missed if i > last_played]
    if c.measures.unplayed_bars_at_end:
        bars = c.measures.unplayed_bars_at_end
        yield c.finding(
            "unfinished", size=bars, unit="bars", criterion=FLOW, targets=at_end,
            cost=c.weight(FLOW) / 100 * UNFINISHED_COST * bars / len(c.part.bars) + c.notes_cost(len(at_end)),
            figures={"count": bars, "after": c.bar_of(last_played)},
            teacher="Ends after bar {after}, {count} bars before the end.",
            student="You stopped after bar {after}. Next time play on to the last bar, whatever happens on the way.",
        )  # fmt: skip
        missed = [i for i in missed if i <= last_played]
    ticks = [(s.quarter + s.quarters, s.quarter) for s in skipped]
    missed = [
        i for i in missed
        if not any(a - 0.01 <= c.part.notes[i].onset_tick / 480 < b for a, b in ticks)
    ]  # fmt: skip
    missed_lanes = list(_missed_lanes(c, missed)) if c.part.kind == "drums" else []
    yield from missed_lanes
    told = {i for finding in missed_lanes for i in finding.targets}
    rest = [i for i in missed if i not in told]
    if rest:
        yield c.finding(
            "missed", size=len(rest), unit="notes", criterion=NOTES, cost=c.notes_cost(len(rest)),
            targets=rest, figures={"count": len(rest)},
            teacher="One note is missing, in {bars}." if len(rest) == 1 else "{count} notes are missing in {bars}.",
            student=("A note is missing in {bars}. Listen to the part there once more." if len(rest) == 1
                     else "{count} notes are missing in {bars}. Listen there once more and play along."),
        )  # fmt: skip


def _missed_lanes(c: Context, missed: list[int]) -> Iterator[Finding]:
    written = Counter(c.kit.lane(n.pitch).name for n in c.part.notes)
    gone = Counter(c.kit.lane(c.part.notes[i].pitch).name for i in missed)
    for lane, count in gone.items():
        if count >= LANE_LEAST and count >= LANE_SHARE * written[lane]:
            at = [i for i in missed if c.kit.lane(c.part.notes[i].pitch).name == lane]
            yield c.finding(
                "missed_lane", size=count, unit="notes", criterion=NOTES, cost=c.notes_cost(count),
                targets=at, place=lane, figures={"lane": lane, "count": count, "of": written[lane]},
                teacher="The {lane} is left out: {count} of {of} hits.",
                student="The {lane} is missing. Check that its pad answers, then play it alone before you add the rest.",
            )  # fmt: skip


def too_many(c: Context) -> Iterator[Finding]:
    beyond = _beyond_end(c)
    sorts = (
        ("doubles", [p for p in c.match.pairs if p.outcome is Outcome.DOUBLE], DOUBLE_WEIGHT,
         "{count} double triggers: a second, unmeant note right after the first.",
         "{count} notes sounded twice. Let the stick bounce away, or the finger lift, before it touches again."),
        ("grazes", [p for p in c.match.pairs if p.is_graze], GRAZE_WEIGHT,
         "{count} grazes: short, light touches beside the notes that were meant.",
         "You brushed {count} notes beside the right ones. Curve the fingers and aim for the middle of the key."),
        ("extras",
         [p for p in c.match.pairs if p.outcome is Outcome.EXTRA and not p.is_graze and not p.is_abandoned and p.take not in beyond],
         EXTRA_WEIGHT,
         "{count} notes that the part does not have.",
         "{count} notes are not in the part. Listen to it once more and leave them out."),
    )  # fmt: skip
    for kind, rows, weight, teacher, student in sorts:
        if rows and c.rows:
            yield c.finding(
                kind, size=len(rows), unit="notes", criterion=NOTES, cost=c.notes_cost(weight * len(rows)),
                targets=[p.near for p in rows if p.near is not None],
                takes=[p.take for p in rows if p.take is not None],
                figures={"count": len(rows)},
                teacher=teacher if len(rows) > 1 else teacher.replace("{count} double triggers", "One double trigger")
                .replace("{count} grazes: short, light touches", "One graze: a short, light touch")
                .replace("{count} notes that", "One note that"),
                student=student if len(rows) > 1 else student.replace("{count} notes sounded", "One note sounded")
                .replace("{count} notes beside the right ones", "a note beside the right one")
                .replace("{count} notes are", "One note is"),
            )  # fmt: skip


def lengths(c: Context) -> Iterator[Finding]:
    ratio = c.measures.length_ratio.value
    if ratio is None or SHORT_BELOW < ratio < LONG_ABOVE:
        return
    score = next((k.score for k in c.mark.criteria if k.name is LENGTH), None)
    cost = c.weight(LENGTH) * (100 - score) / 100 if score is not None else 0.0
    short = ratio <= SHORT_BELOW
    yield c.finding(
        "cut_short" if short else "held_long", size=ratio, unit="ratio", criterion=LENGTH, cost=cost,
        bars=(1, len(c.part.bars)), figures={"percent": round(100 * ratio)},
        teacher=("Notes are cut short: the middle one sounds {percent} % of its length." if short
                 else "Notes run into each other: the middle one sounds {percent} % of its length."),
        student=("Your notes end too soon. Keep each key down until the next one plays." if short
                 else "Your notes run into each other. Let a key go when the next one plays."),
    )  # fmt: skip


def accents(c: Context) -> Iterator[Finding]:
    played, written = (
        c.measures.dynamics.accent_contrast.value,
        c.measures.dynamics.target_accent_contrast.value,
    )
    score = next((k.score for k in c.mark.criteria if k.name is DYNAMICS), None)
    if score is None:
        return
    cost = c.weight(DYNAMICS) * (100 - score) / 100
    if played is not None and written is not None and written > 0 and played < FLAT_BELOW * written:
        turned = played < -FLAT_BELOW * written
        yield c.finding(
            "accents_inverted" if turned else "accents_flat",
            size=played, unit="velocity steps", criterion=DYNAMICS, cost=cost, bars=(1, len(c.part.bars)),
            figures={"played": signed(played), "written": signed(written)},
            teacher=("Accents fall on the wrong notes: {played} steps where {written} are written." if turned
                     else "Accents are flat: {played} steps where {written} are written."),
            student=("The strong notes are soft and the soft ones strong. Play only the accents first, then fill in."
                     if turned else
                     "All notes are about as strong as each other. Make the accented ones stand out, and the others smaller."),
        )  # fmt: skip
        return
    evenness = c.measures.dynamics.evenness.value
    if evenness is not None and evenness >= UNEVEN_FROM:
        yield c.finding(
            "uneven", size=evenness, unit="velocity steps", criterion=DYNAMICS, cost=cost,
            bars=(1, len(c.part.bars)), figures={"size": round(evenness)},
            teacher="Uneven touch: notes written alike differ by {size} velocity steps.",
            student="Notes that should be alike come out loud and soft. Play slowly and listen for one even line.",
        )  # fmt: skip


def ramps(c: Context) -> Iterator[Finding]:
    for ramp in c.measures.feel.ramps:
        if ramp.take_slope * (1 if ramp.target_slope > 0 else -1) >= RAMP_RISES * abs(ramp.target_slope):
            continue
        at = [i for i, n in enumerate(c.part.notes) if ramp.first_tick <= n.onset_tick <= ramp.last_tick]
        grows = ramp.target_slope > 0
        yield c.finding(
            "ramp_flat", size=ramp.take_slope, unit="velocity steps a quarter", criterion=DYNAMICS,
            cost=c.weight(DYNAMICS) / 4, targets=at,
            figures={"played": f"{ramp.take_slope:+.1f}".replace("-", "−"), "written": f"{ramp.target_slope:+.1f}".replace("-", "−")},
            teacher=("The crescendo in {bars} does not rise: {played} steps a beat, {written} written." if grows
                     else "The diminuendo in {bars} does not fall: {played} steps a beat, {written} written."),
            student=("Bars {bar} to {last_bar} should grow. Begin softer than you think, so that there is room." if grows
                     else "Bars {bar} to {last_bar} should fade. Begin stronger, so that there is room to come down."),
        )  # fmt: skip


def loud_lane(c: Context) -> Iterator[Finding]:
    """A lane whose strength stands out against what is written, next to the others."""
    if c.part.kind != "drums" or c.measures.dynamics.level.value is None:
        return
    by_lane: dict[str, list[int]] = {}
    for row, note in zip(c.match.pairs, c.measures.notes, strict=True):
        if row.target is not None and note.velocity_difference is not None:
            by_lane.setdefault(c.kit.lane(c.part.notes[row.target].pitch).name, []).append(
                note.velocity_difference
            )
    for lane, differences in by_lane.items():
        others = [d for other, found in by_lane.items() if other != lane for d in found]
        if not others:
            continue
        above = sum(differences) / len(differences) - sum(others) / len(others)
        if len(differences) >= LANE_LEAST and above >= LOUD_FROM:
            yield c.finding(
                "lane_loud", size=above, unit="velocity steps", criterion=DYNAMICS, cost=c.weight(DYNAMICS) / 5,
                bars=(1, len(c.part.bars)), place=lane, figures={"lane": lane, "size": round(above)},
                teacher="The {lane} is too loud against the rest, by {size} velocity steps.",
                student="Your {lane} covers the rest. Play it from lower down, with less stick.",
            )  # fmt: skip


def _beyond_end(c: Context) -> set[int]:
    """Extra take notes that come after the last bar, by the player's own time."""
    end_s = c.part.tempos.second_at(c.part.bars[-1].end_tick) / c.measures.timing.tempo_ratio
    end_s += sum(s.quarters for s in c.match.time_base.slips) * 60 / c.measures.timing.played_bpm
    return {
        p.take
        for p in c.match.pairs
        if p.outcome is Outcome.EXTRA
        and p.take is not None
        and c.take.notes[p.take].onset_s > end_s + BEYOND_S
    }


def the_end(c: Context) -> Iterator[Finding]:
    """The last note not held; notes after the last bar."""
    if not c.rows:
        return
    last = len(c.part.notes) - 1
    for row, note in zip(c.match.pairs, c.measures.notes, strict=True):
        if row.target == last and note.length_ratio is not None and note.length_ratio < LAST_NOTE_BELOW:
            yield c.finding(
                "last_note_short", size=note.length_ratio, unit="ratio", criterion=LENGTH,
                cost=c.weight(LENGTH) / 10, targets=[last], figures={"percent": round(100 * note.length_ratio)},
                teacher="The last note is let go after {percent} % of its length.",
                student="Hold the last note to its end: count it out.",
            )  # fmt: skip
    beyond = sorted(_beyond_end(c))
    if beyond:
        yield c.finding(
            "beyond_end", size=len(beyond), unit="notes", criterion=NOTES, takes=beyond,
            cost=c.notes_cost(EXTRA_WEIGHT * len(beyond)), bars=(len(c.part.bars), len(c.part.bars)),
            figures={"count": len(beyond)},
            teacher="{count} notes after the last bar." if len(beyond) > 1 else "One note after the last bar.",
            student="Stop after the last bar: what comes later is recorded, too.",
        )  # fmt: skip


RULES = (
    nothing_of_it, transposed, wrong_keys, missed_notes, too_many, lengths, accents, ramps, loud_lane,
    the_end,
)  # fmt: skip
