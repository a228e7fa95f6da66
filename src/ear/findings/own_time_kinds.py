"""Rows of the table of ear notes that tell of the player's own time: jumps, repeats, a tempo that moves."""

from collections.abc import Iterable

from ear.criteria import CriterionName
from ear.findings.kind import EASY, FULL, SLOW, FindingKind, Hue, Tone
from ear.text import gettext_noop, ngettext_lazy

TIMING, FLOW = CriterionName.TIMING, CriterionName.FLOW


def own_time_kinds() -> Iterable[FindingKind]:
    """Yield the rows of the table for slips, forms and tempos."""
    yield from _slips()
    yield from _forms()
    yield from _tempo()


def _slips() -> Iterable[FindingKind]:
    yield FindingKind(
        code="late_start", criterion=FLOW, hue=Hue.LATE, share=FULL,
        teacher=ngettext_lazy("Starts {beats} beat late, then keeps time.", "Starts {beats} beats late, then keeps time.", by="number"),
        student=ngettext_lazy(
            "You came in {beats} beat late. Count aloud until it begins: the first note is on “one”.",
            "You came in {beats} beats late. Count aloud until it begins: the first note is on “one”.", by="number"),
    )  # fmt: skip
    yield FindingKind(
        code="early_start", criterion=FLOW, hue=Hue.EARLY, share=FULL,
        teacher=ngettext_lazy("Starts {beats} beat early, then keeps time.", "Starts {beats} beats early, then keeps time.", by="number"),
        student=ngettext_lazy("You came in {beats} beat early. Count the beats aloud until you come in.",
                      "You came in {beats} beats early. Count the beats aloud until you come in.", by="number"),
    )  # fmt: skip
    yield FindingKind(
        code="slip", criterion=FLOW, hue=Hue.LATE, share=SLOW, joins=True,
        teacher=ngettext_lazy("Hesitates before {where}; from there on {beats} beat later.",
                      "Hesitates before {where}; from there on {beats} beats later.", by="number"),
        student=gettext_noop("You hesitated before {where}. Practise the move into it slowly, then with the bar before."),
    )  # fmt: skip
    yield FindingKind(
        code="recovery", criterion=FLOW, share=EASY,
        teacher=ngettext_lazy("Comes back to the click at {where}, {beats} beat caught up.",
                      "Comes back to the click at {where}, {beats} beats caught up.", by="number"),
        student=gettext_noop("At {where} you got back with the click. Well done."),
    )  # fmt: skip
    yield FindingKind(
        code="restart", criterion=FLOW, hue=Hue.LATE, share=SLOW, joins=True, is_flagged=True,
        teacher=gettext_noop("Breaks off and starts again from {where}."),
        student=gettext_noop("You went back to {where}. When something goes wrong, keep counting and join in again."),
    )  # fmt: skip
    yield FindingKind(
        code="skip", criterion=FLOW, share=SLOW, joins=True,
        teacher=ngettext_lazy("Skips {beats} beat before {where}.{guess}", "Skips {beats} beats before {where}.{guess}", by="number"),
        student=ngettext_lazy("You jumped to {where} and skipped {beats} beat. Read ahead to where the line goes on.",
                      "You jumped to {where} and skipped {beats} beats. Read ahead to where the line goes on.", by="number"),
    )  # fmt: skip
    yield FindingKind(
        code="skip_bar", criterion=FLOW, share=SLOW, joins=True,
        teacher=ngettext_lazy("Skips the music before {where} ({beats} beat).{guess}", "Skips the music before {where} ({beats} beats).{guess}", by="number"),
        student=gettext_noop("You jumped to {where}. Play the bar before it, then the join, until it feels like one line."),
    )  # fmt: skip


def _forms() -> Iterable[FindingKind]:
    yield FindingKind(
        code="repeat_left_out", criterion=FLOW, tone=Tone.FACT, share=None,
        teacher=gettext_noop("Leaves the repeat out: goes on at {where}, {beats} beats sooner."),
        student=gettext_noop("You left the repeat out and went on at {where}. Look for the repeat sign before you begin."),
    )  # fmt: skip
    yield FindingKind(
        code="repeat_added", criterion=FLOW, tone=Tone.FACT, share=None,
        teacher=gettext_noop("Plays from {where} on once more, {beats} beats that are not written twice."),
        student=gettext_noop("You played from {where} on a second time. Here the music goes straight on."),
    )  # fmt: skip


def _tempo() -> Iterable[FindingKind]:
    for code, hue, share, teacher, student in (
        ("slows_end", Hue.LATE, EASY, gettext_noop("Slows into the end, from {tempo_first} to {tempo_last} in {bars}."),
         gettext_noop("You slowed down into the end, from {tempo_first} to {tempo_last}. Count the last bars at the tempo of the ones before.")),
        ("hurries_end", Hue.EARLY, EASY, gettext_noop("Gets faster into the end, from {tempo_first} to {tempo_last} in {bars}."),
         gettext_noop("You got faster into the end, from {tempo_first} to {tempo_last}. Play the last bars as calmly as the first.")),
        ("slows_bars", Hue.LATE, EASY, gettext_noop("Slows down in {bars}, from {tempo_first} to {tempo_last}."),
         gettext_noop("You slowed down in {bars}, from {tempo_first} to {tempo_last}. Play them by themselves at an even tempo, then with the bars before.")),
        ("hurries_bars", Hue.EARLY, EASY, gettext_noop("Gets faster in {bars}, from {tempo_first} to {tempo_last}."),
         gettext_noop("You got faster in {bars}, from {tempo_first} to {tempo_last}. Count aloud through them.")),
        ("slower_bars", Hue.LATE, SLOW, gettext_noop("Slower in {bars}: {tempo_last}, and {tempo_first} around them."),
         gettext_noop("You were slower in {bars}. Practise them alone until they go at {tempo_first} like the rest.")),
        ("faster_bars", Hue.EARLY, EASY, gettext_noop("Faster in {bars}: {tempo_last}, and {tempo_first} around them."),
         gettext_noop("You were faster in {bars}. Count aloud through them at {tempo_first}.")),
        ("slower_from", Hue.LATE, EASY, gettext_noop("Slower from bar {first} onwards: {tempo_last} instead of {tempo_first}."),
         gettext_noop("From bar {first} on you were slower, {tempo_last} and not {tempo_first}. Play the bar before it and go on counting.")),
        ("faster_from", Hue.EARLY, EASY, gettext_noop("From bar {first} on faster, at {tempo_last}; before that at {tempo_first}."),
         gettext_noop("From bar {first} on you were faster, {tempo_last} and not {tempo_first}. Play the bar before it and go on counting.")),
        ("tempo_moves", Hue.PLAIN, FULL, gettext_noop("The tempo moves, between {tempo_first} and {tempo_last}; its notes are measured against that."),
         gettext_noop("Your tempo moves between {tempo_first} and {tempo_last}. Tap the beat with your foot and stay with it.")),
    ):  # fmt: skip
        yield FindingKind(
            code=code, criterion=TIMING, tone=Tone.FACT, hue=hue, share=share, teacher=teacher, student=student
        )  # fmt: skip
    yield FindingKind(
        code="slower_lost", criterion=TIMING, tone=Tone.FACT, hue=Hue.LATE, share=SLOW,
        teacher=ngettext_lazy("Slower in {bars}, {tempo_last} instead of {tempo_first}, where {count} note is missed or wrong.",
                      "Slower in {bars}, {tempo_last} instead of {tempo_first}, where {count} notes are missed or wrong."),
        student=gettext_noop("In {bars} you slowed down and lost notes. Find them first without minding the time, then play them slowly in time."),
    )  # fmt: skip
