"""What a teacher has said of notes and bars, as a report tells it."""

from dataclasses import dataclass
from typing import Any, NamedTuple

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from ear.judging.settings import NoteOverride, Reason
from ear.note_place import NotePlace, PlaceKind
from ear.reader import Reader
from oido.reports.analysed_take import AnalysedTake
from oido.takes.overrides import get_overrides, place_of, reasons_of

OVERRIDE_LABELS: dict[NoteOverride, Any] = {
    NoteOverride.RIGHT: gettext_lazy("counts as right"), NoteOverride.NOT_COUNTED: gettext_lazy("does not count"),
}  # fmt: skip


class Decision(NamedTuple):
    """A decision on a note or its bar as a sentence, for the teacher and for the student."""

    teacher: Any
    student: Any


ON_NOTE = {
    NoteOverride.RIGHT: Decision(
        gettext_lazy("You decided that this note counts as right."),
        gettext_lazy("Your teacher decided that this note counts as right."),
    ),
    NoteOverride.NOT_COUNTED: Decision(
        gettext_lazy("You decided that this note does not count."),
        gettext_lazy("Your teacher decided that this note does not count."),
    ),
}
ON_BAR = {
    NoteOverride.RIGHT: Decision(
        gettext_lazy("You decided that this bar counts as right."),
        gettext_lazy("Your teacher decided that this bar counts as right."),
    ),
    NoteOverride.NOT_COUNTED: Decision(
        gettext_lazy("You decided that this bar does not count."),
        gettext_lazy("Your teacher decided that this bar does not count."),
    ),
}
REASONS: dict[Reason, Any] = {
    Reason.ORNAMENT: gettext_lazy("agreed ornament"), Reason.FINGERING: gettext_lazy("another fingering"),
    Reason.MISPRINT: gettext_lazy("misprint"), Reason.OTHER: gettext_lazy("another reason"),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class OverrideText:
    """One line: where, what is said, why, and whether it holds for the exercise."""

    place: NotePlace
    where: str
    effect: Any
    why: Any
    is_for_all: bool
    bar_again: int = 0
    """The bar that was measured again; 0 where something is said of how it counts."""
    slip: int | None = None
    """The first of the notes that a slip could land on, where it is said where it was."""


def override_choices(analysed: AnalysedTake, place: NotePlace, bar: int) -> dict[str, object]:
    """Return what a note card says and offers: the decision in force on the note or else on its bar, and what can be done."""
    known = get_overrides(analysed.take, analysed.facts)
    bar_place = NotePlace.bar(bar)
    on_bar = ON_BAR[known[bar_place]] if bar_place in known else None
    return {
        "place": place, "bar": bar_place, "decision": ON_NOTE[known[place]] if place in known else on_bar,
        "can_measure": analysed.take.part.free is None, "is_measured_again": bar in analysed.take.set_for_it.again,
    }  # fmt: skip


def list_overrides(analysed: AnalysedTake, reader: Reader) -> list[OverrideText]:
    """Return the overrides in order of bars."""
    take, facts = analysed.take, analysed.facts
    known, reasons = get_overrides(take, facts), reasons_of(take)
    own = take.set_for_it.overrides
    rows = [
        (
            bar,
            OverrideText(
                place=NotePlace.bar(bar),
                where=_("bar %(b)s") % {"b": bar},
                effect=_("measured again"),
                why="",
                is_for_all=False,
                bar_again=bar,
            ),
        )
        for bar in take.set_for_it.again
    ]
    for slip in facts.slips:
        if slip.is_told and slip.landed is not None:
            at = analysed.part.meters.position(analysed.part.notes[slip.landed].onset_tick)
            rows.append(
                (
                    at.bar,
                    OverrideText(
                        place=NotePlace.target(slip.landed), where=_("bar %(b)s") % {"b": at.bar},
                        effect=_("the slip was here"), why="", is_for_all=False, slip=slip.could_land[0],
                    ),
                )
            )  # fmt: skip
    for place, override in known.items():
        bar, where = _where(analysed, place)
        why = REASONS.get(reasons[place]) if place in reasons else ""
        rows.append(
            (
                bar,
                OverrideText(
                    place=place,
                    where=where,
                    effect=OVERRIDE_LABELS[override],
                    why=why,
                    is_for_all=place not in own,
                ),
            )
        )
    return [one for _bar, one in sorted(rows, key=lambda pair: (pair[0], pair[1].place))]


def _where(analysed: AnalysedTake, place: NotePlace) -> tuple[int, str]:
    number, part = place.number, analysed.part
    if place.kind is PlaceKind.BAR:
        return number, _("bar %(b)s") % {"b": number}
    if place.kind is PlaceKind.TARGET and number < len(part.notes):
        tick = part.notes[number].onset_tick
    elif number < len(analysed.played.notes):
        tick, _pitch = place_of(analysed.take, analysed.facts, number, part=part, played=analysed.played)
    else:
        tick = 0
    at = part.meters.position(max(0, tick))
    return at.bar, _("bar %(b)s, beat %(k)s") % {"b": at.bar, "k": at.beat}
