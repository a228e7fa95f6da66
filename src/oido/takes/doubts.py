"""What may keep a take from being handed in, and what its recording makes doubtful, in words."""

from dataclasses import dataclass
from math import ceil, floor
from typing import Any

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.notes import Part
from ear.recording.click_mismatch import ClickDoubt, Doubt, click_doubts
from oido.assignments.student_terms import StudentTerms
from oido.common.readers import number
from oido.takes.judging import judged
from oido.takes.models import Take
from oido.takes.sizes import is_long

DOUBTS: dict[Doubt, tuple[Any, Any]] = {
    Doubt.OTHER_TEMPO: (
        _("Played at %(played)s while the click was at %(click)s."),
        _("Record again: listen to two bars of click, then move with it. Or set the tempo to what you can play."),
    ),
    Doubt.STARTED_LATE: (
        _("Came in %(played)s beats late."),
        _("Record again and count aloud until it begins: the first note is on “one”."),
    ),
    Doubt.STARTED_EARLY: (
        _("Came in %(played)s beats early."),
        _("Record again, and count aloud until you come in."),
    ),
    Doubt.COMPUTER_OFF: (
        _("Every note is off the click by the same small amount. A computer whose sound has not settled does this, not a "
          "player."),
        _("The mark ignores this offset. Record again; if it is still there, measure the latency under Input and latency."),
    ),
    Doubt.CLICK_OFF: (
        _("Recorded without the click (%(click)s), which this exercise asks for; played at %(played)s."),
        _("Record again: this exercise switches the click on for you."),
    ),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class DoubtText:
    """A doubt in words: what it is, with both figures, and how to mend it."""

    text: str
    mend: Promise


def submission_blocker(take: Take, student_terms: StudentTerms, *, part: Part) -> Any:
    """Return why a take cannot be handed in for a student_terms, in words; empty if it can. `part` is the take's."""
    rules, bpm = student_terms.rules, float(student_terms.exercise.tempo_bpm)
    if take.deleted_at is not None:
        return pgettext_lazy("state", "deleted")
    if not is_of_exercise(take, student_terms):
        return _("recorded for “%(title)s”") % {"title": take.exercise}
    if take.measure_after is not None and is_long(take):
        return _("still being measured")
    if not rules.allows_tempo(float(take.tempo_bpm), bpm=bpm):
        slowest, fastest = (fit(t) for fit, t in zip((ceil, floor), rules.tempo_range(bpm), strict=True))
        asked = _("%(a)s to %(b)s") % {"a": slowest, "b": fastest} if slowest < fastest else number(bpm)
        return _("at a practice tempo; hand in a take at %(tempo)s") % {"tempo": asked}
    if take.fifths is not None and not rules.allows_key(take.fifths, part):
        return _("in the wrong key")
    return ""


def is_of_exercise(take: Take, student_terms: StudentTerms) -> bool:
    """Return whether a take was recorded for the exercise that the student has now, and not for one that it replaces or
    that replaced it."""
    return take.part.exercise_id == student_terms.exercise.pk


def list_doubts(take: Take) -> list[DoubtText]:
    judgement = judged(take)
    if not judgement.is_readable:
        return []
    doubts = click_doubts(judgement.facts, heard_click=take.heard_click, asks_click=take.asks_click)
    return [_describe_doubt(doubt) for doubt in doubts]


def _describe_doubt(doubt: ClickDoubt) -> DoubtText:
    text, mend = DOUBTS[doubt.doubt]
    in_beats = doubt.doubt in (Doubt.STARTED_LATE, Doubt.STARTED_EARLY)
    played = number(float(f"{doubt.played:.2g}")) if in_beats else f"{abs(doubt.played):.0f}"
    figures = {"click": number(doubt.click), "played": played}
    return DoubtText(text=str(text) % figures, mend=mend)
