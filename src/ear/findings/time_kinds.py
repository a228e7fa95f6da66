"""Ear notes about time: what each says, and what it is worth practising."""

from collections.abc import Iterable

from ear.criteria import CriterionName
from ear.findings.kind import FULL, SLOW, FindingKind, Hue, PlayedOn, Tone
from ear.text import gettext_noop, ngettext_lazy

TIMING = CriterionName.TIMING


def time_kinds() -> Iterable[FindingKind]:
    """Yield the rows of the table for time: lead and lag, drift, places, hands, swing and steadiness."""
    yield FindingKind(
        code="lead", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY, share=FULL,
        teacher=gettext_noop("Constantly early by {size}{give} ms, all through."),
        student=gettext_noop("All your notes come a little before the click. Listen for the click and play with it. "
                   "If it felt right to you, measure the latency."),
    )  # fmt: skip
    yield FindingKind(
        code="lag", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE, share=FULL,
        teacher=gettext_noop("Constantly late by {size}{give} ms, all through."),
        student=gettext_noop("All your notes come a little after the click. Feel the beat coming and play with it. "
                   "If it felt right to you, measure the latency."),
    )  # fmt: skip
    yield FindingKind(
        code="rushing", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=gettext_noop("Rushes: {rate}{give} ms earlier with every bar, {bpm} against the click’s {click}."),
        student=gettext_noop("You speed up little by little. Count aloud, and give every beat its full time."),
    )  # fmt: skip
    yield FindingKind(
        code="dragging", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE,
        teacher=gettext_noop("Drags: {rate}{give} ms later with every bar, {bpm} against the click’s {click}."),
        student=gettext_noop("You slow down little by little. Count aloud and keep the beat going through long notes."),
    )  # fmt: skip
    yield FindingKind(
        code="own_tempo", criterion=TIMING, tone=Tone.FACT, share=FULL,
        teacher=gettext_noop("Played at {bpm}, not with the click at {click}; its notes are measured against the player’s own pulse, too."),
        student=gettext_noop("You played at {bpm} while the click was at {click}. Wait for two bars of click, move with it, then begin."),
    )  # fmt: skip
    yield FindingKind(
        code="slows", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE,
        teacher=gettext_noop("Slows evenly, from {tempo_first} to {tempo_last}; its notes are measured against that."),
        student=gettext_noop("You began at {tempo_first} and ended at {tempo_last}. Keep counting in your head at the tempo of your first bar."),
    )  # fmt: skip
    yield FindingKind(
        code="hurries", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=gettext_noop("Gets evenly faster, from {tempo_first} to {tempo_last}; its notes are measured against that."),
        student=gettext_noop("You began at {tempo_first} and ended at {tempo_last}. Start more slowly than you think you need to, and stay there."),
    )  # fmt: skip
    yield FindingKind(
        code="no_pulse", criterion=TIMING, tone=Tone.FACT, share=FULL,
        teacher=gettext_noop("No clear pulse: the notes fall almost at random."),
        student=gettext_noop("No steady beat can be heard. Tap your foot first, then let every note land on a tap."),
    )  # fmt: skip
    for code, hue, teacher, student, student_on in (
        ("lane_early", Hue.EARLY, gettext_noop("The {lane} is {size}{give} ms ahead of the rest, all through."),
         gettext_noop("Your {lane} comes ahead of the rest. Play it alone to a steady beat, then add the others."), {}),
        ("lane_late", Hue.LATE, gettext_noop("The {lane} is {size}{give} ms behind the rest, all through."),
         gettext_noop("Your {lane} comes behind the rest. Lift that stick or foot sooner; play it alone to a steady beat first."),
         {PlayedOn.KEYS: gettext_noop("Your {lane} comes behind the rest. Press its key a little sooner; play it alone to a steady beat first."),
          PlayedOn.TYPING: gettext_noop("Your {lane} comes behind the rest. Press its typing key a little sooner; play it alone to a steady beat first."),
          PlayedOn.SCREEN: gettext_noop("Your {lane} comes behind the rest. Tap it a little sooner; play it alone to a steady beat first.")}),
    ):  # fmt: skip
        yield FindingKind(
            code=code,
            criterion=TIMING,
            tone=Tone.FACT,
            hue=hue,
            alone=True,
            teacher=teacher,
            student=student,
            student_on=student_on,
        )
    yield FindingKind(
        code="place_early", criterion=TIMING, tone=Tone.FACT, hue=Hue.EARLY,
        teacher=ngettext_lazy("Early at one place in the bar, {place}: by {size}{give} ms.",
                              "Early at one place in the bar, {place}: by {size}{give} ms, {count} times out of {of}.", by="of"),
        student=ngettext_lazy("At one place in the bar you come early: {place}. Say it aloud while you play and wait for it.",
                              "At one place in the bar you come early, {count} times out of {of}: {place}. Say it aloud while you play and wait for it.", by="of"),
        of_lane=(
            ngettext_lazy("The {lane} is early at one place in the bar, {place}: by {size}{give} ms.",
                          "The {lane} is early at one place in the bar, {place}: by {size}{give} ms, {count} times out of {of}.", by="of"),
            ngettext_lazy("Your {lane} comes early at one place in the bar: {place}. Say it aloud while you play and wait for it.",
                          "Your {lane} comes early at one place in the bar, {count} times out of {of}: {place}. Say it aloud while you play and wait for it.", by="of"),
        ),
    )  # fmt: skip
    yield FindingKind(
        code="place_late", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE,
        teacher=ngettext_lazy("Late at one place in the bar, {place}: by {size}{give} ms.",
                              "Late at one place in the bar, {place}: by {size}{give} ms, {count} times out of {of}.", by="of"),
        student=ngettext_lazy("At one place in the bar you come late: {place}. Get ready for it sooner.",
                              "At one place in the bar you come late, {count} times out of {of}: {place}. Get ready for it sooner.", by="of"),
        of_lane=(
            ngettext_lazy("The {lane} is late at one place in the bar, {place}: by {size}{give} ms.",
                          "The {lane} is late at one place in the bar, {place}: by {size}{give} ms, {count} times out of {of}.", by="of"),
            ngettext_lazy("Your {lane} comes late at one place in the bar: {place}. Get ready for it sooner.",
                          "Your {lane} comes late at one place in the bar, {count} times out of {of}: {place}. Get ready for it sooner.", by="of"),
        ),
    )  # fmt: skip
    yield FindingKind(
        code="passage_early", criterion=TIMING, hue=Hue.EARLY,
        teacher=gettext_noop("Runs ahead in {bars}: typically {size} ms early, at worst {most}."),
        student=gettext_noop("In {bars} you run ahead of the click. Loop that place slowly and leave room."),
    )  # fmt: skip
    yield FindingKind(
        code="passage_late", criterion=TIMING, hue=Hue.LATE, share=SLOW,
        teacher=gettext_noop("Falls behind in {bars}: typically {size} ms late, at worst {most}."),
        student=gettext_noop("In {bars} you fall behind the click. Loop that passage slowly until your hands know it."),
    )  # fmt: skip
    for code, teacher, student in (
        ("swing_straight", gettext_noop("Swing too straight: {played} to 1 where {written} to 1 is written."),
         gettext_noop("Your off-beats come too soon: let the first note of each pair be the longer one.")),
        ("swing_deep", gettext_noop("Swing too deep: {played} to 1 where {written} to 1 is written."),
         gettext_noop("Your off-beats come too late: the short note is clipped. Think in three.")),
        ("swung", gettext_noop("Swings where straight is written: {played} to 1."),
         gettext_noop("Your pairs are a little uneven. Make both notes of each pair the same length.")),
    ):  # fmt: skip
        yield FindingKind(code=code, criterion=TIMING, tone=Tone.FACT, teacher=teacher, student=student)
    yield FindingKind(
        code="hand_late", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE, alone=True,
        teacher=gettext_noop("The {late} hand comes {size}{give} ms after the {other}."),
        student=gettext_noop("Your {late} hand comes after your {other}. Tap both hands on your knees together, then play."),
    )  # fmt: skip
    yield FindingKind(
        code="hand_unsteady", criterion=TIMING, tone=Tone.FACT, alone=True,
        teacher=gettext_noop("The {hand} hand is unsteady: it scatters by {size} ms, the other by {most}."),
        student=gettext_noop("Your {hand} hand is less sure of the beat than the other. Play it alone to a steady beat until it sits."),
    )  # fmt: skip
    yield FindingKind(
        code="rolled_chords", criterion=TIMING,
        teacher=gettext_noop("Chords are rolled: {size} ms from first note to last."),
        student=gettext_noop("The notes of your chords come one after the other. Shape the hand above the keys, then let it fall as one."),
        student_on={
            PlayedOn.TYPING: gettext_noop("The notes of your chords come one after the other. Rest your fingers on all the keys first, then press them together."),
            PlayedOn.SCREEN: gettext_noop("The notes of your chords come one after the other. Hold your fingers over all the keys first, then tap them together."),
        },
    )  # fmt: skip
    yield FindingKind(
        code="unsteady", criterion=TIMING, is_overall=True,
        teacher=gettext_noop("Unsteady: notes scatter by {size} ms about the player’s own beat."),
        student=gettext_noop("Your beat is a bit uneven. Play it slower, to a steady beat, until it feels easy. Then play it a little faster."),
    )  # fmt: skip
