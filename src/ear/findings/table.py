"""The table of ear notes: for each code its criterion, its tone, its cure, and its two sentences.

To add one is to add a rule that finds it and a row here.
"""

from collections.abc import Iterable

from ear.criteria import CriterionName
from ear.findings.free_kinds import free_kinds
from ear.findings.kind import FULL, SLOW, FindingKind, Hue, PlayedOn, Tone
from ear.findings.own_time_kinds import own_time_kinds
from ear.findings.time_kinds import time_kinds
from ear.text import EMPTY, gettext_noop, ngettext_lazy

NOTES, TIMING = CriterionName.NOTES, CriterionName.TIMING
DYNAMICS, LENGTH, PEDAL = CriterionName.DYNAMICS, CriterionName.LENGTH, CriterionName.PEDAL


def _notes() -> Iterable[FindingKind]:
    yield FindingKind(
        code="empty", tone=Tone.FACT, takes_all=True, share=None, is_flagged=True,
        teacher=gettext_noop("The take is empty."),
        student=gettext_noop("No notes came in. Press a key: does the page name it? Then record again."),
        student_on={
            PlayedOn.PADS: gettext_noop("No notes came in. Hit a pad: does the page name it? Then record again."),
            PlayedOn.TYPING: gettext_noop("No notes came in. Press one of the letters that play: does the page name the note? Then record again."),
            PlayedOn.SCREEN: gettext_noop("No notes came in. Tap a key on the screen: does the page name it? Then record again."),
        },
    )  # fmt: skip
    yield FindingKind(
        code="foreign", tone=Tone.FACT, takes_all=True, share=None, is_flagged=True,
        teacher=gettext_noop("This take does not match the part: too few notes could be matched."),
        student=gettext_noop("This does not sound like the exercise. Listen to the part once more, then record again."),
    )  # fmt: skip
    yield FindingKind(
        code="transposed", tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("The whole take is {interval} {way}; the notes are compared as if it were not."),
        student=gettext_noop("You played everything {interval} {way}. Find the first note again before you record."),
    )  # fmt: skip
    yield FindingKind(
        code="hand_octave", criterion=NOTES, hue=Hue.WRONG, share=FULL, alone=True,
        teacher=gettext_noop("The {hand} hand plays {interval} {way}, all through; its notes are found there."),
        student=gettext_noop("Your {hand} hand is {interval} too {way_short}. Look at its first note on the page and find that key before you begin."),
    )  # fmt: skip
    yield FindingKind(
        code="pad_number", criterion=NOTES, hue=Hue.WRONG, share=None, is_flagged=True,
        teacher=gettext_noop("Set-up: pad {pad} is struck where the {lane} is written, {count} of its {of} times. One step sets it."),
        student=gettext_noop("Your pad {pad} seems to be the {lane}, but sends another number. Show this to your teacher, who can put it right in one step."),
    )  # fmt: skip
    yield FindingKind(
        code="pad_numbers", criterion=NOTES, hue=Hue.WRONG, share=None, is_flagged=True,
        teacher=gettext_noop("Set-up: {pads} pads send other numbers than they should; pad {pad}, for one, is the {lane}. One step sets them."),
        student=gettext_noop("{pads} of your pads send the wrong numbers. Show this to your teacher, who can put it right in one step."),
    )  # fmt: skip
    yield FindingKind(
        code="one_pad", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=gettext_noop("All {count} strokes are on one pad, the {lane}; only the rhythm is measured."),
        student=gettext_noop("You played everything on the {lane}. Find each drum first, then play the rhythm on them."),
    )  # fmt: skip
    yield FindingKind(
        code="wrong_key", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One wrong note in {bars}: {what}.", "{count} wrong notes in {bars}; most: {what}."),
        student=ngettext_lazy("In bar {where} you played {what}. Say the note’s name before you play it.",
                      "{count} wrong notes; most of all {what}, first in bar {where}. Play that place alone, slowly, and look ahead."),
    )  # fmt: skip
    yield FindingKind(
        code="wrong_drum", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One wrong drum, in {bars}: {what}.", "{count} wrong drums in {bars}; most: {what}."),
        student=ngettext_lazy("In bar {where} you played {what}. Say the drum’s name before you play it.",
                      "{count} wrong drums; most of all {what}, first in bar {where}. Play that place alone, slowly, and look ahead."),
    )  # fmt: skip
    yield FindingKind(
        code="missed", takes_all=True, share=SLOW,
        teacher=ngettext_lazy("One note is missing in {bars}.", "{count} notes are missing in {bars}."),
        student=ngettext_lazy("A note is missing in {bars}. Listen to the part there once more.",
                      "{count} notes are missing in {bars}. Listen there once more and play along."),
    )  # fmt: skip
    yield FindingKind(
        code="missed_hand", takes_all=True, share=SLOW, alone=True,
        teacher=gettext_noop("The {hand} hand is left out: {count} of its {of} notes."),
        student=gettext_noop("Your {hand} hand is missing. Play it alone first, slowly, then add the other."),
    )  # fmt: skip
    yield FindingKind(
        code="missed_lane", takes_all=True, share=SLOW, alone=True,
        teacher=gettext_noop("The {lane} is left out: {count} of {of} hits."),
        student=gettext_noop("The {lane} is missing. Check that its pad answers, then play it alone before you add the rest."),
        student_on={
            PlayedOn.KEYS: gettext_noop("The {lane} is missing. Check which key plays it, then play it alone before you add the rest."),
            PlayedOn.TYPING: gettext_noop("The {lane} is missing. Check which typing key plays it, then play it alone before you add the rest."),
            PlayedOn.SCREEN: gettext_noop("The {lane} is missing. Find it on the screen, then play it alone before you add the rest."),
        },
    )  # fmt: skip
    yield FindingKind(
        code="unfinished", takes_all=True,
        teacher=ngettext_lazy("Ends after bar {after}, {count} bar before the end.", "Ends after bar {after}, {count} bars before the end."),
        student=gettext_noop("You stopped after bar {after}. Next time play on to the last bar, whatever happens on the way."),
    )  # fmt: skip
    yield FindingKind(
        code="cut_off", takes_all=True, tone=Tone.FACT, share=None,
        teacher=ngettext_lazy("The recording ends after bar {after}, {count} bar before the end: {why}.",
                              "The recording ends after bar {after}, {count} bars before the end: {why}."),
        student=gettext_noop("The recording ends after bar {after}: {why}. That was not you; record it once more."),
    )  # fmt: skip
    yield FindingKind(
        code="doubles", criterion=NOTES, hue=Hue.WRONG,
        teacher=ngettext_lazy("One double hit: an unintended second note straight after the first.",
                      "{count} double hits: an unintended second note straight after the first."),
        student=ngettext_lazy("One note sounded twice. Lift the finger fully before you play the key again.",
                      "{count} notes sounded twice. Lift the finger fully before you play the key again."),
        student_on={
            PlayedOn.PADS: ngettext_lazy("One note sounded twice. Let the stick bounce away from the pad after each stroke.",
                                         "{count} notes sounded twice. Let the stick bounce away from the pad after each stroke."),
            PlayedOn.SCREEN: ngettext_lazy("One note sounded twice. Tap each key once, with one finger.",
                                           "{count} notes sounded twice. Tap each key once, with one finger."),
        },
    )  # fmt: skip
    yield FindingKind(
        code="ornament_added", criterion=NOTES, tone=Tone.FACT, hue=Hue.PLAIN, share=None,
        teacher=gettext_noop("Adds {ornaments} in {bars}; none is written there."),
        student=gettext_noop("You added {ornaments} in {bars}. It sounds like a choice: ask whether it may stay, or play the plain notes."),
    )  # fmt: skip
    yield FindingKind(
        code="ornaments_added", criterion=NOTES, tone=Tone.FACT, hue=Hue.PLAIN, share=None,
        teacher=gettext_noop("Adds {all} ornaments in {bars}, among them {ornaments}; none is written there."),
        student=gettext_noop("You added {all} ornaments in {bars}. They sound like a choice: ask whether they may stay, or play the plain notes."),
    )  # fmt: skip
    yield FindingKind(
        code="second_pass", criterion=NOTES, tone=Tone.FACT, hue=Hue.WRONG, share=None, is_flagged=True,
        teacher=gettext_noop("Played twice over {bars} in one take: only one pass is measured."),
        student=gettext_noop("In {bars} you recorded a second time over the first. Begin a new take, and stop it before you play again."),
    )  # fmt: skip
    yield FindingKind(
        code="count_in_played", tone=Tone.FACT, share=None,
        teacher=ngettext_lazy("Plays one note into the count-in; it costs nothing.", "Plays {count} notes into the count-in; they cost nothing."),
        student=gettext_noop("You played into the count-in. Keep still, count along, and come in on the very next “one”."),
    )  # fmt: skip
    yield FindingKind(
        code="grazes", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One brushed key: a short, light touch beside the notes that were meant.",
                      "{count} brushed keys: short, light touches beside the notes that were meant."),
        student=ngettext_lazy("You brushed a note beside the right one. Curve the fingers and aim for the middle of the key.",
                      "You brushed {count} notes beside the right ones. Curve the fingers and aim for the middle of the key."),
        student_on={
            PlayedOn.PADS: ngettext_lazy("You brushed a pad beside the right one. Aim for the middle of the pad.",
                                         "You brushed {count} pads beside the right ones. Aim for the middle of the pad."),
            PlayedOn.TYPING: ngettext_lazy("You brushed a key beside the right one. Keep each finger over its own letter.",
                                           "You brushed {count} keys beside the right ones. Keep each finger over its own letter."),
            PlayedOn.SCREEN: ngettext_lazy("You touched a key beside the right one. Tap the middle of each key.",
                                           "You touched {count} keys beside the right ones. Tap the middle of each key."),
        },
    )  # fmt: skip
    yield FindingKind(
        code="extras", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One extra note that is not in the part.", "{count} extra notes that are not in the part."),
        student=ngettext_lazy("One note is not in the part. Listen to it once more and leave it out.",
                      "{count} notes are not in the part. Listen to it once more and leave them out."),
    )  # fmt: skip
    yield FindingKind(
        code="beyond_end", criterion=NOTES,
        teacher=ngettext_lazy("One note after the last bar.", "{count} notes after the last bar."),
        student=gettext_noop("Stop after the last bar: anything you play after it is recorded too."),
    )  # fmt: skip


def _touch() -> Iterable[FindingKind]:
    yield FindingKind(
        code="cut_short", criterion=LENGTH,
        teacher=gettext_noop("Notes are cut short: typically they sound for {percent}% of their length."),
        student=gettext_noop("Your notes end too soon. Keep each key down until the next one plays."),
    )  # fmt: skip
    yield FindingKind(
        code="held_long", criterion=LENGTH,
        teacher=gettext_noop("Notes run into each other: typically they sound for {percent}% of their length."),
        student=gettext_noop("Your notes run into each other. Let a key go when the next one plays."),
    )  # fmt: skip
    yield FindingKind(
        code="last_note_short", criterion=LENGTH, tone=Tone.FACT,
        teacher=gettext_noop("The last note is let go after {percent}% of its length."),
        student=gettext_noop("Hold the last note to its end: count it out."),
    )  # fmt: skip
    yield FindingKind(
        code="accents_flat", criterion=DYNAMICS,
        teacher=gettext_noop("Accents are flat: {played} steps of velocity where {written} are written."),
        student=gettext_noop("All notes are about as loud as each other. Make the accented ones stand out, and the others smaller."),
    )  # fmt: skip
    yield FindingKind(
        code="accents_inverted", criterion=DYNAMICS,
        teacher=gettext_noop("Accents fall on the wrong notes: {played} steps of velocity where {written} are written."),
        student=gettext_noop("The loud notes are soft and the soft ones loud. Play only the accents first, then fill in."),
    )  # fmt: skip
    yield FindingKind(
        code="uneven", criterion=DYNAMICS, tone=Tone.FACT,
        teacher=gettext_noop("Uneven touch: notes written alike differ by {size} steps of velocity."),
        student=gettext_noop("Notes that should be alike come out loud and soft. Play slowly and listen for one even line."),
    )  # fmt: skip
    yield FindingKind(
        code="ramp_flat", criterion=DYNAMICS,
        teacher=gettext_noop("The crescendo in {bars} does not rise: {played} steps a beat, {written} written."),
        student=gettext_noop("From bar {first} to {last} it should grow. Begin softer than you think, so that there is room."),
    )  # fmt: skip
    yield FindingKind(
        code="ramp_flat_down", criterion=DYNAMICS,
        teacher=gettext_noop("The diminuendo in {bars} does not fall: {played} steps a beat, {written} written."),
        student=gettext_noop("From bar {first} to {last} it should get softer. Begin louder, so that there is room to come down."),
    )  # fmt: skip
    for code, teacher, student in (
        ("all_louder", gettext_noop("Everything is louder than written, by {size} steps of velocity."),
         gettext_noop("You play everything louder than it is written. Begin softly enough that you can still grow.")),
        ("all_softer", gettext_noop("Everything is softer than written, by {size} steps of velocity."),
         gettext_noop("You play everything softer than it is written. Play each note with a little more weight.")),
        ("hand_loud", gettext_noop("The {hand} hand is too loud against the other, by {size} steps of velocity."),
         gettext_noop("Your {hand} hand covers the other. Play it as if from the next room, and listen to the other.")),
        ("finger_loud", gettext_noop("Finger {finger} of the {hand} hand is too loud, by {size} steps of velocity."),
         gettext_noop("Finger {finger} of your {hand} hand is heavier than the others. Play slowly and let it fall, not push.")),
    ):  # fmt: skip
        yield FindingKind(code=code, criterion=DYNAMICS, tone=Tone.FACT, teacher=teacher, student=student)
    yield FindingKind(
        code="lane_loud", criterion=DYNAMICS, tone=Tone.FACT, alone=True,
        teacher=gettext_noop("The {lane} is too loud against the rest, by {size} steps of velocity."),
        student=gettext_noop("Your {lane} covers the rest. Play it from lower down, with less stick."),
        student_on={
            PlayedOn.KEYS: gettext_noop("Your {lane} covers the rest. Press its key more gently."),
            PlayedOn.TYPING: gettext_noop("Your {lane} covers the rest. Play it more softly."),
            PlayedOn.SCREEN: gettext_noop("Your {lane} covers the rest. Tap it closer to its edge, where it is softer."),
        },
    )  # fmt: skip


def _pedal() -> Iterable[FindingKind]:
    yield FindingKind(
        code="pedal_blurred", criterion=PEDAL,
        teacher=ngettext_lazy(
            "The pedal is not changed at {count} of {of} places: the harmonies blur.",
            "The pedal is not changed at {count} of {of} places: the harmonies blur.", by="of"),
        student=ngettext_lazy(
            "Your pedal stays down at {count} of {of} places, so the old chord sounds into the new one. Lift it as the new chord sounds, then press it again.",
            "Your pedal stays down at {count} of {of} places, so the old chord sounds into the new one. Lift it as the new chord sounds, then press it again.", by="of"),
    )  # fmt: skip
    yield FindingKind(
        code="pedal_dry", criterion=PEDAL,
        teacher=gettext_noop("No pedal at {count} of {of} places where it is written."),
        student=gettext_noop("The pedal is missing at {count} of {of} places. Practise the left hand and the foot alone."),
    )  # fmt: skip
    yield FindingKind(
        code="pedal_late", criterion=PEDAL, hue=Hue.LATE,
        teacher=gettext_noop("The pedal is changed {size} ms after the sound."),
        student=gettext_noop("Your foot comes a little after the chord. Lift the pedal at the moment the keys go down."),
    )  # fmt: skip
    yield FindingKind(
        code="pedal_early", criterion=PEDAL, hue=Hue.EARLY,
        teacher=gettext_noop("The pedal is changed {size} ms before the sound, and leaves a gap."),
        student=gettext_noop("Your foot moves a little before the chord and leaves a gap. Wait until the new chord sounds."),
    )  # fmt: skip


def _whose_hand() -> Iterable[FindingKind]:
    yield FindingKind(
        code="looks_quantised", tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("Every onset is on the grid to the millisecond: this looks quantised."),
        student=gettext_noop("Every note is exactly on the grid. Hand in a take as you played it."),
    )  # fmt: skip
    yield FindingKind(
        code="same_recording", tone=Tone.FACT, share=None, is_flagged=True,
        teacher=gettext_noop("The same recording as {who}: every onset agrees to the millisecond."),
        student=gettext_noop("This take has exactly the same notes and timing as another one. Hand in a take of your own playing."),
    )  # fmt: skip


def _praise() -> Iterable[FindingKind]:
    for code, teacher, student in (
        ("well_in_time", gettext_noop("All {of} notes in time, steady to {spread} ms."),
         gettext_noop("Every note is in time.")),
        ("mostly_in_time", gettext_noop("{count} of {of} notes in time."), gettext_noop("{count} of {of} notes are in time.")),
        ("well_in_own_time", gettext_noop("All {of} notes steady at the player’s own tempo, {bpm} (±{spread} ms)."),
         gettext_noop("You kept a steady tempo of your own, {bpm}, all the way through (±{spread} ms).")),
        ("mostly_in_own_time", gettext_noop("{count} of {of} notes steady at the player’s own tempo, {bpm}."),
         gettext_noop("{count} of {of} notes are steady at your own tempo, {bpm}.")),
        ("well_notes", gettext_noop("All {of} notes right."), gettext_noop("All {of} notes are right.")),
        ("mostly_notes", gettext_noop("{count} of {of} notes right."), gettext_noop("{count} of {of} notes are right.")),
        ("well_accents", gettext_noop("Accents are where they are written."),
         gettext_noop("Your accents are where they are written.")),
        ("well_bars", gettext_noop("Without a fault: {bars}."), gettext_noop("Just as they should be: {bars}.")),
        ("improved_notes", gettext_noop("{count} more notes right than in the take before: {now} of {of}, {before} then."),
         gettext_noop("{count} more notes are right than last time: {now} of {of}.")),
        ("improved_notes_thrice", gettext_noop("More notes right in each of three takes: {start}, {before}, now {now} of {of}."),
         gettext_noop("From take to take more notes are right: {start}, {before}, now {now} of {of}.")),
        ("improved_flow", gettext_noop("Fewer stops: {now} slips, {before} last time."),
         gettext_noop("You kept going where you had stopped last time.")),
        ("improved_steadiness",
         gettext_noop("Steadier than in the take before: {before} to {now} ms; a change within ±{noise} is normal variation."),
         gettext_noop("Your beat is steadier than last time: {now} ms instead of {before}.")),
        ("improved_lead",
         gettext_noop("Nearer to the click than in the take before: {before} to {now} ms off; a change within ±{noise} is normal variation."),
         gettext_noop("You are nearer to the click than last time: {now} ms off instead of {before}.")),
    ):  # fmt: skip
        yield FindingKind(code=code, tone=Tone.PRAISE, share=None, teacher=teacher, student=student)


TABLE: dict[str, FindingKind] = {
    kind.code: kind
    for kind in (*_notes(), *free_kinds(), *time_kinds(), *own_time_kinds(), *_touch(), *_pedal(), *_whose_hand(), *_praise())
}  # fmt: skip
UNKNOWN = FindingKind(code="unknown", tone=Tone.FACT, share=None, teacher=EMPTY, student=EMPTY)
"""Of a code that a later version has given up."""


def kind_of(code: str) -> FindingKind:
    """Return everything that depends on a code; for an unknown code, what holds for any."""
    return TABLE.get(code, UNKNOWN)
