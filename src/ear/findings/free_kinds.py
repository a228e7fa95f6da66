"""Ear notes of takes that have no written part: what `free_rules` finds."""

from collections.abc import Iterable

from ear.criteria import CriterionName
from ear.findings.kind import EASY, FULL, SLOW, FindingKind, Hue, Tone
from ear.text import gettext_noop, ngettext_lazy

NOTES, TIMING, FLOW = CriterionName.NOTES, CriterionName.TIMING, CriterionName.FLOW


def free_kinds() -> Iterable[FindingKind]:
    """Yield the rows of the table for free exercises."""
    yield FindingKind(
        code="outside_set", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One note outside those asked for: {what}, in {bars}.",
                      "{count} notes outside those asked for; the first: {what}, in bar {where}."),
        student=ngettext_lazy("{what} in bar {where} is not one of the notes allowed there. Say them aloud before you play.",
                      "{count} notes are not among those allowed; the first is {what} in bar {where}. Say them aloud before you play."),
    )  # fmt: skip
    yield FindingKind(
        code="outside_drum", criterion=NOTES, hue=Hue.WRONG, share=SLOW,
        teacher=ngettext_lazy("One stroke on a drum that is not asked for: {what}, in {bars}.",
                      "{count} strokes on drums that are not asked for; the first: {what}, in bar {where}."),
        student=ngettext_lazy("The {what} in bar {where} is not asked for here.",
                      "{count} strokes are on drums that are not asked for, first the {what} in bar {where}."),
    )  # fmt: skip
    yield FindingKind(
        code="bars_empty", criterion=FLOW, tone=Tone.FACT, share=FULL,
        teacher=ngettext_lazy("Nothing is played in bar {where}.", "Nothing is played in {count} bars, the first bar {where}."),
        student=ngettext_lazy("Bar {where} is empty. One note is enough to keep the music going.",
                      "{count} bars are empty, the first bar {where}. One note in each is enough to keep going."),
    )  # fmt: skip
    yield FindingKind(
        code="bars_thin", criterion=FLOW, tone=Tone.FACT, share=FULL,
        teacher=ngettext_lazy("Bar {where} has too few notes; the minimum is {asked}.",
                      "{count} bars have too few notes, the first of them bar {where}; the minimum is {asked}."),
        student=gettext_noop("Play {asked} notes or more in every bar; in bar {where} there were fewer."),
    )  # fmt: skip
    yield FindingKind(
        code="bars_full", criterion=FLOW, tone=Tone.FACT, share=FULL,
        teacher=ngettext_lazy("Bar {where} has too many notes; the maximum is {asked}.",
                      "{count} bars have too many notes, the first of them bar {where}; the maximum is {asked}."),
        student=gettext_noop("Play no more than {asked} notes in a bar; in bar {where} there were more. Leave room."),
    )  # fmt: skip
    yield FindingKind(
        code="other_division", criterion=TIMING, tone=Tone.FACT, share=EASY,
        teacher=ngettext_lazy("Plays {played} notes to the beat where {asked} is asked for.",
                      "Plays {played} notes to the beat where {asked} are asked for.", by="asked"),
        student=ngettext_lazy("You divided the beat into {played}; here it is {asked} note to the beat. Say it aloud first.",
                      "You divided the beat into {played}; here it is {asked} notes to the beat. Say it aloud first.", by="asked"),
    )  # fmt: skip
    yield FindingKind(
        code="not_repeated", criterion=FLOW, tone=Tone.FACT, share=EASY,
        teacher=gettext_noop("Every second bar should repeat the one before: {percent}% of it does."),
        student=gettext_noop("Every second bar should repeat the one before. Play less in the first, so that you can keep it in mind."),
    )  # fmt: skip
