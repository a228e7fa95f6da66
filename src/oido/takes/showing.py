"""What a take's copy shows of what its exercise asks."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, ngettext

from ear.facts.facts import Facts
from ear.matching.outcome import Outcome
from ear.notes import Part
from ear.notes import Take as EarTake
from ear.practice.rules import RecordingRules
from ear.practice.showing import Showing, Shown, Skill
from ear.recording.corrected import place_in_copy
from ear.recording.shown import Place, seen
from oido.exercises.showing import skill_name, words_of
from oido.takes.copies import raw_and_copy, were_bars_changed
from oido.takes.judging import judged
from oido.takes.models import Take

NO_ANSWERS: Mapping[Skill, str] = {}


def showing_of(
    take: Take, rules: RecordingRules, *, explanations: Mapping[Skill, str] = NO_ANSWERS
) -> Showing | None:
    """Return what the copy shows now, with the notes about it, or None if nothing is to be shown."""
    if not rules.to_show:
        return None
    both = raw_and_copy(take)
    if both is None:
        things = tuple(Shown(asked=asked) for asked in rules.to_show)
    else:
        target, known = take.target(), judged(take)
        # What cannot be read now is measured again from the take's own page; until then no note is known to be wrong.
        wrong, extra = faults_in_copy(take.read(), target, known.facts) if known.is_readable else ({}, set())
        things = seen(
            *both, rules.to_show, written={n.onset_tick for n in target.notes}, wrong=wrong, extra=extra,
            may_repeat=were_bars_changed(take),
        )  # fmt: skip
    return Showing(
        percent=rules.shown_percent,
        things=tuple(replace(one, explanation=explanations.get(one.asked.skill, "")) for one in things),
    )


def faults_in_copy(played: EarTake, target: Part, facts: Facts) -> tuple[dict[Place, int], set[Place]]:
    """Return the wrong notes by their place in the copy, each with the written one, and the places of extra
    notes.
    """
    wrong, extra = {}, set()
    rows = facts.rows
    for written, number, outcome in zip(rows.target, rows.take, rows.outcome, strict=True):
        if number is None:
            continue
        place = place_in_copy(played.notes[number], target)
        if outcome is Outcome.WRONG_PITCH and written is not None:
            wrong[place] = target.notes[written].pitch
        elif written is None:
            extra.add(place)
    return wrong, extra


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowingLine:
    """One thing on a list: what it is called, what was found of it, in whose words it is explained."""

    shown: Shown
    name: str
    summary: str
    words: str


def lines_of(showing: Showing | None) -> list[ShowingLine]:
    if showing is None:
        return []
    return [
        ShowingLine(shown=one, name=skill_name(one), summary=_describe_shown(one), words=words_of(one.asked))
        for one in showing.things
    ]


def _describe_shown(shown: Shown) -> str:
    """“9 of 12 notes”: what was found of one thing."""
    n = shown.count
    if shown.asked.skill is Skill.REPEATED:
        return ngettext("%(n)d bar", "%(n)d bars", n) % {"n": n} if n else _("no bar")
    if shown.of is None:
        return ngettext("%(n)d note", "%(n)d notes", n) % {"n": n} if n else _("no note")
    if not shown.of:
        return str(NONE_THERE[shown.asked.skill])
    return _("%(n)d of %(of)d notes") % {"n": n, "of": shown.of}


NONE_THERE = {
    Skill.QUANTISED: gettext_lazy("nothing in this take needs quantising"),
    Skill.WRONG_NOTE: gettext_lazy("no wrong note in this take"),
    Skill.EXTRA_NOTE: gettext_lazy("no extra notes in this take"),
}
